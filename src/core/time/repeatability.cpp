// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/time/repeatability.h"

#include "core/method/method.h"
#include "core/quality/precision.h"

#include <algorithm>
#include <cmath>

namespace fusain::change {
namespace {

constexpr double fold_share = 0.05, girth_lsc_cm = 1, mass_kg = 0.45, mass_within_hour_kg = 0.05, siri_slope = 4.95;
constexpr const char *experience = "common laboratory experience, not a study of this lab",
                     *lab_rule = "this lab's rule, not a study of this lab";

/// SD of what follows from percent fat and body mass; nothing for what does not.
std::optional<double> following(const Quantity& q, const Measured& on, double percent_sd, double mass_sd_kg)
{
    const auto is = [&](const Quantity& other) { return &q == &other; };
    const double m2 = on.height_cm * on.height_cm / 1e4, share = on.fat_percent / 100,
                 split_kg = on.mass_kg * percent_sd / 100, fat_kg = std::hypot(split_kg, share * mass_sd_kg),
                 lean_kg = std::hypot(split_kg, (1 - share) * mass_sd_kg);
    if (is(quantity::fat_mass)) return fat_kg;
    if (is(quantity::fat_free_mass) || is(quantity::lean_soft_tissue)) return lean_kg;
    if (is(quantity::fmi) && m2 > 0) return fat_kg / m2;
    if (is(quantity::ffmi) && m2 > 0) return lean_kg / m2;
    return std::nullopt;
}

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
    const auto known = method_of(method);
    if (!known) return std::nullopt;
    const double percent_sd = (*known)->repeats_within;
    if (is(quantity::fat_percent)) return Repeatability{percent_sd, true, experience};
    if (const auto sd = following(q, on, percent_sd, mass_kg)) return Repeatability{*sd, true, experience};
    return std::nullopt;
}

double between_days(const Quantity& q, std::string_view method, const Measured& on)
{
    if (const auto known = repeatability(q, method, on)) return known->rms_sd;
    const std::string_view id = q.id;
    const auto says = [&](std::string_view word) { return id.find(word) != std::string_view::npos; };
    if (says("bone") || says("bmc") || says("asymmetry")) return 0;
    if (&q == &quantity::bmi) return on.height_cm > 0 ? mass_kg / (on.height_cm * on.height_cm / 1e4) : 0;
    const auto by = method_of(method);
    const double percent_sd = by ? (*by)->repeats_within : 0;
    if (q.kind == UnitKind::percent) return percent_sd;
    if (q.kind == UnitKind::density) // as the conversion to fat has it
        return percent_sd / 100 * on.value * on.value / siri_slope;
    const bool of_fat = says("fat");
    const double all_kg = on.mass_kg * (of_fat ? on.fat_percent : 100 - on.fat_percent) / 100;
    if ((q.kind == UnitKind::mass || q.kind == UnitKind::volume || &q == &quantity::almi) && all_kg > 0)
        if (const auto all = repeatability(of_fat ? quantity::fat_mass : quantity::fat_free_mass, method, on))
            return on.value / all_kg * all->rms_sd;
    return on.value * (q.kind == UnitKind::impedance ? 0.015 : q.kind == UnitKind::angle ? 0.02 : 0.01);
}

Repeatability of_study(const Quantity& q, std::string_view method, const Measured& on, const Study& study)
{
    const std::string_view id = q.id;
    const bool of_bone = id.find("bone") != std::string_view::npos || id.find("bmc") != std::string_view::npos,
               of_size = q.kind == UnitKind::mass || q.kind == UnitKind::volume || &q == &quantity::almi;
    double placing = study.sd;
    if (const auto sd = study.percent_sd > 0
                            ? following(q, on, study.percent_sd, study.over_days ? mass_kg : mass_within_hour_kg)
                            : std::nullopt)
        placing = *sd;
    else if (of_size && !of_bone && study.mass_kg > 0 && on.mass_kg > 0)
        placing *= on.mass_kg / study.mass_kg;
    const double day = study.over_days ? 0 : between_days(q, method, on);
    return {std::hypot(placing, day), false, study.source, placing, day, study.over_days};
}

} // namespace fusain::change
