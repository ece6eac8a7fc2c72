// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/analyser/analyser_take.h"
#include "desk/bench/analyser/analyser_panels.h"
#include "desk/bench/density_choices.h"
#include "desk/bench/seen_panel.h"

namespace fusain::desk {
namespace {

using impedance::Predicts;

Panel* panel(bench::Step step, work::Session& session)
{
    return step == bench::step::stance     ? make_stance_panel(session)
           : step == bench::step::spectrum ? make_spectrum_panel(session)
                                           : nullptr;
}

QString value(bench::Step step, const bench::Visit& v)
{
    const bench::AnalyserState& own = bench::analyser_of(v);
    if (step != bench::step::spectrum) return {};
    if (own.whole_body(v)) return QStringLiteral("whole body");
    int there = 0;
    for (const auto& s : own.segments(v)) there += s.trial > 0;
    return there ? QStringLiteral("%1 of 5").arg(there) : QString();
}

QString status(const bench::Live& l)
{
    const bench::AnalyserShown& a = bench::analyser_shown(l);
    return !a.connected ? QStringLiteral("◆ analyser not heard")
           : a.hands    ? QStringLiteral("analyser heard · hands on")
                        : QStringLiteral("analyser heard");
}

ChoiceList equations_for(
    const bench::Visit& v, Predicts what, const char* choice, const char* title, const std::string& now)
{
    ChoiceList list{choice, QString::fromLatin1(title), now, {}};
    if (now == impedance::no_equation)
        list.options.emplace_back(impedance::no_equation, QStringLiteral("none: choose one by its name"));
    for (const impedance::Equation& e : impedance::equations())
        if (e.what == what) {
            list.options.emplace_back(
                e.id, title_of(e) + (e.covers(v.age_y()) ? QString() : QStringLiteral("  (other group)")));
        }
    return list;
}

std::vector<ChoiceList> choices(const bench::Visit& v)
{
    const bench::AnalyserState& own = bench::analyser_of(v);
    std::vector<ChoiceList> all{
        equations_for(v, Predicts::fat_free_mass, "fat_free_mass", "Fat-free mass", own.equations.fat_free_mass),
        equations_for(v, Predicts::total_body_water, "total_body_water", "Water", own.equations.total_body_water),
        choice_list(
            "water_spaces", "In and out of cells", own.equations.water_spaces, impedance::water_space_rows, title_of)};
    if (!own.profile_id.empty() && !own.whole_body(v)) {
        all.push_back(choice_list("expected_by", "Lean held against",
            own.expected_by == impedance::ExpectedBy::mass ? "mass" : "height", impedance::expected_by_rows, title_of));
        all.push_back(choice_list("side_gap", "Right and left", own.gap_rule, impedance::gap_rules(), title_of));
    }
    return all;
}

} // namespace

Panel* make_stance_panel(work::Session& s)
{
    SeenPanel::What what{QStringLiteral("Feet and hands on the metal"),
        QStringLiteral("Mark what is seen to. What is left out is noted with what it does."),
        QStringLiteral("“Heels back, thumbs and palms flat, arms straight and a little away from you. For one minute: "
                       "stand still, do not talk, breathe quietly. You will feel nothing.”"),
        {},
        [](auto seen, auto left_out) {
            return bench::event::Stance{seen, left_out};
        },
        [](const bench::Visit& v) -> const std::vector<std::string>& { return bench::analyser_of(v).prepared; },
        "grip"};
    for (const bench::StanceRow& r : bench::stance_rows()) what.rows.push_back({r.id, r.words, r.noted, r.effect});
    return new SeenPanel(s, bench::step::stance, std::move(what));
}

static bench::Step set_drill(const DrillSet& set)
{
    bench::event::Stance all;
    for (const bench::StanceRow& r : bench::stance_rows()) all.seen.push_back(r.noted);
    set.act(all);
    return bench::step::spectrum;
}

const MethodDesk& analyser_desk()
{
    static const MethodDesk desk = {panel, value, {bench::step::spectrum},
        [](const bench::Live& l) { return bench::analyser_shown(l).connected; }, status, choices,
        &quantity::total_body_water, "On the platform, hands off",
        [](const bench::Live& l) { return bench::analyser_shown(l).hands ? "Hands off the metal" : nullptr; },
        set_drill};
    return desk;
}

} // namespace fusain::desk
