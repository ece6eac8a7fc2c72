// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"

#include <QSqlDatabase>
#include <QString>

#include <functional>

/// Schema and migrations of the lab file. Adding a step: append it to `steps`, add the old schema as a fixture in
/// tests/records/fixtures, and the upgrade test picks it up.
namespace fusain::records {

inline constexpr int application_id = 0x46555341; // "FUSA"

/// Number of the newest schema this program knows.
int newest_schema();
/// Brings the file to the newest schema, each step in one transaction that also writes its number; makes a copy first
/// when the file already held data. Nothing when it worked.
/// `fill_snapshots` belongs to step 6 and runs in its transaction; it returns what went wrong.
[[nodiscard]] std::optional<Message> migrate(
    QSqlDatabase& db, const QString& file, const std::function<QString()>& fill_snapshots);

} // namespace fusain::records
