// SPDX-License-Identifier: GPL-3.0-or-later
#include "records/file/lab_file.h"

#include "records/file/detail.h"
#include "records/file/schema.h"

#include <QUuid>
#include <QUrl>
#include <QSqlQuery>
#include <QSqlDatabase>
#include <QDir>
#include <QDirIterator>
#include <QFile>
#include <QFileInfo>
#include <QtEndian>

#include <algorithm>
#include <sys/stat.h>
#include <sys/vfs.h>

namespace fusain::records {
namespace {

constexpr auto for_the_user = QFile::ReadOwner | QFile::WriteOwner;

void tighten(const QFileInfo& info)
{
    if (info.isSymLink() || !info.exists()) return;
    const auto wanted = info.isDir() ? for_the_user | QFile::ExeOwner : for_the_user;
    const auto owner_only = QFile::ReadOwner | QFile::WriteOwner | QFile::ExeOwner;
    if ((info.permissions() & ~(owner_only | QFile::ReadUser | QFile::WriteUser | QFile::ExeUser)) != 0)
        QFile::setPermissions(info.filePath(), wanted);
}

} // namespace

bool is_network_drive(unsigned long kind)
{
    // as the kernel numbers them: NFS, SMB, SMB2, CIFS, AFS, Ceph, Coda, NCP
    constexpr unsigned long of_others[] = {
        0x6969, 0x517B, 0xFE534D42, 0xFF534D42, 0x5346414F, 0x00C36400, 0x73757245, 0x564C};
    return std::find(std::begin(of_others), std::end(of_others), kind & 0xFFFFFFFF) != std::end(of_others);
}

std::optional<Message> look_at(const QString& path)
{
    struct statfs where {};
    if (::statfs(QFile::encodeName(QFileInfo(path).absolutePath()).constData(), &where) == 0 &&
        is_network_drive(static_cast<unsigned long>(where.f_type)))
        return detail::lab_message("lab_on_network",
            QStringLiteral("%1 lies on a network drive. Two computers on one file there would damage it, so it is not "
                           "opened. Keep the lab on this computer's own disk; copies of it may go to the drive.")
                .arg(path));
    QFile file(path);
    if (!file.exists()) return std::nullopt;
    if (QFileInfo(path).isDir())
        return detail::lab_message("lab_foreign", QStringLiteral("%1 is a folder, not a lab.").arg(path));
    if (!QFileInfo(path).isFile()) // opening a pipe would wait for ever
        return detail::lab_message("lab_foreign", QStringLiteral("%1 is no regular file, so no lab.").arg(path));
    if (file.size() == 0)
        return detail::lab_message("lab_empty",
            QStringLiteral("The lab file is empty (%1): a lab is never empty, something has cut it off. Nothing was "
                           "changed. Put back a copy, or remove the file to begin a new lab.")
                .arg(path));
    if (!file.open(QIODevice::ReadOnly)) return std::nullopt; // opening it as a lab says why
    const QByteArray head = file.read(100);
    if (head.size() < 100 || !head.startsWith("SQLite format 3")) return detail::lab_damaged(path);
    const auto at = [&](int offset) { return qFromBigEndian<quint32>(head.constData() + offset); };
    constexpr int pages = 28, id = 68;
    // a lab that was just begun may have everything in its journal still
    const bool just_begun = at(id) == 0 && (at(pages) <= 1 || QFile::exists(path + QStringLiteral("-wal")));
    if (at(id) != static_cast<quint32>(application_id) && !just_begun)
        return detail::lab_message(
            "lab_foreign", QStringLiteral("%1 belongs to another program. Nothing was changed in it.").arg(path));
    return std::nullopt;
}

Peek peek(const QString& path)
{
    Peek out;
    if (!QFileInfo(path).isFile()) return out;
    const QString connection = QUuid::createUuid().toString();
    {
        QSqlDatabase db = QSqlDatabase::addDatabase(QStringLiteral("QSQLITE"), connection);
        // without a journal nothing beside the file is touched either
        const bool journal = QFileInfo(path + QStringLiteral("-wal")).size() > 0;
        QUrl url = QUrl::fromLocalFile(path);
        url.setQuery(journal ? QStringLiteral("mode=ro") : QStringLiteral("mode=ro&immutable=1"));
        db.setDatabaseName(QString::fromLatin1(url.toEncoded()));
        db.setConnectOptions(QStringLiteral("QSQLITE_OPEN_URI;QSQLITE_OPEN_READONLY;QSQLITE_BUSY_TIMEOUT=1000"));
        if (db.open()) {
            QSqlQuery q(db);
            if (q.exec(QStringLiteral("PRAGMA user_version")) && q.next()) out.version = q.value(0).toInt();
            q.finish();
            if (q.exec(QStringLiteral("SELECT key, value FROM setting")))
                while (q.next()) out.settings[q.value(0).toString()] = q.value(1).toString();
        }
    }
    QSqlDatabase::removeDatabase(connection);
    return out;
}

void keep_to_this_user() { ::umask(077); }

void make_private(const QString& lab_file)
{
    const QFileInfo lab(lab_file);
    const QDir folder = lab.absoluteDir();
    for (const QString& name : folder.entryList({lab.fileName() + '*'}, QDir::Files | QDir::Hidden))
        tighten(QFileInfo(folder.filePath(name)));
    for (const char* made :
        {"sheets", "outbox", "handed-out", "raw", "attached", "studies", "practice", "decoders", "drills"}) {
        const QString place = folder.filePath(QString::fromLatin1(made));
        if (!QFileInfo(place).isDir()) continue;
        tighten(QFileInfo(place));
        QDirIterator inside(
            place, QDir::AllEntries | QDir::Hidden | QDir::NoDotAndDotDot, QDirIterator::Subdirectories);
        while (inside.hasNext()) tighten(QFileInfo(inside.next()));
    }
    if (folder != QDir::home() && folder != QDir::temp() && !folder.isRoot()) tighten(QFileInfo(folder.path()));
}

} // namespace fusain::records
