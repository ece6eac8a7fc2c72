// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/screening/screening_page.h"

#include "bench/methods.h"

#include "core/base/limits.h"
#include "report/sheets/sheets.h"

#include <QScrollBar>

#include <algorithm>

namespace fusain::desk {

using look::Voice;
using protocol::Ask;
using protocol::Verdict;
using schedule::Method;

ScreeningPage::ScreeningPage(work::Lab& lab, QWidget* parent)
    : QWidget(parent), lab_(lab), list_(new AnswerList), who_label_(label("heading")), title_(label("title")),
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
    v->addWidget(new Scroll(body_), 1);
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
    for (auto* b : {yes_, no_, take_, never_, still_, keep_, start_}) first->addWidget(b);
    for (auto* b : {override_, another_, again_, back_, leave_}) second->addWidget(b);
    columns->addWidget(centre, 1);
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

    const auto said = [](bool yes) {
        screening::Answer a;
        a.yes = yes;
        return a;
    };
    connect(yes_, &QAbstractButton::clicked, this, [this, said] { answer(said(true)); });
    connect(no_, &QAbstractButton::clicked, this, [this, said] { answer(said(false)); });
    connect(never_, &QAbstractButton::clicked, this, [this] {
        screening::Answer a;
        a.never = true;
        answer(a);
    });
    connect(take_, &QAbstractButton::clicked, this, &ScreeningPage::take_typed);
    connect(typed_, &QLineEdit::returnPressed, this, &ScreeningPage::take_typed);
    connect(still_, &QAbstractButton::clicked, this, &ScreeningPage::next_open);
    connect(keep_, &QAbstractButton::clicked, this, &ScreeningPage::keep);
    connect(override_, &QAbstractButton::clicked, this, &ScreeningPage::begin_override);
    connect(reason_, &QLineEdit::returnPressed, this, [this] { override_with(reason_->text().trimmed()); });
    connect(another_, &QAbstractButton::clicked, this, [this] {
        std::vector<Method> methods;
        for (const auto& x : verdicts_)
            if (!may_go(x)) methods.push_back(x.method);
        if (!kept_) keep();
        if (kept_) emit another_day(client_->id, methods);
    });
    connect(start_, &QAbstractButton::clicked, this, [this] {
        if (const auto method = next_on_the_bench()) return emit start_test(booking_->id, *method);
        // what may go and has no bench here was measured on another instrument's own screen
        std::vector<Method> elsewhere;
        for (const auto& x : verdicts_)
            if (may_go(x) && !bench::method_row(x.method)) elsewhere.push_back(x.method);
        if (const auto closed = lab_.diary->close(booking_->id, elsewhere); !closed)
            return emit trouble(q(closed.messages().front().text));
        lab_.say_changed();
        emit left();
    });
    connect(again_, &QAbstractButton::clicked, this, [this] {
        kept_ = false;
        overrides_.clear();
        asked_at_ = lab_.now();
        answers_ = screening::known_before(book_, person_, answers_);
        show_known();
    });
    connect(back_, &QAbstractButton::clicked, this, [this] {
        if (view_ == View::question && at_ > 0)
            show_question(at_ - 1);
        else if (view_ == View::summary && !questions_.empty())
            show_question(static_cast<int>(questions_.size()) - 1);
    });
    connect(leave_, &QAbstractButton::clicked, this, &ScreeningPage::left);
    connect(list_, &AnswerList::chosen, this, [this](int row) {
        if (!kept_) show_question(row);
    });
    setFocusPolicy(Qt::StrongFocus);
    with_theme(this, [this] { share_room(); });
}

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
             static_cast<QWidget*>(reason_), static_cast<QWidget*>(trouble_)})
        w->setVisible(std::find(shown.begin(), shown.end(), w) != shown.end());
}

