// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <cmath>

/// Conversions at the edge. Inside, everything is metric. Exact by definition (international pound and inch).
namespace fusain::units {

inline constexpr double kg_per_lb = 0.45359237;
inline constexpr double cm_per_in = 2.54;
inline constexpr int lb_per_st = 14, in_per_ft = 12;

constexpr double kg_to_lb(double kg) { return kg / kg_per_lb; }
constexpr double lb_to_kg(double lb) { return lb * kg_per_lb; }
constexpr double cm_to_in(double cm) { return cm / cm_per_in; }
constexpr double in_to_cm(double in) { return in * cm_per_in; }
constexpr double c_to_f(double c) { return c * 1.8 + 32.0; }
constexpr double f_to_c(double f) { return (f - 32.0) / 1.8; }

/// Stones and pounds, feet and inches: rounded to `decimals` first, so that it is never 11 st 14.0 lb.
struct Split {
    int large = 0;
    double small = 0; ///< under `per_large`
};
inline Split split(double small_units, int per_large, int decimals)
{
    const double step = std::pow(10.0, decimals), rounded = std::round(small_units * step) / step;
    const int large = static_cast<int>(rounded / per_large);
    return {large, rounded - large * per_large};
}

} // namespace fusain::units
