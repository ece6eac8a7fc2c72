// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/main_window.h"

#include <QShortcut>

namespace fusain::desk {

MainWindow::MainWindow(std::shared_ptr<records::Store> store, const QString& port) : store_(std::move(store)), session_(store_, port)
{
    setWindowTitle(QStringLiteral("Fusain"));
    resize(1280, 800);
    setMinimumSize(960, 640);
    auto* whole = new QWidget;
    auto* column = column_ = new QVBoxLayout(whole);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);

    auto* bar = new QWidget;
    auto* b = new QHBoxLayout(bar);
    b->setContentsMargins(20, 0, 18, 0);
    b->setSpacing(16);
    auto* name = label("heading", QStringLiteral("Fusain"));
    name->setWordWrap(false);
    name->setContentsMargins(0, 10, 6, 10);
    b->addWidget(name);
    const auto room = [&](const char* words, const char* key, auto go) {
        auto* w = new WordButton(QString::fromLatin1(words), 16);
        w->setShortcut(QKeySequence(QString::fromLatin1(key)));
        w->setToolTip(QString::fromLatin1(key));
        w->setObjectName(QStringLiteral("room_") + QString::fromLatin1(words).toLower());
        connect(w, &QAbstractButton::clicked, this, go);
        b->addWidget(w);
        return w;
    };
    to_clients_ = room("Clients", "Alt+1", [this] { show_clients(); });
    to_bench_ = room("Bench", "Alt+2", [this] { show_bench(); });
    to_result_ = room("Result", "Alt+3", [this] { show_result(); });
    b->addStretch();
    status_ = label("small");
    status_->setWordWrap(false);
    status_->setObjectName(QStringLiteral("status"));
    b->addWidget(status_);
    b->addSpacing(6);
    auto* who = label("small", QStringLiteral("Technician"));
    who->setWordWrap(false);
    b->addWidget(who);
    technician_ = new QLineEdit(store_->setting(QStringLiteral("technician")));
    technician_->setObjectName(QStringLiteral("technician"));
    technician_->setPlaceholderText(QStringLiteral("your name"));
    technician_->setFixedWidth(128);
    technician_->setFocusPolicy(Qt::ClickFocus); // never catches a key that was meant for the bench
    connect(technician_, &QLineEdit::editingFinished, this, [this] { store_->set_setting(QStringLiteral("technician"), technician_->text().trimmed()); });
    b->addWidget(technician_);
    const auto unit = [&](Measure m) {
        auto* w = new WordButton(Units::get().unit(m), 14);
        w->setCheckable(false);
        w->setToolTip(QStringLiteral("Switch the unit shown. What is stored stays metric."));
        w->setObjectName(QStringLiteral("unit_%1").arg(static_cast<int>(m)));
        connect(w, &QAbstractButton::clicked, this, [m] { Units::get().toggle(m); });
        connect(&Units::get(), &Units::changed, w, [w, m] { w->setText(Units::get().unit(m)); w->updateGeometry(); });
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

    rooms_ = new QStackedWidget;
    clients_ = new ClientsPage(store_);
    bench_ = new BenchPage(session_);
    result_ = new ResultPage(session_);
    for (QWidget* w : {static_cast<QWidget*>(clients_), static_cast<QWidget*>(bench_), static_cast<QWidget*>(result_)}) rooms_->addWidget(w);
    column->addWidget(rooms_, 1);
    setCentralWidget(whole);

    connect(clients_, &ClientsPage::start_visit, this, &MainWindow::start_visit);
    connect(clients_, &ClientsPage::open_visit, this, &MainWindow::open_visit);
    connect(bench_, &BenchPage::to_result, this, &MainWindow::show_result);
    connect(bench_, &BenchPage::to_clients, this, &MainWindow::show_clients);
    connect(&session_, &Session::refused, this, [this](const Message& why) { say_trouble(q(why.text)); });
    connect(&session_, &Session::stored, this, [this] { trouble_->hide(); });
    connect(&session_, &Session::changed, this, &MainWindow::show_rooms);
    connect(&session_, &Session::live_changed, this, [this] {
        const bench::Live& l = session_.live();
        const QString words = !l.connected ? QStringLiteral("◆ instruments not heard")
            : l.lost_share > 0.02          ? QStringLiteral("◆ %1 % of the line is lost: check cable and plugs").arg(100 * l.lost_share, 0, 'f', 0)
            : l.water_temp_c               ? QStringLiteral("instruments heard · water %1").arg(Units::get().text(Measure::temperature, *l.water_temp_c, 1))
                                           : QStringLiteral("instruments heard");
        if (status_->text() != words) status_->setText(words);
    });
    const auto shortcut = [this](const char* key, auto go) { connect(new QShortcut(QKeySequence(QString::fromLatin1(key)), this), &QShortcut::activated, this, go); };
    shortcut("Ctrl+F", [this] { show_clients(); });
    shortcut("Ctrl+=", [] { Theme::get().set_zoom(Theme::get().zoom() + 0.1); });
    shortcut("Ctrl++", [] { Theme::get().set_zoom(Theme::get().zoom() + 0.1); });
    shortcut("Ctrl+-", [] { Theme::get().set_zoom(Theme::get().zoom() - 0.1); });
    show_clients();
    if (const auto open = store_->open_visit())
        if (const auto client = store_->client(open->client_id)) {
            clients_->select(client->id);
            say_trouble(QStringLiteral("A visit of %1 was not finished. Nothing accepted was lost: \"go on\" takes it up again.").arg(client->full_name()));
        }
}

void MainWindow::add_strip(QWidget* strip)
{
    column_->addWidget(hairline(false));
    column_->addWidget(strip);
}

void MainWindow::resizeEvent(QResizeEvent* e)
{
    QMainWindow::resizeEvent(e);
    status_->setVisible(width() > 1150);
}

QString MainWindow::technician()
{
    const QString name = technician_->text().trimmed();
    if (name.isEmpty()) {
        say_trouble(QStringLiteral("Write your name at the top right first: every value is kept with who took it."));
        technician_->setFocus();
    }
    return name;
}

void MainWindow::start_visit(long client_id)
{
    const QString who = technician();
    const auto client = store_->client(client_id);
    if (who.isEmpty() || !client) return;
    if (const auto why = session_.start(*client, who)) return say_trouble(q(why->text));
    trouble_->hide();
    bench_->begin();
    show_bench();
}

void MainWindow::open_visit(long visit_id)
{
    const QString who = technician();
    if (who.isEmpty()) return;
    if (const auto why = session_.resume(visit_id, who)) return say_trouble(q(why->text));
    trouble_->hide();
    if (session_.visit().finished || session_.visit().stopped()) {
        show_result();
    } else {
        bench_->begin();
        show_bench();
    }
}

void MainWindow::show_rooms()
{
    const bench::Visit& v = session_.visit();
    to_bench_->setVisible(session_.is_open() && !v.finished && !v.stopped());
    to_result_->setVisible(session_.is_open() && (v.finished || bool(v.result())));
    to_clients_->setChecked(rooms_->currentWidget() == clients_);
    to_bench_->setChecked(rooms_->currentWidget() == bench_);
    to_result_->setChecked(rooms_->currentWidget() == result_);
}

void MainWindow::show_clients()
{
    rooms_->setCurrentWidget(clients_);
    clients_->refresh();
    clients_->focus_search();
    show_rooms();
}

void MainWindow::show_bench()
{
    if (!session_.is_open()) return show_clients();
    rooms_->setCurrentWidget(bench_);
    bench_->show_step(bench_->step());
    show_rooms();
}

void MainWindow::show_result()
{
    if (!session_.is_open()) return show_clients();
    rooms_->setCurrentWidget(result_);
    result_->refresh();
    result_->setFocus(Qt::OtherFocusReason);
    show_rooms();
}

void MainWindow::say_trouble(const QString& text)
{
    trouble_->setText(QStringLiteral("◆ ") + text);
    trouble_->show();
}

} // namespace fusain::desk
