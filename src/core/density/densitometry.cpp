// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/density/densitometry.h"

#include "core/quality/judgement.h"
#include "core/base/limits.h"

namespace fusain::densitometry {

std::vector<const Quantity*> places_with(std::initializer_list<const Quantity*> own)
{
    std::vector<const Quantity*> all = {&quantity::body_volume, &quantity::body_density, &quantity::fat_percent,
        &quantity::fat_mass, &quantity::fat_free_mass, &quantity::bmi, &quantity::ffmi, &quantity::fmi};
    all.insert(all.end(), own);
    return all;
}

uncertainty::Input conversion_input(const Person& p)
{
    return {"δD", "conversion to fat", "kg/L", 0, density::find(p.conversion)->error_kg_per_l, true};
}

std::vector<double> values_of(const std::vector<uncertainty::Input>& x)
{
    std::vector<double> out;
    out.reserve(x.size());
    for (const uncertainty::Input& input : x) out.push_back(input.value);
    return out;
}

Message unknown_choice(const std::string& field, const std::string& given, const std::string& allowed)
{
    return {"unknown_choice", Level::error, field, field + " is \"" + given + "\"; allowed is one of " + allowed + "."};
}

Messages check(const Person& p)
{
    Messages bad;
    for (const auto& [field, value] : {std::pair{"age_y", p.age_y}, {"height_cm", p.height_cm}, {"mass_kg", p.mass_kg}})
        if (auto message = limits::check(field, value)) bad.push_back(*message);
    const density::Conversion* conversion = density::find(p.conversion);
    if (!conversion)
        bad.push_back(unknown_choice("conversion", p.conversion, ids_of(density::conversions())));
    else if (bad.empty() && !conversion->pair(p.sex, p.age_y))
        bad.push_back({"out_of_range", Level::error, "age_y",
            std::string("Age (age_y) is ") + limits::plain(p.age_y) + " y; conversion " + conversion->id +
                " has constants only for " + conversion->made_on + "."});
    return bad;
}

void add_cautions(const Person& p, const Result& r, Messages& out)
{
    const auto say = [&](const char* code, const char* field, std::string text) {
        out.push_back({code, Level::caution, field, std::move(text)});
    };
    const density::Conversion& conversion = *density::find(p.conversion);
    if (!conversion.covers(p.sex, p.age_y))
        say("outside_group", "conversion",
            std::string("The client is outside the group ") + conversion.title + " was made on (" + conversion.made_on +
                ").");
    const double fat = r.values[fat_percent].value, density = r.values[body_density].value;
    if (conversion.any_build)
        if (const char* build =
                judgement::unusual_build(p.sex, p.age_y, fat, r.values[ffmi].value, r.values[bmi].value))
            say("outside_group", "conversion",
                std::string("The client is ") + build + "; " + conversion.title +
                    " was not made on such people, and reads them less surely.");
    if (!(density >= 0.98 && density <= 1.10))
        say("density_unusual", "", "Body density is outside 0.98 to 1.10 kg/L: measure again before using it.");
    for (Message& m : judgement::judge_composition(p.sex, p.age_y, fat, r.values[ffmi].value, r.values[fmi].value))
        out.push_back(std::move(m));
}

void Teller::add(Kind kind, std::string symbol, std::string title, double value, std::string unit, int decimals,
    double u, std::string source)
{
    r_.story.push_back(
        {kind, std::move(symbol), std::move(title), value, std::move(unit), decimals, u, std::move(source)});
}

void Teller::quantity(Kind kind, const char* symbol, std::size_t key, std::string source)
{
    const Value& v = r_.values[key];
    add(kind, symbol, v.quantity->title, v.value, v.quantity->unit, v.quantity->decimals, v.u, std::move(source));
}

void Teller::person(const Person& p, double u_mass_kg, double u_height_cm)
{
    add(Kind::input, "M", "Body mass", p.mass_kg, "kg", 2, u_mass_kg, p.mass_from);
    add(Kind::input, "H", "Height", p.height_cm, "cm", 1, u_height_cm, "measured");
    add(Kind::input, "A", "Age", p.age_y, "y", 2, 0, "date of birth");
}

void Teller::conclusion(const Person& p)
{
    const density::Conversion& conversion = *density::find(p.conversion);
    const density::Pair pair = *conversion.pair(p.sex, p.age_y);
    quantity(Kind::equation, "D_b", body_density, "M / V_b");
    quantity(Kind::result, "%F", fat_percent,
        "100·(" + limits::plain(pair.c1) + "/D_b − " + limits::plain(pair.c2) + "), " + conversion.source);
    quantity(Kind::result, "FM", fat_mass, "M·%F/100");
    quantity(Kind::result, "FFM", fat_free_mass, "M − FM");
    quantity(Kind::result, "BMI", bmi, "M/h²");
    quantity(Kind::result, "FFMI", ffmi, "FFM/h²");
    quantity(Kind::result, "FMI", fmi, "FM/h²");
}

} // namespace fusain::densitometry
