// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/course/talk_view.h"

#include "records/base/clock.h"
#include "report/sheets/given.h"

#include "work/visit/visit_end.h"
#include <algorithm>

namespace fusain::desk {

TalkView::TalkView(work::Lab& lab, work::OwnGroup& group)
    : CourseView(lab), group_(group), sentence_(label("title")), more_(label("text")), answer_(label("text")),
      count_(label("small")), note_(new QPlainTextEdit), answer_keys_(new WrappedRow)
{
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(60, 20, 60, 14);
    column->setSpacing(10);
    sentence_->setObjectName(QStringLiteral("talk_sentence"));
    more_->setObjectName(QStringLiteral("talk_more"));
    answer_->setObjectName(QStringLiteral("talk_answer"));
    column->addWidget(sentence_);
    column->addWidget(more_);
    picture_ = new Figure([this](QPainter& p, const QRectF& area) {
        const QRectF room = area.adjusted(10, 6, -10, -4);
        const int em = std::min(Theme::get().px(21), std::max(8, static_cast<int>(room.height() / 9)));
        if (at_ < static_cast<int>(slides_.size()) && slides_[static_cast<std::size_t>(at_)].picture)
            slides_[static_cast<std::size_t>(at_)].picture(p, room, Theme::get().palette(), em);
    });
    picture_->setObjectName(QStringLiteral("talk_picture"));
    column->addWidget(picture_, 1);
    steps_room_ = new QWidget;
    auto* s = new QVBoxLayout(steps_room_);
    s->setContentsMargins(0, 0, 0, 0);
    s->setSpacing(5);
    for (int i = 0; i < work::most_steps; ++i) {
        steps_[i] = new QLineEdit;
        steps_[i]->setObjectName(QStringLiteral("step_%1").arg(i + 1));
        steps_[i]->setMaxLength(160);
        constexpr const char* hints[] = {
            "the first step, in the client's own words", "a second, if there is one", "a third, at most"};
        steps_[i]->setPlaceholderText(QString::fromLatin1(hints[i]));
        s->addWidget(steps_[i]);
        connect(steps_[i], &QLineEdit::returnPressed, this, [this, i] {
            i + 1 < work::most_steps && !steps_[i]->text().isEmpty() ? steps_[i + 1]->setFocus() : store();
        });
    }
    note_->setObjectName(QStringLiteral("talk_note"));
    note_->setPlaceholderText(QStringLiteral("the technician's note: stands on the sheet under what was agreed"));
    note_->setTabChangesFocus(true);
    note_->setMaximumHeight(58);
    s->addWidget(note_);
    auto* keep_key = new KeyButton(
        QKeySequence(QStringLiteral("Ctrl+Return")), QStringLiteral("Ctrl ⏎"), QStringLiteral("keep, for the sheet"));
    keep_key->setObjectName(QStringLiteral("keep_steps"));
    keep_key->set_main(true);
    s->addWidget(keep_key, 0, Qt::AlignLeft);
    s->addStretch();
    connect(keep_key, &QAbstractButton::clicked, this, &TalkView::store);
    column->addWidget(steps_scroll_ = new Scroll(steps_room_), 2);
    column->addWidget(answer_);
    auto* bottom = new QHBoxLayout;
    auto* back = new KeyButton(QKeySequence(Qt::Key_Left), QStringLiteral("←"), QStringLiteral("back"));
    auto* on = new KeyButton(QKeySequence(Qt::Key_Right), QStringLiteral("→"), QStringLiteral("on"));
    back->setObjectName(QStringLiteral("talk_back"));
    on->setObjectName(QStringLiteral("talk_on"));
    on->set_main(true);
    bottom->addWidget(back);
    bottom->addWidget(on);
    auto* sheet = new KeyButton(QKeySequence(Qt::Key_P), QStringLiteral("P"), QStringLiteral("client's sheet"));
    sheet->setObjectName(QStringLiteral("talk_sheet"));
    bottom->addWidget(sheet);
    connect(sheet, &QAbstractButton::clicked, this, &TalkView::give_sheet);
    quiet_ = new KeyButton(QKeySequence(Qt::Key_N), QStringLiteral("N"), QString());
    quiet_->setObjectName(QStringLiteral("talk_quiet"));
    bottom->addWidget(quiet_);
    connect(quiet_, &QAbstractButton::clicked, this, [this] {
        if (!reading_) return;
        const bool quiet = !reading_->history->without_numbers();
        if (keep(client_, work::telling(quiet)))
            emit said(quiet ? QStringLiteral("Told without numbers from now on, here and on the client's sheet.")
                            : QStringLiteral("Told with numbers from now on."));
    });
    count_->setWordWrap(false);
    bottom->addWidget(count_);
    bottom->addStretch();
    answer_keys_->setSpacing(8);
    answers_room_ = new QWidget;
    answers_room_->setLayout(answer_keys_);
    column->addWidget(answers_room_);
    column->addLayout(bottom);
    connect(back, &QAbstractButton::clicked, this, [this] { go(-1); });
    connect(on, &QAbstractButton::clicked, this, [this] { go(+1); });
    // the usual questions, each on a key
    for (const char* key : {"G", "W", "H", "E"}) {
        auto* b = new KeyButton(QKeySequence(QString::fromLatin1(key)), QString::fromLatin1(key), QString());
        b->setObjectName(QStringLiteral("ask_") + QString::fromLatin1(key));
        answer_keys_->addWidget(b);
        const auto i = answer_buttons_.size();
        connect(b, &QAbstractButton::clicked, this, [this, i] {
            if (i >= answers_.size()) return;
            const QString words = answers_[i].question + QStringLiteral("  ") + answers_[i].answer;
            answer_->setText(answer_->text() == words ? QString() : words);
        });
        answer_buttons_.push_back(b);
    }
    connect(&Units::get(), &Units::changed, this, &TalkView::build);
    connect(&Theme::get(), &Theme::changed, this, &TalkView::show_slide);
}

void TalkView::show_reading(const work::Reading& r)
{
    const bool other = client_ != r.history->client().id || day_ != r.day;
    reading_ = &r;
    client_ = r.history->client().id;
    day_ = r.day;
    if (other) {
        at_ = 0;
        const work::Told* told = r.history->entries().told_on(r.day.toString(Qt::ISODate));
        for (int i = 0; i < work::most_steps; ++i)
            steps_[i]->setText(told && i < told->steps.size() ? told->steps[i] : QString());
        note_->setPlainText(told ? told->note : QString());
    }
    if (!r.main || visit_id_ != r.main->visit_id) {
        visit_.reset();
        visit_id_ = r.main ? r.main->visit_id : 0;
        if (visit_id_)
            if (const auto replayed = lab_.store->replay(visit_id_))
                visit_ = std::make_shared<const bench::Visit>(*replayed);
    }
    build();
}

void TalkView::build()
{
    if (!reading_ || !isVisible()) return;
    const work::Reading& r = *reading_;
    report::TalkAbout about;
    about.reading = &r;
    about.visit = visit_;
    about.unit = mass_unit();
    about.told = r.history->entries().told_on(r.day.toString(Qt::ISODate));
    if (const auto& next = r.history->next_visit())
        about.next_visit =
            QStringLiteral("%1, %2").arg(records::date_words(next->date()), next->toString(QStringLiteral("HH:mm")));
    slides_ = report::talk(about);
    std::optional<group::Standing> standing;
    if (r.main)
        standing = group_.standing({r.main->method, r.main->sex, {}, client_}, quantity::fat_percent,
            r.main->result[quantity::fat_percent].value);
    answers_ = report::usual_questions(r, standing, mass_unit());
    for (std::size_t i = 0; i < answer_buttons_.size(); ++i) {
        answer_buttons_[i]->setVisible(i < answers_.size());
        if (i < answers_.size()) answer_buttons_[i]->set_words(answers_[i].question);
    }
    const bool quiet = r.history->without_numbers();
    quiet_->set_words(quiet ? QStringLiteral("tell with numbers") : QStringLiteral("tell without numbers"));
    quiet_->setVisible(r.main != nullptr);
    for (QAbstractButton* b : answer_buttons_) b->setVisible(b->isVisibleTo(answers_room_) && !quiet);
    if (quiet) answer_->clear();
    at_ = std::min(at_, static_cast<int>(slides_.size()) - 1);
    show_slide();
}

void TalkView::go(int by)
{
    at_ = std::clamp(at_ + by, 0, static_cast<int>(slides_.size()) - 1);
    answer_->clear();
    show_slide();
}

void TalkView::show_slide()
{
    if (slides_.empty() || !isVisible()) return;
    const report::Slide& s = slides_[static_cast<std::size_t>(at_)];
    const bool typed_here = s.id == QStringLiteral("steps");
    sentence_->setText(s.sentence);
    more_->setText(s.more);
    more_->setVisible(!s.more.isEmpty() && !(typed_here && s.sentence.startsWith(QStringLiteral("Agreed"))));
    count_->setText(QStringLiteral("%1 of %2").arg(at_ + 1).arg(slides_.size()));
    steps_scroll_->setVisible(typed_here);
    answers_room_->setVisible(!typed_here); // letters are typed there
    picture_->setVisible(!typed_here);
    picture_->update();
    typed_here ? steps_[0]->setFocus() : setFocus(Qt::OtherFocusReason);
}

void TalkView::store()
{
    work::Told told;
    told.day = day_.toString(Qt::ISODate);
    for (QLineEdit* step : steps_)
        if (const QString words = step->text().trimmed(); !words.isEmpty()) told.steps << words;
    told.note = note_->toPlainText().trimmed();
    if (told.steps.isEmpty() && told.note.isEmpty()) return;
    if (!keep(client_, work::event_of(told))) return;
    emit said(QStringLiteral("Kept: it stands on the client's sheet."));
    setFocus(Qt::OtherFocusReason);
}

void TalkView::give_sheet()
{
    const QString who = who_ ? who_() : QString();
    if (who.isEmpty() || !visit_) return;
    if (const auto why = work::not_to_be_told(*visit_)) // the result page takes the name
        return emit trouble(QStringLiteral("%1 It is given out from its result page, by name.").arg(q(why->text)));
    const auto given = report::give_sheet(lab_, {visit_id_, visit_.get(), true}, who);
    if (!given) return emit trouble(q(given.messages().front().text));
    emit said(report::given_words(*given));
}

} // namespace fusain::desk
