// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/page/pen.h"
#include "report/reading/pictures.h"

#include <algorithm>

namespace fusain::report {
namespace {

using look::Voice;
using pen::text;

constexpr double sure = 1.96, day_min = 1440;

QString date_of(double day, double span)
{
    const QDate at = QDate::fromJulianDay(static_cast<qint64>(std::floor(day)));
    return at.toString(span > 300 ? QStringLiteral("MMM yyyy") : QStringLiteral("d MMM"));
}

/// The narrowest and the widest limit that a change of the picture was held against; the visit itself has none.
std::pair<double, double> band_of(const ChangePicture& picture)
{
    std::pair<double, double> out{INFINITY, 0};
    for (int i = 0; i < static_cast<int>(picture.points.size()); ++i) {
        const double lsc = picture.points[static_cast<std::size_t>(i)].lsc;
        if (i == picture.around && picture.points.size() > 1) continue;
        out = {std::min(out.first, lsc), std::max(out.second, lsc)};
    }
    return out;
}

/// The band's upper (+1) or lower edge: at every visit the limit that judged it, level beyond the first and the last.
QPolygonF band_edge(const ChangePicture& picture, const ChangePlace& place, int side)
{
    const double middle = picture.points[static_cast<std::size_t>(picture.around)].value;
    QPolygonF out;
    for (int i = 0; i < static_cast<int>(picture.points.size()); ++i)
        if (const ChangePoint& one = picture.points[static_cast<std::size_t>(i)];
            i != picture.around || picture.points.size() == 1)
            out << place.at(one.day, middle + side * one.lsc);
    out.prepend({place.plot.left(), out.front().y()});
    out << QPointF(place.plot.right(), out.back().y());
    return out;
}

} // namespace

ChangePlace place_change(const QRectF& area, const ChangePicture& picture, const ChangeSeen& seen, int em)
{
    ChangePlace out;
    out.plot = area.adjusted(4.6 * em, 1.2 * em, -1.2 * em, -2.4 * em);
    const auto& points = picture.points;
    out.from_day = seen.from_day;
    out.to_day = seen.to_day;
    if (!(seen.to_day > seen.from_day)) {
        const double span = std::max(14.0, points.back().day - points.front().day);
        out.from_day = points.front().day - 0.06 * span;
        out.to_day = points.back().day + 0.06 * span;
        if (points.size() == 1) {
            out.from_day = points.front().day - 30;
            out.to_day = points.front().day + 30;
        }
    }
    const double middle = points[static_cast<std::size_t>(picture.around)].value;
    out.low = out.high = middle;
    for (const ChangePoint& one : points) {
        if (one.day < out.from_day || one.day > out.to_day) continue;
        out.low = std::min({out.low, one.value, middle - one.lsc});
        out.high = std::max({out.high, one.value, middle + one.lsc});
    }
    const double pad = std::max(0.18 * (out.high - out.low), std::pow(10, -picture.decimals));
    out.low -= pad;
    out.high += pad;
    return out;
}

void draw_change(QPainter& p, const QRectF& area, const ChangePicture& picture, const ChangeSeen& seen,
    const look::Palette& c, int em)
{
    if (picture.points.empty()) return;
    p.save();
    p.setRenderHint(QPainter::Antialiasing);
    const ChangePlace place = place_change(area, picture, seen, em);
    const QRectF& plot = place.plot;
    const QFont small = look::font(Voice::text, static_cast<int>(0.85 * em)),
                figures = look::font(Voice::measured, static_cast<int>(0.85 * em));
    const auto shown = [&](double v) {
        return QString::number(v * picture.factor, 'f', picture.decimals).replace('-', QChar(0x2212));
    };
    const ChangePoint& around = picture.points[static_cast<std::size_t>(picture.around)];
    const double step = pen::round_step((place.high - place.low) * picture.factor, 5) / picture.factor;
    for (double v = std::ceil(place.low / step) * step; v <= place.high; v += step) {
        const double y = place.at(0, v).y();
        p.setPen(QPen(pen::faded(c.line, 130), 0.05 * em));
        p.drawLine(QPointF(plot.left(), y), QPointF(plot.right(), y));
        text(p, QRectF(area.left(), y - 0.7 * em, 4.2 * em, 1.4 * em), Qt::AlignRight | Qt::AlignVCenter, shown(v),
            figures, c.smudge);
    }
    text(p, QRectF(area.left(), area.top() - 0.3 * em, 12 * em, 1.3 * em), Qt::AlignLeft | Qt::AlignVCenter,
        picture.unit, small, c.smudge);
    // dates
    const double span = place.to_day - place.from_day, days = std::max(1.0, std::round(span / 6));
    for (double d = std::ceil(place.from_day + 0.02 * span); d <= place.to_day; d += days) {
        const double x = place.at(d, 0).x();
        if (x > plot.right() - 1.5 * em) break;
        p.setPen(QPen(c.ink, 0.06 * em));
        p.drawLine(QPointF(x, plot.bottom()), QPointF(x, plot.bottom() + 0.3 * em));
        text(p, QRectF(x - 4 * em, plot.bottom() + 0.5 * em, 8 * em, 1.3 * em), Qt::AlignCenter, date_of(d, span),
            small, c.smudge);
    }
    p.setPen(QPen(c.ink, 0.08 * em));
    p.drawLine(plot.bottomLeft(), plot.bottomRight());

    p.save();
    p.setClipRect(plot.adjusted(-0.7 * em, -0.7 * em, 0.7 * em, 0));
    const auto [least, most] = band_of(picture);
    if (most > 0) {
        const QPolygonF top = band_edge(picture, place, +1), bottom = band_edge(picture, place, -1);
        QPolygonF band = top;
        for (auto at = bottom.rbegin(); at != bottom.rend(); ++at) band << *at;
        p.setPen(Qt::NoPen);
        for (const QBrush& brush :
            {QBrush(pen::faded(c.mineral, 45)), QBrush(pen::faded(c.mineral, 60), Qt::BDiagPattern)}) {
            p.setBrush(brush);
            p.drawPolygon(band);
        }
        p.setPen(QPen(c.mineral, 0.06 * em));
        p.setBrush(Qt::NoBrush);
        p.drawPolyline(top);
        p.drawPolyline(bottom);
    }
    if (const auto& trend = picture.trend) {
        QPolygonF over, under;
        constexpr int steps = 24;
        const double from = trend->from_min, to = picture.points.back().day * day_min;
        for (int i = 0; i <= steps; ++i) {
            const double at = from + (to - from) * i / steps, value = trend->value_at(at), u = trend->u_at(at);
            over << place.at(at / day_min, value + sure * u);
            under.prepend(place.at(at / day_min, value - sure * u));
        }
        p.setPen(Qt::NoPen);
        p.setBrush(pen::faded(picture.ink, 40));
        p.drawPolygon(over + under);
        p.setPen(QPen(picture.ink, 0.12 * em, Qt::DashLine));
        p.drawLine(place.at(from / day_min, trend->value_at(from)), place.at(to / day_min, trend->value_at(to)));
    }
    QPolygonF way;
    for (const ChangePoint& one : picture.points) way << place.at(one.day, one.value);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(pen::faded(picture.ink, 120), 0.1 * em));
    p.drawPolyline(way);
    for (int i = 0; i < way.size(); ++i) {
        const ChangePoint& one = picture.points[static_cast<std::size_t>(i)];
        const bool held = i == picture.around;
        const double r = (one.real || held ? 0.52 : 0.4) * em;
        p.setPen(QPen(one.comparable ? picture.ink : c.faint, 0.13 * em));
        p.setBrush(held || (one.real && one.comparable) ? QBrush(picture.ink) : QBrush(c.paper));
        p.drawEllipse(way[i], r, r);
        if (!one.comparable) { // a cross through what cannot be compared
            p.drawLine(way[i] + QPointF(-r, r), way[i] + QPointF(r, -r));
        }
        if (i == seen.pointed) {
            p.setBrush(Qt::NoBrush);
            p.setPen(QPen(c.look_here, 0.14 * em));
            p.drawEllipse(way[i], r + 0.3 * em, r + 0.3 * em);
        }
    }
    p.restore();
    if (most > 0 && plot.width() > 22 * em)
        text(p,
            QRectF(plot.left() + 0.4 * em,
                place.at(0, around.value - picture.points[picture.around == 0 && picture.points.size() > 1].lsc).y() -
                    1.3 * em,
                plot.width(), 1.2 * em),
            Qt::AlignLeft | Qt::AlignVCenter,
            QStringLiteral("inside: not to be told from noise, ± %1 %2")
                .arg(shown(least) == shown(most) ? shown(most)
                                                 : QStringLiteral("%1 to %2").arg(shown(least), shown(most)),
                    picture.unit),
            small, c.smudge);
    if (seen.pointed >= 0 && seen.pointed < way.size()) {
        const QString& words = picture.points[static_cast<std::size_t>(seen.pointed)].detail;
        const QRectF want = QFontMetricsF(small).boundingRect(QRectF(0, 0, 22 * em, 12 * em), Qt::TextWordWrap, words);
        QRectF box(0, 0, want.width() + 1.4 * em, want.height() + 0.9 * em);
        const QPointF at = way[seen.pointed];
        box.moveTopLeft({std::clamp(at.x() + 0.9 * em, plot.left(), plot.right() - box.width()),
            at.y() - box.height() - 0.7 * em > area.top() ? at.y() - box.height() - 0.7 * em : at.y() + 0.9 * em});
        p.setPen(QPen(c.line, 1));
        p.setBrush(c.sheet);
        p.drawRect(box);
        text(p, box.adjusted(0.7 * em, 0.45 * em, -0.4 * em, 0), Qt::TextWordWrap, words, small, c.ink);
    }
    p.restore();
}

