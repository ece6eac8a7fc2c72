// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/quality/quality.h"
#include "report/page/look.h"

#include <QPainter>

namespace fusain::report {

/// Checks of an instrument over time: single values, the baseline's limits as a band, the reference as a tick, the
/// cumulative sum below. What it shows is said in words beside it.
void draw_control_chart(QPainter& painter, const QRectF& area, const quality::Chart& chart,
    std::span<const quality::Point> points, double reference, const QString& unit, int decimals,
    const look::Palette& palette, int em);

} // namespace fusain::report
