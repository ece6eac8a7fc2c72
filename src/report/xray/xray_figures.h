// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/result.h"
#include "core/xray/likeness.h"
#include "report/page/figures.h"

#include <QImage>

/// Pictures of an X-ray scan: the map in charcoal on paper, lines as strings, and the body as strata.
namespace fusain::report {

/// What lies where, as shade: the more there is in the way, the darker; bone darker than the flesh around it.
QImage charcoal(const xray::Composition& scan, const look::Palette& palette);
/// Of rows that are still coming, ln(I0/I): draws those from one row on up to another into a picture of the same size.
void charcoal(QImage& into, const xray::Image& attenuation, int from_row, int to_row, const look::Palette& palette);

/// Where the map lies on the screen.
struct MapPlace {
    QRectF on; ///< the whole picture
    double width_mm = 1, height_mm = 1;
    QPointF at(double x_mm, double y_mm) const
    {
        return {on.left() + x_mm / width_mm * on.width(), on.top() + y_mm / height_mm * on.height()};
    }
    double mm_per_pixel() const { return width_mm / on.width(); }
};
/// As large as it fits, in the middle.
MapPlace place_map(const QRectF& area, double width_mm, double height_mm);

/// The strings over a map. `chosen`: drawn stronger, its knots as beads (−1: none). `ghost`: last time's, dotted.
void draw_strings(QPainter& painter, const MapPlace& place, const xray::Lines& lines, const look::Palette& palette,
    int em, int chosen = -1, int knot = -1, const xray::Lines* ghost = nullptr);
/// How waist and hip bands overlap trunk and legs.
void draw_bands(QPainter& painter, const MapPlace& place, const xray::Lines& lines, const look::Palette& palette);

/// The body as strata: a layer for head, arms, trunk and legs, as high as it is heavy; in each the bone in the middle,
/// lean around it, fat outside, as wide as their shares. What is ochre in the picture is fat in the body.
void draw_strata(QPainter& painter, const QRectF& area, const Result& result, bool trunk_with_head,
    const look::Palette& palette, int em, const MassUnit& unit);
inline constexpr double strata_rows_high = 16.5; ///< text sizes

} // namespace fusain::report
