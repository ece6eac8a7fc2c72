// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/page/charts.h"

#include <algorithm>
#include <cmath>

namespace fusain::report {

using look::Voice;

void draw_control_chart(QPainter& p, const QRectF& area, const quality::Chart& chart,
    std::span<const quality::Point> points, double reference, const QString& unit, int decimals, const look::Palette& c,
    int em)
{
    if (points.empty()) return;
    p.save();
    p.setRenderHint(QPainter::Antialiasing);
    const bool limits = chart.baseline_n > 0;
    double low = points[0].value, high = points[0].value;
    for (const auto& x : points) {
        low = std::min(low, x.value);
        high = std::max(high, x.value);
    }
    if (limits) {
        low = std::min(low, chart.low);
        high = std::max(high, chart.high);
    }
    if (reference > low - (high - low) && reference < high + (high - low)) {
        low = std::min(low, reference);
        high = std::max(high, reference);
    }
    if (high - low < std::pow(10, -decimals)) {
        low -= std::pow(10, -decimals);
        high += std::pow(10, -decimals);
    }
    const double pad = 0.12 * (high - low);
    low -= pad;
    high += pad;
    const double left = area.left() + 5.2 * em, right = area.right() - 7.0 * em;
    const bool sums = limits && area.height() > 12 * em;
    const QRectF upper(
        left, area.top() + 0.4 * em, right - left, sums ? area.height() * 0.62 : area.height() - 2.4 * em);
    const auto x_of = [&](std::size_t i) {
        return left + (right - left) *
                          (points.size() == 1 ? 0.5 : static_cast<double>(i) / static_cast<double>(points.size() - 1));
    };
    const auto y_of = [&](double v) { return upper.bottom() - upper.height() * (v - low) / (high - low); };
    const auto number = [&](double v) { return QString::number(v, 'f', decimals).replace('-', QChar(0x2212)); };

    p.setFont(look::font(Voice::measured, static_cast<int>(0.85 * em)));
    if (limits) {
        QColor band = c.line;
        band.setAlphaF(0.45f);
        p.fillRect(QRectF(QPointF(left, y_of(chart.high)), QPointF(right, y_of(chart.low))), band);
        p.setPen(QPen(c.smudge, 1, Qt::DashLine));
        p.drawLine(QPointF(left, y_of(chart.mean)), QPointF(right, y_of(chart.mean)));
        p.setPen(c.smudge);
        const bool apart = y_of(chart.mean) - y_of(chart.high) > 1.3 * em; // else they would stand on each other
        for (const auto& [v, words] : {std::pair{chart.high, QStringLiteral("+3 SD")},
                 std::pair{chart.mean, apart ? QStringLiteral("baseline") : QStringLiteral("± 3 SD")},
                 std::pair{chart.low, QStringLiteral("\u22123 SD")}}) {
            if (!apart && v != chart.mean) continue;
            p.drawText(QRectF(area.left(), y_of(v) - em, 4.8 * em, 2 * em), Qt::AlignRight | Qt::AlignVCenter,
                QString::number(v, 'f', decimals + 1));
            p.drawText(
                QRectF(right + 0.5 * em, y_of(v) - em, 6.6 * em, 2 * em), Qt::AlignLeft | Qt::AlignVCenter, words);
        }
    }
    if (reference >= low && reference <= high && (!limits || std::abs(y_of(reference) - y_of(chart.mean)) > 1.1 * em)) {
        p.setPen(QPen(c.ink, 1.4));
        p.drawLine(QPointF(left - 0.5 * em, y_of(reference)), QPointF(left + 0.5 * em, y_of(reference)));
        if (!limits || (std::abs(y_of(reference) - y_of(chart.high)) > 1.1 * em &&
                           std::abs(y_of(reference) - y_of(chart.low)) > 1.1 * em))
            p.drawText(QRectF(area.left(), y_of(reference) - em, 4.8 * em, 2 * em), Qt::AlignRight | Qt::AlignVCenter,
                number(reference));
    }
    // the first twenty are the baseline
    if (limits && static_cast<std::size_t>(chart.baseline_n) < points.size()) {
        const double x =
            (x_of(static_cast<std::size_t>(chart.baseline_n) - 1) + x_of(static_cast<std::size_t>(chart.baseline_n))) /
            2;
        p.setPen(QPen(c.line, 1));
        p.drawLine(QPointF(x, upper.top()), QPointF(x, area.bottom() - 1.6 * em));
    }
    p.setPen(QPen(c.smudge, 1));
    for (std::size_t i = 1; i < points.size(); ++i)
        p.drawLine(QPointF(x_of(i - 1), y_of(points[i - 1].value)), QPointF(x_of(i), y_of(points[i].value)));
    for (std::size_t i = 0; i < points.size(); ++i) {
        const bool outside = limits && (points[i].value < chart.low || points[i].value > chart.high);
        const QPointF at(x_of(i), y_of(points[i].value));
        p.setPen(QPen(outside ? c.look_here : c.ink, 1.4));
        p.setBrush(i + 1 == points.size() ? QBrush(outside ? c.look_here : c.ink) : QBrush(c.paper));
        const double r = 0.26 * em;
        if (outside)
            p.drawPolygon(QPolygonF{at + QPointF(0, -1.6 * r), at + QPointF(1.6 * r, 0), at + QPointF(0, 1.6 * r),
                at + QPointF(-1.6 * r, 0)});
        else
            p.drawEllipse(at, r, r);
    }
    if (chart.at >= 0 && (chart.sign == quality::Sign::drift || chart.sign == quality::Sign::step)) {
        const double x = x_of(static_cast<std::size_t>(chart.at));
        p.setPen(QPen(c.look_here, 1.6));
        p.drawLine(QPointF(x, upper.top()), QPointF(x, upper.bottom()));
        p.setFont(look::font(Voice::text, static_cast<int>(0.9 * em)));
        p.drawText(QRectF(x + 0.3 * em, upper.top() - 0.2 * em, 12 * em, 1.4 * em), Qt::AlignLeft,
            chart.sign == quality::Sign::step ? QStringLiteral("step") : QStringLiteral("drift begins"));
    }
    if (sums) {
        const QRectF lower(left, upper.bottom() + 1.6 * em, right - left, area.bottom() - upper.bottom() - 3.6 * em);
        double most = quality::cusum_alarm * 1.2;
        for (const auto* sum : {&chart.cusum_up, &chart.cusum_down})
            for (double v : *sum) most = std::max(most, v);
        const auto sy = [&](double v) { return lower.center().y() - lower.height() / 2 * v / most; };
        p.setPen(QPen(c.line, 1));
        p.drawLine(QPointF(left, sy(0)), QPointF(right, sy(0)));
        p.setPen(QPen(c.smudge, 1, Qt::DotLine));
        for (double v : {quality::cusum_alarm, -quality::cusum_alarm})
            p.drawLine(QPointF(left, sy(v)), QPointF(right, sy(v)));
        p.setFont(look::font(Voice::text, static_cast<int>(0.85 * em)));
        p.setPen(c.smudge);
        p.drawText(QRectF(right + 0.5 * em, sy(quality::cusum_alarm) - em, 6.6 * em, 2 * em),
            Qt::AlignLeft | Qt::AlignVCenter, QStringLiteral("alarm"));
        p.drawText(QRectF(area.left(), lower.top(), 4.8 * em, lower.height()),
            Qt::AlignRight | Qt::AlignVCenter | Qt::TextWordWrap, QStringLiteral("running sum"));
        for (const auto& [sum, sign] : {std::pair{&chart.cusum_up, 1.0}, std::pair{&chart.cusum_down, -1.0}}) {
            QPolygonF line;
            for (std::size_t i = 0; i < sum->size(); ++i) line << QPointF(x_of(i), sy(sign * (*sum)[i]));
            p.setPen(QPen(std::any_of(sum->begin(), sum->end(), [](double v) { return v > quality::cusum_alarm; })
                              ? c.look_here
                              : c.ink,
                1.3));
            p.setBrush(Qt::NoBrush);
            p.drawPolyline(line);
        }
    }
    p.setFont(look::font(Voice::measured, static_cast<int>(0.8 * em)));
    p.setPen(c.smudge);
    p.drawText(QRectF(left, area.bottom() - 1.4 * em, right - left, 1.4 * em), Qt::AlignLeft,
        QString::fromStdString(points.front().day));
    if (points.size() > 1)
        p.drawText(QRectF(left, area.bottom() - 1.4 * em, right - left, 1.4 * em), Qt::AlignRight,
            QString::fromStdString(points.back().day));
    p.drawText(QRectF(left, area.bottom() - 1.4 * em, right - left, 1.4 * em), Qt::AlignCenter, unit);
    p.restore();
}

} // namespace fusain::report
