// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/practice/practice_page.h"

#include "records/base/clock.h"
#include "report/practice/progress_figure.h"
#include "report/reading/reading_words.h"

#include <QFileInfo>
#include <QHBoxLayout>
#include <QVBoxLayout>

#include <algorithm>

namespace fusain::desk {

PracticePage::PracticePage(work::Lab& lab, DrillRunner& runner, QWidget* parent)
    : QWidget(parent), lab_(lab), runner_(runner), list_(list_of_words()), pages_(new Pages),
      heading_(label("title", QStringLiteral("Practise"))), bad_(label("trouble")), title_(label("title")),
      about_(label("small")), asked_(label("heading")), marks_(label("text")), progress_words_(label("text")),
      stage_title_(label("title")), stage_words_(label("text")), name_(new QLineEdit), answers_(new AnswerList)
{
    auto* columns = new QHBoxLayout(this);
    columns->setContentsMargins(0, 0, 0, 0);
    columns->setSpacing(0);
    auto* left = new QWidget;
    auto* l = new QVBoxLayout(left);
    l->setContentsMargins(22, 24, 10, 12);
    l->addWidget(heading_);
    list_->setObjectName(QStringLiteral("drills"));
    l->addWidget(list_, 1);
    l->addWidget(bad_);
    columns->addWidget(left);
    columns->addWidget(hairline(true));
    with_theme(this, [left] { left->setFixedWidth(Theme::get().px(330)); });

    auto* page = new QWidget;
    auto* v = new QVBoxLayout(page);
    v->setContentsMargins(34, 26, 34, 12);
    v->setSpacing(5);
    title_->setObjectName(QStringLiteral("drill_name"));
    asked_->setObjectName(QStringLiteral("drill_about"));
    marks_->setObjectName(QStringLiteral("drill_marks"));
    progress_words_->setObjectName(QStringLiteral("drill_progress"));
    bad_->setObjectName(QStringLiteral("drills_bad"));
    v->addWidget(title_);
    v->addWidget(about_);
    v->addSpacing(4);
    v->addWidget(asked_);
    auto* keys = new WrappedRow;
    const auto key = [&](const QKeySequence& k, const char* cap, const char* words, const char* name) {
        auto* b = new KeyButton(k, QString::fromUtf8(cap), QString::fromUtf8(words));
        b->setObjectName(QString::fromLatin1(name));
        keys->addWidget(b);
        return b;
    };
    begin_ = key(QKeySequence(Qt::Key_Return), "Enter", "begin the drill", "drill_begin");
    go_on_ = key(Qt::Key_G, "G", "go on with the one that was left", "drill_go_on");
    give_up_ = key(QKeySequence(Qt::Key_Delete), "Del", "give that one up", "drill_forget");
    export_ = key(QKeySequence(QStringLiteral("Ctrl+E")), "Ctrl E", "everybody's results as CSV", "drill_export");
    begin_->set_main(true);
    v->addLayout(keys);
    name_->setObjectName(QStringLiteral("practice_name"));
    name_->setPlaceholderText(QStringLiteral("your name, then Enter"));
    name_->hide();
    v->addWidget(name_);
    v->addSpacing(8);
    auto* told = new QWidget;
    auto* t = new QVBoxLayout(told);
    t->setContentsMargins(0, 0, 12, 0);
    t->addWidget(marks_);
    t->addSpacing(8);
    t->addWidget(progress_words_);
    progress_ = new Figure([this](QPainter& p, const QRectF& area) {
        const bench::Drill* d = drill();
        if (!d) return;
        std::vector<report::RunDot> dots;
        for (const work::DrillRun& r : runs_)
            if (r.who == who() && r.drill == q(d->id) && r.over && !r.given_up)
                dots.push_back({r.at, r.measure(), r.passed()});
        const bool share = d->pass.share && !d->pass.rms;
        report::draw_progress(p, area, dots,
            share ? QStringLiteral("share wrong")
                  : QStringLiteral("error, %1")
                        .arg(d->task == bench::Task::place_lines ? QStringLiteral("mm") : QStringLiteral("kg")),
            share ? 1 - *d->pass.share : d->pass.rms.value_or(0), Theme::get().palette(), Theme::get().px(13));
    });
    t->addWidget(progress_);
    t->addStretch();
    v->addWidget(new Scroll(told), 1);
    pages_->addWidget(page);

    auto* stage = new QWidget;
    auto* s = new QVBoxLayout(stage);
    s->setContentsMargins(34, 26, 34, 12);
    stage_title_->setObjectName(QStringLiteral("stage_title"));
    s->addWidget(stage_title_);
    s->addWidget(stage_words_);
    answers_scroll_ = new Scroll(answers_);
    s->addWidget(answers_scroll_, 1);
    change_ = new Figure([this](QPainter& p, const QRectF& area) {
        const work::Series* series = runner_.series();
        if (!series) return;
        const int em = Theme::get().px(14), last = static_cast<int>(series->points.size()) - 1;
        const auto& c = Theme::get().palette();
        auto picture = report::change_picture(*series, last - 1, c, mass_unit());
        for (auto& point : picture.points) point.real = false; // that is what is asked
        picture.trend.reset();
        report::draw_change(p, area, picture, {}, c, em);
    });
    s->addWidget(change_, 1);
    pages_->addWidget(stage);
    columns->addWidget(pages_, 1);
    with_theme(this, [this] { progress_->setFixedHeight(Theme::get().px(170)); });

    connect(list_, &QListWidget::currentRowChanged, this, [this] {
        shown_run_ = 0;
        name_->hide();
        show_drill();
    });
    connect(list_, &QListWidget::itemActivated, this, [this] { begin(); });
    connect(begin_, &QAbstractButton::clicked, this, [this] { begin(); });
    connect(go_on_, &QAbstractButton::clicked, this, [this] { begin(unfinished_); });
    connect(give_up_, &QAbstractButton::clicked, this, [this] {
        if (const auto why = work::give_up_drill(*lab_.store, unfinished_, who())) emit trouble(q(why->text));
        refresh();
    });
    connect(export_, &QAbstractButton::clicked, this, [this] {
        const auto path = work::save_drills(*lab_.store);
        if (!path) return emit trouble(q(path.messages().front().text));
        emit note(QStringLiteral("Everybody's results stand in %1.").arg(*path));
    });
    connect(name_, &QLineEdit::returnPressed, this, [this] {
        const auto kept = lab_.diary->save(records::StaffMember{0, name_->text().simplified(), true, {}, true});
        if (!kept) return emit trouble(q(kept.messages().front().text));
        name_->hide();
        emit named(kept->name);
        lab_.say_changed();
        refresh();
        list_->setFocus();
    });
    setFocusProxy(list_);
}

const bench::Drill* PracticePage::drill() const
{
    const QListWidgetItem* item = list_->currentItem();
    const int at = item ? item->data(Qt::UserRole).toInt() - 1 : -1;
    return at < 0 ? nullptr : &drills_[static_cast<std::size_t>(at)];
}

void PracticePage::begin(long run)
{
    const bench::Drill* d = drill();
    if (run) {
        for (const work::DrillRun& r : runs_)
            if (r.id == run)
                for (const bench::Drill& one : drills_)
                    if (q(one.id) == r.drill) d = &one;
    }
    if (!d) return;
    if (who().isEmpty()) return ask_name();
    if (const auto why = runner_.begin(*d, who(), run)) emit trouble(q(why->text));
}

void PracticePage::refresh()
{
    Messages bad;
    const QString before = drill() ? q(drill()->id) : QString();
    drills_ = work::drills_of(QFileInfo(lab_.store->file()).absolutePath(), bad);
    runs_ = work::drill_runs(*lab_.store);
    QStringList wrong;
    for (const Message& m : bad) wrong << q(m.text);
    bad_->setText(wrong.join('\n'));
    bad_->setVisible(!wrong.isEmpty());
    const QString name = who();
    {
        const QSignalBlocker quiet(list_);
        list_->clear();
        std::optional<Method> method;
        for (std::size_t i = 0; i < drills_.size(); ++i) {
            const bench::Drill& d = drills_[i];
            if (method != d.method) {
                auto* head = new QListWidgetItem(QString::fromLatin1(d.method->title), list_);
                head->setFlags(Qt::NoItemFlags);
                method = d.method;
            }
            const auto of = [&](const work::DrillRun& r) { return r.who == name && r.drill == q(d.id); };
            const bool tried = std::any_of(runs_.begin(), runs_.end(), of),
                       passed = std::any_of(
                           runs_.begin(), runs_.end(), [&](const work::DrillRun&r) { return of(r) && r.passed(); });
            auto* item = new QListWidgetItem(QStringLiteral("%1 %2  ·  level %3")
                                                 .arg(passed  ? QStringLiteral("●")
                                                      : tried ? QStringLiteral("◐")
                                                              : QStringLiteral("○"),
                                                     q(d.title))
                                                 .arg(d.level),
                list_);
            item->setData(Qt::UserRole, static_cast<int>(i) + 1);
            if (before == q(d.id)) list_->setCurrentItem(item);
        }
        if (!drill() && list_->count() > 1) list_->setCurrentRow(1);
    }
    unfinished_ = 0;
    for (const work::DrillRun& r : runs_)
        if (r.who == name && !r.over) unfinished_ = r.id;
    show_drill();
}

void PracticePage::show_run(long run)
{
    runs_ = work::drill_runs(*lab_.store);
    for (const work::DrillRun& r : runs_)
        if (r.id == run)
            for (int i = 0; i < list_->count(); ++i)
                if (const int at = list_->item(i)->data(Qt::UserRole).toInt();
                    at && q(drills_[static_cast<std::size_t>(at) - 1].id) == r.drill) {
                    const QSignalBlocker quiet(list_);
                    list_->setCurrentRow(i);
                }
    shown_run_ = run;
    refresh();
}

void PracticePage::ask_name()
{
    pages_->setCurrentIndex(0);
    name_->clear();
    name_->show();
    begin_->setEnabled(false);
    name_->setFocus();
}

void PracticePage::show_drill()
{
    pages_->setCurrentIndex(0);
    const bench::Drill* d = drill();
    go_on_->setVisible(unfinished_ != 0);
    give_up_->setVisible(unfinished_ != 0);
    begin_->setVisible(d != nullptr);
    begin_->setEnabled(name_->isHidden()); // its Enter belongs to the name
    if (!d) return;
    const bench::TaskRow& task = bench::row(d->task);
    title_->setText(q(d->title));
    QStringList pass;
    const QString unit = d->task == bench::Task::place_lines ? QStringLiteral("mm") : QStringLiteral("kg");
    if (d->pass.rms) pass << QStringLiteral("error at most %1 %2").arg(*d->pass.rms).arg(unit);
    if (d->pass.bias) pass << QStringLiteral("result within %1 % fat").arg(*d->pass.bias);
    if (d->pass.share) pass << QStringLiteral("%1 of 100 right").arg(100 * *d->pass.share, 0, 'f', 0);
    about_->setText(
        QStringLiteral("%1  ·  %2  ·  level %3  ·  %4  ·  passed with: %5")
            .arg(QString::fromLatin1(d->method->title), QString::fromUtf8(task.title))
            .arg(d->level)
            .arg(d->items.size() == 1 ? QStringLiteral("one body") : QStringLiteral("%1 bodies").arg(d->items.size()),
                pass.join(QStringLiteral(", "))));
    asked_->setText(q(d->asked));
    const work::DrillRun* last = nullptr;
    std::vector<double> measures;
    for (const work::DrillRun& r : runs_) {
        if (r.who != who() || r.drill != q(d->id)) continue;
        if (shown_run_ ? r.id == shown_run_ : r.over && !r.given_up) last = &r;
        if (r.over && !r.given_up) measures.push_back(r.measure());
    }
    marks_->setText(
        last ? report::marks_words(*last, q(d->why))
             : QStringLiteral("Not tried yet under your name. It runs on the screens of the bench; the truth is "
                              "told after every answer, with what the mistake would have cost."));
    progress_words_->setText(report::progress_words(practice::progress(measures)));
    progress_->setVisible(!measures.empty());
    begin_->set_words(last ? QStringLiteral("once more") : QStringLiteral("begin the drill"));
    begin_->set_main(!unfinished_);
    go_on_->set_main(unfinished_ != 0);
    progress_->update();
}

void PracticePage::show_stage()
{
    pages_->setCurrentIndex(1);
    const auto& answered = runner_.answered();
    answers_scroll_->setVisible(answered.has_value());
    change_->setVisible(!answered);
    const bench::Drill* d = runner_.drill();
    if (answered) {
        std::vector<AnswerList::Row> rows;
        for (const protocol::Question* question : answered->questions) {
            const auto a = answered->answers.find(question->id);
            QString said;
            if (a != answered->answers.end()) {
                const screening::Answer& one = a->second;
                said = one.never         ? QStringLiteral("never")
                       : one.yes         ? (*one.yes ? QStringLiteral("yes") : QStringLiteral("no"))
                       : one.minutes_ago ? QStringLiteral("%1 ago").arg(q(protocol::span_words(*one.minutes_ago)))
                       : one.number      ? QStringLiteral("%1 %2").arg(*one.number).arg(q(question->unit))
                                         : QString();
            }
            rows.push_back({q(question->group), q(question->words), said, said.isEmpty() ? 0 : 1, false});
        }
        answers_->show_rows(std::move(rows), -1);
        stage_title_->setText(QStringLiteral("Before %1").arg(QString::fromLatin1(d->method->title)));
        stage_words_->setText(QStringLiteral("What the client said. What the record says of consent: %1.")
                                  .arg(runner_.drill() && runner_.consent() ? QStringLiteral("signed")
                                                                            : QStringLiteral("none is signed")));
        return;
    }
    const work::Series* s = runner_.series();
    if (!s) return;
    QStringList days;
    for (const work::Measurement* m : s->points)
        days << QStringLiteral("%1 at %2: %3 %4")
                    .arg(records::date_words(m->day), m->at.toString(QStringLiteral("HH:mm")),
                        report::value_words(quantity::fat_percent, *m->value(quantity::fat_percent)),
                        QStringLiteral("on %1").arg(q(m->instrument)));
    stage_title_->setText(QStringLiteral("Percent fat by %1").arg(QString::fromLatin1(d->method->title)));
    stage_words_->setText(days.join('\n'));
    change_->update();
}

} // namespace fusain::desk
