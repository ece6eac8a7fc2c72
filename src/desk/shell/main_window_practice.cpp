// SPDX-License-Identifier: GPL-3.0-or-later
// The window as a practice bench: the same bench, other rooms, marked everywhere.
#include "desk/practice/practice_page.h"
#include "desk/shell/main_window.h"
#include "desk/stage/stand_in_processes.h"

#include <QCoreApplication>
#include <QPainter>
#include <QProcess>

namespace fusain::desk {
namespace {

/// A hatched band with words: nobody takes this window for the lab's.
class PracticeBand : public QWidget {
public:
    PracticeBand()
    {
        setObjectName(QStringLiteral("practice_band"));
        with_theme(this, [this] { setFixedHeight(Theme::get().px(26)); });
    }

protected:
    void paintEvent(QPaintEvent*) override
    {
        QPainter p(this);
        const auto& c = Theme::get().palette();
        p.fillRect(rect(), c.sheet);
        p.fillRect(rect(), QBrush(c.mineral, Qt::BDiagPattern));
        const QFont font = look::font(look::Voice::text, Theme::get().px(13), true);
        const QString words = QStringLiteral("PRACTICE   ·   invented bodies; nothing here reaches the lab's records");
        const int w = QFontMetrics(font).horizontalAdvance(words) + Theme::get().px(24);
        const QRect room((width() - w) / 2, 0, w, height());
        p.fillRect(room, c.sheet);
        p.setFont(font);
        p.setPen(c.ink);
        p.drawText(room, Qt::AlignCenter, words);
    }
};

} // namespace

void MainWindow::practise(StandIns& room)
{
    setWindowTitle(QStringLiteral("Fusain · practice"));
    open_practice_->setEnabled(false);
    column_->insertWidget(0, new PracticeBand);
    auto* strip = new DrillStrip;
    runner_ = new DrillRunner(lab_, session_, room, *strip, this);
    practice_ = new PracticePage(lab_, *runner_);
    practice_->set_technician([this] { return technician_->currentText().trimmed(); });
    rooms_->addWidget(practice_);
    rooms_->removeWidget(bench_);
    rooms_->addWidget(bench_room_ = new Scroll(bench_)); // what is asked takes some of its height
    with_theme(bench_, [this] { bench_->setMinimumHeight(Theme::get().zoom() > 1 ? Theme::get().px(475) : 0); });
    column_->addWidget(strip);
    to_practice_ = new WordButton(QStringLiteral("Practice"), 16);
    to_practice_->setObjectName(QStringLiteral("room_practice"));
    to_practice_->setShortcut(QKeySequence(QStringLiteral("Alt+1")));
    static_cast<QHBoxLayout*>(bar_->layout())->insertWidget(1, to_practice_);
    connect(to_practice_, &QAbstractButton::clicked, this, &MainWindow::show_practice);
    for (WordButton* w : {to_first_, to_day_, to_clients_, to_course_, to_instruments_, to_rules_}) {
        w->hide();
        w->setShortcut({});
    }
    connect(practice_, &PracticePage::trouble, this, &MainWindow::say_trouble);
    connect(practice_, &PracticePage::note, this, &MainWindow::say_note);
    connect(practice_, &PracticePage::named, this, [this](const QString& name) {
        if (const auto why = store_->set_setting(QStringLiteral("technician"), name)) say_trouble(q(why->text));
    });
    connect(technician_, &QComboBox::activated, practice_, &PracticePage::refresh);
    connect(runner_, &DrillRunner::trouble, this, &MainWindow::say_trouble);
    connect(runner_, &DrillRunner::show_bench, this, [this](bench::Step step) {
        trouble_->hide();
        bench_->begin();
        show_bench();
        bench_->show_step(step);
    });
    connect(runner_, &DrillRunner::show_stage, this, [this] {
        trouble_->hide();
        show_practice();
        practice_->show_stage();
    });
    connect(runner_, &DrillRunner::over, this, [this](long run) {
        show_practice();
        practice_->show_run(run);
        practice_->setFocus(Qt::OtherFocusReason);
    });
    show_practice();
}

void MainWindow::show_practice()
{
    rooms_->setCurrentWidget(practice_);
    if (!runner_->is_running()) practice_->refresh();
    practice_->setFocus(Qt::OtherFocusReason);
    show_rooms();
}

void MainWindow::show_practice_rooms()
{
    const bench::Visit& v = session_.visit();
    for (WordButton* w : {to_first_, to_day_, to_clients_, to_course_, to_instruments_, to_rules_}) w->hide();
    to_bench_->setVisible(runner_->is_running() && session_.is_open() && !v.ended());
    to_result_->setVisible(runner_->is_running() && session_.is_open() && !session_.by_eye() && bool(v.result()));
    to_practice_->setChecked(rooms_->currentWidget() == practice_);
    to_bench_->setChecked(rooms_->currentWidget() == bench_room_);
    to_result_->setChecked(rooms_->currentWidget() == result_);
    share_bar();
    share_foot();
}

/// A process of its own on a folder of its own, with the names of the lab's people.
void MainWindow::open_practice()
{
    if (practice_) return;
    const QString lab = lab_.folder();
    if (QProcess::startDetached(
            program_beside(QStringLiteral("fusain")), {QStringLiteral("--practice"), QStringLiteral("--lab"), lab}))
        say_note(QStringLiteral("The practice bench opens in a window of its own."));
    else
        say_trouble(QStringLiteral("The practice bench could not be opened."));
}

} // namespace fusain::desk
