// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/person.h"

#include <string>

/// The virtual client: one true body that every virtual instrument measures.
namespace fusain::virt {

struct Body {
    Sex sex = Sex::female;
    double age_y = 30;
    double height_cm = 170;
    double fat_mass_kg = 14;
    double fat_free_mass_kg = 50;
    double fat_free_density_kg_per_l = 1.100; ///< 1.08–1.11 between people: the conversion's own error
    double residual_volume_l = 1.2;           ///< BTPS
    double vital_capacity_l = 4.2;            ///< BTPS
    double gut_gas_l = 0.10;
    double frc_l = 0;   ///< functional residual capacity, BTPS; 0: as Crapo 1982 predicts
    double tidal_l = 0; ///< 0: 1.2 men, 0.7 women
    double breaths_per_min = 14;
    double skin = 1;          ///< surface-area term of this body over the predicted one
    double learning = 0.8;    ///< trials until the lungs are emptied well
    double calm = 0.8;        ///< 0 restless … 1 still
    double hydration = 0.732; ///< water of the fat-free mass
    double outside_cells = 0; ///< share of the water; 0: 0.40 men, 0.43 women
    double cell_khz = 40;     ///< where its reactance is largest
    double cell_alpha = 0.70;
    double limbs = 1; ///< length of arms and legs over the usual share of height
    double right_arm = 1, left_arm = 1, right_leg = 1, left_leg = 1; ///< lean there over the usual share

    double outside_share() const { return outside_cells > 0 ? outside_cells : sex == Sex::male ? 0.40 : 0.43; }
    double water_kg() const { return hydration * fat_free_mass_kg; }

    double mass_kg() const { return fat_mass_kg + fat_free_mass_kg; }
    /// Volume of the tissues without lung and gut gas.
    double tissue_volume_l() const { return fat_mass_kg / 0.9007 + fat_free_mass_kg / fat_free_density_kg_per_l; }
    /// What a perfect load cell would show with so much air left beyond the residual volume.
    double underwater_mass_kg(double water_kg_per_l, double air_left_l) const
    {
        return mass_kg() - water_kg_per_l * (tissue_volume_l() + residual_volume_l + gut_gas_l + air_left_l);
    }
    double quiet_lungs_l() const; ///< after a quiet breath out
    double tidal_breath_l() const;
    double mean_lungs_l() const { return quiet_lungs_l() + tidal_breath_l() / 2; }
    /// Still air on the skin, as volume that behaves isothermally.
    double skin_air_l() const;
    /// What a perfect chamber would read.
    double raw_volume_l() const;
    double true_fat_percent() const { return 100 * fat_mass_kg / mass_kg(); }
};

/// `sex=female age=31 height=171 fat=14.6 ffm=53.8 density=1.098 rv=1.15 vc=4.1 gut=0.08 learning=1 calm=0.9`.
/// Throws std::invalid_argument naming the word that cannot be read.
Body parse_body(const std::string& text);
std::string to_text(const Body& body);

} // namespace fusain::virt
