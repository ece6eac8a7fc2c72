// SPDX-License-Identifier: GPL-3.0-or-later
#include "records/file/regular.h"

#include <QFile>
#include <QFileInfo>

#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

namespace fusain::records {
namespace {

Message refused(const char* code, const QString& path, const QString& why)
{
    return {code, Level::error, "file", (plain_name(path) + ' ' + why).toStdString()};
}

QString bytes_words(qint64 bytes)
{
    return bytes < 1 << 20 ? QStringLiteral("%1 KiB").arg((bytes + 1023) >> 10)
                           : QStringLiteral("%1 MiB").arg((bytes + (1 << 20) - 1) >> 20);
}

const char* kind_of(mode_t mode)
{
    return S_ISDIR(mode)    ? "it is a folder"
           : S_ISFIFO(mode) ? "it is a pipe"
           : S_ISSOCK(mode) ? "it is a socket"
                            : "it is a device";
}

} // namespace

Outcome<QByteArray> read_regular(const QString& path, qint64 most) { return head_of_regular(path, most, most + 1); }

Outcome<QByteArray> head_of_regular(const QString& path, qint64 most, qint64 head)
{
    using Read = Outcome<QByteArray>;
    const auto unreachable = [&] {
        return Read::refuse(refused("file_unreachable", path,
            QStringLiteral("cannot be read: %1.").arg(QString::fromLocal8Bit(std::strerror(errno)))));
    };
    // without waiting for a writer, and without a terminal of ours at its other end
    const int fd = ::open(QFile::encodeName(path).constData(), O_RDONLY | O_NONBLOCK | O_CLOEXEC | O_NOCTTY);
    if (fd < 0) {
        if (errno != ENXIO) return unreachable();
        return Read::refuse(refused("file_irregular", path,
            QStringLiteral("cannot be read: it is a socket or a device; allowed is a regular file.")));
    }
    QFile file;
    if (!file.open(fd, QIODevice::ReadOnly, QFileDevice::AutoCloseHandle)) {
        ::close(fd);
        return unreachable();
    }
    struct stat is {};
    if (::fstat(fd, &is) != 0) return unreachable();
    if (!S_ISREG(is.st_mode))
        return Read::refuse(refused("file_irregular", path,
            QStringLiteral("cannot be read: %1; allowed is a regular file.").arg(QLatin1String(kind_of(is.st_mode)))));
    const auto too_large = [&](qint64 bytes) {
        return Read::refuse(refused("file_too_large", path,
            QStringLiteral("has %1; allowed is up to %2.").arg(bytes_words(bytes), bytes_words(most))));
    };
    if (is.st_size > most) return too_large(is.st_size);
    QByteArray bytes = file.read(head); // it may grow while it is read
    if (file.error() != QFileDevice::NoError)
        return Read::refuse(
            refused("file_unreachable", path, QStringLiteral("cannot be read: %1.").arg(file.errorString())));
    if (bytes.size() > most) return too_large(bytes.size());
    return bytes;
}

QString plain_name(const QString& path)
{
    QString out;
    for (const QChar c : QFileInfo(path).fileName()) {
        const bool hidden = c.category() == QChar::Other_Control || c.category() == QChar::Other_Format ||
                            c.category() == QChar::Separator_Line || c.category() == QChar::Separator_Paragraph;
        out += hidden ? QStringLiteral("⟨U+%1⟩").arg(c.unicode(), 4, 16, QLatin1Char('0')).toUpper() : QString(c);
    }
    return out;
}

} // namespace fusain::records
