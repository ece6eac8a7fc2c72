// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/person.h"

#include <optional>
#include <span>
#include <string>
#include <string_view>

/// Named reference ranges of percent fat.
namespace fusain::reference {

struct Row {
    Sex sex = Sex::female;
    double age_from_y = 0, age_below_y = 0;
    double low = 0, high = 0; ///< % fat
    const char* label = "";   ///< e.g. "women of 20 to 39"
    double middle() const { return (low + high) / 2; }
};

struct RangeSet {
    const char* id;
    const char* title;
    const char* source;
    std::span<const Row> rows;
    /// Null where the set has none for the person.
    const Row* row(Sex sex, double age_y) const;
    /// That row, or the one of the nearest age.
    const Row& nearest(Sex sex, double age_y) const;
};
/// Every set; the first is the default.
std::span<const RangeSet> sets();
const RangeSet* find(std::string_view id);

/// Where a value lies in the range for a person.
struct Place {
    Row row;
    enum class Where { below, lower_edge, middle, upper_edge, above } where = Where::middle;
    std::string sentence; ///< "inside the range for women of 20 to 39 (21 to 33 %), near its lower edge"
};

/// Given: the set, the person and percent fat. Returned: nothing when the set has no row for the person (said, not
/// guessed).
std::optional<Place> place(const RangeSet& set, Sex sex, double age_y, double fat_percent);

} // namespace fusain::reference
