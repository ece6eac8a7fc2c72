// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/printed/printed_events.h"
#include "bench/visit/visit.h"
#include "core/printout/said.h"

/// A test of today by an instrument that gives finished numbers: typed from what it shows, or read from its printout,
/// by the lab's own layout of it. The layout stands in the visit's log.
namespace fusain::bench {

namespace step {
extern const Step printout;
}

class PrintedState : public MethodState {
public:
    PrintedState(Method method, bool with_mass) : method_(method), with_mass_(with_mass) {}
    const BenchRow& row() const override;
    std::unique_ptr<MethodState> copy() const override { return std::make_unique<PrintedState>(*this); }
    void begin(const event::Started& started, const std::string& body) override;
    [[nodiscard]] std::optional<Message> refuse_trial(
        const Visit&, const event::TrialBegun&, const Stamp&) const override;
    [[nodiscard]] std::optional<Message> take_reading(const Visit&, const Trial&, const Event&) override;
    [[nodiscard]] std::optional<Message> take_typed(const Visit&, const Trial&, const Event&) override;
    std::optional<double> value(const Visit&, const Trial&) const override { return std::nullopt; }
    Outcome<Result> result(const Visit& visit) const override;
    Outcome<Result> provisional(const Visit& visit) const override { return result(visit); }
    std::vector<WhatIf> what_ifs(const Visit&) const override { return {}; }
    std::string schools(const Visit& visit) const override;
    std::string lung(const Visit&) const override { return ""; }

    /// What the computation is given. Its `printed` belongs to this state.
    printout::Said said(const Visit& visit) const;
    std::vector<printout::Way> ways(const Visit& visit) const;
    std::string told_by(const Visit& visit) const; ///< an id of `ways`; empty: there is none
    const printout::Field* field(std::string_view key) const;

    printout::Layout layout;
    printout::Reading reading; ///< as it was taken; without values: not yet
    std::map<std::string, PrintedNote> notes;
    std::string source, file, sha256; ///< source: typed or file
    std::string chosen;               ///< how it is told; empty: the usual way
    bool by_file = false;             ///< its numbers usually come in files
    std::string checked_by;           ///< a way of `check_ways`
    double u_unchecked = 0;           ///< % fat, in its doubt where nobody checks it

private:
    Method method_;
    bool with_mass_; ///< the layout has the mass
};

/// Of the visits that begin with such a layout.
const BenchRow& printed_row(Method method, bool with_mass);
bool has_mass(const printout::Layout& layout);
const PrintedState& printed_of(const Visit& visit);
/// Null when its numbers are no instrument's own.
const PrintedState* printed_if(const Visit& visit);
/// By which instrument's own equations: to be compared with another visit's.
std::string printed_schools(const std::string& layout_id);

/// Of what was typed or read.
event::Printout printout_event(const printout::Reading& reading, const std::map<std::string, PrintedNote>& notes,
    const std::string& source, const std::string& file = "", const std::string& sha256 = "");

} // namespace fusain::bench
