// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "virtual/table/anatomy.h"

#include <random>

/// The virtual X-ray table: what it sends of a body.
namespace fusain::virt {

/// A tissue table like those of a 40 and 70 keV tube; the same numbers the reader is told.
xray::Table stand_in_table();

struct Beam {
    double low_photons_per_mm2 = 5900, high_photons_per_mm2 = 4200; ///< in plain air
    double blur_px = 0.7;
    double table_drift = 0; ///< of the low energy's attenuation, 0.01 = 1 % high
};

struct ScanFaults {
    double motion_mm = 0, motion_at = 0.5; ///< sideways, from this share of the rows on
    double back_at = 1;                    ///< and back again
    double shifted_mm = 0;                 ///< of the whole client, off the field
    bool frames_swapped = false;
    double metal_mm = 0; ///< width of a buckle at the waist
};

/// Rows come from top to bottom; the client may move between two of them.
xray::Map scan(
    const TrueMap& body, const xray::Table& table, const Beam& beam, const ScanFaults& faults, unsigned seed);

} // namespace fusain::virt
