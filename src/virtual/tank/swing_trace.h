// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/signal/swing.h"

#include <cstdint>
#include <random>
#include <vector>

/// Underwater load-cell traces with a known truth: a damped swing over leaving bubbles, noise and what clients do.
namespace fusain::virt {

enum class Behaviour { calm, short_swing, late_jerk, restless, still_rising, touches_wall, surfaces_early, slow_swing };
inline constexpr Behaviour all_behaviours[] = {Behaviour::calm, Behaviour::short_swing, Behaviour::late_jerk,
    Behaviour::restless, Behaviour::still_rising, Behaviour::touches_wall, Behaviour::surfaces_early,
    Behaviour::slow_swing};
const char* word(Behaviour behaviour);

/// One trial's truth and everything that disturbs it.
struct Swing {
    Behaviour behaviour = Behaviour::calm;
    double level_kg = 2.4; ///< net underwater mass once everything has come to rest: the truth
    double amplitude_kg = 0.8;
    double frequency_hz = 0.6;
    double decay_s = 3.0; ///< e-folding time of the swing
    double phase = 0;
    double quadratic_drag = 0;                         ///< 1/kg/s: extra decay in proportion to the amplitude
    double chirp = 0;                                  ///< relative frequency rise per second
    double sway_kg = 0, sway_hz = 0.2, sway_phase = 0; ///< a second, slower mode
    /// A second mode of chair and belt, faster than the swing
    double second_kg = 0, second_ratio = 2, second_decay_s = 3, second_phase = 0;
    double bubbles_kg = 0.03, bubbles_s = 1.5; ///< buoyancy of bubbles still clinging, and how fast they leave
    double noise_kg = 0.005;                   ///< white, per sample at 100 Hz
    double heartbeat_kg = 0.002;
    double step_kg = 0.001; ///< resolution of the load cell
    double event_s = 4;     ///< when the behaviour shows itself
    double event_kg = 0.2;
    double length_s = 14;
    double rate_hz = 100;
    double jitter = 0; ///< relative to the sample interval
    std::uint64_t seed = 1;
};

/// A random swing of the given behaviour, spread over what is seen at a tank: 0.3–1.2 Hz, up to 1.5 kg, decaying
/// over 1.3–8 s. `short_swing`: 5 to 9 s, still swinging by 0.2–1.2 kg at the end, with a second mode of 5–20 %.
/// `slow_swing`: 0.3–0.8 Hz, two to four periods in 5 to 9 s, 0.13–0.6 kg from crest to trough in the last 3 s, with
/// drag, a creeping frequency, a slow sway, a second mode, each as often as not.
Swing random_swing(Behaviour behaviour, std::mt19937_64& random);

/// The load cell's samples, t = 0 when the chair is let go.
std::vector<swing::Sample> make_trace(const Swing& swing);

} // namespace fusain::virt
