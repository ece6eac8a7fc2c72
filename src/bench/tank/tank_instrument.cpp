// SPDX-License-Identifier: GPL-3.0-or-later
// The tank, to be made ready.
#include "bench/checks/instrument_check.h"
#include "bench/tank/tank.h"

#include <cstdio>

namespace fusain::bench {
namespace {

using Kind = CheckStep::Kind;

/// A tank has no reference value of its own; its zero must be calm.
quality::Tolerance no_reference(double) { return {}; }

quality::CheckResult ready(const CheckRun& run)
{
    quality::CheckResult out;
    out.of = {1, run.zero_kg.value_or(0), 0, 0};
    out.passed = true;
    char words[160];
    std::snprintf(words, sizeof words, "Water %.1f °C, zero with chair and belt %.3f kg. Ready.",
        run.water_c.value_or(0), run.zero_kg.value_or(0));
    out.words = words;
    return out;
}

} // namespace

const InstrumentKind& tank_instrument()
{
    static const InstrumentKind row = {.id = "hydrostatic",
        .title = "tank",
        .method = Method(method::hydrostatic),
        .reference_title = "",
        .unit = "kg",
        .reference = 0,
        .tolerance = no_reference,
        .decimals = 3,
        .least_sd = 0.002,
        .duration_min = 40,
        .after_min = 10,
        .first_lead = {{"wipe with diluted bleach, leave it 15 min", 20}, {"rinse", 10},
            {"open the tap: fill, part of it hot only", 165}, {"hang the chair, zero with belt, read the water", 15}},
        .each_lead = {},
        .steps = {{Kind::confirm, "clean", "Wipe the tank with diluted bleach (1:10)",
                      "Gloves on, air the room, never mix it with another cleaner."},
            {Kind::wait, "act", "Leave the bleach", "Fifteen minutes; the time goes on when the program is closed.",
                15},
            {Kind::confirm, "rinse", "Rinse well, drain", "Until nothing smells any more."},
            {Kind::confirm, "tap", "Open the tap",
                "Part of the time hot water only, or it will be too cold to sit in."},
            {Kind::expect, "fill", "Filling", "Two and a half to three hours. Confirm when it is full.", 165},
            {Kind::confirm, "overflow", "Drain a few centimetres below the overflow", ""},
            {Kind::confirm, "chair", "Hang the chair now, switch the load cell on",
                "Only now: a hanging chair ages the load cell."},
            {Kind::water, "temperature", "Read the water", "In °C, the thermometer fully in."},
            {Kind::zero, "zero", "Chair and weight belt together, hands off: zero",
                "Take the belt off again afterwards."}},
        .check_title = "Make the tank ready",
        .usually_raw = true,
        .strict = true,
        .feeds = Channel::load_cell,
        .closing = {"Drain the tank, or cover it", "Unhang the chair: a hanging chair ages the load cell",
            "Unplug heater and pump"},
        .chart_words = "The zero of chair and belt, check by check.",
        .concluded = ready};
    return row;
}

} // namespace fusain::bench
