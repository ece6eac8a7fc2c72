// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/body/energy.h"

#include "core/base/limits.h"
#include "core/body/safe.h"

#include <algorithm>

namespace fusain::energy {
namespace {

using safe::adult_y;
constexpr double most_deficit_kcal = 500, deficit_share = 0.15, from_food = 0.5, surplus_share = 0.10;
constexpr double protein_low_g = 1.6, protein_high_g = 2.2; ///< per kg fat-free mass

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
    {minors_school, "Schofield 1985, by mass, under 18 years", "Hum Nutr Clin Nutr 39C Suppl 1:5–41",
        [](const Body& b) {
            if (b.age_y < 10) return man(b) ? 22.706 * b.mass_kg() + 504.3 : 20.315 * b.mass_kg() + 485.9;
            return man(b) ? 17.686 * b.mass_kg() + 658.2 : 13.384 * b.mass_kg() + 692.6;
        }},
};
constexpr std::size_t adults = std::size(rows) - 1; ///< the last is the minors'
static_assert(std::size(rows) == std::size(quantity::resting_by));

} // namespace

std::span<const School> schools() { return rows; }

std::span<const School> schools_for(double age_y)
{
    const std::span<const School> all = rows;
    return age_y < adult_y ? all.subspan(adults) : all.first(adults);
}

const char* default_school_for(double age_y) { return age_y < adult_y ? minors_school : default_school; }

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
    if (const School* by = find(school); !by || (by == &rows[adults] && b.age_y >= adult_y)) {
        std::string allowed;
        for (const School& s : by ? schools_for(b.age_y) : schools())
            allowed += (allowed.empty() ? "" : ", ") + std::string(s.id);
        bad.push_back({"unknown_choice", Level::error, prefix + ".school",
            prefix + ".school is \"" + school + "\"; allowed is one of " + allowed + "."});
    }
    return bad;
}

Outcome<Result> compute(const Input& in)
{
    const std::string school = in.school.empty() ? default_school_for(in.body.age_y) : in.school;
    if (Messages bad = check(in.body, in.activity_level, school, "energy"); !bad.empty())
        return Outcome<Result>::refuse(std::move(bad));
    Result r;
    Messages messages;
    const auto put = [&](const Quantity& q, double value, double u = 0) { r.values.push_back({&q, value, u, u}); };
    const bool minor = in.body.age_y < adult_y;
    for (std::size_t i = 0; i < std::size(rows); ++i)
        if (i != adults || minor) put(quantity::resting_by[i], rows[i].kcal(in.body), residual_sd_kcal);
    const double resting = find(school)->kcal(in.body), daily = in.activity_level * resting;
    put(quantity::resting, resting, residual_sd_kcal);
    put(quantity::daily, daily, in.activity_level * residual_sd_kcal);
    put(quantity::quiet_day, quiet_level * resting, quiet_level * residual_sd_kcal);
    const auto caution = [&](const char* code, const char* field, std::string text) {
        messages.push_back({code, Level::caution, field, std::move(text)});
    };
    if (minor) {
        caution("no_plan_minor", "age_y",
            "Under 18 nothing is said about eating less or more; growing comes first. Ask a paediatric dietitian.");
        if (school != minors_school)
            caution("outside_group", "energy.school",
                std::string("The client is outside the group ") + find(school)->title + " was made on (adults).");
    }
    if (in.facts.pregnant)
        caution("no_plan_pregnant", "pregnant", "In pregnancy nothing is said about eating less or more.");
    if (in.facts.eating_disorder)
        caution("no_plan_eating_disorder", "eating_disorder",
            "Where an eating disorder is or was treated nothing is said about eating less or more.");
    if (messages.empty()) {
        const double deficit = std::min(most_deficit_kcal, deficit_share * daily), left = daily - from_food * deficit,
                     floor = safe::least_intake_kcal(in.body.sex, resting);
        if (const auto why = safe::why_no_loss(in.body)) {
            caution("no_plan_low", "energy.fat_mass_kg", *why);
        } else if (left < floor) {
            caution("under_floor", "energy.activity_level",
                "A deficit would leave " + limits::plain(left, 0) + " kcal a day, under the least of " +
                    limits::plain(floor, 0) + " kcal: none is named.");
        } else {
            put(quantity::deficit, deficit);
            put(quantity::deficit_intake, left);
        }
        put(quantity::surplus_intake, (1 + surplus_share) * daily);
    }
    if (in.facts.kidney_disease) {
        caution("no_protein_kidney", "kidney_disease",
            "With kidney disease no amount of protein is named: that is for the clinician who treats it.");
    } else {
        put(quantity::protein_low, protein_low_g * in.body.fat_free_kg);
        put(quantity::protein_high, protein_high_g * in.body.fat_free_kg);
    }
    return {std::move(r), std::move(messages)};
}

} // namespace fusain::energy
