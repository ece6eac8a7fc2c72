// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/shell/main_window.h"

#include "desk/bench/method_desk.h"
#include "desk/precision/study_page.h"
#include "desk/practice/practice_page.h"
#include "work/gate.h"
#include "version.h"
#include "work/lines.h"

#include <QApplication>
#include <QMenu>
#include <QShortcut>
#include <QTimer>

#include <algorithm>

namespace fusain::desk {

namespace {

/// The first line that is set up and does not speak; null: all do.
const bench::LineState* silent_line(const bench::Live& l)
{
    const auto at = std::find_if(l.lines.begin(), l.lines.end(), [](const auto& line) { return !line.connected; });
    return at == l.lines.end() ? nullptr : &*at;
}

/// "◆ Tank: no bytes since 08:12"
QString silence_words(const bench::LineState& line, const QDateTime& now)
{
    const QString what =
        line.strange ? QStringLiteral("bytes come that are not understood")
        : line.silent_s
            ? QStringLiteral("no bytes since %1")
                  .arg(now.addMSecs(-static_cast<qint64>(1000 * *line.silent_s)).toString(QStringLiteral("HH:mm")))
            : QStringLiteral("nothing heard yet");
    return QStringLiteral("◆ %1: %2").arg(q(line.title), what);
}

} // namespace

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

    auto* bar = bar_ = new QWidget;
    auto* b = new QHBoxLayout(bar);
    b->setContentsMargins(20, 0, 18, 0);
    b->setSpacing(16);
    name_ = new WordButton(QStringLiteral("Fusain ▾"), 18);
    name_->set_voice(look::Voice::speaks);
    name_->setCheckable(false);
    name_->setObjectName(QStringLiteral("menu"));
    name_->setToolTip(QStringLiteral("F10"));
    connect(name_, &QAbstractButton::clicked, this, [this] {
        QMenu menu;
        if (!practice_)
            connect(menu.addAction(QStringLiteral("First steps")), &QAction::triggered, this, &MainWindow::show_first);
        if (!practice_ && store_->setting(QStringLiteral("demo")).isEmpty())
            connect(menu.addAction(QStringLiteral("Open the demo in a window of its own")), &QAction::triggered, this,
                &MainWindow::open_demo);
        if (!practice_)
            connect(menu.addAction(QStringLiteral("Practise in a window of its own (F8)")), &QAction::triggered, this,
                &MainWindow::open_practice);
        menu.addSeparator();
        menu.addAction(QStringLiteral("Fusain " FUSAIN_VERSION " · %1 in %2")
                           .arg(practice_ ? QStringLiteral("practice") : QStringLiteral("lab"), lab_.folder()))
            ->setEnabled(false);
        menu.exec(name_->mapToGlobal(name_->rect().bottomLeft()));
    });
    b->addWidget(name_);
    const auto room = [&](const char* words, const char* key, auto go) {
        auto* w = new WordButton(QString::fromLatin1(words), 16);
        w->setShortcut(QKeySequence(QString::fromLatin1(key)));
        w->setToolTip(QString::fromLatin1(key));
        w->setObjectName(QStringLiteral("room_") + QString::fromLatin1(words).toLower());
        connect(w, &QAbstractButton::clicked, this, go);
        b->addWidget(w);
        return w;
    };
    to_first_ = room("First steps", "Alt+0", [this] { show_first(); });
    to_day_ = room("Day", "Alt+1", [this] { show_day(); });
    to_clients_ = room("Clients", "Alt+2", [this] { show_clients(); });
    to_bench_ = room("Bench", "Alt+3", [this] { show_bench(); });
    to_result_ = room("Result", "Alt+4", [this] { show_result(); });
    to_course_ = room("Course", "Alt+7", [this] {
        const long client = rooms_->currentWidget() == clients_ && clients_->shown() ? clients_->shown()
                            : course_->is_open()                                     ? course_->client()
                            : session_.is_open() ? session_.visit().subject.client_id
                                                 : clients_->shown();
        if (client) show_course(client);
    });
    to_instruments_ = room("Instruments", "Alt+5", [this] { show_instruments(); });
    to_rules_ = room("Rules", "Alt+6", [this] { show_rules(); });
    b->addStretch();
    status_ = label("small");
    status_->setWordWrap(false);
    status_->setObjectName(QStringLiteral("status"));
    b->addWidget(status_);
    b->addSpacing(6);
    technician_word_ = label("small", QStringLiteral("Technician"));
    technician_word_->setWordWrap(false);
    b->addWidget(technician_word_);
    technician_ = new ChoiceBox;
    technician_->setObjectName(QStringLiteral("technician"));
    technician_->setPlaceholderText(QStringLiteral("your name"));
    technician_->setToolTip(QStringLiteral("Technician: who measures. Stands in every record."));
    with_theme(this, [this] {
        technician_->setFixedWidth(Theme::get().px(128));
        share_bar();
    });
    technician_->setFocusPolicy(Qt::ClickFocus); // never catches a key that was meant for the bench
    list_people();
    connect(&lab_, &work::Lab::changed, this, &MainWindow::list_people);
    connect(technician_, &QComboBox::activated, this, [this](int row) {
        if (row == technician_->count() - 1) { // somebody new
            list_people();
            if (practice_) return practice_->ask_name();
            show_instruments();
            return instruments_->show_people();
        }
        if (const auto why = store_->set_setting(QStringLiteral("technician"), technician_->currentText()))
            say_trouble(q(why->text));
    });
    b->addWidget(technician_);
    const auto unit = [&](Measure m) {
        auto* w = new WordButton(Units::get().chosen(m), 14);
        w->setCheckable(false);
        w->setToolTip(QStringLiteral("Switch the unit shown. What is stored stays metric."));
        w->setObjectName(QStringLiteral("unit_%1").arg(static_cast<int>(m)));
        connect(w, &QAbstractButton::clicked, this, [this, m] {
            Units::get().toggle(m);
            if (const auto why = store_->set_setting(QStringLiteral("units"), Units::get().words()))
                say_trouble(q(why->text));
        });
        connect(&Units::get(), &Units::changed, w, [w, m] {
            w->setText(Units::get().chosen(m));
            w->updateGeometry();
        });
        b->addWidget(w);
    };
    b->addSpacing(2);
    for (Measure m : {Measure::mass, Measure::length, Measure::temperature}) unit(m);
    auto* night = new WordButton(QStringLiteral("night"), 14);
    night->setObjectName(QStringLiteral("night"));
    night->setShortcut(QKeySequence(QStringLiteral("Ctrl+D")));
    night->setChecked(Theme::get().night());
    connect(night, &QAbstractButton::toggled, this, [](bool on) { Theme::get().set_night(on); });
    b->addWidget(night);
    column->addWidget(bar);
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

