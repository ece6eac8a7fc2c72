// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/quantity.h"

#include <optional>
#include <string>
#include <string_view>

/// How well a quantity repeats by a method: what a change is held against.
namespace fusain::change {

struct Repeatability {
    double rms_sd = 0;      ///< in the quantity's unit
    bool by_default = true; ///< not this lab's own study
    std::string source;
};

/// On what the quantity was measured: relative repeatabilities follow it.
struct Measured {
    double mass_kg = 0, height_cm = 0, value = 0;
};

/// What repeats of a quantity differ by, until the lab has a study of its own.
///
/// Given:    quantity; method as the calculation interface names it (`callipers_and_tape` too); the newest measurement
/// Returned: root-mean-square SD; nothing where none is known: then a change is shown without a verdict.
///           Percent fat and fat-free mass (and lean soft tissue) as published practice has them; fat mass = body mass
///           · SD of percent fat; indexes = masses / height²; skinfolds 5 % of the sum; a girth 1 cm of least
///           significant change
/// Source:   percent fat: absorptiometry 0.6, air displacement 0.9, hydrostatic 0.9, impedance 1.0; lean:
/// absorptiometry
///           0.45 kg, others 0.7 kg: common laboratory experience; folds and girths: this lab's rule
std::optional<Repeatability> repeatability(const Quantity& quantity, std::string_view method, const Measured& on);

} // namespace fusain::change
