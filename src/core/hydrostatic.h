// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/densitometry.h"
#include "core/gas.h"
#include "core/lung.h"
#include "core/trials.h"
#include "core/water.h"

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
/// Source:   Archimedes; house handbook section 5
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
    double residual_volume_l = 0;  ///< measured route, BTPS
    double vital_capacity_l = 0;   ///< vital-capacity route
    bool body_conditions = true;   ///< true: BTPS; false: ATPS, with the two values below
    double gas_temp_c = 0;
    double barometric_mmhg = 0;
    std::string equation = "quanjer_1993"; ///< age-and-height route
};

/// Standard uncertainties of what is read off instruments. The defaults are assumptions, shown as such in every budget.
struct InputErrors {
    double mass_kg = 0.05;
    double height_cm = 0.5;
    double zero_kg = 0.010;        ///< load cell zero and calibration
    double single_trial_kg = 0.030; ///< when the trials used cannot tell their own scatter
    double water_temp_c = 0.1;
    double vital_capacity_l = 0.08;
    double gas_temp_c = 0.5;
    double barometric_mmhg = 1.5;
    double gut_gas_l = 0.05;
};

struct Input : densitometry::Person {
    std::vector<double> trials_kg; ///< net underwater mass of each counted trial, in the order taken
    std::string trial_rule = trials::default_id;
    double water_temp_c = 0;
    double salinity_g_per_l = 0;
    Lung lung;
    double gut_gas_l = 0.100;
    InputErrors errors;
};

using enum densitometry::Key;
using densitometry::Result;
/// The method's own results, after the common ones.
enum Own : std::size_t { water_density = densitometry::common_count, underwater_mass, residual_volume, key_count };
std::span<const densitometry::Quantity> quantities();

/// Checks the input and computes everything.
/// Refusals: `out_of_range` or `unknown_choice` (error, naming the field), `too_few_trials`, `trials_disagree` (repeat).
/// Cautions: `still_improving`, `negative_under_water`, `outside_group`, `vital_capacity_unusual`,
/// `fat_unusual`, `under_minimum`, `few_trials`.
Outcome<Result> compute(const Input& input);

/// Percent fat and its budget by central differences: the check of the exact derivatives.
uncertainty::Budget fat_budget_central(const Input& input);

/// What the usual doubts, choices and mistakes would do to this client. Empty when the input cannot be computed.
std::vector<densitometry::WhatIf> what_ifs(const Input& input);

} // namespace fusain::hydrostatic
