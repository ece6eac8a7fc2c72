// SPDX-License-Identifier: GPL-3.0-or-later
#include "work/visit/arrival.h"

#include "records/people/client_log.h"
#include "records/base/text.h"
#include "work/xray/last_scan.h"
#include "work/visit/last_visit.h"
#include "work/study/study.h"

#include <algorithm>

namespace fusain::work {

using protocol::Ask;
using protocol::Verdict;

namespace {

constexpr int shortest_reason = 5;
constexpr double most_of_a_unit = 1000;

QDateTime answered(const Lab& lab, const records::ScreeningRow& row)
{
    return QDateTime::fromString(row.at, Qt::ISODateWithMs).toTimeZone(lab.diary->zone());
}

Message bad(const char* field, const QString& text) { return {"bad_answer", Level::error, field, text.toStdString()}; }

} // namespace

std::optional<Message> Arrival::begin(long booking_id)
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
    questions_ = screening::questions(book_, house_, person_, lab_.parts(*booking_, records::minute_of(asked_at_)));
    overrides_.clear();
    in_force_ = InForce(lab_);
    last_.clear();
    known_.clear();
    answered_at_ = {};
    for (const schedule::Slot& s : booking_->parts)
        if (const auto last = last_conditions(lab_, client->id, s.method)) last_[s.method] = *last;
    const auto answers_in = [](const std::optional<records::ScreeningRow>& row) {
        return row ? row->kept.answers : screening::Answers{};
    };
    const auto done = lab_.diary->last_screening(client->id, booking_id);
    kept_ = done.has_value();
    if (done) {
        answers_ = answers_in(done);
        for (const records::VerdictKept& v : done->kept.verdicts)
            if (const auto m = method_of(v.method); m && v.overridden)
                overrides_[*m] = {q(v.overridden->who), q(v.overridden->reason)};
        // gaps are judged as of the moment they were answered
        asked_at_ = answered(lab_, *done);
    } else if (const auto draft = lab_.diary->draft(booking_id, lab_.today())) {
        know(draft->answers);
        known_.clear();
        for (const std::string& id : draft->known)
            if (answers_.count(id)) known_.insert(id);
        const QDateTime then = QDateTime::fromString(q(draft->at), Qt::ISODateWithMs);
        for (auto& [id, a] : answers_) // what lay back lies further back by now
            if (a.minutes_ago && then.isValid()) *a.minutes_ago += static_cast<double>(then.secsTo(asked_at_)) / 60;
    } else if (const auto before = screening_of_repeat()) {
        answered_at_ = answered(lab_, *before);
        know(screening::known_again(
            book_, answers_in(before), static_cast<double>(answered_at_.secsTo(asked_at_)) / 60));
    } else {
        know(screening::known_before(
            book_, person_, answers_in(lab_.diary->screening_before(client->id, lab_.today()))));
    }
    judge();
    return std::nullopt;
}

QString Arrival::aside(int at) const
{
    if (question(at).id != "scans") return {};
    const Exposure here = exposure(*lab_.store, client_->id, asked_at_);
    if (here.scans == 0) return QStringLiteral("In this lab: none.");
    return QStringLiteral("In this lab: %1%2.")
        .arg(here.scans)
        .arg(here.dose_usv > 0 ? QStringLiteral(", about %1 µSv together").arg(here.dose_usv, 0, 'f', 1) : QString());
}

std::optional<records::ScreeningRow> Arrival::screening_of_repeat() const
{
    const auto awaited = std::any_of(booking_->parts.begin(), booking_->parts.end(),
        [&](const schedule::Slot& s) { return awaiting(lab_, client_->id, s.method).has_value(); });
    const auto row = awaited ? lab_.diary->last_screening(client_->id) : std::nullopt;
    if (!row || answered(lab_, *row).date() != lab_.today() ||
        static_cast<double>(answered(lab_, *row).secsTo(asked_at_)) > repeats_hours * 3600)
        return std::nullopt;
    return row;
}

void Arrival::know(screening::Answers answers)
{
    answers_ = std::move(answers);
    std::erase_if(answers_, [&](const auto& a) {
        return std::none_of(
            questions_.begin(), questions_.end(), [&](const protocol::Question* x) { return x->id == a.first; });
    });
    known_.clear();
    for (const auto& [id, a] : answers_) known_.insert(id);
}

void Arrival::ask_again()
{
    kept_ = false;
    overrides_.clear();
    lab_.diary->drop_draft(booking_->id);
    asked_at_ = lab_.now();
    answered_at_ = {};
    know(screening::known_before(book_, person_, answers_));
    judge();
}

