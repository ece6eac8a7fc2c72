// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/body/told.h"

#include "core/base/limits.h"
#include "core/base/propagate.h"
#include "core/body/balance.h"
#include "core/body/possible.h"
#include "core/quality/judgement.h"

#include <algorithm>
#include <cmath>

namespace fusain::told {
namespace {

constexpr double bmi_apart = 0.6;   ///< a height rounded to centimetres, a mass to half a kilogram
constexpr double apart_kg = 0.5;    ///< by which two numbers of one result may differ: they were rounded
constexpr double part_slack = 0.15; ///< by which a part may pass its whole: both were rounded
constexpr double u_mass_kg = 0.1, u_height_cm = 0.5;

/// What a number is worth that came without its error, as a share of it. This lab's rule.
double usual_share(const Quantity& q)
{
    const auto is = [&](const Quantity& other) { return &q == &other; };
    if (is(quantity::bone_mineral)) return 0.03;
    if (is(quantity::skeletal_muscle)) return 0.10;
    if (is(quantity::visceral_fat) || is(quantity::visceral_area)) return 0.20;
    if (q.kind == UnitKind::impedance || q.kind == UnitKind::angle) return 0.01;
    return 0.05;
}

Message wrong(const char* code, const Quantity& q, const std::string& text) { return {code, Level::error, q.id, text}; }

std::string told_as(const Quantity& q, double value)
{
    return std::string(q.title) + ' ' + limits::plain(value, 3) + ' ' + q.unit;
}

/// Fat by whichever of the three was told; nothing when none was.
std::optional<double> fat_kg(const Quantity& by, double value, double mass_kg)
{
    if (&by == &quantity::fat_percent) return mass_kg * value / 100;
    if (&by == &quantity::fat_mass) return value;
    if (&by == &quantity::fat_free_mass) return mass_kg - value;
    return std::nullopt;
}

Messages check(const Input& in)
{
    Messages bad;
    for (const auto& [field, value] :
        {std::pair{"age_y", in.age_y}, {"height_cm", in.height_cm}, {"mass_kg", in.mass_kg}})
        if (auto m = limits::check(field, value)) bad.push_back(*m);
    if (!bad.empty()) return bad;
    if (!(in.u_fat_percent > 0 && in.u_fat_percent <= 15))
        bad.push_back(wrong("out_of_range", quantity::fat_percent,
            "The error of percent fat is " + limits::plain(in.u_fat_percent) + " %; allowed is over 0 to 15 %."));
    const Quantity* first = nullptr;
    double first_kg = 0;
    for (const Quantity* q : {&quantity::fat_percent, &quantity::fat_mass, &quantity::fat_free_mass}) {
        const auto at = in.given.find(q);
        if (at == in.given.end()) continue;
        const double fat = *fat_kg(*q, at->second, in.mass_kg), percent = 100 * fat / in.mass_kg;
        if (!(percent > 0 && percent < 80))
            bad.push_back(wrong("out_of_range", *q,
                told_as(*q, at->second) + " of " + limits::plain(in.mass_kg, 2) + " kg would be " +
                    limits::plain(percent, 1) + " % fat; allowed is over 0 to 80 %. Is it in another unit?"));
        else if (first && std::abs(fat - first_kg) > apart_kg)
            bad.push_back(wrong("contradiction", *q,
                told_as(*q, at->second) + " is " + limits::plain(fat, 2) + " kg fat; " +
                    told_as(*first, in.given.at(first)) + " is " + limits::plain(first_kg, 2) + " kg, of " +
                    limits::plain(in.mass_kg, 2) + " kg. Is one of them in another unit?"));
        else if (!first)
            first = q, first_kg = fat;
    }
    if (!first && bad.empty())
        bad.push_back(wrong("missing_field", quantity::fat_percent,
            "Percent fat, fat mass or fat-free mass is needed; none of them is there."));
    for (const auto& [q, value] : in.given)
        if (!std::isfinite(value) || value < 0)
            bad.push_back(wrong("out_of_range", *q, told_as(*q, value) + "; allowed is 0 and above."));
        else if (q->unit == std::string_view("kg") && value > in.mass_kg)
            bad.push_back(wrong("contradiction", *q,
                told_as(*q, value) + " is more than the whole body, " + limits::plain(in.mass_kg, 2) + " kg."));
        else if (const auto whole = in.given.find(find_quantity(q->part_of));
                 whole != in.given.end() && value > whole->second + part_slack)
            bad.push_back(wrong("contradiction", *q,
                told_as(*q, value) + " is more than what it is a part of, " + told_as(*whole->first, whole->second) +
                    '.'));
    const auto told = [&](const Quantity& q) {
        const auto at = in.given.find(&q);
        return at == in.given.end() ? NAN : at->second;
    };
    const double inside = told(quantity::intracellular_water), outside = told(quantity::extracellular_water),
                 water = told(quantity::total_body_water), bmi = told(quantity::bmi),
                 m2 = in.height_cm * in.height_cm / 1e4;
    if (std::abs(inside + outside - water) > apart_kg)
        bad.push_back(wrong("contradiction", quantity::total_body_water,
            told_as(quantity::intracellular_water, inside) + " and " + told_as(quantity::extracellular_water, outside) +
                " make " + limits::plain(inside + outside, 2) + " L; " + told_as(quantity::total_body_water, water) +
                '.'));
    if (std::abs(bmi - in.mass_kg / m2) > bmi_apart)
        bad.push_back(wrong("contradiction", quantity::bmi,
            told_as(quantity::bmi, bmi) + "; " + limits::plain(in.mass_kg, 2) + " kg and " +
                limits::plain(in.height_cm, 1) + " cm make " + limits::plain(in.mass_kg / m2, 2) + " kg/m²."));
    return bad;
}

} // namespace

Outcome<Result> compute(const Input& in, Detail detail)
{
    if (Messages bad = check(in); !bad.empty()) return Outcome<Result>::refuse(std::move(bad));
    const Quantity* by = nullptr;
    for (const Quantity* q : {&quantity::fat_percent, &quantity::fat_mass, &quantity::fat_free_mass})
        if (!by && in.given.count(q)) by = q;
    const double percent = 100 * *fat_kg(*by, in.given.at(by), in.mass_kg) / in.mass_kg;

    Result r;
    const char* as = in.printed ? "as it is printed" : "as it was told";
    const std::vector<uncertainty::Input> x = {{"M", "body mass", "kg", in.mass_kg, u_mass_kg},
        {"H", "height", "cm", in.height_cm, u_height_cm},
        {"%F", in.printed ? "percent fat as it is printed" : "percent fat as it was told", "%", percent,
            in.u_fat_percent, true}};
    static const std::vector<const Quantity*> places = {&quantity::fat_percent, &quantity::fat_mass,
        &quantity::fat_free_mass, &quantity::bmi, &quantity::ffmi, &quantity::fmi};
    const auto chain = [](const auto& v) {
        using T = std::decay_t<decltype(v[0])>;
        const T fat = v[0] * v[2] / T(100.0), lean = v[0] - fat, m2 = v[1] * v[1] / T(1e4);
        return std::vector<T>{v[2], fat, lean, v[0] / m2, lean / m2, fat / m2};
    };
    propagate(r, chain, places, x, detail);
    for (const auto& [q, value] : in.given) {
        const auto at = std::find_if(
            r.values.begin(), r.values.end(), [&, &quantity = q](const Value& v) { return v.quantity == quantity; });
        if (at != r.values.end())
            at->value = value; // as it was told, to its last digit
        else
            r.values.push_back({q, value, usual_share(*q) * value, usual_share(*q) * value});
    }
    if (auto why = possible::not_a_body(r)) return Outcome<Result>::refuse(std::move(*why));
    balance::add(r, in.sex, in.age_y);
    const double fat = r[quantity::fat_mass].value, lean = r[quantity::fat_free_mass].value;
    r.ladder = {{"Fat", as, fat, r[quantity::fat_mass].u, false, true, Tissue::fat, 1},
        {"Fat-free mass", "the rest", lean, r[quantity::fat_free_mass].u, false, true, Tissue::lean, 1},
        {"Body mass", "", in.mass_kg, u_mass_kg, true, true, Tissue::none, 1}};
    const auto symbol = [](const Quantity* q) {
        const std::pair<const Quantity*, const char*> known[] = {{&quantity::fat_percent, "%F"},
            {&quantity::fat_mass, "FM"}, {&quantity::fat_free_mass, "FFM"}, {&quantity::bmi, "BMI"},
            {&quantity::ffmi, "FFMI"}, {&quantity::fmi, "FMI"}};
        for (const auto& [of, words] : known)
            if (of == q) return words;
        return "";
    };
    for (const Value& v : r.values) {
        const bool told = in.given.count(v.quantity) > 0, doubt_assumed = told && *symbol(v.quantity) == '\0';
        r.story.push_back({told ? StoryStep::Kind::input : StoryStep::Kind::result, symbol(v.quantity),
            v.quantity->title, v.value, v.quantity->unit, v.quantity->decimals, v.u,
            !told ? "follows by sums"
                  : (in.printed ? "printed: " : "told: ") + in.from + (doubt_assumed ? "; its doubt is assumed" : "")});
    }
    Messages messages = judgement::judge_composition(
        in.sex, in.age_y, r[quantity::fat_percent].value, r[quantity::ffmi].value, r[quantity::fmi].value);
    return {std::move(r), std::move(messages)};
}

} // namespace fusain::told
