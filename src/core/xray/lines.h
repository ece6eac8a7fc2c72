// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/xray/decompose.h"
#include "core/xray/region.h"

#include <optional>
#include <vector>

/// The lines that cut a scan into regions, and what lies in each.
namespace fusain::xray {

/// From the picture's top left corner.
struct Spot {
    double x_mm = 0, y_mm = 0;
};
/// From top to bottom, extended straight on at its ends.
using Polyline = std::vector<Spot>;

struct Lines {
    double neck_mm = 0, pelvis_mm = 0;
    Polyline right_arm, left_arm, right_leg, left_leg, between_legs;
};

struct LineRow {
    const char *id, *title;
    Polyline Lines::*line;
};
inline constexpr LineRow line_rows[] = {{"right_arm", "right arm's line", &Lines::right_arm},
    {"left_arm", "left arm's line", &Lines::left_arm}, {"right_leg", "right leg's line", &Lines::right_leg},
    {"left_leg", "left leg's line", &Lines::left_leg}, {"between_legs", "line between the legs", &Lines::between_legs}};

/// The two bands that hang on neck and pelvis, from top to bottom, mm.
struct Bands {
    double android_top, android_bottom, gynoid_top, gynoid_bottom;
};
inline Bands bands(const Lines& lines)
{
    constexpr double share = 0.20, gynoid_from = 1.5,
                     gynoid_to = 3.5; // of the way to the neck; of the android's height
    const double high = share * (lines.pelvis_mm - lines.neck_mm);
    return {lines.pelvis_mm - high, lines.pelvis_mm, lines.pelvis_mm + gynoid_from * high,
        lines.pelvis_mm + gynoid_to * high};
}

/// error: lines_cross, lines_order, missing_field, out_of_range; naming `lines.…` and what is allowed.
[[nodiscard]] Messages check(const Lines& lines, double width_mm, double height_mm);

/// Where a line that runs downwards lies at this height.
double x_at(const Polyline& line, double y_mm);
/// Where a line that runs sideways lies at this place.
double y_at(const Polyline& line, double x_mm);

/// What share of each pixel a region takes: where a line cuts a pixel, it is shared, so that a dragged line moves
/// numbers smoothly. Head: above the neck. Arm: below it, outside the arm's line. Leg: not arm, on its side of the line
/// between the legs, below its slanting line. Trunk: what is left. Android: from the pelvis up by a fifth of the way to
/// the neck; gynoid: from 1.5 to 3.5 of that height below the pelvis; both without arms.
std::vector<Image> shares(const Lines& lines, Eigen::Index rows, Eigen::Index columns, double dx_mm, double dy_mm);

/// Grams and square centimetres of every region.
Regions regions(const Composition& scan, const Lines& lines);

/// Lines by the shape of the body: neck where it is thinnest, arms along the gap and up through the shoulder, pelvis
/// where the wings of bone begin, legs from the fork up through the hips.
///
/// Refused: repeat `no_body` when no body is found in the picture
Outcome<Lines> place(const Shape& shape);

} // namespace fusain::xray