    rooms_ = new Pages;
    first_ = new FirstDayPage(lab_);
    day_ = new DayPage(lab_, incoming_);
    clients_ = new ClientsPage(lab_);
    screening_ = new ScreeningPage(lab_);
    instruments_ = new InstrumentsPage(lab_, session_);
    rules_ = new RulesPage(lab_, incoming_);
    bench_room_ = bench_ = new BenchPage(session_, incoming_);
    result_ = new ResultPage(lab_, session_);
    course_ = new CoursePage(lab_);
    for (QWidget* w : {static_cast<QWidget*>(first_), static_cast<QWidget*>(day_), static_cast<QWidget*>(clients_),
             static_cast<QWidget*>(screening_), static_cast<QWidget*>(instruments_), static_cast<QWidget*>(rules_),
             static_cast<QWidget*>(bench_), static_cast<QWidget*>(result_), static_cast<QWidget*>(course_)})
        rooms_->addWidget(w);
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

    const auto who_works = [this] { return technician(); };
    day_->set_technician(who_works);
    clients_->set_technician(who_works);
    screening_->set_technician(who_works);
    instruments_->set_technician(who_works);
    rules_->set_technician(who_works);
    course_->set_technician(who_works);
    connect(first_, &FirstDayPage::to_people, this, [this] {
        from_first_ = true;
        show_instruments();
        instruments_->show_people();
    });
    connect(first_, &FirstDayPage::to_instruments, this, [this] {
        from_first_ = true;
        show_instruments();
        instruments_->add_one();
    });
    connect(first_, &FirstDayPage::to_lines, this, [this] {
        from_first_ = true;
        show_instruments();
        instruments_->connect_one();
    });
    connect(first_, &FirstDayPage::to_client, this, [this] {
        show_clients();
        clients_->add();
    });
    connect(first_, &FirstDayPage::to_import, this, [this] {
        show_clients();
        clients_->import();
    });
    connect(first_, &FirstDayPage::to_demo, this, &MainWindow::open_demo);
    connect(instruments_, &InstrumentsPage::kept, this, [this] {
        incoming_.read_again();
        if (std::exchange(from_first_, false) && first_->is_needed()) show_first();
    });
    connect(day_, &DayPage::screen, this, &MainWindow::screen);
    connect(day_, &DayPage::visit, this, &MainWindow::open_visit);
    connect(day_, &DayPage::keep_with, this, [this](long visit, const QString& path) {
        open_visit(visit);
        if (session_.visit_id() == visit) kept_->bring({path});
    });
    connect(day_, &DayPage::trouble, this, &MainWindow::say_trouble);
    connect(day_, &DayPage::note, this, &MainWindow::say_note);
    connect(rooms_, &QStackedWidget::currentChanged, note_, &QWidget::hide);
    connect(clients_, &ClientsPage::note, this, &MainWindow::say_note);
    connect(clients_, &ClientsPage::book, this, [this](long id) {
        show_day();
        day_->book(id);
    });
    connect(screening_, &ScreeningPage::trouble, this, &MainWindow::say_trouble);
    connect(screening_, &ScreeningPage::left, this, &MainWindow::show_day);
    connect(screening_, &ScreeningPage::start_test, this, &MainWindow::start_test);
    connect(screening_, &ScreeningPage::another_day, this,
        [this](long client, const std::vector<protocol::Method>& methods) {
            day_->show_day(lab_.today().addDays(1));
            show_day();
            day_->book(client, methods);
        });
    connect(instruments_, &InstrumentsPage::trouble, this, &MainWindow::say_trouble);
    connect(instruments_, &InstrumentsPage::note, this, &MainWindow::say_note);
    connect(instruments_, &InstrumentsPage::measure, this, &MainWindow::start_visit);
    connect(instruments_, &InstrumentsPage::check_left, this, &MainWindow::back_to_who_waits);
    connect(rules_, &RulesPage::trouble, this, &MainWindow::say_trouble);
    connect(&lab_, &work::Lab::changed, this, &MainWindow::show_rooms);
    connect(clients_, &ClientsPage::start_visit, this, &MainWindow::start_visit);
    connect(clients_, &ClientsPage::open_visit, this, &MainWindow::open_visit);
    connect(bench_, &BenchPage::to_result, this, &MainWindow::show_result);
    connect(bench_, &BenchPage::to_clients, this, &MainWindow::show_clients);
    connect(clients_, &ClientsPage::course, this, [this](long id) { show_course(id); });
    connect(result_, &ResultPage::course, this, [this] {
        show_course(session_.visit().subject.client_id, QDate::fromString(q(session_.visit().day()), Qt::ISODate));
    });
    connect(course_, &CoursePage::trouble, this, &MainWindow::say_trouble);
    connect(course_, &CoursePage::note, this, &MainWindow::say_note);
    connect(course_, &CoursePage::book, this, [this](long id, const QDate& from) {
        day_->show_day(std::max(from, lab_.today().addDays(1)));
        show_day();
        day_->book(id);
    });
    connect(result_, &ResultPage::reopened, this, &MainWindow::show_bench);
    connect(result_, &ResultPage::next_measurement, this, [this] {
        const auto method = next_method();
        const long study = method ? 0 : work::study_of(lab_, session_.visit_id());
        const auto client = method || study ? std::nullopt : next_client();
        if (!method && !study && !client) return;
        const long booking = method ? session_.visit().booking_id : client ? client->id : 0;
        const auto go = [this, booking, method, study] {
            method ? start_test(booking, *method) : study ? show_study(study) : screen(booking);
        };
        if (session_.visit().finished || !session_.visit().result()) return go();
        after_this_ = go; // once what was measured is on the disk
        session_.act("finished");
    });
    connect(&session_, &work::Session::taken_over, this,
        [this] { say_note(QStringLiteral("The other window has left this visit: it goes on here.")); });
    connect(&session_, &work::Session::refused, this, [this](const Message& why) { say_trouble(q(why.text)); });
    connect(&session_, &work::Session::disk_lags, this, [this, said = QString()](const QString& words) mutable {
        if (!words.isEmpty()) {
            say_trouble(words);
            said = trouble_->text();
        } else if (trouble_->text() == said) {
            trouble_->hide();
        }
    });
    connect(&session_, &work::Session::stored, this, [this](const bench::Event& e) {
        trouble_->hide();
        // the booking is over when its last part is; only what has a result counts as tested
        if ((e.kind == "finished" || e.kind == "given_up" || (e.kind == "stops" && session_.visit().stopped())) &&
            session_.visit().booking_id && !next_method()) {
            if (const auto closed = lab_.diary->close(session_.visit().booking_id, {}); !closed)
                say_trouble(q(closed.messages().front().text));
            lab_.say_changed();
        }
        if (rooms_->currentWidget() == course_ && (e.kind == "finished" || e.kind == "choice")) course_->refresh();
        if (e.kind == "finished")
            if (const auto joined = work::join_study(lab_, session_.visit_id())) {
                if (!*joined)
                    say_trouble(QStringLiteral("It does not count as a repeat of the study: %1")
                                    .arg(q(joined->messages().front().text)));
                else
                    say_note(QStringLiteral("It is in the study now."));
            }
        if (e.kind == "finished" && after_this_) {
            QMetaObject::invokeMethod(this, std::exchange(after_this_, nullptr), Qt::QueuedConnection);
        }
    });
    connect(&session_, &work::Session::changed, this, &MainWindow::show_rooms);
    connect(&session_, &work::Session::live_changed, this, [this] {
        const bench::Live& l = session_.live();
        const bench::LineState* silent = silent_line(l);
        const QString words =
            !l.has_lines ? QStringLiteral("no instrument lines: values are typed")
            : !l.connected || (silent && !session_.is_open())
                ? silent ? silence_words(*silent, lab_.now()) : QStringLiteral("◆ instruments not heard")
            : l.lost_share > 0.02
                ? QStringLiteral("◆ %1 % of the line is lost: check cable and plugs").arg(100 * l.lost_share, 0, 'f', 0)
            : session_.is_open() ? desk_of(session_.visit()).status(l)
            : l.water_temp_c     ? QStringLiteral("instruments heard · water %1")
                                   .arg(Units::get().text(Measure::temperature, *l.water_temp_c, 1))
                             : QStringLiteral("instruments heard");
        if (status_->text() != words) status_->setText(words);
    });
    const auto shortcut = [this](const char* key, auto go) {
        connect(new QShortcut(QKeySequence(QString::fromLatin1(key)), this), &QShortcut::activated, this, go);
    };
    shortcut("Ctrl+F", [this] { show_clients(); });
    open_practice_ = new QShortcut(QKeySequence(Qt::Key_F8), this);
    connect(open_practice_, &QShortcut::activated, this, &MainWindow::open_practice);
    shortcut("F9", [this] { kept_->choose(); });
    shortcut("F10", [this] { name_->click(); });
    shortcut("Ctrl+=", [] { Theme::get().set_zoom(Theme::get().zoom() + 0.1); });
    shortcut("Ctrl++", [] { Theme::get().set_zoom(Theme::get().zoom() + 0.1); });
    shortcut("Ctrl+-", [] { Theme::get().set_zoom(Theme::get().zoom() - 0.1); });
    if (first_->is_needed())
        show_first();
    else
        show_day();
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

void MainWindow::start_visit(long client_id, protocol::Method method)
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

void MainWindow::start_test(long booking_id, protocol::Method method)
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

std::optional<protocol::Method> MainWindow::next_method()
{
    const long booking = session_.visit().booking_id;
    return booking ? screening_->arrival().next_of(booking) : std::nullopt;
}

/// Who comes next on the instrument of the visit, by the day's list: a crew is measured one after the other.
std::optional<records::Booking> MainWindow::next_client()
{
    const std::string& instrument = session_.visit().instrument;
    if (session_.visit().day() != lab_.today().toString(Qt::ISODate).toStdString()) return std::nullopt;
    for (const records::Booking& b : lab_.diary->day(lab_.today())) // by time
        if (b.id != session_.visit().booking_id && b.client_id != session_.visit().subject.client_id &&
            (b.state == records::BookingState::booked || b.state == records::BookingState::arrived) &&
            b.parts.front().instrument == instrument && b.visits.front() == 0)
            return b;
    return std::nullopt;
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
    const auto next = next_method();
    const bool study = !next && work::study_of(lab_, session_.visit_id());
    const auto client = next || study ? std::nullopt : next_client();
    result_->offer_next(next     ? QStringLiteral("next: %1").arg(QString::fromLatin1(protocol::title(*next)))
                        : study  ? QStringLiteral("on with the study")
                        : client ? QStringLiteral("next client: %1").arg(lab_.name_of(client->client_id, true))
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
