// SPDX-License-Identifier: GPL-3.0-or-later
#include "virtual/analyser/flesh.h"

#include <algorithm>
#include <cmath>

namespace fusain::virt {
namespace {

using impedance::Segment;

/// Where lean and fat of a body lie, shares of the whole; and how long a segment is for the height.
struct Shares {
    double lean[impedance::segment_count], lean_rest;
    double fat[impedance::segment_count], fat_rest;
};
constexpr Shares men = {{0.058, 0.057, 0.455, 0.176, 0.175}, 0.079, {0.050, 0.050, 0.530, 0.155, 0.155}, 0.060};
constexpr Shares women = {{0.047, 0.046, 0.475, 0.173, 0.172}, 0.087, {0.055, 0.055, 0.450, 0.190, 0.190}, 0.060};
constexpr double lengths[] = {0.332, 0.332, 0.288, 0.491, 0.491};
constexpr double lean_kg_per_l = 1.10, fat_kg_per_l = 0.90;
constexpr double fat_within = 0.65; ///< most fat lies beside the muscle that conducts, not in it
constexpr double outside_ohm_cm_men = 40.6, outside_ohm_cm_women = 36.0, inside_over_outside = 4.8;
constexpr double geometry[] = {1.05, 1.05, 1.05, 1.27, 1.27}; ///< a limb is a cone, not a cylinder

const Shares& shares(const Body& b) { return b.sex == Sex::male ? men : women; }
double outside_ohm_cm(const Body& b) { return b.sex == Sex::male ? outside_ohm_cm_men : outside_ohm_cm_women; }

} // namespace

std::array<Flesh, impedance::segment_count> flesh_of(const Body& b)
{
    const Shares& s = shares(b);
    const double more[] = {b.right_arm, b.left_arm, 1, b.right_leg, b.left_leg};
    double sum = 0;
    for (std::size_t i = 0; i < impedance::segment_count; ++i) sum += s.lean[i] * more[i];
    std::array<Flesh, impedance::segment_count> out;
    for (std::size_t i = 0; i < impedance::segment_count; ++i) {
        Flesh& f = out[i];
        const bool limb = i != impedance::index(Segment::trunk);
        f.lean_kg = b.fat_free_mass_kg * (1 - s.lean_rest) * s.lean[i] * more[i] / sum;
        f.fat_kg = b.fat_mass_kg * s.fat[i];
        f.length_cm = lengths[i] * b.height_cm * (limb ? b.limbs : 2 - b.limbs);
        const double volume_cm3 = 1000 * (f.lean_kg / lean_kg_per_l + fat_within * f.fat_kg / fat_kg_per_l);
        const double water_cm3 = 1000 * b.hydration * f.lean_kg;
        const double share = std::clamp(b.outside_share() + (limb ? -0.008 : 0.012), 0.05, 0.95);
        const double outside = outside_ohm_cm(b), inside = inside_over_outside * outside;
        const double all = inside - (inside - outside) * std::pow(share, 2.0 / 3.0);
        const double shape = geometry[i] * f.length_cm * f.length_cm * std::sqrt(volume_cm3);
        f.arc.r0_ohm = outside * shape / std::pow(share * water_cm3, 1.5);
        f.arc.rinf_ohm = all * shape / std::pow(water_cm3, 1.5);
        f.arc.alpha = b.cell_alpha + (limb ? 0 : -0.01);
        f.arc.fc_khz = b.cell_khz * (limb ? 1 : 1.15);
    }
    return out;
}

Flesh rest_of(const Body& b)
{
    Flesh f;
    f.lean_kg = b.fat_free_mass_kg * shares(b).lean_rest;
    f.fat_kg = b.fat_mass_kg * shares(b).fat_rest;
    return f;
}

Body somebody(std::mt19937_64& random)
{
    const auto normal = [&](double mean, double sd) {
        return mean + sd * std::clamp(std::normal_distribution<>(0, 1)(random), -2.5, 2.5);
    };
    Body b;
    b.sex = random() % 2 ? Sex::male : Sex::female;
    const bool male = b.sex == Sex::male;
    b.age_y = std::uniform_real_distribution<>(18, 75)(random);
    b.height_cm = male ? normal(178, 7) : normal(165, 6.5);
    const double m2 = b.height_cm * b.height_cm / 1e4;
    b.fat_free_mass_kg = m2 * (male ? normal(19.0, 1.4) : normal(15.7, 1.1));
    b.fat_mass_kg = m2 * std::exp(male ? normal(std::log(4.8), 0.35) : normal(std::log(6.8), 0.3));
    b.hydration = normal(0.732, 0.006);
    b.outside_cells = normal(male ? 0.40 : 0.43, 0.012);
    b.cell_khz = normal(40, 4);
    b.cell_alpha = normal(0.70, 0.015);
    b.limbs = normal(1, 0.006);
    const double arms = normal(1, 0.03), legs = normal(1, 0.015);
    b.right_arm = arms * normal(1.005, 0.015);
    b.left_arm = arms * normal(0.995, 0.015);
    b.right_leg = legs * normal(1, 0.01);
    b.left_leg = legs * normal(1, 0.01);
    b.calm = std::uniform_real_distribution<>(0.6, 1)(random);
    return b;
}

} // namespace fusain::virt
