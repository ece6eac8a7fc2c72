// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/body/reference.h"

#include "core/base/limits.h"

#include <cmath>

namespace fusain::reference {

namespace {

constexpr Row by_age[] = {
    {Sex::female, 20, 40, 21, 33, "women of 20 to 39"},
    {Sex::female, 40, 60, 23, 34, "women of 40 to 59"},
    {Sex::female, 60, 80, 24, 36, "women of 60 to 79"},
    {Sex::male, 20, 40, 8, 20, "men of 20 to 39"},
    {Sex::male, 40, 60, 11, 22, "men of 40 to 59"},
    {Sex::male, 60, 80, 13, 25, "men of 60 to 79"},
};
constexpr Row one_band[] = {
    {Sex::female, 18, 111, 18, 28, "women, one band"},
    {Sex::male, 18, 111, 10, 20, "men, one band"},
};
constexpr Row athletic[] = {
    {Sex::female, 18, 111, 14, 20, "women who train for sport"},
    {Sex::male, 18, 111, 6, 13, "men who train for sport"},
};
constexpr RangeSet all[] = {
    {"gallagher_2000", "Gallagher 2000, by age", "Gallagher et al. 2000, Am J Clin Nutr 72:694–701", by_age},
    {"one_band", "One band for adults", "common laboratory practice", one_band},
    {"athletic", "Athletic bands", "common laboratory practice, of people who train for sport", athletic},
};

} // namespace

std::span<const RangeSet> sets() { return all; }

const RangeSet* find(std::string_view id)
{
    for (const RangeSet& set : all)
        if (id == set.id) return &set;
    return nullptr;
}

const Row* RangeSet::row(Sex sex, double age_y) const
{
    for (const Row& r : rows)
        if (r.sex == sex && age_y >= r.age_from_y && age_y < r.age_below_y) return &r;
    return nullptr;
}

const Row& RangeSet::nearest(Sex sex, double age_y) const
{
    const Row* best = nullptr;
    double least = INFINITY;
    for (const Row& r : rows) {
        if (r.sex != sex) continue;
        const double away = age_y < r.age_from_y     ? r.age_from_y - age_y
                            : age_y >= r.age_below_y ? age_y - r.age_below_y + 1e-9
                                                     : 0;
        if (away < least) {
            least = away;
            best = &r;
        }
    }
    return *best;
}

std::optional<Place> place(const RangeSet& set, Sex sex, double age_y, double fat_percent)
{
    using Where = Place::Where;
    const Row* row = set.row(sex, age_y);
    if (!row) return std::nullopt;
    const double share = (fat_percent - row->low) / (row->high - row->low);
    const Where where = share < 0     ? Where::below
                        : share > 1   ? Where::above
                        : share < 0.2 ? Where::lower_edge
                        : share > 0.8 ? Where::upper_edge
                                      : Where::middle;
    const std::string range = std::string("the range for ") + row->label + " (" + limits::plain(row->low) + " to " +
                              limits::plain(row->high) + " %)";
    constexpr const char* before[] = {"below ", "inside ", "inside ", "inside ", "above "};
    constexpr const char* after[] = {"", ", near its lower edge", "", ", near its upper edge", ""};
    const int i = static_cast<int>(where);
    return Place{*row, where, before[i] + range + after[i]};
}

} // namespace fusain::reference
