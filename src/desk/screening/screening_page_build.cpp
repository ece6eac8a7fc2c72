// SPDX-License-Identifier: GPL-3.0-or-later
// How the screening page is put together.
#include "desk/screening/screening_page.h"

#include "core/base/limits.h"
#include "records/base/clock.h"

#include <QScrollBar>

#include <algorithm>

namespace fusain::desk {

ScreeningPage::ScreeningPage(work::Lab& lab, QWidget* parent)
    : QWidget(parent), arrival_(lab), list_(new AnswerList), who_label_(label("heading")), title_(label("title")),
      hint_(label("small")), finding_(label("text")), body_(label("text")), side_(label("text")),
      trouble_(label("trouble")), typed_(new QLineEdit), reason_(new QLineEdit)
{
    auto* columns = new QHBoxLayout(this);
    columns->setContentsMargins(0, 0, 0, 0);
    columns->setSpacing(0);
    auto* rail = rail_ = new QWidget;
    rail->setObjectName(QStringLiteral("rail"));
    auto* r = new QVBoxLayout(rail);
    r->setContentsMargins(16, 18, 6, 10);
    r->addWidget(who_label_);
    auto* inside = new QWidget;
    auto* in = new QVBoxLayout(inside);
    in->setContentsMargins(0, 0, 4, 0);
    in->addWidget(list_);
    in->addStretch();
    r->addWidget(scroll_ = new Scroll(inside), 1);
    columns->addWidget(rail);
    columns->addWidget(hairline(true));

    columns->addWidget(make_centre(), 1);
    columns->addWidget(hairline(true));

    auto* right = right_ = new QWidget;
    right->setObjectName(QStringLiteral("side"));
    auto* s = new QVBoxLayout(right);
    s->setContentsMargins(20, 22, 16, 16);
    s->addWidget(label("heading", QStringLiteral("May it be done?")));
    side_->setObjectName(QStringLiteral("screening_side"));
    side_->setTextFormat(Qt::RichText);
    side_->setAlignment(Qt::AlignTop | Qt::AlignLeft);
    s->addWidget(side_, 1);
    columns->addWidget(right);

    connect_answers();
    connect_ways_on();
    setFocusPolicy(Qt::StrongFocus);
    with_theme(this, [this] { share_room(); });
}

QWidget* ScreeningPage::make_centre()
{
    auto* centre = new QWidget;
    auto* v = new QVBoxLayout(centre);
    v->setContentsMargins(34, 26, 30, 16);
    v->setSpacing(6);
    title_->setObjectName(QStringLiteral("screening_title"));
    v->addWidget(title_);
    v->addWidget(hint_);
    v->addSpacing(14);
    typed_->setObjectName(QStringLiteral("screening_typed"));
    with_theme(this, [this] { typed_->setMaximumWidth(Theme::get().px(320)); });
    v->addWidget(typed_);
    trouble_->setObjectName(QStringLiteral("screening_trouble"));
    v->addWidget(trouble_);
    finding_->setObjectName(QStringLiteral("screening_finding"));
    v->addWidget(finding_);
    body_->setObjectName(QStringLiteral("screening_body"));
    body_->setTextFormat(Qt::RichText);
    body_->setAlignment(Qt::AlignTop | Qt::AlignLeft);
    reason_->setObjectName(QStringLiteral("override_reason"));
    reason_->setPlaceholderText(QStringLiteral("why it is done all the same"));
    v->addWidget(reason_);
    auto* keys = new QVBoxLayout;
    auto* first = new WrappedRow;
    auto* second = new WrappedRow;
    for (auto* row : {first, second}) row->setSpacing(16);
    v->addLayout(keys);
    keys->addLayout(first);
    keys->addLayout(second);
    v->addSpacing(10);
    v->addWidget(body_room_ = new Scroll(body_), 1);
    page_lines_ = new QWidget;
    auto* lines = new QVBoxLayout(page_lines_);
    lines->setContentsMargins(0, 0, 8, 0);
    lines->setSpacing(4);
    v->insertWidget(v->indexOf(finding_), page_room_ = new Scroll(page_lines_), 8);
    make_keys(*first, *second);
    return centre;
}

void ScreeningPage::make_keys(QLayout& first, QLayout& second)
{
    page_done_ = key(Qt::Key_Return, "⏎", "", "page_done", true);
    singly_ = key(Qt::Key_1, "1", "one by one", "ask_singly");
    yes_ = key(Qt::Key_Y, "Y", "yes", "answer_yes");
    no_ = key(Qt::Key_N, "N", "no", "answer_no");
    take_ = key({}, "⏎", "that is when", "answer_take", true);
    never_ = key(QKeySequence(QStringLiteral("Alt+N")), "Alt N", "not lately", "answer_never");
    still_ = key(Qt::Key_Return, "⏎", "still as recorded", "answer_still", true);
    keep_ = key(Qt::Key_Return, "⏎", "keep the screening", "screening_keep", true);
    start_ = key(Qt::Key_Return, "⏎", "", "screening_start", true);
    override_ = key(Qt::Key_O, "O", "do it all the same", "screening_override");
    another_ = key(Qt::Key_P, "P", "propose another day", "screening_another");
    again_ = key(Qt::Key_R, "R", "ask again", "screening_again");
    back_ = key(Qt::Key_Up, "↑", "one back", "screening_back");
    leave_ = key(Qt::Key_Escape, "Esc", "the day", "screening_leave");
    for (auto* b : {page_done_, yes_, no_, take_, never_, still_, keep_, start_}) first.addWidget(b);
    for (auto* b : {singly_, override_, another_, again_, back_, leave_}) second.addWidget(b);
}

void ScreeningPage::connect_answers()
{
    const auto said = [](bool yes) {
        screening::Answer a;
        a.yes = yes;
        return a;
    };
    connect(yes_, &QAbstractButton::clicked, this,
        [this, said] { view_ == View::consent ? sign(true) : answer(said(true)); });
    connect(no_, &QAbstractButton::clicked, this,
        [this, said] { view_ == View::consent ? sign(false) : answer(said(false)); });
    connect(never_, &QAbstractButton::clicked, this, [this] {
        if (view_ == View::consent) return sign(false);
        screening::Answer a;
        a.never = true;
        answer(a);
    });
    connect(take_, &QAbstractButton::clicked, this, [this] { view_ == View::consent ? sign(true) : take_typed(); });
    connect(typed_, &QLineEdit::returnPressed, this, [this] { view_ == View::consent ? sign(true) : take_typed(); });
    connect(page_done_, &QAbstractButton::clicked, this, &ScreeningPage::take_page);
    connect(page_room_->verticalScrollBar(), &QScrollBar::valueChanged, this, &ScreeningPage::tell_page);
    connect(page_room_->verticalScrollBar(), &QScrollBar::rangeChanged, this, &ScreeningPage::tell_page);
    connect(singly_, &QAbstractButton::clicked, this, [this] {
        together_ = false;
        next_open();
    });
}

void ScreeningPage::connect_ways_on()
{
    connect(still_, &QAbstractButton::clicked, this, &ScreeningPage::next_open);
    connect(keep_, &QAbstractButton::clicked, this, &ScreeningPage::keep);
    connect(override_, &QAbstractButton::clicked, this, &ScreeningPage::begin_override);
    connect(reason_, &QLineEdit::returnPressed, this, [this] { override_with(reason_->text().trimmed()); });
    connect(another_, &QAbstractButton::clicked, this, [this] {
        const auto methods = arrival_.not_going();
        if (!arrival_.kept()) keep();
        if (arrival_.kept()) emit another_day(arrival_.client().id, methods);
    });
    connect(start_, &QAbstractButton::clicked, this, &ScreeningPage::start);
    connect(again_, &QAbstractButton::clicked, this, [this] {
        arrival_.ask_again();
        together_ = true;
        show_known();
    });
    connect(back_, &QAbstractButton::clicked, this, [this] {
        if (view_ == View::question && at_ > 0)
            show_question(at_ - 1);
        else if (view_ == View::question && arrival_.missing_consent())
            show_consent();
        else if (view_ == View::summary && !arrival_.questions().empty())
            show_question(static_cast<int>(arrival_.questions().size()) - 1);
    });
    connect(leave_, &QAbstractButton::clicked, this, &ScreeningPage::left);
    connect(list_, &AnswerList::chosen, this, [this](int row) {
        if (!arrival_.kept()) show_question(row);
    });
}

} // namespace fusain::desk
