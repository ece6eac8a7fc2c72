// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/tank/tank.h"

#include "bench/tank/tank_take.h"
#include "bench/visit/kinds.h"
#include "core/air_and_water/gas.h"
#include "core/base/limits.h"

#include <algorithm>
#include <cmath>

namespace fusain::bench {
namespace {

const TankState& own(const Visit& v) { return tank_of(v); }
TankState& own(Visit& v) { return dynamic_cast<TankState&>(v.own()); }

hydrostatic::LungRoute route_of(const std::string& id)
{
    using hydrostatic::LungRoute;
    for (LungRoute r : {LungRoute::measured, LungRoute::age_height})
        if (id == hydrostatic::id(r)) return r;
    return LungRoute::vital_capacity;
}

std::optional<Message> refuse_lungs(const Visit& v, const event::Lungs& e, const Stamp&)
{
    using hydrostatic::LungRoute;
    if (e.route == LungRoute::measured) return check_number(e.rv_l, "rv_l", "hydrostatic.lung.residual_volume_l");
    if (e.route == LungRoute::vital_capacity) {
        if (own(v).blows_kept() < least_blows)
            return Message{"too_few_blows", Level::error, "hydrostatic.lung.vital_capacity_l",
                "At least three blows are needed; " + std::to_string(own(v).blows_kept()) + " kept so far."};
        if (auto m = check_number(e.gas_temp_c, "gas_temp_c", "hydrostatic.lung.gas_temp_c")) return m;
        return check_number(e.barometric_mmhg, "barometric_mmhg", "hydrostatic.lung.barometric_mmhg");
    }
    if (e.route == LungRoute::age_height && lung::find(e.equation)) return std::nullopt;
    return Message{"unknown_choice", Level::error, "hydrostatic.lung.source", "Choose a route to the residual volume."};
}

void take_lungs(Visit& v, const event::Lungs& e, const Stamp&)
{
    TankState& tank = own(v);
    tank.lungs_done = true;
    tank.lung_route = e.route;
    if (e.rv_l) tank.measured_rv_l = e.rv_l;
    if (e.gas_temp_c) tank.gas_temp_c = e.gas_temp_c;
    if (e.barometric_mmhg) tank.barometric_mmhg = e.barometric_mmhg;
    if (!e.equation.empty()) tank.lung_equation = e.equation;
}

Kinds kinds()
{
    return {
        on<event::Blow>(When::open, nullptr,
            [](Visit& v, const event::Blow& e, const Stamp&) {
                own(v).blows.push_back({e.l, false, "", e.source});
            }),
        on<event::BlowThrownOut>(
            When::open,
            [](const Visit& v, const event::BlowThrownOut& e, const Stamp&) -> std::optional<Message> {
                if (e.number >= 1 && e.number <= static_cast<int>(own(v).blows.size())) return std::nullopt;
                return not_now("There is no blow " + std::to_string(e.number) + ".");
            },
            [](Visit& v, const event::BlowThrownOut& e, const Stamp&) {
                Blow& blow = own(v).blows[static_cast<std::size_t>(e.number - 1)];
                blow.thrown_out = true;
                blow.reason = e.reason;
            }),
        on<event::Lungs>(When::open, refuse_lungs, take_lungs),
        on<event::Zero>(
            When::open,
            [](const Visit&, const event::Zero& e, const Stamp&) -> std::optional<Message> {
                return e.source == "typed" ? limits::check("hydrostatic.zero_kg", e.kg) : std::nullopt;
            },
            [](Visit& v, const event::Zero& e, const Stamp&) {
                own(v).zero_kg = e.kg;
                own(v).zero_from = e.source;
                own(v).zero_sd_kg = e.sd_kg.value_or(e.source == "typed" ? typed_zero_kg : 0.0);
            }),
        on<event::Water>(When::open, nullptr,
            [](Visit& v, const event::Water& e, const Stamp&) {
                own(v).water_temp_c = e.c;
                own(v).salinity_g_per_l = e.salinity_g_per_l;
                own(v).water_from = e.source;
            }),
    };
}

std::vector<ChoiceRow> choices()
{
    return {
        conversion_choice(),
        {"trial_rule", [](const Visit&, const std::string& to) { return trials::find(to) != nullptr; },
            [](const Visit& v) { return own(v).trial_rule; },
            [](Visit& v, const std::string& to) { own(v).trial_rule = to; }},
        {"lung_equation", [](const Visit&, const std::string& to) { return lung::find(to) != nullptr; },
            [](const Visit& v) { return own(v).lung_equation; },
            [](Visit& v, const std::string& to) { own(v).lung_equation = to; }},
        {"lung_route",
            [](const Visit&, const std::string& to) {
                return to == "measured" || to == "vital_capacity" || to == "age_height";
            },
            [](const Visit& v) -> std::string { return own(v).lung_route ? hydrostatic::id(*own(v).lung_route) : ""; },
            [](Visit& v, const std::string& to) { own(v).lung_route = route_of(to); }},
    };
}

constexpr StepRow lungs_row{"lungs", "Lungs", [](const Visit& v) { return own(v).lungs_done; }};
constexpr StepRow zero_row{"zero", "Zero", [](const Visit& v) { return own(v).zero_kg.has_value(); }};
constexpr StepRow water_row{"water", "Water", [](const Visit& v) { return own(v).water_temp_c.has_value(); }};
constexpr StepRow trials_row{"trials", "Under water", [](const Visit& v) { return v.finished || bool(v.result()); }};

std::optional<Standing> standing(const Shown& shown, int number)
{
    const auto& reading = dynamic_cast<const TankShown&>(shown).swing.reading;
    if (!reading) return std::nullopt;
    return Standing{event::WeighingTaken{{number}, *reading}};
}

std::string schools(const std::string& conversion, const std::string& trial_rule)
{
    return conversion + ", " + trial_rule;
}

} // namespace

namespace step {
const Step lungs = &lungs_row, zero = &zero_row, water = &water_row, trials = &trials_row;
}

const TankState& tank_of(const Visit& v) { return dynamic_cast<const TankState&>(v.own()); }

const BenchRow& tank_row()
{
    using namespace step;
    static const BenchRow row = {
        method::hydrostatic,
        "hydrostatic weighing",
        "Never alone at the tank. Wet floor. Local rules and licensed practice decide.",
        "The sum appears with the first trial.",
        "Not a result yet: the mean of all trials.",
        "Out of the chair and up the steps, towelled; chair and belt zeroed again, then in again.",
        {"under", "let_go", "up"}, // nobody stays under for nothing
        {who, stops, mass, lungs, zero, water, step::trials, result},
        {{take::weighing, "trial"}},
        kinds(),
        choices(),
        [](Method) -> std::unique_ptr<MethodState> { return std::make_unique<TankState>(); },
        density_beginning,
        [](const protocol::HouseRules& house) { return schools(house.at("conversion"), house.at("trial_rule")); },
        []() -> std::unique_ptr<Take> { return std::make_unique<TankTake>(); },
        standing,
        {{Channel::spirometer, step::lungs, [](double litres) -> Act { return event::Blow{litres}; }}},
    };
    return row;
}

const BenchRow& TankState::row() const { return tank_row(); }

void TankState::begin(const event::Started& started, const std::string& body)
{
    DensityState::begin(started, body);
    const protocol::HouseRules& house = started.house;
    take_rule(house, "trial_rule", trial_rule, [](const std::string& id) { return trials::find(id) != nullptr; });
    take_rule(house, "lung_equation", lung_equation, [](const std::string& id) { return lung::find(id) != nullptr; });
}

std::optional<Message> TankState::refuse_trial(const Visit& v, const event::TrialBegun&, const Stamp&) const
{
    return needs_steps_before(v, step::trials, "Before a trial");
}

std::optional<Message> TankState::take_reading(const Visit&, const Trial& running, const Event& e)
{
    const auto taken = read<event::WeighingTaken>(e.body);
    if (!taken) return taken.messages().front();
    weighings[running.number] = {*taken, {}};
    return std::nullopt;
}

namespace {

std::string kg_words(double kg) { return limits::plain(kg, 3) + " kg"; }

/// What the display showed: the middle of its swing, or the one value that was typed.
double middle_kg(const event::WeighingTyped& e) { return e.kg ? *e.kg : (*e.low_kg + *e.high_kg) / 2; }

std::optional<Message> refuse_typed(const Visit& v, const event::WeighingTyped& e, double zero_kg)
{
    constexpr const char* field = "hydrostatic.trials_kg";
    const auto wrong = [&](const char* code, const std::string& text) {
        return Message{code, Level::error, field, text};
    };
    if (auto m = needs_steps_before(v, step::trials, "Before a trial")) return m;
    if (!e.kg && !(e.low_kg && e.high_kg))
        return wrong("missing_field", "Type the lowest and the highest value of the swing, or one value.");
    if (!e.kg) {
        const double low = *e.low_kg, high = *e.high_kg;
        if (low > high)
            return wrong("swapped", "The lowest value, " + kg_words(low) + ", is above the highest, " + kg_words(high) +
                                        ": are they swapped?");
        if (high - low > widest_swing_kg)
            return wrong("out_of_range", "From " + kg_words(low) + " to " + kg_words(high) + " the display swings by " +
                                             kg_words(high - low) + "; the middle of at most " +
                                             kg_words(widest_swing_kg) +
                                             " is a reading. Is a digit mistyped? Else wait until it is calmer.");
    }
    // a recording may have been zeroed by the instrument that made it
    const double shown = middle_kg(e), net = e.net ? shown : shown - zero_kg, most = largest_share * *v.mass_kg;
    const std::string how =
        e.net ? kg_words(net) + " under water; "
              : kg_words(shown) + " less the zero of " + kg_words(zero_kg) + " is " + kg_words(net) + " under water; ";
    if (net > most)
        return wrong("out_of_range",
            how + "allowed is at most " + kg_words(most) + ", 15 % of body mass. " +
                (shown / 10 - zero_kg < most && shown > 10 ? "Was " + kg_words(shown / 10) + " meant?"
                                                           : "Is a digit mistyped, or the zero wrong?"));
    if (auto m = limits::check(field, net)) {
        m->text = how + m->text;
        return m;
    }
    return std::nullopt;
}

} // namespace

std::optional<Message> TankState::take_typed(const Visit& v, const Trial& trial, const Event& event)
{
    const auto typed = read<event::WeighingTyped>(event.body);
    if (!typed) return typed.messages().front();
    const event::WeighingTyped& e = *typed;
    if (auto m = refuse_typed(v, e, zero_kg.value_or(0))) return m;
    const double zero = e.net ? 0 : *zero_kg;
    Weighing w;
    if (e.recorded) static_cast<swing::Reading&>(w) = *e.recorded;
    w.kg = middle_kg(e) - zero;
    w.u_kg = e.recorded ? e.recorded->u_kg : number_of_rule(v.house, "typed_swing_kg", 0.05);
    w.midpoint_kg = e.recorded ? e.recorded->midpoint_kg - zero : w.kg;
    w.from = trial.source == "file" ? "file " + e.file
             : e.kg                 ? "typed: " + kg_words(*e.kg) + ", zero " + kg_words(*zero_kg)
                    : "typed: middle of " + kg_words(*e.low_kg) + " and " + kg_words(*e.high_kg) + ", zero " +
                          kg_words(*zero_kg);
    weighings[trial.number] = w;
    return std::nullopt;
}

std::optional<double> TankState::value(const Visit&, const Trial& trial) const
{
    const Weighing* w = weighing(trial.number);
    return w ? std::optional(w->kg) : std::nullopt;
}

const Weighing* TankState::weighing(int trial) const
{
    const auto at = weighings.find(trial);
    return at == weighings.end() ? nullptr : &at->second;
}

int TankState::blows_kept() const
{
    return static_cast<int>(std::count_if(blows.begin(), blows.end(), [](const Blow& b) { return !b.thrown_out; }));
}

const Blow* TankState::best_blow() const
{
    const Blow* best = nullptr;
    for (const Blow& b : blows)
        if (!b.thrown_out && (!best || b.volume_l > best->volume_l)) best = &b;
    return best;
}

std::optional<double> TankState::best_blow_l() const
{
    const Blow* best = best_blow();
    return best ? std::optional(best->volume_l) : std::nullopt;
}

std::optional<double> Blow::in_the_body_l(std::optional<double> gas_temp_c, std::optional<double> barometric_mmhg) const
{
    if (!gas_temp_c || !barometric_mmhg) return std::nullopt;
    return volume_l * gas::atps_to_btps(*gas_temp_c, *barometric_mmhg);
}

std::optional<ResidualVolume> residual_volume(const Visit& v, const event::Lungs& by)
{
    using hydrostatic::LungRoute;
    const Sex sex = v.subject.sex;
    if (by.route == LungRoute::measured) {
        if (!by.rv_l) return std::nullopt;
        return ResidualVolume{*by.rv_l, lung::measured_error_l};
    }
    if (by.route == LungRoute::age_height) {
        const lung::Equation* row = lung::find(by.equation);
        if (!row) return std::nullopt;
        return ResidualVolume{row->predict(sex, v.height_cm(), v.age_y()), row->error_l(sex)};
    }
    const Blow* best = tank_of(v).best_blow();
    const auto vital = best ? best->in_the_body_l(by.gas_temp_c, by.barometric_mmhg) : std::nullopt;
    if (!vital) return std::nullopt;
    return ResidualVolume{lung::wilmore_1969_rv(sex, *vital), lung::wilmore_1969_error_l};
}

std::optional<hydrostatic::Input> TankState::input(const Visit& v) const
{
    if (!v.mass_kg || !water_temp_c || !lung_route || !lungs_done) return std::nullopt;
    hydrostatic::Input in;
    static_cast<densitometry::Person&>(in) = person(v);
    in.trials_kg = v.readings();
    bool typed = false;
    for (int n : v.reading_numbers()) {
        in.trials_u_kg.push_back(weighing(n)->u_kg);
        in.trials_from.push_back(weighing(n)->from.empty() ? "load cell" : weighing(n)->from);
        typed |= !weighing(n)->from.empty();
    }
    if (!typed) in.trials_from.clear();
    in.water_from = water_from;
    in.zero_sd_kg = zero_sd_kg;
    in.trial_rule = trial_rule;
    in.water_temp_c = *water_temp_c;
    in.salinity_g_per_l = salinity_g_per_l;
    in.lung.route = *lung_route;
    in.lung.equation = lung_equation;
    in.lung.residual_volume_l = measured_rv_l.value_or(NAN);
    in.lung.vital_capacity_l = best_blow_l().value_or(NAN);
    for (const Blow& b : blows)
        if (!b.thrown_out && b.volume_l == in.lung.vital_capacity_l) in.lung.vital_capacity_from = b.source;
    in.lung.body_conditions = false;
    in.lung.gas_temp_c = gas_temp_c.value_or(NAN);
    in.lung.barometric_mmhg = barometric_mmhg.value_or(NAN);
    return in;
}

Outcome<Result> TankState::result(const Visit& v) const
{
    const auto in = input(v);
    return in ? hydrostatic::compute(*in) : no_result("The test is not complete.");
}

Outcome<Result> TankState::provisional(const Visit& v) const
{
    auto in = input(v);
    if (!in || in->trials_kg.empty()) return no_result("Nothing is measured yet.");
    in->trial_rule = "mean_all";
    return hydrostatic::compute(*in);
}

std::vector<WhatIf> TankState::what_ifs(const Visit& v) const
{
    const auto in = input(v);
    return in ? hydrostatic::what_ifs(*in) : std::vector<WhatIf>{};
}

std::string TankState::schools(const Visit&) const { return bench::schools(conversion, trial_rule); }

std::string TankState::lung(const Visit&) const
{
    if (!lung_route) return "";
    return hydrostatic::id(*lung_route) +
           (lung_route == hydrostatic::LungRoute::age_height ? ' ' + lung_equation : std::string());
}

} // namespace fusain::bench
