// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/practice/drill_strip.h"

#include <QVBoxLayout>

namespace fusain::desk {

namespace {
constexpr int most_choices = 6;
}

DrillStrip::DrillStrip(QWidget* parent)
    : QWidget(parent), title_(label("small")), asked_(label("heading")), seen_(label("text")), told_(label("text")),
      number_(new NumberField("hydrostatic.trials_kg", Measure::mass)), number_row_(new QWidget)
{
    setObjectName(QStringLiteral("side"));
    auto* whole = new QVBoxLayout(this);
    whole->setContentsMargins(0, 0, 0, 0);
    whole->addWidget(hairline(false));
    auto* v = new QVBoxLayout;
    whole->addLayout(v);
    v->setContentsMargins(22, 7, 22, 8);
    v->setSpacing(3);
    title_->setObjectName(QStringLiteral("drill_title"));
    asked_->setObjectName(QStringLiteral("drill_asked"));
    seen_->setObjectName(QStringLiteral("drill_seen"));
    told_->setObjectName(QStringLiteral("drill_told"));
    for (QLabel* l : {title_, asked_, seen_, told_}) v->addWidget(l);
    auto* n = new QHBoxLayout(number_row_);
    n->setContentsMargins(0, 0, 0, 0);
    number_->edit()->setObjectName(QStringLiteral("drill_number"));
    n->addWidget(number_);
    n->addWidget(label("small", QStringLiteral("Enter gives it")), 1);
    v->addWidget(number_row_);
    auto* keys = new WrappedRow;
    const auto key = [&](int k, const QString& cap, const QString& words, const QString& name) {
        auto* b = new KeyButton(QKeySequence(k), cap, words);
        b->setObjectName(name);
        keys->addWidget(b);
        return b;
    };
    type_ = key(Qt::Key_F7, QStringLiteral("F7"), QStringLiteral("give what you read"), QStringLiteral("drill_type"));
    for (int i = 0; i < most_choices; ++i) {
        choices_.push_back(key(
            Qt::Key_F1 + i, QStringLiteral("F%1").arg(i + 1), QString(), QStringLiteral("drill_choice_%1").arg(i + 1)));
        connect(choices_.back(), &QAbstractButton::clicked, this,
            [this, i] { emit chosen(ids_[static_cast<std::size_t>(i)]); });
    }
    done_ = key(Qt::Key_F7, QStringLiteral("F7"), QStringLiteral("that is enough"), QStringLiteral("drill_done"));
    next_ = key(Qt::Key_F8, QStringLiteral("F8"), QStringLiteral("next"), QStringLiteral("drill_next"));
    next_->set_main(true);
    stop_ = key(Qt::Key_F12, QStringLiteral("F12"), QStringLiteral("leave the drill"), QStringLiteral("drill_stop"));
    v->addLayout(keys);
    connect(type_, &QAbstractButton::clicked, number_->edit(), qOverload<>(&QWidget::setFocus));
    connect(number_->edit(), &QLineEdit::returnPressed, this, [this] {
        if (const auto kg = number_->metric()) emit number(*kg);
    });
    connect(done_, &QAbstractButton::clicked, this, &DrillStrip::done);
    connect(next_, &QAbstractButton::clicked, this, &DrillStrip::next);
    connect(stop_, &QAbstractButton::clicked, this, &DrillStrip::given_up);
    hide();
}

void DrillStrip::getting_ready(const QString& words)
{
    title_->setText(words);
    for (QWidget* w : {static_cast<QWidget*>(asked_), static_cast<QWidget*>(seen_), static_cast<QWidget*>(told_),
             number_row_, static_cast<QWidget*>(done_), static_cast<QWidget*>(next_), static_cast<QWidget*>(type_)})
        w->hide();
    for (KeyButton* b : choices_) b->hide();
    show();
}

void DrillStrip::ask(const bench::Drill& drill, int item, const std::vector<bench::DrillChoice>& choices)
{
    const bench::DrillItem& now = drill.items[static_cast<std::size_t>(item)];
    title_->setText(
        QStringLiteral("PRACTICE  ·  %1  ·  %2 of %3").arg(q(drill.title)).arg(item + 1).arg(drill.items.size()));
    asked_->setText(q(drill.asked));
    asked_->show();
    QStringList seen;
    for (const std::string& one : now.seen) seen << q(one);
    seen_->setText(seen.join(QStringLiteral("  ·  ")));
    seen_->setVisible(!seen.isEmpty());
    told_->hide();
    const bench::TaskRow& task = bench::row(drill.task);
    number_->set_metric({});
    number_row_->setVisible(task.number);
    type_->setVisible(task.number);
    ids_.clear();
    for (std::size_t i = 0; i < choices_.size(); ++i) {
        choices_[i]->setVisible(i < choices.size());
        choices_[i]->setEnabled(true);
        if (i >= choices.size()) continue;
        choices_[i]->set_words(q(choices[i].words));
        ids_.push_back(q(choices[i].id));
    }
    done_->setVisible(task.done && drill.task != bench::Task::place_lines);
    next_->hide();
    show();
}

void DrillStrip::tell(const QString& words, bool good, bool last)
{
    told_->setText((good ? QStringLiteral("● ") : QStringLiteral("◆ ")) + words);
    told_->show();
    number_row_->hide();
    for (QWidget* w : {static_cast<QWidget*>(type_), static_cast<QWidget*>(done_)}) w->hide();
    for (KeyButton* b : choices_) b->hide();
    next_->set_words(last ? QStringLiteral("how it went") : QStringLiteral("next"));
    next_->show();
}

void DrillStrip::hint(const QString& words)
{
    told_->setText(words);
    told_->show();
}

} // namespace fusain::desk
