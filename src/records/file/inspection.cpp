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
            "The lab file is damaged (table " + std::string(table) + ": " + what.toStdString() +
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

} // namespace

Inspection::Inspection(const QString& lab_file)
{
    thread_.setObjectName(QStringLiteral("inspection"));
    auto* at_work = new QObject;
    at_work->moveToThread(&thread_);
    connect(&thread_, &QThread::finished, at_work, &QObject::deleteLater);
    connect(&thread_, &QThread::started, at_work, [this, lab_file] {
        const QString connection = QUuid::createUuid().toString();
        std::optional<Message> found;
        {
            QSqlDatabase db = QSqlDatabase::addDatabase(QStringLiteral("QSQLITE"), connection);
            db.setDatabaseName(lab_file);
            db.setConnectOptions(QStringLiteral("QSQLITE_OPEN_READONLY;QSQLITE_BUSY_TIMEOUT=1000"));
            if (db.open()) found = look_through(db, stop_);
        }
        QSqlDatabase::removeDatabase(connection);
        thread_.quit(); // it is needed once
        if (stop_) return;
        if (found)
            emit damaged(*found);
        else
            emit finished();
    });
}

void Inspection::begin() { thread_.start(QThread::LowPriority); }

Inspection::~Inspection()
{
    stop_ = true;
    thread_.quit();
    thread_.wait();
}

} // namespace fusain::records
