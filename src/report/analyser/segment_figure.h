// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/impedance/impedance.h"
#include "report/page/figures.h"

namespace fusain::report {

/// Right and left of arms and legs away from a line between them, lean and the fat after it, a tick where lean is
/// expected; the trunk under them; beside each pair what the gap is worth. `profile`: by whose calibration.
void draw_segments(QPainter& painter, const QRectF& area, const Result& result, const QString& profile,
    const std::vector<impedance::SideGap>& gaps, const look::Palette& palette, int em, const MassUnit& unit);
inline constexpr double segment_rows_high = 17.5; ///< text sizes

/// Resistance and reactance of segments in their plane, each with the arc through it. `live`: the one that is being
/// measured.
struct ArcCurve {
    QString title;
    std::vector<impedance::Point> points;
    std::optional<impedance::Arc> arc;
    bool live = false, bad = false; ///< is being measured · must be measured again
};
void draw_arcs(
    QPainter& painter, const QRectF& area, const std::vector<ArcCurve>& curves, const look::Palette& palette, int em);

} // namespace fusain::report
