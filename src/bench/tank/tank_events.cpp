// SPDX-License-Identifier: GPL-3.0-or-later
// The events of hydrostatic weighing, as the log stores them.
#include "bench/tank/tank_events.h"

#include "bench/base/fields.h"

namespace fusain::bench {
namespace {

using hydrostatic::LungRoute;

std::string route_word(const std::optional<LungRoute>& route) { return route ? hydrostatic::id(*route) : ""; }

std::optional<Message> route_from(const std::string& said, std::optional<LungRoute>& route)
{
    for (LungRoute r : {LungRoute::measured, LungRoute::vital_capacity, LungRoute::age_height})
        if (said == hydrostatic::id(r)) route = r;
    return std::nullopt;
}

/// Beside the other keys, not under one of its own.
const Fields<event::WeighingTyped>::Row recorded_row = {[](const event::WeighingTyped& e, Json& j) {
                                                            if (e.recorded)
                                                                j.update(
                                                                    Fields<swing::Reading>::all().to_json(*e.recorded));
                                                        },
    [](const Json& j, event::WeighingTyped& e) -> std::optional<Message> {
        if (!j.contains("u_kg")) return std::nullopt;
        return Fields<swing::Reading>::all().from_json(j, e.recorded.emplace());
    }};

} // namespace

FUSAIN_LOGGED(event::Blow, needed("l", &E::l, "hydrostatic.lung.vital_capacity_l").field("source", &E::source))
FUSAIN_LOGGED(event::BlowThrownOut, field("number", &E::number).field("reason", &E::reason))
FUSAIN_LOGGED(event::Lungs, word("route", &E::route, route_word, route_from)
                                .field("equation", &E::equation)
                                .field("gas_temp_c", &E::gas_temp_c)
                                .field("barometric_mmhg", &E::barometric_mmhg)
                                .field("rv_l", &E::rv_l))
FUSAIN_LOGGED(event::Zero, needed("kg", &E::kg, {"missing_field", Level::error, "zero", "The zero reading is missing."})
                               .field("sd_kg", &E::sd_kg)
                               .field("source", &E::source))
FUSAIN_LOGGED(event::Water, needed("c", &E::c, "hydrostatic.water_temp_c")
                                .field("salinity_g_per_l", &E::salinity_g_per_l)
                                .field("source", &E::source))
FUSAIN_FIELDS(swing::Reading, always("kg", &E::kg)
                                  .always("u_kg", &E::u_kg)
                                  .always("window_from_s", &E::window_from_s)
                                  .always("window_to_s", &E::window_to_s)
                                  .always("earliest_s", &E::earliest_s)
                                  .always("midpoint_kg", &E::midpoint_kg))
FUSAIN_LOGGED(event::WeighingTaken,
    with<event::TrialTaken>().needed("kg", &E::kg, "hydrostatic.trials_kg").with<swing::Reading>())
FUSAIN_LOGGED(event::WeighingTyped, with<event::TrialTyped>()
                                        .field("kg", &E::kg)
                                        .field("low_kg", &E::low_kg)
                                        .field("high_kg", &E::high_kg)
                                        .field("net", &E::net)
                                        .other(recorded_row))

} // namespace fusain::bench
