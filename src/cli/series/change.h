// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <iosfwd>

namespace fusain::cli {

/// One series a line in, one answer a line out (docs/formats/calculation.md). False when any had an error.
bool change(std::istream& in, std::ostream& out);

} // namespace fusain::cli
