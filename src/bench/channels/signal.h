// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <algorithm>
#include <initializer_list>
#include <string>
#include <vector>

namespace fusain::bench {

/// A stretch of what was recorded: rows of numbers under named columns. Of a signal the first is time in seconds; a
/// picture has a row a point, with its place.
struct Signal {
    std::string columns = "t_s";
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

} // namespace fusain::bench
