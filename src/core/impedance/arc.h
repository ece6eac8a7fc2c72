// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"

#include <complex>
#include <span>
#include <vector>

/// The arc that a body's impedance describes as the frequency rises.
namespace fusain::impedance {

/// Impedance at one frequency.
struct Point {
    double f_khz = 0;
    double r_ohm = 0;
    double x_ohm = 0; ///< capacitive is positive
};

/// Z(ω) = R∞ + (R0 − R∞)/(1 + (jω/ω_c)^α), fitted.
struct Arc {
    double r0_ohm = 0;                   ///< at no frequency: the current goes round the cells
    double rinf_ohm = 0;                 ///< at every frequency: it goes through them
    double alpha = 0;                    ///< 1: one time constant; smaller: many
    double fc_khz = 0;                   ///< where the reactance is largest
    double delay_ns = 0;                 ///< of the cables; 0: the points did not ask for one
    double residual_ohm = 0;             ///< root mean square of what the arc leaves, over R and X
    double u_r0_ohm = 0, u_rinf_ohm = 0; ///< standard errors, from the residual and the curvature of the fit
    /// Of the cells alone: R0·R∞/(R0 − R∞)
    double ri_ohm() const { return r0_ohm * rinf_ohm / (r0_ohm - rinf_ohm); }
};

/// Impedance of an arc at a frequency, behind its cables: Z·exp(−jωT). The imaginary part is −X.
///
/// Given:    arc; f_khz, over 0
/// Returned: complex impedance, Ω
/// Source:   Cole 1940, Cold Spring Harb Symp Quant Biol 8:110–122
std::complex<double> impedance_of(const Arc& arc, double f_khz);

inline constexpr std::size_t fewest_frequencies = 3; ///< two numbers each, four to be found, and something to judge by

inline constexpr std::size_t fewest_for_delay = 5;

/// The arc through the points, by least squares over R and X (Levenberg–Marquardt with exact derivatives).
///
/// Given:    points   three or more different frequencies, 0.5 to 2000 kHz, in any order
/// Returned: the arc with its standard errors
/// Notes:    a delay of the cables is taken in when the points ask for it: five frequencies or more, a residual that
/// one
///           more parameter explains (F over 25, chance under 0.2 %), and of a size that cables have (under 100 ns).
/// Refused:  few_frequencies · not_an_arc (no human arc goes through the points: R0 not above R∞, α outside 0.2 to 1,
///           or f_c outside 1 to 1000 kHz)
Outcome<Arc> fit_arc(std::span<const Point> points);

/// Points of segments in series, frequency by frequency; frequencies that one of them lacks are left out.
std::vector<Point> in_series(std::span<const std::vector<Point>> segments);

} // namespace fusain::impedance
