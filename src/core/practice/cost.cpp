// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/practice/cost.h"

#include "core/air_and_water/water.h"
#include "core/density/density.h"
#include "core/density/hydrostatic.h"

#include <algorithm>
#include <cmath>

namespace fusain::practice {
namespace {

constexpr double gut_gas_l = 0.100, any_adult_y = 30;

} // namespace

double fat_percent_of_volume(double mass_kg, double volume_l)
{
    return density::percent_fat(
        mass_kg / volume_l, *density::find(density::default_id)->pair(Sex::female, any_adult_y));
}

double fat_percent_under_water(double mass_kg, double underwater_kg, double water_c, double residual_volume_l)
{
    return fat_percent_of_volume(mass_kg, hydrostatic::body_volume_l(mass_kg, underwater_kg,
                                              water::density_tanaka_2001(water_c), residual_volume_l, gut_gas_l));
}

double apart_mm(const xray::Polyline& a, const xray::Polyline& b)
{
    if (a.empty() || b.empty()) return 0;
    const double from = std::max(a.front().y_mm, b.front().y_mm), to = std::min(a.back().y_mm, b.back().y_mm);
    if (!(to > from)) return 0;
    constexpr int steps = 40;
    double sum = 0;
    for (int i = 0; i <= steps; ++i) {
        const double y = from + (to - from) * i / steps;
        sum += std::abs(xray::x_at(a, y) - xray::x_at(b, y));
    }
    return sum / (steps + 1);
}

} // namespace fusain::practice
