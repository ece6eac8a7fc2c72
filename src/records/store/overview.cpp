// SPDX-License-Identifier: GPL-3.0-or-later
#include "records/store/overview.h"

#include "records/file/detail.h"

#include <QUuid>

namespace fusain::records {
namespace {

// the newest snapshot of the newest visit of each client and method
const char* const newest = R"(
    SELECT v.client_id, v.method, c.role, c.sex,
        json_extract(s.body, '$.quantities.fat_percent.value'),
        json_extract(s.body, '$.quantities.ffmi_kg_per_m2.value'),
        json_extract(s.body, '$.quantities.fmi_kg_per_m2.value')
    FROM (SELECT client_id, method, MAX(started_at), id FROM visit WHERE outcome = 'measured'
          GROUP BY client_id, method) v
    JOIN client c ON c.id = v.client_id
    JOIN snapshot s ON s.visit_id = v.id AND s.seq = (SELECT MAX(t.seq) FROM snapshot t WHERE t.visit_id = v.id))";

std::optional<double> number_of(const QVariant& v) { return v.isNull() ? std::nullopt : std::optional(v.toDouble()); }

} // namespace

std::map<QString, int> methods_used(const Store& store, int newest)
{
    std::map<QString, int> out;
    QSqlQuery q = detail::run(store.database(),
        QStringLiteral("SELECT method FROM visit WHERE outcome = 'measured' ORDER BY id DESC LIMIT ?"), {newest});
    while (q.next()) ++out[q.value(0).toString()];
    return out;
}

std::vector<long> measured_between(const Store& store, const QString& from_utc, const QString& to_utc)
{
    std::vector<long> out;
    QSqlQuery q = detail::run(store.database(),
        QStringLiteral("SELECT client_id FROM visit WHERE outcome = 'measured' AND started_at >= ? AND started_at < ? "
                       "GROUP BY client_id ORDER BY MIN(started_at)"),
        {from_utc, to_utc});
    while (q.next()) out.push_back(q.value(0).toLongLong());
    return out;
}

std::vector<long> measured_again(const Store& store, const QString& method, double within_days)
{
    std::vector<long> out;
    QSqlQuery q = detail::run(store.database(),
        QStringLiteral("SELECT DISTINCT a.client_id FROM visit a JOIN visit b ON b.client_id = a.client_id AND b.id <> "
                       "a.id AND b.method = a.method AND b.outcome = 'measured' AND ABS(julianday(a.started_at) - "
                       "julianday(b.started_at)) <= ? WHERE a.method = ? AND a.outcome = 'measured'"),
        {within_days, method});
    while (q.next()) out.push_back(q.value(0).toLongLong());
    return out;
}

std::vector<NewestResult> newest_results(const QString& lab_file, const std::atomic<bool>& stop)
{
    const QString connection = QUuid::createUuid().toString();
    std::vector<NewestResult> out;
    {
        QSqlDatabase db = QSqlDatabase::addDatabase(QStringLiteral("QSQLITE"), connection);
        db.setDatabaseName(lab_file);
        db.setConnectOptions(QStringLiteral("QSQLITE_OPEN_READONLY;QSQLITE_BUSY_TIMEOUT=1000"));
        QSqlQuery q(db.open() ? db : QSqlDatabase());
        q.setForwardOnly(true);
        if (db.isOpen() && q.exec(QString::fromLatin1(newest)))
            while (!stop && q.next())
                out.push_back({static_cast<long>(q.value(0).toLongLong()), q.value(1).toString().toStdString(),
                    q.value(2).toString(),
                    q.value(3).toString() == QString::fromLatin1(word(Sex::male)) ? Sex::male : Sex::female,
                    number_of(q.value(4)), number_of(q.value(5)), number_of(q.value(6))});
    }
    QSqlDatabase::removeDatabase(connection);
    return out;
}

} // namespace fusain::records
