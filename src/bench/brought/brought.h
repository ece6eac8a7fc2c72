// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/visit/visit.h"

#include <map>

/// A result that was told elsewhere, before this program or by another instrument, taken over from a file: a visit like
/// any other, with its log and its snapshot, and without measuring.
namespace fusain::bench {

class BroughtState : public MethodState {
public:
    explicit BroughtState(protocol::Method method) : method_(method) {}
    const MethodRow& row() const override;
    std::unique_ptr<MethodState> copy() const override { return std::make_unique<BroughtState>(*this); }
    void begin(const protocol::HouseRules&, const Json&) override {}
    std::optional<Message> refuse_trial(const Visit&, const Event&) const override;
    std::optional<Message> refuse_reading(const Visit&, const Trial&, const Event&) const override;
    void take_reading(const Trial&, const Event&) override {}
    std::optional<Message> refuse_typed(const Visit&, const TakeRow&, const Event&) const override;
    void take_typed(const Visit&, const Trial&, const Event&) override {}
    std::optional<double> value(const Visit&, const Trial&) const override { return std::nullopt; }
    Outcome<Result> result(const Visit& visit) const override;
    Outcome<Result> provisional(const Visit& visit) const override { return result(visit); }
    std::vector<WhatIf> what_ifs(const Visit&) const override { return {}; }
    std::string schools(const Visit&) const override { return equations.empty() ? "not said" : equations; }
    std::string lung(const Visit&) const override { return ""; }

    std::map<std::string, double> values; ///< as they were told, by the quantity's id
    double u_fat_percent = 0;
    bool u_told = false; ///< the error came with them; else it is the lab's rule
    std::string file, sha256, equations;
    long line = 0;
    bool hour_known = true;

private:
    protocol::Method method_;
};

/// Of every method that can be told.
const MethodRow& brought_row(protocol::Method method);
const BroughtState& brought_of(const Visit& visit);

} // namespace fusain::bench
