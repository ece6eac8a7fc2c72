// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"
#include "core/base/propagate.h"
#include "core/impedance/arc.h"
#include "core/impedance/equations.h"

#include <array>

/// Impedance: from the spectra of five segments, or of the whole body, to fat-free mass, water and muscle.
namespace fusain::impedance {

enum class Segment { right_arm, left_arm, trunk, right_leg, left_leg };
inline constexpr std::size_t segment_count = 5;
struct SegmentRow {
    const char *id, *title;
};
inline constexpr std::array<SegmentRow, segment_count> segment_rows = {{{"right_arm", "right arm"},
    {"left_arm", "left arm"}, {"trunk", "trunk"}, {"right_leg", "right leg"}, {"left_leg", "left leg"}}};

/// The frequency that the equations were made at.
inline constexpr double equations_khz = 50;

/// Which equation for what.
struct Choice {
    std::string fat_free_mass = "kyle_2001", total_body_water = "sun_2003", skeletal_muscle = "janssen_2000",
                water_spaces = "moissl_2006";
};
inline constexpr const char* water_space_ids[] = {"moissl_2006", "de_lorenzo_1997"};

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
///           with their indexes. With one frequency (caution `one_frequency`) no arc and no water spaces.
/// Refused:  `implant` · error: out_of_range, missing_field, frequency_twice, swapped, unknown_choice ·
///           repeat: impedance_not_falling, not_an_arc
/// Cautions: outside_group, error_unknown, sides_differ, fat_unusual, under_minimum, low_reserve
Outcome<Result> compute(const Input& in, Detail detail = Detail::whole);

/// The same budget of percent fat by central differences, for checks.
uncertainty::Budget fat_budget_central(const Input& in);

} // namespace fusain::impedance
