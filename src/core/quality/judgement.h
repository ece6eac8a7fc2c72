// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/person.h"
#include "core/base/outcome.h"

#include <optional>
#include <span>
#include <string_view>

/// When a result says "measure again" or "see a clinician", in one place (docs/science/judgement.md). Nothing here
/// diagnoses.
namespace fusain::judgement {

/// Percent fat under which the body lacks what health needs: about 5 % men, 12 % women.
double least_fat_percent(Sex sex);

/// Fat-free and fat mass index of adults with BMI 18.5 to 25, kg/m² (Kyle et al. 2003, Nutrition 19:597–604).
struct IndexRange {
    double ffmi_low, ffmi_high, fmi_low, fmi_high;
};
const IndexRange& index_range(Sex sex);
/// Adults whose two indices are both under their range.
/// What is said of any result: `fat_unusual`, `under_minimum`, `low_reserve`.
[[nodiscard]] Messages judge_composition(
    Sex sex, double age_y, double fat_percent, double ffmi_kg_per_m2, double fmi_kg_per_m2);
bool low_reserve(Sex sex, double age_y, double ffmi_kg_per_m2, double fmi_kg_per_m2);

/// "very lean", "very muscular", "very obese": adults whose build the classic conversions were not made on. Null: none
/// of these. Limits: under 6 % fat (men), 14 % (women), the lower edge of the athletic bands · fat-free mass index over
/// 3 kg/m² above Kyle's range in somebody of at most 25 % fat (men), 36 % (women) · BMI of 40 and more (WHO). This
/// lab's rule but for the last.
const char* unusual_build(Sex sex, double age_y, double fat_percent, double ffmi_kg_per_m2, double bmi_kg_per_m2);

/// The client's last visit, as today's is held against it.
struct LastVisit {
    double mass_kg = 0;
    double days_ago = 0; ///< by the lab's clock
};
inline constexpr double soon_days = 14, mass_differs_kg = 2, mass_differs_share = 0.025, height_differs_cm = 1.5;
inline constexpr double pace_window_days = 56, day_to_day_kg = 0.45;
inline constexpr double fast_fall_kg_per_week = 1, fast_fall_share_per_week = 0.01;
/// Weighed again after the chamber: twice the scale's own uncertainty; 0.1 kg is worth about 0.6 % fat. This lab's
/// rule.
inline constexpr double mass_drift_kg = 0.10;

/// `mass_differs`: more than 2 kg or 2.5 % within two weeks. `fast_fall`: over a longer time, more than 1 kg or 1 % of
/// body mass a week.
[[nodiscard]] std::optional<Message> judge_mass(double mass_kg, const std::optional<LastVisit>& last);
/// Weighed then, and today; a day or more lies between two of them, the oldest first.
///
/// Given:    weighings of the last sixteen weeks, today's last
/// Returned: `fast_fall`: over any window of at most eight weeks that ended in the last eight, more than 1 kg or 1 % of
///           body mass a week went, and more than a body differs from day to day (0.45 kg); what went sooner than in
///           two weeks counts as if it had taken two
/// Source:   the pace of the plan (this lab's rule); day to day: docs/science/uncertainty.md
[[nodiscard]] std::optional<Message> judge_pace(std::span<const LastVisit> weighings);
/// `height_differs`: an adult whose height is more than 1.5 cm from the record.
[[nodiscard]] std::optional<Message> judge_height(double height_cm, double record_cm, double age_y);
/// `mass_drifted`: two weighings of one test, more than 0.10 kg apart.
[[nodiscard]] std::optional<Message> judge_drift(double first_kg, double again_kg);

/// Spectroscopic estimates of healthy adults lie at about 0.41 to 0.45.
inline constexpr double high_extracellular_share = 0.45;
/// `water_and_swelling`: a high share of the water outside the cells in somebody who is swollen.
[[nodiscard]] std::optional<Message> judge_water(double extracellular_share, bool swelling);

/// Every caution a result can carry, one row a code.
struct Caution {
    const char* code;
    bool measure_again; ///< it is not given out before somebody has acknowledged it by name
    bool no_plan;       ///< nothing is said about losing weight
};
std::span<const Caution> cautions();
/// Messages that ask for a new measurement before the number is used.
bool asks_again(const Message& message);
bool forbids_plan(const Message& message);

} // namespace fusain::judgement
