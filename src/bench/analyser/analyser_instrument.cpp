// SPDX-License-Identifier: GPL-3.0-or-later
// The impedance analyser, to be made ready.
#include "bench/analyser/analyser.h"
#include "bench/checks/instrument_kind.h"
#include "bench/files/profile_file.h"

namespace fusain::bench {
namespace {

using Kind = CheckStep::Kind;

} // namespace

const InstrumentKind& analyser_instrument()
{
    static const InstrumentKind row = {.id = "impedance",
        .title = "impedance analyser",
        .method = Method(method::impedance),
        .reference_title = "reference resistor or network",
        .unit = "Ω",
        .reference = 500,
        .tolerance = quality::resistor,
        .decimals = 1,
        .least_sd = 0.2,
        .duration_min = 5,
        .after_min = 0,
        .first_lead = {{"switch on, nobody on the platform", 15}},
        .each_lead = {},
        .steps = {{Kind::confirm, "surface", "On a hard floor, level by the bubble",
                      "Carpet charges the client and the platform."},
            {Kind::confirm, "switch_on", "Switch on; nobody stands on or touches the platform",
                "Its zero is taken now."},
            {Kind::wait, "warm_up", "Warming up", "Two minutes at the least; leave it alone.", 2},
            {Kind::confirm, "wipe", "Wipe the electrodes", "Only the maker's approved wipes: other cleaners corrode."},
            {Kind::read, "right_arm", "Reference resistor (or network) on the right arm, three readings",
                "One channel after the other.", 0, Channel::r_right_arm, "resistor"},
            {Kind::read, "left_arm", "Now the left arm", "", 0, Channel::r_left_arm, "resistor"},
            {Kind::read, "trunk", "Now the trunk", "", 0, Channel::r_trunk, "resistor"},
            {Kind::read, "right_leg", "Now the right leg", "", 0, Channel::r_right_leg, "resistor"},
            {Kind::read, "left_leg", "Now the left leg", "", 0, Channel::r_left_leg, "resistor"}},
        .check_title = "Check the analyser with the reference resistor",
        .ways = {"person", "self_test", "none"},
        .usual_way = "person",
        .network = true,
        .closing = {"Wipe the electrodes", "Switch it off"},
        .profile = ProfileAsked{"instrument profile", "for lean by segment",
            [](const std::string& id) { return shipped_profile(id) != nullptr; }, shipped_profile_ids, "stand_in_1"}};
    return row;
}

} // namespace fusain::bench
