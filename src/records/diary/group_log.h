// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/base/event.h"
#include "core/base/outcome.h"

#include <QString>

#include <vector>

/// Logs of what belongs to nobody alone: studies of the lab's own precision (docs/formats/study-log.md), drills of a
/// practice folder (docs/formats/drill.md). Append-only.
namespace fusain::records {

class Store;

struct GroupLog {
    const char *table, *key, *begins; ///< begins: the kind with which a new one begins
    std::vector<QString> kinds;
};
const GroupLog& study_log();
const GroupLog& drill_log();

struct GroupEvent {
    long id = 0, group = 0; ///< group 0: a new one, which gets its number with the kind that begins it
    QString at;             ///< UTC
    QString who;
    QString kind;
    std::string body = "{}"; ///< JSON
};

/// Durable when it returns. Refusals: unknown_choice (kind), missing_field (who), what the lab says.
Outcome<GroupEvent> keep(Store& store, const GroupLog& log, GroupEvent event);
/// Of all groups, in the order in which they were kept.
std::vector<GroupEvent> events_of(const Store& store, const GroupLog& log);

} // namespace fusain::records
