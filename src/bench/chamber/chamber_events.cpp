// SPDX-License-Identifier: GPL-3.0-or-later
// The events of air displacement, as the log stores them.
#include "bench/chamber/chamber_events.h"

#include "bench/base/fields.h"

#include <algorithm>

namespace fusain::bench {
namespace {

using displacement::LungRoute;

std::string gas_word(const std::optional<LungRoute>& route) { return route ? displacement::id(*route) : ""; }

std::optional<Message> gas_of(const std::string& said, std::optional<LungRoute>& route)
{
    for (LungRoute r : {LungRoute::measured, LungRoute::predicted})
        if (said == displacement::id(r)) route = r;
    return std::nullopt;
}

/// Beside the other keys, not under one of its own.
const Fields<event::VolumeTyped>::Row ratio_row = {[](const event::VolumeTyped& e, Json& j) {
                                                       if (e.recorded)
                                                           j.update(Fields<RatioRead>::all().to_json(*e.recorded));
                                                   },
    [](const Json& j, event::VolumeTyped& e) -> std::optional<Message> {
        if (!j.contains("ratio")) return std::nullopt;
        return Fields<RatioRead>::all().from_json(j, e.recorded.emplace());
    }};

} // namespace

bool event::VolumeTyped::is_corrected_for(std::string_view cause) const
{
    return std::find(corrected.begin(), corrected.end(), cause) != corrected.end();
}

FUSAIN_LOGGED(event::Prepared,
    needed("seen", &E::seen, {"missing_field", Level::error, "seen", "Say what was seen to before the chamber."})
        .always("left_out", &E::left_out))
FUSAIN_LOGGED(event::Cylinder, needed("l", &E::l, "air_displacement.cylinder_l"))
FUSAIN_LOGGED(event::SelfCalibrated, always("source", &E::source))
FUSAIN_LOGGED(event::LungGas, word("route", &E::route, gas_word, gas_of)
                                  .field("equation", &E::equation)
                                  .field("l", &E::l)
                                  .field("source", &E::source))
FUSAIN_FIELDS(RatioRead,
    positive("ratio", &E::value)
        .positive("u_ratio", &E::u)
        .needed("phase_rad", &E::phase_rad, {"missing_field", Level::error, "phase_rad", "Field phase_rad is missing."})
        .always("drift_per_s", &E::drift_per_s)
        .always("breath", &E::breath)
        .always("kept", &E::kept)
        .always("seconds", &E::seconds))
FUSAIN_LOGGED(event::RatioTaken, with<event::TrialTaken>().with<RatioRead>())
FUSAIN_LOGGED(event::PuffsTaken, with<event::TrialTaken>()
                                     .positive("slope", &E::slope)
                                     .positive("merit", &E::merit)
                                     .positive("peak_cmh2o", &E::peak_cmh2o)
                                     .needed("barometric_mmhg", &E::barometric_mmhg, "hydrostatic.lung.barometric_mmhg")
                                     .always("u_slope", &E::u_slope)
                                     .always("count", &E::count))
FUSAIN_LOGGED(event::VolumeTyped, with<event::TrialTyped>()
                                      .field("l", &E::l)
                                      .field("kg_per_l", &E::kg_per_l)
                                      .field("corrected", &E::corrected)
                                      .field("mean", &E::mean)
                                      .other(ratio_row))

} // namespace fusain::bench
