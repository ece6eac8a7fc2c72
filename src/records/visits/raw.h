// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/channels/signal.h"
#include "core/base/outcome.h"

#include <QSqlDatabase>
#include <QString>
#include <QStringList>

/// Big recordings lie beside the lab file, in `raw/`, each named by the SHA-256 of its bytes (docs/formats/raw.md).
/// They grow in the lab file, half a second at a time, and move when the recording has ended: written and on the disk
/// before the lab refers to them, checked whenever they are read.
namespace fusain::records::raw {

/// From this size on a recording moves: a minute under water is a third of it.
inline constexpr int big_bytes = 256 * 1024;

/// Moves what is big of a visit whose recording has ended, inside the transaction of the event that ended it. What
/// cannot be written stays where it is.
void move_big(const QSqlDatabase& db, long visit_id);
/// Refusals: raw_missing, raw_damaged, both with the file's name. An empty signal when the recording never moved.
Outcome<bench::Signal> read(const QSqlDatabase& db, long visit_id, int trial);

/// Files of these visits that no other visit refers to.
QStringList files_of(const QSqlDatabase& db, const QString& visits);
/// Removes files that were written and never referred to: the program died in between. Young ones stay, they may be
/// another window's.
void sweep(const QSqlDatabase& db);

} // namespace fusain::records::raw
