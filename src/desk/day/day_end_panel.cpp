// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/day/day_end_panel.h"

#include "records/base/clock.h"

#include <QVBoxLayout>

namespace fusain::desk {

DayEndPanel::DayEndPanel(work::Lab& lab, QWidget* parent)
    : QWidget(parent), lab_(lab), title_(label("title")), said_(label("text")), so_far_(label("big")),
      list_(list_of_words()), closing_(label("text"))
{
    setFocusPolicy(Qt::StrongFocus);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(34, 22, 34, 16);
    column->setSpacing(10);
    title_->setObjectName(QStringLiteral("day_end_title"));
    said_->setObjectName(QStringLiteral("day_end_said"));
    so_far_->setObjectName(QStringLiteral("day_end_so_far"));
    list_->setObjectName(QStringLiteral("day_end_list"));
    column->addWidget(title_);
    column->addWidget(said_);
    auto* keys = new WrappedRow;
    keys->setSpacing(10);
    make_ = new KeyButton(QKeySequence(QStringLiteral("Ctrl+Return")), QStringLiteral("Ctrl ⏎"),
        QStringLiteral("make the list and the sheets"));
    make_->setObjectName(QStringLiteral("day_end_make"));
    make_->set_main(true);
    back_ = new KeyButton(QKeySequence(Qt::Key_Escape), QStringLiteral("Esc"), QString());
    back_->setObjectName(QStringLiteral("day_end_leave"));
    keys->addWidget(make_);
    keys->addWidget(back_);
    column->addLayout(keys);
    column->addWidget(so_far_);
    column->addWidget(list_, 1);
    closing_->setObjectName(QStringLiteral("closing_list"));
    column->addWidget(closing_);
    connect(make_, &QAbstractButton::clicked, this, &DayEndPanel::make);
    connect(back_, &QAbstractButton::clicked, this, [this] { making_.is_running() ? making_.stop() : emit left(); });
}

void DayEndPanel::begin(const QDate& day)
{
    if (making_.is_running()) return;
    day_ = day;
    list_->clear();
    so_far_->clear();
    const auto people = report::people_of(lab_, day);
    title_->setText(QStringLiteral("The end of %1").arg(records::date_words(day)));
    said_->setText(
        people.empty()
            ? QStringLiteral("Nobody has a result of this day yet.")
            : QStringLiteral("%1 %2 measured. One list for the lab, a sheet for each; results that ask to be "
                             "measured again are left until somebody gives them out by name.")
                  .arg(people.size())
                  .arg(people.size() == 1 ? QStringLiteral("person was") : QStringLiteral("people were")));
    const QStringList closing = report::closing_words(lab_);
    closing_->setText(closing.isEmpty()
                          ? QString()
                          : QStringLiteral("Before the lab is left\n○  ") + closing.join(QStringLiteral("\n○  ")));
    make_->setVisible(!people.empty());
    back_->set_words(QStringLiteral("back to the day"));
    setFocus(Qt::OtherFocusReason);
}

void DayEndPanel::make()
{
    const QString who = who_ ? who_() : QString();
    if (who.isEmpty() || making_.is_running()) return;
    list_->clear();
    make_->hide();
    back_->set_words(QStringLiteral("stop"));
    // its own connection, in its own thread: the window goes on
    making_.run(
        [this, who, file = lab_.store->file(), day = day_](const work::LongWork::Progress& go_on) {
            const auto opened = records::Store::open(file);
            if (!opened) return Outcome<report::DayEnd>::refuse(opened.messages());
            work::Lab lab(*opened);
            return report::end_of_day(lab, day, who, [&](int done, int of, const QString& name) {
                QMetaObject::invokeMethod(this, [this, done, of, name] {
                    so_far_->setText(QStringLiteral("%1 of %2: %3").arg(done + 1).arg(of).arg(name));
                });
                return go_on(static_cast<double>(done) / of);
            });
        },
        [this](Outcome<report::DayEnd> end) { tell(end); });
}

void DayEndPanel::tell(const Outcome<report::DayEnd>& end)
{
    back_->set_words(QStringLiteral("back to the day"));
    make_->show();
    if (!end) {
        so_far_->setText(q(end.messages().front().text));
        return;
    }
    so_far_->setText(
        QStringLiteral("Sheets: %1 made, %2 given before and unchanged.").arg(end->sheets).arg(end->unchanged));
    list_->addItem(QStringLiteral("The lab's list: %1").arg(end->list));
    for (const auto& one : end->left) list_->addItem(QStringLiteral("◆ %1: %2").arg(one.client, one.why));
}

} // namespace fusain::desk
