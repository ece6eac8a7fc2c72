// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/signal/chamber.h"
#include "core/signal/swing.h"

#include <algorithm>
#include <string>
#include <vector>

namespace fusain::bench {

inline constexpr const char* swing_columns = "t_s,mass_kg";
inline constexpr const char* chamber_columns =
    "t_s,p_test_pa,p_reference_pa,door"; ///< as `fusain-cli read chamber` takes it
inline constexpr const char* puff_columns = "t_s,p_test_pa,p_airway_pa";

/// A stretch of raw signal: rows of numbers under named columns, the first of which is time in seconds.
struct Signal {
    std::string columns = swing_columns;
    std::vector<double> values; ///< row after row

    std::size_t width() const { return 1 + static_cast<std::size_t>(std::count(columns.begin(), columns.end(), ',')); }
    std::size_t size() const { return values.size() / width(); }
    bool empty() const { return values.empty(); }
    double at(std::size_t row, std::size_t column) const { return values[row * width() + column]; }
    double last_s() const { return empty() ? 0 : at(size() - 1, 0); }
    void add(std::initializer_list<double> row) { values.insert(values.end(), row); }
};

/// One write of a signal that is still growing.
struct SignalChunk {
    long visit = 0;
    int trial = 0;
    int seq = 0;
    Signal signal;
};

inline Signal signal_of(const std::vector<swing::Sample>& samples)
{
    Signal out;
    for (const swing::Sample& s : samples) out.add({s.t_s, s.kg});
    return out;
}

} // namespace fusain::bench
