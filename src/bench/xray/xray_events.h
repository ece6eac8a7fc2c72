// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/files/region_table.h"
#include "bench/visit/events.h"
#include "core/xray/half.h"
#include "core/xray/likeness.h"
#include "core/xray/scan.h"

namespace fusain::bench {

/// What a scan, a file or typing brought: what each region holds and, where there is a map, the lines that cut it.
struct ScanTaken : RegionMasses {
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
/// Of a map that was read.
ScanTaken scan_taken(const xray::Scan& scan, const Messages& found, const xray::Table& table, xray::Half half,
    Eigen::Index scanned_columns);

/// Lines, what they give, what a millimetre of them is worth, how they lie beside last time's.
struct LinesGiven {
    xray::Lines lines;
    xray::Regions regions{};
    std::optional<xray::Visceral> visceral;
    xray::LinesWorth worth; ///< kg of lean a millimetre
    std::string by;         ///< program, technician, last
    struct FromLast {
        std::string string;
        double mm = 0, grams = 0;
    };
    std::vector<FromLast> from_last; ///< empty: there is no last scan with lines
};

const char* word(xray::Half half);

} // namespace fusain::bench

namespace fusain::bench::event {

/// What `started` of an X-ray visit says besides: who may start the beam, the table, and what beams there were before.
struct XrayStarted {
    std::vector<std::string> licensed{};
    double rated_mass_kg = 0, dose_usv = 0; ///< 0: not known
    int scans_before = 0;                   ///< in the twelve months before, in this lab
    double dose_before_usv = 0;
    std::string phantom{}; ///< today's, in words
    std::optional<xray::BoneReference> bone_reference{};
};

/// What was seen to before the beam; what leaving the rest out does, in words.
struct Lying {
    static constexpr char kind[] = "lying";
    std::vector<std::string> seen{}, left_out{};
    xray::Half half = xray::Half::none; ///< where only that one lies in the field
};

/// Typed, for this visit.
struct BoneReference : xray::BoneReference {
    static constexpr char kind[] = "bone_reference";
};

struct MapTaken : TrialTaken, ScanTaken {
    double dose_usv = 0;
};

struct ScanTyped : TrialTyped, ScanTaken {};

/// Lines that somebody has looked at.
struct Lines : LinesGiven {
    static constexpr char kind[] = "lines";
};
Lines lines_of(const xray::Composition& scan, const xray::Lines& lines, const std::string& by,
    const std::optional<xray::Lines>& last_carried);

} // namespace fusain::bench::event
