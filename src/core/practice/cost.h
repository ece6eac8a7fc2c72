// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/xray/lines.h"

/// What a mistake at the bench does to a body whose truth is known.
namespace fusain::practice {

/// Percent fat from a body's volume.
/// Given:    mass_kg > 0, kg; volume_l > 0, without lung and gut gas, L
/// Returned: percent fat, %
/// Source:   Siri 1961, for which the bodies of drills are made (fat-free density 1.100)
double fat_percent_of_volume(double mass_kg, double volume_l);

/// Percent fat when a weighing under water is read as so many kilograms.
/// Given:    mass_kg, underwater_kg (net), kg; water_c 10–40 °C; residual_volume_l, L BTPS; gut gas 0.100 L
/// Returned: percent fat, %
/// Source:   hydrostatic::body_volume_l, then as above
double fat_percent_under_water(double mass_kg, double underwater_kg, double water_c, double residual_volume_l);

/// How far a string over a map lies from another: mean distance sideways over the height they share, mm; 0 where they
/// share none.
double apart_mm(const xray::Polyline& one, const xray::Polyline& other);

} // namespace fusain::practice
