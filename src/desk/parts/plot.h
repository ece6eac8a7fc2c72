// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <qcustomplot.h>

namespace fusain::desk {

/// An axis in the colours and fonts of the theme, without ticks; `grid`: with faint lines across.
void dress_axis(QCPAxis* axis, bool grid);

/// Words at a place of an axis rectangle, 0 to 1 from its left and its top.
QCPItemText* words_in(
    QCustomPlot* plot, QCPAxisRect* rect, const QString& words, double x, double y, Qt::Alignment alignment);

/// What a curve that moves needs: its lines drawn piece by piece, a fifth of the time of one long smooth stroke.
void make_quick(QCustomPlot* plot);

} // namespace fusain::desk
