// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/page/pen.h"
#include "report/precision/study_words.h"

#include "core/quality/quality.h"

#include <algorithm>
#include <cmath>

namespace fusain::report {
namespace {

using look::Voice;

/// A mark an operator: told apart by form, not by colour.
void mark(QPainter& p, const QPointF& at, double r, int form)
{
    switch (form % 4) {
    case 0: p.drawEllipse(at, r, r); break;
    case 1: p.drawRect(QRectF(at - QPointF(r, r), QSizeF(2 * r, 2 * r))); break;
    case 2:
        p.drawPolygon(QPolygonF{at + QPointF(0, -1.2 * r), at + QPointF(1.2 * r, r), at + QPointF(-1.2 * r, r)});
        break;
    default:
        p.drawPolygon(QPolygonF{
            at + QPointF(0, -1.4 * r), at + QPointF(1.4 * r, 0), at + QPointF(0, 1.4 * r), at + QPointF(-1.4 * r, 0)});
    }
}

int digits(double step) { return std::max(0, static_cast<int>(std::ceil(-std::log10(step) - 1e-9))); }

struct Axis {
    QRectF plot;
    double low, high;
    double y(double v) const { return plot.bottom() - (v - low) / (high - low) * plot.height(); }
};

void draw_axis(QPainter& p, const Axis& a, const QRectF& area, const QString& unit, const look::Palette& c, int em)
{
    const double step = pen::round_step(a.high - a.low, 5);
    const QFont figures = look::font(Voice::measured, static_cast<int>(0.85 * em)),
                small = look::font(Voice::text, static_cast<int>(0.85 * em));
    for (double v = std::ceil(a.low / step) * step; v <= a.high + 1e-9; v += step) {
        p.setPen(QPen(pen::faded(c.line, 130), 0.05 * em));
        p.drawLine(QPointF(a.plot.left(), a.y(v)), QPointF(a.plot.right(), a.y(v)));
        pen::text(p, QRectF(area.left(), a.y(v) - 0.7 * em, 4.6 * em, 1.4 * em), Qt::AlignRight | Qt::AlignVCenter,
            pen::signed_number(std::abs(v) < step / 1e6 ? 0 : v, digits(step)), figures, c.smudge);
    }
    pen::text(p, QRectF(area.left(), area.top() - 0.2 * em, 10 * em, 1.3 * em), Qt::AlignLeft | Qt::AlignVCenter, unit,
        small, c.smudge);
}

} // namespace

void draw_repeats(QPainter& p, const QRectF& area, const work::Study& s, const work::Repeated& t,
    const look::Palette& c, int em, long marked)
{
    p.save();
    p.setRenderHint(QPainter::Antialiasing);
    const int people = static_cast<int>(s.people.size());
    std::vector<double> mean(s.people.size(), 0);
    double most = 2.2 * t.value(quantity::rms_sd);
    for (int i = 0; i < people; ++i) {
        std::vector<double> own;
        for (const work::Member& m : s.members)
            if (m.person == i && m.left_out.isEmpty()) own.push_back(m.values.at(t.quantity));
        mean[static_cast<std::size_t>(i)] = quality::spread(own).mean;
    }
    for (const work::Member& m : s.members) {
        const auto at = m.values.find(t.quantity);
        if (at != m.values.end() && s.count(m.person) > 0)
            most = std::max(most, 1.1 * std::abs(at->second - mean[static_cast<std::size_t>(m.person)]));
    }
    if (!(most > 0)) most = 1;
    const bool legend = s.design.operators.size() > 1;
    const Axis a{QRectF(area.left() + 5.2 * em, area.top() + 1.4 * em, area.width() - 5.6 * em,
                     area.height() - (legend ? 6.2 : 4.6) * em),
        -most, most};
    draw_axis(p, a, area, QStringLiteral("%1 from the person's mean").arg(QString::fromUtf8(t.quantity->unit)), c, em);
    const double band = 1.96 * t.value(quantity::rms_sd);
    const QRectF inside(a.plot.left(), a.y(band), a.plot.width(), a.y(-band) - a.y(band));
    p.fillRect(inside, pen::faded(c.mineral, 45));
    p.setPen(QPen(c.ink, 0.06 * em));
    p.drawLine(QPointF(a.plot.left(), a.y(0)), QPointF(a.plot.right(), a.y(0)));
    const QFont small = look::font(Voice::text, static_cast<int>(0.85 * em)),
                figures = look::font(Voice::measured, static_cast<int>(0.8 * em));
    const double wide = a.plot.width() / std::max(1, std::max(people, std::min(s.design.people, 40)));
    const double r = std::min(0.42 * em, 0.18 * wide);
    for (int i = 0; i < people; ++i) {
        const double x = a.plot.left() + (i + 0.5) * wide;
        const bool odd = std::find(t.far_apart.begin(), t.far_apart.end(), i) != t.far_apart.end();
        pen::text(p, QRectF(x - wide, a.plot.bottom() + 0.2 * em, 2 * wide, 1.2 * em), Qt::AlignCenter,
            (odd ? QStringLiteral("◆") : QString()) + QString::number(i + 1), figures, odd ? c.look_here : c.smudge);
        int k = 0;
        const int n = static_cast<int>(
            std::count_if(s.members.begin(), s.members.end(), [&](const work::Member& m) { return m.person == i; }));
        for (const work::Member& m : s.members) {
            const auto at = m.values.find(t.quantity);
            if (m.person != i || at == m.values.end() || s.count(i) == 0) continue;
            const QPointF place(x + (k++ - (n - 1) / 2.0) * std::min(0.5 * wide / std::max(1, n), 0.9 * em),
                a.y(std::clamp(at->second - mean[static_cast<std::size_t>(i)], -most, most)));
            const bool out = !m.left_out.isEmpty();
            p.setPen(QPen(out ? c.faint : c.ink, 0.11 * em));
            p.setBrush(out ? QBrush(Qt::NoBrush) : QBrush(pen::faded(c.ink, 60)));
            mark(p, place, r, static_cast<int>(s.design.operators.indexOf(m.who)));
            if (out) p.drawLine(place + QPointF(-1.6 * r, 1.6 * r), place + QPointF(1.6 * r, -1.6 * r));
            if (marked && m.visit_id == marked) {
                p.setBrush(Qt::NoBrush);
                p.setPen(QPen(c.live, 0.14 * em));
                p.drawEllipse(place, r + 0.35 * em, r + 0.35 * em);
            }
        }
    }
    pen::text(p, QRectF(a.plot.left(), a.plot.bottom() + 1.4 * em, a.plot.width(), 1.3 * em), Qt::AlignLeft,
        QStringLiteral("person   ·   the band holds 95 of 100 repeats   ·   struck out: left out"), small, c.smudge);
    if (legend) {
        double x = a.plot.left();
        p.setFont(small);
        for (int i = 0; i < s.design.operators.size(); ++i) {
            const QPointF at(x + 0.5 * em, a.plot.bottom() + 3.4 * em);
            p.setPen(QPen(c.ink, 0.11 * em));
            p.setBrush(pen::faded(c.ink, 60));
            mark(p, at, 0.36 * em, i);
            const double w = QFontMetricsF(small).horizontalAdvance(s.design.operators[i]);
            pen::text(p, QRectF(x + 1.3 * em, at.y() - 0.7 * em, w + em, 1.4 * em), Qt::AlignLeft | Qt::AlignVCenter,
                s.design.operators[i], small, c.smudge);
            x += w + 3 * em;
        }
    }
    p.restore();
}

void draw_agreement(QPainter& p, const QRectF& area, const work::Compared& one, const look::Palette& c, int em)
{
    p.save();
    p.setRenderHint(QPainter::Antialiasing);
    const auto& x = one.comparison;
    double low = std::min({x.low - x.limit_within, -one.lsc / 2, 0.0}),
           high = std::max({x.high + x.limit_within, one.lsc / 2, 0.0}), from = 1e300, to = -1e300;
    for (const study::Pair& pair : one.pairs) {
        from = std::min(from, (pair.first + pair.second) / 2);
        to = std::max(to, (pair.first + pair.second) / 2);
    }
    const double pad = 0.08 * std::max(high - low, 1e-9), side = 0.06 * std::max(to - from, 1e-9);
    low -= pad, high += pad, from -= side, to += side;
    const Axis a{
        QRectF(area.left() + 5.2 * em, area.top() + 1.4 * em, area.width() - 15 * em, area.height() - 4.6 * em), low,
        high};
    const QString unit = QString::fromUtf8(one.quantity->unit);
    draw_axis(p, a, area, QStringLiteral("%1, difference").arg(unit), c, em);
    const QFont small = look::font(Voice::text, static_cast<int>(0.85 * em)),
                figures = look::font(Voice::measured, static_cast<int>(0.85 * em));
    const auto at_right = [&](double v, const QString& words, const QColor& color) {
        pen::text(p, QRectF(a.plot.right() + 0.4 * em, a.y(v) - 0.7 * em, 9.4 * em, 1.4 * em),
            Qt::AlignLeft | Qt::AlignVCenter, words, small, color);
    };
    if (one.lsc > 0) {
        const QRectF allowed(a.plot.left(), a.y(one.lsc / 2), a.plot.width(), a.y(-one.lsc / 2) - a.y(one.lsc / 2));
        p.fillRect(allowed, QBrush(pen::faded(c.mineral, 70), Qt::BDiagPattern));
    }
    const QRectF mean(a.plot.left(), a.y(x.shift + x.shift_within), a.plot.width(),
        a.y(x.shift - x.shift_within) - a.y(x.shift + x.shift_within));
    p.fillRect(mean, pen::faded(c.ink, 36));
    p.setPen(QPen(c.ink, 0.1 * em));
    p.drawLine(QPointF(a.plot.left(), a.y(x.shift)), QPointF(a.plot.right(), a.y(x.shift)));
    p.setPen(QPen(c.smudge, 0.08 * em, Qt::DashLine));
    for (const double v : {x.low, x.high}) p.drawLine(QPointF(a.plot.left(), a.y(v)), QPointF(a.plot.right(), a.y(v)));
    at_right(x.shift, QStringLiteral("shift"), c.ink);
    if (std::abs(a.y(x.high) - a.y(x.shift)) > 1.2 * em) {
        at_right(x.high, QStringLiteral("95 of 100"), c.smudge);
        at_right(x.low, QStringLiteral("95 of 100"), c.smudge);
    }
    p.setPen(QPen(c.ink, 0.11 * em));
    p.setBrush(pen::faded(c.ink, 60));
    for (const study::Pair& pair : one.pairs)
        p.drawEllipse(QPointF(a.plot.left() + ((pair.first + pair.second) / 2 - from) / (to - from) * a.plot.width(),
                          a.y(pair.second - pair.first)),
            0.4 * em, 0.4 * em);
    const double step = pen::round_step(to - from, 6);
    for (double v = std::ceil(from / step) * step; v <= to; v += step)
        pen::text(p,
            QRectF(a.plot.left() + (v - from) / (to - from) * a.plot.width() - 3 * em, a.plot.bottom() + 0.2 * em,
                6 * em, 1.2 * em),
            Qt::AlignCenter, QString::number(v, 'f', digits(step)), figures, c.smudge);
    pen::text(p, QRectF(a.plot.left(), a.plot.bottom() + 1.4 * em, a.plot.width() + 9 * em, 1.3 * em), Qt::AlignLeft,
        QStringLiteral("%1, mean of both%2")
            .arg(unit, one.lsc > 0 ? QStringLiteral("   ·   hatched: where the shift may lie") : QString()),
        small, c.smudge);
    p.restore();
}

} // namespace fusain::report
