// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"

#include <complex>
#include <optional>
#include <span>
#include <vector>

/// From the two pressures of a displacement chamber to a volume. The reasoning is in docs/chamber-signal.md.
namespace fusain::chamber {

/// For limits in litres before there is a calibration.
inline constexpr double typical_chamber_l = 450;

/// One moment of a recording. Pressures are deviations from the room's, Pa; any offset is allowed.
struct Sample {
    double t_s = 0;
    double test_pa = 0;
    double reference_pa = 0;
    bool door_open = false;
};

/// The drive in one window, found by least squares under a Hann weight.
struct Window {
    double t_s = 0; ///< its middle
    /// Reference over test amplitude, corrected for what mean pressure does to the air's stiffness
    std::complex<double> ratio;
};

/// What is wrong with a recording, worst first. `none`: nothing.
enum class Fault { none, too_short, no_drive, clipped, door_opened, pressure_step, leak, moved };
struct FaultRow {
    Fault fault;
    const char* code;  ///< of the calculation interface
    const char* words; ///< for the technician
};
std::span<const FaultRow> faults();
const FaultRow& row(Fault fault);

/// A recording seen as a ratio of amplitudes |reference| / |test|.
struct Ratio {
    double value = 0;
    double u = 0;         ///< standard error of the mean
    double phase_rad = 0; ///< between the chambers, near π
    double drift_per_s = 0;
    double breath = 0; ///< amplitude of the breathing in the ratio; 0: none seen
    double kept = 1;   ///< share of the windows that the robust mean counts
};

struct Options {
    double drive_hz = 3.0; ///< nominal; the recording may be off by up to 5 %
    double shortest_s = 10.0;
    double litres_per_ratio = 0;            ///< of a calibration; 0: a typical chamber is assumed for the limits
    std::optional<double> closed_phase_rad; ///< of the calibration: a leak turns it
};

/// What a recording says so far.
struct State {
    double now_s = 0;    ///< length
    double drive_hz = 0; ///< as the recording has it
    std::vector<Window> windows;
    std::optional<Ratio> ratio; ///< as soon as there is anything to say, good or not
    Fault fault = Fault::none;  ///< `too_short` while it is only that
    double fault_at_s = 0;
};

/// Reads a whole recording.
State read(std::span<const Sample> samples, const Options& options);

/// Two points make a line: volume = a + b·ratio.
struct Calibration {
    double a_l = 0, b_l = 0;
    Ratio empty, cylinder;
    double cylinder_l = 0, u_cylinder_l = 0;
    double phase_rad = 0;

    double volume_l(double ratio) const { return a_l + b_l * ratio; }
    double chamber_l() const { return a_l; } ///< what the chamber holds: there the pressure would not move any more
    /// Standard uncertainty of a volume at this ratio that comes from the calibration alone.
    double u_l(double ratio) const;
};
/// Relative standard uncertainty of a cylinder's certified volume, when nothing else is known.
inline constexpr double cylinder_relative_u = 2e-4;

/// Given: readings of the empty chamber and of the cylinder, and the cylinder's certified volume, L.
/// Refuses (`calibration_failed`, repeat) when either has a fault, when the cylinder does not raise the pressure, or
/// when the line would be uncertain by more than 0.05 L at the cylinder.
Outcome<Calibration> calibrate(const Ratio& empty, const Ratio& cylinder, double cylinder_l, double u_cylinder_l = 0);
Outcome<Calibration> calibrate(const State& empty, const State& cylinder, double cylinder_l, double u_cylinder_l = 0);

/// A volume read with a calibration.
struct Reading {
    double volume_l = 0;
    double u_l = 0;     ///< the run and the calibration together
    double u_run_l = 0; ///< the run alone: what two runs may differ by
    double drift_l_per_min = 0;
    double breath_l = 0; ///< half of the swing that breathing gives
};
Reading reading_of(const Ratio& ratio, const Calibration& calibration);
/// `not_a_body`, repeat: a volume over 0.9 of what the chamber holds, which nobody fills (this lab's rule).
[[nodiscard]] std::optional<Message> impossible(double volume_l, const Calibration& calibration);
Options options_of(const Calibration& calibration, double drive_hz = 3.0);
[[nodiscard]] Messages messages_of(const State& state);

// ---- lung gas --------------------

/// One moment of puffing against the closed valve.
struct PuffSample {
    double t_s = 0;
    double test_pa = 0;
    double airway_pa = 0;
};

inline constexpr double merit_limit = 1.0;         ///< McCrory et al. 1995, Med Sci Sports Exerc 27:1686–1691
inline constexpr double airway_limit_cmh2o = 35.0; ///< the same
inline constexpr double pa_per_cmh2o = 98.0665;

/// What the puffs say.
struct Puffs {
    int count = 0;    ///< swings of the airway pressure
    double slope = 0; ///< chamber Pa per airway Pa, its size
    double u_slope = 0;
    /// Unlikeness of the two pressures: 1.0 stands for 5 % of the chamber's swing left unexplained (RMS)
    double merit = 0;
    double peak_cmh2o = 0;
    bool enough = false;   ///< three puffs seen
    std::string complaint; ///< empty: may be accepted
};
/// The same pressures without the drive: at each moment a straight line with the drive is fitted through one period.
/// Moments nearer than half a period to an end are left out.
std::vector<PuffSample> without_drive(std::span<const PuffSample> samples, double drive_hz = 3.0);
/// Given: pressures since the valve closed.
Puffs read_puffs(std::span<const PuffSample> samples, double drive_hz = 3.0);

} // namespace fusain::chamber
