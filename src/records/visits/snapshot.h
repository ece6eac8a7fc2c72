// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/visit/visit.h"
#include "core/before/screening.h"

#include <QSqlDatabase>
#include <QString>
#include <QTimeZone>

#include <functional>

/// Results as they were told: what lists, comparisons and bookings read. The log stays what everything rests on, and
/// can always be replayed (docs/formats/snapshot.md).
namespace fusain::records {

/// The result of a visit as it was told when the visit was finished, or when a choice was changed after that: never
/// rewritten, a later one is added.
struct Snapshot {
    long visit_id = 0, seq = 0;  ///< the event of the log after which it was told
    QString at, who;             ///< of that event, UTC
    bool told_elsewhere = false; ///< and taken over from a file: nothing was measured here
    bool by_migration = false;   ///< the visit is older than snapshots: what today's engine makes of its log
    std::string engine;          ///< "fusain 0.4.0"
    Method method = all_methods().front();
    std::string day; ///< ISO, by the lab's clock
    Sex sex = Sex::female;
    double age_y = 0, height_cm = 0, mass_kg = 0;
    Result result; ///< its values alone; none where the choices gave no result, `messages` say why
    Messages messages;
    std::map<std::string, std::string> choices; ///< "conversion" → "siri_1961"
    screening::Conditions conditions;
};

/// Under what conditions a visit was made, from its own log.
screening::Conditions conditions_of(const bench::Visit& visit, const QTimeZone& zone);

/// What is told of a visit now.
Snapshot snapshot_of(const bench::Visit& visit, const QTimeZone& zone);
/// As it is stored, and back; unknown quantities are left out. Nothing when it cannot be read.
std::string stored(const Snapshot& snapshot);
std::optional<Snapshot> snapshot_from(const std::string& stored);

/// Asked now and then while something long is done; false: stop, and leave everything as it was.
using GoOn = std::function<bool(int done, int of)>;

/// For Store, inside its transactions.
namespace snapshots {
QSqlError write(const QSqlDatabase& db, const Snapshot& snapshot);
/// The newest of a visit.
std::optional<Snapshot> of_visit(const QSqlDatabase& db, long visit_id);
/// The newest of each visit of a client.
std::map<long, Snapshot> of_client(const QSqlDatabase& db, long client_id);
/// One for every measured visit that has none, as the migration makes them. A log that cannot be replayed gives none.
/// Returned: what went wrong; "cancelled" when it was stopped.
QString make_missing(const QSqlDatabase& db, const GoOn& go_on);
} // namespace snapshots

} // namespace fusain::records
