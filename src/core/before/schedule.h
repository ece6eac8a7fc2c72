// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/before/protocol.h"

#include <set>

/// Who is measured when: a search over start times, instruments and orders (docs/planning.md). Times are minutes since
/// 1970-01-01 00:00 UTC, so that midnight and summer time do not matter here.
namespace fusain::schedule {

using Minute = long;

/// [from, to)
struct Span {
    Minute from = 0, to = 0;
    bool overlaps(const Span& o) const { return from < o.to && o.from < to; }
    bool holds(const Span& o) const { return from <= o.from && o.to <= to; }
    Minute length() const { return to - from; }
};

/// One thing to be done before a client may be measured.
struct Lead {
    std::string words; ///< "open the tap"
    int minutes = 0;
};

struct Instrument {
    std::string id;   ///< serial number
    std::string name; ///< "Tank 1"
    Method method;
    std::vector<Span> open;       ///< when clients may be on it, a span a day
    std::vector<Lead> first_lead; ///< before the first client of the day, in order
    std::vector<Lead> each_lead;  ///< before every client, in order
    int duration_min = 10;        ///< client on the instrument
    int after_min = 0;            ///< to make it free again
    std::optional<Span> ready{};  ///< made ready already: tests within need no first lead
};
int minutes(const std::vector<Lead>& leads);

struct Person {
    std::string name;
    std::vector<Span> here;
    std::set<Method> licences; ///< methods that need a licence and that this person holds
};

/// One method of one visit, at a time.
struct Slot {
    long visit = 0, client = 0;
    Method method;
    std::string instrument; ///< id
    Span at;
};

struct Lab {
    std::vector<Instrument> instruments;
    std::vector<Person> staff;
    std::vector<Slot> tests;
    const Instrument* instrument(const std::string& id) const;
};

inline constexpr int change_min = 5; ///< between two methods of one visit: walk over, undress, dress
inline constexpr int grid_min = 5;

/// What is asked for.
struct Request {
    long client = 0;
    std::vector<Method> methods;
    Span window;                      ///< the visit lies within it
    std::optional<Minute> not_before; ///< the retest interval ends here
    Minute now = 0;                   ///< nothing can be started before it
    std::optional<int> usual_minute;  ///< usual time of the client's visits, minutes after local midnight
    /// Local midnight of each day of the window, in order; at least one (days are not all 24 h)
    std::vector<Minute> midnights;
    int max_wait_min = 45; ///< the client sits about for no longer than this in all
};

/// Constraints, each with its word. A request that cannot be met says which of them binds.
enum class Constraint { open_hours, instrument_free, lead_time, staff, licence, client_free, retest, waiting, window };
const char* title(Constraint constraint);

struct Proposal {
    std::vector<Slot> parts; ///< in order
    int wait_min = 0;
    /// What the search minimises: waiting, distance from the usual hour, lateness, instruments opened for this visit
    /// alone
    double cost = 0;
    std::string because; ///< "earliest", "no waiting", "same hour as last time"
};

struct Answer {
    std::vector<Proposal> proposals; ///< best first; starts at least half an hour apart
    /// When there is none: any one of these, given up, would open a way; two or more together when `together`
    std::vector<Constraint> binding;
    bool together = false;
    std::string sentence; ///< in words
};

/// Refusals: `missing_field` (no method, no day), `no_instrument`.
Outcome<Answer> propose(const Lab& lab, const Request& request, std::size_t wanted = 4);

/// A whole day at once: greedy by the most demanding first, then taken apart and put together again `rounds` times.
struct Plan {
    std::vector<std::optional<Proposal>> visits; ///< in the order of the requests
    int placed = 0, wait_min = 0;
};
Plan plan_day(const Lab& lab, const std::vector<Request>& requests, int rounds, unsigned seed = 1);

/// Two things that do not go together, in words. `visits` names those concerned.
struct Conflict {
    Constraint kind = Constraint::instrument_free;
    std::vector<long> visits;
    std::string words;
};
std::vector<Conflict> conflicts(const Lab& lab);

/// A lead as it falls on a day: what must be started by when.
struct Start {
    std::string instrument, words;
    Span at;
    long for_visit = 0;
    bool first = false; ///< before the first client of the day
};
/// Every lead of the tests in the lab, by time.
std::vector<Start> starts(const Lab& lab);

inline constexpr int never_under_days =
    14; ///< nothing is planned under two weeks: no method tells a change of so few days from its noise
/// The lab's retest interval (house rule `retest`); by method where the lab has not said otherwise.
RetestDays retest(Method method, const protocol::HouseRules& house);

} // namespace fusain::schedule
