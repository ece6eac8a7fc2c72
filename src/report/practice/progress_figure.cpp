// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/practice/progress_figure.h"

#include "records/base/clock.h"
#include "report/page/pen.h"

#include <algorithm>
#include <cmath>

namespace fusain::report {
namespace {

using look::Voice;

QString unit_of(bench::Task task)
{
    return task == bench::Task::place_lines ? QStringLiteral("mm")
           : task == bench::Task::coach     ? QStringLiteral("% fat")
                                            : QStringLiteral("kg");
}

} // namespace

void draw_progress(QPainter& p, const QRectF& area, const std::vector<RunDot>& runs, const QString& unit,
    double asked_for, const look::Palette& c, int em)
{
    if (runs.empty()) return;
    p.save();
    p.setRenderHint(QPainter::Antialiasing);
    std::vector<double> values;
    for (const RunDot& r : runs) values.push_back(r.measure);
    const auto of = practice::progress(values);
    double most = std::max({*std::max_element(values.begin(), values.end()), 1.4 * asked_for, 1e-6});
    if (runs.size() > 2) most = std::max(most, of.high);
    most *= 1.08;
    const QRectF plot(area.left() + 4.6 * em, area.top() + 1.5 * em, area.width() - 14 * em, area.height() - 3.4 * em);
    const auto y = [&](double v) { return plot.bottom() - plot.height() * std::clamp(v / most, 0.0, 1.0); };
    const auto x = [&](std::size_t i) {
        return plot.left() + plot.width() * (static_cast<double>(i) + 0.5) /
                                 static_cast<double>(std::max<std::size_t>(runs.size(), 6));
    };
    const QFont small = look::font(Voice::text, static_cast<int>(0.85 * em)),
                figures = look::font(Voice::measured, static_cast<int>(0.85 * em));
    const double step = pen::round_step(most, 4);
    const int digits = std::max(0, static_cast<int>(std::ceil(-std::log10(step) - 1e-9)));
    for (double v = 0; v <= most; v += step) {
        p.setPen(QPen(pen::faded(c.line, 130), 0.05 * em));
        p.drawLine(QPointF(plot.left(), y(v)), QPointF(plot.right(), y(v)));
        pen::text(p, QRectF(area.left(), y(v) - 0.7 * em, 4.1 * em, 1.4 * em), Qt::AlignRight | Qt::AlignVCenter,
            QString::number(v, 'f', digits), figures, c.smudge);
    }
    pen::text(p, QRectF(area.left(), area.top() - 0.1 * em, 12 * em, 1.3 * em), Qt::AlignLeft | Qt::AlignVCenter, unit,
        small, c.smudge);
    if (runs.size() > 2) {
        const QRectF band(plot.left(), y(of.high), plot.width(), y(std::max(0.0, of.low)) - y(of.high));
        p.fillRect(band, QBrush(pen::faded(c.mineral, 70), Qt::BDiagPattern));
    }
    if (asked_for > 0) {
        p.setPen(QPen(c.ink, 0.1 * em, Qt::DashLine));
        p.drawLine(QPointF(plot.left(), y(asked_for)), QPointF(plot.right(), y(asked_for)));
        pen::text(p, QRectF(plot.right() + 0.5 * em, y(asked_for) - 0.7 * em, 9 * em, 1.4 * em),
            Qt::AlignLeft | Qt::AlignVCenter, QStringLiteral("asked for"), small, c.ink);
    }
    QPolygonF way;
    for (std::size_t i = 0; i < runs.size(); ++i) way << QPointF(x(i), y(runs[i].measure));
    p.setPen(QPen(pen::faded(c.ink, 120), 0.1 * em));
    p.setBrush(Qt::NoBrush);
    p.drawPolyline(way);
    for (std::size_t i = 0; i < runs.size(); ++i) {
        p.setPen(QPen(c.ink, 0.13 * em));
        p.setBrush(runs[i].passed ? QBrush(c.ink) : QBrush(c.paper));
        p.drawEllipse(way[static_cast<int>(i)], 0.42 * em, 0.42 * em);
    }
    pen::text(p, QRectF(plot.left(), plot.bottom() + 0.4 * em, plot.width(), 1.3 * em), Qt::AlignLeft,
        QStringLiteral("%1   ·   filled: passed%2")
            .arg(runs.front().at.date() == runs.back().at.date() ? records::date_words(runs.back().at.date())
                                                                 : QStringLiteral("%1 to %2")
                                                                       .arg(records::date_words(runs.front().at.date()),
                                                                           records::date_words(runs.back().at.date())),
                runs.size() > 2 ? QStringLiteral("   ·   hatched: what your runs scatter by themselves") : QString()),
        small, c.smudge);
    p.restore();
}

QString marks_words(const work::DrillRun& r, const QString& why)
{
    QStringList out;
    const auto n = r.numbers();
    const auto c = r.calls();
    const QString unit = unit_of(r.task);
    const int digits = r.task == bench::Task::read_swing ? 3 : 1;
    out << (r.given_up   ? QStringLiteral("Left before its end.")
            : r.passed() ? QStringLiteral("● Passed, %1.").arg(records::date_words(r.at.date()))
                         : QStringLiteral("◆ Not passed, %1.").arg(records::date_words(r.at.date())));
    if (n.n && r.task == bench::Task::place_lines)
        out << QStringLiteral("Strings lie %1 mm from their places (root mean square of %2), the farthest %3 mm.")
                   .arg(n.rms, 0, 'f', 1)
                   .arg(n.n)
                   .arg(n.worst, 0, 'f', 1);
    else if (n.n == 1)
        out << QStringLiteral("%1 %2 off.").arg(pen::signed_number(n.bias, digits), unit);
    else if (n.n)
        out << QStringLiteral("Error %1 %2 (root mean square of %3); bias %4 ± %5: %6; spread %7%8%9.")
                   .arg(n.rms, 0, 'f', digits)
                   .arg(unit)
                   .arg(n.n)
                   .arg(pen::signed_number(n.bias, digits))
                   .arg(n.bias_within, 0, 'f', digits)
                   .arg(n.biased() ? (n.bias > 0 ? QStringLiteral("you read high") : QStringLiteral("you read low"))
                                   : QStringLiteral("to neither side"))
                   .arg(n.spread, 0, 'f', digits)
                   .arg(n.own_precision ? QStringLiteral("; the same thing twice: %1 apart by themselves")
                                              .arg(*n.own_precision, 0, 'f', digits)
                                        : QString(),
                       n.reader_rms
                           ? QStringLiteral("; the reader's error on the same: %1").arg(*n.reader_rms, 0, 'f', digits)
                           : QString());
    if (c.n)
        out << QStringLiteral("%1 of %2 right; missed %3, called where nothing was %4, taken for another %5.")
                   .arg(c.right)
                   .arg(c.n)
                   .arg(c.missed)
                   .arg(c.wrongly)
                   .arg(c.mistaken);
    double seconds = 0;
    QString dearest;
    double most = -1;
    for (const work::DrillAnswer& a : r.answers) {
        seconds += a.seconds / static_cast<double>(r.answers.size());
        double off = 0;
        for (const auto& one : a.numbers) off = std::max(off, std::abs(one.given - one.truth));
        for (const auto& one : a.calls)
            if (practice::called(one) != practice::Called::right) off = std::max(off, 1e6);
        if (off > most && !a.cost.isEmpty()) {
            most = off;
            dearest = a.cost;
        }
    }
    if (!r.answers.empty()) out << QStringLiteral("%1 s each.").arg(seconds, 0, 'f', 0);
    if (!dearest.isEmpty()) out << QStringLiteral("What the largest mistake would have cost: %1.").arg(dearest);
    if (!why.isEmpty()) out << why;
    return out.join('\n');
}

QString progress_words(const practice::Progress& p)
{
    using Says = practice::Progress::Says;
    if (p.n == 0) return {};
    switch (p.says) {
    case Says::too_few:
        return QStringLiteral("%1 so far; from four on it shows whether you get better.")
            .arg(p.n == 1 ? QStringLiteral("One run") : QStringLiteral("%1 runs").arg(p.n));
    case Says::better: return QStringLiteral("%1 runs. The last one is better than chance makes it.").arg(p.n);
    case Says::worse: return QStringLiteral("%1 runs. The last one is worse than chance makes it.").arg(p.n);
    default: return QStringLiteral("%1 runs. The last one lies within what your runs scatter by themselves.").arg(p.n);
    }
}

} // namespace fusain::report
