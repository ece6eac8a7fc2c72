// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/printout/layout.h"

namespace fusain::bench {

/// The layout of a printout (docs/formats/printout-layout.md). A file that cannot be used is refused; each message has
/// the path in the file as its field (`fields[3].quantity`). Members that are not known are named as cautions.
Outcome<printout::Layout> read_layout(const std::string& text, const std::string& file);
std::string write_layout(const printout::Layout& layout);

} // namespace fusain::bench
