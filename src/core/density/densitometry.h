// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/density/density.h"
#include "core/base/outcome.h"
#include "core/base/propagate.h"

#include <span>

/// What the density methods share: from a body volume to density and percent fat, with uncertainty, ladder and story.
/// A method gives its own inputs, its way to a volume, and its corrections; everything after the volume is here, once.
namespace fusain::densitometry {

/// Places in the chain of a density method, inside these rooms only. A method's own follow from `common_count` on.
enum Key : std::size_t {
    body_volume,
    body_density,
    fat_percent,
    fat_mass,
    fat_free_mass,
    bmi,
    ffmi,
    fmi,
    common_count
};
/// What stands in these places: the common quantities, then the method's own.
std::vector<const Quantity*> places_with(std::initializer_list<const Quantity*> own);

/// Who is measured and how density becomes fat.
struct Person {
    Sex sex = Sex::female;
    double age_y = 0;
    double height_cm = 0;
    double mass_kg = 0;
    std::string mass_from = "scale"; ///< for the story
    std::string conversion = density::default_id;
};

/// Everything after the volume. Given: body volume, mass and height with their derivatives, the conversion's own error
/// (0, as body density). Fills the common keys of `v`.
template <class T>
void fill_common(std::vector<T>& v, const Person& person, const T& mass_kg, const T& height_cm, const T& volume_l,
    const T& conversion_error)
{
    v[body_volume] = volume_l;
    v[body_density] = mass_kg / volume_l;
    const density::Pair pair = *density::find(person.conversion)->pair(person.sex, person.age_y);
    v[fat_percent] = density::percent_fat(v[body_density] + conversion_error, pair);
    v[fat_mass] = mass_kg * v[fat_percent] / T(100.0);
    v[fat_free_mass] = mass_kg - v[fat_mass];
    const T height_m2 = height_cm * height_cm / T(1e4);
    v[bmi] = mass_kg / height_m2;
    v[ffmi] = v[fat_free_mass] / height_m2;
    v[fmi] = v[fat_mass] / height_m2;
}

/// The conversion's own error as an input of the budget.
uncertainty::Input conversion_input(const Person& person);
std::vector<double> values_of(const std::vector<uncertainty::Input>& inputs);

/// Limits of the person's own fields, and whether the conversion exists and has constants for the age.
[[nodiscard]] Messages check(const Person& person);
Message unknown_choice(const std::string& field, const std::string& given, const std::string& allowed);
template <class Rows>
std::string ids_of(const Rows& rows)
{
    std::string text;
    for (const auto& row : rows) text += (text.empty() ? "" : ", ") + std::string(row.id);
    return text;
}
/// Cautions that hold for every density method: `outside_group` (also for builds the adult conversions were not made
/// on), `density_unusual`, `fat_unusual`, `under_minimum`, `low_reserve`.
void add_cautions(const Person& person, const Result& result, Messages& out);

/// Writes the story of a result: the person first, the conclusion last, the method's own steps between.
class Teller {
public:
    using Kind = StoryStep::Kind;
    explicit Teller(Result& result) : r_(result) {}
    void person(const Person& p, double u_mass_kg, double u_height_cm);
    void add(Kind kind, std::string symbol, std::string title, double value, std::string unit, int decimals, double u,
        std::string source);
    void quantity(Kind kind, const char* symbol, std::size_t key, std::string source);
    void conclusion(const Person& p);

private:
    Result& r_;
};

} // namespace fusain::densitometry
