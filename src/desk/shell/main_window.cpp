// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/shell/main_window.h"

#include "desk/precision/study_page.h"
#include "desk/practice/practice_page.h"
#include "work/visit/gate.h"
#include "work/visit/visit_end.h"
#include "work/lab/lines.h"

#include <QApplication>

#include <algorithm>

namespace fusain::desk {

MainWindow::MainWindow(std::shared_ptr<records::Store> store, const QStringList& ports, work::Seams seams)
    : store_(std::move(store)), lab_(store_), session_(store_, ports, std::move(seams)),
      incoming_(lab_, session_.clock()), clock_watch_(session_.clock(), this)
{
    Units::get().restore(store_->setting(QStringLiteral("units")));
    session_.set_lines(work::kept_lines(*store_).lines);
    setWindowTitle(QStringLiteral("Fusain"));
    resize(1280, 800);
    setMinimumSize(960, 640);
    connect(&clock_watch_, &bench::Beat::due, this, &MainWindow::look_at_the_clock);
    clock_watch_.start(2000);
    auto* whole = new QWidget;
    auto* column = column_ = new QVBoxLayout(whole);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);

    column->addWidget(make_bar());
    column->addWidget(hairline(false));
    trouble_ = label("trouble");
    trouble_->setObjectName(QStringLiteral("trouble"));
    trouble_->setContentsMargins(22, 6, 22, 6);
    trouble_->hide();
    column->addWidget(trouble_);
    note_ = label("text");
    note_->setObjectName(QStringLiteral("note"));
    note_->setContentsMargins(22, 6, 22, 6);
    note_->hide();
    column->addWidget(note_);

    make_rooms();
    column->addWidget(rooms_, 1);
    kept_line_ = hairline(false);
    kept_ = new KeptStrip(session_);
    column->addWidget(kept_line_);
    column->addWidget(kept_);
    setCentralWidget(whole);
    setAcceptDrops(true);
    connect(kept_, &KeptStrip::trouble, this, &MainWindow::say_trouble);
    connect(kept_, &KeptStrip::note, this, &MainWindow::say_note);
    connect(kept_, &KeptStrip::refreshed, this, &MainWindow::share_foot);

    connect_first_steps();
    connect_rooms();
    connect_results();
    connect_session();
    connect_keys();
    if (first_->is_needed())
        show_first();
    else
        show_day();
    say_what_is_unfinished();
}

void MainWindow::say_what_is_unfinished()
{
    const auto open = work::is_practice(*store_) ? std::nullopt : store_->open_visit();
    if (open && !records::held_elsewhere(store_->database(), open->id, QString()))
        if (const auto client = store_->client(open->client_id)) {
            show_clients();
            clients_->select(client->id);
            say_trouble(QStringLiteral(
                "A visit of %1 was not finished. Nothing accepted was lost: \"go on\" takes it up again.")
                            .arg(client->full_name()));
        }
}

void MainWindow::start_visit(long client_id, Method method)
{
    const QString who = technician();
    if (who.isEmpty()) return;
    const auto booking = work::booking_for(lab_, client_id, method, who);
    if (!booking) {
        if (booking.messages().front().code == "no_instrument") show_instruments();
        return say_trouble(q(booking.messages().front().text));
    }
    trouble_->hide();
    screen(*booking);
    if (!booking.messages().empty()) say_trouble(q(booking.messages().front().text));
}

void MainWindow::screen(long booking_id)
{
    if (technician().isEmpty()) return;
    if (const auto why = screening_->begin(booking_id)) return say_trouble(q(why->text));
    rooms_->setCurrentWidget(screening_);
    screening_->setFocus(Qt::OtherFocusReason);
    show_rooms();
}

void MainWindow::start_test(long booking_id, Method method)
{
    const QString who = technician();
    if (who.isEmpty()) return;
    const work::Gate gate = work::begin_test(lab_, session_, screening_->arrival(), booking_id, method, who);
    if (gate.begun) return open_visit(gate.begun);
    waited_for_ = gate.instrument;
    if (gate.instrument) {
        show_instruments();
        instruments_->select(gate.instrument);
    }
    if (gate.why_not) return say_trouble(q(gate.why_not->text));
    trouble_->hide();
    if (gate.beside) say_trouble(q(gate.beside->text));
    bench_->begin();
    show_bench();
}

void MainWindow::back_to_who_waits(long instrument_id)
{
    const auto i = lab_.diary->instrument(instrument_id);
    if (!i || instrument_id != waited_for_ || !lab_.checks.ready(*i, lab_.now()).ready) return;
    waited_for_ = 0;
    trouble_->hide();
    if (!screening_->arrival().is_open()) return;
    rooms_->setCurrentWidget(screening_);
    screening_->setFocus(Qt::OtherFocusReason);
    show_rooms();
}

