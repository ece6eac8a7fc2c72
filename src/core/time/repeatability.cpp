// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/time/repeatability.h"

#include "core/quality/precision.h"

#include <algorithm>
#include <cmath>

namespace fusain::change {
namespace {

struct Row {
    std::string_view method;
    double fat_percent;
};
constexpr Row rows[] = {{"absorptiometry", 0.6}, {"air_displacement", 0.9}, {"hydrostatic", 0.9}, {"impedance", 1.0}};
constexpr double fold_share = 0.05, girth_lsc_cm = 1, mass_kg = 0.45;
constexpr const char *experience = "common laboratory experience, not a study of this lab",
                     *lab_rule = "this lab's rule, not a study of this lab";

} // namespace

std::optional<Repeatability> repeatability(const Quantity& q, std::string_view method, const Measured& on)
{
    const auto is = [&](const Quantity& other) { return &q == &other; };
    const auto girth =
        std::any_of(std::begin(quantity::girths), std::end(quantity::girths), [&](const auto& g) { return is(g); });
    if (girth) return Repeatability{girth_lsc_cm / precision::change_factor, true, lab_rule};
    if (is(quantity::skinfold_sum)) return Repeatability{fold_share * on.value, true, lab_rule};
    if (is(quantity::body_mass))
        return Repeatability{mass_kg, true, "from day to day: scale, clothes, water and gut; not a study of this lab"};
    const auto* row = std::find_if(std::begin(rows), std::end(rows), [&](const Row& r) { return r.method == method; });
    if (row == std::end(rows)) return std::nullopt;
    const double m2 = on.height_cm * on.height_cm / 1e4, share = on.fat_percent / 100,
                 split_kg = on.mass_kg * row->fat_percent / 100, fat_kg = std::hypot(split_kg, share * mass_kg),
                 lean_kg = std::hypot(split_kg, (1 - share) * mass_kg);
    const auto known = [](double sd) { return Repeatability{sd, true, experience}; };
    if (is(quantity::fat_percent)) return known(row->fat_percent);
    if (is(quantity::fat_mass)) return known(fat_kg);
    if (is(quantity::fat_free_mass) || is(quantity::lean_soft_tissue)) return known(lean_kg);
    if (is(quantity::fmi) && m2 > 0) return known(fat_kg / m2);
    if (is(quantity::ffmi) && m2 > 0) return known(lean_kg / m2);
    return std::nullopt;
}

} // namespace fusain::change
