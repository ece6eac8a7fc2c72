// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/before/schedule.h"
#include "desk/parts/theme.h"

#include <QTimeZone>
#include <QWidget>

namespace fusain::desk {

/// The day strip: instruments as lanes, lead times hatched, the now-line, visits as cards that can be dragged.
class DayStrip : public QWidget {
    Q_OBJECT
public:
    struct Card {
        long booking = 0;
        int part = 0; ///< of the booking
        int lane = 0;
        schedule::Span at;
        QString name, state;
        bool done = false, conflict = false;
    };
    struct Hatch {
        int lane = 0;
        schedule::Span at;
        QString words;
        bool ready = false; ///< already done today
    };
    struct Content {
        QTimeZone zone;
        QStringList lanes;
        std::vector<Card> cards;
        std::vector<Hatch> hatches;
        schedule::Span open; ///< opening hours of the day
        std::optional<schedule::Minute> now;
        long next = 0; ///< booking that is next
    };
    explicit DayStrip(QWidget* parent = nullptr);
    void show_day(Content content);
    void select(long booking);
    long selected() const { return selected_; }
    /// Where a visit's first card stands.
    QRect place_of(long booking) const;
    /// A card held over another place, by keys or by the mouse. Nothing is stored before `dropped`.
    void hold(long booking, schedule::Minute by, int lanes_down);
    void let_go()
    {
        held_ = 0;
        update();
    }
    QSize minimumSizeHint() const override;

signals:
    void chosen(long booking);
    void opened(long booking);
    /// The visit was dragged: all its parts by so many minutes; the part grabbed onto this lane.
    void dropped(long booking, int part, schedule::Minute by, int lane);

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* e) override;
    void mouseMoveEvent(QMouseEvent* e) override;
    void mouseReleaseEvent(QMouseEvent* e) override;
    void mouseDoubleClickEvent(QMouseEvent* e) override;

private:
    double x_of(double minute) const;
    double least_lane() const; ///< its words are never cut; what does not fit is scrolled to
    double lane_height() const;
    QRectF box(const schedule::Span& at, int lane) const;
    const Card* card_at(const QPointF& point) const;
    void draw_card(QPainter& p, const Card& c, double room_right) const;
    Content day_;
    schedule::Minute from_ = 0, to_ = 60;
    long selected_ = 0, held_ = 0;
    int held_part_ = -1, held_lanes_ = 0;
    schedule::Minute held_by_ = 0;
    std::optional<QPointF> pressed_;
    bool dragging_ = false;
};

} // namespace fusain::desk
