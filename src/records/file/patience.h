// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <QSqlDatabase>

#include <functional>

namespace fusain::records {

/// Another program may hold the lab for a moment. Says what the calling thread does between two tries of a write, on
/// this connection of its own, for at most three seconds; then the write is refused with `lab_locked`. A window turns
/// its events, so that it never stands still. Threads that were not told anything wait a tenth of a second in SQLite.
void wait_by(const QSqlDatabase& db, std::function<void()> pause);

} // namespace fusain::records
