// SPDX-License-Identifier: GPL-3.0-or-later
// The chamber, to be made ready.
#include "bench/chamber/chamber.h"
#include "bench/checks/instrument_kind.h"

namespace fusain::bench {
namespace {

using Kind = CheckStep::Kind;

} // namespace

const InstrumentKind& chamber_instrument()
{
    static const InstrumentKind row = {.id = "air_displacement",
        .title = "chamber",
        .method = Method(method::air_displacement),
        .reference_title = "cylinder",
        .unit = "L",
        .reference = 50,
        .tolerance = quality::cylinder,
        .decimals = 3,
        .least_sd = 0.005,
        .duration_min = 10,
        .after_min = 0,
        .first_lead = {{"warm up", 30}},
        .each_lead = {{"calibrate, empty and with the cylinder", 5}},
        .steps = {{Kind::confirm, "room", "A quiet, steady room: no fans, no sun, doors closed",
                      "A slammed door moves the reading."},
            {Kind::confirm, "empty", "Chamber empty, door closed",
                "The empty reading is taken with the first of the five."},
            {Kind::read, "cylinder", "Cylinder in, five readings, the door opened in between",
                "The cylinder that belongs to this chamber. Carry it with two hands. Check its number against the "
                "chamber's.",
                0, Channel::cylinder, "cylinder"}},
        .check_title = "Check the chamber with its cylinder",
        .ways = {"person", "self_test", "none"},
        .closing = {"Chamber empty and dry, its door open"}};
    return row;
}

} // namespace fusain::bench
