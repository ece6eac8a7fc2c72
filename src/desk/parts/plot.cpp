// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/parts/plot.h"

#include "desk/parts/theme.h"

namespace fusain::desk {

void dress_axis(QCPAxis* axis, bool grid)
{
    const Theme& t = Theme::get();
    const look::Palette& c = t.palette();
    axis->setBasePen(QPen(c.line));
    axis->setTickPen(Qt::NoPen);
    axis->setSubTickPen(Qt::NoPen);
    axis->setTickLabelColor(c.smudge);
    axis->setTickLabelFont(look::font(look::Voice::measured, t.px(13)));
    axis->setLabelColor(c.smudge);
    axis->setLabelFont(look::font(look::Voice::text, t.px(13)));
    axis->grid()->setPen(QPen(c.line, 0.6));
    axis->grid()->setZeroLinePen(QPen(c.line, 0.6));
    axis->grid()->setVisible(grid);
}

void make_quick(QCustomPlot* plot) { plot->setPlottingHints(QCP::phFastPolylines | QCP::phCacheLabels); }

QCPItemText* words_in(
    QCustomPlot* plot, QCPAxisRect* rect, const QString& words, double x, double y, Qt::Alignment alignment)
{
    auto* item = new QCPItemText(plot);
    item->setClipToAxisRect(false);
    item->setLayer(QStringLiteral("overlay"));
    item->position->setAxisRect(rect);
    item->position->setType(QCPItemPosition::ptAxisRectRatio);
    item->position->setCoords(x, y);
    item->setPositionAlignment(alignment);
    item->setText(words);
    item->setPadding(QMargins(5, 1, 5, 1));
    return item;
}

} // namespace fusain::desk
