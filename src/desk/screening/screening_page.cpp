// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/screening/screening_page.h"

#include "core/base/limits.h"
#include "records/base/clock.h"

#include <QScrollBar>

#include <algorithm>

namespace fusain::desk {

using look::Voice;
using protocol::Ask;
using protocol::Verdict;

void ScreeningPage::share_room()
{
    rail_->setFixedWidth(std::min(Theme::get().px(290), width() * 30 / 100));
    right_->setFixedWidth(std::min(Theme::get().px(300), width() * 25 / 100));
}

KeyButton* ScreeningPage::key(const QKeySequence& k, const char* cap, const char* words, const char* name, bool main)
{
    auto* b = new KeyButton(k, QString::fromUtf8(cap), QString::fromUtf8(words));
    b->setObjectName(QString::fromLatin1(name));
    b->set_main(main);
    return b;
}

void ScreeningPage::only(std::initializer_list<QWidget*> shown)
{
    for (QWidget* w : {static_cast<QWidget*>(yes_), static_cast<QWidget*>(no_), static_cast<QWidget*>(take_),
             static_cast<QWidget*>(never_), static_cast<QWidget*>(still_), static_cast<QWidget*>(keep_),
             static_cast<QWidget*>(start_), static_cast<QWidget*>(override_), static_cast<QWidget*>(another_),
             static_cast<QWidget*>(again_), static_cast<QWidget*>(back_), static_cast<QWidget*>(typed_),
             static_cast<QWidget*>(reason_), static_cast<QWidget*>(trouble_), static_cast<QWidget*>(page_done_),
             static_cast<QWidget*>(singly_)})
        w->setVisible(std::find(shown.begin(), shown.end(), w) != shown.end());
    rail_->setVisible(view_ != View::page); // the page is the list
    page_room_->setVisible(view_ == View::page);
    body_room_->setVisible(view_ != View::page);
}

std::optional<Message> ScreeningPage::begin(long booking_id)
{
    if (auto why = arrival_.begin(booking_id)) return why;
    together_ = true;
    who_label_->setText(arrival_.client().full_name());
    if (arrival_.kept())
        show_summary();
    else if (arrival_.missing_consent())
        show_consent();
    else
        ask();
    return std::nullopt;
}

void ScreeningPage::ask() { arrival_.known().empty() ? next_open() : show_known(); }

void ScreeningPage::show_consent()
{
    view_ = View::consent;
    const bool own = *arrival_.missing_consent() == work::Arrival::Consent::own;
    title_->setText(own ? QStringLiteral("Has the client signed the consent today?")
                        : QStringLiteral("Has a guardian signed the consent today?"));
    hint_->setText(
        QStringLiteral("No signed consent%1 is on record, and nobody is measured without it. The paper stays "
                       "with you; its date and who signed are noted here.")
            .arg(own ? QString() : QStringLiteral(" of a guardian")));
    body_->setText(QString());
    finding_->setText(QString());
    trouble_->setText(QString());
    if (own) {
        only({yes_, no_});
        setFocus(Qt::OtherFocusReason);
    } else {
        typed_->setText(arrival_.client().guardian);
        typed_->setPlaceholderText(QStringLiteral("the guardian's name"));
        take_->set_words(QStringLiteral("signed today"));
        only({typed_, take_, never_, trouble_});
        never_->set_words(QStringLiteral("not signed"));
        typed_->setFocus();
    }
    redraw();
}

void ScreeningPage::sign(bool signed_today)
{
    if (!signed_today) return ask();
    const QString who = who_ ? who_() : QString();
    if (who.isEmpty()) return;
    if (const auto why = arrival_.sign(typed_->text(), who)) return trouble_->setText(q(why->text));
    arrival_.missing_consent() ? show_consent() : ask(); // a minor's own, then the guardian's
}

void ScreeningPage::start()
{
    if (const auto method = arrival_.unfinished_on_the_bench()) return emit start_test(arrival_.booking().id, *method);
    if (const auto method = arrival_.next_on_the_bench()) return emit start_test(arrival_.booking().id, *method);
    if (const auto why = arrival_.close()) return emit trouble(q(why->text));
    emit left();
}

QString ScreeningPage::answer_words(const protocol::Question& question, const screening::Answer& a) const
{
    if (a.never) return QStringLiteral("not lately");
    if (a.kept) return QStringLiteral("as the sheet asks");
    if (a.yes) return *a.yes ? QStringLiteral("yes") : QStringLiteral("no");
    if (a.number) return q(limits::plain(*a.number)) + ' ' + q(question.unit);
    if (a.minutes_ago)
        return QStringLiteral("%1, %2 ago")
            .arg(records::clock_words(arrival_.asked_at().addSecs(-static_cast<qint64>(60 * *a.minutes_ago)),
                     arrival_.asked_at().date()),
                q(protocol::span_words(*a.minutes_ago)));
    return {};
}

void ScreeningPage::redraw()
{
    std::vector<AnswerList::Row> rows;
    const screening::Answers& answers = arrival_.answers();
    for (const protocol::Question* question : arrival_.questions()) {
        AnswerList::Row row{
            q(question->group), q(question->words), QString(), 0, arrival_.known().count(question->id) > 0};
        const auto a = answers.find(question->id);
        if (a != answers.end() && a->second.given()) {
            row.answer = answer_words(*question, a->second);
            row.mark = 1;
            for (const auto& v : arrival_.verdicts())
                for (const auto& f : v.findings)
                    if (f.question == question->id) row.mark = std::max(row.mark, f.safety ? 3 : 2);
        }
        rows.push_back(row);
    }
    list_->show_rows(std::move(rows), view_ == View::question ? at_ : -1);
    if (view_ == View::question) {
        const QRect place = list_->place_of(at_);
        scroll_->ensureVisible(0, place.center().y(), 0, place.height() * 2);
    }
    side_->setText(side_words());
}

QString ScreeningPage::side_words() const
{
    const look::Palette& c = Theme::get().palette();
    QString side;
    bool compared = false;
    for (const auto& v : arrival_.verdicts()) {
        const auto* by = arrival_.overridden(v.method);
        const bool looks = v.verdict >= Verdict::another_day;
        const QString color = looks && !arrival_.may_go(v) ? c.look_here.name() : c.ink.name();
        side += QStringLiteral("<p style='margin-bottom:2px'><b>%1</b><br><span style='color:%2'>%3%4</span>")
                    .arg(QString::fromLatin1(v.method->title), color, looks ? QStringLiteral("◆ ") : QString(),
                        !v.open.empty() && !looks ? QStringLiteral("%1 to ask").arg(v.open.size())
                        : by                      ? QStringLiteral("go, by %1").arg(by->who.toHtmlEscaped())
                                                  : QString::fromLatin1(protocol::title(v.verdict)));
        if (looks && !v.findings.empty()) // the worst first
            side += QStringLiteral("<br>%1").arg(q(v.findings.front().words).toHtmlEscaped());
        if (const auto* like = arrival_.likeness(v.method)) {
            compared = true;
            side += QStringLiteral("<br><span style='color:%1'>%2</span>")
                        .arg(c.smudge.name(), q(like->sentence).toHtmlEscaped());
        }
        side += QStringLiteral("</p>");
    }
    if (!compared)
        side +=
            QStringLiteral("<p style='color:%1'>No earlier visit to compare this one with.</p>").arg(c.smudge.name());
    return side;
}

void ScreeningPage::show_known()
{
    view_ = View::known;
    title_->setText(QStringLiteral("Is all of this still true?"));
    hint_->setText((arrival_.answered_at().isValid()
                           ? QStringLiteral("A repeat: answered at %1; what may stop a test is asked again.")
                                 .arg(arrival_.answered_at().toString(QStringLiteral("HH:mm")))
                           : QStringLiteral("From the record and the last visit.")) +
                   QStringLiteral(" Click a line at the left to change it."));
    QString words;
    for (const protocol::Question* question : arrival_.questions())
        if (arrival_.known().count(question->id))
            words += QStringLiteral("<p>%1  <b>%2</b></p>")
                         .arg(q(question->words).toHtmlEscaped(),
                             answer_words(*question, arrival_.answers().at(question->id)).toHtmlEscaped());
    body_->setText(words);
    finding_->setText(QString());
    only({still_});
    redraw();
    setFocus(Qt::OtherFocusReason);
}

void ScreeningPage::show_question(int at)
{
    const auto& questions = arrival_.questions();
    if (at < 0 || at >= static_cast<int>(questions.size())) return;
    view_ = View::question;
    at_ = at;
    const protocol::Question& question = arrival_.question(at);
    title_->setText(q(question.words));
    QStringList by;
    QString reason;
    for (const schedule::Slot& s : arrival_.booking().parts)
        if (const auto* p = arrival_.book().protocol(s.method))
            for (const protocol::Rule& r : p->rules)
                if (r.question == question.id &&
                    protocol::applies(r, arrival_.house(), arrival_.person().sex, arrival_.person().age_y)) {
                    if (!by.contains(QString::fromLatin1(s.method->title))) by << QString::fromLatin1(s.method->title);
                    if (reason.isEmpty()) reason = q(r.reason);
                }
    int of = 0, group = 0; // the place in its group
    for (const protocol::Question* x : questions) group += x->group == question.group ? 1 : 0;
    for (int i = 0; i <= at; ++i) of += questions[static_cast<std::size_t>(i)]->group == question.group ? 1 : 0;
    hint_->setText(QStringLiteral("%1, %2 of %3. For %4. %5")
                       .arg(q(question.group))
                       .arg(of)
                       .arg(group)
                       .arg(by.join(QStringLiteral(", ")), reason));
    body_->setText(arrival_.aside(at));
    finding_->setText(QString());
    trouble_->setText(QString());
    const auto known = arrival_.answers().find(question.id);
    const bool open = known == arrival_.answers().end();
    if (open && !question.fact.empty() && arrival_.person().facts.count(question.fact))
        finding_->setText(
            QStringLiteral("The record says yes. Asked afresh every time: it decides whether the test may be done."));
    if (!open) finding_->setText(QStringLiteral("So far: %1").arg(answer_words(question, known->second)));
    back_->setEnabled(at > 0 || arrival_.missing_consent());
    if (question.ask == Ask::yes_no) {
        only({yes_, no_, back_});
        setFocus(Qt::OtherFocusReason);
    } else {
        typed_->clear();
        typed_->setPlaceholderText(question.ask == Ask::clock
                                       ? QStringLiteral("06:30 · yesterday 22:00 · 90 min ago · never")
                                       : q(question.unit));
        never_->set_words(QStringLiteral("not lately"));
        take_->set_words(question.ask == Ask::clock ? QStringLiteral("that is when") : QStringLiteral("so many"));
        if (question.ask == Ask::clock)
            only({typed_, take_, never_, back_, trouble_});
        else
            only({typed_, take_, back_, trouble_});
        typed_->setFocus();
    }
    redraw();
}

void ScreeningPage::take_typed()
{
    const auto typed = arrival_.read(at_, typed_->text());
    if (!typed) return trouble_->setText(q(typed.messages().front().text));
    answer(*typed);
}

void ScreeningPage::answer(const screening::Answer& a)
{
    const std::string asked = arrival_.question(at_).id;
    if (const auto why = arrival_.answer(at_, a))
        emit trouble(QStringLiteral("The answer counts here, but is not on the disk: it would be asked again if the "
                                    "program ended now. %1")
                         .arg(q(why->text)));
    next_open();
    // what the answer does to the result is said at once, above the next question
    QString words;
    for (const auto& v : arrival_.verdicts())
        for (const auto& f : v.findings)
            if (f.question == asked) {
                QString one = QStringLiteral("◆ %1: %2").arg(QString::fromLatin1(v.method->title), q(f.words));
                for (const std::string& e : f.effects) one += QStringLiteral(" Expect %1.").arg(q(e));
                words += (words.isEmpty() ? QString() : QStringLiteral("\n")) + one;
            }
    if (view_ == View::question) finding_->setText(words);
}

void ScreeningPage::show_page(std::vector<screening::Line> lines, const QString& title, const QString& hint)
{
    view_ = View::page;
    page_ = std::move(lines);
    for (Mark* mark : marks_) delete mark;
    marks_.clear();
    auto* column = static_cast<QVBoxLayout*>(page_lines_->layout());
    while (QLayoutItem* item = column->takeAt(0)) delete item;
    char cap = 'A';
    for (const screening::Line& line : page_) {
        const QString letter(QLatin1Char(cap++));
        auto* mark = new Mark(QKeySequence(letter), letter, q(line.words), QStringLiteral("◆ yes"));
        mark->setObjectName(QStringLiteral("mark_") + q(line.question->id));
        column->addWidget(mark, 0, Qt::AlignLeft);
        marks_.push_back(mark);
        connect(mark, &QAbstractButton::toggled, this, &ScreeningPage::tell_page);
    }
    column->addStretch();
    page_room_->verticalScrollBar()->setValue(0);
    title_->setText(title);
    hint_->setText(arrival_.client().full_name() + QStringLiteral(". ") + hint);
    finding_->setText(QString());
    only({page_done_, singly_});
    tell_page();
    redraw();
    setFocus(Qt::OtherFocusReason);
}

/// What was not on the screen cannot have been asked.
bool ScreeningPage::seen_to_its_end() const
{
    page_room_->parentWidget()->layout()->activate(); // a key may come before the page is laid out
    const int lines = page_lines_->layout()->minimumSize().height();
    return page_room_->verticalScrollBar()->value() + page_room_->viewport()->height() >= lines;
}

void ScreeningPage::tell_page()
{
    const bool any = std::any_of(marks_.begin(), marks_.end(), [](const Mark* m) { return m->isChecked(); });
    page_done_->set_words(!seen_to_its_end() ? QStringLiteral("show the rest")
                          : any              ? QStringLiteral("all asked; what is marked applies")
                                             : QStringLiteral("all asked, none applies"));
}

void ScreeningPage::take_page()
{
    if (!seen_to_its_end()) {
        QScrollBar* bar = page_room_->verticalScrollBar();
        return bar->setValue(bar->value() + bar->pageStep() * 9 / 10);
    }
    std::set<std::string> marked;
    for (std::size_t i = 0; i < marks_.size(); ++i)
        if (marks_[i]->isChecked()) marked.insert(page_[i].question->id);
    const std::vector<screening::Line> page = page_;
    if (const auto why = arrival_.answer(page, marked))
        emit trouble(QStringLiteral("The answers count here, but are not on the disk: they would be asked again if the "
                                    "program ended now. %1")
                         .arg(q(why->text)));
    // a clock time that is marked is asked for by itself
    for (const screening::Line& line : page)
        if (marked.count(line.question->id) && !screening::answer_of(line, true)) together_ = false;
    next_open();
}

void ScreeningPage::next_open()
{
    if (together_) {
        if (auto lines = arrival_.health_page(); !lines.empty())
            return show_page(std::move(lines), QStringLiteral("Ask each one. Does any of it apply?"),
                QStringLiteral("Mark what applies with its key. What stops a test has no way around it."));
        if (auto lines = arrival_.preparation_page(); !lines.empty())
            return show_page(std::move(lines), QStringLiteral("Prepared as the sheet asks?"),
                QStringLiteral(
                    "Mark what was otherwise: then it is asked when, and what it does to the result is said."));
    }
    if (const auto at = arrival_.first_open())
        show_question(*at);
    else
        show_summary();
}

void ScreeningPage::show_summary()
{
    view_ = View::summary;
    Verdict worst = Verdict::go;
    bool to_override = false;
    QStringList going;
    for (const auto& v : arrival_.verdicts()) {
        worst = std::max(worst, v.verdict);
        to_override |= v.may_be_overridden() && !arrival_.overridden(v.method);
        if (arrival_.may_go(v)) going << QString::fromLatin1(v.method->title);
    }
    title_->setText(going.size() == static_cast<int>(arrival_.verdicts().size())
                        ? (worst == Verdict::go ? QStringLiteral("Go") : QStringLiteral("Go, with what is noted"))
                    : !going.isEmpty()     ? QStringLiteral("Go for %1 only").arg(going.join(QStringLiteral(" and ")))
                    : worst == Verdict::no ? QStringLiteral("Not today")
                                           : QStringLiteral("Better another day"));
    hint_->setText(arrival_.kept()
                       ? QStringLiteral("Kept at %1.").arg(arrival_.asked_at().toString(QStringLiteral("HH:mm")))
                       : QStringLiteral("Nothing is stored yet."));
    body_->setText(summary_words());
    finding_->setText(QString());
    const auto unfinished = arrival_.unfinished_on_the_bench(), measured_here = arrival_.next_on_the_bench();
    start_->set_words(unfinished      ? QStringLiteral("go on with %1").arg(QString::fromLatin1((*unfinished)->title))
                      : measured_here ? QStringLiteral("go on to %1").arg(QString::fromLatin1((*measured_here)->title))
                      : !going.isEmpty() ? QStringLiteral("measured, visit done")
                                         : QStringLiteral("turned away, close the visit"));
    if (arrival_.kept())
        only({start_, again_, another_});
    else if (to_override)
        only({keep_, override_, another_, back_});
    else
        only({keep_, another_, back_});
    another_->setVisible(worst >= Verdict::another_day);
    back_->setEnabled(true);
    redraw();
    setFocus(Qt::OtherFocusReason);
}

QString ScreeningPage::summary_words() const
{
    QString words;
    for (const auto& v : arrival_.verdicts()) {
        words += QStringLiteral("<p style='margin-top:10px'><b>%1: %2</b></p>")
                     .arg(QString::fromLatin1(v.method->title), QString::fromLatin1(protocol::title(v.verdict)));
        if (v.findings.empty()) words += QStringLiteral("<p>Every rule is kept.</p>");
        for (const auto& f : v.findings) {
            words += QStringLiteral("<p>◆ %1").arg(q(f.words).toHtmlEscaped());
            for (const std::string& e : f.effects)
                words += QStringLiteral("<br>&nbsp;&nbsp;&nbsp;Expect %1.").arg(q(e).toHtmlEscaped());
            if (f.safety)
                words += QStringLiteral("<br>&nbsp;&nbsp;&nbsp;%1 There is no way around it.")
                             .arg(q(f.reason).toHtmlEscaped());
            words += QStringLiteral("</p>");
        }
        if (const auto* by = arrival_.overridden(v.method))
            words += QStringLiteral("<p>Done all the same: %1 (%2).</p>")
                         .arg(by->reason.toHtmlEscaped(), by->who.toHtmlEscaped());
        if (const auto* like = arrival_.likeness(v.method))
            for (const auto& l : like->rows)
                if (!l.same || !l.told)
                    words +=
                        QStringLiteral("<p>%1: %2.</p>").arg(q(l.what).toHtmlEscaped(), q(l.words).toHtmlEscaped());
    }
    return words;
}

void ScreeningPage::begin_override()
{
    only({reason_, keep_, another_});
    keep_->setEnabled(false); // its key must not go past the reason being written
    reason_->clear();
    reason_->setFocus();
}

void ScreeningPage::override_with(const QString& reason)
{
    const QString who = who_ ? who_() : QString();
    keep_->setEnabled(true);
    if (who.isEmpty()) return show_summary();
    if (const auto why = arrival_.go_all_the_same(who, reason)) {
        keep_->setEnabled(false);
        return emit trouble(q(why->text));
    }
    show_summary();
}

void ScreeningPage::keep()
{
    const QString who = who_ ? who_() : QString();
    if (who.isEmpty()) return;
    if (const auto why = arrival_.keep(who)) emit trouble(q(why->text));
    if (arrival_.kept()) show_summary();
}

} // namespace fusain::desk
