// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <array>
#include <cstddef>
#include <string_view>

namespace fusain::impedance {

enum class Segment { right_arm, left_arm, trunk, right_leg, left_leg };
inline constexpr std::size_t segment_count = 5;
struct SegmentRow {
    const char *id, *title;
};
inline constexpr std::array<SegmentRow, segment_count> segment_rows = {{{"right_arm", "right arm"},
    {"left_arm", "left arm"}, {"trunk", "trunk"}, {"right_leg", "right leg"}, {"left_leg", "left leg"}}};
inline constexpr Segment all_segments[] = {
    Segment::right_arm, Segment::left_arm, Segment::trunk, Segment::right_leg, Segment::left_leg};
constexpr std::size_t index(Segment s) { return static_cast<std::size_t>(s); }
constexpr const SegmentRow& row(Segment s) { return segment_rows[index(s)]; }

/// Right and left further apart at 50 kHz, of their mean: measured wrongly, or a body to look at. Common practice.
inline constexpr double sides_apart = 0.20;

/// Right and left of a pair that is held against each other.
struct Sides {
    Segment right, left;
    const char* title;
};
inline constexpr Sides pairs_of_sides[] = {
    {Segment::right_arm, Segment::left_arm, "arms"}, {Segment::right_leg, Segment::left_leg, "legs"}};

} // namespace fusain::impedance
