// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/chamber/chamber.h"
#include "desk/bench/chamber/chamber_panels.h"

#include <algorithm>

namespace fusain::desk {
namespace {

/// What to see to before the door closes. What is left out is noted with what it does to the number; the talk is never
/// left out.
class PreparePanel : public Panel {
public:
    explicit PreparePanel(work::Session& s)
        : Panel(s, bench::step::prepare, QStringLiteral("Cap, clothes, and how to get out"),
              QStringLiteral("Say it while they dress. Mark what is seen to."))
    {
        char cap = '1';
        for (const Row& row : rows) {
            const QString key_cap(QLatin1Char(cap++));
            auto* mark = new Mark(QKeySequence(key_cap), key_cap, QString::fromUtf8(row.words), QStringLiteral("✓"));
            mark->setObjectName(QString::fromLatin1(row.id));
            connect(mark, &QAbstractButton::toggled, this, &PreparePanel::weigh);
            body_->addWidget(mark, 0, Qt::AlignLeft);
            body_->addSpacing(6);
            marks_.push_back(mark);
        }
        body_->addSpacing(12);
        body_->addWidget(
            label("text", QStringLiteral("“It sounds like panting and you feel a slight pressure. The door is only "
                                         "held by magnets. This button, below your knees, opens it at any time. Sit "
                                         "still and breathe quietly; nobody leans on the chamber.”")));
        body_->addSpacing(10);
        effect_ = label("trouble");
        effect_->setObjectName(QStringLiteral("left_out"));
        body_->addWidget(effect_);
        body_->addStretch();
        all_ = key(
            QKeySequence(Qt::Key_Space), QStringLiteral("Space"), QStringLiteral("all of it"), false, "prepare_all");
        done_ = key(QKeySequence(Qt::Key_Return), QStringLiteral("⏎"), QString(), true, "prepared");
        connect(all_, &QAbstractButton::clicked, this, [this] {
            for (Mark* m : marks_) m->setChecked(true);
        });
        connect(done_, &QAbstractButton::clicked, this, [this] {
            bench::Json seen = bench::Json::array(), left_out = bench::Json::array();
            for (std::size_t i = 0; i < marks_.size(); ++i) {
                if (marks_[i]->isChecked())
                    seen.push_back(rows[i].noted);
                else
                    left_out.push_back(rows[i].effect);
            }
            session_.act("prepared", {{"seen", seen}, {"left_out", left_out}});
        });
        weigh();
    }
    void enter() override
    {
        const auto& seen = bench::chamber_of(session_.visit()).prepared;
        for (std::size_t i = 0; i < marks_.size(); ++i)
            marks_[i]->setChecked(std::find(seen.begin(), seen.end(), rows[i].noted) != seen.end());
        session_.say(QStringLiteral("step_down"));
        weigh();
    }

private:
    struct Row {
        const char *id, *words, *noted, *effect; ///< effect: of leaving it out; empty: it is never left out
    };
    static constexpr Row rows[] = {
        {"see_cap", "swim cap, all hair under it", "cap over all hair",
            "hair outside the cap: % fat reads about 2.3 too low"},
        {"see_clothes", "tight swimwear only, no jewellery", "tight swimwear, no jewellery",
            "loose clothes: % fat reads several percent too low"},
        {"see_dry", "skin and hair dry, not warm from exercise", "skin and hair dry",
            "warm or wet skin: % fat reads 1 to 2 too low"},
        {"see_talk", "told about sound, pressure and magnets", "told about the chamber", ""},
        {"see_release", "pressed the release button once", "pressed the release button", ""},
    };
    void weigh()
    {
        QStringList effects;
        bool may_go = true;
        for (std::size_t i = 0; i < marks_.size(); ++i) {
            if (marks_[i]->isChecked()) continue;
            if (*rows[i].effect)
                effects << QStringLiteral("◆ ") + QString::fromUtf8(rows[i].effect);
            else
                may_go = false;
        }
        effect_->setText(may_go ? effects.join('\n') : QString());
        done_->setEnabled(may_go);
        done_->set_main(may_go);
        all_->set_main(!may_go);
        done_->set_words(
            effects.isEmpty() ? QStringLiteral("all seen to") : QStringLiteral("go on without; it is noted"));
    }
    std::vector<Mark*> marks_;
    QLabel* effect_;
    KeyButton *all_, *done_;
};

} // namespace

Panel* make_prepare_panel(work::Session& s) { return new PreparePanel(s); }

} // namespace fusain::desk
