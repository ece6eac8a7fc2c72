// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/xray/lines.h"

/// Lines moved by hand, and lines beside those of another scan of the same body.
namespace fusain::xray {

/// Where the body lies in its picture.
struct Frame {
    double crown_mm = 0, soles_mm = 0, middle_mm = 0;
    double length_mm() const { return soles_mm - crown_mm; }
};
/// `middle_mm` is that of the trunk between neck and pelvis, so that a foot turned out does not move it.
Frame frame_of(const Mask& area, const Lines& lines, double dx_mm, double dy_mm);
/// The lines of one scan laid over another, where they lie on the body.
Lines carried(const Lines& lines, const Frame& from, const Frame& to);

/// The seven strings, from top to bottom.
enum class String : std::size_t { neck, right_arm, left_arm, pelvis, right_leg, left_leg, between_legs };
inline constexpr std::size_t string_count = 7;
struct StringRow {
    const char *id, *title;
    bool level;            ///< runs across the body: it is moved up and down, else sideways
    Polyline Lines::*line; ///< null: level
    double Lines::*height; ///< null: a polyline
    Region region, other;  ///< what it cuts from what
};
inline constexpr StringRow string_rows[] = {
    {"neck", "under the chin", true, nullptr, &Lines::neck_mm, Region::head, Region::trunk},
    {"right_arm", "right shoulder and arm", false, &Lines::right_arm, nullptr, Region::right_arm, Region::trunk},
    {"left_arm", "left shoulder and arm", false, &Lines::left_arm, nullptr, Region::left_arm, Region::trunk},
    {"pelvis", "over the hip bones", true, nullptr, &Lines::pelvis_mm, Region::android, Region::gynoid},
    {"right_leg", "right hip joint", true, &Lines::right_leg, nullptr, Region::right_leg, Region::trunk},
    {"left_leg", "left hip joint", true, &Lines::left_leg, nullptr, Region::left_leg, Region::trunk},
    {"between_legs", "between the legs", false, &Lines::between_legs, nullptr, Region::right_leg, Region::left_leg}};
inline constexpr const StringRow& row(String s) { return string_rows[static_cast<std::size_t>(s)]; }

/// A string, or one of its knots (−1: the whole of it), moved. A level string is moved up and down by `mm`, any other
/// sideways; a knot by both.
Lines moved(Lines lines, String string, int knot, double dx_mm, double dy_mm);

/// What a millimetre of a string is worth to the region it cuts off: as it is moved down, or to the picture's right.
Mass per_mm(const Composition& scan, const Lines& lines, String string);

/// How far today's string lies from last time's.
struct Apart {
    String string{};
    double mm = 0;    ///< mean, down or to the picture's right
    double grams = 0; ///< what that alone does to the region it cuts off
};
inline constexpr double same_rule_mm = 10; ///< this lab's rule: within it the lines follow the same rule as last time
std::vector<Apart> apart(const Composition& scan, const Lines& now, const Lines& last_carried);

} // namespace fusain::xray
