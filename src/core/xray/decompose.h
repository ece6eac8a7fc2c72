// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/xray/map.h"

#include <vector>

/// Fat, lean and bone of each pixel from the attenuation at two energies.
namespace fusain::xray {

/// What two energies say without knowing where bone is: as if everything were fat and lean.
struct Shape {
    Image fat, lean; ///< g/cm²; a gram of bone reads as −16 g of fat and +17 g of lean
    Image variance;  ///< of `fat`, by photon noise
    Image thickness; ///< g/cm², smoothed
    Mask body;       ///< of 1 g/cm² and more
    double dx_mm = 0, dy_mm = 0;
};

/// What attenuations of both energies read as, if everything were fat and lean.
struct Soft {
    explicit Soft(const Table& table);
    template <class T>
    T fat(const T& low, const T& high) const
    {
        return f_low * low + f_high * high;
    }
    template <class T>
    T lean(const T& low, const T& high) const
    {
        return l_low * low + l_high * high;
    }
    double f_low, f_high, l_low, l_high;
    double fat_of_bone, lean_of_bone; ///< g of each that a gram of bone reads as
};

inline constexpr double least_body_cm2 = 2000; ///< a small child's; under it there is none in the picture

/// Apparent fat and lean of every pixel, as if there were no bone.
///
/// Given:    map   ln(I0/I), frames low and high; table
/// Returned: apparent fat and lean, corrected for the bias of the logarithm of few photons (1/2N)
/// Source:   two equations of mass attenuation, solved for fat and lean
/// Refused:  error frames_swapped: the body's low/high ratio is one no tissue has · repeat no_body: nothing of
///           1 g/cm² in the picture, or less than 2 000 cm² of it
Outcome<Shape> shape_of(const Map& map, const Table& table, double least_cm2 = least_body_cm2);

/// What a scan is made of.
struct Composition {
    Image fat, lean, bone; ///< g/cm²
    Mask area;             ///< of 1 g/cm² and more, each pixel by itself
    Mask has_bone;
    double dx_mm = 0, dy_mm = 0;
    double pixel_cm2() const { return dx_mm * dy_mm / 100; }
};

/// Parts of the body within which the fat of soft tissue is carried across bone, never from a hip to the hand beside
/// it. `share`: of a pixel, as by the lines.
struct Part {
    enum class Kind { head, trunk, limb } kind = Kind::limb;
    Image share;
};

/// Bone is found where apparent fat lies under what its surroundings have; the fat of the soft tissue over it is
/// carried there. Along a limb fat is a coat, `F/T_max = a + c·(T_max/T − 1)` (T thickness, T_max the largest of that
/// height), fitted over the bone-free pixels of neighbouring rows; in the trunk it is the mean of what lies around. The
/// rim, where a coat is seen from its side, counts as bone only where apparent fat is surely negative. Found on
/// synthetic bodies; nobody's publication.
Composition decompose(const Shape& shape, const Table& table, const std::vector<Part>& parts);

} // namespace fusain::xray
