// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/body/safe.h"

#include <optional>
#include <vector>

/// What it takes to come to another body by a date, and whether that is safe.
namespace fusain::plan {

/// How much fat-free mass goes along with fat: a school of its own.
struct Lean {
    const char *id, *title;
    double share_lost, share_gained; ///< of what Forbes 1987 gives
};
inline constexpr Lean leans[] = {{"forbes", "no training: as Forbes 1987 has it", 1, 1},
    {"half_forbes", "training: half of it lost, twice built", 0.5, 2}, {"kept", "only fat changes", 0, 0}};
const Lean* find_lean(std::string_view id);

enum class Aim { fat_percent, mass_kg, fat_mass_kg };

struct Input {
    energy::Body body;
    double activity_level = 1.6;
    std::string school; ///< of resting energy; empty: the default for the age
    std::string range = "gallagher_2000", lean = "forbes";
    Aim aim = Aim::fat_percent;
    double target = 0;
    int weeks = 8;
    energy::Facts facts;
};

/// A body on its way, a day each.
struct Day {
    double fat_kg = 0, fat_free_kg = 0;
    double mass_kg() const { return fat_kg + fat_free_kg; }
};
/// The body day by day at a constant intake: energy balance with adaptation, fat and fat-free mass by the school.
///
/// Source: reduced from Hall et al. 2011, Lancet 378:826–837 (web appendix); Runge–Kutta of fourth order, one day a
///         step. Water and glycogen of the first week are not in it.
std::vector<Day> at_intake(const Input& in, double intake_kcal, int days);

/// What it takes to be there by then, and whether one arrives well.
///
/// Given:    a body, an aim and a date
/// Returned: target mass if only fat changed; the intake that meets the aim on the date, its pace, what the static rule
///           of 7 700 kcal/kg would say, the earliest whole week that is safe, what one arrives with, the least intake
/// Refused:  the first that applies, with the nearest safe answer as a value beside the message · no_plan_minor,
///           no_plan_pregnant, no_plan_eating_disorder, no_plan_low: without one · target_under_healthy · not_reached ·
///           arrival_too_low: on arrival BMI or fat-free mass index would be under its least (safe.h) · under_resting ·
///           under_floor · too_fast. Allowed at the most: a kilogram or 1 % a week down, and not under the least
///           intake; half a kilogram a week up, and not over 1.2 times the day. A gain is never refused for where it
///           arrives
/// Cautions: range_extended (no range for the age: the nearest is taken)
/// Source:   limits of this lab's rule; the model as above
Outcome<Result> compute(const Input& in);

/// What the body of the plan needs at rest and in a day, kcal.
double resting_kcal(const Input& in);
double daily_kcal(const Input& in);

/// The most that goes in the first week of any plan, kg: a kilogram, or 1 % of body mass where that is less.
double most_loss_kg_per_week(double mass_kg);

/// How far somebody may come down in so many weeks: the last whole week on the way of the strictest intake on which the
/// body would arrive well, and not under the range. Nothing: no loss begins, or not even a week of it.
std::optional<Day> furthest_down(const Input& in, int weeks);

/// The constant intake that goes towards the target as fast as is allowed, kcal a day.
double strictest_intake(const Input& in);

/// What one would weigh at this percent fat if only fat changed, kg.
double mass_if_only_fat(const energy::Body& body, double fat_percent);

/// What a day may need more or less than is reckoned, kcal: one residual SD of resting energy, times the activity, and
/// ± 0.15 of the activity level, both together (two out of three people).
double need_error_kcal(const Input& in);

/// Where a plan may lead: the schools of lean together, and a need as far off as that.
struct Band {
    std::vector<double> low, high; ///< percent fat, day by day
};
Band band(const Input& in, double intake_kcal, int days);

/// The first whole week, of 156, at whose end percent fat has moved by the least significant change.
std::optional<int> first_seen_week(const Input& in, double intake_kcal, double lsc_percent);

/// A measurement on the way, held against the plan.
enum class Progress { not_yet, on_the_way, ahead, behind };
/// Given:    change that the plan has by then, change that was measured, least significant change, same unit
/// Returned: not_yet: neither passes what can be told from noise · on_the_way: the two are nearer than that · ahead,
///           behind: further along, or less far, in the plan's direction
Progress progress(double planned, double measured, double lsc);

} // namespace fusain::plan
