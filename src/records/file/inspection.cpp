// SPDX-License-Identifier: GPL-3.0-or-later
#include "records/file/inspection.h"

#include "records/file/detail.h"

#include <QUuid>

namespace fusain::records {
namespace {

constexpr long visits_at_once = 100;

/// A table whose rows belong to something with an id, and the column that must be readable.
struct Grown {
    const char *table, *key, *body;
};
constexpr Grown grown[] = {{"visit_event", "visit_id", "body"}, {"snapshot", "visit_id", "body"},
    {"check_event", "check_id", "body"}, {"screening", "id", "body"}, {"client_event", "id", "body"},
    {"study_event", "id", "body"}, {"drill_event", "id", "body"}};

std::optional<Message> look_through(const QSqlDatabase& db, const std::atomic<bool>& stop)
{
    const auto trouble = [&](const char* table, const QString& what) {
        return Message{"lab_damaged", Level::error, "lab",
            "The lab file is damaged: it was looked through twice, the second time while nobody else could write "
            "(table " +
                std::string(table) + ": " + what.toStdString() +
                "). What can be read is shown, but no new test begins: copy the lab's folder, then put back a backup."};
    };
    for (const Grown& g : grown) {
        const QString table = QString::fromLatin1(g.table), key = QString::fromLatin1(g.key);
        QSqlQuery q = detail::run(db, QStringLiteral("SELECT MIN(%1), MAX(%1) FROM %2").arg(key, table));
        if (q.lastError().isValid()) return trouble(g.table, q.lastError().text());
        const long first = q.next() ? q.value(0).toLongLong() : 0, last = q.value(1).toLongLong();
        for (long from = first; from <= last && !stop; from += visits_at_once) {
            q = detail::run(db,
                QStringLiteral("SELECT %1 FROM %2 WHERE %1 BETWEEN ? AND ? AND NOT json_valid(%3) LIMIT 1")
                    .arg(key, table, QString::fromLatin1(g.body)),
                {detail::big(from), detail::big(from + visits_at_once - 1)});
            if (q.next())
                return trouble(g.table, QStringLiteral("a row of %1 cannot be read").arg(q.value(0).toString()));
            const QString code = q.lastError().nativeErrorCode();
            if (code == QStringLiteral("11") || code == QStringLiteral("26"))
                return trouble(g.table, q.lastError().text());
        }
    }
    return std::nullopt;
}

/// Looked through with a connection of its own; alone: nobody else writes meanwhile, so that half of somebody's page is
/// not taken for damage. Nothing, too, where others do not let go of the file: then nothing is known.
std::optional<Message> inspect(const QString& lab_file, bool alone, const std::atomic<bool>& stop)
{
    const QString connection = QUuid::createUuid().toString();
    std::optional<Message> found;
    {
        QSqlDatabase db = QSqlDatabase::addDatabase(QStringLiteral("QSQLITE"), connection);
        db.setDatabaseName(lab_file);
        db.setConnectOptions(alone ? QStringLiteral("QSQLITE_BUSY_TIMEOUT=5000")
                                   : QStringLiteral("QSQLITE_OPEN_READONLY;QSQLITE_BUSY_TIMEOUT=1000"));
        const auto has_it_alone = [&db] {
            const QSqlError error = detail::run(db, QStringLiteral("BEGIN IMMEDIATE")).lastError();
            return !error.isValid() || detail::say(error, db).code != "lab_locked";
        };
        if (db.open() && (!alone || has_it_alone())) found = look_through(db, stop);
        if (alone) detail::run(db, QStringLiteral("ROLLBACK"));
    }
    QSqlDatabase::removeDatabase(connection);
    return found;
}

} // namespace

Inspection::Inspection(const QString& lab_file) : lab_file_(lab_file) {}

void Inspection::begin()
{
    thread_ = std::thread([this] {
        ::pthread_setname_np(::pthread_self(), "inspection");
        std::optional<Message> found = inspect(lab_file_, false, stop_);
        if (found) found = inspect(lab_file_, true, stop_);
        if (stop_) return;
        if (found)
            emit damaged(*found);
        else
            emit finished();
    });
}

Inspection::~Inspection()
{
    stop_ = true;
    if (thread_.joinable()) thread_.join();
}

} // namespace fusain::records
