// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"
#include "core/base/person.h"
#include "core/base/propagate.h"

#include <optional>
#include <span>
#include <string_view>

/// Volume, water and bone mineral of the same day, combined: fewer assumptions than any one method.
namespace fusain::compartments {

/// What an equation takes, and what it no longer assumes.
struct Equation {
    const char *id, *title, *source, *drops;
    bool needs_water, needs_bone;
    double volume, water, bone, mass; ///< fat mass = volume·V + water·TBW + bone·BMC + mass·M
    double model_percent;             ///< standard uncertainty, % fat, of what it still assumes (docs/science)
};
std::span<const Equation> equations();
const Equation* find(std::string_view id);
inline constexpr const char* default_id = "wang_2002";
inline constexpr double water_kg_per_l = 0.99371; ///< at 36 °C, as the equations have it

/// Standard uncertainties: of the measurements of one lab, and of what the equation still assumes.
struct InputErrors {
    double mass_kg = 0.05, volume_l = 0.10, water_kg = 0.7, bone_share = 0.015, height_cm = 0.5;
};

struct Input {
    Sex sex = Sex::female;
    double age_y = 0, height_cm = 0, mass_kg = 0;
    double volume_l = 0;
    std::optional<double> water_kg, bone_kg; ///< total body water; bone mineral content
    std::string equation = default_id;
    InputErrors errors;
};

/// Fat of three or four compartments.
///
/// Given:    mass, body volume, total body water and bone mineral content (those that the equation takes), same day
/// Returned: percent fat, fat mass, fat-free mass, indexes, balance; with propagated uncertainty and its budget
/// Source:   the equations by their own; Mo (bone mineral) = 1.0436·BMC, total mineral = 1.2741·BMC
/// Refused:  error: out_of_range, missing_field, unknown_choice
/// Cautions: fat_unusual, under_minimum, low_reserve
Outcome<Result> compute(const Input& in, Detail detail = Detail::whole);

} // namespace fusain::compartments
