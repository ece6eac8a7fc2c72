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

/// What the repeats are worth when some people scatter more than others: fewer degrees of freedom than were counted.
///
/// Given:    one list a person, two and more values
/// Returned: `(Σs²)² / Σ(s⁴/(ν + 2)) − 2`, from 1 to Σν; Σν where everybody scatters alike, or where all are equal
/// Source:   Satterthwaite 1946, Biometrics Bulletin 2:110–114, without its bias from small ν
double effective_degrees(const std::vector<std::vector<double>>& repeats);

/// The SD that a change is held against: the study's own from 30 degrees of freedom on, else its upper 95 % limit by
/// the effective ones, so that a lucky few do not make a change of noise. Source: this lab's rule
double held_against(double rms_sd, double degrees_of_freedom, double effective_degrees);

} // namespace fusain::precision
