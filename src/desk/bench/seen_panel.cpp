// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/bench/seen_panel.h"

#include <algorithm>

namespace fusain::desk {

SeenPanel::SeenPanel(work::Session& s, bench::Step step, What what)
    : Panel(s, step, what.title, what.hint), what_(std::move(what))
{
    auto* content = new QWidget;
    auto* list = new QVBoxLayout(content);
    list->setContentsMargins(0, 0, 12, 0);
    char cap = '1';
    for (const Row& row : what_.rows) {
        const QString key_cap(QLatin1Char(cap++));
        auto* mark = new Mark(QKeySequence(key_cap), key_cap, QString::fromUtf8(row.words), QStringLiteral("✓"));
        mark->setObjectName(QString::fromLatin1(row.id));
        connect(mark, &QAbstractButton::toggled, this, &SeenPanel::weigh);
        list->addWidget(mark, 0, Qt::AlignLeft);
        marks_.push_back(mark);
    }
    list->addSpacing(12);
    if (what_.below) list->addWidget(what_.below, 0, Qt::AlignLeft);
    if (what_.below) list->addSpacing(10);
    list->addWidget(talk_ = label("text", what_.talk));
    list->addSpacing(10);
    effect_ = label("trouble");
    effect_->setObjectName(QStringLiteral("left_out"));
    list->addWidget(effect_);
    list->addStretch();
    body_->addWidget(new Scroll(content), 1);
    all_ = key(QKeySequence(Qt::Key_Space), QStringLiteral("Space"), QStringLiteral("all of it"), false, "prepare_all");
    done_ = key(QKeySequence(Qt::Key_Return), QStringLiteral("⏎"), QString(), true, "prepared");
    connect(all_, &QAbstractButton::clicked, this, [this] {
        for (Mark* m : marks_) m->setChecked(true);
    });
    connect(done_, &QAbstractButton::clicked, this, [this] {
        std::vector<std::string> seen, left_out;
        for (std::size_t i = 0; i < marks_.size(); ++i) {
            if (marks_[i]->isChecked())
                seen.push_back(what_.rows[i].noted);
            else
                left_out.push_back(what_.rows[i].effect);
        }
        session_.act(what_.act(seen, left_out));
    });
    weigh();
}

void SeenPanel::enter()
{
    const auto& seen = what_.seen(session_.visit());
    for (std::size_t i = 0; i < marks_.size(); ++i)
        marks_[i]->setChecked(std::find(seen.begin(), seen.end(), what_.rows[i].noted) != seen.end());
    if (what_.say) talk_->setText(what_.say(session_.visit()));
    if (what_.enter) what_.enter(session_.visit());
    if (what_.cue) session_.say(QString::fromLatin1(what_.cue));
    weigh();
}

void SeenPanel::weigh()
{
    QStringList effects;
    bool may_go = false, forgotten = false;
    for (std::size_t i = 0; i < marks_.size(); ++i) {
        may_go = may_go || marks_[i]->isChecked();
        if (marks_[i]->isChecked()) continue;
        if (*what_.rows[i].effect)
            effects << QStringLiteral("◆ ") + QString::fromUtf8(what_.rows[i].effect);
        else
            forgotten = true;
    }
    may_go = may_go && !forgotten;
    effect_->setText(may_go ? effects.join('\n') : QString());
    done_->setEnabled(may_go);
    done_->set_main(may_go);
    all_->set_main(!may_go);
    done_->set_words(effects.isEmpty() ? QStringLiteral("all seen to") : QStringLiteral("go on without; it is noted"));
}

} // namespace fusain::desk
