// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/chamber/chamber_events.h"
#include "bench/density/density_state.h"
#include "bench/visit/visit.h"
#include "core/density/displacement.h"
#include "core/signal/chamber.h"

/// Air displacement on the bench.
namespace fusain::bench {

/// What a recording of the chamber is of.
namespace take {
inline constexpr char empty[] = "empty", cylinder[] = "cylinder", run[] = "run", puffs[] = "puffs";
}

enum class ChamberWhat { empty, cylinder, run, puffs };
const char* word(ChamberWhat what); ///< as the log has it

class ChamberState : public DensityState {
public:
    const BenchRow& row() const override;
    std::unique_ptr<MethodState> copy() const override { return std::make_unique<ChamberState>(*this); }
    void begin(const event::Started& started, const std::string& body) override;
    [[nodiscard]] std::optional<Message> refuse_trial(
        const Visit& visit, const event::TrialBegun& begun, const Stamp& stamp) const override;
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

    /// As one text to compare.
    static std::string schools_of(const std::string& conversion, const std::string& lung_gas);
    /// The newest calibration. Refused while there is none.
    Outcome<chamber::Calibration> calibration(const Visit& visit) const;
    /// Of the reading that ended the newest calibration; empty while there is none.
    std::string calibrated_at(const Visit& visit) const;
    std::optional<displacement::Input> input(const Visit& visit) const;
    const Puffing* last_puffing(const Visit& visit) const; ///< null: none stands
    /// The newest lung gas that was accepted, with its uncertainty.
    struct Gas {
        double litres = 0, u_l = 0;
    };
    std::optional<Gas> measured_gas(const Visit& visit) const;
    std::optional<Gas> puffed_gas(const Visit& visit) const; ///< from puffs alone
    /// What the result really uses: puffs that were thrown out cannot be used, whatever was chosen.
    displacement::LungRoute gas_route_used(const Visit& visit) const;

    /// Volumes that the instrument gives are its own, from its own calibration.
    bool self_calibrated() const { return self_from_ > 0; }
    void calibrate_itself(const Visit& visit);
    bool enough(const Visit& visit) const; ///< two runs agree, or the instrument's own mean is there
    /// A volume that was typed stands for this run; null: none.
    const double* typed_volume_l(int trial) const;

    std::optional<double> cylinder_l;            ///< certified volume used
    std::vector<std::string> prepared, left_out; ///< what was seen to; what leaving the rest out does, in words
    displacement::LungRoute gas_route = displacement::LungRoute::predicted;
    std::string gas_equation = lung::default_gas_id;
    bool gas_done = false;
    std::map<int, chamber::Ratio> ratios;                    ///< by the number of the trial
    std::map<int, Puffing> puffings;                         ///< by the number of the trial
    std::map<int, double> typed_l;                           ///< by the number of the trial
    std::optional<double> typed_gas_l;                       ///< as the instrument gave it, newer than any puffs
    bool surface_corrected = false, lungs_corrected = false; ///< what the typed volumes hold already
    bool mean_of_runs = false;                               ///< one volume that the instrument made of its runs

private:
    [[nodiscard]] std::optional<Message> refuse_ratio(
        const Visit& visit, const Trial& of, const chamber::Ratio& read) const;
    [[nodiscard]] std::optional<Message> refuse_volume(const Visit& visit, const event::VolumeTyped& typed) const;
    int self_from_ = 0; ///< typed runs count from this trial on; 0: the instrument has not calibrated itself
};

/// Of a visit that is by this method.
const ChamberState& chamber_of(const Visit& visit);
const BenchRow& chamber_row();
/// Of a recording that is long enough and has no fault; else nothing.
std::optional<RatioRead> ratio_read(const chamber::State& state);
namespace step {
extern const Step prepare, calibrate, runs, lung_gas;
}

/// How old a calibration may be when the first run begins and when any later one does, minutes, and how large a test
/// chamber can be: the house's own, marked as such in docs/chamber-signal.md.
inline constexpr double calibration_holds_min = 15, calibration_ends_min = 30, smallest_chamber_l = 250,
                        largest_chamber_l = 900;

} // namespace fusain::bench
