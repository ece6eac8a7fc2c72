// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"

#include <optional>
#include <span>
#include <string>
#include <vector>

/// Is the instrument what it was? Checks against a reference, and control charts of the checks over weeks.
namespace fusain::quality {

/// A spread as text with the digits that carry its meaning: at least `decimals`, and two that are not leading zeros
/// (0.004 kg is not "0.00").
std::string spread_text(double spread, int decimals);

/// mean and standard deviation (n − 1) of readings.
struct Spread {
    int n = 0;
    double mean = 0, sd = 0, range = 0;
};
Spread spread(std::span<const double> readings);

/// What a check against a reference must satisfy. Any limit may be absent.
struct Tolerance {
    double reference = 0;              ///< certified value, in `unit`
    int readings = 1;                  ///< how many are taken
    std::optional<double> mean_within; ///< |mean − reference| at most
    std::optional<double> sd_at_most;
    std::optional<double> range_at_most;
    std::string unit, quantity; ///< "L", "the cylinder"
    int decimals = 3;
};

/// Cylinder of an air-displacement chamber: mean of five within ±0.100 L of its value, SD ≤ 0.075 L.
/// Source: common laboratory practice; the limits are those chambers of this kind are accepted with.
Tolerance cylinder(double volume_l);
/// Certified mass on a scale: three repeats that agree with each other and with the mass within ±0.05 kg.
/// Source: this lab's rule: that the repeats agree is common practice, 0.05 kg is a usual scale's display step.
Tolerance scale_mass(double mass_kg);
/// Reference resistor on one channel of an impedance analyser: three repeats within ±1 % of its value.
/// Source: this lab's rule: 1 % moves fat-free mass by about 0.3 kg, well under the equations' own error.
Tolerance resistor(double ohm);
/// Reactance of a reference network of resistor and capacitor on one channel, at 50 kHz: three repeats within ±1 Ω.
/// Source: this lab's rule: 1 Ω of reactance moves fat-free mass by 0.13 kg, and the phase angle by 0.1°.
Tolerance reactance(double ohm);
/// X-ray phantom before a baseline exists: within ±1.5 % of its stated value. With a baseline the chart decides (mean ±
/// 3 SD). Source: this lab's rule for the first days.
Tolerance phantom(double value, const std::string& unit);

struct CheckResult {
    Spread of;
    bool passed = false;
    std::string words; ///< "Mean 50.021 L of five, 0.009 L over the cylinder; spread 0.012 L. Passed."
};
/// Refusals: `too_few_readings`, `out_of_range` (not a number).
Outcome<CheckResult> check(const Tolerance& tolerance, std::span<const double> readings);

/// One check on a chart.
struct Point {
    std::string day; ///< as it stands in the words
    double value = 0;
    bool passed = true; ///< a check that failed stands on the chart and never in the baseline
};

inline constexpr int baseline_least = 8;   ///< fewer: no limits yet
inline constexpr int baseline_most = 20;   ///< the first twenty that passed make the baseline
inline constexpr double cusum_slack = 0.5; ///< in SD; Page 1954, Biometrika 41:100–115 (the usual pair with 5)
inline constexpr double cusum_alarm = 5;   ///< in SD

enum class Sign { no_baseline, steady, outside, drift, step };

struct Chart {
    int baseline_n = 0;
    double mean = 0, sd = 0, low = 0, high = 0; ///< limits mean ± 3 SD of the baseline
    std::vector<double> cusum_up, cusum_down;   ///< one a point, in SD
    Sign sign = Sign::no_baseline;
    int at = -1;       ///< point from which the sign holds
    double size = 0;   ///< of the step or drift so far, in the unit
    std::string words; ///< what the chart shows
    bool last_outside = false;
};

/// Individual values with mean ± 3 SD from the baseline (Shewhart 1931, Economic Control of Quality), and a cumulative
/// sum for drift (Page 1954). In the sum a point counts for 3 SD at most, and the slack is widened by the standard
/// error of the baseline's mean. `least_sd` keeps a baseline of equal values (coarse display) from making limits of no
/// width. `points`: the whole series since the baseline began, oldest first.
Chart chart(std::span<const Point> points, const std::string& unit, int decimals, double least_sd);

} // namespace fusain::quality
