// SPDX-License-Identifier: GPL-3.0-or-later
#include "records/people/also_held.h"

#include "records/file/regular.h"

#include <QDir>
#include <QDirIterator>
#include <QFileInfo>
#include <QRegularExpression>

namespace fusain::records {
namespace {

constexpr qint64 looked_into_bytes = 4'000'000;
const QStringList one_persons{"handed-out", "attached", "raw"};
const QStringList text_kinds{"csv", "tsv", "txt", "json", "eml", "html", "ics"};

/// The number by itself, not within a longer one; or given and family name, either way round, with a comma or not.
QRegularExpression named(const Client& c)
{
    const QString given = QRegularExpression::escape(c.given_name), family = QRegularExpression::escape(c.family_name);
    QStringList ways;
    if (!c.number.isEmpty())
        ways << QStringLiteral("(?<![\\w-])%1(?![\\w-])").arg(QRegularExpression::escape(c.number));
    if (!given.isEmpty() && !family.isEmpty())
        ways << given + QStringLiteral("\"?[\\s,;]+\"?") + family << family + QStringLiteral("\"?[\\s,;]+\"?") + given;
    return QRegularExpression(ways.join('|'), QRegularExpression::CaseInsensitiveOption);
}

} // namespace

AlsoHeld also_held(const QString& lab_file, const Client& client, const std::atomic<bool>& stop)
{
    AlsoHeld out;
    const QFileInfo lab(lab_file);
    const QDir folder = lab.absoluteDir();
    for (const QFileInfo& f : folder.entryInfoList({lab.fileName() + QStringLiteral(".before-*")}, QDir::Files))
        out.whole_labs << f.absoluteFilePath();
    const QDir handed(folder.filePath(QStringLiteral("handed-out")));
    for (const QFileInfo& f : handed.entryInfoList({QStringLiteral("client%1-*").arg(client.id)}, QDir::Dirs))
        out.only_theirs << f.absoluteFilePath();
    const QRegularExpression name = named(client);
    if (name.pattern().isEmpty()) return out;
    QDirIterator all(folder.absolutePath(), QDir::Files | QDir::NoSymLinks, QDirIterator::Subdirectories);
    while (!stop && all.hasNext()) {
        const QString path = all.next();
        const QFileInfo f = all.fileInfo();
        // what is handed out, kept or recorded belongs to one person by its place: no need to read it
        const QString room = folder.relativeFilePath(path).section('/', 0, 0);
        if (one_persons.contains(room) || !text_kinds.contains(f.suffix().toLower()) || f.size() > looked_into_bytes)
            continue;
        const auto bytes = read_regular(path, looked_into_bytes);
        if (bytes && name.match(QString::fromUtf8(*bytes)).hasMatch()) out.tables << path;
    }
    out.tables.sort();
    return out;
}

QStringList remove_all(const QStringList& paths)
{
    QStringList left;
    for (const QString& path : paths) {
        const QFileInfo f(path);
        if (f.isDir() ? !QDir(path).removeRecursively() : !QFile::remove(path)) left << path;
    }
    return left;
}

} // namespace fusain::records
