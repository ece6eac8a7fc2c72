// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <iosfwd>

namespace fusain::cli {

/// Reads a load-cell trace (CSV `t_s,mass_kg`, `#` comments) and writes one JSON object. False when the file is an
/// error.
bool read_swing(std::istream& in, std::ostream& out);

/// Reads a recording of a displacement chamber (columns t_s,p_test_pa,p_reference_pa,door) with its two calibrations
/// and writes one JSON object. False: a file or an option could not be used.
bool read_chamber(std::istream& run, std::istream& empty, std::istream& cylinder, double cylinder_l, double drive_hz,
    std::ostream& out);

/// Reads a two-energy map (DICOM) with its tissue table and, when there are any, lines (JSON); writes one JSON object.
/// False: a file could not be used.
bool read_scan(std::istream& map, std::istream& table, std::istream* lines, std::ostream& out);

/// Reads a printout (PDF, PNG, JPEG, TIFF) by the lab's layout of it (JSON); writes one JSON object. False: a file
/// could not be used.
bool read_printout(std::istream& file, std::istream& layout, std::ostream& out);

} // namespace fusain::cli
