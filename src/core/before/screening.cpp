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
    if (a.never || a.kept) return std::nullopt;
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

constexpr const char* health = "Health and safety";

/// "Ate {gap} before; the rule is {rule}." → "Ate less than 3 h before."
std::string outside_words(const Rule& r, const Question& q)
{
    std::string words = r.finding.substr(0, r.finding.find_first_of(";:"));
    if (q.ask == Ask::clock && !r.levels.empty())
        words = put(std::move(words), "{gap}", "less than " + span_words(r.levels.front().limit));
    while (!words.empty() && words.back() == '.') words.pop_back();
    return words;
}

} // namespace

std::vector<Line> health_page(std::span<const Question* const> open)
{
    std::vector<Line> out;
    for (const Question* q : open)
        if (q->group == health && q->ask == Ask::yes_no) out.push_back({q, q->words, true});
    return out;
}

std::vector<Line> preparation_page(const Book& book, const HouseRules& house, Sex sex, double age_y,
    std::span<const Part> parts, std::span<const Question* const> open)
{
    std::vector<Line> out;
    for (const Question* q : open) {
        if (q->group == health || q->ask == Ask::number) continue;
        const Rule* strictest = nullptr;
        for (const Part& part : parts)
            if (const Protocol* p = book.protocol(part.method))
                for (const Rule& r : p->rules)
                    if (r.question == q->id && applies(r, house, sex, age_y) &&
                        (!strictest || (!r.levels.empty() && r.levels.front().limit > strictest->levels.front().limit)))
                        strictest = &r;
        if (strictest) out.push_back({q, outside_words(*strictest, *q), strictest->outside});
    }
    return out;
}

std::optional<Answer> answer_of(const Line& line, bool marked)
{
    Answer a;
    if (line.question->ask == Ask::yes_no)
        a.yes = marked == line.marked_yes;
    else if (marked)
        return std::nullopt;
    else
        a.kept = true;
    return a;
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
            if (at->second.kept) continue; // hours have passed: it is asked again
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
        MethodVerdict v{part.method};
        if (!person.consent)
            v.findings.push_back(built_in("consent", part.method, "No signed consent is on record.",
                "Nobody is measured without having agreed to it.", "common laboratory practice"));
        if (person.age_y < 18 && !person.guardian_consent)
            v.findings.push_back(built_in("guardian", part.method, "Under 18 and no consent of a guardian on record.",
                "A minor is measured only with a guardian's consent.",
                "common laboratory practice; local law decides"));
        if (part.method->rated && instrument.rated_mass_kg && person.last_mass_kg &&
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

} // namespace fusain::screening
