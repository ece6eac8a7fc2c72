// SPDX-License-Identifier: GPL-3.0-or-later
#include "records/file/detail.h"

#include "records/file/patience.h"

#include <QDateTime>
#include <QDebug>
#include <QElapsedTimer>
#include <QJsonArray>

#include <map>

namespace fusain::records {
namespace {

constexpr qint64 patience_ms = 3000;
thread_local std::function<void()> between_tries;

} // namespace

void wait_by(const QSqlDatabase& db, std::function<void()> pause)
{
    between_tries = std::move(pause);
    QSqlQuery(db).exec(QStringLiteral("PRAGMA busy_timeout = 0"));
}

namespace detail {
namespace {

/// A connection is of one thread.
thread_local std::map<QString, int> open_on;

int code_of(const QSqlError& error) { return error.nativeErrorCode().toInt() & 0xFF; }
bool held(int code) { return code == 5 || code == 6; }

} // namespace

Message lab_message(const char* code, const QString& text) { return {code, Level::error, "lab", text.toStdString()}; }

Message lab_damaged(const QString& file)
{
    return lab_message("lab_damaged",
        QStringLiteral("The lab file is damaged, or something wrote into it while it was looked at (%1). Nothing was "
                       "changed. Close every program that has it open, on every computer, and look again. Where it is "
                       "said again: keep the file as it is, and put back a copy in another folder with --lab.")
            .arg(file));
}

/// A database error in words a technician can act on.
Message say(const QSqlError& error, const QString& file)
{
    const int code = code_of(error);
    if (held(code))
        return lab_message("lab_locked",
            QStringLiteral(
                "The lab is in use by another program (%1). Nothing was lost; close the other program and try again.")
                .arg(file));
    switch (code) {
    case 8:
        return lab_message("lab_read_only",
            QStringLiteral("The lab cannot be written to (%1). Check the permissions of the file and its folder.")
                .arg(file));
    case 11:
    case 26: return lab_damaged(file);
    case 13:
        return lab_message("lab_full",
            QStringLiteral(
                "The disk is full. What was just entered is not stored yet; free some space and try again. (%1)")
                .arg(file));
    case 10:
    case 14:
        return lab_message("lab_unreachable",
            QStringLiteral("The lab cannot be reached (%1). Does the folder exist, and is the disk there?").arg(file));
    default:
        // the words of the database are for whoever repairs it
        qWarning().noquote() << file << error.text();
        return lab_message("lab_error",
            QStringLiteral("The lab's file did not take this, and nothing of it was stored (fault %1 of %2). Close the "
                           "program and open it again; it looks at the whole file then. The fault's own words stand in "
                           "the terminal from which the program was started.")
                .arg(code)
                .arg(file));
    }
}

bool patiently(QSqlQuery& q, bool (*exec)(QSqlQuery&))
{
    QElapsedTimer waited;
    waited.start();
    while (!exec(q)) {
        if (!held(code_of(q.lastError())) || !between_tries || waited.elapsed() > patience_ms) return false;
        between_tries();
    }
    return true;
}

Transaction::Transaction(const QSqlDatabase& db)
    : q_(db), connection_(db.connectionName()), inner_(open_on[connection_] > 0),
      open_(inner_ ? q_.exec(QStringLiteral("SAVEPOINT part"))
                   : patiently(q_, [](QSqlQuery& q) { return q.exec(QStringLiteral("BEGIN IMMEDIATE")); }))
{
    if (open_) ++open_on[connection_];
}

Transaction::~Transaction()
{
    if (!open_) return;
    --open_on[connection_];
    if (!inner_) {
        q_.exec(QStringLiteral("ROLLBACK"));
        return;
    }
    q_.exec(QStringLiteral("ROLLBACK TO part"));
    q_.exec(QStringLiteral("RELEASE part"));
}

bool Transaction::commit()
{
    if (!open_ || !q_.exec(inner_ ? QStringLiteral("RELEASE part") : QStringLiteral("COMMIT"))) return false;
    --open_on[connection_];
    open_ = false;
    return true;
}

QSqlQuery run(const QSqlDatabase& db, const QString& sql, const QVariantList& values)
{
    QSqlQuery q(db);
    q.prepare(sql);
    for (const QVariant& v : values) q.addBindValue(v);
    patiently(q, [](QSqlQuery& prepared) { return prepared.exec(); });
    return q;
}

QString now_utc() { return QDateTime::currentDateTimeUtc().toString(Qt::ISODateWithMs); }

QString json_text(const QStringList& list)
{
    return QString::fromUtf8(QJsonDocument(QJsonArray::fromStringList(list)).toJson(QJsonDocument::Compact));
}

QStringList list_of(const QString& json)
{
    QStringList out;
    for (const QJsonValue& v : QJsonDocument::fromJson(json.toUtf8()).array()) out << v.toString();
    return out;
}

} // namespace detail
} // namespace fusain::records
