// SPDX-License-Identifier: GPL-3.0-or-later
#include "virtual/tank/swing_trace.h"

#include <algorithm>
#include <cmath>

namespace fusain::virt {
namespace {

double uniform(std::mt19937_64& random, double low, double high)
{
    return std::uniform_real_distribution<double>(low, high)(random);
}

} // namespace

const char* word(Behaviour behaviour)
{
    constexpr const char* words[] = {
        "calm", "short_swing", "late_jerk", "restless", "still_rising", "touches_wall", "surfaces_early", "slow_swing"};
    return words[static_cast<int>(behaviour)];
}

Swing random_swing(Behaviour behaviour, std::mt19937_64& random)
{
    Swing s;
    s.behaviour = behaviour;
    s.level_kg = uniform(random, -0.5, 5.0);
    s.amplitude_kg = uniform(random, 0.15, 1.5);
    s.frequency_hz = uniform(random, 0.3, 1.2);
    // down to a tenth after 3 s at the quickest, to a third after 8 s at the slowest
    s.decay_s = uniform(random, 1.3, 8.0);
    s.phase = uniform(random, 0, 2 * M_PI);
    if (uniform(random, 0, 1) < 0.5) s.quadratic_drag = uniform(random, 0, 0.6);
    if (uniform(random, 0, 1) < 0.5) s.chirp = uniform(random, -0.01, 0.01);
    if (uniform(random, 0, 1) < 0.3) {
        s.sway_kg = uniform(random, 0, 0.03);
        s.sway_hz = uniform(random, 0.15, 0.35);
        s.sway_phase = uniform(random, 0, 2 * M_PI);
    }
    s.bubbles_kg = uniform(random, 0, 0.08);
    s.bubbles_s = uniform(random, 0.6, 2.5);
    s.noise_kg = uniform(random, 0.002, 0.015);
    s.heartbeat_kg = uniform(random, 0, 0.005);
    s.step_kg = uniform(random, 0, 1) < 0.5 ? 0.001 : 0.01;
    s.event_s = uniform(random, 1.2, 6.0);
    s.event_kg = uniform(random, 0.08, 0.5) * (uniform(random, 0, 1) < 0.5 ? -1 : 1);
    s.length_s = uniform(random, 10, 16);
    s.rate_hz = uniform(random, 0, 1) < 0.7 ? 100 : uniform(random, 50, 200);
    s.jitter = uniform(random, 0, 1) < 0.3 ? uniform(random, 0, 0.3) : 0;
    s.seed = random();
    switch (behaviour) {
    case Behaviour::short_swing: {
        s.length_s = uniform(random, 5, 9);
        const double at_end = uniform(random, 0.2, 1.2);
        s.decay_s = uniform(random, 4, 20);
        s.quadratic_drag = s.chirp = s.sway_kg = 0; // one thing beside the swing at a time
        s.amplitude_kg = std::min(2.0, at_end * std::exp(s.length_s / s.decay_s));
        s.second_kg = s.amplitude_kg * uniform(random, 0.05, 0.20);
        s.second_ratio = uniform(random, 1.7, 2.6);
        s.second_decay_s = s.decay_s * uniform(random, 0.6, 1.4);
        s.second_phase = uniform(random, 0, 2 * M_PI);
        break;
    }
    case Behaviour::slow_swing: {
        do {
            s.frequency_hz = uniform(random, 0.3, 0.8);
            s.length_s = uniform(random, 5, 9);
        } while (s.frequency_hz * s.length_s < 2 || s.frequency_hz * s.length_s > 4.2);
        const auto perhaps = [&](double low, double high) {
            const double value = uniform(random, low, high);
            return uniform(random, 0, 1) < 0.5 ? value : 0;
        };
        const double at_end = uniform(random, 0.065, 0.3);
        s.decay_s = std::exp(uniform(random, std::log(2.5), std::log(20.0)));
        s.amplitude_kg = std::min(2.0, at_end * std::exp((s.length_s - 1.5) / s.decay_s));
        s.quadratic_drag = perhaps(0.1, 0.8);
        s.chirp = perhaps(-0.03, 0.03);
        s.sway_kg = perhaps(0, 0.02);
        s.second_kg = s.amplitude_kg * perhaps(0.03, 0.15);
        s.second_ratio = uniform(random, 1.7, 2.6);
        s.second_decay_s = s.decay_s * uniform(random, 0.6, 1.4);
        s.second_phase = uniform(random, 0, 2 * M_PI);
        s.bubbles_kg = uniform(random, 0, 0.04);
        break;
    }
    case Behaviour::late_jerk: s.event_s = uniform(random, 3.0, 8.0); break;
    case Behaviour::restless: s.event_kg = uniform(random, 0.06, 0.35); break;
    case Behaviour::still_rising: s.event_kg = uniform(random, 0.15, 0.8); break;
    case Behaviour::touches_wall: s.event_kg = -uniform(random, 0.08, 0.6); break;
    case Behaviour::surfaces_early: s.event_s = uniform(random, 0.8, 2.4); break;
    default: break;
    }
    return s;
}

std::vector<swing::Sample> make_trace(const Swing& s)
{
    std::mt19937_64 random(s.seed);
    std::normal_distribution<double> normal(0, 1);
    const double dt = 1 / s.rate_hz;
    const double noise = s.noise_kg * std::sqrt(s.rate_hz / 100);

    double amplitude = s.amplitude_kg, phase = s.phase;
    double restless[2] = {0, 0}; // a driven, lightly damped second-order motion
    const double restless_hz = uniform(random, 0.25, 0.9), beat_hz = uniform(random, 0.9, 1.4),
                 beat_phase = uniform(random, 0, 6.28);
    const double rise_s = uniform(random, 4, 14), touch_blend_s = uniform(random, 0.05, 0.4);
    const double surface_kg = uniform(random, 0, 1) < 0.7 ? uniform(random, 2.0, 6.0) : -uniform(random, 1.5, 4.0);
    double kick = 0, kick_phase = 0, second = s.second_kg, second_phase = s.second_phase;
    bool kicked = false;

    std::vector<swing::Sample> out;
    for (double t = 0; t < s.length_s; t += dt) {
        const double hz = s.frequency_hz * (1 + s.chirp * t);
        phase += 2 * M_PI * hz * dt;
        double damping = 1 / s.decay_s + s.quadratic_drag * amplitude;
        double level = s.level_kg - s.bubbles_kg * std::exp(-t / s.bubbles_s);
        double extra = s.sway_kg * std::exp(-t / 5) * std::sin(2 * M_PI * s.sway_hz * t + s.sway_phase) +
                       s.heartbeat_kg * std::sin(2 * M_PI * beat_hz * t + beat_phase);
        switch (s.behaviour) {
        case Behaviour::calm:
        case Behaviour::short_swing:
        case Behaviour::slow_swing: break;
        case Behaviour::late_jerk:
            if (t >= s.event_s && t < s.event_s + 0.18) extra += s.event_kg * std::sin(M_PI * (t - s.event_s) / 0.18);
            if (t >= s.event_s && !kicked) {
                kicked = true;
                kick = 0.15 * std::abs(s.event_kg);
            }
            break;
        case Behaviour::restless: {
            const double w = 2 * M_PI * restless_hz;
            restless[1] += dt * (-w * w * restless[0] - 2 * 0.25 * w * restless[1]) +
                           std::sqrt(dt) * normal(random) * s.event_kg * std::sqrt(4 * 0.25 * w * w * w);
            restless[0] += dt * restless[1];
            extra += restless[0];
            break;
        }
        case Behaviour::still_rising: level -= s.event_kg * std::exp(-t / rise_s); break;
        case Behaviour::touches_wall:
            if (t >= s.event_s) {
                level += s.event_kg * std::min(1.0, (t - s.event_s) / touch_blend_s);
                damping += 1.0;
            }
            break;
        case Behaviour::surfaces_early:
            if (t >= s.event_s) {
                const double up = std::min(1.0, (t - s.event_s) / 0.8);
                extra += surface_kg * up * up * (3 - 2 * up) + 0.15 * std::sin(9 * t) * up;
                if (t > s.event_s + 3) level = 0, extra = 0; // out of the chair, which hangs empty
            }
            break;
        }
        amplitude *= std::exp(-damping * dt);
        second *= std::exp(-dt / s.second_decay_s);
        second_phase += 2 * M_PI * s.second_ratio * hz * dt;
        if (kicked) {
            kick_phase += 2 * M_PI * hz * dt;
            kick *= std::exp(-dt / s.decay_s);
        }
        double kg = level + amplitude * std::cos(phase) + second * std::cos(second_phase) +
                    kick * std::sin(kick_phase) + extra + noise * normal(random);
        if (s.step_kg > 0) kg = std::round(kg / s.step_kg) * s.step_kg;
        const double jitter = s.jitter > 0 ? s.jitter * dt * uniform(random, -0.5, 0.5) : 0;
        out.push_back({t + jitter, kg});
    }
    return out;
}

} // namespace fusain::virt