std::optional<Message> ScreeningPage::begin(long booking_id)
{
    const auto booking = lab_.diary->booking(booking_id);
    const auto client = booking ? lab_.store->client(booking->client_id) : std::nullopt;
    if (!booking || !client) return Message{"unknown_booking", Level::error, "booking", "There is no such visit."};
    booking_ = booking;
    client_ = client;
    person_ = lab_.person(*client);
    book_ = lab_.rules.book();
    house_ = lab_.rules.house();
    asked_at_ = lab_.now();
    const auto parts = lab_.parts(*booking_, records::minute_of(asked_at_));
    questions_ = screening::questions(book_, house_, person_, parts);
    overrides_.clear();
    last_.clear();
    for (const schedule::Slot& s : booking_->parts)
        if (const auto last = lab_.last_conditions(client->id, s.method)) last_[s.method] = *last;
    kept_ = false;
    who_label_->setText(client->full_name());
    const auto done = lab_.diary->last_screening(client->id, booking_id);
    const auto before = lab_.diary->screening_before(client->id, lab_.today());
    if (done) {
        answers_ = records::answers_from(done->body.value("answers", bench::Json::object()));
        known_.clear();
        const bench::Json verdicts = done->body.value("verdicts", bench::Json::array());
        for (const auto& row : verdicts)
            if (const auto m = protocol::method_of(row.value("method", "")); m && row.contains("override"))
                overrides_[*m] = {q(row["override"].value("who", "")), q(row["override"].value("reason", ""))};
        // gaps are judged as of the moment they were answered
        asked_at_ = QDateTime::fromString(done->at, Qt::ISODateWithMs).toTimeZone(lab_.diary->zone());
        kept_ = true;
        judge();
        show_summary();
        return std::nullopt;
    }
    answers_ = screening::known_before(book_, person_,
        before ? records::answers_from(before->body.value("answers", bench::Json::object())) : screening::Answers{});
    for (auto a = answers_.begin(); a != answers_.end();)
        a = std::any_of(
                questions_.begin(), questions_.end(), [&](const protocol::Question* x) { return x->id == a->first; })
                ? std::next(a)
                : answers_.erase(a);
    known_.clear();
    for (const auto& [id, a] : answers_) known_.insert(id);
    judge();
    if (known_.empty())
        next_open();
    else
        show_known();
    return std::nullopt;
}

QString ScreeningPage::answer_words(const protocol::Question& question, const screening::Answer& a) const
{
    if (a.never) return QStringLiteral("not lately");
    if (a.yes) return *a.yes ? QStringLiteral("yes") : QStringLiteral("no");
    if (a.number) return q(limits::plain(*a.number)) + ' ' + q(question.unit);
    if (a.minutes_ago)
        return QStringLiteral("%1, %2 ago")
            .arg(records::clock_words(asked_at_.addSecs(-static_cast<qint64>(60 * *a.minutes_ago)), asked_at_.date()),
                q(protocol::span_words(*a.minutes_ago)));
    return {};
}

bool ScreeningPage::may_go(const screening::MethodVerdict& v) const
{
    return v.open.empty() && (v.verdict <= Verdict::noted || (overridden(v.method) && v.may_be_overridden()));
}

void ScreeningPage::judge()
{
    const auto parts = lab_.parts(*booking_, records::minute_of(asked_at_));
    verdicts_ = screening::screen(book_, house_, person_, parts, answers_, lab_.limits_of(*booking_));
    likeness_.clear();
    for (std::size_t i = 0; i < verdicts_.size(); ++i)
        if (const auto last = last_.find(verdicts_[i].method); last != last_.end())
            likeness_[verdicts_[i].method] =
                screening::compare(last->second, lab_.conditions(booking_->parts[i], verdicts_[i]));
    redraw();
}

