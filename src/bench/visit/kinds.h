// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/visit/visit.h"

#include <charconv>
#include <utility>

/// For the rooms of the methods: what rows of events are made of.
namespace fusain::bench {

inline Message not_now(const std::string& text) { return {"not_now", Level::error, "", text}; }
inline Outcome<Result> no_result(const char* why) { return Outcome<Result>::refuse(not_now(why)); }
/// The events that every visit understands.
const Kinds& shared_kinds();
/// What comes from a file keeps its name and the SHA-256 of its bytes.
[[nodiscard]] std::optional<Message> refuse_file(const event::OfFile& from);
/// A number that this event needs, though not every one of its kind.
[[nodiscard]] std::optional<Message> check_number(std::optional<double> value, const char* key, const char* limits);
/// Every step of the visit before this one is done; else which is not, after `words`.
[[nodiscard]] std::optional<Message> needs_steps_before(const Visit& v, Step step, const char* words);

/// A number that the house rules hold as the id of an option; `otherwise` where they do not.
inline double number_of_rule(const protocol::HouseRules& house, const char* rule, double otherwise)
{
    const auto at = house.find(rule);
    double value = 0;
    if (at == house.end()) return otherwise;
    const char* end = at->second.data() + at->second.size();
    return std::from_chars(at->second.data(), end, value).ptr == end && value > 0 ? value : otherwise;
}

/// What the house rules say of a school, when it is one that is known.
template <class Known>
void take_rule(const protocol::HouseRules& house, const char* rule, std::string& chosen, Known known)
{
    if (const auto at = house.find(rule); at != house.end() && known(at->second)) chosen = at->second;
}

} // namespace fusain::bench
