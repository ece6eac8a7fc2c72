// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/page/pen.h"
#include "report/analyser/segment_figure.h"

#include <QPainterPath>

#include <cmath>

namespace fusain::report {
namespace {

using look::Voice;
using pen::text;

QString figure(double kg, const MassUnit& unit, int decimals)
{
    return QString::number(kg * unit.per_kg, 'f', decimals).replace('-', QChar(0x2212));
}

QString gap_words(const impedance::SideGap& g, const MassUnit& unit)
{
    using Verdict = impedance::SideGap::Verdict;
    const QString noise = figure(g.noise_kg, unit, 2), size = figure(std::abs(g.right_less_left_kg), unit, 2);
    const QString behind = g.right_less_left_kg > 0 ? QStringLiteral("left") : QStringLiteral("right");
    if (g.verdict == Verdict::within_noise)
        return QStringLiteral("alike: %1 %3 apart, measuring alone gives up to %2 %3").arg(size, noise, unit.word);
    return QStringLiteral("%1 %2 %3 behind, more than measuring alone gives (%4)%5")
        .arg(behind, size, unit.word, noise,
            g.verdict == Verdict::flagged ? QStringLiteral(" and over this lab's limit") : QString());
}

} // namespace

void draw_segments(QPainter& p, const QRectF& whole, const Result& r, const QString& profile,
    const std::vector<impedance::SideGap>& gaps, const look::Palette& c, int em, const MassUnit& unit)
{
    using impedance::Segment;
    p.save();
    p.setRenderHint(QPainter::Antialiasing);
    const QRectF area = whole.adjusted(0, 0, 0, -1.8 * em); // the legend stands under it
    const double value = 6.4 * em, spine = area.center().x(), half = area.width() / 2 - value - 0.6 * em;
    double most = 1;
    const auto kg = [&](const Quantity(&of)[impedance::segment_count], Segment s) { return r[of[index(s)]].value; };
    for (Segment s : impedance::all_segments) {
        const double both = kg(quantity::segment_lean, s) + std::max(0.0, kg(quantity::segment_fat, s));
        most = std::max(most, s == Segment::trunk ? both / 2.4 : both);
    }
    const double row = area.height() / 3, bar = 1.5 * em;
    // one bar from the line outward: lean, then fat; what is expected is a tick across
    const auto limb = [&](Segment s, int way, double y, double scale) {
        const double lean = kg(quantity::segment_lean, s), fat = std::max(0.0, kg(quantity::segment_fat, s));
        const auto x = [&](double mass) { return spine + way * (0.25 * em + scale * mass / most * half); };
        const auto stretch = [&](double from, double to) {
            return QRectF(QPointF(std::min(x(from), x(to)), y), QPointF(std::max(x(from), x(to)), y + bar));
        };
        p.fillRect(stretch(0, lean), c.lean);
        p.fillRect(stretch(lean, lean + fat), c.fat);
        const Value* expected = r.find(quantity::segment_expected[index(s)]);
        if (expected && expected->value > 0) {
            p.setPen(QPen(c.ink, 0.14 * em));
            const double at = x(100 * lean / expected->value);
            p.drawLine(QPointF(at, y - 0.35 * em), QPointF(at, y + bar + 0.35 * em));
        }
        const QString words = figure(lean, unit, 1) + ' ' + unit.word +
                              (expected ? QStringLiteral(" · %1 %").arg(expected->value, 0, 'f', 0) : QString());
        const double end = x(std::max(lean + fat, expected && expected->value > 0 ? 100 * lean / expected->value : 0));
        const QRectF beside = way > 0 ? QRectF(end + 0.5 * em, y, value + em, bar)
                                      : QRectF(end - 0.5 * em - value - em, y, value + em, bar);
        text(p, beside, (way > 0 ? Qt::AlignLeft : Qt::AlignRight) | Qt::AlignVCenter, words,
            look::font(Voice::measured, static_cast<int>(0.9 * em)), c.ink);
    };
    for (std::size_t i = 0; i < std::size(impedance::pairs_of_sides); ++i) {
        const impedance::Sides& sides = impedance::pairs_of_sides[i];
        const double y = area.top() + static_cast<double>(i) * row + 1.6 * em;
        const QString title = QString::fromLatin1(sides.title);
        text(p, QRectF(area.left(), y - 1.6 * em, area.width() / 2 - 0.5 * em, 1.4 * em),
            Qt::AlignRight | Qt::AlignVCenter, QStringLiteral("left ") + title.chopped(1), look::font(Voice::text, em),
            c.smudge);
        text(p, QRectF(spine + 0.5 * em, y - 1.6 * em, area.width() / 2, 1.4 * em), Qt::AlignLeft | Qt::AlignVCenter,
            QStringLiteral("right ") + title.chopped(1), look::font(Voice::text, em), c.smudge);
        p.setPen(QPen(c.ink, 0.09 * em));
        p.drawLine(QPointF(spine, y - 1.5 * em), QPointF(spine, y + bar + 0.2 * em));
        limb(sides.left, -1, y, 1);
        limb(sides.right, 1, y, 1);
        for (const impedance::SideGap& g : gaps) {
            if (g.title != std::string_view(sides.title)) continue;
            const bool flagged = g.verdict == impedance::SideGap::Verdict::flagged;
            text(p, QRectF(area.left(), y + bar + 0.25 * em, area.width(), 1.4 * em), Qt::AlignCenter,
                (flagged ? QStringLiteral("◆ ") : QString()) + gap_words(g, unit),
                look::font(Voice::text, static_cast<int>(0.9 * em)), flagged ? c.look_here : c.smudge);
        }
    }
    const double y = area.top() + 2 * row + 1.6 * em;
    const double lean = kg(quantity::segment_lean, Segment::trunk),
                 fat = std::max(0.0, kg(quantity::segment_fat, Segment::trunk));
    const double width = (2 * half - value) * (lean + fat) / (2.4 * most), left = spine - half,
                 split = left + width * lean / (lean + fat);
    const Value* expected = r.find(quantity::segment_expected[index(Segment::trunk)]);
    text(p, QRectF(area.left(), y - 1.6 * em, area.width(), 1.4 * em), Qt::AlignHCenter | Qt::AlignVCenter,
        QStringLiteral("trunk, at less than half the scale"), look::font(Voice::text, em), c.smudge);
    p.fillRect(QRectF(left, y, split - left, bar), c.lean);
    p.fillRect(QRectF(split, y, left + width - split, bar), c.fat);
    if (expected && expected->value > 0) {
        const double at = left + width * (100 * lean / expected->value) / (lean + fat);
        p.setPen(QPen(c.ink, 0.14 * em));
        p.drawLine(QPointF(at, y - 0.35 * em), QPointF(at, y + bar + 0.35 * em));
    }
    text(p, QRectF(left + width + 0.5 * em, y, value + em, bar), Qt::AlignLeft | Qt::AlignVCenter,
        figure(lean, unit, 1) + ' ' + unit.word +
            (expected ? QStringLiteral(" · %1 %").arg(expected->value, 0, 'f', 0) : QString()),
        look::font(Voice::measured, static_cast<int>(0.9 * em)), c.ink);
    double at = area.left();
    const double line = whole.bottom() - 1.4 * em;
    const QFont small = look::font(Voice::text, static_cast<int>(0.9 * em));
    const auto legend = [&](const QColor& color, double width_of_mark, const QString& words) {
        p.fillRect(QRectF(at, line + 0.25 * em, width_of_mark, 0.9 * em), color);
        p.setFont(small);
        const double width_of_words = p.fontMetrics().horizontalAdvance(words) + 0.2 * em;
        text(p, QRectF(at + width_of_mark + 0.4 * em, line, width_of_words, 1.4 * em), Qt::AlignLeft | Qt::AlignVCenter,
            words, small, c.smudge);
        at += width_of_mark + width_of_words + 1.4 * em;
    };
    legend(c.lean, 0.9 * em, QStringLiteral("lean, bone included"));
    legend(c.fat, 0.9 * em, QStringLiteral("fat"));
    if (expected) legend(c.ink, 0.14 * em, QStringLiteral("expected lean"));
    text(p, QRectF(at, line, area.right() - at, 1.4 * em), Qt::AlignLeft | Qt::AlignVCenter, profile, small, c.smudge);
    p.restore();
}

void draw_arcs(QPainter& p, const QRectF& area, const std::vector<ArcCurve>& curves, const look::Palette& c, int em)
{
    double r_high = 0, r_low = INFINITY, x_high = 0;
    for (const ArcCurve& k : curves)
        for (const impedance::Point& q : k.points) {
            r_high = std::max(r_high, q.r_ohm);
            r_low = std::min(r_low, q.r_ohm);
            x_high = std::max(x_high, q.x_ohm);
        }
    p.save();
    p.setRenderHint(QPainter::Antialiasing);
    const QRectF plot = area.adjusted(4.2 * em, 2.0 * em, -1.0 * em, -2.4 * em);
    p.setPen(QPen(c.line, 1));
    p.drawLine(plot.bottomLeft(), plot.bottomRight());
    p.drawLine(plot.bottomLeft(), plot.topLeft());
    text(p, QRectF(area.left(), area.bottom() - 1.3 * em, area.width(), 1.3 * em), Qt::AlignHCenter | Qt::AlignBottom,
        QStringLiteral("resistance, Ω"), look::font(Voice::text, static_cast<int>(0.9 * em)), c.smudge);
    text(p, QRectF(area.left(), area.top(), 10 * em, 1.4 * em), Qt::AlignLeft | Qt::AlignTop,
        QStringLiteral("reactance, Ω"), look::font(Voice::text, static_cast<int>(0.9 * em)), c.smudge);
    if (r_high <= 0) return p.restore();
    const double pad = std::max(4.0, 0.08 * (r_high - r_low)), from = std::max(0.0, r_low - pad), to = r_high + pad;
    const double top = std::max(1.25 * x_high, 0.12 * (to - from));
    const auto at = [&](double r, double x) {
        return QPointF(plot.left() + (r - from) / (to - from) * plot.width(),
            plot.bottom() - std::max(0.0, x) / top * plot.height());
    };
    const auto step_of = [](double span) {
        const double raw = span / 4, power = std::pow(10, std::floor(std::log10(raw)));
        for (double m : {1.0, 2.0, 5.0})
            if (raw <= m * power) return m * power;
        return 10 * power;
    };
    const QFont small = look::font(Voice::measured, static_cast<int>(0.86 * em));
    for (double step = step_of(to - from), r = step * std::ceil(from / step); r < to; r += step)
        text(p, QRectF(at(r, 0).x() - 3 * em, plot.bottom() + 0.1 * em, 6 * em, 1.2 * em), Qt::AlignHCenter,
            QString::number(r), small, c.smudge);
    for (double step = step_of(top), x = step; x < top; x += step)
        text(p, QRectF(area.left(), at(from, x).y() - 0.7 * em, 3.8 * em, 1.4 * em), Qt::AlignRight | Qt::AlignVCenter,
            QString::number(x), small, c.smudge);
    std::vector<QRectF> written;
    for (const ArcCurve& k : curves) {
        const QColor color = k.bad ? c.look_here : k.live ? c.live : c.ink;
        if (k.arc) {
            QPainterPath path;
            impedance::Arc body = *k.arc;
            body.delay_ns = 0; // of the cables, which bend it beyond the points
            for (int i = 0; i <= 40; ++i) {
                const double f = std::pow(2000, i / 40.0); // 1 kHz to 2 MHz
                const auto z = impedance::impedance_of(body, f);
                const QPointF q = at(z.real(), -z.imag());
                if (z.real() < from || z.real() > to) continue;
                path.elementCount() == 0 ? path.moveTo(q) : path.lineTo(q);
            }
            QColor stroke = color;
            stroke.setAlpha(130);
            p.setPen(QPen(stroke, 0.11 * em));
            p.setBrush(Qt::NoBrush);
            p.drawPath(path);
        }
        p.setPen(Qt::NoPen);
        p.setBrush(color);
        QPointF highest(0, 1e9);
        for (const impedance::Point& q : k.points) {
            const QPointF o = at(q.r_ohm, q.x_ohm);
            p.drawEllipse(o, 0.2 * em, 0.2 * em);
            if (o.y() < highest.y()) highest = o;
        }
        if (!k.points.empty()) {
            p.setFont(look::font(Voice::text, static_cast<int>(0.9 * em), k.live));
            const double width = p.fontMetrics().horizontalAdvance(k.title) + 0.6 * em;
            QRectF words(std::clamp(highest.x() - width / 2, plot.left(), std::max(plot.left(), plot.right() - width)),
                highest.y() - 1.75 * em, width, 1.4 * em);
            for (const QRectF& other : written) // two sides lie on each other
                if (words.intersects(other)) words.moveBottom(other.top());
            written.push_back(words);
            text(p, words, Qt::AlignCenter, k.title, look::font(Voice::text, static_cast<int>(0.9 * em), k.live),
                k.bad    ? c.look_here
                : k.live ? c.ink
                         : c.smudge);
        }
    }
    p.restore();
}

} // namespace fusain::report
