// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <span>
#include <string_view>

namespace fusain {

/// What kind of unit a quantity has: a window may show a mass in pounds.
enum class UnitKind { mass, volume, density, percent, index, impedance, angle, share, energy, time, length };

/// Something that a result says. One row each; screens, sheets, the command and exports read the row, and nobody names
/// a quantity by its position in a list.
struct Quantity {
    const char* id;    ///< in the calculation interface, unit included
    const char* title; ///< for the lab
    const char* words; ///< for the client
    const char* unit;
    UnitKind kind;
    int decimals;        ///< that make sense when it is shown
    const char* part_of; ///< id of what it is a part of; empty: of nothing
    bool headline;       ///< its doubt is taken apart into shares
};

namespace quantity {

inline constexpr Quantity body_volume{
    "body_volume_l", "Body volume", "the room your body takes", "L", UnitKind::volume, 3, "", false};
inline constexpr Quantity body_density{
    "body_density_kg_per_l", "Body density", "how dense your body is", "kg/L", UnitKind::density, 5, "", true};
inline constexpr Quantity fat_percent{
    "fat_percent", "Percent fat", "fat, as a share of your body", "%", UnitKind::percent, 1, "", true};
inline constexpr Quantity fat_mass{"fat_mass_kg", "Fat mass", "fat", "kg", UnitKind::mass, 1, "mass_kg", true};
inline constexpr Quantity fat_free_mass{"fat_free_mass_kg", "Fat-free mass",
    "everything else: muscle, water, bone and organs", "kg", UnitKind::mass, 1, "mass_kg", true};
inline constexpr Quantity bmi{
    "bmi_kg_per_m2", "Body mass index", "mass for your height", "kg/m²", UnitKind::index, 1, "", false};
inline constexpr Quantity ffmi{"ffmi_kg_per_m2", "Fat-free mass index", "everything but fat, for your height", "kg/m²",
    UnitKind::index, 1, "bmi_kg_per_m2", false};
inline constexpr Quantity fmi{
    "fmi_kg_per_m2", "Fat mass index", "fat for your height", "kg/m²", UnitKind::index, 1, "bmi_kg_per_m2", false};

inline constexpr Quantity water_density{
    "water_density_kg_per_l", "Water density", "how dense the water is", "kg/L", UnitKind::density, 6, "", false};
inline constexpr Quantity underwater_mass{
    "underwater_mass_kg", "Net underwater mass", "what you weigh under water", "kg", UnitKind::mass, 3, "", false};
inline constexpr Quantity residual_volume{
    "residual_volume_l", "Residual volume", "air left in your lungs", "L", UnitKind::volume, 3, "", false};

inline constexpr Quantity raw_volume{
    "raw_volume_l", "Raw chamber volume", "what the chamber reads", "L", UnitKind::volume, 3, "", false};
inline constexpr Quantity surface_area_artifact{
    "surface_area_artifact_l", "Surface-area term", "still air on your skin", "L", UnitKind::volume, 3, "", false};
inline constexpr Quantity thoracic_gas_volume{
    "thoracic_gas_volume_l", "Thoracic gas volume", "air in your lungs", "L", UnitKind::volume, 3, "", false};

inline constexpr Quantity resistance{"resistance_50khz_ohm", "Resistance at 50 kHz", "how hard the current finds it",
    "Ω", UnitKind::impedance, 1, "", false};
inline constexpr Quantity reactance{"reactance_50khz_ohm", "Reactance at 50 kHz", "how much your cells hold it up", "Ω",
    UnitKind::impedance, 1, "", false};
inline constexpr Quantity phase_angle{
    "phase_angle_deg", "Phase angle", "an angle of the current", "°", UnitKind::angle, 1, "", false};
inline constexpr Quantity r0{
    "r0_ohm", "R0: around the cells", "resistance at no frequency", "Ω", UnitKind::impedance, 1, "", false};
inline constexpr Quantity rinf{
    "rinf_ohm", "R∞: through the cells", "resistance at every frequency", "Ω", UnitKind::impedance, 1, "", false};
inline constexpr Quantity total_body_water{
    "total_body_water_l", "Total body water", "water", "L", UnitKind::volume, 1, "", true};
inline constexpr Quantity extracellular_water{"extracellular_water_l", "Water outside the cells",
    "water around your cells", "L", UnitKind::volume, 1, "total_body_water_l", false};
inline constexpr Quantity intracellular_water{"intracellular_water_l", "Water inside the cells",
    "water inside your cells", "L", UnitKind::volume, 1, "total_body_water_l", false};
inline constexpr Quantity ecw_ratio{
    "ecw_ratio", "Share outside the cells", "share of the water around your cells", "", UnitKind::share, 3, "", false};
inline constexpr Quantity skeletal_muscle{
    "skeletal_muscle_kg", "Skeletal muscle", "muscle", "kg", UnitKind::mass, 1, "fat_free_mass_kg", false};

/// Of the five segments, in the order of impedance::segment_rows. "Lean" of a segment is all that is not fat there,
/// bone included.
inline constexpr Quantity segment_lean[] = {
    {"segments.right_arm.lean_kg", "Right arm, lean", "right arm, all but fat", "kg", UnitKind::mass, 2, "", false},
    {"segments.left_arm.lean_kg", "Left arm, lean", "left arm, all but fat", "kg", UnitKind::mass, 2, "", false},
    {"segments.trunk.lean_kg", "Trunk, lean", "trunk, all but fat", "kg", UnitKind::mass, 2, "", false},
    {"segments.right_leg.lean_kg", "Right leg, lean", "right leg, all but fat", "kg", UnitKind::mass, 2, "", false},
    {"segments.left_leg.lean_kg", "Left leg, lean", "left leg, all but fat", "kg", UnitKind::mass, 2, "", false},
};
inline constexpr Quantity segment_fat[] = {
    {"segments.right_arm.fat_kg", "Right arm, fat", "right arm, fat", "kg", UnitKind::mass, 2, "", false},
    {"segments.left_arm.fat_kg", "Left arm, fat", "left arm, fat", "kg", UnitKind::mass, 2, "", false},
    {"segments.trunk.fat_kg", "Trunk, fat", "trunk, fat", "kg", UnitKind::mass, 2, "", false},
    {"segments.right_leg.fat_kg", "Right leg, fat", "right leg, fat", "kg", UnitKind::mass, 2, "", false},
    {"segments.left_leg.fat_kg", "Left leg, fat", "left leg, fat", "kg", UnitKind::mass, 2, "", false},
};
inline constexpr Quantity segment_expected[] = {
    {"segments.right_arm.percent_of_expected", "Right arm, lean of the expected", "right arm, of what is expected", "%",
        UnitKind::percent, 0, "", false},
    {"segments.left_arm.percent_of_expected", "Left arm, lean of the expected", "left arm, of what is expected", "%",
        UnitKind::percent, 0, "", false},
    {"segments.trunk.percent_of_expected", "Trunk, lean of the expected", "trunk, of what is expected", "%",
        UnitKind::percent, 0, "", false},
    {"segments.right_leg.percent_of_expected", "Right leg, lean of the expected", "right leg, of what is expected", "%",
        UnitKind::percent, 0, "", false},
    {"segments.left_leg.percent_of_expected", "Left leg, lean of the expected", "left leg, of what is expected", "%",
        UnitKind::percent, 0, "", false},
};
inline constexpr Quantity segment_scale{"segments.scale", "Scale of the segments to the whole",
    "how well the parts fit the whole", "", UnitKind::share, 3, "", false};
inline constexpr Quantity rest_lean{"rest.lean_kg", "Head, hands and feet, lean", "head, hands and feet, all but fat",
    "kg", UnitKind::mass, 2, "", false};
inline constexpr Quantity rest_fat{
    "rest.fat_kg", "Head, hands and feet, fat", "head, hands and feet, fat", "kg", UnitKind::mass, 2, "", false};

inline constexpr Quantity tissue_fat_percent{"tissue_fat_percent", "Percent fat of soft tissue",
    "fat, as a share of what is not bone", "%", UnitKind::percent, 1, "", false};
inline constexpr Quantity lean_soft_tissue{"lean_soft_tissue_kg", "Lean soft tissue", "muscle, water and organs", "kg",
    UnitKind::mass, 1, "fat_free_mass_kg", true};
inline constexpr Quantity bone_mineral{"bone_mineral_content_kg", "Bone mineral content", "mineral of your bones", "kg",
    UnitKind::mass, 2, "fat_free_mass_kg", true};
inline constexpr Quantity appendicular_lean{"appendicular_lean_kg", "Appendicular lean", "lean of arms and legs", "kg",
    UnitKind::mass, 1, "lean_soft_tissue_kg", true};
inline constexpr Quantity almi{"almi_kg_per_m2", "Appendicular lean index", "lean of arms and legs, for your height",
    "kg/m²", UnitKind::index, 2, "", false};
inline constexpr Quantity android_gynoid{"android_gynoid_ratio", "Android over gynoid",
    "fat at the waist against fat at the hips", "", UnitKind::share, 2, "", false};
inline constexpr Quantity visceral_fat{
    "visceral_fat_kg", "Visceral fat", "fat around the organs", "kg", UnitKind::mass, 2, "fat_mass_kg", false};

inline constexpr Quantity visceral_area{"visceral_fat_area_cm2", "Visceral fat, area",
    "fat around the organs, seen in a slice", "cm²", UnitKind::index, 0, "", false};
inline constexpr Quantity bone_z{"bone_mineral_z", "Bone mineral, Z-score",
    "mineral of your bones, beside people of your age", "", UnitKind::share, 1, "", false};

/// Of a scan, in the order of xray::region_rows. Lean is soft tissue here, without bone.
inline constexpr Quantity region_fat_percent[] = {
    {"regions.head.fat_percent", "Head, percent fat", "head, fat", "%", UnitKind::percent, 1, "", false},
    {"regions.right_arm.fat_percent", "Right arm, percent fat", "right arm, fat", "%", UnitKind::percent, 1, "", false},
    {"regions.left_arm.fat_percent", "Left arm, percent fat", "left arm, fat", "%", UnitKind::percent, 1, "", false},
    {"regions.trunk.fat_percent", "Trunk, percent fat", "trunk, fat", "%", UnitKind::percent, 1, "", false},
    {"regions.right_leg.fat_percent", "Right leg, percent fat", "right leg, fat", "%", UnitKind::percent, 1, "", false},
    {"regions.left_leg.fat_percent", "Left leg, percent fat", "left leg, fat", "%", UnitKind::percent, 1, "", false},
    {"regions.android.fat_percent", "Android band, percent fat", "waist, fat", "%", UnitKind::percent, 1, "", false},
    {"regions.gynoid.fat_percent", "Gynoid band, percent fat", "hips, fat", "%", UnitKind::percent, 1, "", false},
};
inline constexpr Quantity region_lean[] = {
    {"regions.head.lean_kg", "Head, lean soft tissue", "head, lean", "kg", UnitKind::mass, 2, "", false},
    {"regions.right_arm.lean_kg", "Right arm, lean soft tissue", "right arm, lean", "kg", UnitKind::mass, 2, "", false},
    {"regions.left_arm.lean_kg", "Left arm, lean soft tissue", "left arm, lean", "kg", UnitKind::mass, 2, "", false},
    {"regions.trunk.lean_kg", "Trunk, lean soft tissue", "trunk, lean", "kg", UnitKind::mass, 2, "", false},
    {"regions.right_leg.lean_kg", "Right leg, lean soft tissue", "right leg, lean", "kg", UnitKind::mass, 2, "", false},
    {"regions.left_leg.lean_kg", "Left leg, lean soft tissue", "left leg, lean", "kg", UnitKind::mass, 2, "", false},
    {"regions.android.lean_kg", "Android band, lean soft tissue", "waist, lean", "kg", UnitKind::mass, 2, "", false},
    {"regions.gynoid.lean_kg", "Gynoid band, lean soft tissue", "hips, lean", "kg", UnitKind::mass, 2, "", false},
};
inline constexpr Quantity region_fat[] = {
    {"regions.head.fat_kg", "Head, fat", "head, fat", "kg", UnitKind::mass, 2, "", false},
    {"regions.right_arm.fat_kg", "Right arm, fat", "right arm, fat", "kg", UnitKind::mass, 2, "", false},
    {"regions.left_arm.fat_kg", "Left arm, fat", "left arm, fat", "kg", UnitKind::mass, 2, "", false},
    {"regions.trunk.fat_kg", "Trunk, fat", "trunk, fat", "kg", UnitKind::mass, 2, "", false},
    {"regions.right_leg.fat_kg", "Right leg, fat", "right leg, fat", "kg", UnitKind::mass, 2, "", false},
    {"regions.left_leg.fat_kg", "Left leg, fat", "left leg, fat", "kg", UnitKind::mass, 2, "", false},
    {"regions.android.fat_kg", "Android band, fat", "waist, fat", "kg", UnitKind::mass, 2, "", false},
    {"regions.gynoid.fat_kg", "Gynoid band, fat", "hips, fat", "kg", UnitKind::mass, 2, "", false},
};
inline constexpr Quantity region_bone[] = {
    {"regions.head.bmc_kg", "Head, bone mineral", "head, mineral of the bones", "kg", UnitKind::mass, 3, "", false},
    {"regions.right_arm.bmc_kg", "Right arm, bone mineral", "right arm, mineral of the bones", "kg", UnitKind::mass, 3,
        "", false},
    {"regions.left_arm.bmc_kg", "Left arm, bone mineral", "left arm, mineral of the bones", "kg", UnitKind::mass, 3, "",
        false},
    {"regions.trunk.bmc_kg", "Trunk, bone mineral", "trunk, mineral of the bones", "kg", UnitKind::mass, 3, "", false},
    {"regions.right_leg.bmc_kg", "Right leg, bone mineral", "right leg, mineral of the bones", "kg", UnitKind::mass, 3,
        "", false},
    {"regions.left_leg.bmc_kg", "Left leg, bone mineral", "left leg, mineral of the bones", "kg", UnitKind::mass, 3, "",
        false},
    {"regions.android.bmc_kg", "Android band, bone mineral", "waist, mineral of the bones", "kg", UnitKind::mass, 3, "",
        false},
    {"regions.gynoid.bmc_kg", "Gynoid band, bone mineral", "hips, mineral of the bones", "kg", UnitKind::mass, 3, "",
        false},
};

inline constexpr Quantity arms_asymmetry{"asymmetry.arms_lean_kg", "Arms, lean, right less left",
    "how much more the right arm has", "kg", UnitKind::mass, 2, "", false};
inline constexpr Quantity legs_asymmetry{"asymmetry.legs_lean_kg", "Legs, lean, right less left",
    "how much more the right leg has", "kg", UnitKind::mass, 2, "", false};

/// Energy, kcal a day, in the order of energy::schools().
inline constexpr Quantity resting_by[] = {
    {"resting.mifflin_1990_kcal", "Resting energy, Mifflin 1990", "", "kcal", UnitKind::energy, 0, "", false},
    {"resting.cunningham_1991_kcal", "Resting energy, Cunningham 1991", "", "kcal", UnitKind::energy, 0, "", false},
    {"resting.cunningham_1980_kcal", "Resting energy, Cunningham 1980", "", "kcal", UnitKind::energy, 0, "", false},
    {"resting.nelson_1992_kcal", "Resting energy, Nelson 1992", "", "kcal", UnitKind::energy, 0, "", false},
    {"resting.harris_benedict_1919_kcal", "Resting energy, Harris & Benedict 1919", "", "kcal", UnitKind::energy, 0, "",
        false},
    {"resting.roza_shizgal_1984_kcal", "Resting energy, Roza & Shizgal 1984", "", "kcal", UnitKind::energy, 0, "",
        false},
    {"resting.owen_kcal", "Resting energy, Owen", "", "kcal", UnitKind::energy, 0, "", false},
    {"resting.schofield_1985_kcal", "Resting energy, Schofield 1985", "", "kcal", UnitKind::energy, 0, "", false},
};
inline constexpr Quantity resting{
    "resting_kcal", "Resting energy", "what lying in bed costs", "kcal", UnitKind::energy, 0, "", false};
inline constexpr Quantity daily{
    "daily_kcal", "Daily energy", "what your day costs", "kcal", UnitKind::energy, 0, "", false};
inline constexpr Quantity quiet_day{
    "quiet_day_kcal", "Quiet day", "what a quiet day costs", "kcal", UnitKind::energy, 0, "", false};
inline constexpr Quantity deficit{
    "deficit_kcal", "Cautious deficit", "a cautious gap", "kcal", UnitKind::energy, 0, "", false};
inline constexpr Quantity deficit_intake{"deficit_intake_kcal", "Intake at that deficit, half of it eaten less",
    "what to eat then", "kcal", UnitKind::energy, 0, "", false};
inline constexpr Quantity surplus_intake{"surplus_intake_kcal", "Intake at a surplus of 10 %", "what to eat to gain",
    "kcal", UnitKind::energy, 0, "", false};
inline constexpr Quantity protein_low{
    "protein_low_g", "Protein, from", "protein a day, from", "g", UnitKind::mass, 0, "", false};
inline constexpr Quantity protein_high{
    "protein_high_g", "Protein, to", "protein a day, to", "g", UnitKind::mass, 0, "", false};

/// A plan.
inline constexpr Quantity target_mass{
    "target_mass_kg", "Target mass, only fat changed", "what you would weigh", "kg", UnitKind::mass, 1, "", false};
inline constexpr Quantity fat_change{
    "fat_change_kg", "Fat to change", "fat to change", "kg", UnitKind::mass, 1, "", false};
inline constexpr Quantity intake{"intake_kcal", "Intake", "what to eat a day", "kcal", UnitKind::energy, 0, "", false};
inline constexpr Quantity pace{"pace_kg_per_week", "Pace", "kilograms a week", "kg/week", UnitKind::mass, 2, "", false};
inline constexpr Quantity pace_percent{
    "pace_percent_per_week", "Pace, of body mass", "percent a week", "%/week", UnitKind::percent, 2, "", false};
inline constexpr Quantity static_intake{"static_intake_kcal", "Intake by the static rule",
    "what the simple rule would say", "kcal", UnitKind::energy, 0, "", false};
inline constexpr Quantity earliest_weeks{
    "earliest_weeks", "Earliest safe date", "earliest, in weeks", "weeks", UnitKind::time, 0, "", false};
inline constexpr Quantity arrive_fat{
    "arrive.fat_mass_kg", "Fat mass on arrival", "fat then", "kg", UnitKind::mass, 1, "", false};
inline constexpr Quantity arrive_fat_free{
    "arrive.fat_free_mass_kg", "Fat-free mass on arrival", "everything else then", "kg", UnitKind::mass, 1, "", false};
inline constexpr Quantity arrive_bmi{"arrive.bmi_kg_per_m2", "Body mass index on arrival", "mass for your height then",
    "kg/m²", UnitKind::index, 1, "", false};
inline constexpr Quantity arrive_ffmi{"arrive.ffmi_kg_per_m2", "Fat-free mass index on arrival",
    "everything but fat, for your height, then", "kg/m²", UnitKind::index, 1, "", false};
inline constexpr Quantity floor_intake{
    "floor_kcal", "Least intake", "the least you eat", "kcal", UnitKind::energy, 0, "", false};
inline constexpr Quantity nearest_fat_percent{
    "nearest.fat_percent", "Nearest safe percent fat", "nearest that is safe", "%", UnitKind::percent, 1, "", false};

/// Precision of repeats, in the quantity's own unit.
inline constexpr Quantity rms_sd{"rms_sd", "Root-mean-square SD", "", "", UnitKind::share, 3, "", false};
inline constexpr Quantity rms_cv{"rms_cv_percent", "Root-mean-square CV", "", "%", UnitKind::percent, 2, "", false};
inline constexpr Quantity lsc{"lsc", "Least significant change", "", "", UnitKind::share, 3, "", false};
inline constexpr Quantity degrees_of_freedom{
    "degrees_of_freedom", "Degrees of freedom", "", "", UnitKind::share, 0, "", false};
inline constexpr Quantity rms_sd_upper{
    "rms_sd_upper95", "Root-mean-square SD, upper 95 % limit", "", "", UnitKind::share, 3, "", false};

/// Callipers and tape.
inline constexpr Quantity skinfold_sum{
    "skinfold_sum_mm", "Sum of skinfolds", "folds of skin together", "mm", UnitKind::length, 1, "", false};
inline constexpr Quantity waist_hip{
    "waist_hip_ratio", "Waist over hips, girths", "waist beside hips", "", UnitKind::share, 2, "", false};
inline constexpr Quantity waist_height{
    "waist_height_ratio", "Waist over height", "waist beside height", "", UnitKind::share, 2, "", false};

/// Measured, not computed: no result holds them, a change over time does.
inline constexpr Quantity body_mass{"mass_kg", "Body mass", "what you weigh", "kg", UnitKind::mass, 1, "", false};
inline constexpr Quantity girths[] = {
    {"girths.neck_cm", "Neck", "neck", "cm", UnitKind::length, 1, "", false},
    {"girths.chest_cm", "Chest", "chest", "cm", UnitKind::length, 1, "", false},
    {"girths.waist_cm", "Waist", "waist", "cm", UnitKind::length, 1, "", false},
    {"girths.hips_cm", "Hips", "hips", "cm", UnitKind::length, 1, "", false},
    {"girths.right_upper_arm_cm", "Right upper arm", "right upper arm", "cm", UnitKind::length, 1, "", false},
    {"girths.left_upper_arm_cm", "Left upper arm", "left upper arm", "cm", UnitKind::length, 1, "", false},
    {"girths.right_thigh_cm", "Right thigh", "right thigh", "cm", UnitKind::length, 1, "", false},
    {"girths.left_thigh_cm", "Left thigh", "left thigh", "cm", UnitKind::length, 1, "", false},
    {"girths.right_calf_cm", "Right calf", "right calf", "cm", UnitKind::length, 1, "", false},
    {"girths.left_calf_cm", "Left calf", "left calf", "cm", UnitKind::length, 1, "", false},
};

inline constexpr Quantity balance_lean{"balance_lean", "Lean within its range",
    "where everything but fat lies in its range", "", UnitKind::share, 2, "", false};
inline constexpr Quantity balance_fat{
    "balance_fat", "Fat within its range", "where fat lies in its range", "", UnitKind::share, 2, "", false};

} // namespace quantity

/// Every row, in the order in which tables show them.
std::span<const Quantity* const> quantities();
/// Null when there is none of the name.
const Quantity* find_quantity(std::string_view id);

} // namespace fusain
