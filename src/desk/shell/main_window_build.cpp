// SPDX-License-Identifier: GPL-3.0-or-later
// The window's frame: its bar, its rooms, and who tells whom.
#include "desk/shell/main_window.h"

#include "desk/bench/method_desk.h"
#include "desk/practice/practice_page.h"
#include "version.h"

#include <QMenu>
#include <QShortcut>

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

QWidget* MainWindow::make_bar()
{
    auto* bar = bar_ = new QWidget;
    auto* b = new QHBoxLayout(bar);
    b->setContentsMargins(20, 0, 18, 0);
    b->setSpacing(16);
    name_ = new WordButton(QStringLiteral("Fusain ▾"), 18);
    name_->set_voice(look::Voice::speaks);
    name_->setCheckable(false);
    name_->setObjectName(QStringLiteral("menu"));
    name_->setToolTip(QStringLiteral("F10"));
    connect(name_, &QAbstractButton::clicked, this, &MainWindow::show_menu);
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
    add_technician(*b);
    add_units(*b);
    return bar;
}

void MainWindow::show_menu()
{
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
}

void MainWindow::add_technician(QHBoxLayout& row)
{
    row.addStretch();
    status_ = label("small");
    status_->setWordWrap(false);
    status_->setObjectName(QStringLiteral("status"));
    row.addWidget(status_);
    row.addSpacing(6);
    technician_word_ = label("small", QStringLiteral("Technician"));
    technician_word_->setWordWrap(false);
    row.addWidget(technician_word_);
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
    connect(technician_, &QComboBox::activated, this, [this](int chosen) {
        if (chosen == technician_->count() - 1) { // somebody new
            list_people();
            if (practice_) return practice_->ask_name();
            show_instruments();
            return instruments_->show_people();
        }
        if (const auto why = store_->set_setting(QStringLiteral("technician"), technician_->currentText()))
            say_trouble(q(why->text));
    });
    row.addWidget(technician_);
}

void MainWindow::add_units(QHBoxLayout& row)
{
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
        row.addWidget(w);
    };
    row.addSpacing(2);
    for (Measure m : {Measure::mass, Measure::length, Measure::temperature}) unit(m);
    auto* night = new WordButton(QStringLiteral("night"), 14);
    night->setObjectName(QStringLiteral("night"));
    night->setShortcut(QKeySequence(QStringLiteral("Ctrl+D")));
    night->setChecked(Theme::get().night());
    connect(night, &QAbstractButton::toggled, this, [](bool on) { Theme::get().set_night(on); });
    row.addWidget(night);
}

void MainWindow::make_rooms()
{
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
}

void MainWindow::connect_first_steps()
{
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
}

/// Of those in which people are found, screened and measured.
void MainWindow::connect_rooms()
{
    const auto who_works = [this] { return technician(); };
    day_->set_technician(who_works);
    clients_->set_technician(who_works);
    screening_->set_technician(who_works);
    instruments_->set_technician(who_works);
    rules_->set_technician(who_works);
    course_->set_technician(who_works);
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
    connect(screening_, &ScreeningPage::another_day, this, [this](long client, const std::vector<Method>& methods) {
        day_->show_day(lab_.today().addDays(1));
        show_day();
        day_->book(client, methods);
    });
    connect(instruments_, &InstrumentsPage::trouble, this, &MainWindow::say_trouble);
    connect(instruments_, &InstrumentsPage::note, this, &MainWindow::say_note);
    connect(instruments_, &InstrumentsPage::measure, this, &MainWindow::start_visit);
    connect(instruments_, &InstrumentsPage::check_left, this, &MainWindow::back_to_who_waits);
}

/// Of those in which results are read.
void MainWindow::connect_results()
{
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
    connect(result_, &ResultPage::next_measurement, this, &MainWindow::go_to_next);
}

void MainWindow::connect_session()
{
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
        if (rooms_->currentWidget() == course_ && (e.is<bench::event::Finished>() || e.is<bench::event::Choice>()))
            course_->refresh();
    });
    connect(&session_, &work::Session::ended, this, [this](const Messages& said) {
        lab_.say_changed();
        for (const Message& m : said) m.code == "in_study" ? say_note(q(m.text)) : say_trouble(q(m.text));
    });
    connect(&session_, &work::Session::changed, this, &MainWindow::show_rooms);
    connect(&session_, &work::Session::live_changed, this, &MainWindow::show_status);
}

void MainWindow::show_status()
{
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
}

void MainWindow::connect_keys()
{
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
}

} // namespace fusain::desk
