// SPDX-License-Identifier: GPL-3.0-or-later
// The X-ray table, to be made ready.
#include "bench/checks/instrument_kind.h"
#include "bench/files/tissue_table.h"
#include "bench/xray/xray.h"

namespace fusain::bench {
namespace {

using Kind = CheckStep::Kind;

quality::Tolerance phantom_bmd(double value) { return quality::phantom(value, "g/cm²"); }

} // namespace

const InstrumentKind& xray_instrument()
{
    static const InstrumentKind row = {.id = "absorptiometry",
        .title = "X-ray table",
        .method = Method(method::absorptiometry),
        .reference_title = "phantom",
        .unit = "g/cm²",
        .reference = 1.1,
        .tolerance = phantom_bmd,
        .decimals = 4,
        .least_sd = 0.001,
        .duration_min = 15,
        .after_min = 5,
        .first_lead = {{"scan the phantom", 15}},
        .each_lead = {},
        .steps = {{Kind::confirm, "licence", "Only a person licensed for X-ray goes on", "Local rules decide who may."},
            {Kind::confirm, "clear", "Table clear, phantom on its marks, everybody out of the beam", ""},
            {Kind::read, "phantom", "Scan the phantom", "It must lie inside its limits and must not drift.", 0,
                Channel::phantom, "phantom"}},
        .check_title = "Scan the phantom",
        .ways = {"self_test"}, // of its own screen, which scans the phantom; a person is never scanned for a check

        .strict = true,
        .chart_forbids = true,
        .closing = {"Beam key out, and put away"},
        .profile = ProfileAsked{"tissue table", "tissue table, for its maps",
            [](const std::string& id) { return shipped_table(id) != nullptr; }, shipped_table_ids, "stand_in_table_1"}};
    return row;
}

} // namespace fusain::bench