void draw_moved(
    QPainter& p, const QRectF& area, const change::Moved& m, const look::Palette& c, int em, const MassUnit& unit)
{
    p.save();
    p.setRenderHint(QPainter::Antialiasing);
    const double titles = 8.5 * em, values = 9.5 * em;
    const double most = std::max(
        {std::abs(m.fat_kg) + m.fat_band_kg, std::abs(m.fat_free_kg) + m.fat_free_band_kg, std::abs(m.mass_kg), 0.5});
    const double spine = area.left() + titles + (area.width() - titles - values) / 2,
                 half = (area.width() - titles - values) / 2 - 0.5 * em, row = area.height() / 3;
    const auto x = [&](double kg) { return spine + kg / most * half; };
    struct Row {
        QString title;
        double kg, band;
        QColor ink;
    };
    const Row rows[] = {{QStringLiteral("fat-free"), m.fat_free_kg, m.fat_free_band_kg, c.lean},
        {QStringLiteral("fat"), m.fat_kg, m.fat_band_kg, c.fat}, {QStringLiteral("the scale"), m.mass_kg, 0, c.ink}};
    double y = area.top();
    for (const Row& one : rows) {
        const double middle = y + row / 2, thick = one.band > 0 ? 0.75 * em : 0.35 * em;
        if (one.band > 0) {
            const QRectF band(x(-one.band), middle - 1.0 * em, x(one.band) - x(-one.band), 2.0 * em);
            p.fillRect(band, pen::faded(c.mineral, 45));
            p.fillRect(band, QBrush(pen::faded(c.mineral, 60), Qt::BDiagPattern));
        }
        p.fillRect(QRectF(QPointF(std::min(spine, x(one.kg)), middle - thick),
                       QPointF(std::max(spine, x(one.kg)), middle + thick)),
            one.ink);
        text(p, QRectF(area.left(), middle - em, titles - 0.6 * em, 2 * em), Qt::AlignLeft | Qt::AlignVCenter,
            one.title, look::font(Voice::text, em), c.ink);
        QString words = pen::signed_number(one.kg * unit.per_kg, 1) + ' ' + unit.word;
        if (one.band > 0)
            words = pen::signed_number(one.kg * unit.per_kg, 1) +
                    QStringLiteral(" ± %1 %2").arg(one.band * unit.per_kg, 0, 'f', 1).arg(unit.word);
        text(p, QRectF(area.right() - values, middle - em, values, 2 * em), Qt::AlignRight | Qt::AlignVCenter, words,
            look::font(Voice::measured, em), c.ink);
        y += row;
    }
    p.setPen(QPen(c.ink, 0.1 * em));
    p.drawLine(QPointF(spine, area.top()), QPointF(spine, area.bottom()));
    p.restore();
}

} // namespace fusain::report