/// Once what was measured is on the disk.
void MainWindow::go_to_next()
{
    const work::Next next = work::after_visit(lab_, session_.visit(), session_.visit_id());
    if (!next) return;
    session_.finish([this, next, booking = session_.visit().booking_id] {
        if (next.study) return show_study(next.study);
        if (next.client) return screen(next.client->id);
        const work::Arrival& at_hand = screening_->arrival();
        const bool screened_last = at_hand.is_open() && at_hand.booking().id == booking;
        screened_last ? start_test(booking, *next.method) : screen(booking); // the screening that was kept is taken up
    });
}

void MainWindow::open_visit(long visit_id)
{
    const QString who = technician();
    if (who.isEmpty()) return;
    if (const auto why = session_.resume(visit_id, who)) return say_trouble(q(why->text));
    if (!session_.held()) trouble_->hide();
    if (session_.visit().ended()) {
        show_result();
    } else {
        bench_->begin();
        show_bench();
    }
}

void MainWindow::show_rooms()
{
    const bench::Visit& v = session_.visit();
    if (practice_) return show_practice_rooms();
    to_bench_->setVisible(session_.is_open() && !v.ended());
    to_result_->setVisible(session_.is_open() && (v.finished || bool(v.result())));
    to_first_->setVisible(first_->is_needed());
    to_first_->setChecked(rooms_->currentWidget() == first_);
    to_day_->setVisible(!lab_.diary->instruments().empty());
    to_day_->setChecked(rooms_->currentWidget() == day_ || rooms_->currentWidget() == screening_);
    to_instruments_->setChecked(rooms_->currentWidget() == instruments_);
    to_rules_->setChecked(rooms_->currentWidget() == rules_);
    to_clients_->setChecked(rooms_->currentWidget() == clients_);
    to_course_->setChecked(rooms_->currentWidget() == course_);
    to_course_->setVisible(course_->is_open() || session_.is_open() || clients_->shown());
    to_bench_->setChecked(rooms_->currentWidget() == bench_room_);
    to_result_->setChecked(rooms_->currentWidget() == result_);
    share_bar();
    share_foot();
}

void MainWindow::show_first()
{
    rooms_->setCurrentWidget(first_);
    first_->refresh();
    first_->setFocus(Qt::OtherFocusReason);
    show_rooms();
}

void MainWindow::show_day()
{
    if (lab_.diary->instruments().empty()) return show_first();
    rooms_->setCurrentWidget(day_);
    day_->refresh();
    day_->setFocus(Qt::OtherFocusReason);
    show_rooms();
}

void MainWindow::show_instruments()
{
    rooms_->setCurrentWidget(instruments_);
    instruments_->refresh();
    instruments_->setFocus(Qt::OtherFocusReason);
    show_rooms();
}

void MainWindow::show_study(long id)
{
    const auto study = work::study(lab_, id);
    const auto instrument = study ? lab_.instrument(study->design.instrument.toStdString()) : std::nullopt;
    if (!instrument) return;
    show_instruments();
    instruments_->select(instrument->id);
    instruments_->show_studies();
    instruments_->studies().show_study(id);
}

void MainWindow::show_rules()
{
    rooms_->setCurrentWidget(rules_);
    rules_->refresh();
    show_rooms();
}

void MainWindow::show_clients()
{
    if (practice_) return show_practice();
    rooms_->setCurrentWidget(clients_);
    clients_->refresh();
    clients_->focus_search();
    show_rooms();
}

void MainWindow::show_bench()
{
    if (!session_.is_open()) return show_clients();
    rooms_->setCurrentWidget(bench_room_);
    bench_->show_step(bench_->step());
    show_rooms();
}

void MainWindow::show_result()
{
    if (!session_.is_open()) return show_clients();
    rooms_->setCurrentWidget(result_);
    const work::Next next = work::after_visit(lab_, session_.visit(), session_.visit_id());
    result_->offer_next(next.method  ? QStringLiteral("next: %1").arg(QString::fromLatin1((*next.method)->title))
                        : next.study ? QStringLiteral("on with the study")
                        : next.client
                            ? QStringLiteral("next client: %1").arg(lab_.name_of(next.client->client_id, true))
                            : QString());
    result_->enter();
    result_->setFocus(Qt::OtherFocusReason);
    show_rooms();
}

void MainWindow::show_course(long client_id, const QDate& day)
{
    rooms_->setCurrentWidget(course_);
    course_->open(client_id, day);
    show_rooms();
}

void MainWindow::say_trouble(const QString& text)
{
    trouble_->setText(QStringLiteral("◆ ") + text);
    trouble_->show();
    note_->hide();
}

void MainWindow::say_note(const QString& text)
{
    trouble_->hide();
    note_->setText(text);
    note_->show();
}

} // namespace fusain::desk
