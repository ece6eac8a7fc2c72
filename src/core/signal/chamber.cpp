// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/signal/chamber.h"

#include "core/signal/chamber_windows.h"
#include "core/base/limits.h"
#include "core/signal/robust.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace fusain::chamber {
namespace {

using Complex = std::complex<double>;
using std::numbers::pi;
constexpr double air_pa = 101325;
using robust::median;
using robust::quantile;
using robust::spread;

// Limits, each with its reason in docs/chamber-signal.md.
constexpr double least_drive =
    1; ///< amplitude over what neither drive nor drift explains; a driven chamber has 80 and more
constexpr double most_of_chamber = 0.9;
constexpr double leak_phase_rad = 0.012, leak_drift_l = 0.06, leak_level = 0.5;
constexpr double step_share = 0.02, bump_share = 0.08, step_spreads = 6, draught_share = 0.01, most_u_l = 0.06,
                 bump_over_breath = 2.8;
constexpr double moved_rest_share = 0.012, moved_rest_times = 4, moved_volume_l = 0.40, moved_volume_spreads = 7,
                 least_kept = 0.80;

double largest(const std::vector<double>& v, double centre, std::size_t& at)
{
    double best = 0;
    for (std::size_t i = 0; i < v.size(); ++i)
        if (std::abs(v[i] - centre) > best) {
            best = std::abs(v[i] - centre);
            at = i;
        }
    return best;
}

double wrapped(double rad) { return std::remainder(rad, 2 * pi); }

constexpr FaultRow rows[] = {
    {Fault::none, "", ""},
    {Fault::too_short, "too_short", "The run is too short: sit still and breathe quietly until it is done."},
    {Fault::no_drive, "no_drive",
        "The pressure in the test chamber does not follow the drive: look at its sensor, its tube and the diaphragm."},
    {Fault::clipped, "clipped", "A pressure sensor is at its end: its peaks are cut off."},
    {Fault::door_opened, "door_opened", "The door was opened during the run."},
    {Fault::pressure_step, "pressure_step", "The pressure in the room is not steady: a door, a window, a fan, a gust."},
    {Fault::leak, "leak",
        "Air leaks or the chamber drifts: close the door firmly, look at its seal, let the chamber warm up."},
    {Fault::moved, "moved", "The client moved, coughed, laughed or talked."},
};

/// Judges a recording from its windows.
void judge(State& state, std::span<const Sample> s, const std::vector<Tone>& tones, const Options& o)
{
    const auto accuse = [&](Fault fault, double at_s) {
        if (state.fault != Fault::none && !(state.fault == Fault::too_short && fault == Fault::clipped)) return;
        state.fault = fault;
        state.fault_at_s = at_s;
    };
    if (state.now_s < o.shortest_s) {
        state.fault = Fault::too_short;
        state.fault_at_s = state.now_s;
    }
    if (s.size() >= 60 && state.now_s > 1.5)
        for (const auto pressure : {&Sample::test_pa, &Sample::reference_pa})
            if (is_clipped(s, pressure, state.drive_hz)) accuse(Fault::clipped, state.now_s);
    if (tones.size() < 3) return;

    std::vector<double> t, size, phase, test, rest;
    for (const Tone& tone : tones) {
        // air under pressure is stiffer by that share: the client's warmth must not read as volume
        const double stiffer = (1 + tone.mean_test / air_pa) / (1 + tone.mean_reference / air_pa);
        const Complex ratio = stiffer * tone.reference[0] / tone.test[0];
        state.windows.push_back({tone.t_s, ratio});
        t.push_back(tone.t_s);
        size.push_back(std::abs(ratio));
        phase.push_back(std::arg(-ratio)); // near 0, so that it does not jump
        test.push_back(std::abs(tone.test[0]));
        rest.push_back(tone.rest_test);
    }
    const double litres =
        o.litres_per_ratio > 0 ? o.litres_per_ratio : typical_chamber_l / std::max(1e-9, median(size));
    const Fit fit = robust_fit(t, size, 1e-4 / litres);
    const Fit turn = robust_fit(t, phase, 1e-6);
    state.ratio = Ratio{fit.level, fit.u, wrapped(turn.level + pi), fit.drift_per_s, fit.breath, fit.kept};

    const double amplitude_test = median(test);
    if (!(amplitude_test > least_drive * median(rest))) {
        // waiting does not help, and what stands still is no peak that is cut off
        if (state.fault == Fault::too_short || state.fault == Fault::clipped) state.fault = Fault::none;
        accuse(Fault::no_drive, t.front());
    }
    const Calm level_test = level_of(s, tones, state.drive_hz, &Sample::test_pa, &Tone::test);
    const Calm level_reference = level_of(s, tones, state.drive_hz, &Sample::reference_pa, &Tone::reference);

    // the room: a jump that the quiet reference chamber sees too
    double amplitude_reference = 0;
    for (const Tone& tone : tones) amplitude_reference = std::max(amplitude_reference, std::abs(tone.reference[0]));
    const double usual = median(level_reference.jump);
    std::size_t at = 0;
    if (const double jump = largest(level_reference.jump, usual, at);
        jump > std::max(step_share * amplitude_reference, step_spreads * spread(level_reference.jump, usual)))
        accuse(Fault::pressure_step, level_reference.t[at]);

    std::vector<double> common;
    for (const Tone& tone : tones) common.push_back(tone.rest_common);
    const bool draught = median(common) > draught_share * amplitude_reference;
    if (draught && tones.size() >= 6) accuse(Fault::pressure_step, t.front());

    // jumps that only the test chamber sees: for good, a step of pressure; there and back, the client
    if (level_test.jump.size() > 40) {
        std::vector<double> jumps;
        for (double j : level_test.jump) jumps.push_back(std::abs(j));
        const double usual_jump = quantile(jumps, 0.75);
        if (const double jump = largest(level_test.jump, 0, at);
            jump > std::max(bump_share * amplitude_test, bump_over_breath * usual_jump)) {
            std::vector<double> before, after;
            for (std::size_t i = 0; i < level_test.t.size(); ++i) {
                const double away = level_test.t[i] - level_test.t[at];
                if (away < -0.5 && away > -6) before.push_back(level_test.value[i]);
                if (away > 0.5 && away < 6) after.push_back(level_test.value[i]);
            }
            const bool stays =
                !before.empty() && !after.empty() && std::abs(median(after) - median(before)) > 0.6 * jump;
            accuse(stays ? Fault::pressure_step : Fault::moved, level_test.t[at]);
        }
    }

    // a leak turns the phase: the air that escapes lags by a quarter
    if (o.closed_phase_rad && tones.size() >= 6) {
        const double turned = std::abs(wrapped(turn.level + pi - *o.closed_phase_rad));
        if (turned > leak_phase_rad + 4 * turn.u) accuse(Fault::leak, t.front());
    }

    // the client: pressure that neither drive nor breath explains, volumes that stand out, too many windows lost
    const double usual_rest = median(rest);
    if (const double most = largest(rest, 0, at);
        most > std::max(moved_rest_share * amplitude_test, moved_rest_times * usual_rest))
        accuse(Fault::moved, t[at]);
    if (const double most = largest(fit.residual, 0, at);
        most * litres > std::max(moved_volume_l, moved_volume_spreads * fit.rest * litres))
        accuse(Fault::moved, t[at]);
    if (tones.size() >= 10 && fit.kept < least_kept) accuse(Fault::moved, t.front());

    if (state.now_s >= o.shortest_s && fit.u * litres > most_u_l) accuse(Fault::moved, t.front());

    // drift over the run: steady, or one step in the middle
    const double length = t.back() - t.front();
    if (tones.size() >= 14 &&
        std::abs(fit.drift_per_s) * length * litres > leak_drift_l + 1.5 * fit.u_drift * length * litres) {
        // breathing taken out of both explanations; a step is as soft as the windows are wide
        const double half_s = window_s(o.drive_hz) / 2, n = static_cast<double>(t.size());
        double line = 0, best_step = INFINITY, step_at = 0;
        for (double r : fit.residual) line += r * r;
        for (std::size_t cut = 4; cut + 4 < t.size(); ++cut) {
            double sx = 0, sy = 0, sxx = 0, sxy = 0, syy = 0;
            for (std::size_t i = 0; i < t.size(); ++i) {
                const double side = std::clamp((t[i] - t[cut]) / half_s, -1.0, 1.0),
                             x = side + std::sin(pi * side) / pi;
                const double y = fit.residual[i] + fit.drift_per_s * (t[i] - (t.front() + t.back()) / 2);
                sx += x, sy += y, sxx += x * x, sxy += x * y, syy += y * y;
            }
            const double cxx = sxx - sx * sx / n, cxy = sxy - sx * sy / n,
                         left = syy - sy * sy / n - (cxx > 0 ? cxy * cxy / cxx : 0);
            if (left < best_step) {
                best_step = left;
                step_at = t[cut];
            }
        }
        if (best_step < 0.65 * line)
            accuse(Fault::moved, step_at);
        else
            accuse(Fault::leak, t.front());
    }
    // the mean pressure runs out of the test chamber alone
    if (level_test.value.size() > 100) {
        // first and last fifth; what the client's warmth adds only grows
        const auto ends = [](const Calm& l) {
            const long n = static_cast<long>(l.value.size()), part = n / 5;
            return std::pair{
                median({l.value.begin(), l.value.begin() + part}), median({l.value.end() - part, l.value.end()})};
        };
        const auto [first, last] = ends(level_test);
        const auto [reference_first, reference_last] = ends(level_reference);
        if (std::abs(first) - std::abs(last) > leak_level * amplitude_test &&
            std::abs(reference_last - reference_first) < 0.3 * std::abs(last - first))
            accuse(Fault::leak, t.front());
    }
}

} // namespace

