// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/xray/lines.h"
#include "core/xray/map.h"

#include <string>

/// Two-energy maps as DICOM files, tissue tables and lines as JSON (docs/formats/scan.md).
namespace fusain::bench {

/// What a file says of whom and when. Never trusted: compared with the client, and asked about where it differs.
struct ScanOf {
    std::string name, id, birth_date, sex, date; ///< as they stand there; empty: not said
};
struct ScanFile {
    xray::Map map;
    ScanOf of;
};

/// A Multi-frame Grayscale Word Secondary Capture of two frames (low, then high energy), unsigned 16 bit, uncompressed
/// little endian. Stored value × slope + intercept = ln(I0/I).
///
/// Refused: error not_dicom, other_kind, compressed, wrong_tag, missing_tag, cut_short, frames_swapped; the message
///          names tag and value
Outcome<ScanFile> read_scan(const std::string& bytes, const std::string& file);
/// The same map as such a file. Values are rounded to 1/5 000.
std::string write_scan(const ScanFile& scan);

Outcome<xray::Table> read_tissue_table(const std::string& text, const std::string& file);
Outcome<xray::Lines> read_lines(const std::string& text, const std::string& file);
std::string write_lines(const xray::Lines& lines);

} // namespace fusain::bench
