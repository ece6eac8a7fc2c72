// SPDX-License-Identifier: GPL-3.0-or-later
#include "records/visits/snapshot.h"

#include "records/base/clock.h"
#include "records/file/detail.h"
#include "records/visits/log.h"
#include "version.h"

namespace fusain::records {

using detail::big, detail::run;

namespace {

QDateTime moment(const std::string& utc, const QTimeZone& zone)
{
    return QDateTime::fromString(QString::fromStdString(utc), Qt::ISODateWithMs).toTimeZone(zone);
}

std::string iso_day(const bench::Visit& v, const QTimeZone& zone)
{
    return v.local.empty() ? moment(v.started_at, zone).date().toString(Qt::ISODate).toStdString() : v.day();
}

const QString columns = QStringLiteral("s.visit_id, s.seq, s.at, s.who, s.made_by, s.body");

std::optional<Snapshot> snapshot_in(const QSqlQuery& q)
{
    auto s = snapshot_from(q.value(5).toString().toStdString());
    if (!s) return std::nullopt;
    s->visit_id = q.value(0).toLongLong();
    s->seq = q.value(1).toLongLong();
    s->at = q.value(2).toString();
    s->who = q.value(3).toString();
    s->by_migration = q.value(4).toString() == QStringLiteral("migration");
    return s;
}

} // namespace

screening::Conditions conditions_of(const bench::Visit& v, const QTimeZone& zone)
{
    screening::Conditions c;
    const QDateTime at = moment(v.started_at, zone);
    c.day = date_words(iso_day(v, zone)).toStdString();
    c.instrument = v.instrument;
    c.minute_of_day = at.time().hour() * 60 + at.time().minute();
    c.equations = v.own().schools(v);
    c.lung = v.own().lung(v);
    c.protocol = v.protocol_used;
    c.kept = v.outside;
    return c;
}

Snapshot snapshot_of(const bench::Visit& v, const QTimeZone& zone)
{
    Snapshot s;
    s.engine = "fusain " FUSAIN_VERSION;
    s.method = v.method;
    s.told_elsewhere = v.row().origin == bench::Origin::elsewhere;
    s.day = iso_day(v, zone);
    s.sex = v.subject.sex;
    s.age_y = v.age_y();
    s.height_cm = v.height_cm();
    s.mass_kg = v.mass_kg.value_or(0);
    const auto told = v.result();
    if (told) s.result.values = told->values;
    s.messages = told.messages();
    s.choices = v.chosen();
    s.conditions = conditions_of(v, zone);
    return s;
}

namespace snapshots {

QSqlError write(const QSqlDatabase& db, const Snapshot& s)
{
    return run(db,
        QStringLiteral("INSERT INTO snapshot (visit_id, seq, at, who, made_by, body) VALUES (?, ?, ?, ?, ?, ?)"),
        {big(s.visit_id), big(s.seq), s.at, s.who,
            s.by_migration ? QStringLiteral("migration") : QStringLiteral("visit"), QString::fromStdString(stored(s))})
        .lastError();
}

std::optional<Snapshot> of_visit(const QSqlDatabase& db, long visit_id)
{
    QSqlQuery q = run(db,
        QStringLiteral("SELECT %1 FROM snapshot s WHERE s.visit_id = ? ORDER BY s.seq DESC LIMIT 1").arg(columns),
        {big(visit_id)});
    return q.next() ? snapshot_in(q) : std::nullopt;
}

std::map<long, Snapshot> of_client(const QSqlDatabase& db, long client_id)
{
    QSqlQuery q = run(db,
        QStringLiteral("SELECT %1 FROM visit v JOIN snapshot s ON s.visit_id = v.id WHERE v.client_id = ? AND s.seq = "
                       "(SELECT MAX(seq) FROM snapshot WHERE visit_id = v.id)")
            .arg(columns),
        {big(client_id)});
    std::map<long, Snapshot> out;
    while (q.next())
        if (auto s = snapshot_in(q)) out.emplace(s->visit_id, std::move(*s));
    return out;
}

QString make_missing(const QSqlDatabase& db, const GoOn& go_on)
{
    std::vector<long> visits;
    QSqlQuery q = run(db,
        QStringLiteral("SELECT id FROM visit WHERE outcome = 'measured' AND NOT EXISTS (SELECT 1 FROM snapshot s WHERE "
                       "s.visit_id = visit.id) ORDER BY id"));
    while (q.next()) visits.push_back(q.value(0).toLongLong());
    q = run(db, QStringLiteral("SELECT value FROM setting WHERE key = 'zone'"));
    const QString labs = q.next() ? q.value(0).toString() : QString();
    for (std::size_t i = 0; i < visits.size(); ++i) {
        if (go_on && i % 50 == 0 && !go_on(static_cast<int>(i), static_cast<int>(visits.size())))
            return QStringLiteral("cancelled");
        const std::vector<bench::Event> events = log::events_of(db, visits[i]);
        const auto visit = log::replay(events);
        if (!visit) continue;
        Snapshot s = snapshot_of(*visit, log::zone_of(*visit, labs));
        s.visit_id = visits[i];
        s.seq = visit->last_seq;
        s.at = QString::fromStdString(events.back().at_utc);
        s.who = QString::fromStdString(events.back().who);
        s.by_migration = true;
        if (const QSqlError e = write(db, s); e.isValid()) return e.text();
    }
    return {};
}

} // namespace snapshots
} // namespace fusain::records
