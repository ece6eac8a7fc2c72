// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/analyser/analyser_events.h"
#include "bench/visit/visit.h"
#include "core/impedance/impedance.h"
#include "core/impedance/sweep.h"

/// Impedance on the bench.
namespace fusain::bench {

/// What a recording of the analyser is of.
namespace take {
inline constexpr char body[] = "body"; ///< all five segments; or one of them by its id, again
}

class AnalyserState : public MethodState {
public:
    const BenchRow& row() const override;
    std::unique_ptr<MethodState> copy() const override { return std::make_unique<AnalyserState>(*this); }
    void begin(const event::Started& started, const std::string& body) override;
    [[nodiscard]] std::optional<Message> refuse_trial(
        const Visit&, const event::TrialBegun&, const Stamp&) const override;
    [[nodiscard]] std::optional<Message> take_reading(
        const Visit& before, const Trial& running, const Event& taken) override;
    [[nodiscard]] std::optional<Message> take_typed(
        const Visit& before, const Trial& trial, const Event& typed) override;
    /// |Z| of the whole body at 50 kHz, of a recording that has it.
    std::optional<double> value(const Visit& visit, const Trial& trial) const override;
    Outcome<Result> result(const Visit& visit) const override;
    Outcome<Result> provisional(const Visit& visit) const override { return result(visit); }
    std::vector<WhatIf> what_ifs(const Visit& visit) const override;
    std::string schools(const Visit& visit) const override;
    std::string lung(const Visit&) const override { return {}; }

    /// The newest that stands of each segment, with the number of its trial; empty points: not measured.
    struct Standing {
        Measured of;
        int trial = 0;
    };
    std::array<Standing, impedance::segment_count> segments(const Visit& visit) const;
    std::optional<Standing> whole_body(const Visit& visit) const;
    /// Enough for a result: the segments between right hand and right foot, or the whole body.
    bool enough(const Visit& visit) const;
    std::optional<impedance::Input> input(const Visit& visit) const;
    /// What was found while measuring what stands: code and words.
    std::vector<std::pair<std::string, std::string>> doubts(const Visit& visit) const;

    std::vector<std::string> prepared, left_out; ///< what was seen to; what leaving the rest out does, in words
    impedance::Choice equations;
    impedance::ExpectedBy expected_by = impedance::ExpectedBy::height;
    std::string gap_rule = "ten_percent";
    std::string profile_id; ///< of the instrument; empty: it has none
    std::vector<InstrumentsOwn> own_numbers;
    std::string own_from; ///< name of the file they came from; empty: typed

private:
    struct Taken : Spectra {
        std::vector<SpectrumFound> found;
        double mass_after_kg = 0;                          ///< by the platform; 0: not heard
        impedance::Again again(std::size_t segment) const; ///< by the worst that was found of it
    };
    impedance::Input person(const Visit& visit) const;
    bool typed(const Visit& visit) const;
    std::map<int, Taken> taken_; ///< by the number of the trial
};

/// Of a visit that is by this method.
const AnalyserState& analyser_of(const Visit& visit);
/// Null when it is by another.
const AnalyserState* analyser_if(const Visit& visit);
const BenchRow& analyser_row();
namespace step {
extern const Step stance, spectrum;
}

/// What leaving a step of the stance out does, one row each.
struct StanceRow {
    const char *id, *words, *noted, *effect; ///< effect: of leaving it out
};
std::span<const StanceRow> stance_rows();

} // namespace fusain::bench
