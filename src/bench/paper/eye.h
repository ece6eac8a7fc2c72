// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/paper/clean.h"

#include <string>

namespace fusain::bench::paper {

/// A word as the reader of letters has it.
struct Read {
    std::string text;
    Rect box; ///< dots of the picture that was given
    double confidence = 0;
};

/// Whether letters can be read at all on this machine.
bool eye_is_ready();
/// One line of words.
std::vector<Read> line_of(Pix* grey);

} // namespace fusain::bench::paper
