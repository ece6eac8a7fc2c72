// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/visit/visit.h"
#include "bench/xray/xray_events.h"

/// X-ray absorptiometry on the bench.
namespace fusain::bench {

namespace take {
inline constexpr char scan[] = "scan"; ///< the whole body
}

/// Lines that somebody has looked at: what they give.
struct LinesSeen : LinesGiven {
    int trial = 0;
    std::string who, at_utc;
};

class XrayState : public MethodState, public event::XrayStarted {
public:
    const BenchRow& row() const override;
    std::unique_ptr<MethodState> copy() const override { return std::make_unique<XrayState>(*this); }
    void begin(const event::Started& started, const std::string& body) override;
    [[nodiscard]] std::optional<Message> refuse_trial(
        const Visit& visit, const event::TrialBegun& begun, const Stamp& stamp) const override;
    [[nodiscard]] std::optional<Message> take_reading(
        const Visit& before, const Trial& running, const Event& taken) override;
    [[nodiscard]] std::optional<Message> take_typed(
        const Visit& before, const Trial& trial, const Event& typed) override;
    /// What was scanned, kg.
    std::optional<double> value(const Visit& visit, const Trial& trial) const override;
    Outcome<Result> result(const Visit& visit) const override;
    Outcome<Result> provisional(const Visit& visit) const override { return result(visit); }
    std::vector<WhatIf> what_ifs(const Visit& visit) const override;
    std::string schools(const Visit& visit) const override;
    std::string lung(const Visit&) const override { return {}; }

    /// The newest that stands; its trial. Null: none.
    const ScanTaken* standing(const Visit& visit, int* trial = nullptr) const;
    /// Of the scan that stands; null while nobody has looked at them, or there are none.
    const LinesSeen* lines(const Visit& visit) const;
    bool lines_done(const Visit& visit) const;
    std::optional<xray::Input> input(const Visit& visit) const;
    void take_lines(const Visit& visit, const event::Lines& seen, const Stamp& stamp);
    /// Beams that were begun in this visit, whatever became of them: each is a dose.
    int beams(const Visit& visit) const;

    bool positioned = false;
    std::vector<std::string> prepared, left_out; ///< what was seen to; what leaving the rest out does, in words
    xray::Half half = xray::Half::none;
    bool trunk_with_head = false; ///< how trunk numbers are shown; the house's rule
    std::string table_id;         ///< tissue table of the instrument; empty: it has none

private:
    xray::Input person(const Visit& visit) const;
    [[nodiscard]] std::optional<Message> refuse_before(const Visit& visit) const;
    void take(const Trial& trial, const ScanTaken& scan);
    std::map<int, ScanTaken> taken_;
    std::optional<LinesSeen> seen_;
};

const XrayState& xray_of(const Visit& visit);
const XrayState* xray_if(const Visit& visit);
const BenchRow& xray_row();
namespace step {
extern const Step lying, scan, lines;
}

/// What is seen to before the beam, one row each; without an effect it is never left out.
struct LyingRow {
    const char *id, *words, *noted, *effect;
};
std::span<const LyingRow> lying_rows();

/// A map as a recording, a pixel a row, and back. Nothing when rows are missing.
inline constexpr const char* map_columns = "row,column,low,high";
Signal signal_of(const xray::Map& map);
std::optional<xray::Map> map_from(const Signal& signal, const ScanTaken& of);

} // namespace fusain::bench
