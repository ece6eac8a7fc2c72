// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/words/readings_figure.h"

#include "report/page/pen.h"
#include "report/words/method_words.h"

#include <cmath>

namespace fusain::report {

using look::Voice;
using pen::round_step;
using pen::text;

void draw_readings(QPainter& p, const QRectF& area, const bench::Visit& visit, double live, const look::Palette& c,
    int em, const MassUnit& mass_unit)
{
    const MethodWords::Readings& of = words_of(visit).readings;
    const MassUnit unit = *of.unit ? MassUnit{1, QString::fromLatin1(of.unit)} : mass_unit;
    struct Mark {
        int number; ///< of those that were taken; 0: thrown out
        double value;
        bool taken;
    };
    std::vector<Mark> marks;
    int taken_so_far = 0;
    for (const auto& t : visit.trials)
        if (const auto value = visit.own().value(visit, t)) {
            const bool is_taken = t.status == bench::Trial::Status::taken;
            marks.push_back({of.count_taken ? (is_taken ? ++taken_so_far : 0) : t.number, *value, is_taken});
        }

    p.save();
    p.setRenderHint(QPainter::Antialiasing);
    double low = INFINITY, high = -INFINITY;
    const auto include = [&](double value) {
        low = std::min(low, value);
        high = std::max(high, value);
    };
    for (const Mark& m : marks) include(m.value);
    if (!std::isnan(live)) include(live);
    const double axis = area.top() + 0.52 * area.height();
    if (!std::isfinite(low)) {
        text(p, area, Qt::AlignLeft | Qt::AlignVCenter, QString::fromLatin1(of.none_yet), look::font(Voice::text, em),
            c.faint);
        p.restore();
        return;
    }
    const double middle = (low + high) / 2, half = std::max(of.half, 0.65 * (high - low));
    low = middle - half;
    high = middle + half;
    const auto x = [&](double value) {
        return area.left() + 1.5 * em + (value - low) / (high - low) * (area.width() - 3 * em);
    };

    std::vector<double> counting;
    const std::vector<double> taken = visit.readings();
    const std::vector<int> used = of.used(visit);
    if (!used.empty()) {
        for (int i : used) counting.push_back(taken[static_cast<std::size_t>(i)]);
        const auto [from, to] = std::minmax_element(counting.begin(), counting.end());
        QColor shade = c.mineral;
        shade.setAlpha(50);
        const QRectF band(x(*from) - 0.9 * em, axis - 1.5 * em, x(*to) - x(*from) + 1.8 * em, 3.0 * em);
        p.fillRect(band, shade);
        const QString words = counting.size() == 1 ? QStringLiteral("this one counts")
                                                   : QStringLiteral("these count, %1 %2 apart")
                                                         .arg(1000 * (*to - *from), 0, 'f', 0)
                                                         .arg(QString::fromLatin1(of.small_unit));
        const QFont font = look::font(Voice::text, static_cast<int>(0.9 * em));
        const double width = QFontMetricsF(font).horizontalAdvance(words) + 2;
        const double left =
            std::clamp(band.center().x() - width / 2, area.left(), std::max(area.left(), area.right() - width));
        text(p, QRectF(left, band.top() - 1.4 * em, width, 1.4 * em), Qt::AlignHCenter | Qt::AlignVCenter, words, font,
            c.smudge);
    }
    p.setPen(QPen(c.line, 0.1 * em));
    p.drawLine(QPointF(area.left(), axis), QPointF(area.right(), axis));
    const double step = round_step((high - low) * unit.per_kg, 5);
    const QFont figures = look::font(Voice::measured, static_cast<int>(0.85 * em));
    const double to_the_unit =
        area.right() - 2 * em - QFontMetricsF(figures).horizontalAdvance(QStringLiteral("00.00")) / 2;
    for (double v = std::ceil(low * unit.per_kg / step) * step;
         v <= high * unit.per_kg && x(v / unit.per_kg) < to_the_unit; v += step)
        text(p, QRectF(x(v / unit.per_kg) - 3 * em, axis + 1.6 * em, 6 * em, 1.5 * em), Qt::AlignCenter,
            QString::number(v, 'f', 2), figures, c.faint);
    text(p, QRectF(area.right() - 2 * em, axis + 1.6 * em, 2 * em, 1.5 * em), Qt::AlignRight | Qt::AlignVCenter,
        unit.word, look::font(Voice::text, static_cast<int>(0.85 * em)), c.faint);

    const double r = 0.55 * em;
    std::sort(marks.begin(), marks.end(), [](const Mark& a, const Mark& b) { return a.value < b.value; });
    for (const Mark& m : marks) {
        const QPointF at(x(m.value), axis);
        const bool counts = m.taken && std::find(counting.begin(), counting.end(), m.value) != counting.end();
        p.setPen(QPen(m.taken ? c.ink : c.faint, 0.12 * em));
        p.setBrush(counts ? QBrush(c.ink) : QBrush(c.paper));
        p.drawEllipse(at, r, r);
        if (!m.taken) {
            p.drawLine(at + QPointF(-r, -r) * 0.7, at + QPointF(r, r) * 0.7);
            p.drawLine(at + QPointF(-r, r) * 0.7, at + QPointF(r, -r) * 0.7);
        }
    }
    // their numbers: below, or above where it is full; more than two that touch share one label
    const QFont small = look::font(Voice::text, static_cast<int>(0.85 * em));
    double below_to = -INFINITY, above_to = -INFINITY;
    for (std::size_t i = 0; i < marks.size();) {
        std::size_t end = i + 1;
        while (end < marks.size() && x(marks[end].value) - x(marks[end - 1].value) < 1.2 * em) ++end;
        if (end - i <= 2) end = i + 1;
        QStringList numbers;
        bool any_taken = false;
        for (std::size_t k = i; k < end; ++k) {
            if (marks[k].number) numbers << QString::number(marks[k].number);
            any_taken |= marks[k].taken;
        }
        const QString words = numbers.join(QStringLiteral(" · "));
        const double half_width = QFontMetricsF(small).horizontalAdvance(words) / 2 + 2;
        const double middle_x = (x(marks[i].value) + x(marks[end - 1].value)) / 2;
        const bool above = middle_x - half_width < below_to && middle_x - half_width >= above_to;
        (above ? above_to : below_to) = middle_x + half_width;
        text(p, QRectF(middle_x - half_width, axis + (above ? -1.75 : 0.55) * em, 2 * half_width, 1.2 * em),
            Qt::AlignCenter, words, small, any_taken ? c.ink : c.faint);
        i = end;
    }
    if (!std::isnan(live)) {
        p.setPen(Qt::NoPen);
        p.setBrush(c.live);
        p.drawEllipse(QPointF(x(live), axis), 1.25 * r, 1.25 * r);
        text(p, QRectF(x(live) - 3 * em, axis - 1.95 * em, 6 * em, 1.3 * em), Qt::AlignCenter, QStringLiteral("now"),
            look::font(Voice::text, static_cast<int>(0.9 * em), true), c.live);
    }
    p.restore();
}

} // namespace fusain::report
