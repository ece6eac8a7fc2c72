// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/page/pen.h"
#include "report/reading/pictures.h"

#include <algorithm>

namespace fusain::report {
namespace {

using look::Voice;
using pen::text;

double percent(const plan::Day& d) { return 100 * d.fat_kg / d.mass_kg(); }

} // namespace

PlanPlace place_plan(const QRectF& area, const PlanPicture& picture, int em)
{
    PlanPlace out;
    out.plot = area.adjusted(4.2 * em, 2.2 * em, -1.4 * em, -2.6 * em);
    out.days = std::max<int>(7, static_cast<int>(picture.way.size()) - 1);
    out.low = std::min(picture.start_percent, picture.target_percent);
    out.high = std::max(picture.start_percent, picture.target_percent);
    for (const auto& one : picture.since) {
        out.low = std::min(out.low, one.percent - one.u);
        out.high = std::max(out.high, one.percent + one.u);
    }
    if (picture.nearest_percent) {
        out.low = std::min(out.low, *picture.nearest_percent);
        out.high = std::max(out.high, *picture.nearest_percent);
    }
    for (const double v : picture.band.low) out.low = std::min(out.low, v);
    for (const double v : picture.band.high) out.high = std::max(out.high, v);
    const double pad = std::max(0.8, 0.12 * (out.high - out.low));
    out.low = std::max(0.0, out.low - pad);
    out.high += pad;
    return out;
}

void draw_plan(QPainter& p, const QRectF& area, const PlanPicture& picture, const look::Palette& c, int em)
{
    if (picture.way.empty()) return;
    p.save();
    p.setRenderHint(QPainter::Antialiasing);
    const PlanPlace place = place_plan(area, picture, em);
    const QRectF& plot = place.plot;
    const QFont small = look::font(Voice::text, static_cast<int>(0.85 * em)),
                figures = look::font(Voice::measured, static_cast<int>(0.85 * em));
    const double step = pen::round_step(place.high - place.low, 6);
    for (double v = std::ceil(place.low / step) * step; v <= place.high; v += step) {
        p.setPen(QPen(pen::faded(c.line, 130), 0.05 * em));
        p.drawLine(QPointF(plot.left(), place.y(v)), QPointF(plot.right(), place.y(v)));
        text(p, QRectF(area.left(), place.y(v) - 0.7 * em, 3.8 * em, 1.4 * em), Qt::AlignRight | Qt::AlignVCenter,
            QStringLiteral("%1 %").arg(v, 0, 'f', step < 1 ? 1 : 0), figures, c.smudge);
    }
    const int weeks = place.days / 7, every = std::max(1, weeks / 6);
    for (int w = 0; w <= weeks; w += every) {
        const double x = place.x(7 * w);
        p.setPen(QPen(c.ink, 0.06 * em));
        p.drawLine(QPointF(x, plot.bottom()), QPointF(x, plot.bottom() + 0.3 * em));
        text(p, QRectF(x - 4 * em, plot.bottom() + 0.5 * em, 8 * em, 1.3 * em), Qt::AlignCenter,
            picture.start.addDays(7 * w).toString(QStringLiteral("d MMM")), small, c.smudge);
    }
    p.setPen(QPen(c.ink, 0.08 * em));
    p.drawLine(plot.bottomLeft(), plot.bottomRight());
    p.save();
    p.setClipRect(plot.adjusted(-0.7 * em, -0.7 * em, 0.7 * em, 0.7 * em));
    // what cannot be told from the start yet
    if (picture.lsc > 0) {
        const QRectF band(plot.left(), place.y(picture.start_percent + picture.lsc), plot.width(),
            place.y(picture.start_percent - picture.lsc) - place.y(picture.start_percent + picture.lsc));
        p.fillRect(band, pen::faded(c.mineral, 35));
        p.fillRect(band, QBrush(pen::faded(c.mineral, 50), Qt::BDiagPattern));
    }
    QPolygonF doubt, way;
    for (std::size_t d = 0; d < picture.band.low.size(); ++d)
        doubt << QPointF(place.x(static_cast<double>(d)), place.y(picture.band.low[d]));
    for (std::size_t d = picture.band.high.size(); d-- > 0;)
        doubt << QPointF(place.x(static_cast<double>(d)), place.y(picture.band.high[d]));
    p.setPen(Qt::NoPen);
    p.setBrush(pen::faded(c.fat, 55));
    p.drawPolygon(doubt);
    for (std::size_t d = 0; d < picture.way.size(); ++d)
        way << QPointF(place.x(static_cast<double>(d)), place.y(percent(picture.way[d])));
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(picture.refused ? c.faint : c.fat, 0.2 * em, picture.refused ? Qt::DashLine : Qt::SolidLine));
    p.drawPolyline(way);
    p.restore();
    const auto flag = [&](const QDate& day, const QString& words, const QColor& ink, double height) {
        const double d = static_cast<double>(picture.start.daysTo(day));
        if (d < 0 || d > place.days) return;
        p.setPen(QPen(ink, 0.09 * em, Qt::DashLine));
        p.drawLine(QPointF(place.x(d), plot.top() + height), QPointF(place.x(d), plot.bottom()));
        const double width = QFontMetricsF(small).horizontalAdvance(words) + 0.6 * em;
        const double at = std::clamp(place.x(d) - width / 2, plot.left(), plot.right() - width);
        text(p, QRectF(at, plot.top() + height - 1.3 * em, width, 1.3 * em), Qt::AlignCenter, words, small, ink);
    };
    if (picture.earliest) flag(*picture.earliest, QStringLiteral("earliest safe"), c.smudge, -0.2 * em);
    if (picture.next) flag(*picture.next, QStringLiteral("next visit: change shows"), c.lean, 1.3 * em);
    // the target is a handle: dragged in time and height
    const double day = static_cast<double>(picture.start.daysTo(picture.target_day));
    const QPointF at(place.x(day), place.y(picture.target_percent));
    p.setPen(QPen(c.look_here, 0.14 * em));
    p.setBrush(picture.refused ? QBrush(c.paper) : QBrush(c.look_here));
    p.drawEllipse(at, 0.62 * em, 0.62 * em);
    p.drawLine(at - QPointF(1.3 * em, 0), at + QPointF(1.3 * em, 0));
    p.drawLine(at - QPointF(0, 1.3 * em), at + QPointF(0, 1.3 * em));
    const auto beside = [&](double y, const QString& words, const QColor& ink) {
        const double width = QFontMetricsF(small).horizontalAdvance(words) + 0.6 * em;
        const QRectF box(std::clamp(at.x() - width - 1.6 * em, plot.left(), plot.right() - width),
            std::min(y, plot.bottom() - 1.4 * em), width, 1.3 * em);
        p.fillRect(box, pen::faded(c.paper, 220)); // what crosses it does not cross its letters
        text(p, box, Qt::AlignCenter, words, small, ink);
    };
    if (!picture.arrives.isEmpty()) beside(at.y() + 0.9 * em, picture.arrives, c.ink);
    if (picture.nearest_percent) {
        const double y = place.y(*picture.nearest_percent);
        p.setPen(QPen(c.lean, 0.12 * em, Qt::DotLine));
        p.drawLine(QPointF(plot.left(), y), QPointF(plot.right(), y));
        beside(y - 1.4 * em, QStringLiteral("nearest that is safe: %1 %").arg(*picture.nearest_percent, 0, 'f', 1),
            c.lean);
    }
    for (const auto& one : picture.since) {
        const QPointF seen(place.x(static_cast<double>(picture.start.daysTo(one.day))), place.y(one.percent));
        p.setPen(QPen(c.ink, 0.08 * em));
        p.drawLine(QPointF(seen.x(), place.y(one.percent - one.u)), QPointF(seen.x(), place.y(one.percent + one.u)));
        p.setBrush(c.ink);
        p.drawEllipse(seen, 0.42 * em, 0.42 * em);
    }
    p.restore();
}

