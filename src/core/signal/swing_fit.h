// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <optional>
#include <span>

/// The damped-swing model behind swing.h, fitted by penalised least squares.
namespace fusain::swing {

/// One averaged stretch of the trace.
struct Bin {
    double t_s = 0;
    double kg = 0;
};

/// exp(−λs)/(1 + d·(1 − exp(−λs)))·(a·cos φ + b·sin φ), φ = ωs·(1 + c·s/2), s since the start of the window. The
/// drag d is a damping that grows with the amplitude, the creep c a frequency that changes.
struct Mode {
    bool on = false;
    double a_kg = 0, b_kg = 0;
    double log_omega = 0, log_lambda = 0;
    double drag = 0, creep_per_s = 0;

    double at(double since_s) const;
    double envelope(double since_s) const;

private:
    double fade(double since_s) const;
};

/// y(t) = level − bubbles·exp(−t/τb) + the swing, and a second mode where one alone leaves too much.
struct Fit {
    double start_s = 0, end_s = 0;
    double level_kg = 0;
    double bubbles_kg = 0; ///< at t = 0
    double log_bubble_s = 0;
    Mode main, second;
    double residual_kg = 0; ///< robust residual standard deviation
    double inflation = 1;   ///< of the variance, for residuals that are not independent
    double u_level_kg = 0;
    double searched_s = 0; ///< end of the window when other starts and a second mode were last looked for

    double at(double t_s) const;
    double envelope(double t_s) const;
    /// What the bubble term still adds after t.
    double rise_after(double t_s) const;
};

/// Fits the bins. `warm` starts from an earlier fit. Nothing when there are too few bins or no fit is found.
std::optional<Fit> fit(std::span<const Bin> bins, double noise_floor_kg, const Fit* warm);

/// Levels that an early stretch allows: every swing that explains it about as well as the best one.
struct EarlyLevel {
    double low_kg = 0, high_kg = 0;
    double residual_kg = 0, amplitude_kg = 0; ///< of the best
};
/// Nothing when the stretch is too short to tell. `later` gives the bubbles, which the stretch itself cannot.
std::optional<EarlyLevel> early_level(std::span<const Bin> bins, const Fit& later);

} // namespace fusain::swing
