// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/density/density.h"

namespace fusain::density {
namespace {

constexpr Band same(double from, double below, Pair pair) { return {from, below, pair, pair}; }

constexpr Band siri[] = {same(18, 60, {4.95, 4.50})};
constexpr Band brozek[] = {same(18, 60, {4.570, 4.142})};
constexpr Band schutte[] = {same(18, 33, {4.374, 3.928})};
constexpr Band wagner[] = {same(19, 46, {4.858, 4.394})};
constexpr Band ortiz[] = {same(24, 80, {4.83, 4.37})};
constexpr Band lohman[] = {
    {7, 9, {5.38, 4.97}, {5.43, 5.03}},
    {9, 11, {5.30, 4.89}, {5.35, 4.95}},
    {11, 13, {5.23, 4.81}, {5.25, 4.84}},
    {13, 15, {5.07, 4.64}, {5.12, 4.69}},
    {15, 17, {5.03, 4.59}, {5.07, 4.64}},
    {17, 19, {4.98, 4.53}, {5.05, 4.62}},
};
constexpr Band older[] = {{60, 91, {4.97, 4.52}, {5.02, 4.57}}};
constexpr Band american_indian[] = {same(18, 61, {4.81, 4.34})};
constexpr Band hispanic[] = {same(20, 41, {4.87, 4.41})};
constexpr Band japanese[] = {{18, 49, {4.97, 4.52}, {4.76, 4.28}}};
constexpr Band endurance[] = {{18, 60, {5.03, 4.59}, {4.95, 4.50}}};
constexpr Band resistance[] = {{18, 60, {5.21, 4.78}, {4.97, 4.52}}};

constexpr const char* heyward = "Heyward & Wagner 2004, Applied Body Composition Assessment, 2nd ed.";

constexpr Conversion rows[] = {
    {"siri_1961", "Siri 1961", siri, false, true, true, true, error_mixed_kg_per_l,
        "adults, reference densities 0.900 / 1.100",
        "Siri 1961, in Techniques for Measuring Body Composition, Nat. Acad. Sci. 223–244"},
    {"brozek_1963", "Brozek 1963", brozek, false, true, true, true, error_mixed_kg_per_l, "adults, reference body",
        "Brožek et al. 1963, Ann NY Acad Sci 110:113–140"},
    {"schutte_1984", "Schutte 1984", schutte, false, true, false, false, error_group_kg_per_l, "Black men 18–32 y",
        "Schutte et al. 1984, J Appl Physiol 56:1647–1649"},
    {"wagner_heyward_2001", "Wagner & Heyward 2001", wagner, false, true, false, false, error_group_kg_per_l,
        "Black men 19–45 y, four-compartment criterion", "Wagner & Heyward 2001, J Appl Physiol 90:649–656"},
    {"ortiz_1992", "Ortiz 1992", ortiz, false, false, true, false, error_group_kg_per_l, "Black women 24–79 y",
        "Ortiz et al. 1992, Am J Clin Nutr 55:8–13"},
    {"lohman_1989", "Lohman 1989, by age", lohman, true, true, true, false, error_group_kg_per_l,
        "children 7–18 y, by age and sex", "Lohman 1989, Pediatr Exerc Sci 1:19–30"},
    {"heyward_wagner_2004_older", "Heyward & Wagner 2004, 60–90 y", older, false, true, true, false,
        error_group_kg_per_l, "adults 60–90 y", heyward},
    {"heyward_wagner_2004_american_indian", "Heyward & Wagner 2004, American Indian women", american_indian, false,
        false, true, false, error_group_kg_per_l, "American Indian women 18–60 y", heyward},
    {"heyward_wagner_2004_hispanic", "Heyward & Wagner 2004, Hispanic women", hispanic, false, false, true, false,
        error_group_kg_per_l, "Hispanic women 20–40 y", heyward},
    {"heyward_wagner_2004_japanese", "Heyward & Wagner 2004, Japanese adults", japanese, false, true, true, false,
        error_group_kg_per_l, "Japanese adults 18–48 y", heyward},
    {"heyward_wagner_2004_endurance", "Heyward & Wagner 2004, endurance-trained", endurance, false, true, true, false,
        error_group_kg_per_l, "endurance-trained adults", heyward},
    {"heyward_wagner_2004_resistance", "Heyward & Wagner 2004, resistance-trained", resistance, false, true, true,
        false, error_group_kg_per_l, "resistance-trained adults", heyward},
};

} // namespace

std::span<const Conversion> conversions() { return rows; }

const Conversion* find(std::string_view id)
{
    for (const Conversion& row : rows)
        if (id == row.id) return &row;
    return nullptr;
}

const Pair* Conversion::pair(Sex sex, double age_y) const
{
    for (const Band& band : bands) {
        const bool inside = age_y >= band.age_from_y && age_y < band.age_below_y;
        if (inside || !needs_band) return sex == Sex::male ? &band.male : &band.female;
    }
    return nullptr;
}

bool Conversion::covers(Sex sex, double age_y) const
{
    const bool sex_ok = sex == Sex::male ? for_male : for_female;
    return sex_ok && age_y >= bands.front().age_from_y && age_y < bands.back().age_below_y;
}

} // namespace fusain::density
