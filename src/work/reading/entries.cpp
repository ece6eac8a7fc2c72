// SPDX-License-Identifier: GPL-3.0-or-later
#include "work/reading/entries.h"

#include "core/base/limits.h"
#include "records/base/text.h"

#include <algorithm>

namespace fusain::work {
namespace {

using Repeats = std::map<std::string, std::vector<double>>;
using records::ClientEvent;

Tape tape_of(const ClientEvent& e)
{
    Tape t = bench::said<Tape>(e.body);
    t.id = e.id;
    t.day = e.day;
    t.at = e.at;
    if (t.measurer.isEmpty()) t.measurer = e.who;
    return t;
}

Plan plan_of(const ClientEvent& e)
{
    Plan p = bench::said<Plan>(e.body);
    p.id = e.id;
    p.day = e.day;
    p.who = e.who;
    return p;
}

} // namespace

Messages check(const Tape& t)
{
    Messages bad;
    const auto say = [&](const char* code, std::string field, std::string text) {
        bad.push_back({code, Level::error, std::move(field), std::move(text)});
    };
    if (t.measurer.trimmed().isEmpty())
        say("missing_field", "measurer", "Who measured? Another pair of hands is another method.");
    if (t.folds_mm.empty() && t.girths_cm.empty())
        say("missing_field", "callipers_and_tape", "There are neither folds nor girths; one of them is needed.");
    const auto held = [&](const Repeats& sites, const char* limit,
                          skinfolds::Settled (*settle)(std::span<const double>)) {
        for (const auto& [site, repeats] : sites) {
            const std::string field = std::string(limit) + '.' + site;
            for (const double one : repeats)
                if (auto m = limits::check(limit, one)) {
                    m->field = field;
                    bad.push_back(*m);
                }
            const auto state = settle(repeats).state;
            if (state == skinfolds::Repeats::one)
                say("repeat_missing", field, "The " + site + " was measured once; two are needed.");
            else if (state == skinfolds::Repeats::third_needed)
                say("third_needed", field, "The two of the " + site + " are too far apart; a third is needed.");
        }
    };
    held(t.folds_mm, "callipers_and_tape.skinfolds_mm", skinfolds::settle_fold);
    held(t.girths_cm, "callipers_and_tape.girths_cm", skinfolds::settle_girth);
    if (const auto* e = skinfolds::find(t.equation))
        for (const char* site : e->sites)
            if (!t.folds_mm.count(site))
                say("missing_field", std::string("callipers_and_tape.skinfolds_mm.") + site,
                    std::string("The fold of the ") + site + " is missing; " + e->title + " takes it.");
    if (t.girths_cm.count("waist") && t.waist_at.empty())
        say("missing_field", "waist_at", "Where was the waist taken: narrowest, or midway?");
    return bad;
}

std::map<std::string, double> settled(const Repeats& repeats, skinfolds::Settled (*settle)(std::span<const double>))
{
    std::map<std::string, double> out;
    for (const auto& [site, values] : repeats)
        if (const auto one = settle(values); one.state != skinfolds::Repeats::none) out[site] = one.value;
    return out;
}

const Told* Entries::told_on(const QString& day) const
{
    const auto at = std::find_if(told.rbegin(), told.rend(), [&](const Told& t) { return t.day == day; });
    return at == told.rend() ? nullptr : &*at;
}

Entries entries_of(const records::Store& store, long client_id)
{
    Entries out;
    for (const ClientEvent& e : records::client_events(store, client_id)) {
        const std::string kind = e.kind.toStdString();
        const bool plan = kind == Plan::kind, plan_ended = kind == records::entry::PlanEnded::kind;
        if (kind == Tape::kind) out.tapes.push_back(tape_of(e));
        if (kind == records::entry::Withdrawn::kind)
            std::erase_if(out.tapes,
                [of = bench::said<records::entry::Withdrawn>(e.body).of](const Tape& t) { return t.id == of; });
        if (kind == Days::kind) out.days = bench::said<Days>(e.body);
        if ((plan || plan_ended) && !out.plans.empty() && out.plans.back().ended_on.isEmpty()) {
            out.plans.back().ended_on = e.day;
            out.plans.back().ended_why =
                plan ? QStringLiteral("another plan") : q(bench::said<records::entry::PlanEnded>(e.body).reason);
        }
        if (plan) out.plans.push_back(plan_of(e));
        if (kind == records::entry::Telling::kind)
            out.without_numbers = bench::said<records::entry::Telling>(e.body).without_numbers;
        if (kind == Told::kind) {
            Told t = bench::said<Told>(e.body);
            t.day = e.day;
            t.who = e.who;
            std::erase_if(out.told, [&](const Told& old) { return old.day == t.day; });
            out.told.push_back(t);
        }
    }
    std::stable_sort(out.tapes.begin(), out.tapes.end(), [](const Tape& a, const Tape& b) { return a.day < b.day; });
    return out;
}

ClientEvent event_of(const Tape& t)
{
    ClientEvent e = records::entered(t);
    e.day = t.day;
    return e;
}

ClientEvent event_of(const Days& d) { return records::entered(d); }

ClientEvent event_of(const Plan& p)
{
    ClientEvent e = records::entered(p);
    e.day = p.day;
    return e;
}

ClientEvent event_of(const Told& t)
{
    ClientEvent e = records::entered(t);
    e.day = t.day;
    return e;
}

ClientEvent telling(bool without_numbers) { return records::entered(records::entry::Telling{without_numbers}); }

} // namespace fusain::work
