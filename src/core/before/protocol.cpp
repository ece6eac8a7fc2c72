// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/before/protocol.h"

#include "core/base/limits.h"

#include <algorithm>
#include <cmath>
#include <set>

namespace fusain::protocol {
namespace {

constexpr double longest_min = 14 * 24 * 60;

std::string signed_number(double value) { return (value < 0 ? "\u2212" : "+") + limits::plain(std::abs(value), 2); }

} // namespace

const char* word(Verdict v)
{
    constexpr const char* words[] = {"go", "noted", "another_day", "no"};
    return words[static_cast<int>(v)];
}

const char* title(Verdict v)
{
    constexpr const char* titles[] = {"go", "go, noted", "better another day", "no"};
    return titles[static_cast<int>(v)];
}

std::string words(const Effect& e)
{
    std::string out = e.quantity;
    if (e.low && e.high)
        out += ' ' + signed_number(*e.low) + (*e.low == *e.high ? "" : " to " + signed_number(*e.high)) +
               (e.unit.empty() ? "" : ' ' + e.unit);
    else
        out += e.direction > 0 ? " too high" : e.direction < 0 ? " too low" : " off, either way";
    return e.why.empty() ? out : out + ": " + e.why;
}

const Question* Book::question(std::string_view id) const
{
    const auto at = std::find_if(questions.begin(), questions.end(), [&](const Question& q) { return q.id == id; });
    return at == questions.end() ? nullptr : &*at;
}

const Protocol* Book::protocol(Method method) const
{
    const auto at =
        std::find_if(protocols.begin(), protocols.end(), [&](const Protocol& p) { return p.method == method; });
    return at == protocols.end() ? nullptr : &*at;
}

bool applies(const Rule& rule, const HouseRules& house, Sex sex, double age_y)
{
    for (const auto& [id, options] : rule.when) {
        const auto chosen = house.find(id);
        if (chosen == house.end() || std::find(options.begin(), options.end(), chosen->second) == options.end())
            return false;
    }
    return rule.audience.fits(sex, age_y);
}

Messages check(const Protocol& p, std::span<const Question> questions)
{
    Messages bad;
    const auto say = [&](const std::string& rule, const std::string& text) {
        bad.push_back(
            {"bad_protocol", Level::error, rule, (rule.empty() ? "The protocol" : "Rule \"" + rule + "\"") + text});
    };
    if (p.id.empty()) say("", " has no id.");
    if (p.version < 1) say("", " has version " + std::to_string(p.version) + "; allowed is 1 and up.");
    if (p.rules.empty()) say("", " has no rules.");
    std::set<std::string> seen;
    for (const Rule& r : p.rules) {
        if (r.id.empty()) {
            say("", " has a rule without an id.");
            continue;
        }
        if (!seen.insert(r.id).second) say(r.id, " stands there twice.");
        if (r.source.empty()) say(r.id, " names no source.");
        if (r.reason.empty()) say(r.id, " gives no reason.");
        if (r.question.empty() && r.prepare.empty()) say(r.id, " neither asks nor tells anything.");
        if (!r.part.empty() && r.part != "tell" && r.part != "wear")
            say(r.id, ": part is \"" + r.part + "\"; allowed is tell or wear.");
        if (!(r.prepare_min >= 0 && r.prepare_min <= longest_min))
            say(r.id, ": prepare_min is " + limits::plain(r.prepare_min) + "; allowed is 0 to " +
                          limits::plain(longest_min) + " minutes.");
        if (r.prepare.find("{time}") != std::string::npos && r.prepare_min <= 0)
            say(r.id, " has {time} in its words and no prepare_min.");
        for (const Effect& e : r.effects)
            if (e.low.has_value() != e.high.has_value() || (e.low && *e.low > *e.high))
                say(r.id, " has an effect whose low and high do not fit together.");
        if (r.question.empty()) continue;
        const auto q =
            std::find_if(questions.begin(), questions.end(), [&](const Question& x) { return x.id == r.question; });
        if (q == questions.end()) {
            say(r.id, " asks \"" + r.question + "\", which is not a known question.");
            continue;
        }
        if (r.finding.empty()) say(r.id, " has no words for its finding.");
        const bool yes_no = q->ask == Ask::yes_no;
        if (!yes_no && r.levels.empty()) say(r.id, " needs at least one level.");
        if (yes_no && !r.levels.empty()) say(r.id, " asks for yes or no; it cannot have levels.");
        for (std::size_t i = 0; i < r.levels.size(); ++i) {
            const protocol::Bound& l = r.levels[i];
            if (!(l.limit > 0 && l.limit <= longest_min))
                say(r.id, ": a level has the limit " + limits::plain(l.limit) +
                              "; allowed is more than 0 and at most " + limits::plain(longest_min) + ".");
            if (l.verdict == Verdict::go) say(r.id, ": a level cannot mean \"go\".");
            if (i == 0) continue;
            // the further outside, the worse
            const protocol::Bound& before = r.levels[i - 1];
            const bool further = q->ask == Ask::clock ? l.limit < before.limit : l.limit > before.limit;
            if (!further || l.verdict <= before.verdict) say(r.id, ": levels go from the mildest to the worst.");
        }
        const Verdict worst = yes_no ? r.verdict : r.levels.empty() ? Verdict::noted : r.levels.back().verdict;
        if (r.safety != (worst == Verdict::no))
            say(r.id, r.safety ? " is a matter of safety but does not end in \"no\"."
                               : " ends in \"no\" but is not marked as a matter of safety.");
    }
    return bad;
}

std::string span_words(double minutes)
{
    const long m = std::lround(minutes);
    if (m >= 3 * 24 * 60) return std::to_string(m / (24 * 60)) + " days";
    if (m < 60) return std::to_string(m) + " min";
    return std::to_string(m / 60) + " h" + (m % 60 ? ' ' + std::to_string(m % 60) + " min" : "");
}

} // namespace fusain::protocol
