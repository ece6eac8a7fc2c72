// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/quality/judgement.h"

#include "core/base/limits.h"

#include <algorithm>
#include <cmath>

namespace fusain::judgement {
namespace {

constexpr double adult_y = 18, athletic_lean_men = 6, athletic_lean_women = 14, muscular_over = 3, obese_bmi = 40;
constexpr double muscular_most_fat_men = 25,
                 muscular_most_fat_women = 36; ///< the highest upper edges of healthy ranges
constexpr double slack = 1e-9;                 // 72.1 − 70.1 is not 2 in binary

constexpr Caution rows[] = {
    // code, measure again, no plan
    {"trials_scatter", true, false},
    {"few_trials", true, false},
    {"still_improving", true, false},
    {"negative_under_water", true, false},
    {"vital_capacity_unusual", false, false},
    {"lung_gas_unusual", false, false},
    {"lung_gas_lost", false, false},
    {"agreement_unknown", false, false},
    {"left_out", false, false},
    {"folds_in_centimetres", true, false},
    {"density_unusual", true, false},
    {"fat_unusual", true, false},
    {"mass_differs", true, false},
    {"height_differs", true, false},
    {"mass_drifted", true, false},
    {"outside_group", false, false},
    {"error_unknown", false, false},
    {"no_equation", false, false},
    {"waters_differ", false, false},
    {"part_over_whole", true, false},
    {"one_frequency", false, false},
    {"sides_differ", true, false},
    {"sum_differs", true, false},
    {"mass_apart", true, false},
    {"off_field", true, false},
    {"motion", true, false},
    {"metal", false, false},
    {"little_soft", false, false},
    {"half_body", false, false},
    {"sides_merged", false, false},
    {"head_in_trunk", false, false},
    {"of_another", true, false},
    {"gap", true, false},
    {"lines_apart", false, false},
    {"bone_low", false, false},
    {"segments_exchanged", true, false},
    {"phase_unusual", true, false},
    {"poor_contact", true, false},
    {"limbs_touch", true, false},
    {"moved", true, false},
    {"leaning", true, false},
    {"stepped_off", true, false},
    {"settling", true, false},
    {"noted_before", false, false},
    {"hour_unknown", false, false},
    {"mass_changed", true, false},
    {"profile_fits_badly", false, false},
    {"no_segments", false, false},
    {"under_minimum", false, true},
    {"low_reserve", false, true},
    {"water_and_swelling", false, true},
    {"fast_fall", false, true},
};

const Caution* row_of(const Message& m)
{
    for (const Caution& c : rows)
        if (m.code == c.code) return &c;
    return nullptr;
}

Message caution(const char* code, const char* field, std::string text)
{
    return {code, Level::caution, field, std::move(text)};
}

} // namespace

double least_fat_percent(Sex sex) { return sex == Sex::male ? 5 : 12; }

const IndexRange& index_range(Sex sex)
{
    static constexpr IndexRange men{16.7, 19.8, 1.8, 5.2}, women{14.6, 16.8, 3.9, 8.2};
    return sex == Sex::male ? men : women;
}

Messages judge_composition(Sex sex, double age_y, double fat, double ffmi, double fmi)
{
    Messages out;
    const auto say = [&](const char* code, std::string text) {
        out.push_back({code, Level::caution, "", std::move(text)});
    };
    const double minimum = least_fat_percent(sex);
    if (!(fat >= 3 && fat <= 60))
        say("fat_unusual", "Percent fat is outside 3 to 60: check every input and measure again.");
    if (fat < minimum)
        say("under_minimum", "Percent fat is at or under the level needed for health (" + limits::plain(minimum) +
                                 " %). Recommend talking to a clinician; plan no further loss.");
    if (low_reserve(sex, age_y, ffmi, fmi))
        say("low_reserve",
            "Fat-free and fat mass are both low for the height: at or under the level needed for health. Recommend "
            "talking to a clinician; plan no further loss.");
    return out;
}

bool low_reserve(Sex sex, double age_y, double ffmi, double fmi)
{
    const IndexRange& r = index_range(sex);
    return age_y >= adult_y && ffmi < r.ffmi_low && fmi < r.fmi_low;
}

const char* unusual_build(Sex sex, double age_y, double fat_percent, double ffmi, double bmi)
{
    if (!(age_y >= adult_y)) return nullptr;
    if (bmi >= obese_bmi) return "very obese";
    if (ffmi > index_range(sex).ffmi_high + muscular_over &&
        fat_percent <= (sex == Sex::male ? muscular_most_fat_men : muscular_most_fat_women))
        return "very muscular";
    if (fat_percent < (sex == Sex::male ? athletic_lean_men : athletic_lean_women)) return "very lean";
    return nullptr;
}

std::optional<Message> judge_mass(double mass_kg, const std::optional<LastVisit>& last)
{
    if (!last || !(last->mass_kg > 0) || !(last->days_ago >= 0)) return std::nullopt;
    const double change = mass_kg - last->mass_kg;
    const auto kg = [](double v) { return limits::plain(v, 1) + " kg"; };
    if (last->days_ago < soon_days) {
        if (std::abs(change) <= std::min(mass_differs_kg, mass_differs_share * last->mass_kg) + slack)
            return std::nullopt;
        const long days = std::lround(last->days_ago);
        return caution("mass_differs", "mass_kg",
            "Body mass is " + kg(mass_kg) + "; it was " + kg(last->mass_kg) +
                (days == 0      ? " earlier today"
                    : days == 1 ? " a day ago"
                                : " " + std::to_string(days) + " days ago") +
                ". More than 2 kg or 2.5 % within two weeks: is it the right person? Weigh again.");
    }
    const double a_week = -change / (last->days_ago / 7);
    if (a_week <= std::min(fast_fall_kg_per_week, fast_fall_share_per_week * last->mass_kg) + slack)
        return std::nullopt;
    return caution("fast_fall", "mass_kg",
        "Body mass fell from " + kg(last->mass_kg) + " to " + kg(mass_kg) + " in " + limits::plain(last->days_ago, 0) +
            " days, " + limits::plain(a_week, 2) +
            " kg a week: faster than 1 kg or 1 % a week. Recommend talking to a clinician; plan no further loss.");
}

std::optional<Message> judge_pace(std::span<const LastVisit> weighings)
{
    const LastVisit *worst_from = nullptr, *worst_to = nullptr;
    double worst = 0;
    for (const LastVisit& to : weighings)
        for (const LastVisit& from : weighings) {
            const double days = from.days_ago - to.days_ago;
            if (!(days > 0) || days > pace_window_days || to.days_ago > pace_window_days || !(to.days_ago >= 0))
                continue;
            const double weeks = std::max(days, soon_days) / 7,
                         allowed = std::min(fast_fall_kg_per_week, fast_fall_share_per_week * from.mass_kg) * weeks +
                                   day_to_day_kg,
                         over = from.mass_kg - to.mass_kg - allowed;
            if (over <= std::max(worst, slack)) continue;
            worst = over;
            worst_from = &from;
            worst_to = &to;
        }
    if (!worst_from) return std::nullopt;
    return caution("fast_fall", "mass_kg",
        "Body mass fell from " + limits::plain(worst_from->mass_kg, 1) + " to " + limits::plain(worst_to->mass_kg, 1) +
            " kg within " + limits::plain(worst_from->days_ago - worst_to->days_ago, 0) +
            " days: faster than 1 kg or 1 % a week. Recommend talking to a clinician; plan no further loss.");
}

std::optional<Message> judge_height(double height_cm, double record_cm, double age_y)
{
    if (!(age_y >= adult_y) || !(record_cm > 0) || std::abs(height_cm - record_cm) <= height_differs_cm + slack)
        return std::nullopt;
    return caution("height_differs", "height_cm",
        "Height is " + limits::plain(height_cm, 1) + " cm; the record says " + limits::plain(record_cm, 1) +
            " cm. More than 1.5 cm in an adult: is it the right person? Measure again.");
}

std::optional<Message> judge_drift(double first_kg, double again_kg)
{
    if (std::abs(first_kg - again_kg) <= mass_drift_kg + slack) return std::nullopt;
    return caution("mass_drifted", "mass_kg",
        "Body mass was " + limits::plain(first_kg, 2) + " kg before and " + limits::plain(again_kg, 2) +
            " kg after the readings; more than 0.10 kg apart. What came off, or what was drunk? Weigh and measure "
            "again.");
}

std::optional<Message> judge_water(double share, bool swelling)
{
    if (!swelling || !(share > high_extracellular_share)) return std::nullopt;
    return caution("water_and_swelling", "ecw_ratio",
        "The share of water outside the cells is " + limits::plain(share, 3) +
            ", over 0.45, and swelling was noted: recommend seeing a physician; nothing about weight is planned.");
}

std::span<const Caution> cautions() { return rows; }

bool asks_again(const Message& m)
{
    const Caution* c = row_of(m);
    return c && c->measure_again;
}

bool forbids_plan(const Message& m)
{
    const Caution* c = row_of(m);
    return c && c->no_plan;
}

} // namespace fusain::judgement
