// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"
#include "core/base/result.h"

#include <optional>
#include <string>
#include <vector>

/// How well repeats agree: what change can be told from noise.
namespace fusain::precision {

inline constexpr double change_factor = 2.77; ///< 1.96·√2
inline constexpr int enough_degrees = 30;     ///< 15 people × 3 or 30 × 2 (ISCD 2019)

struct Input {
    std::string quantity;
    std::vector<std::vector<double>> repeats; ///< one list a person, two and more values
    std::optional<double> limit_percent;
};

/// Precision of repeats.
///
/// Given:    repeats with repositioning, a list a person
/// Returned: root-mean-square SD (n − 1, each person counted once) and CV, least significant change at 95 %, degrees of
///           freedom, one-sided upper 95 % limit of the SD
/// Source:   ISCD 2019; `RMS-SD·√(df/χ²)`, χ² its 5 % quantile
/// Cautions: few_repeats (under 30 degrees of freedom), precision_over_limit · error: missing_field, out_of_range
Outcome<Result> compute(const Input& in);

/// How well repeats of it must agree at the least, as a coefficient of variation; nothing where nothing is published.
/// Source: ISCD 2013/2019, per operator: fat 3 %, lean 2 %, percent fat 2 %. Fat-free mass is held against lean's.
std::optional<double> published_limit_percent(const Quantity& quantity);

/// The SD that a change is held against: the study's own from 30 degrees of freedom on, else its upper 95 % limit, so
/// that a lucky few do not make a change of noise.
/// Source: this lab's rule
double held_against(const Result& precision);

} // namespace fusain::precision