void Arrival::judge()
{
    const auto parts = lab_.parts(*booking_, records::minute_of(asked_at_));
    verdicts_ = screening::screen(book_, house_, person_, parts, answers_, lab_.limits_of(*booking_));
    likeness_.clear();
    for (std::size_t i = 0; i < verdicts_.size(); ++i)
        if (const auto last = last_.find(verdicts_[i].method); last != last_.end())
            likeness_[verdicts_[i].method] = comparability(in_force_, lab_.today(), verdicts_[i].method, last->second,
                lab_.conditions(booking_->parts[i], verdicts_[i]));
}

std::optional<Message> Arrival::answer(int at, const screening::Answer& a)
{
    answers_[question(at).id] = a;
    known_.erase(question(at).id);
    return take();
}

std::vector<const protocol::Question*> Arrival::open() const
{
    std::vector<const protocol::Question*> out;
    for (const protocol::Question* x : questions_) {
        const auto a = answers_.find(x->id);
        if (a == answers_.end() || !a->second.given()) out.push_back(x);
    }
    return out;
}

std::vector<screening::Line> Arrival::health_page() const { return screening::health_page(open()); }

std::vector<screening::Line> Arrival::preparation_page() const
{
    return screening::preparation_page(
        book_, house_, person_.sex, person_.age_y, lab_.parts(*booking_, records::minute_of(asked_at_)), open());
}

std::optional<Message> Arrival::answer(const std::vector<screening::Line>& page, const std::set<std::string>& marked)
{
    for (const screening::Line& line : page)
        if (const auto a = screening::answer_of(line, marked.count(line.question->id) > 0)) {
            answers_[line.question->id] = *a;
            known_.erase(line.question->id);
        }
    return take();
}

std::optional<Message> Arrival::take()
{
    auto not_kept = lab_.diary->keep_draft(booking_->id, lab_.today(),
        {asked_at_.toUTC().toString(Qt::ISODateWithMs).toStdString(), answers_, {known_.begin(), known_.end()}});
    overrides_.clear();
    judge();
    return not_kept;
}

std::optional<Arrival::Consent> Arrival::missing_consent() const
{
    if (!person_.consent) return Consent::own;
    if (person_.age_y < 18 && !person_.guardian_consent) return Consent::guardian;
    return std::nullopt;
}

std::optional<Message> Arrival::sign(const QString& signed_by, const QString& who)
{
    const auto which = missing_consent();
    if (!which) return std::nullopt;
    const bool own = *which == Consent::own;
    const QString by = own ? client_->full_name() : signed_by.trimmed();
    if (by.isEmpty())
        return bad("signed_by", QStringLiteral("Write the name of the guardian who signed; it stands in the record."));
    records::Client c = *client_;
    const QString today = lab_.today().toString(Qt::ISODate);
    (own ? c.consent_on : c.guardian_consent_on) = today;
    if (!own) c.guardian = by;
    const auto saved = lab_.store->save(c);
    if (!saved) return saved.messages().front();
    records::ClientEvent e = records::entered(records::entry::Consent{own ? "client" : "guardian", by.toStdString()});
    e.client_id = c.id;
    e.day = today;
    e.who = who;
    if (const auto noted = records::keep(*lab_.store, e); !noted) return noted.messages().front();
    client_ = *saved;
    person_ = lab_.person(*client_);
    judge();
    lab_.say_changed();
    return std::nullopt;
}

Outcome<screening::Answer> Arrival::read(int at, const QString& text) const
{
    using Read = Outcome<screening::Answer>;
    const protocol::Question& asked = question(at);
    screening::Answer a;
    if (asked.ask == Ask::number) {
        bool number = false;
        const double n = text.trimmed().replace(',', '.').toDouble(&number);
        if (!number || !(n >= 0 && n <= most_of_a_unit))
            return Read::refuse(bad(asked.id.c_str(),
                QStringLiteral("\"%1\" is not a number of %2; allowed is 0 to 1000.").arg(text, q(asked.unit))));
        a.number = n;
    } else if (records::says_never(text)) {
        a.never = true;
    } else {
        const auto when = records::read_clock(text, asked_at_);
        if (!when) return Read::refuse(when.messages().front());
        a.minutes_ago = static_cast<double>(when->secsTo(asked_at_)) / 60;
    }
    return a;
}

std::optional<int> Arrival::first_open() const
{
    for (std::size_t i = 0; i < questions_.size(); ++i) {
        const auto a = answers_.find(questions_[i]->id);
        if (a == answers_.end() || !a->second.given()) return static_cast<int>(i);
    }
    return std::nullopt;
}

const Arrival::Override* Arrival::overridden(Method method) const
{
    const auto at = overrides_.find(method);
    return at == overrides_.end() ? nullptr : &at->second;
}

