// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/analyser/analyser.h"

#include "bench/files/profile_file.h"
#include "bench/visit/kinds.h"
#include "core/base/limits.h"
#include "core/quality/judgement.h"

#include <algorithm>
#include <cmath>

namespace fusain::bench {
namespace {

using impedance::Segment;

constexpr int sure_after = 2; ///< a segment that was found strange so often is used, with what was found said

} // namespace

void AnalyserState::begin(const event::Started& started, const std::string& body)
{
    const protocol::HouseRules& house = started.house;
    const auto known = [](impedance::Predicts what) {
        return [what](const std::string& id) { return impedance::find(what, id) != nullptr; };
    };
    using enum impedance::Predicts;
    take_rule(house, "impedance_fat_free_mass", equations.fat_free_mass, known(fat_free_mass));
    take_rule(house, "impedance_water", equations.total_body_water, known(total_body_water));
    take_rule(house, "impedance_water_spaces", equations.water_spaces, impedance::knows_water_spaces);
    take_rule(
        house, "side_gap", gap_rule, [](const std::string& id) { return impedance::find_gap_rule(id) != nullptr; });
    std::string by = "height";
    take_rule(house, "expected_lean", by, [](const std::string&) { return true; });
    expected_by = by == "mass" ? impedance::ExpectedBy::mass : impedance::ExpectedBy::height;
    // by the client's age: an equation of its own, or none
    const auto by_age = [&](const std::string& e, impedance::Predicts what, std::string& id) {
        if (e == impedance::no_equation || known(what)(e)) id = e;
    };
    if (const auto own = read<event::AnalyserStarted>(body)) {
        by_age(own->fat_free_mass, fat_free_mass, equations.fat_free_mass);
        by_age(own->total_body_water, total_body_water, equations.total_body_water);
        by_age(own->skeletal_muscle, skeletal_muscle, equations.skeletal_muscle);
    }
    profile_id = started.profile;
}

std::optional<Message> AnalyserState::refuse_trial(const Visit& v, const event::TrialBegun&, const Stamp&) const
{
    return needs_steps_before(v, step::spectrum, "Before the current");
}

std::optional<Message> AnalyserState::take_reading(const Visit& v, const Trial& running, const Event& event)
{
    const auto e = read<event::SpectraTaken>(event.body);
    if (!e) return e.messages().front();
    if (e->segments.empty()) return no_spectra();
    for (const auto& [i, m] : e->segments)
        for (const impedance::Point& p : m.points)
            for (const auto& [field, value] : {std::pair{"impedance.f_khz", p.f_khz}, {"impedance.r_ohm", p.r_ohm}})
                if (auto bad = limits::check(field, value)) {
                    bad->field = std::string("impedance.segments.") + impedance::segment_rows[i].id;
                    return bad;
                }
    if (auto m = needs_steps_before(v, step::spectrum, "Before the current")) return m;
    taken_[running.number] = {{e->segments, {}}, e->found, e->platform_kg};
    return std::nullopt;
}

std::optional<Message> AnalyserState::take_typed(const Visit& v, const Trial& trial, const Event& event)
{
    if (!trial.is(take::body)) return not_now("What is typed is of the whole body or of segments.");
    if (auto m = needs_steps_before(v, step::spectrum, "Before the current")) return m;
    const auto e = read<event::SpectraTyped>(event.body);
    if (!e) return e.messages().front();
    impedance::Input in = person(v);
    in.whole_body = e->whole_body;
    for (const auto& [i, m] : e->segments) in.segments[i] = m.points;
    const auto computed = impedance::compute(in, Detail::numbers);
    if (!computed) return computed.messages().front();
    taken_[trial.number] = {*e, {}, 0};
    return std::nullopt;
}

bool SpectrumFound::spoils(std::size_t segment) const
{
    return std::count(segments.begin(), segments.end(), impedance::segment_rows[segment].id) > 0;
}

impedance::Again AnalyserState::Taken::again(std::size_t segment) const
{
    impedance::Again worst = impedance::Again::no;
    for (const SpectrumFound& f : found)
        for (impedance::Fault fault : impedance::all_faults)
            if (f.spoils(segment) && f.code == impedance::row(fault).code)
                worst = std::max(worst, impedance::row(fault).again);
    return worst;
}

std::array<AnalyserState::Standing, impedance::segment_count> AnalyserState::segments(const Visit& v) const
{
    std::array<Standing, impedance::segment_count> out;
    for (std::size_t i = 0; i < out.size(); ++i) {
        int strange = 0;
        Standing newest_strange;
        for (auto t = v.trials.rbegin(); t != v.trials.rend() && out[i].trial == 0; ++t) {
            const auto at = taken_.find(t->number);
            if (t->status != Trial::Status::taken || at == taken_.end()) continue;
            if (!at->second.whole_body.empty()) break; // typed of the whole body, later than the segments before it
            const auto m = at->second.segments.find(i);
            if (m == at->second.segments.end()) continue;
            const impedance::Again again = at->second.again(i);
            if (again == impedance::Again::no)
                out[i] = {m->second, t->number};
            else if (again == impedance::Again::unless_it_stays && ++strange == 1)
                newest_strange = {m->second, t->number};
        }
        if (out[i].trial == 0 && strange >= sure_after) out[i] = newest_strange;
    }
    return out;
}

std::optional<AnalyserState::Standing> AnalyserState::whole_body(const Visit& v) const
{
    for (auto t = v.trials.rbegin(); t != v.trials.rend(); ++t) {
        const auto at = taken_.find(t->number);
        if (t->status != Trial::Status::taken || at == taken_.end()) continue;
        if (at->second.whole_body.empty()) return std::nullopt; // segments, later than that
        return Standing{{at->second.whole_body}, t->number};
    }
    return std::nullopt;
}

bool AnalyserState::enough(const Visit& v) const
{
    if (whole_body(v)) return true;
    const auto all = segments(v);
    return std::all_of(all.begin(), all.end(), [](const Standing& s) { return s.trial > 0; }) ||
           (typed(v) && std::all_of(std::begin(impedance::in_the_way), std::end(impedance::in_the_way),
                            [&](Segment s) { return all[impedance::index(s)].trial > 0; }));
}

bool AnalyserState::typed(const Visit& v) const
{
    return std::any_of(v.trials.begin(), v.trials.end(),
        [](const Trial& t) { return t.status == Trial::Status::taken && t.source != "line"; });
}

std::optional<double> AnalyserState::value(const Visit&, const Trial& t) const
{
    const auto at = taken_.find(t.number);
    if (at == taken_.end()) return std::nullopt;
    std::vector<std::vector<impedance::Point>> way;
    if (!at->second.whole_body.empty())
        way.push_back(at->second.whole_body);
    else
        for (Segment s : impedance::in_the_way) {
            const auto m = at->second.segments.find(impedance::index(s));
            if (m == at->second.segments.end()) return std::nullopt;
            way.push_back(m->second.points);
        }
    for (const impedance::Point& p : impedance::in_series(way))
        if (p.f_khz == impedance::equations_khz) return std::hypot(p.r_ohm, p.x_ohm);
    return std::nullopt;
}

impedance::Input AnalyserState::person(const Visit& v) const
{
    impedance::Input in;
    in.sex = v.subject.sex;
    in.age_y = v.age_y();
    in.height_cm = v.height_cm();
    in.mass_kg = v.mass_kg.value_or(0);
    in.mass_from = v.mass_source.empty() ? "scale" : v.mass_source;
    in.equations = equations;
    in.expected_by = in.age_y < impedance::adult_y ? impedance::ExpectedBy::nobody : expected_by;
    return in;
}

std::optional<impedance::Input> AnalyserState::input(const Visit& v) const
{
    if (!v.mass_kg || !enough(v)) return std::nullopt;
    impedance::Input in = person(v);
    in.profile = shipped_profile(profile_id);
    if (const auto whole = whole_body(v)) {
        in.whole_body = whole->of.points;
        return in;
    }
    const auto all = segments(v);
    for (std::size_t i = 0; i < all.size(); ++i) in.segments[i] = all[i].of.points;
    return in;
}

Outcome<Result> AnalyserState::result(const Visit& v) const
{
    const auto in = input(v);
    if (!in) return no_result("The measurement is not complete.");
    auto computed = impedance::compute(*in);
    if (!computed) return computed;
    if (!computed->find(quantity::fat_percent))
        return Outcome<Result>::refuse({"no_equation", Level::repeat, "impedance.equations.fat_free_mass",
            "No equation for fat-free mass was made on people of " + limits::plain(std::floor(in->age_y), 0) +
                " years, so none is chosen. What was measured stands; choose an equation by its name, and both sheets "
                "say that the client is outside its group."});
    Messages messages = computed.messages();
    const auto say = [&](const char* code, const char* field, std::string text) {
        messages.push_back({code, Level::caution, field, std::move(text)});
    };
    if (!profile_id.empty() && !in->profile)
        say("no_segments", "impedance.profile",
            "There is no instrument profile \"" + profile_id + "\" here (there is: " + shipped_profile_ids() +
                "): no lean and fat by segment. The register of instruments says which profile belongs to this one.");
    const bool swelling = v.outside.count("fluid_disorder") ||
                          std::find(v.notes.begin(), v.notes.end(), "fluid_disorder") != v.notes.end();
    if (const Value* share = computed->find(quantity::ecw_ratio))
        if (const auto said = judgement::judge_water(share->value, swelling)) messages.push_back(*said);
    for (const std::string& words : left_out) say("left_out", "", "Done all the same: " + words + ".");
    for (auto& [code, words] : doubts(v))
        if (std::none_of(messages.begin(), messages.end(), [&, c = code](const Message& m) { return m.code == c; }))
            messages.push_back({code, Level::caution, "impedance.segments", words});
    for (const auto& [number, t] : taken_)
        if (v.trial(number).status == Trial::Status::taken && v.mass_source == "platform" && t.mass_after_kg > 0 &&
            std::abs(t.mass_after_kg - *v.mass_kg) > impedance::lean_limit_kg) {
            say("mass_changed", "mass_kg",
                "The platform showed " + limits::plain(t.mass_after_kg, 1) + " kg at the end and " +
                    limits::plain(*v.mass_kg, 1) +
                    " kg before: somebody leaned on it, or something was put down. "
                    "Weigh and measure again.");
            break;
        }
    return Outcome<Result>(std::move(computed).take(), std::move(messages));
}

std::vector<std::pair<std::string, std::string>> AnalyserState::doubts(const Visit& v) const
{
    std::vector<std::pair<std::string, std::string>> out;
    const auto all = segments(v);
    for (const auto& [number, t] : taken_)
        for (const SpectrumFound& f : t.found) {
            bool stands = false;
            for (std::size_t i = 0; i < all.size(); ++i) stands = stands || (all[i].trial == number && f.spoils(i));
            if (stands) out.emplace_back(f.code, "When measured: " + f.words + '.');
        }
    return out;
}

std::vector<WhatIf> AnalyserState::what_ifs(const Visit& v) const
{
    const auto in = input(v);
    return in ? impedance::what_ifs(*in) : std::vector<WhatIf>{};
}

std::string AnalyserState::schools(const Visit&) const { return equations.fat_free_mass; }

} // namespace fusain::bench
