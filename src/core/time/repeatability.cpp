// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/time/repeatability.h"

#include "core/quality/precision.h"

#include <algorithm>

namespace fusain::change {
namespace {

struct Row {
    std::string_view method;
    double fat_percent, lean_kg;
};
constexpr Row rows[] = {
    {"absorptiometry", 0.6, 0.45}, {"air_displacement", 0.9, 0.7}, {"hydrostatic", 0.9, 0.7}, {"impedance", 1.0, 0.7}};
constexpr double fold_share = 0.05, girth_lsc_cm = 1, scale_kg = 0.05;
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
    if (is(quantity::body_mass)) return Repeatability{scale_kg, true, "the scale's own, clothes and a meal not in it"};
    const auto* row = std::find_if(std::begin(rows), std::end(rows), [&](const Row& r) { return r.method == method; });
    if (row == std::end(rows)) return std::nullopt;
    const double m2 = on.height_cm * on.height_cm / 1e4, fat_kg = on.mass_kg * row->fat_percent / 100;
    const auto known = [](double sd) { return Repeatability{sd, true, experience}; };
    if (is(quantity::fat_percent)) return known(row->fat_percent);
    if (is(quantity::fat_mass)) return known(fat_kg);
    if (is(quantity::fat_free_mass) || is(quantity::lean_soft_tissue)) return known(row->lean_kg);
    if (is(quantity::fmi) && m2 > 0) return known(fat_kg / m2);
    if (is(quantity::ffmi) && m2 > 0) return known(row->lean_kg / m2);
    return std::nullopt;
}

} // namespace fusain::change
