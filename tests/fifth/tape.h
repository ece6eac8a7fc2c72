// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/checks/instrument_kind.h"
#include "bench/density/density_state.h"
#include "bench/visit/visit.h"

/// A made-up fifth method: a tape about the trunk, one typed number that becomes a volume. Its rooms on every floor are
/// the files of this folder.
namespace fusain::bench {

namespace event {
struct TapeTyped : TrialTyped {
    double girth_cm = 0;
};
} // namespace event

namespace take {
inline constexpr char tape[] = "tape";
}
namespace step {
extern const Step tape;
}

class TapeState : public DensityState {
public:
    const BenchRow& row() const override;
    std::unique_ptr<MethodState> copy() const override { return std::make_unique<TapeState>(*this); }
    [[nodiscard]] std::optional<Message> refuse_trial(
        const Visit&, const event::TrialBegun&, const Stamp&) const override;
    [[nodiscard]] std::optional<Message> take_reading(const Visit&, const Trial&, const Event&) override;
    [[nodiscard]] std::optional<Message> take_typed(const Visit&, const Trial&, const Event&) override;
    std::optional<double> value(const Visit&, const Trial& trial) const override;
    Outcome<Result> result(const Visit& visit) const override;
    Outcome<Result> provisional(const Visit& visit) const override { return result(visit); }
    std::vector<WhatIf> what_ifs(const Visit& visit) const override;
    std::string schools(const Visit&) const override { return conversion; }
    std::string lung(const Visit&) const override { return ""; }

    std::map<int, double> girths_cm; ///< by the number of the reading

private:
    Outcome<Result> from(const Visit& visit, double more_cm) const;
};

const TapeState& tape_of(const Visit& visit);
const BenchRow& tape_row();
const InstrumentKind& tape_instrument();

} // namespace fusain::bench
