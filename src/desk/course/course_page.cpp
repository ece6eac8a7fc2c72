// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/course/course_page.h"

#include "desk/course/balance_view.h"
#include "desk/course/change_view.h"
#include "desk/course/day_view.h"
#include "desk/course/energy_view.h"
#include "desk/course/plan_view.h"
#include "desk/course/talk_view.h"
#include "desk/course/tape_view.h"
#include "report/reading/reading_words.h"

#include <QHBoxLayout>

namespace fusain::desk {

CoursePage::CoursePage(work::Lab& lab, QWidget* parent)
    : QWidget(parent), lab_(lab), group_(lab.store->file()), name_(label("heading")), facts_(label("small")),
      tabs_(new QHBoxLayout), group_of_tabs_(new QButtonGroup(this)), views_(new Pages)
{
    setFocusPolicy(Qt::StrongFocus);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    auto* head = new QWidget;
    auto* h = new QVBoxLayout(head);
    h->setContentsMargins(34, 10, 24, 4);
    h->setSpacing(2);
    name_->setObjectName(QStringLiteral("course_name"));
    facts_->setObjectName(QStringLiteral("course_facts"));
    h->addWidget(name_);
    h->addWidget(facts_);
    tabs_->setSpacing(16);
    h->addLayout(tabs_);
    column->addWidget(head);
    column->addWidget(hairline(false));
    column->addWidget(views_, 1);
    auto* balance = new BalanceView(lab, group_);
    auto* plan = new PlanView(lab);
    take(new DayView(lab), "day", "1 This day", "1");
    take(balance, "balance", "2 Balance", "2");
    take(new ChangeView(lab), "change", "3 Change", "3");
    take(new TapeView(lab), "tape", "4 Tape", "4");
    take(new EnergyView(lab), "energy", "5 Energy", "5");
    take(plan, "plan", "6 Plan", "6");
    take(new TalkView(lab, group_), "talk", "7 Tell it", "7");
    tabs_->addStretch();
    connect(balance, &BalanceView::range_chosen, this, [this](const QString& id) {
        range_ = id.toStdString();
        show_reading();
    });
    connect(plan, &PlanView::book, this, &CoursePage::book);
}

void CoursePage::take(CourseView* view, const char* name, const char* words, const char* key)
{
    views_->addWidget(view);
    all_.push_back(view);
    auto* b = new WordButton(QString::fromLatin1(words), 15);
    b->setObjectName(QStringLiteral("course_") + QString::fromLatin1(name));
    b->setShortcut(QKeySequence(QString::fromLatin1(key)));
    group_of_tabs_->addButton(b);
    tabs_->addWidget(b);
    buttons_.push_back(b);
    connect(b, &QAbstractButton::clicked, this, [this, name] { show_view(QString::fromLatin1(name)); });
    connect(view, &CourseView::kept, this, &CoursePage::refresh);
    connect(view, &CourseView::trouble, this, &CoursePage::trouble);
    connect(view, &CourseView::said, this, &CoursePage::note);
    connect(view, &CourseView::go_to_day, this, [this](const QDate& day) {
        day_ = day;
        show_reading();
    });
}

void CoursePage::set_technician(std::function<QString()> who)
{
    for (CourseView* v : all_) v->set_technician(who);
}

void CoursePage::open(long client_id, const QDate& day)
{
    if (client_ != client_id) {
        range_ = [&] {
            const auto house = lab_.rules.house();
            const auto rule = house.find("range");
            return rule == house.end() ? std::string("gallagher_2000") : rule->second;
        }();
        group_.look_again();
    }
    client_ = client_id;
    day_ = day;
    refresh();
    if (!group_of_tabs_->checkedButton()) show_view(QStringLiteral("day"));
}

void CoursePage::refresh()
{
    if (!client_) return;
    auto fresh = std::make_unique<work::History>(work::History::of(lab_, client_));
    history_.swap(fresh); // the views let go of the old one when they are shown the new
    show_reading();
}

void CoursePage::show_reading()
{
    reading_ = work::read(*history_, day_, range_);
    const records::Client& c = history_->client();
    name_->setText(c.full_name());
    int visits = 0;
    for (const work::Measurement& m : history_->all()) visits += m.visit_id != 0;
    const int whole_years = static_cast<int>(history_->age_today());
    QStringList facts{QStringLiteral("%1, %2 y").arg(QString::fromLatin1(word(c.sex))).arg(whole_years)};
    if (!c.role.isEmpty()) facts << c.role;
    facts << QStringLiteral("%1 test%2").arg(visits).arg(visits == 1 ? QString() : QStringLiteral("s"));
    const bool quiet = history_->without_numbers(); // the client looks on
    if (!c.goal.isEmpty() && !quiet) facts << QStringLiteral("wants: %1").arg(c.goal);
    if (reading_.main && reading_.before && !quiet)
        if (const auto moved = work::moved(*history_, *reading_.before, *reading_.main))
            facts << report::moved_sentence(*moved, mass_unit());
    facts_->setText(facts.join(QStringLiteral("  ·  ")));
    // the others are shown it when they come on the screen
    for (CourseView* v : all_)
        if (v->isVisible()) v->show_reading(reading_);
}

void CoursePage::show_view(const QString& name)
{
    for (std::size_t i = 0; i < all_.size(); ++i)
        if (buttons_[i]->objectName() == QStringLiteral("course_") + name) {
            views_->setCurrentWidget(all_[i]);
            buttons_[i]->setChecked(true);
            all_[i]->setFocus(Qt::OtherFocusReason);
            if (client_) all_[i]->show_reading(reading_);
        }
}

} // namespace fusain::desk
