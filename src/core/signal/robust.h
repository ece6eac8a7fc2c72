// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <algorithm>
#include <cmath>
#include <vector>

/// Middles and spreads that a few wild values do not move. Empty lists give 0.
namespace fusain::robust {

inline double median(std::vector<double> v)
{
    if (v.empty()) return 0;
    const auto middle = v.begin() + static_cast<long>(v.size() / 2);
    std::nth_element(v.begin(), middle, v.end());
    return *middle;
}

/// As a standard deviation, from the median of the distances to `centre`.
inline double spread(const std::vector<double>& v, double centre)
{
    std::vector<double> away;
    for (double x : v) away.push_back(std::abs(x - centre));
    return 1.4826 * median(std::move(away));
}

inline double quantile(std::vector<double> v, double share)
{
    if (v.empty()) return 0;
    const auto at = v.begin() + static_cast<long>(share * static_cast<double>(v.size() - 1));
    std::nth_element(v.begin(), at, v.end());
    return *at;
}

} // namespace fusain::robust
