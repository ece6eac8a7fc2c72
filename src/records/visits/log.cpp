// SPDX-License-Identifier: GPL-3.0-or-later
#include "records/visits/log.h"

#include "records/file/detail.h"

#include <cstring>

namespace fusain::records {

using detail::big;

namespace {

bench::Event event_of(const QSqlQuery& q)
{
    bench::Event e;
    e.seq = q.value(0).toLongLong();
    e.at_utc = q.value(1).toString().toStdString();
    e.who = q.value(2).toString().toStdString();
    e.kind = q.value(3).toString().toStdString();
    e.body = q.value(4).toString().toStdString();
    return e;
}

} // namespace

namespace log {

std::vector<bench::Event> events_of(const QSqlDatabase& db, long visit_id)
{
    QSqlQuery q = detail::run(db,
        QStringLiteral("SELECT seq, at, who, kind, body FROM visit_event WHERE visit_id = ? ORDER BY seq"),
        {big(visit_id)});
    std::vector<bench::Event> out;
    while (q.next()) out.push_back(event_of(q));
    return out;
}

Outcome<bench::Visit> replay(const std::vector<bench::Event>& events)
{
    bench::Visit visit;
    for (const bench::Event& e : events)
        if (auto why = visit.apply(e)) return Outcome<bench::Visit>::refuse(*why);
    return visit;
}

bench::Signal chunks_of(const QSqlDatabase& db, long visit_id, int trial)
{
    QSqlQuery q(db);
    q.prepare(
        QStringLiteral("SELECT columns, samples FROM signal_chunk WHERE visit_id = ? AND trial = ? ORDER BY seq"));
    q.addBindValue(QVariant::fromValue<qlonglong>(visit_id));
    q.addBindValue(trial);
    bench::Signal out;
    if (!q.exec()) return out;
    while (q.next()) {
        out.columns = q.value(0).toString().toStdString();
        const QByteArray bytes = q.value(1).toByteArray();
        const std::size_t n = static_cast<std::size_t>(bytes.size()) / sizeof(double), at = out.values.size();
        out.values.resize(at + n);
        std::memcpy(out.values.data() + at, bytes.constData(), n * sizeof(double));
    }
    return out;
}

QTimeZone zone_of(const bench::Visit& visit, const QString& labs)
{
    for (const QByteArray& id : {QByteArray::fromStdString(visit.zone), labs.toLatin1()})
        if (const QTimeZone z(id); !id.isEmpty() && z.isValid()) return z; // without a name Qt gives the computer's
    return QTimeZone::systemTimeZone();
}

} // namespace log

} // namespace fusain::records
