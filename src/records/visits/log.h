// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/channels/signal.h"
#include "bench/visit/visit.h"

#include <QSqlDatabase>
#include <QTimeZone>

#include <vector>

/// The logs of the visits in the lab file, for the rooms of the records.
namespace fusain::records::log {

/// In order.
std::vector<bench::Event> events_of(const QSqlDatabase& db, long visit_id);
/// Refuses when the log has a gap or an event nobody knows.
Outcome<bench::Visit> replay(const std::vector<bench::Event>& events);
/// What the lab file itself holds of a recording.
bench::Signal chunks_of(const QSqlDatabase& db, long visit_id, int trial);
/// The zone a visit was made in, or the lab's own (`labs`, an IANA name) for older ones.
QTimeZone zone_of(const bench::Visit& visit, const QString& labs);

} // namespace fusain::records::log
