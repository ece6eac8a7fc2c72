// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/printout/unit.h"

#include "core/base/units.h"
#include "core/printout/text.h"

namespace fusain::printout {
namespace {

using K = UnitKind;
constexpr double kcal_per_kj = 1 / 4.184, kg_per_st = 14 * units::kg_per_lb;
constexpr Unit rows[] = {{"kg", K::mass, 1}, {"g", K::mass, 1e-3}, {"lb", K::mass, units::kg_per_lb},
    {"lbs", K::mass, units::kg_per_lb}, {"st", K::mass, kg_per_st}, {"l", K::volume, 1}, {"ltr", K::volume, 1},
    {"litre", K::volume, 1}, {"litres", K::volume, 1}, {"liter", K::volume, 1}, {"liters", K::volume, 1},
    {"ml", K::volume, 1e-3}, {"cl", K::volume, 1e-2}, {"%", K::percent, 1}, {"percent", K::percent, 1},
    {"kcal", K::energy, 1}, {"kcal/d", K::energy, 1}, {"kcal/day", K::energy, 1}, {"kj", K::energy, kcal_per_kj},
    {"kj/d", K::energy, kcal_per_kj}, {"kj/day", K::energy, kcal_per_kj}, {"mj", K::energy, 1000 * kcal_per_kj},
    {"°", K::angle, 1}, {"º", K::angle, 1}, {"deg", K::angle, 1}, {"degree", K::angle, 1}, {"degrees", K::angle, 1},
    {"Ω", K::impedance, 1}, {"Ω", K::impedance, 1}, {"ohm", K::impedance, 1}, {"ohms", K::impedance, 1},
    {"cm", K::length, 1}, {"mm", K::length, 0.1}, {"m", K::length, 100}, {"in", K::length, units::cm_per_in},
    {"inch", K::length, units::cm_per_in}, {"ft", K::length, 12 * units::cm_per_in}, {"kg/l", K::density, 1},
    {"g/cm³", K::density, 1}, {"g/cm3", K::density, 1}, {"g/ml", K::density, 1}, {"g/cc", K::density, 1},
    {"kg/m³", K::density, 1e-3}, {"kg/m3", K::density, 1e-3}, {"kg/m²", K::index, 1}, {"kg/m2", K::index, 1}};

} // namespace

const Unit* find_unit(std::string_view word)
{
    const std::string small = lower(word);
    for (const Unit& u : rows)
        if (small == lower(u.word)) return &u;
    return nullptr;
}

std::optional<double> converted(double value, std::string_view from, std::string_view to)
{
    if (from == to) return value;
    const Unit *a = find_unit(from), *b = find_unit(to);
    if (!a || !b) return std::nullopt;
    const auto kind = [](const Unit& u) { return u.kind == K::volume ? K::mass : u.kind; };
    if (kind(*a) != kind(*b)) return std::nullopt;
    return a->base == b->base ? value : value * a->base / b->base;
}

} // namespace fusain::printout
