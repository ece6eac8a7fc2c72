// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"
#include "core/base/propagate.h"
#include "core/impedance/arc.h"
#include "core/impedance/equations.h"
#include "core/impedance/segments.h"

#include <memory>

/// Impedance: from the spectra of five segments, or of the whole body, to fat-free mass, water and muscle.
namespace fusain::impedance {

/// The frequency that the equations were made at.
inline constexpr double equations_khz = 50;

/// Chosen instead of an equation: what it would predict is left out.
inline constexpr const char* no_equation = "none";

/// Which equation for what.
struct Choice {
    std::string fat_free_mass = "kyle_2001", total_body_water = "sun_2003", skeletal_muscle = "janssen_2000",
                water_spaces = "moissl_2006";
};
struct WaterSpaces {
    const char *id, *title;
};
inline constexpr WaterSpaces water_space_rows[] = {
    {"moissl_2006", "Moissl 2006"}, {"de_lorenzo_1997", "De Lorenzo 1997"}};
bool knows_water_spaces(std::string_view id);
inline constexpr double adult_y = 18;    ///< water spaces, expected lean and muscle are of adults
inline constexpr double youngest_y = 10; ///< of any group that an equation here was made on
/// What a person of this age begins with: no equation that was made on others. Under 10 none at all; under 18
/// Houtkooper 1992 for fat-free mass, Sun 2003 for water from 12, none for muscle.
Choice usual_choice(double age_y);
/// The current's way between the electrodes of the whole body.
inline constexpr Segment in_the_way[] = {Segment::right_arm, Segment::trunk, Segment::right_leg};

/// Standard uncertainties of what is read. Resistance and reactance with electrodes, posture and skin; no source: the
/// lab's own repeats replace them.
struct InputErrors {
    double mass_kg = 0.05, height_cm = 0.5;
    double resistance_share = 0.007; ///< of the reading
    double reactance_ohm = 1.0;
};

struct Input {
    Sex sex = Sex::female;
    double age_y = 0, height_cm = 0, mass_kg = 0;
    std::string mass_from = "platform";
    bool implant = false; ///< powered: never
    std::array<std::vector<Point>, segment_count> segments;
    std::vector<Point> whole_body; ///< instead of the segments
    Choice equations;
    std::shared_ptr<const Profile> profile; ///< of the instrument; null: no segments are computed
    ExpectedBy expected_by = ExpectedBy::height;
    InputErrors errors;
    bool has_segments() const
    {
        for (const auto& s : segments)
            if (!s.empty()) return true;
        return false;
    }
};

/// Everything that follows from the spectra. The whole body is right arm, trunk and right leg in series.
///
/// Given:    in   spectra in any order of frequency, with a point at 50 kHz
/// Returned: R and Xc at 50 kHz, phase angle, R0 and R∞ of the arc, water and its spaces, muscle, fat and fat-free mass
///           with their indexes. With one frequency (caution `one_frequency`) no arc and no water spaces. What no
///           equation is chosen for (caution `no_equation` for fat-free mass) is left out.
///           Contact, posture and skin move R, R0 and R∞ together.
/// Refused:  `implant` · error: out_of_range, missing_field, frequency_twice, swapped, unknown_choice ·
///           repeat: impedance_not_falling, not_an_arc
///           With a profile and all five segments, lean and fat of each (segments.h).
/// Cautions: outside_group, error_unknown, no_equation, waters_differ (water by equation and by the
///           arc over 10 % apart), sides_differ, segments_exchanged, phase_unusual, profile_fits_badly, no_segments,
///           fat_unusual, under_minimum, low_reserve
Outcome<Result> compute(const Input& in, Detail detail = Detail::whole);

/// What changes would do to this client's percent fat.
std::vector<WhatIf> what_ifs(const Input& in);

/// What another equation would say of the same client.
struct Beside {
    const Equation* equation = nullptr;
    double value = 0;         ///< kg or L
    double error = 0;         ///< in such a body; 0: none is known
    double fat_percent = NAN; ///< of fat-free mass alone
    bool chosen = false, outside_group = false;
};
/// Every equation there is, by what it predicts. Empty when nothing can be computed.
std::vector<Beside> beside(const Input& in);

/// The same budget of percent fat by central differences, for checks.
uncertainty::Budget fat_budget_central(const Input& in);

} // namespace fusain::impedance
