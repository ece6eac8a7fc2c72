// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"

#include <QJsonDocument>
#include <QSqlDatabase>
#include <QSqlError>
#include <QSqlQuery>
#include <QSqlRecord>
#include <QString>
#include <QStringList>
#include <QVariant>

#include <optional>

/// What every room of the records needs.
namespace fusain::records::detail {

Message lab_message(const char* code, const QString& text);
Message lab_damaged(const QString& file);
/// A database error in words a technician can act on.
Message say(const QSqlError& error, const QString& file);
inline Message say(const QSqlError& error, const QSqlDatabase& db) { return say(error, db.databaseName()); }

/// Runs a statement; while another program holds the lab it is tried again as patience.h says.
bool patiently(QSqlQuery& q, bool (*exec)(QSqlQuery&));

/// Rolls back unless committed. One within another is a part of it: it is kept only with the whole.
class Transaction {
public:
    explicit Transaction(const QSqlDatabase& db);
    ~Transaction();
    Transaction(const Transaction&) = delete;
    Transaction& operator=(const Transaction&) = delete;
    bool commit();
    bool is_open() const { return open_; }
    QSqlError error() const { return q_.lastError(); }

private:
    QSqlQuery q_;
    QString connection_;
    bool inner_ = false, open_ = false;
};

/// A prepared query with its values bound, run patiently.
QSqlQuery run(const QSqlDatabase& db, const QString& sql, const QVariantList& values = {});

inline QVariant big(long id) { return QVariant::fromValue<qlonglong>(id); }
/// Qt binds a null string as NULL; an empty field is an empty text.
inline QVariant text(const QString& value) { return value.isNull() ? QStringLiteral("") : value; }

QString now_utc();

/// Lists of words as they stand in a column.
QString json_text(const QStringList& list);
QStringList list_of(const QString& json);

} // namespace fusain::records::detail
