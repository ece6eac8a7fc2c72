// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/before/schedule.h"

/// A crew that is measured one after the other, booked in one go.
namespace fusain::schedule {

struct Group {
    Method method;
    std::vector<long> clients{};            ///< in the order they come
    std::vector<std::string> instruments{}; ///< one or several, taken in turn
    Minute from = 0;
    int each_min = 10; ///< client on an instrument
};
inline constexpr int shortest_each_min = 5, longest_each_min = 240;

/// A place for each client: back to back on the instruments in turn, passing over what is booked already or closed.
///
/// Given:    lab with the tests of the days concerned; group
/// Returned: a slot a client, in order
/// Refused:  missing_field (nobody, no instrument) · out_of_range (minutes each, 5 to 240) · unknown_instrument ·
///           no_room (within the opening hours of that day, naming the first client without a place)
Outcome<std::vector<Slot>> line_up(const Lab& lab, const Group& group);

} // namespace fusain::schedule
