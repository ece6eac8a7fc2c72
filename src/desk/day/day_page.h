// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/day/came_in_panel.h"
#include "desk/day/day_end_panel.h"
#include "desk/day/day_strip.h"
#include "desk/day/group_panel.h"
#include "work/lab/lab.h"
#include "desk/parts/parts.h"

#include <QListWidget>
#include <QStackedWidget>
#include <QTimer>
#include <QVBoxLayout>

namespace fusain::desk {

/// Booking: client and methods in, times proposed by the planner out.
class BookingPanel : public QWidget {
    Q_OBJECT
public:
    explicit BookingPanel(work::Lab& lab, QWidget* parent = nullptr);
    /// For a client, beginning with a day. `methods`: already chosen ones.
    void begin(long client_id, const QDate& from, const std::vector<Method>& methods = {});
    void set_technician(std::function<QString()> who) { who_ = std::move(who); }

signals:
    void booked(long booking_id);
    void cancelled();

private:
    void search();
    void propose();
    void take(int row);
    work::Lab& lab_;
    std::function<QString()> who_;
    long client_ = 0;
    QLineEdit *search_, *from_, *days_;
    QListWidget *clients_, *times_;
    std::vector<WordButton*> methods_;
    QLabel *title_, *said_, *trouble_, *history_;
    KeyButton *book_, *back_;
    std::vector<schedule::Proposal> proposals_;
    std::vector<long> found_;
};

/// The home screen: the day strip, who is next, what must be started by when, what to watch, which sheets to send.
class DayPage : public QWidget {
    Q_OBJECT
public:
    DayPage(work::Lab& lab, work::Incoming& incoming, QWidget* parent = nullptr);
    void refresh();
    void show_day(const QDate& day);
    QDate day() const { return day_; }
    void book(long client_id, const std::vector<Method>& methods = {});
    void set_technician(std::function<QString()> who);
    long selected() const { return strip_->selected(); }
    void select(long booking);

signals:
    void screen(long booking_id);
    void visit(long id);
    void keep_with(long visit, const QString& path);
    void trouble(const QString& text);
    void note(const QString& text);

private:
    void tick();
    void choose(long booking);
    void step(int by);
    void begin_move();
    void move_by(schedule::Minute by, int lanes);
    void end_move(bool keep);
    void place(const records::Booking& before, const std::vector<schedule::Slot>& parts);
    void send_sheets();
    void show_chosen();
    void act(records::BookingState state);
    std::vector<const records::Instrument*> lanes() const;
    void tell_came_in();
    void make_head(QVBoxLayout* v);
    void make_keys(QVBoxLayout* v);
    void make_columns(QVBoxLayout* v);
    void connect_panels();
    void connect_keys();
    void tell_what_to_watch(const std::vector<schedule::Conflict>& clashes, const QDateTime& now);
    void tell_sheets(const QDateTime& now);
    void tell_who_is_next(const std::map<std::string, bench::Readiness>& ready, bool is_today);
    work::Lab& lab_;
    work::Incoming& incoming_;
    std::function<QString()> who_;
    QDate day_;
    std::vector<records::Booking> bookings_;
    std::vector<records::Instrument> instruments_;
    QStackedWidget* pages_;
    BookingPanel* booking_;
    GroupPanel* group_;
    DayEndPanel* end_;
    CameInPanel* came_in_;
    QLabel *title_, *hint_, *date_, *soon_, *watch_, *sheets_, *chosen_, *moving_;
    DayStrip* strip_;
    Scroll* strip_scroll_;
    KeyButton *go_, *book_, *group_key_, *end_key_, *came_in_key_, *move_, *send_, *missed_, *cancel_, *keep_, *leave_;
    QWidget *keys_, *move_keys_;
    WordButton *before_, *after_, *today_;
    std::optional<records::Booking> held_;
    schedule::Minute held_by_ = 0;
    int held_lanes_ = 0;
    QTimer timer_;
    long next_ = 0;
};

} // namespace fusain::desk
