// SPDX-License-Identifier: GPL-3.0-or-later
#include "work/reading/entries.h"

#include "core/base/limits.h"
#include "records/base/text.h"

#include <algorithm>

namespace fusain::work {
namespace {

using bench::Json;

std::string s(const QString& text) { return text.toStdString(); }

using Repeats = std::map<std::string, std::vector<double>>;

Tape tape_of(const records::ClientEvent& e)
{
    Tape t;
    t.id = e.id;
    t.day = e.day;
    t.at = e.at;
    t.measurer = q(e.body.value("measurer", s(e.who)));
    t.folds_mm = e.body.value("folds_mm", Repeats{});
    t.girths_cm = e.body.value("girths_cm", Repeats{});
    t.equation = e.body.value("equation", "");
    t.waist_at = e.body.value("waist_at", "");
    t.mass_kg = e.body.value("mass_kg", 0.0);
    return t;
}

Plan plan_of(const records::ClientEvent& e)
{
    const Json& b = e.body;
    Plan p;
    p.id = e.id;
    p.day = e.day;
    p.who = e.who;
    p.method = b.value("method", "");
    p.intake_kcal = b.value("intake_kcal", 0.0);
    p.input.body = {b.value("sex", "") == word(Sex::male) ? Sex::male : Sex::female, b.value("age_y", 0.0),
        b.value("height_cm", 0.0), b.value("fat_mass_kg", 0.0), b.value("fat_free_mass_kg", 0.0)};
    p.input.activity_level = b.value("activity_level", 1.6);
    p.input.school = b.value("school", p.input.school);
    p.input.range = b.value("range", p.input.range);
    p.input.lean = b.value("lean", p.input.lean);
    p.input.aim = static_cast<plan::Aim>(b.value("aim", 0));
    p.input.target = b.value("target", 0.0);
    p.input.weeks = b.value("weeks", 8);
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
    for (const records::ClientEvent& e : records::client_events(store, client_id)) {
        const Json& b = e.body;
        if (e.kind == QStringLiteral("tape")) out.tapes.push_back(tape_of(e));
        if (e.kind == QStringLiteral("withdrawn"))
            std::erase_if(out.tapes, [&](const Tape& t) { return t.id == b.value("of", 0L); });
        if (e.kind == QStringLiteral("days")) {
            Days d{b.value("activity_level", 1.6), b.value("school", std::string(energy::default_school)), {},
                q(b.value("food_words", ""))};
            if (b.contains("food_kcal")) d.food_kcal = b["food_kcal"].get<double>();
            out.days = d;
        }
        if (e.kind == QStringLiteral("plan") || e.kind == QStringLiteral("plan_ended"))
            if (!out.plans.empty() && out.plans.back().ended_on.isEmpty()) {
                out.plans.back().ended_on = e.day;
                out.plans.back().ended_why =
                    e.kind == QStringLiteral("plan") ? QStringLiteral("another plan") : q(b.value("reason", ""));
            }
        if (e.kind == QStringLiteral("plan")) out.plans.push_back(plan_of(e));
        if (e.kind == QStringLiteral("telling")) out.without_numbers = b.value("without_numbers", false);
        if (e.kind == QStringLiteral("told")) {
            Told t{e.day, e.who, q(b.value("note", "")), {}};
            for (const std::string& step : b.value("steps", std::vector<std::string>{})) t.steps << q(step);
            std::erase_if(out.told, [&](const Told& old) { return old.day == t.day; });
            out.told.push_back(t);
        }
    }
    std::stable_sort(out.tapes.begin(), out.tapes.end(), [](const Tape& a, const Tape& b) { return a.day < b.day; });
    return out;
}

records::ClientEvent event_of(const Tape& t)
{
    records::ClientEvent e;
    e.day = t.day;
    e.kind = QStringLiteral("tape");
    e.body = {{"measurer", s(t.measurer)}, {"folds_mm", t.folds_mm}, {"girths_cm", t.girths_cm},
        {"equation", t.equation}, {"waist_at", t.waist_at}, {"mass_kg", t.mass_kg}};
    return e;
}

records::ClientEvent event_of(const Days& d)
{
    records::ClientEvent e;
    e.kind = QStringLiteral("days");
    e.body = {{"activity_level", d.activity_level}, {"school", d.school}, {"food_words", s(d.food_words)}};
    if (d.food_kcal) e.body["food_kcal"] = *d.food_kcal;
    return e;
}

records::ClientEvent event_of(const Plan& p)
{
    records::ClientEvent e;
    e.day = p.day;
    e.kind = QStringLiteral("plan");
    const plan::Input& in = p.input;
    e.body = {{"method", p.method}, {"intake_kcal", p.intake_kcal}, {"sex", word(in.body.sex)},
        {"age_y", in.body.age_y}, {"height_cm", in.body.height_cm}, {"fat_mass_kg", in.body.fat_kg},
        {"fat_free_mass_kg", in.body.fat_free_kg}, {"activity_level", in.activity_level}, {"school", in.school},
        {"range", in.range}, {"lean", in.lean}, {"aim", static_cast<int>(in.aim)}, {"target", in.target},
        {"weeks", in.weeks}};
    return e;
}

records::ClientEvent event_of(const Told& t)
{
    records::ClientEvent e;
    e.day = t.day;
    e.kind = QStringLiteral("told");
    std::vector<std::string> steps;
    for (const QString& step : t.steps) steps.push_back(s(step));
    e.body = {{"note", s(t.note)}, {"steps", steps}};
    return e;
}

records::ClientEvent telling(bool without_numbers)
{
    records::ClientEvent e;
    e.kind = QStringLiteral("telling");
    e.body = {{"without_numbers", without_numbers}};
    return e;
}

} // namespace fusain::work