std::span<const FaultRow> faults() { return rows; }
const FaultRow& row(Fault fault) { return rows[static_cast<int>(fault)]; }

State read(std::span<const Sample> samples, const Options& options)
{
    State state;
    if (samples.empty()) {
        state.fault = Fault::too_short;
        return state;
    }
    state.now_s = samples.back().t_s - samples.front().t_s;
    const auto open = std::find_if(samples.begin(), samples.end(), [](const Sample& s) { return s.door_open; });
    if (open != samples.end()) {
        state.fault = Fault::door_opened;
        state.fault_at_s = open->t_s;
        return state;
    }
    state.drive_hz = drive_of(samples, options.drive_hz);
    judge(state, samples, tones_of(samples, state.drive_hz, options.drive_hz), options);
    return state;
}

double Calibration::u_l(double r) const
{
    const double span = cylinder.value - empty.value, s = (r - empty.value) / span;
    return std::hypot(s * u_cylinder_l, cylinder_l * (r - cylinder.value) / (span * span) * empty.u,
        cylinder_l * (r - empty.value) / (span * span) * cylinder.u);
}

namespace {
Outcome<Calibration> failed(std::string text)
{
    return Outcome<Calibration>::refuse(Message{"calibration_failed", Level::repeat, "calibration", std::move(text)});
}
} // namespace

