// SPDX-License-Identifier: GPL-3.0-or-later
#include "virtual/body.h"

#include "core/density/displacement.h"

#include <cstdio>
#include <sstream>
#include <stdexcept>

namespace fusain::virt {
namespace {

struct Field {
    const char* word;
    double Body::*member;
    double low, high;
};
constexpr Field fields[] = {
    {"age", &Body::age_y, 3, 110},
    {"height", &Body::height_cm, 50, 260},
    {"fat", &Body::fat_mass_kg, 0.5, 250},
    {"ffm", &Body::fat_free_mass_kg, 5, 200},
    {"density", &Body::fat_free_density_kg_per_l, 1.05, 1.13},
    {"rv", &Body::residual_volume_l, 0.3, 4},
    {"vc", &Body::vital_capacity_l, 0.5, 10},
    {"gut", &Body::gut_gas_l, 0, 1},
    {"frc", &Body::frc_l, 0, 8},
    {"tidal", &Body::tidal_l, 0, 3},
    {"breaths", &Body::breaths_per_min, 5, 40},
    {"skin", &Body::skin, 0.5, 2},
    {"learning", &Body::learning, 0, 10},
    {"calm", &Body::calm, 0, 1},
    {"hydration", &Body::hydration, 0.65, 0.82},
    {"outside_cells", &Body::outside_cells, 0, 0.6},
    {"cell_khz", &Body::cell_khz, 15, 100},
    {"cell_alpha", &Body::cell_alpha, 0.5, 1},
    {"limbs", &Body::limbs, 0.8, 1.2},
    {"right_arm", &Body::right_arm, 0.3, 2},
    {"left_arm", &Body::left_arm, 0.3, 2},
    {"right_leg", &Body::right_leg, 0.3, 2},
    {"left_leg", &Body::left_leg, 0.3, 2},
};

} // namespace

double Body::quiet_lungs_l() const
{
    return frc_l > 0 ? frc_l : std::max(0.8, lung::crapo_1982_frc(sex, height_cm, age_y));
}
double Body::tidal_breath_l() const { return tidal_l > 0 ? tidal_l : sex == Sex::male ? 1.2 : 0.7; }
double Body::skin_air_l() const
{
    return -skin * displacement::surface_area_artifact_l(displacement::du_bois_1916_cm2(mass_kg(), height_cm)) /
           displacement::lung_share;
}
double Body::raw_volume_l() const
{
    return tissue_volume_l() + gut_gas_l - displacement::lung_share * (mean_lungs_l() + skin_air_l());
}

Body parse_body(const std::string& text)
{
    Body body;
    std::istringstream in(text);
    for (std::string word; in >> word;) {
        const std::size_t equals = word.find('=');
        const std::string name = word.substr(0, equals),
                          value = equals == std::string::npos ? "" : word.substr(equals + 1);
        if (name == "sex" && (value == "male" || value == "female")) {
            body.sex = value == "male" ? Sex::male : Sex::female;
            continue;
        }
        bool known = false;
        for (const Field& f : fields) {
            if (name != f.word) continue;
            std::size_t used = 0;
            try {
                body.*f.member = std::stod(value, &used);
            } catch (const std::exception&) {
                used = 0;
            }
            if (used == 0 || used != value.size() || !(body.*f.member >= f.low && body.*f.member <= f.high))
                throw std::invalid_argument("cannot use \"" + word + "\" of the virtual client");
            known = true;
        }
        if (!known) throw std::invalid_argument("unknown word \"" + word + "\" of the virtual client");
    }
    return body;
}

std::string to_text(const Body& body)
{
    std::ostringstream out;
    out.precision(17);
    out << "sex=" << word(body.sex);
    for (const Field& f : fields) out << ' ' << f.word << '=' << body.*f.member;
    return out.str();
}

} // namespace fusain::virt
