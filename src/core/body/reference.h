// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/person.h"

#include <optional>
#include <string>
#include <string_view>
#include <vector>

/// Named reference ranges of percent fat. The rows are data (data/reference_ranges.json); the reading of them is here.
namespace fusain::reference {

struct Row {
    Sex sex = Sex::female;
    double age_from_y = 0, age_below_y = 0;
    double low = 0, high = 0; ///< % fat
    std::string label;        ///< e.g. "women of 20 to 39"
};

struct RangeSet {
    std::string id;
    std::string title;
    std::string source;
    std::vector<Row> rows;
};

/// Where a value lies in the range for a person.
struct Place {
    Row row;
    enum class Where { below, lower_edge, middle, upper_edge, above } where = Where::middle;
    std::string sentence; ///< "inside the range for women of 20 to 39 (21 to 33 %), near its lower edge"
};

const RangeSet* find(const std::vector<RangeSet>& sets, std::string_view id);

/// Given: the set, the person and percent fat. Returned: nothing when the set has no row for the person (said, not
/// guessed).
std::optional<Place> place(const RangeSet& set, Sex sex, double age_y, double fat_percent);

} // namespace fusain::reference
