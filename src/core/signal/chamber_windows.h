// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/signal/chamber.h"

#include <array>

/// Inside the chamber reader: windows of the drive, the level they settle on, what is left of the pressures without it.
namespace fusain::chamber {

inline constexpr int most_harmonics = 3; ///< the drive itself and two of its harmonics
using Amplitudes = std::array<std::complex<double>, most_harmonics>;

/// The drive in one window, as the amplitudes in both chambers: itself first, then its harmonics.
struct Tone {
    double t_s = 0;
    Amplitudes test{}, reference{};
    double mean_test = 0, mean_reference = 0; ///< level of the pressures, Pa
    double rest_test = 0;                     ///< what neither drive nor slow drift explains (RMS)
    double rest_common = 0; ///< of that, what both chambers see alike: the room. The wall's own is opposite in the two
};
/// The drive's frequency as the reference chamber has it, within 5 % of the nominal one; the nominal one when it cannot
/// be told.
double drive_of(std::span<const Sample> samples, double nominal_hz);
/// How long a window is: eight nominal periods.
inline double window_s(double nominal_hz) { return 8 / nominal_hz; }
std::vector<Tone> tones_of(std::span<const Sample> samples, double drive_hz, double nominal_hz);

/// A level with drift and, where it explains something, breathing; outlying windows lose their weight.
struct Fit {
    double level = 0, u = 0, drift_per_s = 0, u_drift = 0, breath = 0, kept = 1, rest = 0;
    bool breathing = false;
    std::vector<double> residual;
};
Fit robust_fit(const std::vector<double>& t_s, const std::vector<double>& y, double floor);

/// A chamber's pressure without the drive, on a grid of 0.05 s.
struct Calm {
    /// Jump: the mean of the half second after minus that of the half second before
    std::vector<double> t, value, jump;
};
/// Samples pile up at the end of the sensor's range.
bool is_clipped(std::span<const Sample> samples, double Sample::*pressure, double drive_hz);

Calm level_of(std::span<const Sample> samples, const std::vector<Tone>& tones, double drive_hz,
    double Sample::*pressure, Amplitudes Tone::*amplitude);

} // namespace fusain::chamber
