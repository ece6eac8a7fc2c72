// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/visit/visit.h"

#include <map>

/// Inside the visit: event kinds as rows. The shared ones are in visit.cpp, each method adds its own.
namespace fusain::bench {

/// When an event is refused, and what it does.
struct Kind {
    std::optional<Message> (*refuse)(const Visit&, const Event&);
    void (*apply)(Visit&, const Event&);
};
using Kinds = std::map<std::string, Kind>;

void add_tank_kinds(Kinds& table);
void add_chamber_kinds(Kinds& table);

inline Message not_now(const std::string& text) { return {"not_now", Level::error, "", text}; }
std::optional<Message> needs_open(const Visit& v, const Event& e);
std::optional<Message> needs_running(const Visit& v, const Event& e);
std::optional<Message> check_number(const Json& body, const char* key, const char* field);
template <const auto& key, const auto& field>
std::optional<Message> needs_number(const Visit& v, const Event& e)
{
    if (auto m = needs_open(v, e)) return m;
    return check_number(e.body, key, field);
}

MethodRow tank_row();
MethodRow chamber_row();
inline Outcome<densitometry::Result> no_result(const char* why)
{
    return Outcome<densitometry::Result>::refuse(not_now(why));
}

/// What a reading of the chamber must hold.
std::optional<Message> refuse_chamber_reading(const Visit& v, const Trial& running, const Event& e);
void take_chamber_reading(Trial& t, const Event& e);

} // namespace fusain::bench
