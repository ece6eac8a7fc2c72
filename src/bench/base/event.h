// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"

#include <concepts>
#include <map>
#include <string>

/// Logs, and what their events say. An event's kind is a struct with `kind`, its word in the log; its fields are listed
/// once, in the file of its room that lists them (`…_events.cpp`, by bench/base/fields.h). Nobody else knows JSON.
namespace fusain::bench {

/// When an event was logged, as which, and by whom.
struct Stamp {
    long seq = 0;         ///< 1, 2, 3 … without gaps
    std::string at_utc{}; ///< ISO 8601 with milliseconds
    std::string who{};    ///< technician
};

/// One line of the log of a visit or of a check, as it is stored.
struct Event : Stamp {
    std::string kind{};
    std::string body = "{}"; ///< JSON
    template <class E>
    bool is() const
    {
        return kind == E::kind;
    }
};

template <class E>
concept Logged = requires
{
    {
        E::kind
        } -> std::convertible_to<std::string>;
};

/// What the struct says, as the log stores it.
template <class E>
std::string written(const E& what);
/// And back. Refusals: of a field, with its name, its value and what is allowed; `bad_event`: it is no such event.
template <class E>
Outcome<E> read(const std::string& body);

/// What it says; as the struct begins, where it cannot be read.
template <class E>
E said(const std::string& body)
{
    const auto it = read<E>(body);
    return it ? *it : E();
}

/// What somebody wants logged: an event that has no number, time and name yet.
struct Act {
    template <Logged E>
    Act(const E& what) : kind(E::kind), body(written(what))
    {
    }
    Act(std::string kind_of_it, std::string stored) : kind(std::move(kind_of_it)), body(std::move(stored)) {}
    std::string kind, body;
};
/// With its stamp.
Event logged(Stamp stamp, Act what);
/// Both say this: an event of several rooms. What `second` says counts.
std::string joined(const std::string& first, const std::string& second);
/// Whether a stored body is one at all.
bool is_body(const std::string& stored);
/// The elements of a JSON list, each as it stands; none where it is no list. And a list of such.
std::vector<std::string> elements(const std::string& list);
std::string list_of(const std::vector<std::string>& elements);
/// A table of texts or numbers by name, and back: what is no text is left out.
std::string table_of(const std::map<std::string, std::string>& texts);
std::string table_of(const std::map<std::string, int>& numbers);
std::map<std::string, std::string> texts_of(const std::string& table);

} // namespace fusain::bench
