// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/time/alike.h"

#include "core/base/limits.h"
#include "core/quality/judgement.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

namespace fusain::alike {
namespace {

using protocol::Verdict;
using screening::Conditions;

constexpr double day_min = 1440, slack = 1e-6;
constexpr double pounds_in_a_kg = 2.20462, pounds_within = 0.03;

double minutes_apart(double a, double b)
{
    const double d = std::abs(std::fmod(a, day_min) - std::fmod(b, day_min));
    return std::min(d, day_min - d);
}

/// One of them is the other, taken in pounds.
bool in_pounds(double a_kg, double b_kg)
{
    if (!(a_kg > 0 && b_kg > 0)) return false;
    return std::abs(std::max(a_kg, b_kg) / std::min(a_kg, b_kg) / pounds_in_a_kg - 1) < pounds_within;
}

std::string clock_words(double minute_of_day)
{
    const int m = static_cast<int>(std::lround(minute_of_day)) % 1440;
    const std::string h = std::to_string(m / 60), mm = std::to_string(m % 60);
    return (h.size() < 2 ? "0" + h : h) + ':' + (mm.size() < 2 ? "0" + mm : mm);
}

std::string not_kept(const Conditions& c)
{
    std::string out;
    for (const auto& [rule, verdict] : c.kept)
        if (verdict != Verdict::go) out += (out.empty() ? "" : ";") + rule;
    return out;
}

/// As far as conditions tell of a test; `both_lungs`: the route of the lung gas is known of both.
Test test_of(const Conditions& c, bool both_lungs)
{
    Test t{{}, c.instrument, c.equations, c.minute_of_day};
    if (both_lungs) t.equations += ';' + c.lung;
    if (!c.protocol.empty()) t.not_kept = not_kept(c);
    t.height_cm = c.height_cm;
    t.mass_kg = c.mass_kg;
    return t;
}

/// Rules that were kept in one and not in the other.
std::string kept_otherwise(const Conditions& last, const Conditions& now)
{
    std::string differ;
    const auto add = [&](const std::string& words) { differ += (differ.empty() ? "" : ", ") + words; };
    for (const auto& [rule, verdict] : now.kept) {
        const auto before = last.kept.find(rule);
        const Verdict then = before == last.kept.end() ? Verdict::go : before->second;
        if ((then == Verdict::go) != (verdict == Verdict::go))
            add(rule + (verdict == Verdict::go ? " kept now, not then" : " not kept now"));
    }
    for (const auto& [rule, verdict] : last.kept)
        if (verdict != Verdict::go && !now.kept.count(rule)) add(rule + " kept now, not then");
    return differ;
}

} // namespace

std::vector<const char*> differences(const Test& a, const Test& b, const By& by)
{
    std::vector<const char*> out;
    if (a.method != b.method) out.push_back("method");
    if (a.instrument != b.instrument && !a.instrument.empty() && !b.instrument.empty() && !by.instruments_agree)
        out.push_back("instrument");
    if (a.equations != b.equations) out.push_back("equations");
    if (minutes_apart(a.minute_of_day, b.minute_of_day) > by.minutes_apart + slack) out.push_back("hour");
    if (!a.prepared || !b.prepared || (a.not_kept && b.not_kept && *a.not_kept != *b.not_kept))
        out.push_back("preparation");
    if (by.height && a.height_cm > 0 && b.height_cm > 0 &&
        std::abs(a.height_cm - b.height_cm) > judgement::height_differs_cm + slack)
        out.push_back("height");
    if (in_pounds(a.mass_kg, b.mass_kg)) out.push_back("unit");
    return out;
}

Comparability compare(const Conditions& last, const Conditions& now, const By& by, Tense tense)
{
    Comparability c;
    const bool both_lungs = !now.lung.empty() && !last.lung.empty();
    const auto why = differences(test_of(last, both_lungs), test_of(now, both_lungs), by);
    const auto differs = [&](std::string_view what) { return std::find(why.begin(), why.end(), what) != why.end(); };
    c.comparable = why.empty();
    const auto row = [&](const char* what, bool same, std::string text) {
        c.rows.push_back({what, same, std::move(text)});
    };
    const auto unknown = [&](const std::string& what) {
        c.rows.push_back({what, true, "not noted then: cannot be compared by " + what, false});
    };
    if (last.instrument.empty())
        unknown("instrument");
    else
        row("instrument", !differs("instrument"),
            last.instrument == now.instrument ? "the same, " + now.instrument
            : differs("instrument")
                ? last.instrument + " then, " + now.instrument +
                      " now: readings of two instruments differ by more than a month's change"
                : last.instrument + " then, " + now.instrument + " now: the two were compared, and agree");
    row("time of day", !differs("hour"),
        clock_words(last.minute_of_day) + " then, " + clock_words(now.minute_of_day) +
            (differs("hour") ? " now: water moves over the day" : " now"));
    row("equations", last.equations == now.equations,
        last.equations == now.equations
            ? "the same"
            : last.equations + " then, " + now.equations + " now: compute both visits with one of them");
    if (both_lungs)
        row("lung gas", last.lung == now.lung,
            last.lung == now.lung
                ? "the same, " + now.lung
                : last.lung + " then, " + now.lung + " now: the routes differ by more than a month's change");
    if (last.protocol.empty() || (tense == Tense::measured && now.protocol.empty()))
        unknown("preparation");
    else
        row("preparation", !differs("preparation"),
            differs("preparation") ? kept_otherwise(last, now) : std::string("as last time"));
    if (differs("height"))
        row("height", false,
            limits::plain(last.height_cm, 1) + " cm then, " + limits::plain(now.height_cm, 1) +
                " cm now: an adult does not grow, so one of the two is wrong");
    if (differs("unit"))
        row("unit", false,
            limits::plain(last.mass_kg, 1) + " kg then, " + limits::plain(now.mass_kg, 1) +
                " kg now: one of them looks like pounds taken for kilograms");
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

} // namespace fusain::alike
