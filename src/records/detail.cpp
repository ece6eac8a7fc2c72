// SPDX-License-Identifier: GPL-3.0-or-later
#include "records/detail.h"

#include <QDateTime>

namespace fusain::records::detail {

Message lab_message(const char* code, const QString& text) { return {code, Level::error, "lab", text.toStdString()}; }

/// A database error in words a technician can act on.
Message say(const QSqlError& error, const QString& file)
{
    const int code = error.nativeErrorCode().toInt() & 0xFF;
    switch (code) {
    case 5:
    case 6:
        return lab_message("lab_locked",
            QStringLiteral(
                "The lab is in use by another program (%1). Nothing was lost; close the other program and try again.")
                .arg(file));
    case 8:
        return lab_message("lab_read_only",
            QStringLiteral("The lab cannot be written to (%1). Check the permissions of the file and its folder.")
                .arg(file));
    case 11:
    case 26:
        return lab_message(
            "lab_damaged", QStringLiteral("The lab file is damaged (%1). Nothing was changed. Put back a copy, or move "
                                          "the file away and start a new lab with --lab.")
                               .arg(file));
    case 13:
        return lab_message("lab_full",
            QStringLiteral(
                "The disk is full. What was just entered is not stored yet; free some space and try again. (%1)")
                .arg(file));
    case 10:
    case 14:
        return lab_message("lab_unreachable",
            QStringLiteral("The lab cannot be reached (%1). Does the folder exist, and is the disk there?").arg(file));
    default: return lab_message("lab_error", QStringLiteral("The lab answered: %1 (%2)").arg(error.text(), file));
    }
}

QSqlQuery run(const QSqlDatabase& db, const QString& sql, const QVariantList& values)
{
    QSqlQuery q(db);
    q.prepare(sql);
    for (const QVariant& v : values) q.addBindValue(v);
    q.exec();
    return q;
}

QString now_utc() { return QDateTime::currentDateTimeUtc().toString(Qt::ISODateWithMs); }

} // namespace fusain::records::detail
