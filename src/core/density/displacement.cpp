// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/density/displacement.h"

#include "core/base/limits.h"
#include "core/body/balance.h"
#include "core/body/possible.h"

namespace fusain::displacement {

using uncertainty::Grad;

Places quantities()
{
    static const auto places = densitometry::places_with(
        {&quantity::raw_volume, &quantity::surface_area_artifact, &quantity::thoracic_gas_volume});
    return places;
}

const char* id(LungRoute route) { return route == LungRoute::measured ? "measured" : "predicted"; }
const char* title(LungRoute route)
{
    return route == LungRoute::measured ? "measured" : "predicted from age and height";
}

double allowed_difference_l(double a_l, double b_l) { return std::max(0.150, 0.002 * (a_l + b_l) / 2); }

Outcome<Agreement> agree(std::span<const double> raw)
{
    const char* field = "air_displacement.raw_volumes_l";
    if (raw.size() < 2)
        return Outcome<Agreement>::refuse(Message{"too_few_runs", Level::repeat, field,
            "Two runs that agree are needed; there " + std::string(raw.empty() ? "is none" : "is one") + "."});
    std::optional<std::pair<std::size_t, std::size_t>> best;
    double closest = INFINITY;
    for (std::size_t i = 0; i < raw.size(); ++i)
        for (std::size_t k = i + 1; k < raw.size(); ++k) {
            const double apart = std::abs(raw[i] - raw[k]);
            // two decimals more than a reading has: 0.150 L apart is agreement, whatever binary makes of it
            if (apart > allowed_difference_l(raw[i], raw[k]) + 1e-9) continue;
            const bool first_two = i == 0 && k == 1;
            if (first_two || apart < closest - 1e-9) {
                best = {i, k};
                closest = first_two ? -1 : apart;
            }
        }
    if (!best) {
        std::string list;
        for (double v : raw) list += (list.empty() ? "" : ", ") + limits::plain(v, 3);
        return Outcome<Agreement>::refuse(Message{"runs_disagree", Level::repeat, field,
            "The runs (" + list + " L) are more than 0.150 L or 0.2 % apart. " +
                (raw.size() < most_runs ? "Take a third." : "Calibrate again and start over.")});
    }
    const auto [i, k] = *best;
    return Agreement{(raw[i] + raw[k]) / 2, {static_cast<int>(i), static_cast<int>(k)}, std::abs(raw[i] - raw[k])};
}

Advice advise(std::span<const double> raw)
{
    if (raw.empty()) return {Next::another_run, "Two runs that agree make a result; the door is opened in between."};
    if (raw.size() == 1) return {Next::another_run, "One run taken. Open the door, close it, take the second."};
    const auto chosen = agree(raw);
    if (chosen)
        return {Next::enough,
            "Runs " + std::to_string(chosen->used[0] + 1) + " and " + std::to_string(chosen->used[1] + 1) +
                " agree within " + limits::plain(1000 * chosen->spread_l, 0) + " mL (allowed " +
                limits::plain(1000 * allowed_difference_l(chosen->raw_volume_l, chosen->raw_volume_l), 0) + ")."};
    const double apart = std::abs(raw[raw.size() - 1] - raw[raw.size() - 2]);
    if (raw.size() < most_runs)
        return {Next::another_run, "The two runs are " + limits::plain(1000 * apart, 0) + " mL apart (allowed " +
                                       limits::plain(1000 * allowed_difference_l(raw[0], raw[1]), 0) +
                                       "): take a third."};
    return {Next::start_over, "No two of the runs agree. Calibrate again and start over."};
}

namespace {

/// The uncertain inputs of the chain, in the order they are handed to propagation.
enum Slot { mass, raw, height, surface, conversion_error, lung_gas };

std::vector<uncertainty::Input> uncertain_inputs(const Input& in, const Agreement& runs)
{
    const InputErrors& e = in.errors;
    const double scatter =
        runs.used.size() > 1 ? std::max(runs.spread_l / 2, e.single_run_l / std::sqrt(2.0)) : e.single_run_l;
    std::vector<uncertainty::Input> x;
    x.reserve(uncertainty::max_inputs);
    x.push_back({"M", "body mass", "kg", in.mass_kg, e.mass_kg});
    x.push_back({"V_raw",
        in.runs_from.empty()                        ? "volume runs"
        : in.runs_from.front().starts_with("typed") ? "volume runs, typed"
                                                    : "volume runs, from files",
        "L", runs.raw_volume_l, std::hypot(scatter, e.calibration_l)});
    x.push_back({"H", "height", "cm", in.height_cm, e.height_cm});
    x.push_back({"δA", "surface-area term", "", 1, e.surface_fraction});
    x.push_back(densitometry::conversion_input(in));
    if (in.lung.route == LungRoute::measured)
        x.push_back({"V_TG", "lung gas", "L", in.lung.thoracic_gas_volume_l, in.lung.u_l});
    else
        x.push_back({"δV_TG", "lung gas prediction", "L", 0, lung::find_gas(in.lung.equation)->error_l});
    return x;
}

template <class T>
T lung_gas_of(const Input& in, const std::vector<T>& x)
{
    if (in.lung.route == LungRoute::measured) return x[lung_gas];
    const auto& row = *lung::find_gas(in.lung.equation);
    if constexpr (std::is_same_v<T, double>)
        return row.predict(in.sex, x[height], in.age_y) + x[lung_gas];
    else
        return row.predict_grad(in.sex, x[height], T(in.age_y)) + x[lung_gas];
}

double number_of(double x) { return x; }
double number_of(const Grad& x) { return x.v; }

/// The whole chain, once, for numbers and for derivatives alike.
template <class T>
std::vector<T> chain(const Input& in, const std::vector<T>& x)
{
    std::vector<T> v(key_count);
    v[raw_volume] = x[raw];
    v[surface_area_artifact] = surface_area_artifact_l(du_bois_1916_cm2(x[mass], x[height])) *
                               (in.surface_corrected ? x[surface] - T(1.0) : x[surface]);
    v[thoracic_gas_volume] = lung_gas_of(in, x);
    // what the instrument has corrected for already is nothing to be added; its doubt stays
    if (in.lungs_corrected) v[thoracic_gas_volume] = v[thoracic_gas_volume] - T(number_of(v[thoracic_gas_volume]));
    densitometry::fill_common(v, in, x[mass], x[height],
        body_volume_l(x[raw], v[surface_area_artifact], v[thoracic_gas_volume]), x[conversion_error]);
    return v;
}

Messages check_input(const Input& in)
{
    Messages bad = densitometry::check(in);
    const auto range = [&](const char* field, double value) {
        if (auto message = limits::check(field, value)) bad.push_back(*message);
    };
    for (double litres : in.raw_volumes_l) range("air_displacement.raw_volumes_l", litres);
    if (in.lung.route == LungRoute::measured)
        range("air_displacement.lung.thoracic_gas_volume_l", in.lung.thoracic_gas_volume_l);
    else if (!lung::find_gas(in.lung.equation))
        bad.push_back(densitometry::unknown_choice(
            "air_displacement.lung.equation", in.lung.equation, densitometry::ids_of(lung::gas_equations())));
    return bad;
}

/// The runs that count. A mean that the instrument made stands by itself.
Outcome<Agreement> chosen_runs(const Input& in)
{
    if (in.mean_of_runs && in.raw_volumes_l.size() == 1) return Agreement{in.raw_volumes_l.front(), {0}, 0};
    return agree(in.raw_volumes_l);
}

void add_own_cautions(const Input& in, Messages& out)
{
    const auto say = [&](const char* code, const char* field, std::string text) {
        out.push_back({code, Level::caution, field, std::move(text)});
    };
    if (in.mean_of_runs)
        say("agreement_unknown", "air_displacement.raw_volumes_l",
            "The chamber gave one volume of its own: whether the runs behind it agree is not known here.");
    if (in.lungs_corrected) return;
    const auto& row =
        *lung::find_gas(in.lung.route == LungRoute::measured ? lung::default_gas_id : in.lung.equation.c_str());
    if (in.lung.route == LungRoute::predicted && !(in.age_y >= row.age_low_y && in.age_y <= row.age_high_y))
        say("outside_group", "air_displacement.lung.equation",
            std::string("The client is outside the group ") + row.title + " was made on (" + row.made_on + ").");
    if (in.lung.route == LungRoute::measured) {
        const double expected = row.predict(in.sex, in.height_cm, in.age_y);
        if (std::abs(in.lung.thoracic_gas_volume_l - expected) > 2.5 * row.error_l)
            say("lung_gas_unusual", "air_displacement.lung.thoracic_gas_volume_l",
                "The lung gas measured is " + limits::plain(in.lung.thoracic_gas_volume_l, 2) + " L; " +
                    limits::plain(expected, 2) +
                    " L is expected for height, age and sex. Measure it again or use the prediction.");
    }
}

std::vector<Rung> build_ladder(const Input& in, const Result& r, const std::vector<uncertainty::Input>& x)
{
    const auto value = [&](std::size_t key) { return r.values[key].value; };
    return {
        {"the chamber reads", in.mean_of_runs ? "its own mean" : std::to_string(r.used.size()) + " runs that agree",
            value(raw_volume), x[raw].u, true},
        {"still air on the skin",
            "surface area " + limits::plain(du_bois_1916_cm2(in.mass_kg, in.height_cm) / 1e4, 2) + " m²",
            -value(surface_area_artifact), r.values[surface_area_artifact].u, false},
        {"air in the lungs", "0.40 × " + limits::plain(value(thoracic_gas_volume), 2) + " L, " + title(in.lung.route),
            lung_share * value(thoracic_gas_volume), lung_share * r.values[thoracic_gas_volume].u, false},
        {"body volume", "", value(body_volume), r.values[body_volume].u, true},
    };
}

void tell_story(const Input& in, Result& r)
{
    using Kind = StoryStep::Kind;
    densitometry::Teller tell(r);
    tell.person(in, in.errors.mass_kg, in.errors.height_cm);
    for (std::size_t i = 0; i < in.raw_volumes_l.size(); ++i) {
        const bool used = std::count(r.used.begin(), r.used.end(), static_cast<int>(i)) > 0;
        tell.add(Kind::input, "V" + std::to_string(i + 1),
            "Run " + std::to_string(i + 1) + (used ? ", counts" : ", not counted"), in.raw_volumes_l[i], "L", 3, 0,
            i < in.runs_from.size() ? in.runs_from[i] : "chamber");
    }
    tell.quantity(Kind::correction, "V_raw", raw_volume,
        in.mean_of_runs ? "the instrument's own" : "mean of two runs within 0.150 L or 0.2 %");
    tell.add(Kind::equation, "BSA", "Body surface area", du_bois_1916_cm2(in.mass_kg, in.height_cm), "cm²", 0, 0,
        "71.84·M^0.425·H^0.725, Du Bois & Du Bois 1916, Arch Intern Med 17:863–871");
    tell.quantity(Kind::correction, "SAA", surface_area_artifact,
        in.surface_corrected ? "corrected for by the instrument; nothing is added"
                             : "−4.67·10⁻⁵·BSA, Dempster & Aitkens 1995, Med Sci Sports Exerc 27:1692–1697");
    if (in.lungs_corrected)
        tell.quantity(Kind::input, "V_TG", thoracic_gas_volume, "corrected for by the instrument; nothing is added");
    else if (in.lung.route == LungRoute::measured)
        tell.quantity(Kind::input, "V_TG", thoracic_gas_volume,
            in.lung.typed ? "typed: measured elsewhere" : "measured while puffing against a closed valve");
    else
        tell.quantity(Kind::equation, "V_TG", thoracic_gas_volume, lung::find_gas(in.lung.equation)->source);
    tell.quantity(Kind::equation, "V_b", body_volume, "V_raw − SAA + 0.40·V_TG, Dempster & Aitkens 1995");
    tell.conclusion(in);
}

} // namespace

Outcome<Result> compute(const Input& in, Detail detail)
{
    if (Messages bad = check_input(in); !bad.empty()) return Outcome<Result>::refuse(std::move(bad));
    const Outcome<Agreement> runs = chosen_runs(in);
    if (!runs) return Outcome<Result>::refuse(runs.messages());
    const std::vector<uncertainty::Input> x = uncertain_inputs(in, *runs);
    Result r;
    r.used = runs->used;
    r.spread = runs->spread_l;
    propagate(
        r, [&](const auto& inputs) { return chain(in, inputs); }, quantities(), x, detail);
    if (auto message = in.lungs_corrected ? std::nullopt
                                          : limits::check("air_displacement.lung.thoracic_gas_volume_l",
                                                r.values[thoracic_gas_volume].value)) {
        message->field = "air_displacement.lung.equation";
        message->text += " It was estimated by air_displacement.lung.equation = " + in.lung.equation +
                         " from height_cm = " + limits::plain(in.height_cm) +
                         " and age_y = " + limits::plain(in.age_y) + ".";
        return Outcome<Result>::refuse(*message);
    }
    if (auto message = limits::check("body_density_kg_per_l", r.values[body_density].value)) {
        message->text += " Check the cylinder's volume, the runs and the mass.";
        return Outcome<Result>::refuse(*message);
    }
    if (auto why = possible::not_a_body(r)) return Outcome<Result>::refuse(std::move(*why));
    Messages messages;
    add_own_cautions(in, messages);
    balance::add(r, in.sex, in.age_y);
    densitometry::add_cautions(in, r, messages);
    if (detail == Detail::numbers) return {std::move(r), std::move(messages)};
    r.ladder = build_ladder(in, r, x);
    tell_story(in, r);
    return {std::move(r), std::move(messages)};
}

uncertainty::Budget fat_budget_central(const Input& in)
{
    return uncertainty::propagate_central([&](const std::vector<double>& x) { return chain(in, x)[fat_percent]; },
        uncertain_inputs(in, *chosen_runs(in)));
}

std::vector<WhatIf> what_ifs(const Input& in)
{
    const Outcome<Result> now = compute(in);
    if (!now) return {};
    std::vector<WhatIf> list;
    const std::vector<double> as_is = densitometry::values_of(uncertain_inputs(in, *chosen_runs(in)));
    const auto with = [&](Slot slot, double change) {
        std::vector<double> x = as_is;
        x[slot] += change;
        return chain(in, x)[fat_percent] - now->values[fat_percent].value;
    };
    list.push_back({"lung gas 0.3 L more", with(lung_gas, 0.3), false});
    list.push_back({"surface-area term 5 % larger", with(surface, 0.05), false});
    list.push_back({"hair not under the cap (as published)", -2.3, true});
    list.push_back({"skin warm or wet (as published, 1 to 2)", -1.5, true});
    list.push_back({"0.5 kg of clothes on the scale", with(mass, 0.5), true});
    const auto also = [&](std::string title, auto change) {
        Input changed = in;
        change(changed);
        if (const Outcome<Result> then = compute(changed))
            list.push_back({std::move(title), then->values[fat_percent].value - now->values[fat_percent].value, false});
    };
    if (in.lung.route == LungRoute::measured)
        also("lung gas predicted instead", [](Input& i) { i.lung.route = LungRoute::predicted; });
    for (const char* other : {"siri_1961", "brozek_1963"})
        if (in.conversion != other)
            also(std::string(density::find(other)->title) + " instead", [&](Input& i) { i.conversion = other; });
    return list;
}

} // namespace fusain::displacement
