// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/body/energy.h"

#include "core/base/limits.h"

#include <algorithm>

namespace fusain::energy {
namespace {

constexpr double adult_y = 18;
constexpr double most_deficit_kcal = 500, deficit_share = 0.15, from_food = 0.5, surplus_share = 0.10;
constexpr double protein_per_mass = 1.6, protein_per_fat_free = 2.2; ///< g/kg

bool man(const Body& b) { return b.sex == Sex::male; }

constexpr School rows[] = {
    {"mifflin_1990", "Mifflin 1990", "Am J Clin Nutr 51:241–247",
        [](const Body& b) { return 10 * b.mass_kg() + 6.25 * b.height_cm - 5 * b.age_y + (man(b) ? 5 : -161); }},
    {"cunningham_1991", "Cunningham 1991", "Am J Clin Nutr 54:963–969",
        [](const Body& b) { return 370 + 21.6 * b.fat_free_kg; }},
    {"cunningham_1980", "Cunningham 1980, lean athletes", "Am J Clin Nutr 33:2372–2374",
        [](const Body& b) { return 500 + 22 * b.fat_free_kg; }},
    {"nelson_1992", "Nelson 1992", "Am J Clin Nutr 56:848–856",
        [](const Body& b) { return 25.8 * b.fat_free_kg + 4.04 * b.fat_kg; }},
    {"harris_benedict_1919", "Harris & Benedict 1919", "Carnegie Inst. Publ. 279",
        [](const Body& b) {
            return man(b) ? 66.4730 + 13.7516 * b.mass_kg() + 5.0033 * b.height_cm - 6.7550 * b.age_y
                          : 655.0955 + 9.5634 * b.mass_kg() + 1.8496 * b.height_cm - 4.6756 * b.age_y;
        }},
    {"roza_shizgal_1984", "Roza & Shizgal 1984", "Am J Clin Nutr 40:168–182",
        [](const Body& b) {
            return man(b) ? 88.362 + 13.397 * b.mass_kg() + 4.799 * b.height_cm - 5.677 * b.age_y
                          : 447.593 + 9.247 * b.mass_kg() + 3.098 * b.height_cm - 4.330 * b.age_y;
        }},
    {"owen", "Owen 1986, 1987", "Am J Clin Nutr 44:1–19 and 46:875–885",
        [](const Body& b) { return man(b) ? 879 + 10.2 * b.mass_kg() : 795 + 7.18 * b.mass_kg(); }},
};
static_assert(std::size(rows) == std::size(quantity::resting_by));

} // namespace

std::span<const School> schools() { return rows; }

const School* find(std::string_view id)
{
    for (const School& s : rows)
        if (id == s.id) return &s;
    return nullptr;
}

Messages check(const Body& b, double activity_level, const std::string& school, const std::string& prefix)
{
    Messages bad;
    const auto held = [&](const char* limit, const std::string& field, double value) {
        auto m = limits::check(limit, value);
        if (!m) return;
        m->field = field;
        bad.push_back(*m);
    };
    held("age_y", "age_y", b.age_y);
    held("height_cm", "height_cm", b.height_cm);
    held("energy.fat_mass_kg", prefix + ".fat_mass_kg", b.fat_kg);
    held("energy.fat_free_mass_kg", prefix + ".fat_free_mass_kg", b.fat_free_kg);
    held("energy.activity_level", prefix + ".activity_level", activity_level);
    if (!find(school)) {
        std::string allowed;
        for (const School& s : rows) allowed += (allowed.empty() ? "" : ", ") + std::string(s.id);
        bad.push_back({"unknown_choice", Level::error, prefix + ".school",
            prefix + ".school is \"" + school + "\"; allowed is one of " + allowed + "."});
    }
    return bad;
}

Outcome<Result> compute(const Input& in)
{
    if (Messages bad = check(in.body, in.activity_level, in.school, "energy"); !bad.empty())
        return Outcome<Result>::refuse(std::move(bad));
    Result r;
    Messages messages;
    const auto put = [&](const Quantity& q, double value, double u = 0) { r.values.push_back({&q, value, u, u}); };
    for (std::size_t i = 0; i < std::size(rows); ++i)
        put(quantity::resting_by[i], rows[i].kcal(in.body), residual_sd_kcal);
    const double resting = find(in.school)->kcal(in.body), daily = in.activity_level * resting;
    put(quantity::resting, resting, residual_sd_kcal);
    put(quantity::daily, daily, in.activity_level * residual_sd_kcal);
    put(quantity::quiet_day, quiet_level * resting, quiet_level * residual_sd_kcal);
    if (in.body.age_y >= adult_y) {
        const double deficit = std::min(most_deficit_kcal, deficit_share * daily);
        put(quantity::deficit, deficit);
        put(quantity::deficit_intake, daily - from_food * deficit);
        put(quantity::surplus_intake, (1 + surplus_share) * daily);
    } else {
        messages.push_back({"no_plan_minor", Level::caution, "age_y",
            "Under 18 nothing is said about eating less or more; growing comes first. Ask a paediatric dietitian."});
    }
    const auto [low, high] =
        std::minmax({protein_per_mass * in.body.mass_kg(), protein_per_fat_free * in.body.fat_free_kg});
    put(quantity::protein_low, low);
    put(quantity::protein_high, high);
    return {std::move(r), std::move(messages)};
}

} // namespace fusain::energy