Outcome<Calibration> calibrate(const State& empty, const State& cylinder, double cylinder_l, double u_cylinder_l)
{
    for (const auto& [state, name] : {std::pair{&empty, "empty chamber"}, {&cylinder, "cylinder"}})
        if (state->fault != Fault::none || !state->ratio)
            return failed(std::string("The reading of the ") + name + " cannot be used. " + row(state->fault).words);
    return calibrate(*empty.ratio, *cylinder.ratio, cylinder_l, u_cylinder_l);
}

Outcome<Calibration> calibrate(const Ratio& empty, const Ratio& cylinder, double cylinder_l, double u_cylinder_l)
{
    if (auto bad = limits::check("air_displacement.cylinder_l", cylinder_l)) return Outcome<Calibration>::refuse(*bad);
    Calibration c;
    c.empty = empty;
    c.cylinder = cylinder;
    c.cylinder_l = cylinder_l;
    c.u_cylinder_l = u_cylinder_l > 0 ? u_cylinder_l : cylinder_relative_u * cylinder_l;
    const double span = cylinder.value - empty.value;
    if (!(span < -0.002 * empty.value))
        return failed(
            "The cylinder does not raise the pressure in the test chamber. Were the two readings changed round?");
    c.b_l = cylinder_l / span;
    c.a_l = -c.b_l * empty.value;
    if (std::abs(wrapped(empty.phase_rad - cylinder.phase_rad)) > leak_phase_rad)
        return failed(
            "Empty and with the cylinder the two chambers are not in the same step: the door leaks in one of them.");
    c.phase_rad = wrapped(empty.phase_rad + wrapped(cylinder.phase_rad - empty.phase_rad) / 2);
    const double u = std::hypot(cylinder_l / span * empty.u, cylinder_l / span * cylinder.u);
    if (!(u <= 0.05))
        return failed("The two readings are too uncertain (" + limits::plain(u, 3) + " L; at most 0.05 L).");
    return c;
}

Options options_of(const Calibration& c, double drive_hz)
{
    Options o;
    o.drive_hz = drive_hz;
    o.litres_per_ratio = std::abs(c.b_l);
    o.closed_phase_rad = c.phase_rad;
    return o;
}

Reading reading_of(const Ratio& r, const Calibration& c)
{
    Reading out;
    out.volume_l = c.volume_l(r.value);
    out.u_run_l = std::abs(c.b_l) * r.u;
    out.u_l = std::hypot(out.u_run_l, c.u_l(r.value));
    out.drift_l_per_min = 60 * c.b_l * r.drift_per_s;
    out.breath_l = std::abs(c.b_l) * r.breath;
    return out;
}

std::optional<Message> impossible(double volume_l, const Calibration& c)
{
    if (!(volume_l > most_of_chamber * c.chamber_l())) return std::nullopt;
    return Message{"not_a_body", Level::repeat, "air_displacement.raw_volumes_l",
        "The run reads " + limits::plain(volume_l, 1) + " L in a chamber of " + limits::plain(c.chamber_l(), 0) +
            " L: no body fills it. Look at the sensors, calibrate, and measure again."};
}

Messages messages_of(const State& s)
{
    if (s.fault == Fault::none) return {};
    std::string text = row(s.fault).words;
    if (s.fault == Fault::too_short)
        text += " It lasted " + limits::plain(s.now_s, 1) + " s.";
    else if (s.fault != Fault::clipped && s.fault != Fault::leak && s.fault != Fault::no_drive)
        text += " At " + limits::plain(s.fault_at_s, 1) + " s.";
    return {{row(s.fault).code, Level::repeat, "", text}};
}

} // namespace fusain::chamber
