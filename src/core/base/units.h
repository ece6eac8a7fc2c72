// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

/// Conversions at the edge. Inside, everything is metric. Exact by definition (international pound and inch).
namespace fusain::units {

inline constexpr double kg_per_lb = 0.45359237;
inline constexpr double cm_per_in = 2.54;

constexpr double kg_to_lb(double kg) { return kg / kg_per_lb; }
constexpr double lb_to_kg(double lb) { return lb * kg_per_lb; }
constexpr double cm_to_in(double cm) { return cm / cm_per_in; }
constexpr double in_to_cm(double in) { return in * cm_per_in; }
constexpr double c_to_f(double c) { return c * 1.8 + 32.0; }
constexpr double f_to_c(double f) { return (f - 32.0) / 1.8; }

} // namespace fusain::units
