// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/body/reference.h"

#include "core/base/limits.h"

namespace fusain::reference {

const RangeSet* find(const std::vector<RangeSet>& sets, std::string_view id)
{
    for (const RangeSet& set : sets)
        if (set.id == id) return &set;
    return nullptr;
}

std::optional<Place> place(const RangeSet& set, Sex sex, double age_y, double fat_percent)
{
    using Where = Place::Where;
    for (const Row& row : set.rows) {
        if (row.sex != sex || !(age_y >= row.age_from_y && age_y < row.age_below_y)) continue;
        const double share = (fat_percent - row.low) / (row.high - row.low);
        const Where where = share < 0     ? Where::below
                            : share > 1   ? Where::above
                            : share < 0.2 ? Where::lower_edge
                            : share > 0.8 ? Where::upper_edge
                                          : Where::middle;
        const std::string range =
            "the range for " + row.label + " (" + limits::plain(row.low) + " to " + limits::plain(row.high) + " %)";
        constexpr const char* before[] = {"below ", "inside ", "inside ", "inside ", "above "};
        constexpr const char* after[] = {"", ", near its lower edge", "", ", near its upper edge", ""};
        const int i = static_cast<int>(where);
        return Place{row, where, before[i] + range + after[i]};
    }
    return std::nullopt;
}

} // namespace fusain::reference
