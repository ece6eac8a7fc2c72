// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/before/screening.h"

#include "core/base/limits.h"

#include <algorithm>
#include <cmath>

namespace fusain::screening {

using namespace protocol;

namespace {

std::string put(std::string text, const std::string& mark, const std::string& value)
{
    for (auto at = text.find(mark); at != std::string::npos; at = text.find(mark, at + value.size()))
        text.replace(at, mark.size(), value);
    return text;
}

Finding finding_of(const Rule& r, Method method, Verdict verdict, const std::string& words)
{
    Finding f{r.id, r.question, method, verdict, words, {}, r.safety && verdict == Verdict::no, r.reason, r.source};
    for (const Effect& e : r.effects) f.effects.push_back(protocol::words(e));
    return f;
}

/// What the rule makes of the answer; nothing when it is kept.
std::optional<Finding> judge(const Rule& r, const Question& q, const Part& part, const Answer& a)
{
    if (q.ask == Ask::yes_no) {
        if (!a.yes || *a.yes != r.outside) return std::nullopt;
        return finding_of(r, part.method, r.verdict, r.finding);
    }
    if (a.never) return std::nullopt;
    const bool clock = q.ask == Ask::clock;
    const double value = clock ? *a.minutes_ago + part.starts_in_min : a.number.value_or(0);
    const protocol::Bound* worst = nullptr;
    for (const auto& l : r.levels)
        if (clock ? value < l.limit : value > l.limit) worst = &l;
    if (!worst) return std::nullopt;
    const std::string shown = clock ? span_words(value) : limits::plain(value) + (q.unit.empty() ? "" : ' ' + q.unit);
    const std::string rule = clock ? span_words(r.levels.front().limit)
                                   : limits::plain(r.levels.front().limit) + (q.unit.empty() ? "" : ' ' + q.unit);
    return finding_of(r, part.method, worst->verdict, put(put(r.finding, "{gap}", shown), "{rule}", rule));
}

Finding built_in(const char* id, Method method, std::string words, const char* reason, const char* source)
{
    return {id, "", method, Verdict::no, std::move(words), {}, true, reason, source};
}

std::string clock_words(double minute_of_day)
{
    const int m = static_cast<int>(std::lround(minute_of_day)) % 1440;
    const std::string h = std::to_string(m / 60), mm = std::to_string(m % 60);
    return (h.size() < 2 ? "0" + h : h) + ':' + (mm.size() < 2 ? "0" + mm : mm);
}

} // namespace

bool MethodVerdict::may_be_overridden() const
{
    return verdict >= Verdict::another_day &&
           std::none_of(findings.begin(), findings.end(), [](const Finding& f) { return f.safety; });
}

std::vector<const Question*> questions(
    const Book& book, const HouseRules& house, const Person& person, std::span<const Part> parts)
{
    std::vector<const Question*> out;
    for (const Question& q : book.questions) {
        if (!q.audience.fits(person.sex, person.age_y)) continue;
        const bool needed = std::any_of(parts.begin(), parts.end(), [&](const Part& part) {
            const Protocol* p = book.protocol(part.method);
            return p && std::any_of(p->rules.begin(), p->rules.end(), [&](const Rule& r) {
                return r.question == q.id && applies(r, house, person.sex, person.age_y);
            });
        });
        if (needed) out.push_back(&q);
    }
    return out;
}

namespace {

/// It is asked afresh every time: nothing is waved through with one key.
bool may_stop(const Book& book, const Question& q)
{
    for (const Protocol& p : book.protocols)
        for (const Rule& r : p.rules)
            if (r.safety && r.question == q.id) return true;
    return false;
}

} // namespace

Answers known_before(const Book& book, const Person& person, const Answers& last)
{
    Answers out;
    for (const Question& q : book.questions) {
        if (may_stop(book, q)) continue;
        if (!q.fact.empty() && q.ask == Ask::yes_no && person.facts.count(q.fact))
            out[q.id].yes = true;
        else if (const auto before = last.find(q.id); q.from_last && before != last.end())
            out[q.id] = before->second;
    }
    return out;
}

Answers known_again(const Book& book, const Answers& before, double minutes_since)
{
    Answers out;
    for (const Question& q : book.questions)
        if (const auto at = before.find(q.id); at != before.end() && !may_stop(book, q)) {
            out[q.id] = at->second;
            if (auto& ago = out[q.id].minutes_ago) *ago += minutes_since;
        }
    return out;
}

std::vector<MethodVerdict> screen(const Book& book, const HouseRules& house, const Person& person,
    std::span<const Part> parts, const Answers& answers, const Instrument& instrument)
{
    const auto asked = questions(book, house, person, parts);
    std::vector<MethodVerdict> out;
    for (const Part& part : parts) {
        MethodVerdict v;
        v.method = part.method;
        if (!person.consent)
            v.findings.push_back(built_in("consent", part.method, "No signed consent is on record.",
                "Nobody is measured without having agreed to it.", "common laboratory practice"));
        if (person.age_y < 18 && !person.guardian_consent)
            v.findings.push_back(built_in("guardian", part.method, "Under 18 and no consent of a guardian on record.",
                "A minor is measured only with a guardian's consent.",
                "common laboratory practice; local law decides"));
        if (part.method == Method::absorptiometry && instrument.rated_mass_kg && person.last_mass_kg &&
            *person.last_mass_kg > *instrument.rated_mass_kg)
            v.findings.push_back(built_in("rated_mass", part.method,
                "Body mass " + limits::plain(*person.last_mass_kg, 1) + " kg is over the table's rated " +
                    limits::plain(*instrument.rated_mass_kg, 1) + " kg.",
                "The table may fail.", "the table's rating"));
        if (const Protocol* p = book.protocol(part.method)) {
            for (const Rule& r : p->rules) {
                const auto q =
                    std::find_if(asked.begin(), asked.end(), [&](const Question* x) { return x->id == r.question; });
                if (q == asked.end() || !applies(r, house, person.sex, person.age_y)) continue;
                const auto a = answers.find(r.question);
                if (a == answers.end() || !a->second.given()) {
                    if (std::find(v.open.begin(), v.open.end(), r.question) == v.open.end())
                        v.open.push_back(r.question);
                } else if (auto f = judge(r, **q, part, a->second)) {
                    v.findings.push_back(*f);
                }
            }
        }
        std::stable_sort(v.findings.begin(), v.findings.end(),
            [](const Finding& a, const Finding& b) { return a.verdict > b.verdict; });
        if (!v.findings.empty()) v.verdict = v.findings.front().verdict;
        out.push_back(std::move(v));
    }
    return out;
}

Comparability compare(const Conditions& last, const Conditions& now, Tense tense)
{
    Comparability c;
    const auto row = [&](const std::string& what, bool same, const std::string& text, bool told = true) {
        c.rows.push_back({what, same || !told, text, told});
        c.comparable &= same || !told;
    };
    const auto unknown = [&](const std::string& what) {
        row(what, false, "not noted then: cannot be compared by " + what, false);
    };
    if (last.instrument.empty())
        unknown("instrument");
    else
        row("instrument", last.instrument == now.instrument,
            last.instrument == now.instrument
                ? "the same, " + now.instrument
                : last.instrument + " then, " + now.instrument +
                      " now: readings of two instruments differ by more than a month's change");
    double apart = std::abs(last.minute_of_day - now.minute_of_day);
    apart = std::min(apart, 1440 - apart);
    row("time of day", apart <= same_hour_min,
        clock_words(last.minute_of_day) + " then, " + clock_words(now.minute_of_day) +
            (apart <= same_hour_min ? " now" : " now: water moves over the day"));
    row("equations", last.equations == now.equations,
        last.equations == now.equations
            ? "the same"
            : last.equations + " then, " + now.equations + " now: compute both visits with one of them");
    if (!now.lung.empty() && !last.lung.empty())
        row("lung gas", last.lung == now.lung,
            last.lung == now.lung
                ? "the same, " + now.lung
                : last.lung + " then, " + now.lung + " now: the routes differ by more than a month's change");
    std::string differ;
    for (const auto& [rule, verdict] : now.kept) {
        const auto before = last.kept.find(rule);
        const Verdict then = before == last.kept.end() ? Verdict::go : before->second;
        if ((then == Verdict::go) != (verdict == Verdict::go))
            differ += (differ.empty() ? "" : ", ") + rule +
                      (verdict == Verdict::go ? " kept now, not then" : " not kept now");
    }
    for (const auto& [rule, verdict] : last.kept)
        if (verdict != Verdict::go && !now.kept.count(rule))
            differ += (differ.empty() ? "" : ", ") + rule + " kept now, not then";
    if (last.protocol.empty() || (tense == Tense::measured && now.protocol.empty()))
        unknown("preparation");
    else
        row("preparation", differ.empty(), differ.empty() ? "as last time" : differ);
    std::string names, untold;
    std::size_t differing = 0;
    for (const Likeness& l : c.rows) {
        if (!l.same) {
            names += (names.empty() ? "" : ", ") + l.what;
            ++differing;
        }
        if (!l.told) untold += (untold.empty() ? "" : " and ") + l.what;
    }
    const bool ahead = tense == Tense::planned;
    c.sentence = differing == 0
                     ? std::string(ahead ? "Will compare well" : "Compares well") + " with the visit of " + last.day
                     : std::string(ahead ? "Will not compare cleanly" : "Does not compare cleanly") +
                           " with the visit of " + last.day + ": " + names + (differing == 1 ? " differs" : " differ");
    c.sentence += untold.empty() ? "." : "; by " + untold + " it cannot be told, that was not noted then.";
    return c;
}

} // namespace fusain::screening
