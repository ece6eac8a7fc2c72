// SPDX-License-Identifier: GPL-3.0-or-later
#include "records/people/client_log.h"

#include "records/file/detail.h"
#include "records/store/store.h"

#include <QDate>

namespace fusain::records {

using detail::big, detail::run, detail::say;

ClientEvent entered(const bench::Act& what)
{
    ClientEvent e;
    e.kind = QString::fromStdString(what.kind);
    e.body = what.body;
    return e;
}

Outcome<ClientEvent> keep(Store& store, ClientEvent e)
{
    constexpr const char* kinds[] = {
        "tape", "days", "plan", "plan_ended", "told", "telling", "consent", "sheet", "withdrawn"};
    const auto refuse = [](const char* code, const char* field, const QString& text) {
        return Outcome<ClientEvent>::refuse({code, Level::error, field, text.toStdString()});
    };
    if (std::find(std::begin(kinds), std::end(kinds), e.kind) == std::end(kinds))
        return refuse("unknown_choice", "kind", QStringLiteral("\"%1\" is no kind of entry.").arg(e.kind));
    if (e.who.trimmed().isEmpty())
        return refuse("missing_field", "who", QStringLiteral("An entry is kept with the name of who made it."));
    if (!QDate::fromString(e.day, Qt::ISODate).isValid())
        return refuse("missing_field", "day", QStringLiteral("\"%1\" is no day (YYYY-MM-DD).").arg(e.day));
    if (!store.client(e.client_id))
        return refuse("unknown_client", "client", QStringLiteral("There is no such client."));
    e.at = detail::now_utc();
    const QSqlDatabase& db = store.database();
    const QSqlQuery q = run(db,
        QStringLiteral("INSERT INTO client_event (client_id, day, at, who, kind, body) VALUES (?, ?, ?, ?, ?, ?)"),
        {big(e.client_id), e.day, e.at, e.who, e.kind, QString::fromStdString(e.body)});
    if (q.lastError().isValid()) return Outcome<ClientEvent>::refuse(say(q.lastError(), db));
    e.id = q.lastInsertId().toLongLong();
    return e;
}

std::vector<ClientEvent> client_events(const Store& store, long client_id)
{
    std::vector<ClientEvent> out;
    QSqlQuery q = run(store.database(),
        QStringLiteral("SELECT id, day, at, who, kind, body FROM client_event WHERE client_id = ? ORDER BY id"),
        {big(client_id)});
    while (q.next()) {
        std::string body = q.value(5).toString().toStdString();
        if (!bench::is_body(body)) continue; // the inspection says so (inspection.h)
        out.push_back({static_cast<long>(q.value(0).toLongLong()), client_id, q.value(1).toString(),
            q.value(2).toString(), q.value(3).toString(), q.value(4).toString(), std::move(body)});
    }
    return out;
}

} // namespace fusain::records
