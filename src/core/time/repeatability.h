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
/// Source:   percent fat: absorptiometry 0.6, air displacement 0.9, hydrostatic 0.9, impedance 1.0: common laboratory
///           experience; folds and girths: this lab's rule
std::optional<Repeatability> repeatability(const Quantity& quantity, std::string_view method, const Measured& on);

} // namespace fusain::change
