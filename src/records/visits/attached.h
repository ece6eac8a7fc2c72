// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/visit/visit.h"
#include "core/base/outcome.h"

#include <QSqlDatabase>
#include <QString>
#include <QStringList>

/// Files that are kept with a visit: the printout, a picture, the instrument's own table. They lie in `attached/`
/// beside the lab file (docs/formats/attached.md); the visit's log says that they are there.
namespace fusain::records::attached {

/// What may be kept, by what stands in the file.
extern const char* const allowed_words;

/// Brings a file's bytes beside the lab, on the disk when it returns. Returned: what the visit's log says of it.
/// Refusals: `file_unreachable`, `file_empty`, `file_too_large`, `file_unknown` (no PDF, picture, CSV or text).
/// From any thread.
Outcome<bench::event::Attached> bring(const QString& lab_file, const QString& path);

/// The bytes of a kept file. Refusals: `attached_missing`, `attached_damaged`, with its name.
Outcome<QByteArray> read(const QSqlDatabase& db, const bench::Attached& file);

/// Inside the transaction of an event that brings or takes away one.
QSqlError note(const QSqlDatabase& db, long visit_id, const bench::Event& event);
/// Removes what no visit keeps any more.
void drop(const QSqlDatabase& db, const QString& sha256);

/// Whether a visit keeps these bytes, or somebody has said that they are of no visit here.
bool is_settled(const QSqlDatabase& db, const QString& sha256);
/// Somebody says so. Only the digest is kept: a file's name may name a person.
[[nodiscard]] std::optional<Message> set_aside(const QSqlDatabase& db, const QString& sha256, const QString& who);

/// How many files each visit of a client keeps.
std::map<long, int> counts(const QSqlDatabase& db, long client_id);
/// Files of these visits that no other visit keeps.
QStringList files_of(const QSqlDatabase& db, const QString& visits);
void sweep(const QSqlDatabase& db);

} // namespace fusain::records::attached
