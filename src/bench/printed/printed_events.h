// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/visit/events.h"
#include "core/printout/read.h"

namespace fusain::bench {

/// One number beside how it came: what the reader of the paper made of it.
struct PrintedNote {
    std::string read{}; ///< what the reader saw, where somebody wrote something else; empty: the same, or typed
    bool doubtful = false;
};

/// In the unit of the layout's field.
struct PrintedValue : PrintedNote {
    std::string key{}, text{};
    std::optional<double> value{};
    int decimals = 0;
    std::optional<double> low{}, high{}; ///< the instrument's own limits
};

} // namespace fusain::bench

namespace fusain::bench::event {

/// What the instrument shows, typed or of a file.
struct Printout : OfFile {
    static constexpr char kind[] = "printout";
    std::string source{}; ///< typed, file
    std::vector<PrintedValue> values{};
    std::vector<printout::Identity> client{};
};

} // namespace fusain::bench::event
