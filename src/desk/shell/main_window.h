// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/bench/bench_page.h"
#include "desk/clients/clients_page.h"
#include "desk/course/course_page.h"
#include "desk/day/day_page.h"
#include "desk/first_day/first_day_page.h"
#include "desk/instruments/instruments_page.h"
#include "desk/result/result_page.h"
#include "desk/rules/rules_page.h"
#include "desk/screening/screening_page.h"
#include "desk/shell/kept_strip.h"

#include <QMainWindow>
#include <QShortcut>

namespace fusain::desk {

class StandIns;
class DrillRunner;
class PracticePage;

/// The shell: rooms along the top, and only those that have something in them now.
class MainWindow : public QMainWindow {
    Q_OBJECT
public:
    MainWindow(std::shared_ptr<records::Store> store, const QStringList& ports, work::Seams seams = {});
    work::Session& session() { return session_; }
    /// A strip along the bottom, for the demo.
    void add_strip(QWidget* strip);
    work::Lab& lab() { return lab_; }
    /// From here on it is the practice bench: its folder is no lab, its rooms are others.
    void practise(StandIns& room);
    PracticePage& practice() { return *practice_; }
    void show_practice();
    void open_practice(); ///< a window of its own
    void show_first();
    void show_day();
    void show_clients();
    void show_instruments();
    void show_study(long id);
    void show_rules();
    void show_bench();
    void show_result();
    /// A client over time; `day` invalid: the newest.
    void show_course(long client_id, const QDate& day = {});
    CoursePage& course() { return *course_; }
    /// Something went wrong that the technician must know; stays until the next success.
    void say_trouble(const QString& text);
    /// Something went well; gone with the next room.
    void say_note(const QString& text);

protected:
    void resizeEvent(QResizeEvent*) override;
    void closeEvent(QCloseEvent*) override;
    void dragEnterEvent(QDragEnterEvent*) override;
    void dropEvent(QDropEvent*) override; ///< a file to be kept with the visit

private:
    void start_visit(long client_id, Method method);
    /// An instrument that a client waited for is ready: on with the client.
    void back_to_who_waits(long instrument_id);
    long waited_for_ = 0;
    void go_to_next();
    void screen(long booking_id);
    void start_test(long booking_id, Method method);
    void open_visit(long visit_id);
    void show_rooms();
    QWidget* make_bar();
    void show_menu();
    void add_technician(QHBoxLayout& row);
    void add_units(QHBoxLayout& row);
    void make_rooms();
    void connect_first_steps();
    void connect_rooms();
    void connect_results();
    void connect_session();
    void connect_keys();
    void show_status();
    void say_what_is_unfinished();
    void share_bar();
    void share_foot();
    void look_at_the_clock();
    QString technician();
    void list_people();
    void open_demo();
    PracticePage* practice_ = nullptr;
    DrillRunner* runner_ = nullptr;
    WordButton* to_practice_ = nullptr;
    QShortcut* open_practice_ = nullptr;
    void show_practice_rooms();
    bool from_first_ = false; ///< the first steps wait for what is entered now
    bool closing_ = false;    ///< waits for what is not on the disk yet
    std::shared_ptr<records::Store> store_;
    work::Lab lab_;
    work::Session session_;
    work::Incoming incoming_;
    bench::Beat clock_watch_; ///< looks whether the machine's clock went ahead
    QVBoxLayout* column_;
    QStackedWidget* rooms_;
    FirstDayPage* first_;
    DayPage* day_;
    ScreeningPage* screening_;
    InstrumentsPage* instruments_;
    RulesPage* rules_;
    ClientsPage* clients_;
    BenchPage* bench_;
    QWidget* bench_room_; ///< it, or what it is scrolled in
    ResultPage* result_;
    CoursePage* course_;
    WordButton *to_first_, *to_day_, *to_clients_, *to_bench_, *to_result_, *to_course_, *to_instruments_, *to_rules_;
    QLabel *status_, *trouble_, *note_;
    QWidget *bar_, *kept_line_;
    KeptStrip* kept_;
    QLabel* technician_word_;
    WordButton* name_;
    ChoiceBox* technician_;
};

} // namespace fusain::desk
