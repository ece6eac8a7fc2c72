// SPDX-License-Identifier: GPL-3.0-or-later
// The tape's row in the core, and its block of the calculation interface.
#include "tape.h"

#include "cli/batch/block.h"

namespace fusain::method {
static constexpr const char* others[] = {"trunk tape", "tape of the trunk"};

constexpr MethodRow trunk_tape = {.word = "trunk_tape",
    .title = "tape of the trunk",
    .term = "trunk tape",
    .place = "tape",
    .other = others,
    .order = 4,
    .wet = 0,
    .licence = false,
    .rated = false,
    .by_height = false,
    .retest = {42, 56},
    .reads = Reads::density,
    .elsewhere_error = 4.5,
    .repeats_within = 1.5};
} // namespace fusain::method

namespace fusain::cli {

RecordBlock tape_block()
{
    return {"trunk_tape", [](const Asked&, const simdjson::dom::object& block, Answer& answer, Detail) -> Computed {
                static constexpr std::string_view fields[] = {"girth_cm"};
                Fields read(block, "trunk_tape.", fields, answer);
                Result r;
                r.values = {{&quantity::fat_percent, read.number("girth_cm") / 4, 1, 0}};
                return r;
            }};
}

} // namespace fusain::cli
