// SPDX-License-Identifier: GPL-3.0-or-later
#include "work/reading/one_day.h"

#include <cmath>

namespace fusain::work {

Ingredients ingredients(const std::vector<const Measurement*>& day)
{
    Ingredients out;
    for (const Measurement* m : day) { // later ones win
        if (m->value(quantity::body_volume)) out.volume = m;
        if (m->value(quantity::total_body_water)) out.water = m;
        if (m->value(quantity::bone_mineral)) out.bone = m;
    }
    if (!out.volume) return out;
    const Measurement& v = *out.volume;
    out.mass_kg = v.mass_kg;
    compartments::Input& in = out.input;
    in.sex = v.sex;
    in.age_y = v.age_y;
    in.height_cm = v.height_cm;
    in.mass_kg = v.mass_kg;
    in.volume_l = *v.value(quantity::body_volume);
    in.errors.volume_l = v.result[quantity::body_volume].u;
    if (out.water) {
        // a litre of body water weighs 0.994 kg at body temperature; the equation takes kilograms
        const Value& litres = out.water->result[quantity::total_body_water];
        in.water_kg = litres.value * compartments::water_kg_per_l;
        in.errors.water_kg = litres.u * compartments::water_kg_per_l;
    }
    if (out.bone) {
        const Value& bone = out.bone->result[quantity::bone_mineral];
        in.bone_kg = bone.value;
        in.errors.bone_share = bone.value > 0 ? bone.u / bone.value : in.errors.bone_share;
    }
    for (const Measurement* other : {out.water, out.bone}) {
        if (!other || other == out.volume) continue;
        const double apart = other->mass_kg - v.mass_kg;
        if (std::abs(apart) > weighed_apart_kg + 1e-9)
            out.differ << QStringLiteral("Weighed %1 kg for the %2 and %3 kg for the %4, %5 kg apart: what was eaten, "
                                         "drunk or worn in between counts as body here.")
                              .arg(v.mass_kg, 0, 'f', 1)
                              .arg(title_of(v.method))
                              .arg(other->mass_kg, 0, 'f', 1)
                              .arg(title_of(other->method))
                              .arg(std::abs(apart), 0, 'f', 1);
        if (std::abs(v.at.secsTo(other->at)) > 3600 * hours_apart)
            out.differ << QStringLiteral("The %1 was at %2, the %3 at %4: water moves over the day.")
                              .arg(title_of(v.method), v.at.toString(QStringLiteral("HH:mm")), title_of(other->method),
                                  other->at.toString(QStringLiteral("HH:mm")));
    }
    return out;
}

} // namespace fusain::work
