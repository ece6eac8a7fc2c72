// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/density/hydrostatic.h"

#include "core/base/limits.h"
#include "core/body/balance.h"
#include "core/body/possible.h"

#include <cmath>

namespace fusain::hydrostatic {

Places quantities()
{
    static const auto places =
        densitometry::places_with({&quantity::water_density, &quantity::underwater_mass, &quantity::residual_volume});
    return places;
}

const char* id(LungRoute route)
{
    constexpr const char* ids[] = {"measured", "vital_capacity", "age_height"};
    return ids[static_cast<int>(route)];
}

const char* title(LungRoute route)
{
    constexpr const char* titles[] = {"measured", "from vital capacity", "from age and height"};
    return titles[static_cast<int>(route)];
}

namespace {

using uncertainty::Grad;

/// The uncertain inputs of the chain, in the order they are handed to propagation. The lung route decides the tail.
enum Slot { mass, underwater, water_temp, gut_gas, conversion_error, height, lung_first };

std::vector<uncertainty::Input> uncertain_inputs(const Input& in, const trials::Selection& chosen)
{
    const InputErrors& e = in.errors;
    std::vector<uncertainty::Input> x;
    x.reserve(uncertainty::max_inputs);
    x.push_back({"M", "body mass", "kg", in.mass_kg, e.mass_kg});
    x.push_back({"W_u", in.trials_from.empty() ? "trials under water" : "trials under water, typed", "kg",
        chosen.underwater_mass_kg, underwater_u_kg(in, chosen)});
    x.push_back({"t_w", "water temperature", "°C", in.water_temp_c, e.water_temp_c});
    x.push_back({"GI", "gut gas", "L", in.gut_gas_l, e.gut_gas_l});
    x.push_back(densitometry::conversion_input(in));
    x.push_back({"H", "height", "cm", in.height_cm, e.height_cm});
    const Lung& lung = in.lung;
    switch (lung.route) {
    case LungRoute::measured:
        x.push_back({"RV", "residual volume", "L", lung.residual_volume_l, lung::measured_error_l});
        break;
    case LungRoute::vital_capacity:
        x.push_back({"δRV", "residual volume equation", "L", 0, lung::wilmore_1969_error_l});
        x.push_back({"VC", "vital capacity", "L", lung.vital_capacity_l, e.vital_capacity_l});
        if (!lung.body_conditions) {
            x.push_back({"T_g", "gas temperature", "°C", lung.gas_temp_c, e.gas_temp_c});
            x.push_back({"P_B", "barometer", "mmHg", lung.barometric_mmhg, e.barometric_mmhg});
        }
        break;
    case LungRoute::age_height:
        x.push_back({"δRV", "residual volume equation", "L", 0, lung::find(lung.equation)->error_l(in.sex)});
        break;
    }
    return x;
}

template <class T>
T predict_age_height(const lung::Equation& row, Sex sex, const T& height_cm, double age_y)
{
    if constexpr (std::is_same_v<T, double>)
        return row.predict(sex, height_cm, age_y);
    else
        return row.predict_grad(sex, height_cm, T(age_y));
}

template <class T>
T residual_volume_of(const Input& in, const std::vector<T>& x)
{
    const std::size_t first = lung_first;
    switch (in.lung.route) {
    case LungRoute::measured: return x[first];
    case LungRoute::vital_capacity: {
        const T btps =
            in.lung.body_conditions ? x[first + 1] : x[first + 1] * gas::atps_to_btps(x[first + 2], x[first + 3]);
        return lung::wilmore_1969_rv(in.sex, btps) + x[first];
    }
    case LungRoute::age_height:
        return predict_age_height(*lung::find(in.lung.equation), in.sex, x[height], in.age_y) + x[first];
    }
    return x[first];
}

/// The whole chain, once, for numbers and for derivatives alike.
template <class T>
std::vector<T> chain(const Input& in, const std::vector<T>& x)
{
    std::vector<T> v(key_count);
    v[water_density] = water::density_tanaka_2001(x[water_temp]) + water::density_from_salt(T(in.salinity_g_per_l));
    v[underwater_mass] = x[underwater];
    v[residual_volume] = residual_volume_of(in, x);
    densitometry::fill_common(v, in, x[mass], x[height],
        body_volume_l(x[mass], x[underwater], v[water_density], v[residual_volume], x[gut_gas]), x[conversion_error]);
    return v;
}

Messages check_input(const Input& in)
{
    Messages bad = densitometry::check(in);
    const auto range = [&](const char* field, double value) {
        if (auto message = limits::check(field, value)) bad.push_back(*message);
    };
    for (double kg : in.trials_kg) range("hydrostatic.trials_kg", kg);
    range("hydrostatic.water_temp_c", in.water_temp_c);
    range("hydrostatic.salinity_g_per_l", in.salinity_g_per_l);
    range("hydrostatic.gut_gas_l", in.gut_gas_l);
    switch (in.lung.route) {
    case LungRoute::measured: range("hydrostatic.lung.residual_volume_l", in.lung.residual_volume_l); break;
    case LungRoute::vital_capacity:
        range("hydrostatic.lung.vital_capacity_l", in.lung.vital_capacity_l);
        if (!in.lung.body_conditions) {
            range("hydrostatic.lung.gas_temp_c", in.lung.gas_temp_c);
            range("hydrostatic.lung.barometric_mmhg", in.lung.barometric_mmhg);
        }
        break;
    case LungRoute::age_height:
        if (!lung::find(in.lung.equation))
            bad.push_back(densitometry::unknown_choice(
                "hydrostatic.lung.equation", in.lung.equation, densitometry::ids_of(lung::equations())));
        break;
    }
    if (!trials::find(in.trial_rule))
        bad.push_back(densitometry::unknown_choice(
            "hydrostatic.trial_rule", in.trial_rule, densitometry::ids_of(trials::rules())));
    return bad;
}

/// A residual volume that came out of an equation can be as impossible as one that was typed.
std::optional<Message> check_predicted_volume(const Input& in, double residual_volume_l)
{
    auto message = limits::check("hydrostatic.lung.residual_volume_l", residual_volume_l);
    if (message && in.lung.route != LungRoute::measured) {
        const bool from_vc = in.lung.route == LungRoute::vital_capacity;
        message->field = from_vc ? "hydrostatic.lung.vital_capacity_l" : "hydrostatic.lung.equation";
        message->text += from_vc ? " It was estimated from hydrostatic.lung.vital_capacity_l = " +
                                       limits::plain(in.lung.vital_capacity_l) + " L."
                                 : " It was estimated by hydrostatic.lung.equation = " + in.lung.equation +
                                       " from height_cm = " + limits::plain(in.height_cm) +
                                       " and age_y = " + limits::plain(in.age_y) + ".";
    }
    return message;
}

void add_own_cautions(const Input& in, const Result& r, Messages& out)
{
    const auto say = [&](const char* code, const char* field, std::string text) {
        out.push_back({code, Level::caution, field, std::move(text)});
    };
    if (trials::still_improving(in.trials_kg))
        say("still_improving", "hydrostatic.trials_kg",
            "The last trial was the heaviest: the client may still be learning. Take more.");
    if (r.values[underwater_mass].value < 0)
        say("negative_under_water", "hydrostatic.trials_kg",
            "Net underwater mass is negative: possible in a very buoyant client. Confirm the zero.");
    if (in.lung.route == LungRoute::age_height) {
        const lung::Equation& row = *lung::find(in.lung.equation);
        if (!(in.age_y >= row.age_low_y && in.age_y <= row.age_high_y))
            say("outside_group", "hydrostatic.lung.equation",
                std::string("The client is outside the group ") + row.title + " was made on (" + row.made_on + ").");
    }
    if (in.lung.route == LungRoute::vital_capacity) {
        if (in.age_y < 18)
            say("outside_group", "hydrostatic.lung.source", "The fraction of vital capacity was made on adults.");
        const double expected = lung::crapo_1981_fvc(in.sex, in.height_cm, in.age_y);
        const double btps =
            in.lung.vital_capacity_l *
            (in.lung.body_conditions ? 1.0 : gas::atps_to_btps(in.lung.gas_temp_c, in.lung.barometric_mmhg));
        if (expected > 0 && (btps < 0.6 * expected || btps > 1.4 * expected))
            say("vital_capacity_unusual", "hydrostatic.lung.vital_capacity_l",
                "Vital capacity is " + limits::plain(100 * btps / expected, 0) +
                    " % of what is expected for height, age and sex: repeat the blow or check the conditions.");
    }
}

std::vector<Rung> build_ladder(const Input& in, const Result& r, const std::vector<uncertainty::Input>& x)
{
    const auto v = [&](std::size_t key) { return r.values[key].value; };
    const auto u = [&](std::size_t key) { return r.values[key].u; };
    const double lost = in.mass_kg - v(underwater_mass);
    const auto number = [](double value, int decimals) { return limits::plain(value, decimals); };
    return {
        {"weight lost in water", number(in.mass_kg, 2) + " − " + number(v(underwater_mass), 3) + " kg", lost,
            std::hypot(x[mass].u, x[underwater].u), true, true},
        {"water at " + number(in.water_temp_c, 1) + " °C", "÷ " + number(v(water_density), 5) + " kg/L",
            lost / v(water_density) - lost, lost / std::pow(v(water_density), 2) * u(water_density), false},
        {"residual volume", title(in.lung.route), -v(residual_volume), u(residual_volume), false},
        {"gut gas", "convention", -in.gut_gas_l, x[gut_gas].u, false},
        {"body volume", "", v(body_volume), u(body_volume), true},
    };
}

void tell_story(const Input& in, Result& r, const std::vector<uncertainty::Input>& x)
{
    using Kind = StoryStep::Kind;
    densitometry::Teller tell(r);
    tell.person(in, in.errors.mass_kg, in.errors.height_cm);
    for (std::size_t i = 0; i < in.trials_kg.size(); ++i) {
        const bool used = std::count(r.used.begin(), r.used.end(), static_cast<int>(i)) > 0;
        tell.add(Kind::input, "W" + std::to_string(i + 1),
            "Trial " + std::to_string(i + 1) + (used ? ", counts" : ", not counted"), in.trials_kg[i], "kg", 3, 0,
            i < in.trials_from.size() ? in.trials_from[i] : "load cell");
    }
    tell.add(Kind::input, "t_w", "Water temperature", in.water_temp_c, "°C", 2, in.errors.water_temp_c, in.water_from);
    if (in.salinity_g_per_l > 0)
        tell.add(Kind::input, "S", "Salt in the water", in.salinity_g_per_l, "g/L", 2, 0, "typed");
    tell.quantity(Kind::correction, "W_u", underwater_mass,
        std::string(trials::find(in.trial_rule)->title) + " (" + trials::find(in.trial_rule)->source + ")");
    tell.quantity(Kind::equation, "ρ_w", water_density, "Tanaka et al. 2001, Metrologia 38:301–309");
    switch (in.lung.route) {
    case LungRoute::measured: tell.quantity(Kind::input, "RV", residual_volume, "measured, BTPS"); break;
    case LungRoute::vital_capacity:
        tell.add(Kind::input, "VC", in.lung.body_conditions ? "Vital capacity, BTPS" : "Vital capacity, ATPS",
            in.lung.vital_capacity_l, "L", 3, in.errors.vital_capacity_l, in.lung.vital_capacity_from);
        if (!in.lung.body_conditions) {
            const double factor = gas::atps_to_btps(in.lung.gas_temp_c, in.lung.barometric_mmhg);
            tell.add(Kind::input, "T_g", "Gas temperature", in.lung.gas_temp_c, "°C", 1, in.errors.gas_temp_c,
                "thermometer");
            tell.add(Kind::input, "P_B", "Barometric pressure", in.lung.barometric_mmhg, "mmHg", 1,
                in.errors.barometric_mmhg, "barometer");
            tell.add(Kind::correction, "BTPS", "Room to body conditions, factor", factor, "", 5, 0,
                "Buck 1981, J Appl Meteorol 20:1527");
            tell.add(Kind::correction, "VC_BTPS", "Vital capacity, BTPS", factor * in.lung.vital_capacity_l, "L", 3, 0,
                "VC × factor");
        }
        tell.quantity(Kind::equation, "RV", residual_volume, lung::wilmore_1969_source);
        break;
    case LungRoute::age_height:
        tell.quantity(Kind::equation, "RV", residual_volume, lung::find(in.lung.equation)->source);
        break;
    }
    tell.add(Kind::input, "GI", "Gut gas", in.gut_gas_l, "L", 3, x[gut_gas].u, "convention, Buskirk 1961");
    tell.quantity(Kind::equation, "V_b", body_volume, "(M − W_u)/ρ_w − (RV + GI)");
    tell.conclusion(in);
}

} // namespace

double underwater_u_kg(const Input& in, const trials::Selection& chosen)
{
    const InputErrors& e = in.errors;
    double readings = 0;
    for (int i : chosen.used) {
        const double u = in.trials_u_kg.size() == in.trials_kg.size() ? in.trials_u_kg[static_cast<std::size_t>(i)] : 0;
        readings += std::pow(u > 0 ? u : e.reading_kg, 2);
    }
    const double counted = static_cast<double>(chosen.used.size()), all = static_cast<double>(in.trials_kg.size());
    const double least = std::hypot(all > 1 ? e.trial_floor_kg : e.single_trial_kg, std::sqrt(readings / counted));
    double mean = 0, squares = 0;
    for (double kg : in.trials_kg) mean += kg / all;
    for (double kg : in.trials_kg) squares += std::pow(kg - mean, 2);
    const double scatter = all > 1 ? std::sqrt(squares / (all - 1)) : 0;
    return std::hypot(std::max(scatter, least) / std::sqrt(counted), e.zero_kg, in.zero_sd_kg);
}

Outcome<Result> compute(const Input& in, Detail detail)
{
    if (Messages bad = check_input(in); !bad.empty()) return Outcome<Result>::refuse(std::move(bad));
    const Outcome<trials::Selection> chosen = trials::find(in.trial_rule)->select(in.trials_kg);
    if (!chosen) return Outcome<Result>::refuse(chosen.messages());

    Messages messages = chosen.messages();
    const std::vector<uncertainty::Input> x = uncertain_inputs(in, *chosen);
    Result r;
    r.used = chosen->used;
    r.spread = chosen->spread_kg;
    propagate(
        r, [&](const auto& inputs) { return chain(in, inputs); }, quantities(), x, detail);
    if (auto message = check_predicted_volume(in, r.values[residual_volume].value))
        return Outcome<Result>::refuse(*message);
    if (auto message = limits::check("body_density_kg_per_l", r.values[body_density].value)) {
        // a net underwater mass over 15 % of body mass always ends here: chair or belt were not zeroed
        message->text += " Check the zero of chair and belt, the trials and the mass.";
        return Outcome<Result>::refuse(*message);
    }
    if (auto why = possible::not_a_body(r)) return Outcome<Result>::refuse(std::move(*why));
    add_own_cautions(in, r, messages);
    balance::add(r, in.sex, in.age_y);
    densitometry::add_cautions(in, r, messages);
    if (detail == Detail::numbers) return {std::move(r), std::move(messages)};
    r.ladder = build_ladder(in, r, x);
    tell_story(in, r, x);
    return {std::move(r), std::move(messages)};
}

uncertainty::Budget fat_budget_central(const Input& in)
{
    const Outcome<trials::Selection> chosen = trials::find(in.trial_rule)->select(in.trials_kg);
    return uncertainty::propagate_central(
        [&](const std::vector<double>& x) { return chain(in, x)[fat_percent]; }, uncertain_inputs(in, *chosen));
}

std::vector<WhatIf> what_ifs(const Input& in)
{
    const Outcome<Result> now = compute(in);
    if (!now) return {};
    std::vector<WhatIf> list;
    const trials::Selection chosen = *trials::find(in.trial_rule)->select(in.trials_kg);
    const auto chain_with = [&](std::size_t slot, double change) {
        std::vector<double> x = densitometry::values_of(uncertain_inputs(in, chosen));
        x[slot] += change;
        return chain(in, x)[fat_percent] - now->values[fat_percent].value;
    };
    list.push_back({"residual volume 0.1 L more", chain_with(lung_first, 0.1), false});
    list.push_back(
        {"0.1 L of air left in the lungs", chain_with(underwater, -0.1 * now->values[water_density].value), true});
    list.push_back({"water 1 °C warmer than read", chain_with(water_temp, 1.0), true});
    list.push_back({"belt not zeroed (3.0 kg)", chain_with(underwater, 3.0), true});
    for (const char* other : {"siri_1961", "brozek_1963"}) {
        if (in.conversion == other) continue;
        Input changed = in;
        changed.conversion = other;
        if (const Outcome<Result> then = compute(changed))
            list.push_back({std::string(density::find(other)->title) + " instead",
                then->values[fat_percent].value - now->values[fat_percent].value, false});
    }
    return list;
}

} // namespace fusain::hydrostatic
