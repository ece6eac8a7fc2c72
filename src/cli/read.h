// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <iosfwd>

namespace fusain::cli {

/// Reads a load-cell trace (CSV `t_s,mass_kg`, `#` comments) and writes one JSON object. False when the file is an error.
bool read_swing(std::istream& in, std::ostream& out);

} // namespace fusain::cli
