// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/day/day_strip.h"

#include "records/base/clock.h"

#include <QMouseEvent>
#include <QPainter>

#include <algorithm>
#include <cmath>

namespace fusain::desk {

using look::Voice;

namespace {
constexpr double top = 30, step_min = 5;
double margin_left() { return Theme::get().px(118); }
constexpr double margin_right = 34;
} // namespace

DayStrip::DayStrip(QWidget* parent) : QWidget(parent)
{
    setMouseTracking(true);
    setObjectName(QStringLiteral("day_strip"));
    connect(&Theme::get(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

QSize DayStrip::minimumSizeHint() const
{
    return {500, static_cast<int>(top + least_lane() * std::max(1, static_cast<int>(day_.lanes.size()))) + 18};
}

double DayStrip::least_lane() const
{
    const Theme& t = Theme::get();
    const QFontMetricsF words(look::font(Voice::text, t.px(15)));
    double least = t.px(44);
    for (const QString& lane : day_.lanes)
        least = std::max(
            least, words.boundingRect(QRectF(0, 0, margin_left() - 14, 1000), Qt::TextWordWrap, lane).height() + 4);
    return least;
}

void DayStrip::show_day(Content content)
{
    day_ = std::move(content);
    from_ = day_.open.from;
    to_ = std::max(day_.open.to, day_.open.from + 60);
    for (const Card& c : day_.cards) {
        from_ = std::min(from_, c.at.from);
        to_ = std::max(to_, c.at.to);
    }
    for (const Hatch& h : day_.hatches) from_ = std::min(from_, h.at.from);
    from_ = (from_ - 15) / 60 * 60;
    to_ = (to_ + 59) / 60 * 60;
    if (!std::any_of(day_.cards.begin(), day_.cards.end(), [&](const Card& c) { return c.booking == selected_; }))
        selected_ = 0;
    updateGeometry();
    update();
}

void DayStrip::select(long booking)
{
    selected_ = booking;
    update();
}

void DayStrip::hold(long booking, schedule::Minute by, int lanes_down)
{
    held_ = booking;
    held_part_ = -1;
    held_by_ = by;
    held_lanes_ = lanes_down;
    update();
}

double DayStrip::x_of(double minute) const
{
    return margin_left() + (width() - margin_left() - margin_right) * (minute - static_cast<double>(from_)) /
                               static_cast<double>(to_ - from_);
}
double DayStrip::lane_height() const
{
    return std::clamp<double>((height() - top - 18) / std::max<double>(1, static_cast<double>(day_.lanes.size())),
        least_lane(), std::max<double>(Theme::get().px(66), least_lane()));
}

QRectF DayStrip::box(const schedule::Span& at, int lane) const
{
    const double h = lane_height(), a = x_of(static_cast<double>(at.from)), b = x_of(static_cast<double>(at.to));
    return {a, top + lane * h + 5, std::max(8.0, b - a), h - 10};
}

void DayStrip::draw_card(QPainter& p, const Card& c, double room_right) const
{
    const Theme& t = Theme::get();
    const look::Palette& l = t.palette();
    const bool held = held_ == c.booking, chosen = selected_ == c.booking;
    schedule::Span at = c.at;
    int lane = c.lane;
    if (held) {
        at = {at.from + held_by_, at.to + held_by_};
        if (held_part_ < 0 || held_part_ == c.part)
            lane = std::clamp(lane + held_lanes_, 0, static_cast<int>(day_.lanes.size()) - 1);
    }
    const QRectF r = box(at, lane);
    p.setBrush(c.done ? l.line : l.sheet);
    const bool next = day_.next == c.booking && !c.done;
    QPen pen(c.conflict ? l.look_here : next ? l.live : l.ink, c.conflict || next || chosen ? 2.4 : 1.1);
    if (held) pen.setStyle(Qt::DashLine);
    p.setPen(pen);
    p.drawRect(r);
    if (chosen) { // a mark besides the weight of the line
        p.setPen(Qt::NoPen);
        p.setBrush(l.ink);
        p.drawRect(QRectF(r.left(), r.bottom() + 1.5, r.width(), 3));
    }
    // the name stands inside, or beside the card where the lane is free
    const bool two_lines = r.height() > t.px(34);
    p.setFont(look::font(Voice::text, t.px(14), chosen));
    p.setPen(c.done ? l.smudge : l.ink);
    const QString name = (c.conflict ? QStringLiteral("◆ ") : QString()) + c.name;
    const double inside = r.width() - 10, outside = room_right - r.right() - 9,
                 wanted = p.fontMetrics().horizontalAdvance(name);
    const bool beside = wanted > inside && outside > inside;
    const double left = beside ? r.right() + 5 : r.left() + 6;
    const double width = beside ? outside : inside;
    if (width < t.px(16)) return;
    const QRectF words(left, r.top() + (two_lines ? 3 : 0), width, two_lines ? r.height() / 2 - 2 : r.height());
    // where little fits, the initial goes first
    const QString shown =
        wanted > width ? (c.conflict ? QStringLiteral("◆ ") : QString()) + c.name.section(' ', 1) : name;
    p.drawText(words, Qt::AlignLeft | Qt::AlignVCenter,
        p.fontMetrics().elidedText(shown, Qt::ElideRight, static_cast<int>(width)));
    if (!two_lines) return;
    p.setFont(look::font(Voice::text, t.px(12)));
    p.setPen(c.conflict ? l.look_here : l.smudge);
    const QString state = held ? records::local_of(at.from, day_.zone).toString(QStringLiteral("HH:mm")) : c.state;
    p.drawText(QRectF(left, r.center().y(), width, r.height() / 2 - 2), Qt::AlignLeft | Qt::AlignVCenter,
        p.fontMetrics().elidedText(state, Qt::ElideRight, static_cast<int>(width)));
}

void DayStrip::paintEvent(QPaintEvent*)
{
    const Theme& t = Theme::get();
    const look::Palette& l = t.palette();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const double h = lane_height(), bottom = top + h * static_cast<double>(day_.lanes.size());
    // hours
    p.setFont(look::font(Voice::measured, t.px(12)));
    const int every = width() < 900 ? 2 : 1;
    int k = 0;
    for (schedule::Minute m = from_; m <= to_; m += 60, ++k) {
        const double x = x_of(static_cast<double>(m));
        p.setPen(QPen(l.line, 1));
        p.drawLine(QPointF(x, top - 4), QPointF(x, bottom));
        if (k % every) continue;
        p.setPen(l.smudge);
        p.drawText(QRectF(x - 30, 4, 60, top - 10), Qt::AlignCenter,
            records::local_of(m, day_.zone).toString(QStringLiteral("HH:mm")));
    }
    for (int i = 0; i < day_.lanes.size(); ++i) {
        p.setPen(QPen(l.line, 1));
        p.drawLine(QPointF(0, top + (i + 1) * h), QPointF(width(), top + (i + 1) * h));
        p.setFont(look::font(Voice::text, t.px(15)));
        p.setPen(l.ink);
        p.drawText(QRectF(2, top + i * h, margin_left() - 14, h), Qt::AlignLeft | Qt::AlignVCenter | Qt::TextWordWrap,
            day_.lanes[i]);
    }
    // closed: before and after the opening hours
    QColor shade = l.line;
    shade.setAlphaF(0.25f);
    const double open_a = x_of(static_cast<double>(day_.open.from)), open_b = x_of(static_cast<double>(day_.open.to)),
                 end = x_of(static_cast<double>(to_));
    p.fillRect(QRectF(margin_left(), top, std::max(0.0, open_a - margin_left()), bottom - top), shade);
    p.fillRect(QRectF(open_b, top, std::max(0.0, end - open_b), bottom - top), shade);
    // lead times
    p.setFont(look::font(Voice::text, t.px(12)));
    for (const Hatch& lead : day_.hatches) {
        const QRectF r = box(lead.at, lead.lane).adjusted(0, 3, 0, -3);
        p.setPen(QPen(l.faint, 1, Qt::DashLine));
        p.setBrush(QBrush(l.line, lead.ready ? Qt::Dense6Pattern : Qt::BDiagPattern));
        p.drawRect(r);
        const QString words = p.fontMetrics().elidedText(lead.words, Qt::ElideRight, static_cast<int>(r.width()) - 8);
        if (r.width() > t.px(36) && words.size() > 2) {
            const double w = p.fontMetrics().horizontalAdvance(words);
            p.fillRect(QRectF(r.left() + 4, r.center().y() - t.px(8), w + 4, t.px(16)), l.paper);
            p.setPen(l.smudge);
            p.drawText(QRectF(r.left() + 6, r.top(), r.width(), r.height()), Qt::AlignLeft | Qt::AlignVCenter, words);
        }
    }
    // cards: the free room to the right of each is where its name may run on
    std::vector<const Card*> order;
    for (const Card& c : day_.cards) order.push_back(&c);
    std::stable_sort(order.begin(), order.end(),
        [&](const Card* a, const Card* b) { return (a->booking == held_) < (b->booking == held_); });
    for (const Card* c : order) {
        double free_to = width() - 2;
        for (const Card& o : day_.cards)
            if (&o != c && o.lane == c->lane && o.at.from >= c->at.from &&
                !(o.at.from == c->at.from && o.part <= c->part))
                free_to = std::min(free_to, x_of(static_cast<double>(o.at.from)));
        for (const Hatch& o : day_.hatches)
            if (o.lane == c->lane && o.at.from >= c->at.to)
                free_to = std::min(free_to, x_of(static_cast<double>(o.at.from)));
        draw_card(p, *c, c->booking == held_ ? 0 : free_to);
    }
    if (day_.now && *day_.now >= from_ && *day_.now <= to_) {
        const double x = x_of(static_cast<double>(*day_.now));
        p.setPen(QPen(l.live, 2.2));
        p.drawLine(QPointF(x, top - 6), QPointF(x, bottom + 2));
        p.setFont(look::font(Voice::measured, t.px(12)));
        p.drawText(QRectF(x - 40, bottom + 2, 80, 15), Qt::AlignCenter, QStringLiteral("now"));
    }
}

QRect DayStrip::place_of(long booking) const
{
    for (const Card& c : day_.cards)
        if (c.booking == booking) return box(c.at, c.lane).toAlignedRect();
    return {};
}

const DayStrip::Card* DayStrip::card_at(const QPointF& point) const
{
    for (auto c = day_.cards.rbegin(); c != day_.cards.rend(); ++c)
        if (box(c->at, c->lane).adjusted(-3, 0, 3, 0).contains(point)) return &*c;
    return nullptr;
}

void DayStrip::mousePressEvent(QMouseEvent* e)
{
    const Card* c = card_at(e->position());
    if (!c) return;
    selected_ = c->booking;
    held_part_ = c->part;
    pressed_ = e->position();
    dragging_ = false;
    emit chosen(c->booking);
    update();
}

void DayStrip::mouseMoveEvent(QMouseEvent* e)
{
    if (!pressed_) {
        setCursor(card_at(e->position()) ? Qt::PointingHandCursor : Qt::ArrowCursor);
        return;
    }
    const QPointF d = e->position() - *pressed_;
    if (!dragging_ && d.manhattanLength() < 6) return;
    dragging_ = true;
    held_ = selected_;
    const double minutes = d.x() * static_cast<double>(to_ - from_) / (width() - margin_left() - margin_right);
    held_by_ = static_cast<schedule::Minute>(std::lround(minutes / step_min) * step_min);
    held_lanes_ = static_cast<int>(std::lround(d.y() / lane_height()));
    setCursor(Qt::ClosedHandCursor);
    update();
}

void DayStrip::mouseReleaseEvent(QMouseEvent*)
{
    if (!pressed_) return;
    pressed_.reset();
    const bool moved = dragging_ && (held_by_ != 0 || held_lanes_ != 0);
    const long booking = held_;
    held_ = 0;
    dragging_ = false;
    setCursor(Qt::ArrowCursor);
    if (moved) {
        int lane = 0;
        for (const Card& c : day_.cards)
            if (c.booking == booking && c.part == held_part_)
                lane = std::clamp(c.lane + held_lanes_, 0, static_cast<int>(day_.lanes.size()) - 1);
        emit dropped(booking, held_part_, held_by_, lane);
    }
    update();
}

void DayStrip::mouseDoubleClickEvent(QMouseEvent* e)
{
    if (const Card* c = card_at(e->position())) emit opened(c->booking);
}

} // namespace fusain::desk
