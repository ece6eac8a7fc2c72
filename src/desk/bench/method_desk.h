// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/bench/drill_set.h"
#include "desk/bench/panels.h"

/// What a measuring method brings to the windows: one of these in its room, `<room>_desk()`.
namespace fusain::desk {

/// Something that can be chosen again at the result.
struct ChoiceList {
    const char* what; ///< as the log has it
    QString title;
    std::string now;                                      ///< id of what stands
    std::vector<std::pair<std::string, QString>> options; ///< id, words
};

struct MethodDesk {
    Panel* (*panel)(bench::Step step, work::Session& session);     ///< of its own steps
    QString (*value)(bench::Step step, const bench::Visit& visit); ///< what a step has brought, for the rail
    std::vector<bench::Step> summed;                               ///< steps beside which the sum so far stands
    bool (*heard)(const bench::Live& live);                        ///< its instrument
    QString (*status)(const bench::Live& live);                    ///< for the bar of the window
    std::vector<ChoiceList> (*choices)(const bench::Visit& visit);
    const Quantity* with_fat; ///< what stands under percent fat in the sum so far
    const char* weigh_title;  ///< of the step in which the client is weighed
    /// Why the mass cannot be read now; null: nothing is in the way
    const char* (*not_weighed_while)(const bench::Live& live);
    /// Sets up a drill at the bench, and says the step at which the trainee takes over; null: there is none by it
    bench::Step (*set_drill)(const DrillSet& set) = nullptr;
};
const MethodDesk& desk_of(const bench::Visit& visit);
const MethodDesk& desk_of(Method method); ///< of one that is measured here

/// Of an instrument that gives finished numbers, by whatever method.
const MethodDesk& printed_desk();

} // namespace fusain::desk
