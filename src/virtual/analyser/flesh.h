// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/impedance/arc.h"
#include "core/impedance/segment.h"
#include "virtual/body.h"

#include <array>
#include <random>

/// What the current meets in a virtual body: five segments of known lean, fat and water.
namespace fusain::virt {

struct Flesh {
    double lean_kg = 0, fat_kg = 0;
    double length_cm = 0;
    impedance::Arc arc; ///< its Cole element at rest, warm, after long standing
};

/// The five segments of a body. Resistance by mixture theory (Hanai): cells do not conduct at low frequency, so that
/// R0 = ρ_e·L²·√V/V_ecw^{3/2}; at high frequency all water does, with a resistivity between that of both waters.
/// Source: De Lorenzo et al. 1997, J Appl Physiol 82:1542–1558; the resistivities are fitted so that people of known
///         composition get the impedances of their published equations (docs/impedance-signal.md).
std::array<Flesh, impedance::segment_count> flesh_of(const Body& body);
/// Lean and fat that no electrode sees: head, hands and feet.
Flesh rest_of(const Body& body);

/// Somebody: of either sex, 18 to 75 years, with everything that differs between people.
Body somebody(std::mt19937_64& random);

} // namespace fusain::virt
