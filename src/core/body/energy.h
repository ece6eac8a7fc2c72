// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"
#include "core/base/person.h"
#include "core/base/result.h"

#include <array>
#include <span>
#include <string_view>

/// What a body needs: at rest by every school, and in a day.
namespace fusain::energy {

/// Who needs it, and what that body is made of.
struct Body {
    Sex sex = Sex::female;
    double age_y = 0, height_cm = 0, fat_kg = 0, fat_free_kg = 0;
    double mass_kg() const { return fat_kg + fat_free_kg; }
    double fat_percent() const { return 100 * fat_kg / mass_kg(); }
    double bmi() const { return mass_kg() / (height_cm * height_cm / 1e4); }
    double ffmi() const { return fat_free_kg / (height_cm * height_cm / 1e4); }
};

/// What stands in a client's record and forbids something, whatever is measured.
struct Facts {
    bool pregnant = false, eating_disorder = false, kidney_disease = false;
};

/// Resting energy by one published equation, kcal a day.
struct School {
    const char *id, *title, *source;
    double (*kcal)(const Body& body);
};
std::span<const School> schools();
/// Those that were made for the age; the first of a minor's is the default.
std::span<const School> schools_for(double age_y);
const School* find(std::string_view id);
inline constexpr const char* default_school = "cunningham_1991"; ///< fat-free mass was just measured
inline constexpr const char* minors_school = "schofield_1985";   ///< 3 to under 18 years
const char* default_school_for(double age_y);
inline constexpr double residual_sd_kcal = 165; ///< of people beside each school: 130 to 200

/// A day of one kind: how much more than rest it costs. Quiet: rest and a fifth, this lab's rule; active and very
/// active: the lower edge of "moderate" and the beginning of "vigorous" (FAO/WHO/UNU 2004).
struct Day {
    const char *id, *title;
    double activity_level;
};
inline constexpr double quiet_level = 1.2;
inline constexpr Day days[] = {{"lying", "lying in bed", 1.0}, {"quiet", "a quiet day", quiet_level},
    {"active", "an active day", 1.7}, {"very_active", "a very active day", 2.1}};

struct Input {
    Body body;
    double activity_level = 1.6;
    std::string school; ///< empty: the default for the age
    Facts facts;
};

/// What a body needs in a day.
///
/// Given:    body; activity level 1.2–2.5; the school that counts; what stands in the record
/// Returned: resting energy by every school (Schofield's only from 3 to under 18 years) and by the chosen one; a day's
///           (activity × rest), a quiet day's (1.2 × rest); a cautious deficit min(500, 15 % of the day), half from
///           food, with the intake it leaves; a surplus of 10 %; protein as a range, 1.6 to 2.2 g per kg fat-free mass
/// Source:   the equations by their own; the rest is this lab's rule
/// Cautions: no_plan_minor, no_plan_pregnant, no_plan_eating_disorder: neither deficit nor surplus · no_plan_low (no
///           loss may begin), under_floor (the deficit would leave less than anybody is told to eat): no deficit ·
///           no_protein_kidney: no protein · outside_group (an adults' equation for a minor)
///           error: out_of_range, unknown_choice
Outcome<Result> compute(const Input& in);
/// Limits of a body and its activity, naming `prefix.…`.
[[nodiscard]] Messages check(
    const Body& body, double activity_level, const std::string& school, const std::string& prefix);

} // namespace fusain::energy
