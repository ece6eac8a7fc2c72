// SPDX-License-Identifier: GPL-3.0-or-later
// The window's frame: what its bar and foot show, who works, files that are dropped, how it closes.
#include "desk/shell/main_window.h"
#include "desk/stage/stand_in_processes.h"

#include <QApplication>
#include <QCloseEvent>
#include <QDropEvent>
#include <QMessageBox>
#include <QMimeData>
#include <QProcess>
#include <QPushButton>
#include <QTimer>

namespace fusain::desk {

void MainWindow::add_strip(QWidget* strip)
{
    column_->addWidget(hairline(false));
    column_->addWidget(strip);
}

void MainWindow::resizeEvent(QResizeEvent* e)
{
    QMainWindow::resizeEvent(e);
    status_->setVisible(width() > Theme::get().px(1150));
    share_bar();
    share_foot();
}

QString MainWindow::technician()
{
    const QString name = technician_->currentText().trimmed();
    if (name.isEmpty()) {
        say_trouble(QStringLiteral("Choose your name at the top right first: every value is kept with who took it."));
        technician_->setFocus();
    }
    return name;
}

/// Who works here now; and whoever measured here last, though the list does not know them.
void MainWindow::list_people()
{
    const QString now = store_->setting(QStringLiteral("technician"));
    const QSignalBlocker quiet(technician_);
    technician_->clear();
    for (const auto& p : lab_.diary->staff())
        if (p.active) technician_->addItem(p.name);
    if (!now.isEmpty() && technician_->findText(now) < 0) technician_->addItem(now);
    // the only one there is need not be chosen
    if (now.isEmpty() && technician_->count() == 1)
        if (const auto why = store_->set_setting(QStringLiteral("technician"), technician_->itemText(0)))
            say_trouble(q(why->text));
    const int row = technician_->findText(store_->setting(QStringLiteral("technician")));
    technician_->addItem(QStringLiteral("somebody new …"));
    technician_->setCurrentIndex(row);
}

/// A process of its own, on a lab of its own.
void MainWindow::open_demo()
{
    if (QProcess::startDetached(program_beside(QStringLiteral("fusain-demo")), {}))
        say_note(
            QStringLiteral("The demo opens in a window of its own; the first time it takes a moment to make its lab."));
    else
        say_trouble(QStringLiteral("The demo could not be opened."));
}

void MainWindow::share_bar()
{
    // where the bar is full, the name alone says whose it is; then the program's own name goes, then the room between
    technician_word_->show();
    name_->show();
    bar_->layout()->setSpacing(16);
    technician_->setFixedWidth(Theme::get().px(128));
    const auto fits = [this] { return bar_->sizeHint().width() <= width(); };
    technician_word_->setVisible(fits());
    if (!fits()) technician_->setFixedWidth(Theme::get().px(92));
    name_->setVisible(fits());
    if (!fits()) bar_->layout()->setSpacing(5);
    if (!fits()) technician_->setFixedWidth(Theme::get().px(70));
}

/// What is kept with the visit stands under it; at the bench only where there is something, and its large figures leave
/// the room.
void MainWindow::share_foot()
{
    const bool at_bench = rooms_->currentWidget() == bench_room_, roomy = height() >= Theme::get().px(780);
    const bool shown = session_.is_open() && !practice_ &&
                       ((at_bench && roomy && kept_->holds_any()) || rooms_->currentWidget() == result_);
    for (QWidget* w : {kept_line_, static_cast<QWidget*>(kept_)}) w->setVisible(shown);
}

void MainWindow::dragEnterEvent(QDragEnterEvent* e)
{
    if (e->mimeData()->hasUrls()) e->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* e)
{
    QStringList paths;
    for (const QUrl& url : e->mimeData()->urls())
        if (url.isLocalFile()) paths << url.toLocalFile();
    if (session_.is_open() && (rooms_->currentWidget() == bench_room_ || rooms_->currentWidget() == result_))
        kept_->bring(paths);
    else
        say_trouble(QStringLiteral("A file is kept with a visit: open the visit first, then drop it again."));
    e->acceptProposedAction();
}

void MainWindow::closeEvent(QCloseEvent* e)
{
    if (!session_.has_unwritten()) return QMainWindow::closeEvent(e);
    e->ignore();
    if (closing_) return;
    closing_ = true;
    auto* ask = new QMessageBox(QMessageBox::Warning, QStringLiteral("Fusain"),
        QStringLiteral("Something that was just accepted is not on the disk yet. It is tried again every second."),
        QMessageBox::NoButton, this);
    ask->setObjectName(QStringLiteral("unwritten"));
    ask->setAttribute(Qt::WA_DeleteOnClose);
    ask->addButton(QStringLiteral("Wait, then quit"), QMessageBox::AcceptRole)
        ->setObjectName(QStringLiteral("wait_and_quit"));
    auto* lose = ask->addButton(QStringLiteral("Quit and lose it"), QMessageBox::DestructiveRole);
    lose->setObjectName(QStringLiteral("lose_and_quit"));
    connect(lose, &QAbstractButton::clicked, qApp, [] { QCoreApplication::exit(0); });
    ask->open();
    auto* again = new QTimer(this);
    connect(again, &QTimer::timeout, this, [this, again] {
        if (session_.has_unwritten()) return;
        again->deleteLater();
        closing_ = false;
        close();
    });
    again->start(250);
}

/// Asked once, and no key answers it by the way.
void MainWindow::look_at_the_clock()
{
    const auto jump = work::clock_jump();
    if (!jump || findChild<QMessageBox*>(QStringLiteral("clock_jump"))) return;
    const QTimeZone zone = lab_.diary->zone();
    const auto words = [&zone](const QDateTime& at) {
        const QDateTime here = at.toTimeZone(zone);
        return records::date_words(here.date()) + here.toString(QStringLiteral(", HH:mm"));
    };
    auto* ask = new QMessageBox(QMessageBox::Question, QStringLiteral("Fusain"),
        QStringLiteral(
            "The computer’s clock says %1. By the time that has passed since it was last looked at it is %2.\n\n"
            "Which is right? Until this is answered the lab’s clock counts on from %2, and what is entered "
            "is kept with that time.")
            .arg(words(jump->to), words(jump->from)),
        QMessageBox::NoButton, this);
    ask->setObjectName(QStringLiteral("clock_jump"));
    ask->setAttribute(Qt::WA_DeleteOnClose);
    const auto offer = [&](const char* name, const QDateTime& at, bool machine_is_right) {
        QPushButton* b = ask->addButton(QStringLiteral("It is ") + words(at), QMessageBox::AcceptRole);
        b->setObjectName(QString::fromLatin1(name));
        b->setAutoDefault(false);
        connect(b, &QAbstractButton::clicked, this, [this, machine_is_right] {
            work::settle_clock_jump(machine_is_right);
            lab_.say_changed();
        });
    };
    offer("clock_counts_on", jump->from, false);
    offer("clock_is_right", jump->to, true);
    ask->open();
    for (auto* b : ask->findChildren<QPushButton*>()) b->setDefault(false); // being shown made the first one it
    ask->setFocus();
}

} // namespace fusain::desk
