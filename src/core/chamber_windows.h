// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/chamber.h"

/// Inside the chamber reader: windows of the drive, the level they settle on, what is left of the pressures without it.
namespace fusain::chamber {

/// The drive in one window, as the amplitudes of both chambers.
struct Tone {
    double t_s = 0;
    std::complex<double> test, reference;
    double rest_test = 0, rest_reference = 0; ///< what neither drive nor slow drift explains (RMS)
};
std::vector<Tone> tones_of(std::span<const Sample> samples, double drive_hz);

/// A level with drift and, where it explains something, breathing; outlying windows lose their weight.
struct Fit {
    double level = 0, u = 0, drift_per_s = 0, u_drift = 0, breath = 0, kept = 1, rest = 0;
    bool breathing = false;
    std::vector<double> residual;
};
Fit robust_fit(const std::vector<double>& t_s, const std::vector<double>& y, double floor);

/// Samples that stand at the end of the sensor's range more often than a sine that is only rounded would.
bool is_clipped(std::span<const Sample> samples, double Sample::*pressure);

/// A chamber's pressure without the drive, on a grid of 0.05 s.
struct Calm {
    std::vector<double> t, value, jump; ///< jump: the mean of the half second after minus that of the half second before
};
Calm level_of(std::span<const Sample> samples, const std::vector<Tone>& tones, double omega, double Sample::*pressure, std::complex<double> Tone::*amplitude);

} // namespace fusain::chamber
