// SPDX-License-Identifier: GPL-3.0-or-later
#include "virtual/chamber/chamber_air.h"

#include "core/density/displacement.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace fusain::virt {
namespace {

constexpr double gamma = 1.4, pi = std::numbers::pi, water_vapour_pa = 6277;
constexpr double step_s = 0.001;
constexpr double humid_share = 0.07;      ///< of a breath: air that warmth and vapour add when it is breathed in
constexpr double leak_l_per_pa_s = 0.032; ///< a seal that does not close: 0.1 rad of phase in an empty chamber
constexpr double hair_air_l = 0.85, cloth_air_l = 1.6;

} // namespace

ChamberAir::ChamberAir(const ChamberBuild& build, std::uint64_t seed) : build_(build), random_(seed)
{
    breath_phase_ = uniform(0, 2 * pi);
    second_phase_ = uniform(0, 2 * pi);
    third_phase_ = uniform(0, 2 * pi);
    next_slam_s_ = uniform(3, 12);
    severity_ = uniform(0.4, 1.4);
}

void ChamberAir::sit_down()
{
    tube_ = valve_ = false;
    posture_l_ = 0;
    move_until_s_ = 0;
    next_move_s_ = now_s_ + uniform(2, 9);
    warmth_l_ = 0;
    if (!body_) return;
    beat_hz_ = build_.beats_per_min / 60;
    breath_l_ = body_->tidal_breath_l();
    breath_hz_ = body_->breaths_per_min / 60;
    lungs_l_ = body_->mean_lungs_l();
}

void ChamberAir::set_door(bool open)
{
    door_open_ = open;
    if (open) gone_test_l_ = gone_reference_l_ = 0;
    if (!open && body_) posture_l_ = normal(0.10); // nobody sits twice alike: 0.04 L in the reading
}

void ChamberAir::set(ChamberFault fault, bool on)
{
    if (on)
        faults_.insert(fault);
    else
        faults_.erase(fault);
    next_move_s_ = now_s_ + uniform(2, 9);
    next_slam_s_ = now_s_ + uniform(3, 12);
}

void ChamberAir::breathe_through_tube(bool on)
{
    tube_ = on;
    valve_ = false;
}

void ChamberAir::close_valve()
{
    valve_ = tube_ && body_;
    valve_since_s_ = now_s_;
    valve_lungs_l_ = body_ ? body_->mean_lungs_l() + normal(0.03) : 0; // half-way out
    puff_pa_ = (has(ChamberFault::hard_puffs) ? 48.0 : 14.0) * chamber::pa_per_cmh2o * (1 + normal(0.08));
    cheek_pa_ = 0;
}

double ChamberAir::still_air_l() const
{
    return (has(ChamberFault::cap_off) ? hair_air_l : 0) + (has(ChamberFault::loose_clothes) ? cloth_air_l : 0);
}

double ChamberAir::true_raw_l() const
{
    if (!body_) return cylinder_l_;
    return body_->raw_volume_l() - displacement::lung_share * (still_air_l() + posture_l_);
}

