// SPDX-License-Identifier: GPL-3.0-or-later
#include "records/visits/raw.h"

#include "records/file/blob.h"
#include "records/file/detail.h"
#include "records/visits/log.h"

#include <QDir>
#include <QFileInfo>

#include <cstring>

namespace fusain::records::raw {

using detail::big, detail::run;

namespace {

constexpr const char* heading = "fusain raw 1\n";

QDir folder_of(const QSqlDatabase& db)
{
    return QDir(QFileInfo(db.databaseName()).absolutePath() + QStringLiteral("/raw"));
}

QByteArray bytes_of(const bench::Signal& s)
{
    return QByteArray(heading) + QByteArray::fromStdString(s.columns) + '\n' +
           QByteArray(reinterpret_cast<const char*>(s.values.data()),
               static_cast<qsizetype>(s.values.size() * sizeof(double)));
}

std::optional<bench::Signal> signal_of(const QByteArray& bytes)
{
    const qsizetype columns = static_cast<qsizetype>(std::strlen(heading)), rows = bytes.indexOf('\n', columns) + 1;
    if (!bytes.startsWith(heading) || rows == 0) return std::nullopt;
    bench::Signal out{bytes.mid(columns, rows - columns - 1).toStdString(), {}};
    out.values.resize(static_cast<std::size_t>(bytes.size() - rows) / sizeof(double));
    std::memcpy(out.values.data(), bytes.constData() + rows, out.values.size() * sizeof(double));
    return out;
}

} // namespace

void move_big(const QSqlDatabase& db, long visit_id)
{
    std::vector<int> trials;
    QSqlQuery q = run(db,
        QStringLiteral(
            "SELECT trial FROM signal_chunk c WHERE visit_id = ? AND NOT EXISTS (SELECT 1 FROM raw_file r WHERE "
            "r.visit_id = c.visit_id AND r.trial = c.trial) GROUP BY trial HAVING SUM(LENGTH(samples)) >= ?"),
        {big(visit_id), big_bytes});
    while (q.next()) trials.push_back(q.value(0).toInt());
    for (int trial : trials) {
        const QByteArray bytes = bytes_of(log::chunks_of(db, visit_id, trial));
        const QString name = blob::keep(folder_of(db), bytes);
        if (name.isEmpty()) continue;
        const QSqlQuery noted =
            run(db, QStringLiteral("INSERT INTO raw_file (visit_id, trial, sha256, bytes) VALUES (?, ?, ?, ?)"),
                {big(visit_id), trial, name, bytes.size()});
        if (noted.lastError().isValid()) continue; // nobody would find the file: the recording stays in the lab
        run(db, QStringLiteral("DELETE FROM signal_chunk WHERE visit_id = ? AND trial = ?"), {big(visit_id), trial});
    }
}

Outcome<bench::Signal> read(const QSqlDatabase& db, long visit_id, int trial)
{
    QSqlQuery q =
        run(db, QStringLiteral("SELECT sha256 FROM raw_file WHERE visit_id = ? AND trial = ?"), {big(visit_id), trial});
    if (!q.next()) return bench::Signal{"", {}};
    const QString name = q.value(0).toString(), place = blob::place_of(folder_of(db), name);
    const auto refuse = [&](const char* code, const char* what) {
        return Outcome<bench::Signal>::refuse({code, Level::error, "signal",
            "The recording of trial " + std::to_string(trial) + " " + what + " (" + place.toStdString() +
                "). What was read from it stands in the log; take the file from a backup."});
    };
    const blob::Found found = blob::read(folder_of(db), name);
    if (found.state == blob::State::missing) return refuse("raw_missing", "is not beside the lab any more");
    const auto signal = signal_of(found.bytes);
    if (!signal || found.state == blob::State::damaged) return refuse("raw_damaged", "is damaged");
    return *signal;
}

QStringList files_of(const QSqlDatabase& db, const QString& visits)
{
    QStringList out;
    QSqlQuery q =
        run(db, QStringLiteral("SELECT DISTINCT sha256 FROM raw_file WHERE visit_id IN (%1) AND sha256 NOT IN "
                               "(SELECT sha256 FROM raw_file WHERE visit_id NOT IN (%1))")
                    .arg(visits));
    while (q.next())
        if (const QString place = blob::place_of(folder_of(db), q.value(0).toString()); !place.isEmpty()) out << place;
    return out;
}

void sweep(const QSqlDatabase& db)
{
    blob::sweep(folder_of(db), [&](const QString& name) {
        return run(db, QStringLiteral("SELECT 1 FROM raw_file WHERE sha256 = ?"), {name}).next();
    });
}

} // namespace fusain::records::raw
