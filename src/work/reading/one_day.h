// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/body/compartments.h"
#include "work/reading/history.h"

#include <QStringList>

/// One day, one body: the methods side by side, and what they give together.
namespace fusain::work {

/// Volume, water and bone mineral of one day, each from one measurement.
struct Ingredients {
    const Measurement *volume = nullptr, *water = nullptr, *bone = nullptr;
    double mass_kg = 0;        ///< of the volume's measurement: volume and mass belong together
    QStringList differ;        ///< sentences: inputs that came from different conditions
    compartments::Input input; ///< without an equation
    bool allow(const compartments::Equation& e) const
    {
        return volume && (!e.needs_water || water) && (!e.needs_bone || bone);
    }
};
/// Inputs weighed further apart than this are named. This lab's rule: half a litre drunk is 0.5 kg and no fat.
inline constexpr double weighed_apart_kg = 0.2;
inline constexpr double hours_apart = 3;

/// Of the newest measurement of each that the day has.
Ingredients ingredients(const std::vector<const Measurement*>& day);

} // namespace fusain::work
