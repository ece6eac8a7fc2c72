// SPDX-License-Identifier: GPL-3.0-or-later
// The events of impedance, as the log stores them.
#include "bench/analyser/analyser_events.h"

#include "bench/base/fields.h"
#include "core/impedance/segment.h"

#include <algorithm>

namespace fusain::bench {
namespace {

Json points_of(const std::vector<impedance::Point>& points)
{
    Json out = Json::array();
    for (const impedance::Point& p : points) out.push_back({p.f_khz, p.r_ohm, p.x_ohm});
    return out;
}

/// By rising frequency.
bool points_from(const Json& rows, std::vector<impedance::Point>& out)
{
    if (!rows.is_array() || rows.empty()) return false;
    out.clear();
    for (const Json& row : rows) {
        if (!row.is_array() || row.size() != 3) return false;
        for (const Json& number : row)
            if (!number.is_number()) return false;
        out.push_back({row[0], row[1], row[2]});
    }
    std::sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return a.f_khz < b.f_khz; });
    return true;
}

bool spectra_from(const Json& j, Spectra& out)
{
    if (const auto whole = j.find("whole_body"); whole != j.end() && !points_from(*whole, out.whole_body)) return false;
    const auto segments = j.find("segments");
    if (segments == j.end()) return !out.whole_body.empty();
    if (!segments->is_object()) return false;
    for (const auto& [id, row] : segments->items()) {
        const auto s = std::find_if(impedance::segment_rows.begin(), impedance::segment_rows.end(),
            [&, name = id](const auto& r) { return name == r.id; });
        if (s == impedance::segment_rows.end() || !row.is_object() || !row.contains("points")) return false;
        Measured& m = out.segments[static_cast<std::size_t>(s - impedance::segment_rows.begin())];
        if (!points_from(row["points"], m.points) || Fields<Measured>::all().from_json(row, m)) return false;
    }
    return !out.segments.empty() || !out.whole_body.empty();
}

/// A point is three numbers without names.
const Fields<Spectra>::Row spectra_row = {[](const Spectra& e, Json& j) {
                                              if (!e.whole_body.empty()) j["whole_body"] = points_of(e.whole_body);
                                              for (const auto& [i, m] : e.segments) {
                                                  Json& row = j["segments"][impedance::segment_rows[i].id] =
                                                      Fields<Measured>::all().to_json(m);
                                                  row["points"] = points_of(m.points);
                                              }
                                          },
    [](const Json& j, Spectra& e) -> std::optional<Message> {
        return spectra_from(j, e) ? std::nullopt : std::optional(no_spectra());
    }};

const Message no_number{"missing_field", Level::error, "rows", "There is no number to keep."},
    nameless{"missing_field", Level::error, "rows", "Every number of the instrument has a name and a value."};

} // namespace

Message no_spectra()
{
    return {"missing_field", Level::error, "impedance.segments",
        "A reading holds points of segments, or of the whole body: frequency, resistance and reactance of each."};
}

FUSAIN_LOGGED(event::AnalyserStarted, field("fat_free_mass", &E::fat_free_mass)
                                          .field("total_body_water", &E::total_body_water)
                                          .field("skeletal_muscle", &E::skeletal_muscle))
FUSAIN_LOGGED(event::Stance,
    needed("seen", &E::seen, {"missing_field", Level::error, "seen", "Say what was seen to before the current."})
        .always("left_out", &E::left_out))
FUSAIN_FIELDS(
    InstrumentsOwn, needed("title", &E::title, nameless).needed("value", &E::value, nameless).field("unit", &E::unit))
FUSAIN_LOGGED(event::OwnNumbers, needed("rows", &E::rows, no_number).with<event::OfFile>())
FUSAIN_FIELDS(Measured,
    field("sweeps", &E::sweeps).field("noise_share", &E::noise_share).field("drift_per_min", &E::drift_per_min))
FUSAIN_FIELDS(SpectrumFound, field("code", &E::code).field("words", &E::words).field("segments", &E::segments))
FUSAIN_FIELDS(Spectra, other(spectra_row))
FUSAIN_LOGGED(event::SpectraTaken, with<event::TrialTaken>()
                                       .with<Spectra>()
                                       .field("found", &E::found)
                                       .field("seconds", &E::seconds)
                                       .field("platform_kg", &E::platform_kg)
                                       .field("contact_ohm", &E::contact_ohm))
FUSAIN_LOGGED(event::SpectraTyped, with<event::TrialTyped>().with<Spectra>())

} // namespace fusain::bench
