// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/propagate.h"
#include "core/density/densitometry.h"

#include <array>
#include <map>
#include <span>
#include <string>

/// Callipers and tape: cheap, and they show where change happened.
namespace fusain::skinfolds {

/// Density = c0 + c1·S + c2·S² + c3·age, S the sum of the equation's sites in mm.
struct Equation {
    const char *id, *title, *source, *made_on;
    Sex sex;
    double age_from_y, age_to_y;
    std::span<const char* const> sites;
    double c0, c1, c2, c3;
    /// The sum at which the parabola turns, mm.
    double largest_sum_mm() const { return -c1 / (2 * c2); }
};
std::span<const Equation> equations();
const Equation* find(std::string_view id);

/// Every site of any equation, and every girth that is known.
std::span<const char* const> sites();
std::span<const char* const> girths();

inline constexpr double error_kg_per_l = 0.008; ///< of every equation: 3.5 % fat

/// Repeats of one site, and what they come to.
enum class Repeats { none, one, agree, third_needed };
struct Settled {
    double value = 0; ///< mean of two, median of three and more; the one there is
    Repeats state = Repeats::none;
};
/// Given:    repeats in mm. Two agree within 1 mm or 5 % of their mean, whichever is larger; else a third is needed
Settled settle_fold(std::span<const double> repeats_mm);
/// Given:    repeats in cm. Two agree within 1 cm; else a third is needed
Settled settle_girth(std::span<const double> repeats_cm);

struct Input : densitometry::Person {
    std::map<std::string, double> skinfolds_mm, girths_cm;
    std::string equation; ///< needed where there are skinfolds
};

/// Folds and girths.
///
/// Given:    skinfolds of every site of the equation, or girths, or both
/// Returned: sum of the equation's skinfolds, density, percent fat by the conversion and what follows from it;
///           waist–hip and waist–height ratio; what its inputs do not give is left out
/// Source:   Jackson & Pollock 1978, Br J Nutr 40:497–504; Jackson, Pollock & Ward 1980, Med Sci Sports Exerc
///           12:175–182
/// Refused:  error: missing_field, out_of_range (also a sum past which the parabola turns), unknown_choice · repeat:
///           not_a_body
/// Cautions: outside_group, folds_in_centimetres, density_unusual, fat_unusual, under_minimum, low_reserve
Outcome<Result> compute(const Input& in, Detail detail = Detail::whole);

} // namespace fusain::skinfolds
