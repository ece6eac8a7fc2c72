// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/before/protocol.h"

#include <optional>
#include <span>

/// Results of different methods on one person and one day: shown side by side, never averaged, never taken as a change.
namespace fusain::compare {

/// What two methods usually differ by on the same body, percent fat: first minus second.
struct MethodDifference {
    Method first, second;
    double low, high;
    std::optional<double> mean;
    const char* source;
};
std::span<const MethodDifference> differences();

struct Beside {
    double difference = 0; ///< percent fat, first minus second
    bool usual = true;     ///< inside what the two usually differ by
    std::string sentence;
};
/// Said once beside them.
inline constexpr const char* no_change = "They are never averaged, and a difference between them is no change.";
/// Nothing when no difference of the two methods is known.
std::optional<Beside> beside(Method first, double first_fat, Method second, double second_fat);

} // namespace fusain::compare
