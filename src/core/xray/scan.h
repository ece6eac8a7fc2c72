// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/xray/lines.h"

/// From a map to what lies in each region.
namespace fusain::xray {

struct Scan {
    Composition made_of;
    Lines lines;
    bool lines_given = false;
    Regions regions{};
};

/// Given:    map, table; lines, else they are placed by the shape of the body
/// Returned: fat, lean and bone mineral of each region
/// Cautions: little_soft, naming a limb that is nearly all bone in the picture
/// Refused:  repeat off_field (the body touches the picture's edge), motion (rows jump sideways), no_body, no_lines ·
///           error frames_swapped, lines_cross, lines_order, out_of_range
Outcome<Scan> read(const Map& map, const Table& table, const Lines* lines = nullptr);

/// `off_field`: more than a little of the body lies on the outermost rows or columns.
std::optional<Message> off_field(const Shape& shape);
/// `motion`: between two rows everything jumps sideways, both outlines alike, by 6 mm and more.
std::optional<Message> motion(const Shape& shape);

} // namespace fusain::xray
