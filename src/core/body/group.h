// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <optional>
#include <span>

/// Where a value stands among people who were measured alike.
namespace fusain::group {

inline constexpr int fewest = 20; ///< fewer people are no group

struct Standing {
    double percentile = 0; ///< share of the group under the value, those like it counted half, 0–100
    int n = 0;
};
/// Given:    one value a person, of one quantity by one method; the value held against them
/// Returned: nothing under twenty people, or when the value is not finite; values of the group that are not finite do
///           not count
std::optional<Standing> standing(std::span<const double> group, double value);

} // namespace fusain::group
