// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/visit/visit.h"
#include "core/xray/half.h"
#include "core/xray/likeness.h"
#include "core/xray/scan.h"

/// X-ray absorptiometry on the bench.
namespace fusain::bench {

namespace take {
inline constexpr char scan[] = "scan"; ///< the whole body
}

/// What a scan, a file or typing brought: what each region holds and, where there is a map, the lines that cut it.
struct ScanTaken {
    xray::Regions regions{};
    std::array<bool, xray::region_count> given{};
    bool trunk_has_head = false, sides_told_apart = true;
    std::optional<xray::Mass> total;
    std::optional<double> own_visceral_g; ///< as the instrument tells it
    // with a map
    bool has_map = false;
    int rows = 0, columns = 0;
    int scanned_columns = 0; ///< fewer where one half was scanned and mirrored
    double dx_mm = 0, dy_mm = 0;
    std::string table; ///< id of the tissue table it was read with
    xray::Half half = xray::Half::none;
    xray::Lines lines; ///< as the program placed them
    xray::Frame frame;
    double photons_kg = 0;
    std::optional<xray::Visceral> visceral;
    Messages found;                      ///< while reading
    std::vector<std::string> of_another; ///< what the file says of whom and that differs from the client; agreed to
};

/// Lines that somebody has looked at: what they give.
struct LinesSeen {
    int trial = 0;
    xray::Lines lines;
    xray::Regions regions{};
    std::optional<xray::Visceral> visceral;
    xray::LinesWorth worth; ///< kg of lean a millimetre
    std::string by;         ///< program, technician, last
    std::string who, at_utc;
    struct FromLast {
        std::string string;
        double mm = 0, grams = 0;
    };
    std::vector<FromLast> from_last; ///< empty: there is no last scan with lines
};

class XrayState : public MethodState {
public:
    const MethodRow& row() const override;
    std::unique_ptr<MethodState> copy() const override { return std::make_unique<XrayState>(*this); }
    void begin(const protocol::HouseRules& house, const Json& started) override;
    std::optional<Message> refuse_trial(const Visit& visit, const Event& begun) const override;
    std::optional<Message> refuse_reading(const Visit& visit, const Trial& running, const Event& taken) const override;
    void take_reading(const Trial& running, const Event& taken) override;
    std::optional<Message> refuse_typed(const Visit& visit, const TakeRow& what, const Event& typed) const override;
    void take_typed(const Visit& visit, const Trial& trial, const Event& typed) override;
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
    void take_lines(const Visit& visit, const Event& seen);
    /// Beams that were begun in this visit, whatever became of them: each is a dose.
    int beams(const Visit& visit) const;

    bool positioned = false;
    std::vector<std::string> prepared, left_out; ///< what was seen to; what leaving the rest out does, in words
    xray::Half half = xray::Half::none;
    bool trunk_with_head = false; ///< how trunk numbers are shown; the house's rule
    std::string table_id;         ///< tissue table of the instrument; empty: it has none
    std::vector<std::string> licensed;
    double rated_mass_kg = 0, dose_usv = 0; ///< 0: not known
    int scans_before = 0;                   ///< in the twelve months before, in this lab
    double dose_before_usv = 0;
    std::string phantom; ///< today's, in words
    std::optional<xray::BoneReference> bone_reference;

private:
    xray::Input person(const Visit& visit) const;
    std::optional<Message> refuse_before(const Visit& visit) const;
    std::map<int, ScanTaken> taken_;
    std::optional<LinesSeen> seen_;
};

const XrayState& xray_of(const Visit& visit);
const XrayState* xray_if(const Visit& visit);
const MethodRow& xray_row();
namespace step {
extern const Step lying, scan, lines;
}

/// What is seen to before the beam, one row each; without an effect it is never left out.
struct LyingRow {
    const char *id, *words, *noted, *effect;
};
std::span<const LyingRow> lying_rows();

/// Bodies of events.
Json json_of(const xray::Mass& m);
Json json_of(const xray::Regions& regions, const std::array<bool, xray::region_count>& given);
Json json_of(const xray::Lines& lines);
/// Of a map that was read: what `trial_taken` and `trial_typed` hold of it.
Json json_of(const xray::Scan& scan, const Messages& found, const xray::Table& table, xray::Half half,
    Eigen::Index scanned_columns);
/// The body of `lines`: what they give, what a millimetre of them is worth, how they lie beside last time's.
Json json_of_lines(const xray::Composition& scan, const xray::Lines& lines, const std::string& by,
    const std::optional<xray::Lines>& last_carried);
std::optional<xray::Lines> lines_from(const Json& j);
const char* word(xray::Half half);

/// A map as a recording, a pixel a row, and back. Nothing when rows are missing.
inline constexpr const char* map_columns = "row,column,low,high";
Signal signal_of(const xray::Map& map);
std::optional<xray::Map> map_from(const Signal& signal, const ScanTaken& of);

} // namespace fusain::bench
