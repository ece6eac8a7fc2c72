// SPDX-License-Identifier: GPL-3.0-or-later
#include "work/reading/own_group.h"

#include <QSqlDatabase>
#include <QSqlQuery>
#include <QUuid>

#include <algorithm>
#include <limits>

namespace fusain::work {
namespace {

const Quantity* const kept[] = {&quantity::fat_percent, &quantity::ffmi, &quantity::fmi};

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

} // namespace

OwnGroup::OwnGroup(const QString& lab_file) : file_(lab_file), worker_(new QObject)
{
    thread_.setObjectName(QStringLiteral("own group"));
    worker_->moveToThread(&thread_);
    connect(&thread_, &QThread::finished, worker_, &QObject::deleteLater);
    thread_.start(QThread::LowPriority);
}

OwnGroup::~OwnGroup()
{
    stop_ = true;
    thread_.quit();
    thread_.wait();
}

void OwnGroup::look_again()
{
    QMetaObject::invokeMethod(worker_, [this] { load(); });
}

void OwnGroup::load()
{
    const QString connection = QUuid::createUuid().toString();
    std::vector<Row> rows;
    {
        QSqlDatabase db = QSqlDatabase::addDatabase(QStringLiteral("QSQLITE"), connection);
        db.setDatabaseName(file_);
        db.setConnectOptions(QStringLiteral("QSQLITE_OPEN_READONLY;QSQLITE_BUSY_TIMEOUT=1000"));
        if (db.open()) {
            QSqlQuery q(db);
            q.setForwardOnly(true);
            if (q.exec(QString::fromLatin1(newest)))
                while (!stop_ && q.next()) {
                    Row row{static_cast<long>(q.value(0).toLongLong()), q.value(1).toString().toStdString(),
                        q.value(2).toString(),
                        q.value(3).toString() == QString::fromLatin1(word(Sex::male)) ? Sex::male : Sex::female, {}};
                    for (int i = 0; i < 3; ++i)
                        row.values[i] = q.value(4 + i).isNull() ? std::numeric_limits<double>::quiet_NaN()
                                                                : q.value(4 + i).toDouble();
                    rows.push_back(std::move(row));
                }
        }
    }
    QSqlDatabase::removeDatabase(connection);
    if (stop_) return;
    {
        const std::lock_guard lock(mutex_);
        rows_ = std::move(rows);
        read_ = true;
    }
    emit looked();
}

std::optional<group::Standing> OwnGroup::standing(const Whom& whom, const Quantity& q, double value) const
{
    const auto at = std::find(std::begin(kept), std::end(kept), &q);
    if (at == std::end(kept) || !read_) return std::nullopt;
    const auto place = at - std::begin(kept);
    std::vector<double> values;
    {
        const std::lock_guard lock(mutex_);
        for (const Row& row : rows_)
            if (row.client != whom.but_client && row.sex == whom.sex && row.method == whom.method &&
                (whom.role.isEmpty() || row.role == whom.role))
                values.push_back(row.values[place]);
    }
    return group::standing(values, value);
}

} // namespace fusain::work
