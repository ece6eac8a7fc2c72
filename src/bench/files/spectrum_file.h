// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/base/event.h"
#include "core/base/outcome.h"

#include <string>

/// Files of an analyser (docs/formats/spectrum-file.md): spectra as CSV, or a table of its own numbers.
namespace fusain::bench {

struct SpectrumFile {
    Json spectra; ///< the body of `trial_typed` without its source: segments or whole body; null: none in it
    Json own;     ///< rows of the instrument's own numbers; null: none in it
    int points = 0;
};
/// CSV with comma, semicolon or tab; a decimal comma where the separator is another; a byte-order mark and lines that
/// begin with # are passed over.
///   segment,f_khz,r_ohm,x_ohm    spectra; segment: right_arm …, "right arm", or whole_body
///   quantity,value,unit          the instrument's own numbers, kept as they are
/// Refused: bad_file, with line and column and what is allowed there.
Outcome<SpectrumFile> read_spectrum_file(const std::string& text, const std::string& file);

} // namespace fusain::bench
