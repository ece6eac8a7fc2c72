// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "report/page/figures.h"

namespace fusain::report {

/// The readings of a visit on their scale: those that count with the band they agree in, the others, those thrown out.
/// Masses under water in the unit given, chamber volumes in litres. `live` NaN: none is running.
void draw_readings(QPainter& painter, const QRectF& area, const bench::Visit& visit, double live,
    const look::Palette& palette, int em, const MassUnit& unit = {});

} // namespace fusain::report
