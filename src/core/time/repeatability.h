// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/quantity.h"

#include <optional>
#include <string>
#include <string_view>

/// How well a quantity repeats by a method: what a change is held against.
namespace fusain::change {

struct Repeatability {
    double rms_sd = 0;      ///< in the quantity's unit: what tests on two days differ by with nothing changed
    bool by_default = true; ///< not this lab's own study
    std::string source;
    double placing_sd = 0, day_sd = 0; ///< of a study: repeats within hours; what days add. 0, 0: not told apart
    bool over_days = false;            ///< of a study whose repeats lay days apart: what days add is in them
};

/// On what the quantity was measured: relative repeatabilities follow it.
struct Measured {
    double mass_kg = 0, height_cm = 0, value = 0;
    double fat_percent = 0; ///< 0: not known; then all of it is taken for fat-free
};

/// What repeats of a quantity differ by, until the lab has a study of its own.
///
/// Given:    quantity; method as the calculation interface names it (`callipers_and_tape` too); the newest measurement
/// Returned: root-mean-square SD; nothing where none is known: then a change is shown without a verdict.
///           Percent fat σ as published practice has it; body mass σ_M = 0.45 kg from day to day (scale, clothes,
///           water, gut). What follows from them follows: fat mass √((M·σ)² + (f·σ_M)²), fat-free mass and lean soft
///           tissue √((M·σ)² + ((1 − f)·σ_M)²), f the share of fat; indexes = masses / height²; skinfolds 5 % of the
///           sum; a girth 1 cm of least significant change
/// Source:   percent fat: as the method's row has it, common laboratory experience; folds and girths: this lab's rule
std::optional<Repeatability> repeatability(const Quantity& quantity, std::string_view method, const Measured& on);

/// What days add to repeats within hours: water, gut, skin.
///
/// Given:    quantity, method, the newest measurement
/// Returned: SD in the quantity's unit: the default above where there is one; parts by their share of all that is, or
///           is not, fat; resistances 1.5 %, phase angle 2 %, ratios 1 %; bone mineral and right less left 0
/// Source:   the defaults' own; the rest is this lab's rule
double between_days(const Quantity& quantity, std::string_view method, const Measured& on);

/// What a study of repeats has shown.
struct Study {
    double sd = 0;         ///< in the quantity's unit
    double percent_sd = 0; ///< of percent fat; 0: not known
    double mass_kg = 0;    ///< that its people weigh; 0: not known
    std::string source;
    bool over_days = false; ///< its repeats lay days apart: what days add is in them
};

/// A lab's own study as it holds between days: √(study² + day²), day = 0 where its repeats lay days apart.
///
/// Given:    quantity, method, the newest measurement, the study
/// Returned: what follows from percent fat (fat mass, fat-free mass, lean soft tissue, their indexes) is reckoned from
///           the study's percent fat for this body, body mass adding 0.05 kg within an hour, 0.45 kg between days;
///           other masses and volumes but bone grow with body mass
Repeatability of_study(const Quantity& quantity, std::string_view method, const Measured& on, const Study& study);

} // namespace fusain::change
