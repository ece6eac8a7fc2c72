// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/xray/lines.h"
#include "virtual/body.h"

/// The virtual client lying on an X-ray table: its one true body as a map of fat, lean and bone.
namespace fusain::virt {

/// How somebody is built and lies there. Everything else follows from the body.
struct Posture {
    double centre_mm = 0;                          ///< to the right of the field's middle
    double arms_out = 1;                           ///< 0: against the trunk, 1: as asked for
    double turned_deg = 0;                         ///< of the whole body, head to the picture's right
    double waist = 1, hips = 1, coat_on_trunk = 1; ///< of the usual
    double visceral_share = 0.12;                  ///< of all fat
    double off_centre = 0;     ///< of a limb's coat: so far its muscle lies outwards, as where fat hangs to the inside
    double flat = 1;           ///< depth of the limbs over the usual: soft ones lie flatter
    double bone_share = 0.050; ///< of the fat-free mass
};

/// What truly lies in each pixel, g/cm², and where its anatomy puts the lines.
struct TrueMap {
    xray::Image fat, lean, bone;
    xray::Image visceral; ///< of the fat
    double dx_mm = 0, dy_mm = 0;
    xray::Lines lines;
    double visceral_fat_kg = 0;

    /// By these lines; pixels of 1 g/cm² and more are body.
    xray::Regions regions(const xray::Lines& by) const;
    /// Fat around the organs within the android band.
    double visceral_g(const xray::Lines& by) const;
};

/// Coat and width are chosen so that the map holds the body's fat and fat-free mass, bone its share.
TrueMap lie_down(
    const Body& body, const Posture& posture, double field_width_mm, double field_height_mm, double pixel_mm);

} // namespace fusain::virt
