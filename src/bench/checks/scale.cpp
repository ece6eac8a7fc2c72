// SPDX-License-Identifier: GPL-3.0-or-later
// The scale, which every method uses.
#include "bench/checks/instrument_kind.h"

namespace fusain::bench {
namespace {

using Kind = CheckStep::Kind;

} // namespace

const InstrumentKind& scale_kind()
{
    static const InstrumentKind row = {.id = "scale",
        .title = "scale",
        .method = std::nullopt,
        .reference_title = "certified mass",
        .unit = "kg",
        .reference = 20,
        .tolerance = quality::scale_mass,
        .decimals = 2,
        .least_sd = 0.005,
        .duration_min = 2,
        .after_min = 0,
        .first_lead = {},
        .each_lead = {},
        .steps = {{Kind::confirm, "level", "Level the scale, nothing on it",
                      "Let it come to zero by itself. Nobody touches it."},
            {Kind::read, "mass", "Certified mass on, read, off; three times",
                "In the middle of the platform. Lift with both hands and straight knees. The repeats must agree "
                "with each other and with the mass.",
                0, Channel::scale, "reference_mass"}},
        .check_title = "Check the scale with the certified mass",
        .ways = {"self_test", "none"},
        .feeds = Channel::scale};
    return row;
}

} // namespace fusain::bench
