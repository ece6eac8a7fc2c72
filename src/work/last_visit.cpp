// SPDX-License-Identifier: GPL-3.0-or-later
#include "work/last_visit.h"

namespace fusain::work {

std::optional<screening::Conditions> conditions_before(
    const records::Store& store, const bench::Visit& visit, long visit_id)
{
    for (const records::VisitRow& row : store.visits_of(visit.subject.client_id)) { // newest first
        if (!row.measured() || row.id == visit_id || row.method != QString::fromLatin1(protocol::word(visit.method)) ||
            row.started_at.toStdString() >= visit.started_at)
            continue;
        if (const auto told = store.snapshot(row.id)) return told->conditions;
    }
    return std::nullopt;
}

std::optional<screening::Comparability> comparability(
    const records::Store& store, const bench::Visit& visit, const std::optional<screening::Conditions>& before)
{
    if (!before) return std::nullopt;
    return screening::compare(*before, records::conditions_of(visit, store.zone_of(visit)), screening::Tense::measured);
}

} // namespace fusain::work
