// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/bench/xray/map_view.h"

#include "desk/parts/theme.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>

#include <cmath>

namespace fusain::desk {
namespace {

constexpr double detail_high_mm = 460;
constexpr double fine_mm = 1, coarse_mm = 5, near_px = 12, near_knot_px = 9;

/// How far a spot on the screen lies from a string.
double distance(const report::MapPlace& place, const xray::Lines& lines, const xray::StringRow& row, const QPointF& at)
{
    if (row.height) return std::abs(place.at(0, lines.*row.height).y() - at.y());
    double best = 1e9;
    const xray::Polyline& line = lines.*row.line;
    for (std::size_t i = 1; i < line.size(); ++i) {
        const QPointF a = place.at(line[i - 1].x_mm, line[i - 1].y_mm), d = place.at(line[i].x_mm, line[i].y_mm) - a,
                      to = at - a;
        const double length2 = QPointF::dotProduct(d, d),
                     t = length2 > 0 ? std::clamp(QPointF::dotProduct(to, d) / length2, 0.0, 1.0) : 0;
        const QPointF off = to - t * d;
        best = std::min(best, std::hypot(off.x(), off.y()));
    }
    return best;
}

} // namespace

MapView::MapView(bool detail, QWidget* parent) : QWidget(parent), detail_(detail)
{
    setFocusPolicy(Qt::StrongFocus);
    setMinimumSize(160, 240);
    connect(&Theme::get(), &Theme::changed, this, &MapView::redraw);
}

void MapView::redraw()
{
    picture_ = scan_ ? report::charcoal(*scan_, Theme::get().palette()) : QImage(); // growing: at the next row
    update();
}

void MapView::show_scan(std::shared_ptr<const xray::Composition> scan)
{
    scan_ = std::move(scan);
    growing_ = false;
    if (scan_) {
        width_mm_ = scan_->dx_mm * static_cast<double>(scan_->fat.cols());
        height_mm_ = scan_->dy_mm * static_cast<double>(scan_->fat.rows());
    }
    redraw();
}

void MapView::show_rows(const xray::Image& attenuation, double dx_mm, double dy_mm, int rows_seen)
{
    scan_.reset();
    if (!growing_ || rows_seen < rows_seen_) picture_ = {};
    const int from = picture_.isNull() ? 0 : rows_seen_;
    growing_ = true;
    rows_seen_ = rows_seen;
    width_mm_ = dx_mm * static_cast<double>(attenuation.cols());
    height_mm_ = dy_mm * static_cast<double>(attenuation.rows());
    report::charcoal(picture_, attenuation, from, rows_seen, Theme::get().palette());
    update();
}

void MapView::clear()
{
    scan_.reset();
    picture_ = {};
    has_lines_ = false;
    ghost_.reset();
    update();
}

void MapView::set_lines(const xray::Lines& lines)
{
    lines_ = lines;
    has_lines_ = true;
    if (!drag_from_) centre();
    update();
}

void MapView::set_ghost(std::optional<xray::Lines> last)
{
    ghost_ = std::move(last);
    update();
}

void MapView::show_bands(bool on)
{
    bands_ = on;
    update();
}

void MapView::choose(xray::String string)
{
    if (chosen_ == string && knot_ < 0) return;
    chosen_ = string;
    knot_ = -1;
    centre();
    update();
    emit chosen_changed();
}

void MapView::step(double dx_mm, double dy_mm)
{
    if (!has_lines_) return;
    emit grabbed();
    lines_ = xray::moved(lines_, chosen_, knot_, dx_mm, dy_mm);
    update();
    emit lines_moved();
}

void MapView::centre()
{
    if (!detail_ || !has_lines_) return;
    const xray::StringRow& r = xray::row(chosen_);
    centre_ = {width_mm_ / 2, r.height ? lines_.*r.height : 0};
    if (!r.line || (lines_.*r.line).empty()) return;
    const xray::Polyline& line = lines_.*r.line;
    // where it matters: a long string begins at the joint
    const std::size_t n = r.level ? line.size() : std::min<std::size_t>(line.size(), 5);
    centre_ = {};
    for (std::size_t i = 0; i < n; ++i) {
        centre_.x_mm += line[i].x_mm / static_cast<double>(n);
        centre_.y_mm += line[i].y_mm / static_cast<double>(n);
    }
}

report::MapPlace MapView::place() const
{
    if (detail_) {
        const double scale = height() / detail_high_mm;
        return {QRectF(width() / 2.0 - scale * centre_.x_mm, height() / 2.0 - scale * centre_.y_mm, scale * width_mm_,
                    scale * height_mm_),
            width_mm_, height_mm_};
    }
    return report::place_map(
        QRectF(rect()).adjusted(4, 4, -4, -4), std::max(1.0, width_mm_), std::max(1.0, height_mm_));
}

void MapView::paintEvent(QPaintEvent*)
{
    QPainter p(this);
    const look::Palette& c = Theme::get().palette();
    const int em = Theme::get().px(13);
    const report::MapPlace at = place();
    if (detail_ && !has_lines_) return;
    p.fillRect(at.on.intersected(rect()), c.sheet);
    p.setPen(QPen(c.line, 1));
    p.drawRect(detail_ ? QRectF(rect()).adjusted(0, 0, -1, -1) : at.on);
    if (!picture_.isNull()) {
        p.setRenderHint(QPainter::SmoothPixmapTransform);
        p.drawImage(at.on, picture_);
    }
    if (growing_) {
        const double y = at.at(0, height_mm_ * rows_seen_ / std::max(1, picture_.height())).y();
        p.setPen(QPen(c.live, 0.16 * em));
        p.drawLine(QPointF(at.on.left(), y), QPointF(at.on.right(), y));
    }
    if (!has_lines_) return;
    if (bands_) report::draw_bands(p, at, lines_, c);
    report::draw_strings(p, at, lines_, c, em, static_cast<int>(chosen_), knot_, ghost_ ? &*ghost_ : nullptr);
}

void MapView::mousePressEvent(QMouseEvent* e)
{
    if (!has_lines_ || e->button() != Qt::LeftButton) return;
    const report::MapPlace at = place();
    // a knot of the chosen string first
    if (const xray::StringRow& r = xray::row(chosen_); r.line)
        for (std::size_t k = 0; k < (lines_.*r.line).size(); ++k) {
            const QPointF off = at.at((lines_.*r.line)[k].x_mm, (lines_.*r.line)[k].y_mm) - e->position();
            if (std::hypot(off.x(), off.y()) > near_knot_px) continue;
            knot_ = static_cast<int>(k);
            drag_from_ = e->position();
            emit grabbed();
            return update();
        }
    double best = near_px;
    std::optional<xray::String> found;
    for (std::size_t i = 0; i < xray::string_count; ++i)
        if (const double d = distance(at, lines_, xray::string_rows[i], e->position()); d < best) {
            best = d;
            found = static_cast<xray::String>(i);
        }
    if (!found) return;
    choose(*found);
    drag_from_ = e->position();
    emit grabbed();
}

void MapView::mouseMoveEvent(QMouseEvent* e)
{
    if (!drag_from_) return;
    const double mm = place().mm_per_pixel();
    const QPointF by = (e->position() - *drag_from_) * mm;
    drag_from_ = e->position();
    lines_ = xray::moved(lines_, chosen_, knot_, by.x(), by.y());
    update();
    emit lines_moved();
}

void MapView::mouseReleaseEvent(QMouseEvent*)
{
    drag_from_.reset();
    centre();
    update();
}

bool MapView::event(QEvent* e)
{
    if (e->type() == QEvent::ShortcutOverride || e->type() == QEvent::KeyPress) {
        const auto* key = static_cast<QKeyEvent*>(e);
        const double mm = key->modifiers() & Qt::ShiftModifier ? coarse_mm : fine_mm;
        const auto turn = [&](int by) {
            const int n = static_cast<int>(xray::string_count);
            choose(static_cast<xray::String>((static_cast<int>(chosen_) + by + n) % n));
        };
        const bool press = e->type() == QEvent::KeyPress;
        switch (key->key()) {
        case Qt::Key_Tab: press ? turn(1) : void(); break;
        case Qt::Key_Backtab: press ? turn(-1) : void(); break;
        case Qt::Key_Left: press ? step(-mm, 0) : void(); break;
        case Qt::Key_Right: press ? step(mm, 0) : void(); break;
        case Qt::Key_Up: press ? step(0, -mm) : void(); break;
        case Qt::Key_Down: press ? step(0, mm) : void(); break;
        default: return QWidget::event(e);
        }
        e->accept();
        return true;
    }
    return QWidget::event(e);
}

} // namespace fusain::desk
