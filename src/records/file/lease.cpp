// SPDX-License-Identifier: GPL-3.0-or-later
#include "records/file/lease.h"

#include "records/file/detail.h"

#include <QCoreApplication>
#include <QDateTime>
#include <QFile>
#include <QSysInfo>
#include <QUuid>

namespace fusain::records {
namespace {

using detail::big;
using detail::run;

constexpr qint64 silent_s = 30;

/// When a process of this machine began, in its own count; empty: there is no such process.
QString born_of(qint64 pid)
{
    QFile stat(QStringLiteral("/proc/%1/stat").arg(pid));
    if (!stat.open(QIODevice::ReadOnly)) return {};
    // the name stands in brackets and may hold anything; what follows counts from the third field
    const QByteArray rest = stat.readAll();
    const QList<QByteArray> fields = rest.mid(rest.lastIndexOf(')') + 2).split(' ');
    if (fields.isEmpty() || fields.front() == "Z" || fields.front() == "X") return {};
    return fields.size() > 19 ? QString::fromLatin1(fields[19]) : QString();
}

QString this_machine() { return QString::fromLatin1(QSysInfo::machineUniqueId() + '/' + QSysInfo::bootUniqueId()); }

} // namespace

Window Window::make()
{
    const qint64 pid = QCoreApplication::applicationPid();
    return {QUuid::createUuid().toString(QUuid::WithoutBraces), this_machine(), pid, born_of(pid)};
}

std::optional<Message> held_elsewhere(const QSqlDatabase& db, long visit_id, const QString& window_id)
{
    QSqlQuery q = run(db,
        QStringLiteral("SELECT holder, machine, pid, born, who, since, beat FROM visit_lease WHERE visit_id = ?"),
        {big(visit_id)});
    if (!q.next() || q.value(0).toString() == window_id) return std::nullopt;
    const bool alive =
        q.value(1).toString() == this_machine()
            ? born_of(q.value(2).toLongLong()) == q.value(3).toString() && !q.value(3).isNull()
            : QDateTime::fromString(q.value(6).toString(), Qt::ISODateWithMs).secsTo(QDateTime::currentDateTimeUtc()) <
                  silent_s;
    if (!alive) return std::nullopt;
    const QDateTime since = QDateTime::fromString(q.value(5).toString(), Qt::ISODateWithMs).toLocalTime();
    return Message{"held_elsewhere", Level::error, "visit",
        "This visit is being measured in another window (" + q.value(4).toString().toStdString() + ", since " +
            since.toString(QStringLiteral("HH:mm")).toStdString() +
            "). Here it can be looked at; it can be gone on with once it is left there."};
}

std::optional<Message> take_lease_within(const QSqlDatabase& db, long visit_id, const Window& w, const QString& who)
{
    if (auto why = held_elsewhere(db, visit_id, w.id)) return why;
    const QString now = detail::now_utc();
    QSqlQuery q = run(db,
        QStringLiteral("INSERT OR REPLACE INTO visit_lease (visit_id, holder, machine, pid, born, who, since, beat) "
                       "VALUES (?, ?, ?, ?, ?, ?, ?, ?)"),
        {big(visit_id), w.id, w.machine, w.pid, w.born, who, now, now});
    if (q.lastError().isValid()) return detail::say(q.lastError(), db);
    return std::nullopt;
}

std::optional<Message> take_lease(const QSqlDatabase& db, long visit_id, const Window& window, const QString& who)
{
    detail::Transaction transaction(db);
    if (!transaction.is_open()) return detail::say(transaction.error(), db);
    if (auto why = take_lease_within(db, visit_id, window, who)) return why;
    if (!transaction.commit()) return detail::say(transaction.error(), db);
    return std::nullopt;
}

void release_leases(const QSqlDatabase& db, const QString& window_id)
{
    run(db, QStringLiteral("DELETE FROM visit_lease WHERE holder = ?"), {window_id});
}

void renew_leases(const QSqlDatabase& db, const QString& window_id)
{
    run(db, QStringLiteral("UPDATE visit_lease SET beat = ? WHERE holder = ?"), {detail::now_utc(), window_id});
}

} // namespace fusain::records