void ChamberAir::step(double dt)
{
    now_s_ += dt;
    const double t = now_s_;
    // the client
    double isothermal_l = 0, solid_l = cylinder_l_, pushed_l = 0, heart_pa = 0;
    airway_pa_ = 0;
    if (body_) {
        const double before = breath_phase_;
        breath_phase_ += 2 * pi * breath_hz_ * dt;
        if (std::floor(before / (2 * pi)) !=
            std::floor(breath_phase_ / (2 * pi))) { // the next breath is a little different
            breath_hz_ = body_->breaths_per_min / 60 * (1 + normal(0.08));
            breath_l_ = body_->tidal_breath_l() * std::max(0.4, 1 + normal(0.10));
        }
        const double beat = beat_phase_;
        beat_phase_ += 2 * pi * beat_hz_ * dt;
        if (std::floor(beat / (2 * pi)) != std::floor(beat_phase_ / (2 * pi)))
            beat_hz_ = build_.beats_per_min / 60 * (1 + normal(0.03));
        heart_pa = build_.heartbeat_pa * (0.92 * std::sin(beat_phase_) + 0.12 * std::sin(2 * beat_phase_ + 0.6) +
                                             0.03 * std::sin(3 * beat_phase_ + 1.3));
        const double wave = 0.5 - 0.5 * std::cos(breath_phase_), in_l = breath_l_ * wave;
        if (valve_) {
            const double since = t - valve_since_s_,
                         puff = since > 0.6 && since < 4.4 ? 0.5 - 0.5 * std::cos(2 * pi * 0.8 * (since - 0.6)) : 0.0;
            const double chest_pa = puff_pa_ * puff;
            // cheeks that give way: the airway lags behind the chest and loses height
            cheek_pa_ += (chest_pa - cheek_pa_) * dt / 0.18;
            airway_pa_ = has(ChamberFault::cheeks) ? cheek_pa_ : chest_pa;
            lungs_l_ = valve_lungs_l_;
            pushed_l = -valve_lungs_l_ * chest_pa / (barometric_pa() - water_vapour_pa); // the chest shrinks
            if (since > 5.2) valve_ = false;
        } else {
            lungs_l_ = body_->quiet_lungs_l() + in_l;
            pushed_l = humid_share * in_l;
            if (tube_) airway_pa_ = -60 * breath_l_ / 0.7 * std::sin(breath_phase_);
        }
        isothermal_l = lungs_l_ + body_->skin_air_l() + still_air_l() + posture_l_;
        solid_l = body_->tissue_volume_l() + body_->gut_gas_l;
        warmth_l_ += 0.0004 * std::exp(-warmth_l_ / 0.05) * dt;
        const bool restless = has(ChamberFault::client_moves), coughs = has(ChamberFault::client_coughs);
        if ((restless || coughs) && t > next_move_s_) {
            move_from_s_ = t;
            move_until_s_ = t + (coughs ? uniform(0.25, 0.5) : uniform(0.5, 1.6));
            move_l_ = coughs ? uniform(0.15, 0.4) : uniform(0.05, 0.20) * (uniform(0, 1) < 0.5 ? -1 : 1);
            if (restless) posture_l_ += normal(0.5);
            next_move_s_ = t + uniform(3, 8);
        }
        if (t < move_until_s_)
            pushed_l += move_l_ * std::pow(std::sin(pi * (t - move_from_s_) / (move_until_s_ - move_from_s_)), 2);
    }
    // the room
    if (has(ChamberFault::room_door) && t > next_slam_s_) {
        room_pa_ += uniform(12, 45) * (uniform(0, 1) < 0.5 ? -1 : 1);
        next_slam_s_ = t + uniform(8, 20);
    }
    if (has(ChamberFault::draught))
        wander_pa_ += (-wander_pa_ / 0.7) * dt + normal(severity_ * 22 * std::sqrt(dt));
    else
        wander_pa_ *= 1 - dt / 0.7;
    const double room = room_pa_ + wander_pa_;
    room_pa_ *= 1 - dt / build_.vent_s;

    // both chambers: adiabatic air, with what behaves isothermally counting 1.4 times
    const double stiff_test = gamma * barometric_pa() / (build_.test_l - solid_l - isothermal_l + gamma * isothermal_l),
                 stiff_reference = gamma * barometric_pa() / build_.reference_l;
    const double phase = 2 * pi * build_.drive_hz * (1 + build_.drive_error) * t;
    const double wall = build_.wall_l * (std::sin(phase) + build_.second * std::sin(2 * phase + second_phase_) +
                                            build_.third * std::sin(3 * phase + third_phase_));
    // what the air has on it besides the drive makes it stiffer for the drive
    const double mean_test = stiff_test * (pushed_l + warmth_l_ - gone_test_l_),
                 mean_reference = -stiff_reference * gone_reference_l_;
    p_test_ = door_open_ ? 0 : mean_test + stiff_test * (1 + build_.stiffening_per_pa * mean_test) * wall + heart_pa;
    p_reference_ = mean_reference - stiff_reference * (1 + build_.stiffening_per_pa * mean_reference) * wall;
    const double leak = has(ChamberFault::door_leaks) ? severity_ * leak_l_per_pa_s : 0;
    gone_test_l_ += dt * ((p_test_ - room) * leak + (p_test_ - room) / (stiff_test * build_.vent_s));
    gone_reference_l_ += dt * (p_reference_ - room) / (stiff_reference * build_.vent_s);
    p_test_ -= door_open_ ? 0 : room;
    p_reference_ -= room;
    if (has(ChamberFault::warming_up)) gain_drift_ += severity_ * 9e-5 * dt;
}

ChamberAir::Said ChamberAir::at(double t_s)
{
    while (now_s_ + step_s <= t_s + 1e-9) step(step_s);
    Said said;
    said.pressures = {t_s, build_.gain_test * (1 + gain_drift_) * p_test_ + normal(build_.noise_pa),
        build_.gain_reference * p_reference_ + normal(build_.noise_pa), door_open_};
    if (build_.quantum_pa > 0)
        for (double* p : {&said.pressures.test_pa, &said.pressures.reference_pa})
            *p = build_.quantum_pa * std::round(*p / build_.quantum_pa);
    if (has(ChamberFault::clipped)) {
        const double range = 0.93 * gamma * barometric_pa() / build_.test_l * build_.wall_l;
        said.pressures.test_pa = std::clamp(said.pressures.test_pa, -range, range);
    }
    said.airway = tube_;
    said.airway_pa = airway_pa_ + normal(2.0);
    return said;
}

std::vector<chamber::Sample> record(ChamberAir& air, double from_s, double length_s, double rate_hz, double jitter)
{
    std::vector<chamber::Sample> out;
    std::mt19937_64 random(static_cast<std::uint64_t>(1e6 * (from_s + length_s + rate_hz)));
    std::uniform_real_distribution<double> off(-jitter, jitter);
    for (double t = 0; t <= length_s; t += 1 / rate_hz) {
        auto said = air.at(from_s + t + (jitter > 0 ? off(random) / rate_hz : 0)).pressures;
        said.t_s -= from_s;
        out.push_back(said);
    }
    return out;
}

} // namespace fusain::virt