const alike::Comparability* Arrival::likeness(Method method) const
{
    const auto at = likeness_.find(method);
    return at == likeness_.end() ? nullptr : &at->second;
}

bool Arrival::may_go(const screening::MethodVerdict& v) const
{
    return v.open.empty() && (v.verdict <= Verdict::noted || (overridden(v.method) && v.may_be_overridden()));
}

std::vector<Method> Arrival::not_going() const
{
    std::vector<Method> out;
    for (const auto& v : verdicts_)
        if (!may_go(v)) out.push_back(v.method);
    return out;
}

std::optional<Message> Arrival::go_all_the_same(const QString& who, const QString& reason)
{
    if (reason.size() < shortest_reason)
        return bad("override_reason",
            QStringLiteral("Write why it is done all the same; it stands in the record with your name."));
    for (const auto& v : verdicts_)
        if (v.may_be_overridden()) overrides_[v.method] = {who, reason};
    return std::nullopt;
}

std::optional<Message> Arrival::keep(const QString& who)
{
    records::ScreeningKept all;
    all.answers = answers_;
    all.house = house_;
    all.house_version = lab_.rules.house_version();
    for (std::size_t i = 0; i < verdicts_.size(); ++i) {
        const auto& v = verdicts_[i];
        const char* method = v.method->word;
        records::VerdictKept& row = all.verdicts.emplace_back();
        row.method = method;
        row.verdict = protocol::word(v.verdict);
        for (const auto& f : v.findings)
            row.findings.push_back({f.rule, protocol::word(f.verdict), f.words, f.effects});
        if (const Override* o = overridden(v.method)) row.overridden = {o->who.toStdString(), o->reason.toStdString()};
        if (const auto* p = book_.protocol(v.method)) all.protocols[method] = p->version;
        all.conditions[method] = lab_.conditions(booking_->parts[i], v);
        if (const auto* like = likeness(v.method)) all.comparability[method] = like->sentence;
    }
    const auto stored = lab_.diary->keep(
        {0, client_->id, booking_->id, asked_at_.toUTC().toString(Qt::ISODateWithMs), who, std::move(all)});
    if (!stored) return stored.messages().front();
    kept_ = true;
    lab_.diary->drop_draft(booking_->id);
    std::optional<Message> trouble;
    if (booking_->state == records::BookingState::booked)
        trouble = lab_.diary->set_state(booking_->id, records::BookingState::arrived);
    booking_ = lab_.diary->booking(booking_->id);
    lab_.say_changed();
    return trouble;
}

std::optional<Method> Arrival::next_on_the_bench() const
{
    if (!booking_) return std::nullopt;
    for (std::size_t i = 0; i < booking_->parts.size(); ++i) {
        const Method method = booking_->parts[i].method;
        const auto verdict =
            std::find_if(verdicts_.begin(), verdicts_.end(), [&](const auto& v) { return v.method == method; });
        if (verdict != verdicts_.end() && may_go(*verdict) && !(i < booking_->visits.size() && booking_->visits[i]))
            return method;
    }
    return std::nullopt;
}

std::optional<Method> Arrival::unfinished_on_the_bench() const
{
    for (std::size_t i = 0; booking_ && i < booking_->visits.size(); ++i)
        if (const auto visit = booking_->visits[i] ? lab_.store->visit(booking_->visits[i]) : std::nullopt;
            visit && !visit->finished)
            return booking_->parts[i].method;
    return std::nullopt;
}

std::optional<Message> Arrival::close()
{
    const auto closed = lab_.diary->close(booking_->id, {});
    if (!closed) return closed.messages().front();
    lab_.say_changed();
    return std::nullopt;
}

bench::event::Stops Arrival::stops_event(Method method) const
{
    bench::event::Stops out;
    if (const auto* p = book_.protocol(method)) out.protocol = p->id + ' ' + std::to_string(p->version);
    for (const auto& v : verdicts_) {
        if (v.method != method) continue;
        for (const auto& f : v.findings) {
            out.outside[f.rule] = protocol::word(f.verdict);
            out.noted.push_back(f.question);
            std::string all = f.words;
            for (const std::string& e : f.effects) all += " Expect " + e + ".";
            out.words.push_back(all);
        }
        if (const Override* o = overridden(method))
            out.words.push_back("Done all the same: " + o->reason.toStdString() + " (" + o->who.toStdString() + ").");
        if (const auto* like = likeness(method)) out.comparability = like->sentence;
    }
    const auto expecting = answers_.find("pregnancy_possible");
    // today's answer decides, the record where nobody asked
    const bool asked = expecting != answers_.end() && expecting->second.yes;
    out.pregnant = asked ? *expecting->second.yes : person_.facts.count("pregnancy_possible") > 0;
    return out;
}

} // namespace fusain::work
