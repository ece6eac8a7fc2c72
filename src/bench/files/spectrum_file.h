// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"
#include "core/impedance/arc.h"

#include <map>
#include <string>
#include <vector>

/// Files of an analyser (docs/formats/spectrum-file.md): spectra as CSV, or a table of its own numbers.
namespace fusain::bench {

/// What was measured of one segment, in one recording, typed, or from a file.
struct Measured {
    std::vector<impedance::Point> points{}; ///< by rising frequency
    int sweeps = 0;                         ///< 0: typed, or from a file
    double noise_share = 0, drift_per_min = 0;
};

/// Of segments (by their index), or of the whole body.
struct Spectra {
    std::map<std::size_t, Measured> segments{};
    std::vector<impedance::Point> whole_body{};
    bool empty() const { return segments.empty() && whole_body.empty(); }
};

/// A number of an instrument that gives only its own: kept and shown, never recomputed.
struct InstrumentsOwn {
    std::string title{}, value{}, unit{};
};

struct SpectrumFile {
    Spectra spectra;
    std::vector<InstrumentsOwn> own;
    int points = 0;
};
/// CSV with comma, semicolon or tab; a decimal comma where the separator is another; a byte-order mark and lines that
/// begin with # are passed over.
///   segment,f_khz,r_ohm,x_ohm    spectra; segment: right_arm …, "right arm", or whole_body
///   quantity,value,unit          the instrument's own numbers, kept as they are
/// Refused: bad_file, with line and column and what is allowed there.
Outcome<SpectrumFile> read_spectrum_file(const std::string& text, const std::string& file);

} // namespace fusain::bench
