// SPDX-License-Identifier: GPL-3.0-or-later
// What is done in a study: it is begun, repeats are taken or refused, and it is closed.
#include "work/study/parts.h"

#include "bench/visit/methods.h"
#include "records/store/overview.h"

#include <QCryptographicHash>

#include <algorithm>
#include <set>

namespace fusain::work {

using namespace studying;

namespace {

template <class E>
Outcome<records::GroupEvent> entered(Lab& lab, long study, const QString& who, E event)
{
    event.local = lab.now().toString(Qt::ISODate).toStdString();
    auto done = records::keep(
        *lab.store, records::study_log(), {0, study, {}, who, QString::fromLatin1(E::kind), bench::written(event)});
    if (done) lab.say_changed();
    return done;
}

template <class E>
std::optional<Message> kept(Lab& lab, long study, const QString& who, E event)
{
    const auto done = entered(lab, study, who, std::move(event));
    return done ? std::nullopt : std::optional(done.messages().front());
}

in_study::Begun begun(const Design& d)
{
    in_study::Begun out;
    out.what = word(d.kind);
    out.method = d.method->word;
    out.instrument = d.instrument.toStdString();
    out.second = d.second.toStdString();
    out.repaired_on = d.repaired_on.toString(Qt::ISODate).toStdString();
    for (const QString& name : d.operators) out.operators.push_back(name.toStdString());
    out.people = d.people;
    out.times = d.times;
    return out;
}

/// Digests of what was recorded in it, and of the files that readings came from.
std::set<QByteArray> recordings(const Lab& lab, long visit_id)
{
    std::set<QByteArray> out;
    for (int trial : lab.store->recorded(visit_id))
        if (const auto s = lab.store->signal(visit_id, trial); s && !s->empty())
            out.insert(QCryptographicHash::hash(QByteArray::fromRawData(reinterpret_cast<const char*>(s->values.data()),
                                                    static_cast<qsizetype>(s->values.size() * sizeof(double))),
                QCryptographicHash::Sha256));
    for (const bench::Event& e : lab.store->events(visit_id))
        if (e.is<bench::event::TrialTyped>())
            if (const auto typed = bench::read<bench::event::TrialTyped>(e.body); typed && typed->source == "file")
                out.insert(QByteArray::fromStdString(typed->sha256));
    return out;
}

/// Why a test is no repeat of the same person's on another day.
std::optional<Message> no_day_of_its_own(const Lab& lab, const Member& m, const QDateTime& at, double mass_kg)
{
    const auto days = std::abs(m.at.date().daysTo(at.date()));
    if (days == 0)
        return say("same_day", "visit",
            QStringLiteral("It was made on the day of the person's other repeat: this study asks what days do to a "
                           "body, so each has a day of its own."));
    if (static_cast<double>(days) > repeats_days)
        return say("too_far_apart", "visit",
            QStringLiteral("It lies %1 days from the person's other repeat; allowed are %2: a body changes for good "
                           "in that time.")
                .arg(days)
                .arg(repeats_days));
    const auto other = lab.store->snapshot(m.visit_id);
    if (other && std::abs(other->mass_kg - mass_kg) > repeats_mass_kg)
        return say("another_body", "visit",
            QStringLiteral("The mass differs by %1 kg from the person's other repeat; allowed is %2 kg: more than days "
                           "do.")
                .arg(std::abs(other->mass_kg - mass_kg), 0, 'f', 1)
                .arg(repeats_mass_kg));
    return std::nullopt;
}

bool awaits(const Study& s, long client_id, const QString& method)
{
    return s.open() && s.awaited && s.awaited->client_id == client_id && QLatin1String(s.design.method->word) == method;
}

} // namespace

Outcome<long> begin_study(Lab& lab, const Design& design, const QString& who)
{
    if (Messages bad = check(design, lab); !bad.empty()) return Outcome<long>::refuse(std::move(bad));
    const auto done = entered(lab, 0, who, begun(design));
    if (!done) return Outcome<long>::refuse(done.messages());
    return done->group;
}

std::optional<Message> refusal(const Lab& lab, const Study& s, long visit_id)
{
    const auto no = [](const char* code, const QString& text) { return say(code, "visit", text); };
    if (!s.open()) return no("study_over", QStringLiteral("The study is over; nothing is added to it."));
    if (std::any_of(s.members.begin(), s.members.end(), [&](const Member& m) { return m.visit_id == visit_id; }))
        return no("in_it_already", QStringLiteral("This visit is in the study already."));
    const auto row = lab.store->visit(visit_id);
    const auto told = lab.store->snapshot(visit_id);
    if (!row || !row->measured() || !told || told->result.values.empty())
        return no("not_measured", QStringLiteral("This visit has no result: only a finished test is a repeat."));
    if (told->method != s.design.method)
        return no("other_method",
            QStringLiteral("It was made by %1, the study is of %2.")
                .arg(QString::fromLatin1(told->method->title), QString::fromLatin1(s.design.method->title)));
    const QString serial = q(told->conditions.instrument);
    if (serial != s.design.instrument && (s.design.kind != StudyKind::instruments || serial != s.design.second))
        return no("other_instrument", QStringLiteral("It was made on %1, which the study is not of.")
                                          .arg(serial.isEmpty() ? QStringLiteral("an instrument that was not noted")
                                                                : lab.instrument_name(serial.toStdString())));
    if (!s.design.operators.contains(row->technician))
        return no("other_operator", QStringLiteral("It was made by %1; the study counts repeats of %2.")
                                        .arg(row->technician, s.design.operators.join(QStringLiteral(", "))));
    if (!s.equations.empty() && equations_of(*told).toStdString() != s.equations)
        return no("other_equations", QStringLiteral("It was reckoned with %1, the others with %2: the difference would "
                                                    "pass for scatter. Choose alike at its result first.")
                                         .arg(equations_of(*told), q(s.equations)));
    const QDateTime at = began(lab, *told);
    const int side = side_of(s.design, *told);
    std::optional<std::set<QByteArray>> own;
    for (const Member& m : s.members) {
        if (s.clients[static_cast<std::size_t>(m.person)] != row->client_id) continue;
        if (s.design.kind == StudyKind::repair && m.side != side) {
            const auto other = lab.store->snapshot(m.visit_id);
            if (std::abs(m.at.daysTo(at)) > repair_days)
                return no("too_far_apart", QStringLiteral("Tests before and after a repair lie at most %1 days apart; "
                                                          "these are %2.")
                                               .arg(repair_days)
                                               .arg(std::abs(m.at.daysTo(at))));
            if (other && std::abs(other->mass_kg - told->mass_kg) > repair_mass_kg)
                return no("another_body",
                    QStringLiteral("The mass differs by %1 kg from the test on the other side; allowed is %2 kg: the "
                                   "body has changed, not only the instrument.")
                        .arg(std::abs(other->mass_kg - told->mass_kg), 0, 'f', 1)
                        .arg(repair_mass_kg));
        } else if (s.over_days()) {
            if (auto why = no_day_of_its_own(lab, m, at, told->mass_kg)) return why;
        } else if (std::abs(static_cast<double>(m.at.secsTo(at))) > repeats_hours * 3600) {
            return no("too_far_apart",
                QStringLiteral("It lies %1 from the person's other repeat; allowed is %2 h. What a day does to a body "
                               "is no scatter of the instrument.")
                    .arg(m.at.date() == at.date()
                             ? QStringLiteral("%1 h").arg(
                                   std::abs(static_cast<double>(m.at.secsTo(at))) / 3600, 0, 'f', 1)
                             : QStringLiteral("%1 days").arg(std::abs(m.at.date().daysTo(at.date()))))
                    .arg(repeats_hours));
        }
        if (!own) own = recordings(lab, visit_id);
        const auto other = recordings(lab, m.visit_id);
        const bool same =
            std::any_of(own->begin(), own->end(), [&](const QByteArray& d) { return other.count(d) > 0; });
        if (same)
            return no("same_recording",
                QStringLiteral("It holds the same recording as the person's test of %1: that is one measurement twice.")
                    .arg(m.at.toString(QStringLiteral("HH:mm"))));
    }
    return std::nullopt;
}

std::optional<Message> take_repeat(Lab& lab, long id, long visit_id, bool anew, const QString& who)
{
    const auto s = study(lab, id);
    if (!s) return say("unknown_choice", "study", QStringLiteral("There is no such study."));
    if (auto why = refusal(lab, *s, visit_id)) return why;
    const auto row = lab.store->visit(visit_id);
    const auto person = std::find(s->clients.begin(), s->clients.end(), row->client_id);
    if (!anew && person != s->clients.end())
        return say("not_repositioned", "repositioned",
            QStringLiteral("A repeat counts only when the person was placed anew before it: what placing is worth is "
                           "what the study measures."));
    return kept(lab, id, who,
        in_study::Repeat{{}, visit_id, row->started_at.toStdString(), row->technician.toStdString(), anew});
}

std::optional<Message> await_repeat(Lab& lab, long id, long client_id, bool anew, const QString& who)
{
    const auto s = study(lab, id);
    if (!s || !s->open()) return say("study_over", "study", QStringLiteral("The study is over."));
    if (!s->design.operators.contains(who))
        return say("other_operator", "technician",
            QStringLiteral("The study counts repeats of %1; at the top right stands %2.")
                .arg(s->design.operators.join(QStringLiteral(", ")), who));
    const bool first = std::find(s->clients.begin(), s->clients.end(), client_id) == s->clients.end();
    if (!anew && !first)
        return say("not_repositioned", "repositioned",
            QStringLiteral("Say first that the person was placed anew: %1")
                .arg(QString::fromUtf8(bench::bench_of(s->design.method).anew)));
    return kept(lab, id, who, in_study::Repositioned{{}, client_id, anew});
}

long study_of(const Lab& lab, long visit_id)
{
    const auto row = lab.store->visit(visit_id);
    const auto method = row ? method_of(row->method.toStdString()) : std::nullopt;
    if (!method) return 0;
    long in = 0;
    for (const records::GroupEvent& e : records::events_of(*lab.store, records::study_log()))
        if (is<in_study::Repeat>(e)) {
            const auto repeat = bench::said<in_study::Repeat>(e.body);
            if (repeat.visit == visit_id && repeat.started_at == row->started_at.toStdString()) in = e.group;
        } else if (e.group == in && (is<in_study::Closed>(e) || is<in_study::GivenUp>(e))) {
            in = 0;
        }
    if (in) return in;
    const auto s = awaiting(lab, row->client_id, *method);
    return s ? s->id : 0;
}

std::optional<Study> awaiting(const Lab& lab, long client_id, Method method)
{
    // everybody's screening asks: for most the log alone says no, without a look at any repeat
    const auto log = records::events_of(*lab.store, records::study_log());
    if (std::none_of(log.begin(), log.end(), [&](const records::GroupEvent& e) {
            return is<in_study::Repositioned>(e) && bench::said<in_study::Repositioned>(e.body).client == client_id;
        }))
        return std::nullopt;
    for (Study& s : studies(lab))
        if (awaits(s, client_id, QString::fromLatin1(method->word))) return std::move(s);
    return std::nullopt;
}

std::optional<Outcome<long>> join_study(Lab& lab, long visit_id)
{
    const auto row = lab.store->visit(visit_id);
    const auto method = row ? method_of(row->method.toStdString()) : std::nullopt;
    const auto s = method ? awaiting(lab, row->client_id, *method) : std::nullopt;
    if (!s) return std::nullopt;
    if (auto why = take_repeat(lab, s->id, visit_id, true, row->technician)) return Outcome<long>::refuse(*why);
    return Outcome<long>(s->id);
}

std::optional<Message> leave_out(Lab& lab, long id, long visit_id, const QString& reason, const QString& who)
{
    const auto s = study(lab, id);
    if (!s || !s->open()) return say("study_over", "study", QStringLiteral("The study is over."));
    if (reason.simplified().size() < 3)
        return say("missing_field", "reason",
            QStringLiteral("A repeat is left out only with a reason: what was seen to go wrong. That it lies far off "
                           "is none."));
    return kept(lab, id, who, in_study::LeftOut{{}, visit_id, reason.simplified().toStdString()});
}

std::optional<Message> take_back(Lab& lab, long id, long visit_id, const QString& who)
{
    const auto s = study(lab, id);
    if (!s || !s->open()) return say("study_over", "study", QStringLiteral("The study is over."));
    return kept(lab, id, who, in_study::TakenBack{{}, visit_id});
}

std::optional<Message> give_up(Lab& lab, long id, const QString& reason, const QString& who)
{
    const auto s = study(lab, id);
    if (!s || !s->open()) return say("study_over", "study", QStringLiteral("The study is over."));
    if (reason.simplified().size() < 3)
        return say("missing_field", "reason", QStringLiteral("A study is given up only with a reason."));
    return kept(lab, id, who, in_study::GivenUp{{}, reason.simplified().toStdString()});
}

std::vector<Candidate> candidates(const Lab& lab, const Study& s)
{
    std::vector<Candidate> out;
    if (!s.open()) return out;
    const bool by_days = s.over_days();
    const double days = s.design.kind == StudyKind::repair ? 2 * repair_days : by_days ? repeats_days : 1;
    for (const long id : records::measured_again(*lab.store, QString::fromLatin1(s.design.method->word), days)) {
        const auto client = lab.store->client(id);
        if (!client) continue;
        const bool in_it = std::find(s.clients.begin(), s.clients.end(), id) != s.clients.end();
        std::vector<Candidate> own;
        for (const auto& [visit, told] : lab.store->snapshots_of(id))
            if (told.method == s.design.method && !refusal(lab, s, visit))
                own.push_back({visit, id, client->full_name(), lab.store->visit(visit)->technician, began(lab, told)});
        std::sort(own.begin(), own.end(), [](const Candidate& a, const Candidate& b) { return a.at < b.at; });
        // a lone test is a repeat of nothing
        const auto has_other = [&](const Candidate& c) {
            return std::any_of(own.begin(), own.end(), [&](const Candidate& o) {
                if (by_days && o.at.date() == c.at.date()) return false;
                const double apart_s = s.design.kind == StudyKind::repair ? repair_days * 86400
                                       : by_days                          ? repeats_days * 86400
                                                                          : repeats_hours * 3600;
                return o.visit_id != c.visit_id && std::abs(static_cast<double>(o.at.secsTo(c.at))) <= apart_s;
            });
        };
        for (const Candidate& c : own)
            if (in_it || has_other(c)) out.push_back(c);
    }
    std::stable_sort(out.begin(), out.end(),
        [](const Candidate& a, const Candidate& b) { return a.name != b.name ? a.name < b.name : a.at < b.at; });
    return out;
}

std::optional<Message> close_study(Lab& lab, long id, const QString& who)
{
    const auto s = study(lab, id);
    if (!s || !s->open()) return say("study_over", "study", QStringLiteral("The study is over."));
    in_study::Closed closed;
    closed.equations = s->equations;
    if (s->compares()) {
        const auto all = compared(*s, lab);
        if (!all) return all.messages().front();
        for (const Compared& c : *all) {
            const study::Comparison& by = c.comparison;
            closed.noise_lsc[c.quantity->id] = c.lsc;
            closed.results[c.quantity->id].beside = {
                by.n, by.shift, by.shift_within, by.sd, by.low, by.high, by.lsc, study::word(by.verdict)};
        }
    } else {
        const auto all = repeated(*s);
        if (!all) return all.messages().front();
        const int people = static_cast<int>(s->people.size());
        int counted = 0;
        for (int i = 0; i < people; ++i) counted += s->count(i) > 1;
        if (counted < fewest_people)
            return say("too_few_people", "people",
                QStringLiteral("One person's repeats tell of nobody else: two people and more are needed, fifteen with "
                               "three repeats each are worth having."));
        for (const Repeated& t : *all) {
            if (t.quantity == &quantity::fat_percent && !(t.value(quantity::rms_sd) > 0))
                return say("all_equal", "repeats",
                    QStringLiteral("All repeats of percent fat are equal. Either the display rounds coarsely, or "
                                   "numbers were copied: no change would be noise any more, so it is not used."));
            closed.results[t.quantity->id].repeats = {t.value(quantity::rms_sd), t.value(quantity::lsc),
                t.value(quantity::degrees_of_freedom), t.effective_degrees, t.value(quantity::rms_sd_upper),
                t.held_against()};
        }
    }
    for (int i = 0; i < static_cast<int>(s->people.size()); ++i) {
        auto& person = closed.people.emplace_back();
        for (const Member& m : s->members) {
            if (m.person != i) continue;
            in_study::MemberKept& one = person.emplace_back();
            one.who = m.who.toStdString();
            one.at = m.at.toString(Qt::ISODate).toStdString();
            one.side = m.side;
            one.left_out = m.left_out.toStdString();
            for (const auto& [of, value] : m.values) one.values[of->id] = value;
        }
    }
    return kept(lab, id, who, std::move(closed));
}

} // namespace fusain::work
