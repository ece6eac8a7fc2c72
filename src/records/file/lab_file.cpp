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
#include <fcntl.h>
#include <mutex>
#include <sys/stat.h>
#include <sys/vfs.h>
#include <unistd.h>

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

/// Files that were looked at, by device and inode, and their descriptors. These are never closed: closing any
/// descriptor of a file lets go of all the locks that this process has on it (fcntl(2)), also of the database's own.
/// Another process that opened and closed the lab would then take the journal for left behind, and remove what is in
/// it.
struct LookedAt {
    std::mutex one_at_a_time;
    std::map<std::pair<dev_t, ino_t>, int> files;
};
LookedAt& looked_at()
{
    static LookedAt all;
    return all;
}

bool was_looked_at(const QString& path)
{
    struct stat is {};
    const std::lock_guard lock(looked_at().one_at_a_time);
    return ::stat(QFile::encodeName(path).constData(), &is) == 0 && looked_at().files.count({is.st_dev, is.st_ino}) > 0;
}

/// Its first bytes; nothing: it cannot be opened.
std::optional<QByteArray> head_of(const QString& path, int bytes)
{
    const QByteArray name = QFile::encodeName(path);
    struct stat is {};
    if (::stat(name.constData(), &is) != 0) return std::nullopt;
    const std::lock_guard lock(looked_at().one_at_a_time);
    auto [at, fresh] = looked_at().files.try_emplace({is.st_dev, is.st_ino}, -1);
    if (fresh) at->second = ::open(name.constData(), O_RDONLY | O_CLOEXEC | O_NONBLOCK);
    if (at->second < 0) {
        looked_at().files.erase(at);
        return std::nullopt;
    }
    QByteArray out(bytes, '\0');
    out.resize(std::max<qsizetype>(0, ::pread(at->second, out.data(), static_cast<std::size_t>(bytes), 0)));
    return out;
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
    const auto begins = head_of(path, 100);
    if (!begins) return std::nullopt; // opening it as a lab says why
    const QByteArray& head = *begins;
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
        // without a journal nothing beside the file is touched either; nor are the locks of a lab that is open here
        const bool journal = was_looked_at(path) || QFileInfo(path + QStringLiteral("-wal")).size() > 0;
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
