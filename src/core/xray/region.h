// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <array>
#include <cstddef>

/// The regions of an X-ray scan, and what each is made of.
namespace fusain::xray {

/// The first six lie beside each other and make up the body; the last two overlap them.
enum class Region : std::size_t { head, right_arm, left_arm, trunk, right_leg, left_leg, android, gynoid };
inline constexpr std::size_t region_count = 8, part_count = 6;
inline constexpr std::size_t index(Region r) { return static_cast<std::size_t>(r); }

struct RegionRow {
    Region region;
    const char *id, *title;
};
inline constexpr RegionRow region_rows[] = {{Region::head, "head", "head"},
    {Region::right_arm, "right_arm", "right arm"}, {Region::left_arm, "left_arm", "left arm"},
    {Region::trunk, "trunk", "trunk"}, {Region::right_leg, "right_leg", "right leg"},
    {Region::left_leg, "left_leg", "left leg"}, {Region::android, "android", "android band (waist)"},
    {Region::gynoid, "gynoid", "gynoid band (hips)"}};
inline constexpr const RegionRow& row(Region r) { return region_rows[index(r)]; }

/// What a region holds. Lean is soft tissue without fat and without bone mineral.
struct Mass {
    double fat_g = 0, lean_g = 0, bmc_g = 0;
    double area_cm2 = 0; ///< of body, not of bone; 0: not known

    double total_g() const { return fat_g + lean_g + bmc_g; }
    Mass& operator+=(const Mass& m)
    {
        fat_g += m.fat_g;
        lean_g += m.lean_g;
        bmc_g += m.bmc_g;
        area_cm2 += m.area_cm2;
        return *this;
    }
};
using Regions = std::array<Mass, region_count>;

inline Mass whole(const Regions& regions)
{
    Mass all;
    for (std::size_t i = 0; i < part_count; ++i) all += regions[i];
    return all;
}

} // namespace fusain::xray
