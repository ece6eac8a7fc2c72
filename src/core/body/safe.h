// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/body/energy.h"

#include <optional>
#include <string>

/// From which body on nothing more is taken away, and how little nobody is told to eat.
namespace fusain::safe {

inline constexpr double adult_y = 18, old_y = 70;

/// Body mass index under which nobody is led, kg/m².
///
/// Given:    age, years
/// Returned: 18.5; from 70 years 22
/// Source:   WHO (underweight); from 70 years GLIM, Cederholm et al. 2019, Clin Nutr 38:1–9
inline constexpr double least_bmi(double age_y) { return age_y >= old_y ? 22 : 18.5; }

/// Fat-free mass index under which nobody is led, kg/m²: the lower edge of Kyle et al. 2003, Nutrition 19:597–604.
double least_ffmi(Sex sex);
/// Of a body that begins under it, this much fat-free mass may go at the most, kg.
inline constexpr double spare_fat_free_kg = 0.1;

/// The least that anybody who loses is told to eat, kcal a day.
///
/// Given:    sex; resting energy, kcal a day
/// Returned: resting energy; 1 200 (women), 1 500 (men) where that is more
/// Source:   this lab's rule
inline constexpr double least_intake_kcal(Sex sex, double resting_kcal)
{
    const double floor = sex == Sex::male ? 1500 : 1200;
    return resting_kcal > floor ? resting_kcal : floor;
}

/// Why nothing may be taken from this body, as a whole sentence; nothing: a loss may begin.
///
/// Given:    an adult's body
/// Returned: BMI under its least, or percent fat under what health needs (5 men, 12 women). The very edges may lose
std::optional<std::string> why_no_loss(const energy::Body& body);

} // namespace fusain::safe
