// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/person.h"

#include <span>
#include <string_view>

/// Body density → percent fat with two compartments.
namespace fusain::density {

/// Constants of %F = 100·(c1/D − c2).
struct Pair {
    double c1, c2;
};

/// Percent fat from body density (two compartments).
///
/// Given:    density_kg_per_l   body density, kg/L, 0.93 to 1.12
///           pair               constants of the chosen conversion
/// Returned: percent fat, % of body mass; outside 0–100 is possible for densities beyond the model's tissues
/// Source:   the row of the chosen conversion
template <class T>
T percent_fat(const T& density_kg_per_l, Pair pair)
{
    return T(100.0) * (T(pair.c1) / density_kg_per_l - T(pair.c2));
}

/// One line of constants: whom it holds for and the numbers.
struct Band {
    double age_from_y, age_below_y; ///< ages from (included) to (excluded)
    Pair male, female;
};

/// One conversion a person may choose.
struct Conversion {
    const char* id;
    const char* title;
    std::span<const Band> bands;
    bool needs_band;           ///< true: no constants exist outside its ages (an error); false: outside is a caution
    bool for_male, for_female; ///< the sexes it was made on; the other one is a caution
    /// Offered for every build: a note stands beside it for the very lean, very muscular and very obese
    bool any_build;
    double error_kg_per_l; ///< standard uncertainty of the conversion itself, as body density
    const char* made_on;
    const char* source;

    /// Constants for this person, or null when the conversion has none for the age.
    const Pair* pair(Sex sex, double age_y) const;
    /// True when the person belongs to the group by sex and age. Descent and training are for a person to judge.
    bool covers(Sex sex, double age_y) const;
};

/// SD of fat-free density in a mixed population, as body density: ≈ 3.7 % fat.
inline constexpr double error_mixed_kg_per_l = 0.0084;
/// The same in a homogeneous group: ≈ 2.7 % fat.
inline constexpr double error_group_kg_per_l = 0.0084 * 2.7 / 3.7;

std::span<const Conversion> conversions();
const Conversion* find(std::string_view id);
inline constexpr const char* default_id = "siri_1961";
inline constexpr const char* children_id = "lohman_1989"; ///< the default under 18, where it has constants for the age

} // namespace fusain::density
