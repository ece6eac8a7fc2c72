// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/brought/brought_events.h"
#include "bench/visit/visit.h"

/// A result that was told elsewhere, before this program or by another instrument, taken over from a file: a visit like
/// any other, with its log and its snapshot, and without measuring.
namespace fusain::bench {

class BroughtState : public MethodState, public event::Brought {
public:
    explicit BroughtState(Method method) : method_(method) {}
    const BenchRow& row() const override;
    std::unique_ptr<MethodState> copy() const override { return std::make_unique<BroughtState>(*this); }
    void begin(const event::Started&, const std::string&) override {}
    [[nodiscard]] std::optional<Message> refuse_trial(
        const Visit&, const event::TrialBegun&, const Stamp&) const override;
    [[nodiscard]] std::optional<Message> take_reading(const Visit&, const Trial&, const Event&) override;
    [[nodiscard]] std::optional<Message> take_typed(const Visit&, const Trial&, const Event&) override;
    std::optional<double> value(const Visit&, const Trial&) const override { return std::nullopt; }
    Outcome<Result> result(const Visit& visit) const override;
    Outcome<Result> provisional(const Visit& visit) const override { return result(visit); }
    std::vector<WhatIf> what_ifs(const Visit&) const override { return {}; }
    std::string schools(const Visit&) const override { return equations.empty() ? "not said" : equations; }
    std::string lung(const Visit&) const override { return ""; }

private:
    Method method_;
};

/// Of every method that can be told.
const BenchRow& brought_row(Method method);
const BroughtState& brought_of(const Visit& visit);

} // namespace fusain::bench
