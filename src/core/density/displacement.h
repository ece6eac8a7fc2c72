// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/density/densitometry.h"
#include "core/air_and_water/lung.h"

#include <cmath>

/// Air displacement: from calibrated chamber volumes, surface area and lung gas to density and percent fat.
namespace fusain::displacement {

/// Body surface area (Du Bois & Du Bois 1916).
///
/// Given:    mass_kg     body mass, kg, more than 0 to 400
///           height_cm   height, cm, 50 to 260
/// Returned: surface area, cm²
/// Made on:  nine adults and children, measured with paper moulds
/// Error:    about 5 %
/// Source:   Du Bois & Du Bois 1916, Arch Intern Med 17:863–871
/// Notes:    75 kg, 178 cm → 19 267 cm².
template <class T>
T du_bois_1916_cm2(const T& mass_kg, const T& height_cm)
{
    using std::exp;
    using std::log;
    return T(71.84) * exp(T(0.425) * log(mass_kg) + T(0.725) * log(height_cm));
}

/// The surface-area term: still air on skin, which behaves isothermally, makes the body look smaller by this much.
///
/// Given:    area_cm2   body surface area, cm²
/// Returned: volume, L; always negative, and subtracted from the raw volume
/// Error:    5 % of it (0.30 % fat)
/// Source:   Dempster & Aitkens 1995, Med Sci Sports Exerc 27:1692–1697
/// Notes:    75 kg, 178 cm → −0.900 L. Adding it instead of subtracting moves percent fat by −12 %.
template <class T>
T surface_area_artifact_l(const T& area_cm2)
{
    return T(-4.67e-5) * area_cm2;
}

/// γ − 1 for lung air, which is compressed isothermally while the air around the body is compressed adiabatically.
inline constexpr double lung_share = 0.40;

/// Body volume from what the chamber reads.
///
/// Given:    raw_l       calibrated chamber volume, L
///           artifact_l  surface-area term, L, negative
///           gas_l       thoracic gas volume, L at body conditions
/// Returned: body volume without lung gas, L
/// Source:   Dempster & Aitkens 1995, Med Sci Sports Exerc 27:1692–1697
template <class T>
T body_volume_l(const T& raw_l, const T& artifact_l, const T& gas_l)
{
    return raw_l - artifact_l + T(lung_share) * gas_l;
}

/// How far two runs may be apart: 0.150 L or 0.2 % of their mean, whichever is larger.
double allowed_difference_l(double a_l, double b_l);

/// The runs that count, and their mean.
struct Agreement {
    double raw_volume_l = 0;
    std::vector<int> used; ///< 0-based
    double spread_l = 0;
};
/// The first two when they agree; else the closest pair that agrees. Refuses with `too_few_runs`, `runs_disagree`
/// (repeat).
Outcome<Agreement> agree(std::span<const double> raw_volumes_l);

/// What to do next: another run, the result, or a new calibration.
enum class Next { another_run, enough, start_over };
struct Advice {
    Next next = Next::another_run;
    std::string sentence;
};
Advice advise(std::span<const double> raw_volumes_l);
inline constexpr std::size_t most_runs = 3;

enum class LungRoute { measured, predicted };
const char* id(LungRoute route);
const char* title(LungRoute route);

struct Lung {
    LungRoute route = LungRoute::predicted;
    double thoracic_gas_volume_l = 0;        ///< measured route
    double u_l = lung::measured_gas_error_l; ///< measured route
    std::string equation = lung::default_gas_id;
    bool typed = false; ///< measured elsewhere
};

/// Standard uncertainties of what is read off instruments. The defaults are assumptions, shown as such in every budget.
struct InputErrors {
    double mass_kg = 0.05;
    double height_cm = 0.5;
    double single_run_l = 0.05; ///< two runs cannot tell their own scatter well: never taken as less than this / √2
    double calibration_l = 0.02;
    double surface_fraction = 0.05; ///< of the surface-area term
};

struct Input : densitometry::Person {
    std::vector<double> raw_volumes_l;  ///< in the order taken
    std::vector<std::string> runs_from; ///< of each, for the story; empty: the chamber
    bool surface_corrected = false;     ///< the volumes hold the surface-area term already
    bool lungs_corrected = false;       ///< the volumes hold the lung gas already
    bool mean_of_runs = false;          ///< one volume, that the instrument made of runs which are not known here
    Lung lung;
    InputErrors errors;
};

using enum densitometry::Key;
/// The method's own results, after the common ones.
enum Own : std::size_t {
    raw_volume = densitometry::common_count,
    surface_area_artifact,
    thoracic_gas_volume,
    key_count
};
Places quantities(); ///< in their places

/// Checks the input and computes everything.
/// Refusals: `out_of_range` or `unknown_choice` (error, naming the field), `too_few_runs`, `runs_disagree` (repeat).
/// Cautions: `agreement_unknown`, `lung_gas_unusual`, and those of densitometry::add_cautions.
Outcome<Result> compute(const Input& input, Detail detail = Detail::whole);

/// Percent fat and its budget by central differences: the check of the exact derivatives.
uncertainty::Budget fat_budget_central(const Input& input);

/// What the usual doubts, choices and mistakes would do to this client. Empty when the input cannot be computed.
std::vector<WhatIf> what_ifs(const Input& input);

} // namespace fusain::displacement
