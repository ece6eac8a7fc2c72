// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/base/quantity.h"

#include <vector>

namespace fusain {

std::span<const Quantity* const> quantities()
{
    using namespace quantity;
    static const std::vector<const Quantity*> rows = [] {
        std::vector<const Quantity*> all = {&body_volume, &body_density, &fat_percent, &fat_mass, &fat_free_mass, &bmi,
            &ffmi, &fmi, &water_density, &underwater_mass, &residual_volume, &raw_volume, &surface_area_artifact,
            &thoracic_gas_volume, &resistance, &reactance, &phase_angle, &r0, &rinf, &total_body_water,
            &extracellular_water, &intracellular_water, &ecw_ratio, &skeletal_muscle, &balance_lean, &balance_fat,
            &segment_scale};
        for (std::size_t i = 0; i < std::size(segment_lean); ++i)
            for (const Quantity* q : {&segment_lean[i], &segment_fat[i], &segment_expected[i]}) all.push_back(q);
        all.insert(all.end(),
            {&rest_lean, &rest_fat, &arms_asymmetry, &legs_asymmetry, &tissue_fat_percent, &lean_soft_tissue,
                &bone_mineral, &appendicular_lean, &almi, &android_gynoid, &visceral_fat, &visceral_area, &bone_z});
        for (std::size_t i = 0; i < std::size(region_lean); ++i)
            for (const Quantity* q : {&region_fat_percent[i], &region_lean[i], &region_fat[i], &region_bone[i]})
                all.push_back(q);
        for (const Quantity& q : resting_by) all.push_back(&q);
        all.insert(all.end(),
            {&resting, &daily, &quiet_day, &deficit, &deficit_intake, &surplus_intake, &protein_low, &protein_high,
                &target_mass, &fat_change, &intake, &pace, &pace_percent, &static_intake, &earliest_weeks, &arrive_fat,
                &arrive_fat_free, &arrive_bmi, &arrive_ffmi, &floor_intake, &nearest_fat_percent, &rms_sd, &rms_cv,
                &lsc, &degrees_of_freedom, &rms_sd_upper, &skinfold_sum, &waist_hip, &waist_height});
        return all;
    }();
    return rows;
}

const Quantity* find_quantity(std::string_view id)
{
    for (const Quantity* q : quantities())
        if (id == q->id) return q;
    return nullptr;
}

} // namespace fusain