void ScreeningPage::redraw()
{
    std::vector<AnswerList::Row> rows;
    for (const protocol::Question* question : questions_) {
        AnswerList::Row row{q(question->group), q(question->words), QString(), 0, known_.count(question->id) > 0};
        const auto a = answers_.find(question->id);
        if (a != answers_.end() && a->second.given()) {
            row.answer = answer_words(*question, a->second);
            row.mark = 1;
            for (const auto& v : verdicts_)
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
    const look::Palette& c = Theme::get().palette();
    QString side;
    for (const auto& v : verdicts_) {
        const bool go = may_go(v);
        const QString color = v.verdict >= Verdict::another_day && !go ? c.look_here.name() : c.ink.name();
        side += QStringLiteral("<p style='margin-bottom:2px'><b>%1</b><br><span style='color:%2'>%3%4</span>")
                    .arg(QString::fromLatin1(protocol::title(v.method)), color,
                        v.verdict >= Verdict::another_day ? QStringLiteral("◆ ") : QString(),
                        v.open.empty() || v.verdict >= Verdict::another_day
                            ? (overridden(v.method)
                                      ? QStringLiteral("go, by %1").arg(overrides_[v.method].who.toHtmlEscaped())
                                      : QString::fromLatin1(protocol::title(v.verdict)))
                            : QStringLiteral("%1 to ask").arg(v.open.size()));
        if (const auto like = likeness_.find(v.method); like != likeness_.end())
            side += QStringLiteral("<br><span style='color:%1'>%2</span>")
                        .arg(c.smudge.name(), q(like->second.sentence).toHtmlEscaped());
        side += QStringLiteral("</p>");
    }
    if (likeness_.empty())
        side +=
            QStringLiteral("<p style='color:%1'>No earlier visit to compare this one with.</p>").arg(c.smudge.name());
    side_->setText(side);
}

void ScreeningPage::show_known()
{
    view_ = View::known;
    title_->setText(QStringLiteral("Is all of this still true?"));
    hint_->setText(QStringLiteral("From the record and the last visit. Click a line at the left to change it."));
    QString words;
    for (const protocol::Question* question : questions_)
        if (known_.count(question->id))
            words += QStringLiteral("<p>%1  <b>%2</b></p>")
                         .arg(q(question->words).toHtmlEscaped(),
                             answer_words(*question, answers_[question->id]).toHtmlEscaped());
    body_->setText(words);
    finding_->setText(QString());
    only({still_});
    redraw();
    setFocus(Qt::OtherFocusReason);
}

void ScreeningPage::show_question(int at)
{
    if (at < 0 || at >= static_cast<int>(questions_.size())) return;
    view_ = View::question;
    at_ = at;
    const protocol::Question& question = *questions_[static_cast<std::size_t>(at)];
    title_->setText(q(question.words));
    QStringList by;
    QString reason;
    for (const schedule::Slot& s : booking_->parts)
        if (const auto* p = book_.protocol(s.method))
            for (const protocol::Rule& r : p->rules)
                if (r.question == question.id && protocol::applies(r, house_, person_.sex, person_.age_y)) {
                    if (!by.contains(QString::fromLatin1(protocol::title(s.method))))
                        by << QString::fromLatin1(protocol::title(s.method));
                    if (reason.isEmpty()) reason = q(r.reason);
                }
    int of = 0, group = 0; // the place in its group
    for (const protocol::Question* x : questions_) group += x->group == question.group ? 1 : 0;
    for (int i = 0; i <= at; ++i) of += questions_[static_cast<std::size_t>(i)]->group == question.group ? 1 : 0;
    hint_->setText(QStringLiteral("%1, %2 of %3. For %4. %5")
                       .arg(q(question.group))
                       .arg(of)
                       .arg(group)
                       .arg(by.join(QStringLiteral(", ")), reason));
    body_->setText(QString());
    finding_->setText(QString());
    trouble_->setText(QString());
    const auto known = answers_.find(question.id);
    if (known == answers_.end() && !question.fact.empty() && person_.facts.count(question.fact))
        finding_->setText(
            QStringLiteral("The record says yes. Asked afresh every time: it decides whether the test may be done."));
    if (known != answers_.end())
        finding_->setText(QStringLiteral("So far: %1").arg(answer_words(question, known->second)));
    back_->setEnabled(at > 0);
    if (question.ask == Ask::yes_no) {
        only({yes_, no_, back_});
        setFocus(Qt::OtherFocusReason);
    } else {
        typed_->clear();
        typed_->setPlaceholderText(question.ask == Ask::clock
                                       ? QStringLiteral("06:30 · yesterday 22:00 · 90 min ago · never")
                                       : q(question.unit));
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
    const protocol::Question& question = *questions_[static_cast<std::size_t>(at_)];
    screening::Answer a;
    if (question.ask == Ask::number) {
        bool number = false;
        const double n = typed_->text().trimmed().replace(',', '.').toDouble(&number);
        if (!number || !(n >= 0 && n <= 1000))
            return trouble_->setText(QStringLiteral("\"%1\" is not a number of %2; allowed is 0 to 1000.")
                                         .arg(typed_->text(), q(question.unit)));
        a.number = n;
    } else if (records::says_never(typed_->text())) {
        a.never = true;
    } else {
        const auto at = records::read_clock(typed_->text(), asked_at_);
        if (!at) return trouble_->setText(q(at.messages().front().text));
        a.minutes_ago = static_cast<double>(at->secsTo(asked_at_)) / 60;
    }
    answer(a);
}

void ScreeningPage::answer(screening::Answer a)
{
    const protocol::Question& question = *questions_[static_cast<std::size_t>(at_)];
    answers_[question.id] = a;
    known_.erase(question.id);
    overrides_.clear(); // the reason was given for other answers
    judge();
    next_open();
    // what the answer does to the result is said at once, above the next question
    QString words;
    for (const auto& v : verdicts_)
        for (const auto& f : v.findings)
            if (f.question == question.id) {
                QString one =
                    QStringLiteral("◆ %1: %2").arg(QString::fromLatin1(protocol::title(v.method)), q(f.words));
                for (const std::string& e : f.effects) one += QStringLiteral(" Expect %1.").arg(q(e));
                words += (words.isEmpty() ? QString() : QStringLiteral("\n")) + one;
            }
    if (view_ == View::question) finding_->setText(words);
}

void ScreeningPage::next_open()
{
    for (std::size_t i = 0; i < questions_.size(); ++i) {
        const auto a = answers_.find(questions_[i]->id);
        if (a == answers_.end() || !a->second.given()) return show_question(static_cast<int>(i));
    }
    show_summary();
}

void ScreeningPage::show_summary()
{
    view_ = View::summary;
    Verdict worst = Verdict::go;
    bool any_go = false, to_override = false;
    QStringList going;
    for (const auto& v : verdicts_) {
        worst = std::max(worst, v.verdict);
        any_go |= may_go(v);
        to_override |= v.may_be_overridden() && !overridden(v.method);
        if (may_go(v)) going << QString::fromLatin1(protocol::title(v.method));
    }
    title_->setText(going.size() == static_cast<int>(verdicts_.size())
                        ? (worst == Verdict::go ? QStringLiteral("Go") : QStringLiteral("Go, with what is noted"))
                    : any_go               ? QStringLiteral("Go for %1 only").arg(going.join(QStringLiteral(" and ")))
                    : worst == Verdict::no ? QStringLiteral("Not today")
                                           : QStringLiteral("Better another day"));
    hint_->setText(kept_ ? QStringLiteral("Kept at %1.").arg(asked_at_.toString(QStringLiteral("HH:mm")))
                         : QStringLiteral("Nothing is stored yet."));
    QString words;
    for (const auto& v : verdicts_) {
        words +=
            QStringLiteral("<p style='margin-top:10px'><b>%1: %2</b></p>")
                .arg(QString::fromLatin1(protocol::title(v.method)), QString::fromLatin1(protocol::title(v.verdict)));
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
        if (overridden(v.method))
            words += QStringLiteral("<p>Done all the same: %1 (%2).</p>")
                         .arg(overrides_[v.method].reason.toHtmlEscaped(), overrides_[v.method].who.toHtmlEscaped());
        if (const auto like = likeness_.find(v.method); like != likeness_.end())
            for (const auto& l : like->second.rows)
                if (!l.same || !l.told)
                    words +=
                        QStringLiteral("<p>%1: %2.</p>").arg(q(l.what).toHtmlEscaped(), q(l.words).toHtmlEscaped());
    }
    body_->setText(words);
    finding_->setText(QString());
    const auto measured_here = next_on_the_bench();
    start_->set_words(measured_here
                          ? QStringLiteral("go on to %1").arg(QString::fromLatin1(protocol::title(*measured_here)))
                      : any_go ? QStringLiteral("measured, visit done")
                               : QStringLiteral("turned away, close the visit"));
    if (kept_)
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

std::optional<Method> ScreeningPage::next_on_the_bench() const
{
    if (!booking_) return std::nullopt;
    for (std::size_t i = 0; i < booking_->parts.size(); ++i) {
        const Method method = booking_->parts[i].method;
        const auto verdict =
            std::find_if(verdicts_.begin(), verdicts_.end(), [&](const auto& v) { return v.method == method; });
        if (bench::method_row(method) && verdict != verdicts_.end() && may_go(*verdict) &&
            !(i < booking_->visits.size() && booking_->visits[i]))
            return method;
    }
    return std::nullopt;
}

std::optional<Method> ScreeningPage::next_of(long booking_id)
{
    if (!booking_ || booking_->id != booking_id || !kept_) return std::nullopt;
    booking_ = lab_.diary->booking(booking_id);
    return next_on_the_bench();
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
    if (reason.size() < 5) {
        keep_->setEnabled(false);
        return emit trouble(
            QStringLiteral("Write why it is done all the same; it stands in the record with your name."));
    }
    for (const auto& v : verdicts_)
        if (v.may_be_overridden()) overrides_[v.method] = {who, reason};
    show_summary();
}

void ScreeningPage::keep()
{
    const QString who = who_ ? who_() : QString();
    if (who.isEmpty()) return;
    bench::Json verdicts = bench::Json::array(), protocols = bench::Json::object(), conditions = bench::Json::object(),
                likeness = bench::Json::object();
    for (std::size_t i = 0; i < verdicts_.size(); ++i) {
        const auto& v = verdicts_[i];
        bench::Json findings = bench::Json::array();
        for (const auto& f : v.findings)
            findings.push_back(
                {{"rule", f.rule}, {"verdict", protocol::word(f.verdict)}, {"words", f.words}, {"effects", f.effects}});
        bench::Json row = {
            {"method", protocol::word(v.method)}, {"verdict", protocol::word(v.verdict)}, {"findings", findings}};
        if (overridden(v.method))
            row["override"] = {
                {"who", overrides_[v.method].who.toStdString()}, {"reason", overrides_[v.method].reason.toStdString()}};
        verdicts.push_back(row);
        if (const auto* p = book_.protocol(v.method)) protocols[protocol::word(v.method)] = p->version;
        conditions[protocol::word(v.method)] = records::to_json(lab_.conditions(booking_->parts[i], v));
        if (const auto like = likeness_.find(v.method); like != likeness_.end())
            likeness[protocol::word(v.method)] = like->second.sentence;
    }
    const auto stored = lab_.diary->keep({0, client_->id, booking_->id, asked_at_.toUTC().toString(Qt::ISODateWithMs),
        who,
        {{"answers", records::to_json(answers_)}, {"verdicts", verdicts}, {"protocols", protocols}, {"house", house_},
            {"house_version", lab_.rules.house_version()}, {"conditions", conditions}, {"comparability", likeness}}});
    if (!stored) return emit trouble(q(stored.messages().front().text));
    kept_ = true;
    if (booking_->state == records::BookingState::booked)
        if (const auto why = lab_.diary->set_state(booking_->id, records::BookingState::arrived))
            emit trouble(q(why->text));
    booking_ = lab_.diary->booking(booking_->id);
    lab_.say_changed();
    show_summary();
}

bench::Json ScreeningPage::stops_event(Method method) const
{
    bench::Json noted = bench::Json::array(), words = bench::Json::array();
    std::string comparability, used;
    bench::Json outside = bench::Json::object();
    if (const auto* p = book_.protocol(method)) used = p->id + ' ' + std::to_string(p->version);
    for (const auto& v : verdicts_) {
        if (v.method != method) continue;
        for (const auto& f : v.findings) outside[f.rule] = protocol::word(f.verdict);
        for (const auto& f : v.findings) {
            noted.push_back(f.question);
            std::string all = f.words;
            for (const std::string& e : f.effects) all += " Expect " + e + ".";
            words.push_back(all);
        }
        if (overridden(method))
            words.push_back("Done all the same: " + overrides_.at(method).reason.toStdString() + " (" +
                            overrides_.at(method).who.toStdString() + ").");
        if (const auto like = likeness_.find(method); like != likeness_.end()) comparability = like->second.sentence;
    }
    const auto expecting = answers_.find("pregnancy_possible");
    // today's answer decides, the record where nobody asked
    const bool asked = expecting != answers_.end() && expecting->second.yes;
    const bool pregnant = asked ? *expecting->second.yes : person_.facts.count("pregnancy_possible") > 0;
    return {{"stop", bench::Json::array()}, {"noted", noted}, {"words", words}, {"comparability", comparability},
        {"outside", outside}, {"protocol", used}, {"pregnant", pregnant}};
}

} // namespace fusain::desk
