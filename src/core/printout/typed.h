// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/printout/read.h"

#include <optional>
#include <string>
#include <utility>

/// What a person types of a printout, and a layout that is made by typing names.
namespace fusain::printout {

/// A number that was typed for a field, in the field's unit. Point and comma are the decimal mark alike; a unit of the
/// same kind may follow (`12.4 lb`, `11 st 4 lb`). Nothing is typed: nothing.
/// Refused, with the field's key: `not_a_number`; `unit`, one of another kind; `decimals`, more than the layout has.
Outcome<std::optional<Value>> typed_value(const Field& field, const std::string& text);
/// The instrument's own limits, `50.4 - 68.2`. Refused: `limits`, not two numbers, the lower first.
Outcome<std::optional<std::pair<double, double>>> typed_limits(const Field& field, const std::string& text);

/// What a name as printed probably is: `Body fat (kg)`, `Right arm, lean, kg`. Its unit is what stands in brackets or
/// at the end; what cannot be known is left empty, for a person to say. The key is the quantity, or the name.
Field named(const std::string& words);
/// What of the client a name as printed identifies: `number`, `at`, `height_cm`, `age_y`, `sex`; empty: nothing.
std::string identifies(const std::string& label);
/// The usual unit and decimals on paper of a quantity. `decimals` −1: any.
void complete(Field& field);
/// Keys that are each there once.
void number_keys(Layout& layout);
/// A layout's id from its title: `quay_analyser_a`.
std::string id_from(const std::string& title);

} // namespace fusain::printout
