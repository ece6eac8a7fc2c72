// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/page/pen.h"
#include "report/page/figures.h"

#include <cmath>

namespace fusain::report {
namespace {

using look::Voice;
using pen::round_step;
using pen::signed_number;
using pen::text;

constexpr double budget_row_fraction = 0.005; ///< smaller shares are drawn together

QColor rung_color(const Rung& rung, std::size_t i, bool sum, const look::Palette& c)
{
    switch (rung.tissue) {
    case Tissue::lean: return c.lean;
    case Tissue::fat: return c.fat;
    case Tissue::water: return c.water;
    case Tissue::mineral: return c.mineral;
    case Tissue::none: break;
    }
    if (sum) return c.faint; // of everything together
    const QColor colors[] = {c.mineral, c.water, c.lean, c.faint, c.ink};
    return colors[std::min<std::size_t>(i, 4)];
}

} // namespace

void draw_ladder(QPainter& p, const QRectF& whole, const std::vector<Rung>& ladder, const look::Palette& c, int em,
    const MassUnit& unit)
{
    if (ladder.empty()) return;
    const QRectF area = whole.adjusted(0, 0.3 * em, 0, 0);
    p.save();
    p.setRenderHint(QPainter::Antialiasing);
    const bool narrow = area.width() < 26 * em;
    const double value_width = 5.6 * em;
    const double label_width = narrow ? 0 : 12.5 * em;
    const QRectF bars(area.left() + label_width, area.top(), area.width() - label_width - value_width, area.height());
    const double row = area.height() / static_cast<double>(ladder.size());

    double low = INFINITY, high = -INFINITY, at = 0;
    for (const auto& r : ladder) {
        at = r.total ? r.size : at + r.size;
        low = std::min(low, at);
        high = std::max(high, at);
    }
    const bool sum = ladder.front().tissue != Tissue::none; // what a body is made of begins at nothing
    const double cut = sum ? 0 : low - 0.45 * std::max(0.4, high - low);
    const auto x = [&](double litres) { return bars.left() + (litres - cut) / (high - cut) * bars.width(); };

    p.setPen(QPen(c.ink, 0.09 * em));
    p.drawLine(QPointF(bars.left(), area.top()), QPointF(bars.left(), area.bottom()));
    const QPointF mark(bars.left(), area.top() + (narrow ? 0.94 : 0.5) * area.height());
    p.setPen(QPen(c.ink, 0.08 * em));
    for (double d : {-0.18, 0.12})
        if (!sum) p.drawLine(mark + QPointF(-0.35 * em, (d + 0.25) * em), mark + QPointF(0.35 * em, (d - 0.05) * em));

    double before = 0;
    for (std::size_t i = 0; i < ladder.size(); ++i) {
        const auto& r = ladder[i];
        const double top = area.top() + static_cast<double>(i) * row;
        const double from = r.total ? cut : before, to = r.total ? r.size : before + r.size;
        const double height = (narrow ? 0.30 : 0.38) * row;
        const QRectF bar(
            std::min(x(from), x(to)), top + 0.06 * row, std::max(0.12 * em, std::abs(x(to) - x(from))), height);
        p.fillRect(bar, rung_color(r, i, sum, c));
        if (i + 1 < ladder.size()) {
            p.setPen(QPen(c.faint, 0.06 * em, Qt::DotLine));
            p.drawLine(QPointF(x(to), bar.bottom()), QPointF(x(to), top + row + 0.06 * row));
        }
        before = to;
        // a kilogram lost in water is a litre of water of 1 kg/L: what is weighed stands on the same axis
        const QString value =
            r.weighed ? QString::number(r.size * unit.per_kg, 'f', r.decimals) + ' ' + unit.word
                      : (r.total ? QString::number(r.size, 'f', r.decimals) : signed_number(r.size, r.decimals)) +
                            QStringLiteral(" L");
        text(p, QRectF(bars.right(), bar.top() - 0.5 * em, value_width, height + em), Qt::AlignRight | Qt::AlignVCenter,
            value, look::font(Voice::measured, em), c.ink);
        const QString title = QString::fromStdString(r.title), detail = QString::fromStdString(r.detail);
        if (narrow) {
            text(p, QRectF(bars.left() + 0.4 * em, bar.bottom() + 0.05 * em, bars.width() + value_width, 1.5 * em),
                Qt::AlignLeft | Qt::AlignTop, title, look::font(Voice::text, em), c.smudge);
        } else {
            text(p, QRectF(area.left(), bar.top() - 0.35 * em, label_width, 1.5 * em), Qt::AlignLeft | Qt::AlignTop,
                title, look::font(Voice::text, em), c.ink);
            text(p, QRectF(area.left(), bar.top() + 0.9 * em, label_width, 1.4 * em), Qt::AlignLeft | Qt::AlignTop,
                detail, look::font(Voice::text, static_cast<int>(0.86 * em)), c.smudge);
        }
    }
    p.restore();
}

int budget_rows(const uncertainty::Budget& budget)
{
    const auto large = std::count_if(
        budget.shares.begin(), budget.shares.end(), [](const auto& s) { return s.fraction >= budget_row_fraction; });
    return static_cast<int>(large) + (large < static_cast<long>(budget.shares.size()) ? 1 : 0);
}

void draw_budget(QPainter& p, const QRectF& area, const uncertainty::Budget& budget, const look::Palette& c, int em)
{
    p.save();
    const double row = std::min(1.75 * em, area.height() / budget_rows(budget));
    const double label = 12.5 * em, value = 3.2 * em;
    const double width = area.width() - label - value;
    double y = area.top(), rest = 0;
    int small = 0;
    for (const auto& share : budget.shares) {
        if (share.fraction < budget_row_fraction) {
            rest += share.fraction;
            ++small;
            continue;
        }
        text(p, QRectF(area.left(), y, label, row), Qt::AlignLeft | Qt::AlignVCenter,
            QString::fromUtf8(share.input.title.data(), static_cast<qsizetype>(share.input.title.size())),
            look::font(Voice::text, em), c.ink);
        const QColor color = share.input.symbol == "δD" ? c.mineral
                             : share.input.symbol == "RV" || share.input.symbol == "δRV" ||
                                     share.input.symbol == "VC" || share.input.symbol == "V_TG" ||
                                     share.input.symbol == "δV_TG"
                                 ? c.lean
                             : share.input.symbol == "t_w" || share.input.symbol == "δA" ? c.water
                                                                                         : c.ink;
        p.fillRect(QRectF(area.left() + label, y + 0.28 * row, std::max(0.12 * em, share.fraction * width), 0.44 * row),
            color);
        text(p, QRectF(area.right() - value, y, value, row), Qt::AlignRight | Qt::AlignVCenter,
            QStringLiteral("%1 %").arg(100 * share.fraction, 0, 'f', 0), look::font(Voice::measured, em), c.ink);
        y += row;
    }
    if (small > 0) {
        text(p, QRectF(area.left(), y, area.width() - value, row), Qt::AlignLeft | Qt::AlignVCenter,
            QStringLiteral("%1 others together").arg(small), look::font(Voice::text, em), c.smudge);
        text(p, QRectF(area.right() - value, y, value, row), Qt::AlignRight | Qt::AlignVCenter,
            rest < 0.01 ? QStringLiteral("< 1 %") : QStringLiteral("%1 %").arg(100 * rest, 0, 'f', 0),
            look::font(Voice::measured, em), c.smudge);
    }
    p.restore();
}

void draw_beside(QPainter& p, const QRectF& area, const std::vector<BesideRow>& rows, const look::Palette& c, int em)
{
    if (rows.empty()) return;
    p.save();
    p.setRenderHint(QPainter::Antialiasing);
    double low = INFINITY, high = -INFINITY;
    for (const BesideRow& r : rows) {
        low = std::min(low, r.fat_percent - 1.3 * r.u);
        high = std::max(high, r.fat_percent + 1.3 * r.u);
    }
    const double titles = 9.5 * em, values = 4.2 * em, row = area.height() / static_cast<double>(rows.size());
    const auto x = [&](double v) {
        return area.left() + titles + (v - low) / (high - low) * (area.width() - titles - values);
    };
    double y = area.top();
    for (const BesideRow& r : rows) {
        const double axis = y + 0.45 * row;
        text(p, QRectF(area.left(), axis - 1.25 * em, titles, 1.3 * em), Qt::AlignLeft | Qt::AlignVCenter, r.title,
            look::font(Voice::text, em, r.now), c.ink);
        text(p, QRectF(area.left(), axis + 0.05 * em, titles, 1.3 * em), Qt::AlignLeft | Qt::AlignVCenter, r.detail,
            look::font(Voice::text, static_cast<int>(0.86 * em)), c.smudge);
        QColor smudge = c.fat;
        smudge.setAlpha(70);
        p.fillRect(
            QRectF(x(r.fat_percent - r.u), axis - 0.4 * em, x(r.fat_percent + r.u) - x(r.fat_percent - r.u), 0.8 * em),
            smudge);
        p.setPen(QPen(c.ink, 0.1 * em));
        p.setBrush(r.now ? QBrush(c.fat) : QBrush(c.paper));
        p.drawEllipse(QPointF(x(r.fat_percent), axis), 0.5 * em, 0.5 * em);
        text(p, QRectF(area.right() - values, axis - 0.7 * em, values, 1.4 * em), Qt::AlignRight | Qt::AlignVCenter,
            QStringLiteral("%1 %").arg(r.fat_percent, 0, 'f', 1), look::font(Voice::measured, em), c.ink);
        y += row;
    }
    p.restore();
}

void draw_range(QPainter& p, const QRectF& area, double fat_percent, double u,
    const std::optional<reference::Place>& place, const look::Palette& c, int em)
{
    p.save();
    p.setRenderHint(QPainter::Antialiasing);
    double low = std::min(fat_percent - 3 * u, 4.0), high = std::max(fat_percent + 3 * u, 40.0);
    low = std::max(0.0, std::floor(low / 5) * 5);
    high = std::ceil(high / 5) * 5;
    const auto x = [&](double v) {
        return area.left() + 1.4 * em + (v - low) / (high - low) * (area.width() - 2.8 * em);
    };
    const double axis = area.top() + 0.55 * area.height();
    if (place) {
        const QRectF band(x(place->row.low), axis - 1.1 * em, x(place->row.high) - x(place->row.low), 2.2 * em);
        p.setPen(QPen(c.mineral, 0.07 * em));
        p.setBrush(QBrush(c.line, Qt::BDiagPattern));
        p.drawRect(band);
        text(p, QRectF(band.left() - 6 * em, band.top() - 1.5 * em, band.width() + 12 * em, 1.4 * em), Qt::AlignCenter,
            QString::fromStdString(place->row.label), look::font(Voice::text, em), c.smudge);
    }
    QColor smudge = c.fat;
    smudge.setAlpha(70);
    p.fillRect(QRectF(x(std::max(low, fat_percent - u)), axis - 0.55 * em,
                   x(fat_percent + u) - x(std::max(low, fat_percent - u)), 1.1 * em),
        smudge);
    p.setPen(QPen(c.ink, 0.09 * em));
    p.drawLine(QPointF(area.left(), axis), QPointF(area.right(), axis));
    for (double v = low; v <= high; v += 5) {
        p.setPen(QPen(c.ink, 0.06 * em));
        p.drawLine(QPointF(x(v), axis), QPointF(x(v), axis + 0.3 * em));
        text(p, QRectF(x(v) - 2 * em, axis + 1.15 * em, 4 * em, 1.3 * em), Qt::AlignCenter,
            QStringLiteral("%1 %").arg(v, 0, 'f', 0), look::font(Voice::measured, static_cast<int>(0.85 * em)),
            c.smudge);
    }
    p.setPen(Qt::NoPen);
    p.setBrush(c.fat);
    p.drawEllipse(QPointF(x(fat_percent), axis), 0.62 * em, 0.62 * em);
    p.restore();
}

void draw_split(QPainter& p, const QRectF& area, double fat_kg, double fat_free_kg, const look::Palette& c, int em)
{
    p.save();
    const double total = fat_kg + fat_free_kg, split = area.left() + area.width() * fat_free_kg / total;
    const QRectF lean(area.left(), area.top(), split - area.left(), 1.6 * em),
        fat(split, area.top(), area.right() - split, 1.6 * em);
    p.fillRect(lean, c.lean);
    p.fillRect(fat, c.fat);
    p.fillRect(QRectF(split - 0.08 * em, area.top(), 0.16 * em, 1.6 * em), c.paper);
    text(p, QRectF(area.left(), area.top() + 1.8 * em, 0.66 * area.width(), 1.5 * em), Qt::AlignLeft,
        QStringLiteral("fat-free mass %1 kg").arg(fat_free_kg, 0, 'f', 1), look::font(Voice::text, em), c.ink);
    text(p, QRectF(area.left() + 0.5 * area.width(), area.top() + 1.8 * em, 0.5 * area.width(), 1.5 * em),
        Qt::AlignRight, QStringLiteral("fat mass %1 kg").arg(fat_kg, 0, 'f', 1), look::font(Voice::text, em), c.ink);
    p.restore();
}

} // namespace fusain::report
