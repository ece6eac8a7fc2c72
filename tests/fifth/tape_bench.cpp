// SPDX-License-Identifier: GPL-3.0-or-later
// The tape at the bench: its event, its state, its row, its instrument.
#include "bench/base/fields.h"
#include "bench/visit/kinds.h"
#include "core/base/limits.h"
#include "core/body/balance.h"
#include "core/density/densitometry.h"
#include "tape.h"

namespace fusain::bench {

FUSAIN_LOGGED(
    event::TapeTyped, with<event::TrialTyped>().needed("girth_cm", &E::girth_cm, "callipers_and_tape.girths_cm"))

namespace {

constexpr double u_girth_cm = 0.5;
constexpr StepRow tape_row_of_step{"tape", "Tape", [](const Visit& v) { return !v.readings().empty(); }};

template <class T>
T volume_l(const T& mass_kg, const T& girth_cm)
{
    return mass_kg / (T(1.115) - T(0.0007) * girth_cm);
}

} // namespace

namespace step {
const Step tape = &tape_row_of_step;
}

const TapeState& tape_of(const Visit& v) { return dynamic_cast<const TapeState&>(v.own()); }

const BenchRow& tape_row()
{
    static const BenchRow row = {
        method::trunk_tape,
        "tape of the trunk",
        "Ask before you touch. Local rules and licensed practice decide.",
        "The sum appears with the first girth.",
        "Not a result yet.",
        "Tape off, dressed and undressed; then measured again.",
        {},
        {step::who, step::stops, step::mass, step::tape, step::result},
        {{take::tape, "girth"}},
        {},
        {conversion_choice()},
        [](Method) -> std::unique_ptr<MethodState> { return std::make_unique<TapeState>(); },
        density_beginning,
        [](const protocol::HouseRules& house) -> std::string { return house.at("conversion"); },
        []() -> std::unique_ptr<Take> { return nullptr; },
        [](const Shown&, int) -> std::optional<Standing> { return std::nullopt; },
        {},
        {Channel::scale},
        Origin::measured,
        event::TrialTyped::kind,
    };
    return row;
}

const InstrumentKind& tape_instrument()
{
    using Kind = CheckStep::Kind;
    static const InstrumentKind kind = {.id = "trunk_tape",
        .title = "tape",
        .method = Method(method::trunk_tape),
        .reference_title = "",
        .unit = "cm",
        .reference = 0,
        .tolerance = [](double) { return quality::Tolerance{}; },
        .decimals = 1,
        .least_sd = 0.1,
        .duration_min = 10,
        .after_min = 0,
        .first_lead = {},
        .each_lead = {},
        .steps = {{Kind::confirm, "tape", "Hold the tape against a steel rule", "It must not be stretched."}},
        .check_title = "Hold the tape against the rule",
        .ways = {"none"},
        .usually_raw = true};
    return kind;
}

const BenchRow& TapeState::row() const { return tape_row(); }

std::optional<Message> TapeState::refuse_trial(const Visit&, const event::TrialBegun&, const Stamp&) const
{
    return not_now("A tape is read off and typed; nothing is recorded.");
}
std::optional<Message> TapeState::take_reading(const Visit&, const Trial&, const Event&)
{
    return not_now("A tape is read off and typed; nothing is recorded.");
}

std::optional<Message> TapeState::take_typed(const Visit& v, const Trial& trial, const Event& e)
{
    if (auto m = needs_steps_before(v, step::tape, "Before the tape")) return m;
    const auto typed = read<event::TapeTyped>(e.body);
    if (!typed) return typed.messages().front();
    if (auto m = limits::check("callipers_and_tape.girths_cm", typed->girth_cm)) return m;
    girths_cm[trial.number] = typed->girth_cm;
    return std::nullopt;
}

std::optional<double> TapeState::value(const Visit&, const Trial& trial) const
{
    const auto at = girths_cm.find(trial.number);
    return at == girths_cm.end() ? std::nullopt : std::optional(at->second);
}

Outcome<Result> TapeState::from(const Visit& v, double more_cm) const
{
    if (!v.mass_kg || v.readings().empty()) return no_result("No girth is taken yet.");
    const densitometry::Person who = person(v);
    if (Messages bad = densitometry::check(who); !bad.empty()) return Outcome<Result>::refuse(std::move(bad));
    const std::vector<uncertainty::Input> x = {{"M", "body mass", "kg", who.mass_kg, 0.05},
        {"G", "girth of the trunk", "cm", v.readings().back() + more_cm, u_girth_cm},
        densitometry::conversion_input(who), {"H", "height", "cm", who.height_cm, 0.5}};
    static const auto places = densitometry::places_with({});
    Result r;
    r.used = {static_cast<int>(v.readings().size()) - 1};
    propagate(
        r,
        [&](const auto& in) {
            using T = std::decay_t<decltype(in[0])>;
            std::vector<T> out(densitometry::common_count);
            densitometry::fill_common(out, who, in[0], in[3], volume_l(in[0], in[1]), in[2]);
            return out;
        },
        places, x, Detail::whole);
    if (auto m = limits::check("body_density_kg_per_l", r.values[densitometry::body_density].value))
        return Outcome<Result>::refuse(*m);
    balance::add(r, who.sex, who.age_y);
    Messages said;
    densitometry::add_cautions(who, r, said);
    densitometry::Teller tell(r);
    tell.person(who, 0.05, 0.5);
    tell.quantity(StoryStep::Kind::equation, "V_b", densitometry::body_volume, "made up for a test");
    tell.conclusion(who);
    return {std::move(r), std::move(said)};
}

Outcome<Result> TapeState::result(const Visit& v) const { return from(v, 0); }

std::vector<WhatIf> TapeState::what_ifs(const Visit& v) const
{
    const auto now = from(v, 0), then = from(v, 1);
    if (!now || !then) return {};
    return {{"girth 1 cm more",
        then->values[densitometry::fat_percent].value - now->values[densitometry::fat_percent].value, false}};
}

} // namespace fusain::bench
