// SPDX-License-Identifier: GPL-3.0-or-later
#include "work/visit/last_visit.h"

#include "records/base/clock.h"
#include "version.h"
#include "work/study/in_force.h"

namespace fusain::work {
namespace {

alike::Comparability compared(const InForce& known, Method method, const screening::Conditions& last,
    const screening::Conditions& now, alike::Tense tense)
{
    const alike::By by{
        alike::same_hour_min, method->by_height, known.agree(method->word, last.instrument, now.instrument)};
    return alike::compare(last, now, by, tense);
}

/// Of a result that was told: its conditions with height, mass, and the instrument's name after its repairs.
screening::Conditions conditions_told(const records::Store& store, const records::Snapshot& told)
{
    screening::Conditions c = told.conditions;
    c.height_cm = told.height_cm;
    c.mass_kg = told.mass_kg;
    c.instrument = InForce(store, QTimeZone::utc()).instrument(c.instrument, records::date_of(told.day));
    return c;
}

} // namespace

std::optional<screening::Conditions> conditions_before(
    const records::Store& store, const bench::Visit& visit, long visit_id)
{
    for (const records::VisitRow& row : store.visits_of(visit.subject.client_id)) { // newest first
        if (!row.measured() || row.id == visit_id || row.method != QString::fromLatin1(visit.method->word) ||
            row.started_at.toStdString() >= visit.started_at)
            continue;
        if (const auto told = store.snapshot(row.id)) return conditions_told(store, *told);
    }
    return std::nullopt;
}

std::optional<screening::Conditions> last_conditions(const Lab& lab, long client_id, Method method)
{
    for (const records::VisitRow& row : lab.store->visits_of(client_id)) {
        if (!row.measured() || row.method != QString::fromLatin1(method->word)) continue;
        if (const auto told = lab.store->snapshot(row.id)) return conditions_told(*lab.store, *told);
    }
    for (const records::Booking& booking : lab.diary->bookings_of(client_id))
        for (std::size_t i = 0; i < booking.parts.size(); ++i) {
            if (booking.parts[i].method != method || booking.visits[i] ||
                booking.outcomes[i] != QStringLiteral("measured"))
                continue;
            const auto row = lab.diary->last_screening(client_id, booking.id);
            if (!row) continue;
            if (const auto at = row->kept.conditions.find(method->word); at != row->kept.conditions.end())
                return at->second;
        }
    return std::nullopt;
}

std::optional<alike::Comparability> comparability(
    const records::Store& store, const bench::Visit& visit, const std::optional<screening::Conditions>& before)
{
    if (!before) return std::nullopt;
    const QTimeZone zone = store.zone_of(visit);
    const InForce known(store, zone);
    screening::Conditions now = records::conditions_of(visit, zone);
    now.height_cm = visit.height_cm();
    now.mass_kg = visit.mass_kg.value_or(0);
    now.instrument = known.instrument(now.instrument, records::date_of(visit.day()));
    return compared(known, visit.method, *before, now, alike::Tense::measured);
}

bench::Visit as_told(const records::Store& store, const bench::Visit& visit, long visit_id)
{
    bench::Visit out = visit;
    const auto told = visit.finished ? store.snapshot(visit_id) : std::nullopt;
    if (!told || told->by_migration || told->result.values.empty() || told->choices != visit.chosen() ||
        told->engine == "fusain " FUSAIN_VERSION)
        return out;
    out.as_told = std::make_shared<bench::AsTold>(bench::AsTold{told->result.values, told->messages, told->engine});
    return out;
}

alike::Comparability comparability(const InForce& known, const QDate& day, Method method,
    const screening::Conditions& last, screening::Conditions planned)
{
    planned.instrument = known.instrument(planned.instrument, day);
    return compared(known, method, last, planned, alike::Tense::planned);
}

} // namespace fusain::work
