// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/xray/absorptiometry.h"
#include "core/xray/lines.h"

/// From a map to what lies in each region.
namespace fusain::xray {

struct Scan {
    Composition made_of;
    Lines lines;
    bool lines_given = false;
    Regions regions{};
    double photons_kg = 0;              ///< of fat for lean, by photon noise
    std::optional<Visceral> visceral{}; ///< where the android band could be read
};

/// What is done about a scan that asks to be made again.
enum class IfSpoilt {
    refuse,
    read ///< all the same: what is wrong comes along as a message of the level repeat
};

/// Given:    map, table; lines, else they are placed by the shape of the body
/// Returned: fat, lean and bone mineral of each region
/// Cautions: little_soft, naming a limb that is nearly all bone in the picture
/// Refused:  repeat off_field (the body touches the picture's edge), motion (rows jump sideways), no_body, no_lines ·
///           error frames_swapped, lines_cross, lines_order, out_of_range
/// With IfSpoilt::read, off_field and motion come along with the numbers; nobody is irradiated twice without need.
Outcome<Scan> read(
    const Map& map, const Table& table, const Lines* lines = nullptr, IfSpoilt if_spoilt = IfSpoilt::refuse);

/// `off_field`: more than a little of the body lies on the outermost rows or columns.
[[nodiscard]] std::optional<Message> off_field(const Shape& shape);
/// The same of the left and right edge alone, while rows still come.
[[nodiscard]] std::optional<Message> off_sides(const Shape& shape);
/// `motion`: between two rows everything jumps sideways, both outlines alike, by 6 mm and more.
[[nodiscard]] std::optional<Message> motion(const Shape& shape);

} // namespace fusain::xray
