// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/quality/judgement.h"
#include "report/page/pen.h"
#include "report/reading/pictures.h"

#include <QPainterPath>

#include <algorithm>
#include <span>

namespace fusain::report {

using look::Voice;
using pen::text;

void draw_balance(QPainter& p, const QRectF& area, const BalancePicture& picture, const look::Palette& c, int em)
{
    if (picture.path.empty()) return;
    p.save();
    p.setRenderHint(QPainter::Antialiasing);
    const judgement::IndexRange& range = judgement::index_range(picture.sex);
    double left = range.ffmi_low - 2, right = range.ffmi_high + 2.5, bottom = 0, top = range.fmi_high + 3;
    for (const BalancePoint& one : picture.path) {
        left = std::min(left, one.ffmi - one.u_ffmi - 0.8);
        right = std::max(right, one.ffmi + one.u_ffmi + 0.8);
        top = std::max(top, one.fmi + one.u_fmi + 1);
    }
    const QRectF plot = area.adjusted(3.4 * em, 1.4 * em, -3.6 * em, -3.2 * em);
    const auto x = [&](double ffmi) { return plot.left() + (ffmi - left) / (right - left) * plot.width(); };
    const auto y = [&](double fmi) { return plot.bottom() - (fmi - bottom) / (top - bottom) * plot.height(); };
    const QFont small = look::font(Voice::text, static_cast<int>(0.85 * em)),
                figures = look::font(Voice::measured, static_cast<int>(0.85 * em));

    // axes
    p.setPen(QPen(c.ink, 0.08 * em));
    p.drawLine(plot.bottomLeft(), plot.bottomRight());
    p.drawLine(plot.bottomLeft(), plot.topLeft());
    const double sx = pen::round_step(right - left, 6), sy = pen::round_step(top - bottom, 5);
    for (double v = std::ceil(left / sx) * sx; v <= right + 1e-9; v += sx) {
        p.setPen(QPen(c.ink, 0.06 * em));
        p.drawLine(QPointF(x(v), plot.bottom()), QPointF(x(v), plot.bottom() + 0.3 * em));
        text(p, QRectF(x(v) - 2 * em, plot.bottom() + 0.4 * em, 4 * em, 1.2 * em), Qt::AlignCenter,
            QString::number(v, 'f', sx < 1 ? 1 : 0), figures, c.smudge);
    }
    for (double v = bottom; v <= top + 1e-9; v += sy) {
        p.setPen(QPen(c.ink, 0.06 * em));
        p.drawLine(QPointF(plot.left() - 0.3 * em, y(v)), QPointF(plot.left(), y(v)));
        text(p, QRectF(area.left(), y(v) - 0.6 * em, 3 * em, 1.2 * em), Qt::AlignRight | Qt::AlignVCenter,
            QString::number(v, 'f', sy < 1 ? 1 : 0), figures, c.smudge);
    }
    text(p, QRectF(plot.left(), plot.bottom() + 1.7 * em, plot.width(), 1.4 * em), Qt::AlignRight | Qt::AlignVCenter,
        QStringLiteral("fat-free mass index, kg/m² →"), small, c.lean);
    text(p, QRectF(area.left(), area.top(), 20 * em, 1.3 * em), Qt::AlignLeft | Qt::AlignVCenter,
        QStringLiteral("↑ fat mass index, kg/m²"), small, c.fat);

    p.save();
    p.setClipRect(plot);
    // percent fat: rays from no mass at all
    for (const int percent : {5, 10, 15, 20, 25, 30, 35, 40, 50}) {
        const double slope = percent / (100.0 - percent);
        p.setPen(QPen(pen::faded(c.fat, 110), 0.06 * em, Qt::DotLine));
        p.drawLine(QPointF(x(left), y(slope * left)), QPointF(x(right), y(slope * right)));
    }
    // body mass index: what the two indices make together
    static constexpr double limits[] = {18.5, 25.0, 30.0, 35.0, 40.0};
    const std::span<const double> of_adults = picture.adult ? std::span(limits) : std::span<const double>();
    for (const double bmi : of_adults) {
        p.setPen(QPen(c.line, 0.09 * em, Qt::DashLine));
        p.drawLine(QPointF(x(bmi - top), y(top)), QPointF(x(bmi - bottom), y(bottom)));
    }
    p.restore();
    // their names stand where the lines leave the picture
    for (const int percent : {5, 10, 15, 20, 25, 30, 35, 40, 50}) {
        const double fmi = percent / (100.0 - percent) * right;
        if (fmi < top - 0.3)
            text(p, QRectF(plot.right() + 0.3 * em, y(fmi) - 0.6 * em, 3.4 * em, 1.2 * em),
                Qt::AlignLeft | Qt::AlignVCenter, QStringLiteral("%1 %").arg(percent), figures, c.fat);
    }
    for (const double bmi : of_adults) {
        const double ffmi = bmi - top;
        if (x(ffmi) > plot.left() + 13 * em && ffmi < right) // not on the name of the axis
            text(p, QRectF(x(ffmi) - 3.5 * em, plot.top() - 1.2 * em, 7 * em, 1.2 * em), Qt::AlignCenter,
                QStringLiteral("BMI %1").arg(bmi, 0, 'f', bmi < 20 ? 1 : 0), small, c.faint);
    }
    if (picture.adult) {
        const QRectF box(QPointF(x(range.ffmi_low), y(range.fmi_high)), QPointF(x(range.ffmi_high), y(range.fmi_low)));
        p.setPen(QPen(c.mineral, 0.1 * em));
        p.setBrush(QBrush(c.line, Qt::BDiagPattern));
        p.drawRect(box);
        text(p, QRectF(box.left(), box.bottom() + 0.1 * em, std::max(box.width(), 16.0 * em), 1.2 * em),
            Qt::AlignLeft | Qt::AlignVCenter, QStringLiteral("adults of BMI 18.5–25, Kyle 2003"), small, c.smudge);
    }
    // the path
    QPolygonF line;
    for (const BalancePoint& one : picture.path) line << QPointF(x(one.ffmi), y(one.fmi));
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(c.ink, 0.14 * em, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    p.drawPolyline(line);
    const BalancePoint& last = picture.path.back();
    p.setPen(Qt::NoPen);
    p.setBrush(pen::faded(c.look_here, 55));
    if (last.u_ffmi > 0)
        p.drawEllipse(line.back(), x(last.ffmi + last.u_ffmi) - x(last.ffmi), y(last.fmi) - y(last.fmi + last.u_fmi));
    for (int i = 0; i < line.size(); ++i) {
        const bool end = i == line.size() - 1;
        p.setPen(QPen(c.ink, 0.1 * em));
        p.setBrush(end ? QBrush(c.ink) : QBrush(c.paper));
        p.drawEllipse(line[i], (end ? 0.5 : 0.36) * em, (end ? 0.5 : 0.36) * em);
        const QString& words = picture.path[static_cast<std::size_t>(i)].label;
        if (words.isEmpty()) continue;
        const double width = QFontMetricsF(small).horizontalAdvance(words) + 4;
        // to the left where there is no room, and for a first that lies beside the last
        const bool beside_last = i == 0 && line.size() > 1 && std::abs(line[0].y() - line.back().y()) < 1.3 * em &&
                                 line.back().x() >= line[0].x() && line.back().x() - line[0].x() < width + 2 * em;
        const bool to_left = beside_last || line[i].x() + 0.8 * em + width > plot.right();
        const double at = to_left ? line[i].x() - 0.8 * em - width : line[i].x() + 0.8 * em;
        const double height = end || i == 0 ? -0.6 * em : 0.4 * em;
        text(p, QRectF(at, line[i].y() + height, width, 1.2 * em), Qt::AlignLeft | Qt::AlignVCenter, words,
            look::font(Voice::text, static_cast<int>(0.85 * em), end), end ? c.ink : c.smudge);
    }
    p.restore();
}

} // namespace fusain::report
