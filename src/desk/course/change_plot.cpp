// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/course/change_view.h"

#include <QMouseEvent>
#include <QPainter>

namespace fusain::desk {
namespace {

constexpr double zoom_step = 1.25, shortest_days = 7, near_px = 14;
constexpr int moved_px = 4;

} // namespace

ChangePlot::ChangePlot(QWidget* parent) : QWidget(parent)
{
    setObjectName(QStringLiteral("change_plot"));
    setMouseTracking(true);
    setMinimumHeight(90);
    connect(&Theme::get(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

void ChangePlot::show_picture(report::ChangePicture picture)
{
    picture_ = std::move(picture);
    seen_.pointed = -1;
    update();
}

void ChangePlot::see_all()
{
    seen_ = {};
    update();
}

int ChangePlot::point_at(const QPointF& at) const
{
    if (picture_.points.empty()) return -1;
    const report::ChangePlace place = report::place_change(area(), picture_, seen_, em());
    int best = -1;
    double nearest = near_px;
    for (std::size_t i = 0; i < picture_.points.size(); ++i) {
        const QPointF d = place.at(picture_.points[i].day, picture_.points[i].value) - at;
        if (const double far = std::hypot(d.x(), d.y()); far < nearest) {
            nearest = far;
            best = static_cast<int>(i);
        }
    }
    return best;
}

void ChangePlot::paintEvent(QPaintEvent*)
{
    QPainter p(this);
    report::draw_change(p, area(), picture_, seen_, Theme::get().palette(), em());
}

void ChangePlot::wheelEvent(QWheelEvent* e)
{
    if (picture_.points.empty()) return;
    const report::ChangePlace place = report::place_change(area(), picture_, seen_, em());
    const double share = std::clamp((e->position().x() - place.plot.left()) / place.plot.width(), 0.0, 1.0);
    const double span = place.to_day - place.from_day, at = place.from_day + share * span;
    const double wide = std::max(shortest_days, span * (e->angleDelta().y() > 0 ? 1 / zoom_step : zoom_step));
    seen_.from_day = at - share * wide;
    seen_.to_day = seen_.from_day + wide;
    e->accept();
    update();
}

void ChangePlot::mousePressEvent(QMouseEvent* e)
{
    if (picture_.points.empty()) return;
    const report::ChangePlace place = report::place_change(area(), picture_, seen_, em());
    grabbed_ = e->position();
    grabbed_from_ = place.from_day;
    grabbed_to_ = place.to_day;
    holding_ = true;
    dragged_ = false;
}

void ChangePlot::mouseMoveEvent(QMouseEvent* e)
{
    if (holding_ && (e->buttons() & Qt::LeftButton)) {
        const double by = e->position().x() - grabbed_.x();
        if (std::abs(by) > moved_px) dragged_ = true;
        if (!dragged_) return;
        const report::ChangePlace place = report::place_change(area(), picture_, seen_, em());
        const double days = by / place.plot.width() * (grabbed_to_ - grabbed_from_);
        seen_.from_day = grabbed_from_ - days;
        seen_.to_day = grabbed_to_ - days;
        return update();
    }
    const int at = point_at(e->position());
    if (at == seen_.pointed) return;
    seen_.pointed = at;
    setCursor(at >= 0 ? Qt::PointingHandCursor : Qt::ArrowCursor);
    update();
}

void ChangePlot::mouseReleaseEvent(QMouseEvent* e)
{
    const bool click = holding_ && !dragged_;
    holding_ = false;
    const int at = click ? point_at(e->position()) : -1;
    if (at < 0) return;
    if (e->button() == Qt::RightButton)
        emit leave_out(at);
    else
        emit hold_against(at);
}

void ChangePlot::leaveEvent(QEvent*)
{
    seen_.pointed = -1;
    update();
}

} // namespace fusain::desk
