// SPDX-License-Identifier: GPL-3.0-or-later
#include "records/diary/group_log.h"

#include "records/file/detail.h"
#include "records/store/store.h"

#include <algorithm>

namespace fusain::records {

using detail::big, detail::run, detail::say;

const GroupLog& study_log()
{
    static const GroupLog log{"study_event", "study", "begun",
        {"begun", "repositioned", "repeat", "left_out", "taken_back", "closed", "given_up"}};
    return log;
}

const GroupLog& drill_log()
{
    static const GroupLog log{"drill_event", "run", "begun", {"begun", "task", "answer", "marked", "given_up"}};
    return log;
}

Outcome<GroupEvent> keep(Store& store, const GroupLog& log, GroupEvent e)
{
    const auto refuse = [](const char* code, const char* field, const QString& text) {
        return Outcome<GroupEvent>::refuse({code, Level::error, field, text.toStdString()});
    };
    if (std::find(log.kinds.begin(), log.kinds.end(), e.kind) == log.kinds.end() ||
        (e.group == 0) != (e.kind == QLatin1String(log.begins)))
        return refuse("unknown_choice", "kind", QStringLiteral("\"%1\" is no entry here.").arg(e.kind));
    if (e.who.trimmed().isEmpty())
        return refuse("missing_field", "who", QStringLiteral("An entry is kept with the name of who made it."));
    const QSqlDatabase& db = store.database();
    const QString table = QString::fromLatin1(log.table), key = QString::fromLatin1(log.key);
    detail::Transaction all(db);
    if (!all.is_open()) return Outcome<GroupEvent>::refuse(say(all.error(), db));
    if (e.group == 0) {
        QSqlQuery last = run(db, QStringLiteral("SELECT COALESCE(MAX(%1), 0) + 1 FROM %2").arg(key, table));
        if (!last.next()) return Outcome<GroupEvent>::refuse(say(last.lastError(), db));
        e.group = last.value(0).toLongLong();
    }
    e.at = detail::now_utc();
    const QSqlQuery q =
        run(db, QStringLiteral("INSERT INTO %2 (%1, at, who, kind, body) VALUES (?, ?, ?, ?, ?)").arg(key, table),
            {big(e.group), e.at, e.who, e.kind, QString::fromStdString(e.body)});
    if (q.lastError().isValid()) return Outcome<GroupEvent>::refuse(say(q.lastError(), db));
    e.id = q.lastInsertId().toLongLong();
    if (!all.commit()) return Outcome<GroupEvent>::refuse(say(all.error(), db));
    return e;
}

std::vector<GroupEvent> events_of(const Store& store, const GroupLog& log)
{
    std::vector<GroupEvent> out;
    QSqlQuery q = run(store.database(), QStringLiteral("SELECT id, %1, at, who, kind, body FROM %2 ORDER BY id")
                                            .arg(QString::fromLatin1(log.key), QString::fromLatin1(log.table)));
    while (q.next()) {
        std::string body = q.value(5).toString().toStdString();
        if (!bench::is_body(body)) continue; // the inspection says so (inspection.h)
        out.push_back({static_cast<long>(q.value(0).toLongLong()), static_cast<long>(q.value(1).toLongLong()),
            q.value(2).toString(), q.value(3).toString(), q.value(4).toString(), std::move(body)});
    }
    return out;
}

} // namespace fusain::records