void draw_days(QPainter& p, const QRectF& area, double resting, const std::vector<DayCost>& days,
    std::optional<double> food, const look::Palette& c, int em)
{
    if (days.empty()) return;
    p.save();
    p.setRenderHint(QPainter::Antialiasing);
    double most = std::max(resting, food.value_or(0));
    for (const DayCost& d : days) most = std::max(most, d.kcal);
    const double titles = 10.5 * em, values = 6.2 * em, foot = 1.7 * em;
    const double row = (area.height() - foot) / static_cast<double>(days.size());
    const auto x = [&](double kcal) {
        return area.left() + titles + kcal / (1.04 * most) * (area.width() - titles - values);
    };
    double y = area.top();
    for (const DayCost& d : days) {
        const double middle = y + row / 2;
        text(p, QRectF(area.left(), middle - em, titles, 2 * em), Qt::AlignLeft | Qt::AlignVCenter, d.title,
            look::font(Voice::text, em, d.chosen), c.ink);
        p.fillRect(QRectF(QPointF(x(0), middle - 0.5 * em), QPointF(x(std::min(resting, d.kcal)), middle + 0.5 * em)),
            c.mineral);
        p.fillRect(QRectF(QPointF(x(resting), middle - 0.5 * em), QPointF(x(d.kcal), middle + 0.5 * em)),
            d.chosen ? c.lean : pen::faded(c.lean, 120));
        text(p, QRectF(area.right() - values, middle - em, values, 2 * em), Qt::AlignRight | Qt::AlignVCenter,
            QStringLiteral("%1 kcal").arg(d.kcal, 0, 'f', 0), look::font(Voice::measured, em, d.chosen), c.ink);
        y += row;
    }
    const QFont small = look::font(Voice::text, static_cast<int>(0.85 * em));
    text(p, QRectF(x(0), area.bottom() - 1.4 * em, x(resting) - x(0), 1.3 * em), Qt::AlignLeft | Qt::AlignVCenter,
        QStringLiteral("lying still"), small, c.smudge);
    if (food) {
        p.setPen(QPen(c.fat, 0.16 * em));
        p.drawLine(QPointF(x(*food), area.top()), QPointF(x(*food), area.bottom() - 1.4 * em));
        const QString words = QStringLiteral("eaten, as told: %1").arg(*food, 0, 'f', 0);
        const double width = QFontMetricsF(small).horizontalAdvance(words) + 4;
        text(p, QRectF(std::min(x(*food) - width / 2, area.right() - width), area.bottom() - 1.4 * em, width, 1.3 * em),
            Qt::AlignCenter, words, small, c.fat);
    }
    p.restore();
}

} // namespace fusain::report
