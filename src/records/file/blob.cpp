// SPDX-License-Identifier: GPL-3.0-or-later
#include "records/file/blob.h"

#include <QCryptographicHash>
#include <QDateTime>
#include <QFile>
#include <QFileInfo>

#include <algorithm>
#include <cstdio>
#include <fcntl.h>
#include <unistd.h>

namespace fusain::records::blob {
namespace {

constexpr qint64 young_s = 3600;

bool to_disk(const QString& path)
{
    const int fd = ::open(QFile::encodeName(path).constData(), O_RDONLY | O_CLOEXEC);
    const bool done = fd >= 0 && ::fsync(fd) == 0;
    if (fd >= 0) ::close(fd);
    return done;
}

/// The same again takes the old one's place, which may be damaged.
bool replace(const QString& from, const QString& to)
{
    return std::rename(QFile::encodeName(from).constData(), QFile::encodeName(to).constData()) == 0;
}

} // namespace

QString name_of(const QByteArray& bytes)
{
    return QString::fromLatin1(QCryptographicHash::hash(bytes, QCryptographicHash::Sha256).toHex());
}

bool is_name(const QString& name)
{
    const auto is_digit = [](QChar c) { return (c >= '0' && c <= '9') || (c >= 'a' && c <= 'f'); };
    return name.size() == 64 && std::all_of(name.begin(), name.end(), is_digit);
}

QString place_of(const QDir& folder, const QString& name) { return is_name(name) ? folder.filePath(name) : QString(); }

QString keep(const QDir& folder, const QByteArray& bytes)
{
    const QString name = name_of(bytes), place = folder.filePath(name), growing = place + QStringLiteral(".part");
    if (!folder.mkpath(QStringLiteral("."))) return {};
    QFile f(growing);
    const bool written = f.open(QIODevice::WriteOnly) && f.write(bytes) == bytes.size() && f.flush();
    f.close();
    f.setPermissions(QFile::ReadOwner | QFile::WriteOwner);
    if (written && to_disk(growing) && replace(growing, place) && to_disk(folder.path())) return name;
    QFile::remove(growing);
    return {};
}

Found read(const QDir& folder, const QString& name)
{
    QFile f(place_of(folder, name));
    if (f.fileName().isEmpty() || !f.open(QIODevice::ReadOnly)) return {};
    const QByteArray bytes = f.readAll();
    return {name_of(bytes) == name ? State::whole : State::damaged, bytes};
}

void sweep(const QDir& folder, const std::function<bool(const QString&)>& is_referred_to)
{
    const QDateTime young = QDateTime::currentDateTimeUtc().addSecs(-young_s);
    for (const QFileInfo& f : folder.entryInfoList(QDir::Files))
        if (!is_referred_to(f.fileName()) && f.lastModified() < young) QFile::remove(f.filePath());
}

} // namespace fusain::records::blob
