// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/page/pen.h"
#include "report/xray/xray_figures.h"

#include <QPainterPath>

#include <algorithm>
#include <cmath>

namespace fusain::report {
namespace {

using look::Voice;
using pen::text;
using xray::Region;

constexpr double soft_full = 26, bone_full = 2.2, ln_full = 6.5; ///< g/cm², ln: as dark as it gets
constexpr double soft_share = 0.62, least_seen = 0.8;

QImage empty(Eigen::Index rows, Eigen::Index columns)
{
    QImage out(static_cast<int>(columns), static_cast<int>(rows), QImage::Format_ARGB32_Premultiplied);
    out.fill(Qt::transparent);
    return out;
}

template <class Dark>
void shade(QImage& out, int from, int to, const look::Palette& c, Dark dark)
{
    const QColor ink = c.ink;
    for (int r = from; r < to; ++r) {
        auto* line = reinterpret_cast<QRgb*>(out.scanLine(r));
        for (int k = 0; k < out.width(); ++k) {
            const int a = static_cast<int>(255 * std::clamp(dark(r, k), 0.0, 1.0));
            line[k] = qPremultiply(qRgba(ink.red(), ink.green(), ink.blue(), a));
        }
    }
}

QPolygonF path_of(const MapPlace& place, const xray::Polyline& line)
{
    QPolygonF out;
    for (const xray::Spot& s : line) out << place.at(s.x_mm, s.y_mm);
    return out;
}

struct Layer {
    const char* title;
    std::vector<Region> left, right; ///< both the same: one region, in two halves
};

double grams(const Result& r, const Quantity (&of)[xray::region_count], const std::vector<Region>& regions)
{
    double sum = 0;
    for (Region region : regions)
        if (const Value* v = r.find(of[xray::index(region)])) sum += v->value;
    return sum;
}

} // namespace

QImage charcoal(const xray::Composition& s, const look::Palette& c)
{
    QImage out = empty(s.fat.rows(), s.fat.cols());
    shade(out, 0, out.height(), c, [&](int r, int k) {
        const double soft = s.fat(r, k) + s.lean(r, k);
        if (!(soft + s.bone(r, k) > least_seen)) return 0.0;
        return soft_share * std::pow(std::max(0.0, soft) / soft_full, 0.8) +
               (1 - soft_share) * std::pow(std::max(0.0, s.bone(r, k)) / bone_full, 0.7);
    });
    return out;
}

void charcoal(QImage& into, const xray::Image& ln, int from, int to, const look::Palette& c)
{
    if (into.width() != ln.cols() || into.height() != ln.rows()) {
        into = empty(ln.rows(), ln.cols());
        from = 0;
    }
    shade(into, from, to, c,
        [&](int r, int k) { return ln(r, k) > 0.12 ? 0.95 * std::pow(ln(r, k) / ln_full, 0.9) : 0.0; });
}

MapPlace place_map(const QRectF& area, double width_mm, double height_mm)
{
    const double scale = std::min(area.width() / width_mm, area.height() / height_mm);
    const QSizeF size(width_mm * scale, height_mm * scale);
    return {QRectF(area.center() - QPointF(size.width() / 2, size.height() / 2), size), width_mm, height_mm};
}

void draw_strings(QPainter& p, const MapPlace& place, const xray::Lines& lines, const look::Palette& c, int em,
    int chosen, int knot, const xray::Lines* ghost)
{
    p.save();
    p.setRenderHint(QPainter::Antialiasing);
    p.setBrush(Qt::NoBrush);
    const auto draw = [&](const xray::Lines& of, const xray::StringRow& row, const QPen& pen) {
        p.setPen(pen);
        if (row.height)
            p.drawLine(
                place.at(0.04 * place.width_mm, of.*row.height), place.at(0.96 * place.width_mm, of.*row.height));
        else
            p.drawPolyline(path_of(place, of.*row.line));
    };
    if (ghost)
        for (const xray::StringRow& row : xray::string_rows) {
            QPen pen(c.smudge, 0.1 * em, Qt::DotLine);
            draw(*ghost, row, pen);
        }
    for (std::size_t i = 0; i < xray::string_count; ++i) {
        const xray::StringRow& row = xray::string_rows[i];
        const bool is_chosen = static_cast<int>(i) == chosen;
        QPen under(c.paper, (is_chosen ? 0.42 : 0.3) * em);
        under.setCapStyle(Qt::RoundCap);
        draw(lines, row, under);
        draw(lines, row, QPen(is_chosen ? c.live : c.ink, (is_chosen ? 0.18 : 0.09) * em));
        // the handle: a bead where it is taken
        const auto bead = [&](const QPointF& at, double r, bool on) {
            p.setPen(QPen(is_chosen ? c.live : c.ink, 0.09 * em));
            p.setBrush(on ? QBrush(c.live) : QBrush(c.paper));
            p.drawEllipse(at, r, r);
            p.setBrush(Qt::NoBrush);
        };
        if (row.height) {
            bead(place.at(0.96 * place.width_mm, lines.*row.height), 0.34 * em, is_chosen);
        } else if (is_chosen) {
            const xray::Polyline& line = lines.*row.line;
            for (std::size_t k = 0; k < line.size(); ++k)
                bead(place.at(line[k].x_mm, line[k].y_mm), 0.27 * em, knot < 0 || static_cast<int>(k) == knot);
        } else if (!(lines.*row.line).empty()) {
            const xray::Spot& s = (lines.*row.line).front();
            bead(place.at(s.x_mm, s.y_mm), 0.3 * em, false);
        }
    }
    p.restore();
}

void draw_bands(QPainter& p, const MapPlace& place, const xray::Lines& lines, const look::Palette& c)
{
    const xray::Bands bands = xray::bands(lines);
    p.save();
    const auto band = [&](double from, double to, Qt::BrushStyle style) {
        QColor shade = c.fat;
        shade.setAlpha(150);
        p.fillRect(
            QRectF(QPointF(place.on.left(), place.at(0, from).y()), QPointF(place.on.right(), place.at(0, to).y())),
            QBrush(shade, style));
    };
    band(bands.android_top, bands.android_bottom, Qt::BDiagPattern);
    band(bands.gynoid_top, bands.gynoid_bottom, Qt::FDiagPattern);
    p.restore();
}

void draw_strata(QPainter& p, const QRectF& whole, const Result& r, bool with_head, const look::Palette& c, int em,
    const MassUnit& unit)
{
    p.save();
    p.setRenderHint(QPainter::Antialiasing);
    std::vector<Layer> layers;
    const bool head = r.find(quantity::region_fat[xray::index(Region::head)]);
    if (head && !with_head) layers.push_back({"head", {Region::head}, {Region::head}});
    layers.push_back({"arm", {Region::left_arm}, {Region::right_arm}});
    if (head && with_head)
        layers.push_back({"trunk with head", {Region::trunk, Region::head}, {Region::trunk, Region::head}});
    else
        layers.push_back({head ? "trunk" : "trunk with head", {Region::trunk}, {Region::trunk}});
    layers.push_back({"leg", {Region::left_leg}, {Region::right_leg}});

    const QRectF area = whole.adjusted(0, 0, 0, -1.8 * em);
    const double words = 10.5 * em, spine = area.center().x(), half = area.width() / 2 - words;
    const auto mass = [&](const std::vector<Region>& of) {
        return grams(r, quantity::region_fat, of) + grams(r, quantity::region_lean, of) +
               grams(r, quantity::region_bone, of);
    };
    std::vector<double> kg;
    double all = 0;
    for (const Layer& l : layers) {
        kg.push_back(l.left == l.right ? mass(l.left) : mass(l.left) + mass(l.right));
        all += kg.back();
    }
    // as high as it is heavy, and never too low for its words
    const double gap = 0.28 * em, least = 2.5 * em, room = area.height() - gap * static_cast<double>(layers.size() - 1);
    double small = 0, rest = 0;
    for (double m : kg) (room * m / all < least ? small : rest) += room * m / all < least ? least : m;
    double y = area.top();
    for (std::size_t i = 0; i < layers.size(); ++i) {
        const Layer& l = layers[i];
        const double high = room * kg[i] / all < least ? least : (room - small) * kg[i] / rest;
        const auto side = [&](const std::vector<Region>& of, int way) {
            const double fat = grams(r, quantity::region_fat, of), lean = grams(r, quantity::region_lean, of),
                         bone = grams(r, quantity::region_bone, of), sum = fat + lean + bone;
            double from = 0;
            for (const auto& [part, color] : {std::pair{bone, c.mineral}, {lean, c.lean}, {fat, c.fat}}) {
                const double to = from + part / sum * half;
                const double a = spine + way * from, b = spine + way * to;
                p.fillRect(QRectF(QPointF(std::min(a, b), y), QPointF(std::max(a, b), y + high)), color);
                from = to;
            }
            return std::pair{sum, 100 * fat / sum};
        };
        const auto left = side(l.left, -1), right = side(l.right, 1);
        const auto say = [&](int way, const QString& title, const std::pair<double, double>& of) {
            const QRectF at = way < 0 ? QRectF(area.left(), y + high / 2 - 1.25 * em, words - 0.7 * em, 1.25 * em)
                                      : QRectF(area.right() - words + 0.7 * em, y + high / 2 - 1.25 * em,
                                            words - 0.7 * em, 1.25 * em);
            const int align = (way < 0 ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignVCenter;
            text(p, at, align, title, look::font(Voice::text, em), c.ink);
            text(p, at.translated(0, 1.25 * em), align,
                QStringLiteral("%1 %2, %3 % fat")
                    .arg(of.first * unit.per_kg, 0, 'f', 1)
                    .arg(unit.word)
                    .arg(of.second, 0, 'f', 0),
                look::font(Voice::measured, static_cast<int>(0.82 * em)), c.smudge);
        };
        const QString title = QString::fromLatin1(l.title);
        if (l.left == l.right) {
            say(-1, title, left);
        } else {
            say(-1, QStringLiteral("left ") + title, left);
            say(1, QStringLiteral("right ") + title, right);
        }
        y += high + gap;
    }
    p.setPen(QPen(c.paper, 0.08 * em));
    p.drawLine(QPointF(spine, area.top()), QPointF(spine, y - gap));
    double at = area.left() + words;
    const double line = whole.bottom() - 1.4 * em;
    const QFont font = look::font(Voice::text, static_cast<int>(0.9 * em));
    const auto legend = [&](const QColor& color, const QString& what) {
        p.fillRect(QRectF(at, line + 0.25 * em, 0.9 * em, 0.9 * em), color);
        p.setFont(font);
        const double wide = p.fontMetrics().horizontalAdvance(what) + 0.4 * em;
        text(p, QRectF(at + 1.3 * em, line, wide, 1.4 * em), Qt::AlignLeft | Qt::AlignVCenter, what, font, c.smudge);
        at += wide + 2.6 * em;
    };
    legend(c.mineral, QStringLiteral("bone mineral"));
    legend(c.lean, QStringLiteral("lean soft tissue"));
    legend(c.fat, QStringLiteral("fat"));
    p.restore();
}

} // namespace fusain::report
