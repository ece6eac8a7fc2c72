// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/quantity.h"

#include <optional>
#include <string_view>

namespace fusain::printout {

/// A unit as papers print it.
struct Unit {
    const char* word;
    UnitKind kind;
    double base; ///< how many of the kind's base unit it is (kg, L, kcal, cm, °, Ω, kg/L, kg/m², %)
};

/// Null: no unit that is known. Upper and lower case count alike where that cannot be mistaken.
const Unit* find_unit(std::string_view word);

/// What `value` in the unit `from` is in the unit `to`; nothing: they are not of one kind, or not known. A kilogram of
/// water counts as a litre, as instruments have it.
std::optional<double> converted(double value, std::string_view from, std::string_view to);

} // namespace fusain::printout
