// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/density/density_state.h"
#include "bench/tank/tank_events.h"
#include "bench/visit/visit.h"
#include "core/density/hydrostatic.h"

/// Hydrostatic weighing on the bench.
namespace fusain::bench {

/// What a recording is of.
namespace take {
inline constexpr char weighing[] = "weighing";
}

struct Blow {
    double volume_l = 0; ///< as the spirometer gave it (ATPS)
    bool thrown_out = false;
    std::string reason;
    std::string source = "spirometer"; ///< "typed": read off another one
    /// In the body (BTPS), L; nothing while temperature (°C) or pressure (mmHg) of the room is not known.
    std::optional<double> in_the_body_l(std::optional<double> gas_temp_c, std::optional<double> barometric_mmhg) const;
};
inline constexpr int least_blows = 3; ///< the best of so many counts

/// L BTPS, with its standard uncertainty.
struct ResidualVolume {
    double litres = 0, u_l = 0;
};

/// What was read from a trial under water.
struct Weighing : swing::Reading {
    std::string from; ///< for the story, when it was typed: "typed: middle of 9.80 and 10.02 kg, zero 7.54 kg"
};

/// How widely a display may swing for its middle to be a reading, and what share of body mass can be weighed under
/// water: this lab's rules against mistyped digits.
inline constexpr double widest_swing_kg = 1.5, largest_share = 0.15;
/// Standard uncertainty of a zero that was read off a display at rest.
inline constexpr double typed_zero_kg = 0.02;

class TankState : public DensityState {
public:
    const BenchRow& row() const override;
    std::unique_ptr<MethodState> copy() const override { return std::make_unique<TankState>(*this); }
    void begin(const event::Started& started, const std::string& body) override;
    [[nodiscard]] std::optional<Message> refuse_trial(
        const Visit&, const event::TrialBegun&, const Stamp&) const override;
    [[nodiscard]] std::optional<Message> take_reading(
        const Visit& before, const Trial& running, const Event& taken) override;
    [[nodiscard]] std::optional<Message> take_typed(
        const Visit& before, const Trial& trial, const Event& typed) override;
    std::optional<double> value(const Visit& visit, const Trial& trial) const override;
    Outcome<Result> result(const Visit& visit) const override;
    Outcome<Result> provisional(const Visit& visit) const override;
    std::vector<WhatIf> what_ifs(const Visit& visit) const override;
    std::string schools(const Visit& visit) const override;
    std::string lung(const Visit& visit) const override;

    const Weighing* weighing(int trial) const; ///< null: it gave no reading
    const Blow* best_blow() const;             ///< the largest that is kept; null: none
    std::optional<double> best_blow_l() const; ///< its volume, ATPS
    int blows_kept() const;
    /// Input of the computation from what the log holds. Nothing before the trials.
    std::optional<hydrostatic::Input> input(const Visit& visit) const;

    std::vector<Blow> blows;
    std::optional<double> gas_temp_c, barometric_mmhg;
    std::optional<double> measured_rv_l;
    std::optional<hydrostatic::LungRoute> lung_route;
    std::string lung_equation = "quanjer_1993";
    bool lungs_done = false;
    std::optional<double> zero_kg;
    double zero_sd_kg = 0;
    std::string zero_from = "load cell";
    std::optional<double> water_temp_c;
    std::string water_from = "thermometer";
    double salinity_g_per_l = 0;
    std::string trial_rule = trials::default_id;
    std::map<int, Weighing> weighings; ///< by the number of the trial
};

/// Of a visit that is by this method.
const TankState& tank_of(const Visit& visit);
/// What the residual volume would be; nothing while something of it is missing.
std::optional<ResidualVolume> residual_volume(const Visit& visit, const event::Lungs& by);
const BenchRow& tank_row();
namespace step {
extern const Step lungs, zero, water, trials;
}

} // namespace fusain::bench
