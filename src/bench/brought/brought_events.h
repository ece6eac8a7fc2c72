// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/visit/events.h"

namespace fusain::bench::event {

/// A result from a table, which line of which file it is, and what its error is.
struct Brought : OfFile {
    static constexpr char kind[] = "brought";
    std::map<std::string, double> values{}; ///< as they were told, by the quantity's id
    double u_fat_percent = 0;
    bool u_told = false; ///< the error came with them; else it is the lab's rule
    long line = 0;
    std::string equations{};
    bool hour_known = true;
};

} // namespace fusain::bench::event
