// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/density/density_state.h"

#include "bench/density/density_events.h"
#include "bench/visit/kinds.h"

namespace fusain::bench {

void DensityState::begin(const event::Started& started, const std::string& body)
{
    take_rule(
        started.house, "conversion", conversion, [](const std::string& id) { return density::find(id) != nullptr; });
    if (const auto own = read<event::DensityStarted>(body); own && density::find(own->conversion))
        conversion = own->conversion; // by the client's age
}

densitometry::Person DensityState::person(const Visit& v) const
{
    return {v.subject.sex, v.age_y(), v.height_cm(), *v.mass_kg, v.mass_source.empty() ? "scale" : v.mass_source,
        conversion};
}

const DensityState* density_of(const Visit& v) { return dynamic_cast<const DensityState*>(&v.own()); }

ChoiceRow conversion_choice()
{
    return {"conversion", [](const Visit&, const std::string& to) { return density::find(to) != nullptr; },
        [](const Visit& v) { return density_of(v)->conversion; },
        [](Visit& v, const std::string& to) { dynamic_cast<DensityState&>(v.own()).conversion = to; }};
}

std::string density_beginning(Sex sex, double age_y)
{
    const bool young = age_y < 18 && density::find(density::children_id)->pair(sex, age_y);
    return written(event::DensityStarted{young ? density::children_id : ""});
}

} // namespace fusain::bench
