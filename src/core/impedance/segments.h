// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/result.h"
#include "core/base/outcome.h"
#include "core/impedance/profile.h"

/// From segmental impedance to lean and fat of each segment, by an instrument's profile.
namespace fusain::impedance {

/// Against what the lean of a segment is held.
enum class ExpectedBy { height, mass, nobody };
struct ExpectedByRow {
    ExpectedBy by;
    const char *id, *title;
};
inline constexpr ExpectedByRow expected_by_rows[] = {
    {ExpectedBy::height, "height", "people of that height"}, {ExpectedBy::mass, "mass", "the body it has to carry"}};
/// For minors nothing is expected: both are of adults.

struct SegmentsInput {
    Sex sex = Sex::female;
    double age_y = 0, height_cm = 0, mass_kg = 0;
    double u_height_cm = 0, u_mass_kg = 0;
    double fat_free_mass_kg = 0, u_measured_kg = 0, u_equation_kg = 0; ///< of the whole body
    std::array<double, segment_count> r50_ohm{}, u_r50_ohm{};
    ExpectedBy by = ExpectedBy::height;
};

/// Lean and fat of the five segments and of the rest, so that all of them add up to body mass.
///
/// Given:    in; profile
/// Returned: segment_lean, segment_fat, segment_expected (left out where nobody is the reference, or none has the age),
///           segment_scale, rest_lean, rest_fat, and right less left of arms and legs. Never clamped.
///           raw = a + b·(l·H)²/R · scale = FFM·(1 − rest)/Σ raw · lean = scale·raw · fat = share·M − lean
/// Cautions: profile_fits_badly, naming the segment, `rest` or `segments.scale` (outside 0.80 to 1.25)
/// Source:   the profile's own; lengths Drillis & Contini 1966, Body Segment Parameters; expected lean from the middle
///           of Kyle's fat-free index (2003, Nutrition 19:597–604), or of Gallagher's percent fat (2000, Am J Clin Nutr
///           72:694–701)
Outcome<std::vector<Value>> segments(const SegmentsInput& in, const Profile& profile);

/// Right and left of one pair.
struct SideGap {
    const char* title = ""; ///< "legs"
    double right_less_left_kg = 0;
    double noise_kg = 0; ///< what measuring alone may pretend: twice its standard uncertainty
    double limit_kg = 0; ///< this lab's threshold for this body
    enum class Verdict { within_noise, small, flagged } verdict = Verdict::within_noise;
};
/// How far right and left may be apart before a lab points at it.
struct GapRule {
    const char *id, *title;
    double arms_kg, legs_kg, share; ///< whichever comes first; 0: not used
};
std::span<const GapRule> gap_rules();
const GapRule* find_gap_rule(std::string_view id);
/// Of a result that has segments; empty without.
std::vector<SideGap> side_gaps(const Result& result, const GapRule& rule);

} // namespace fusain::impedance
