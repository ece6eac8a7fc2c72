// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/density/densitometry.h"
#include "core/air_and_water/gas.h"
#include "core/air_and_water/lung.h"
#include "core/density/trials.h"
#include "core/air_and_water/water.h"

/// Hydrostatic weighing: from mass, underwater mass, water and lung gas to density and percent fat.
namespace fusain::hydrostatic {

/// Body volume from weighing under water.
///
/// Given:    mass_kg              body mass in air, kg
///           underwater_mass_kg   net underwater mass, kg (chair and belt zeroed)
///           water_kg_per_l       water density, kg/L
///           residual_volume_l    lung gas left, L BTPS
///           gut_gas_l            gas in the gut, L (0.100 by convention, Buskirk 1961)
/// Returned: body volume without lung and gut gas, L
/// Source:   Archimedes; Buskirk 1961 for the gut gas
/// Notes:    75 kg, 3.60 kg, 34 °C, RV 1.60 L → density 1.06984 kg/L, 12.69 % (Siri).
template <class T>
T body_volume_l(const T& mass_kg, const T& underwater_mass_kg, const T& water_kg_per_l, const T& residual_volume_l,
    const T& gut_gas_l)
{
    return (mass_kg - underwater_mass_kg) / water_kg_per_l - (residual_volume_l + gut_gas_l);
}

/// The three routes to a residual volume.
enum class LungRoute { measured, vital_capacity, age_height };
const char* id(LungRoute route);
const char* title(LungRoute route);

struct Lung {
    LungRoute route = LungRoute::measured;
    double residual_volume_l = 0; ///< measured route, BTPS
    double vital_capacity_l = 0;  ///< vital-capacity route
    bool body_conditions = true;  ///< true: BTPS; false: ATPS, with the two values below
    double gas_temp_c = 0;
    double barometric_mmhg = 0;
    std::string equation = "quanjer_1993";          ///< age-and-height route
    std::string vital_capacity_from = "spirometer"; ///< for the story
};

/// Standard uncertainties of what is read off instruments. The defaults are assumptions, shown as such in every budget.
struct InputErrors {
    double mass_kg = 0.05;
    double height_cm = 0.5;
    double zero_kg = 0.010;    ///< load cell's zero and calibration
    double reading_kg = 0.010; ///< of a reading that does not say its own
    /// From trial to trial: what air, belt and posture do, however well a few trials agree
    double trial_floor_kg = 0.020;
    double single_trial_kg = 0.030; ///< the same when a single trial cannot tell any scatter
    double water_temp_c = 0.1;
    double vital_capacity_l = 0.08;
    double gas_temp_c = 0.5;
    double barometric_mmhg = 1.5;
    double gut_gas_l = 0.05;
};

struct Input : densitometry::Person {
    std::vector<double> trials_kg;        ///< net underwater mass of each good trial, in the order taken
    std::vector<double> trials_u_kg;      ///< standard error of each reading, as its reader gave it; empty: not known
    std::vector<std::string> trials_from; ///< of each, for the story; empty: the load cell
    std::string water_from = "thermometer";
    double zero_sd_kg = 0; ///< standard error of the zero that was taken today; 0: not known
    std::string trial_rule = trials::default_id;
    double water_temp_c = 0;
    double salinity_g_per_l = 0;
    Lung lung;
    double gut_gas_l = 0.100;
    InputErrors errors;
};

using enum densitometry::Key;
/// The method's own results, after the common ones.
enum Own : std::size_t { water_density = densitometry::common_count, underwater_mass, residual_volume, key_count };
Places quantities(); ///< in their places

/// Standard uncertainty of the net underwater mass: scatter of all good trials (not only of those that were chosen
/// because they agree), never less than the floor and the readings' own errors, over the root of the number that count;
/// with the zero's.
double underwater_u_kg(const Input& input, const trials::Selection& chosen);

/// Checks the input and computes everything.
/// Refusals: `out_of_range` or `unknown_choice` (error, naming the field), `too_few_trials`, `trials_disagree`
/// (repeat). Cautions: `trials_scatter`, `few_trials`, `still_improving`, `negative_under_water`,
/// `vital_capacity_unusual`, and those of densitometry::add_cautions.
Outcome<Result> compute(const Input& input, Detail detail = Detail::whole);

/// Percent fat and its budget by central differences: the check of the exact derivatives.
uncertainty::Budget fat_budget_central(const Input& input);

/// What the usual doubts, choices and mistakes would do to this client. Empty when the input cannot be computed.
std::vector<WhatIf> what_ifs(const Input& input);

} // namespace fusain::hydrostatic
