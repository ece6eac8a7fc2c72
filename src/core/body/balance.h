// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/person.h"
#include "core/base/result.h"

#include <optional>

/// Muscle and fat against each other: our own reading, in the plane of fat-free and fat mass index.
namespace fusain::balance {

enum class Kind { low_fat, low_reserve, fat_led, both_high, muscle_led, balanced };
const char* id(Kind kind);
const char* title(Kind kind);

struct Place {
    double lean = 0, fat = 0; ///< 0 at the lower edge of the index's range, 1 at the upper
    Kind kind = Kind::balanced;
};

/// Where a person lies by both indexes, held against those of adults with BMI 18.5 to 25.
///
/// Given:    sex; age_y; fat-free and fat mass index, kg/m²
/// Returned: nothing under 18 years. In this order: low fat (percent fat under 5 men, 12 women) · low reserve (both
///           under their ranges) · fat-led (fat above its range and percent fat above the range for the age; or
///           fat-free under its own and fat ahead by half a range) · both high (both above) · muscle-led (fat-free in
///           the upper half or above, fat not above its range, and behind by a quarter of a range) · balanced
/// Source:   the ranges of Kyle et al. 2003, Nutrition 19:597–604, and of Gallagher et al. 2000, Am J Clin Nutr
///           72:694–701 (outside their ages the nearest row); the words are this program's
std::optional<Place> place(Sex sex, double age_y, double ffmi_kg_per_m2, double fmi_kg_per_m2);

/// Puts the word and both numbers into a result that has the indexes.
void add(Result& result, Sex sex, double age_y);

} // namespace fusain::balance
