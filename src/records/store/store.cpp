// SPDX-License-Identifier: GPL-3.0-or-later
#include "records/store/store.h"

#include "records/file/detail.h"
#include "records/file/lab_file.h"
#include "records/file/schema.h"

#include <QDir>
#include <QFileInfo>
#include <QUuid>

namespace fusain::records {

using detail::lab_message, detail::say, detail::text;

Outcome<std::shared_ptr<Store>> Store::open(const QString& file, const GoOn& go_on)
{
    using Result = Outcome<std::shared_ptr<Store>>;
    const QFileInfo info(file);
    if (!QDir().mkpath(info.absolutePath()))
        return Result::refuse(
            lab_message("lab_unreachable", QStringLiteral("The folder %1 cannot be made.").arg(info.absolutePath())));
    if (const auto why = look_at(file)) return Result::refuse(*why);
    const QString connection = QUuid::createUuid().toString();
    QSqlDatabase db = QSqlDatabase::addDatabase(QStringLiteral("QSQLITE"), connection);
    db.setDatabaseName(file);
    db.setConnectOptions(QStringLiteral("QSQLITE_BUSY_TIMEOUT=3000"));
    const auto give_up = [&](Message why) {
        db.close();
        db = {};
        QSqlDatabase::removeDatabase(connection);
        return Result::refuse(std::move(why));
    };
    if (info.exists() && !info.isWritable()) return give_up(say(QSqlError({}, {}, {}, QStringLiteral("8")), file));
    if (!db.open()) return give_up(say(db.lastError(), file));
    {
        QSqlQuery q(db);
        // what grows with every visit is looked through afterwards (inspection.h); raw signals when they are read
        QStringList tables;
        if (!q.exec(
                QStringLiteral("SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT IN ('signal_chunk', "
                               "'visit_event', 'snapshot', 'check_event', 'screening', 'client_event', 'study_event', "
                               "'drill_event')")))
            return give_up(say(q.lastError(), file));
        while (q.next()) tables << q.value(0).toString();
        for (const QString& table : tables) {
            if (!q.exec(QStringLiteral("PRAGMA quick_check('%1')").arg(QString(table).replace('\'', "''"))))
                return give_up(say(q.lastError(), file));
            if (q.next() && q.value(0).toString() != "ok")
                return give_up(say(QSqlError({}, {}, {}, QStringLiteral("11")), file));
        }
        q.finish();
        for (const char* pragma :
            {"PRAGMA journal_mode = WAL", "PRAGMA synchronous = FULL", "PRAGMA foreign_keys = ON"}) {
            if (!q.exec(QString::fromLatin1(pragma))) return give_up(say(q.lastError(), file));
            q.finish();
        }
    }
    make_private(file);
    if (auto why = migrate(db, file, [&] { return snapshots::make_missing(db, go_on); })) return give_up(*why);
    make_private(file);
    // opening may wait for another window's upgrade; nothing else waits for long (patience.h)
    QSqlQuery(db).exec(QStringLiteral("PRAGMA busy_timeout = 100"));
    return std::shared_ptr<Store>(new Store(db, file));
}

Store::~Store()
{
    const QString connection = db_.connectionName();
    db_.close();
    db_ = {};
    QSqlDatabase::removeDatabase(connection);
}

QString Store::setting(const QString& key, const QString& otherwise) const
{
    QSqlQuery q(db_);
    q.prepare(QStringLiteral("SELECT value FROM setting WHERE key = ?"));
    q.addBindValue(key);
    return q.exec() && q.next() ? q.value(0).toString() : otherwise;
}

std::optional<Message> Store::set_setting(const QString& key, const QString& value)
{
    const QSqlQuery q = detail::run(db_,
        QStringLiteral(
            "INSERT INTO setting (key, value) VALUES (?, ?) ON CONFLICT (key) DO UPDATE SET value = excluded.value"),
        {key, text(value)});
    if (q.lastError().isValid()) return say(q.lastError(), file_);
    return std::nullopt;
}

} // namespace fusain::records
