// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"
#include "core/xray/image.h"

#include <string>

/// A two-energy map as a table sends it, and what is known of the table.
namespace fusain::xray {

/// Mass attenuation coefficients at one energy, cm²/g.
struct Attenuation {
    double fat = 0, lean = 0, bone = 0;
    double soft(double fat_share) const { return fat_share * fat + (1 - fat_share) * lean; }
};

struct Table {
    std::string id;
    Attenuation low, high;
    double field_width_mm = 0, field_height_mm = 0;
    /// Share of fat in the soft tissue of the head of somebody whose other soft tissue has 20 %: inside the skull no
    /// bone-free neighbour is left. It follows the body by 0.22 a unit. Found on synthetic bodies; nobody's
    /// publication.
    double fat_of_the_head = 0.165;
};
/// error: out_of_range, naming `profile.mu_cm2_per_g…`. The ratio low/high must rise from fat over lean to bone, else
/// nothing can be told apart.
[[nodiscard]] Messages check(const Table& table);

/// ln(I0/I) of both energies; row 0 lies above the head, the client's right is on the picture's left.
struct Map {
    Image low, high;
    double dx_mm = 0, dy_mm = 0; ///< between columns and between rows

    Eigen::Index rows() const { return low.rows(); }
    Eigen::Index columns() const { return low.cols(); }
    double pixel_cm2() const { return dx_mm * dy_mm / 100; }
};

} // namespace fusain::xray
