// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/body/group.h"

#include <cmath>

namespace fusain::group {

std::optional<Standing> standing(std::span<const double> group, double value)
{
    double under = 0;
    int n = 0;
    if (!std::isfinite(value)) return std::nullopt;
    for (const double other : group) {
        if (!std::isfinite(other)) continue;
        ++n;
        under += other < value ? 1 : other == value ? 0.5 : 0;
    }
    if (n < fewest) return std::nullopt;
    return Standing{100 * under / n, n};
}

} // namespace fusain::group
