// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

/// What is sure of a handful of values.
namespace fusain::quality {

/// The value under which a χ² of so many degrees of freedom falls with this probability.
/// Given: probability between 0 and 1, degrees of freedom over 0; else NaN. Error: under 10⁻¹¹ of the value.
/// Source: regularised incomplete gamma function, Abramowitz & Stegun 1964, 6.5.29 and 6.5.31
double chi_square_quantile(double probability, double degrees_of_freedom);

/// The value under which Student's t of so many degrees of freedom falls with this probability.
/// Given: probability between 0 and 1, degrees of freedom over 0; else NaN. Error: under 10⁻¹¹ of the value.
/// Source: regularised incomplete beta function, Abramowitz & Stegun 1964, 26.5.8 and 26.7.1
double student_t_quantile(double probability, double degrees_of_freedom);

/// Two-sided limits of a standard deviation of so many degrees of freedom.
struct Between {
    double low = 0, high = 0;
};
/// `SD·√(df/χ²)`, χ² its quantiles on both sides.
Between sd_limits(double sd, double degrees_of_freedom, double probability = 0.95);

} // namespace fusain::quality
