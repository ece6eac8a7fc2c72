// SPDX-License-Identifier: GPL-3.0-or-later
#include "virtual/tank/tank.h"

#include "core/air_and_water/gas.h"
#include "core/air_and_water/water.h"
#include "virtual/references.h"

#include <algorithm>
#include <cmath>
#include <sstream>

namespace fusain::virt {
namespace {

constexpr FaultRow rows[] = {
    {Fault::air_left, "air_left", "air left in the lungs"},
    {Fault::air_in_suit, "air_in_suit", "air in the suit"},
    {Fault::touches_wall, "touches_wall", "touches the wall"},
    {Fault::restless, "restless", "will not keep still"},
    {Fault::leaves_early, "leaves_early", "comes up early"},
    {Fault::belt_not_zeroed, "belt_not_zeroed", "belt missing at zero"},
    {Fault::warm_up_drift, "warm_up_drift", "load cell still warming up"},
    {Fault::dropouts, "dropouts", "frames drop out"},
    {Fault::garbage, "garbage", "garbage on the line"},
    {Fault::reference_step, "reference_step", "an instrument has jumped"},
    {Fault::reference_drift, "reference_drift", "instruments have drifted"},
    {Fault::sensors_silent, "sensors_silent", "thermometers and barometer fall silent"},
};

constexpr double tick_s = 0.01; // load cell at 100 Hz
constexpr double chair_kg = 4.310, belt_kg = 3.050;
constexpr double cell_offset_kg = 0.182;

} // namespace

std::span<const FaultRow> faults() { return rows; }

Tank::Tank(std::uint64_t seed) : random_(seed) {}

double Tank::normal(double sd) { return std::normal_distribution<double>(0, sd)(random_); }

double Tank::water_density() const { return water::density_tanaka_2001(water_c_); }

double Tank::true_underwater_kg() const
{
    return body_.underwater_mass_kg(water_density(), air_left_l_ + (has(Fault::air_in_suit) ? 0.15 : 0.0));
}

std::string Tank::direct(const std::string& words)
{
    std::istringstream in(words);
    std::string verb, rest;
    in >> verb;
    std::getline(in >> std::ws, rest);
    if (verb == "client") {
        try {
            body_ = parse_body(rest);
        } catch (const std::invalid_argument& e) {
            return std::string("error ") + e.what();
        }
        trials_ = 0;
        place_ = Place::out;
        on_scale_ = false;
        return "client " + to_text(body_);
    }
    if (verb == "stand") {
        on_scale_ = true;
        on_scale_since_ = now_s_;
    } else if (verb == "step_down") {
        on_scale_ = false;
    } else if (verb == "blow") {
        blow_at_ = now_s_ + 2.2;
        const double effort = 1.0 - std::abs(normal(0.02)) - 0.01;
        blow_l_ = body_.vital_capacity_l * effort / gas::atps_to_btps(room_c_, barometer_mmhg_);
    } else if (verb == "hang") {
        chair_hung_ = true;
        belt_on_chair_ = !has(Fault::belt_not_zeroed);
    } else if (verb == "belt_off") {
        belt_on_chair_ = false;
    } else if (verb == "under") {
        on_scale_ = false;
        place_ = Place::leaning;
        leaning_since_ = now_s_;
        ++trials_;
        const double learnt = std::exp(-(trials_ - 1) / std::max(0.3, body_.learning));
        air_left_l_ = std::max(0.0, 0.10 * learnt * (1 + normal(0.3)) + std::abs(normal(0.012))) +
                      (has(Fault::air_left) ? 0.35 : 0.0);
    } else if (verb == "let_go") {
        if (place_ != Place::leaning) return "error nobody is leaning forward";
        place_ = Place::swinging;
        let_go_at_ = now_s_;
        const Behaviour behaviour = has(Fault::restless)       ? Behaviour::restless
                                    : has(Fault::touches_wall) ? Behaviour::touches_wall
                                    : has(Fault::leaves_early) ? Behaviour::surfaces_early
                                                               : Behaviour::calm;
        Swing s = random_swing(behaviour, random_);
        s.level_kg = true_underwater_kg();
        s.amplitude_kg = 0.25 + 0.9 * (1 - body_.calm) + std::abs(normal(0.15));
        s.noise_kg = 0.005;
        s.step_kg = 0;
        s.rate_hz = 1 / tick_s;
        s.jitter = 0;
        s.length_s = 60;
        trace_ = make_trace(s);
        trace_at_ = 0;
    } else if (verb == "up") {
        place_ = Place::out;
    } else if (verb == "seed") {
        random_.seed(std::strtoull(rest.c_str(), nullptr, 10));
    } else if (verb == "truth") {
        std::ostringstream out;
        out.precision(9);
        out << "truth underwater_kg=" << true_underwater_kg() << " air_left_l=" << air_left_l_
            << " zero_kg=" << cell_offset_kg + (chair_hung_ ? chair_kg : 0) + (belt_on_chair_ ? belt_kg : 0)
            << " water_c=" << water_c_;
        return out.str();
    } else if (const auto ref = std::find_if(references().begin(), references().end(),
                   [&](const Reference& x) { return verb == x.word && !x.of_another(); });
               ref != references().end()) {
        if (ref->channel == bench::Channel::scale) {
            on_scale_ = false;
            reference_until_ = now_s_ + 4;
            on_scale_since_ = now_s_;
            reference_kg_ = read_reference(*ref, 40, has(Fault::reference_drift), has(Fault::reference_step), random_);
        } else {
            reference_ = ref->channel;
            reference_at_ = now_s_ + 1.5;
        }
    } else if (verb == "fault") {
        std::istringstream words_of(rest);
        std::string name, state;
        words_of >> name >> state;
        const auto row =
            std::find_if(std::begin(rows), std::end(rows), [&](const FaultRow& r) { return name == r.word; });
        if (row == std::end(rows) || (state != "on" && state != "off")) return "error unknown fault " + rest;
        if (state == "on")
            faults_.insert(row->fault);
        else
            faults_.erase(row->fault);
    } else {
        return "error unknown direction " + verb;
    }
    return "ok " + verb;
}

double Tank::load_cell_kg(double t_s)
{
    double kg = cell_offset_kg + (chair_hung_ ? chair_kg : 0.0);
    if (has(Fault::warm_up_drift)) kg += 0.020 * t_s / 60;
    switch (place_) {
    case Place::out: kg += belt_on_chair_ ? belt_kg : 0.0; return kg + normal(0.004);
    case Place::leaning: {
        // breathing out while the technician steadies the chair: from buoyant to nearly the level
        const double since = t_s - leaning_since_, gone = std::clamp(since / 3.0, 0.0, 1.0);
        const double net = true_underwater_kg() - water_density() * body_.vital_capacity_l * 0.5 * (1 - gone);
        return kg + belt_kg + net + 0.20 * (1.2 - gone) * std::sin(5.1 * since) + normal(0.02);
    }
    case Place::swinging: {
        const double since = t_s - let_go_at_;
        while (trace_at_ + 1 < trace_.size() && trace_[trace_at_].t_s < since) ++trace_at_;
        return kg + belt_kg + trace_[trace_at_].kg;
    }
    }
    return kg;
}

void Tank::say(bench::Channel channel, double t_s, double value, bool stable, std::string& out)
{
    speaker_.dropouts = has(Fault::dropouts);
    speaker_.garbage = has(Fault::garbage);
    speaker_.say(channel, t_s, value, stable, channel == bench::Channel::load_cell, out);
}

std::string Tank::advance_to(double t_s)
{
    using bench::Channel;
    std::string out;
    while ((static_cast<double>(tick_) + 1) * tick_s <= t_s) {
        const double t = static_cast<double>(++tick_) * tick_s;
        now_s_ = t;
        say(Channel::load_cell, t, load_cell_kg(t), true, out);
        if (tick_ % 20 == 0) {
            const double since = t - on_scale_since_;
            const bool mass_on = t < reference_until_, loaded = on_scale_ || mass_on;
            const double wobble = loaded ? (mass_on ? 0.1 : 0.6) * std::exp(-since / 0.5) : 0.0;
            const double kg = (on_scale_    ? body_.mass_kg()
                                  : mass_on ? reference_kg_
                                            : 0.0) +
                              wobble * std::sin(9 * t) + normal(mass_on ? 0.004 : 0.01);
            say(Channel::scale, t, kg, loaded && since > 1.8, out);
        }
        if (tick_ % 100 == 0 && !has(Fault::sensors_silent)) {
            water_c_ = 34.6 + 0.05 * std::sin(t / 200);
            say(Channel::water_temp, t, water_c_ + normal(0.01), true, out);
            say(Channel::gas_temp, t, room_c_ + normal(0.02), true, out);
            say(Channel::barometer, t, barometer_mmhg_ + normal(0.05), true, out);
        }
        if (blow_at_ >= 0 && t >= blow_at_) {
            blow_at_ = -1;
            say(Channel::spirometer, t, blow_l_, true, out);
        }
        if (reference_ && t >= reference_at_) {
            const Channel channel = *reference_;
            reference_.reset();
            say(channel, t,
                read_reference(
                    reference(channel), 40, has(Fault::reference_drift), has(Fault::reference_step), random_),
                true, out);
        }
    }
    return out;
}

} // namespace fusain::virt
