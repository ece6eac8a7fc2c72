// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"

#include <span>
#include <string_view>

namespace fusain::limits {

/// Physical limits of one input field. A value outside is an error, never clamped.
struct Limit {
    const char* field; ///< path in the calculation interface
    const char* title; ///< words for a person
    const char* unit;  ///< as stored (metric)
    double low, high;  ///< allowed range
    bool low_excluded; ///< true: the low end itself is not allowed
    int decimals;      ///< digits that make sense when shown
};

std::span<const Limit> table();
const Limit& of(std::string_view field);

/// Checks a value against the limit of its field; NaN and infinities fail.
/// Returns nothing when the value is allowed, else an `out_of_range` error that names field, value and limits, and
/// guesses at a unit that was mixed up (1.78 typed for 178 cm, 95 °F for °C) without ever converting it.
[[nodiscard]] std::optional<Message> check(std::string_view field, double value);

/// A number as a person would write it: at most `decimals` digits, no trailing zeros.
std::string plain(double value, int decimals = 6);

} // namespace fusain::limits
