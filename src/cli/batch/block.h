// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "cli/batch/fields.h"

namespace fusain::cli {

/// What a record must say of the person.
enum class Who { whole, mass_by_its_parts, nobody };

/// A block of a record that can be computed, and where the readings that count are named. A method's is `<room>_block`.
struct RecordBlock {
    std::string_view id;
    Computed (*compute)(const Asked&, const simdjson::dom::object& block, Answer& answer, Detail detail);
    const char* used = "";
    bool used_in_results = false;
    Who who = Who::whole;
};

/// Every block that can be computed: a method's in its own file, by the list of them; then what joins several.
const std::vector<RecordBlock>& blocks();
const std::vector<std::string_view>& block_names();

/// What joins several methods, advises, or is read without an instrument of its own.
std::vector<RecordBlock> joined_blocks();

} // namespace fusain::cli
