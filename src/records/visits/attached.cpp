// SPDX-License-Identifier: GPL-3.0-or-later
#include "records/visits/attached.h"

#include "records/file/blob.h"
#include "records/file/detail.h"
#include "records/file/regular.h"

#include <QFile>
#include <QFileInfo>
#include <QStringDecoder>

namespace fusain::records::attached {

using detail::big, detail::run;

const char* const allowed_words = "PDF, picture (PNG, JPEG, TIFF), CSV or text, up to 25 MB";

namespace {

QDir folder_of(const QString& lab_file)
{
    return QDir(QFileInfo(lab_file).absolutePath() + QStringLiteral("/attached"));
}
QDir folder_of(const QSqlDatabase& db) { return folder_of(db.databaseName()); }

/// By what stands in it: a name says nothing.
bool is_known(const QByteArray& bytes)
{
    for (const QByteArray& head : {QByteArray("%PDF-"), QByteArray("\x89PNG\r\n\x1A\n", 8),
             QByteArray("\xFF\xD8\xFF", 3), QByteArray("II*\0", 4), QByteArray("MM\0*", 4)})
        if (bytes.startsWith(head)) return true;
    if (bytes.contains('\0')) return false;
    QStringDecoder utf8(QStringDecoder::Utf8);
    const QString text = utf8(bytes.left(1 << 20));
    if (!utf8.hasError()) return true;
    // an older program's letters
    return std::none_of(bytes.begin(), bytes.end(), [](char c) {
        const auto b = static_cast<unsigned char>(c);
        return b < 0x20 && b != '\t' && b != '\n' && b != '\r' && b != '\f';
    });
}

Message refusal(const char* code, const QString& name, const QString& why)
{
    return {code, Level::error, "file", (name + QStringLiteral(" ") + why).toStdString()};
}

bool is_kept(const QSqlDatabase& db, const QString& sha256)
{
    return run(db, QStringLiteral("SELECT 1 FROM attached_file WHERE sha256 = ? LIMIT 1"), {sha256}).next();
}

} // namespace

Outcome<bench::event::Attached> bring(const QString& lab_file, const QString& path)
{
    using Body = Outcome<bench::event::Attached>;
    const QString name = plain_name(path);
    const auto read = read_regular(path, static_cast<qint64>(bench::largest_attachment));
    if (!read) {
        Message why = read.messages().front();
        if (why.code == "file_too_large")
            why = refusal("file_too_large", name,
                QStringLiteral("is too large; allowed is %1.").arg(QString::fromLatin1(allowed_words)));
        return Body::refuse(std::move(why));
    }
    const QByteArray& bytes = *read;
    if (bytes.isEmpty()) return Body::refuse(refusal("file_empty", name, QStringLiteral("is empty.")));
    if (!is_known(bytes))
        return Body::refuse(refusal("file_unknown", name,
            QStringLiteral("is no file that can be kept and looked at later; allowed is %1.")
                .arg(QString::fromLatin1(allowed_words))));
    const QString sha256 = blob::keep(folder_of(lab_file), bytes);
    if (sha256.isEmpty())
        return Body::refuse(refusal("file_unreachable", name,
            QStringLiteral("cannot be kept beside the lab in %1. Is the disk full?").arg(folder_of(lab_file).path())));
    return bench::event::Attached{{name.toStdString(), sha256.toStdString()}, static_cast<double>(bytes.size())};
}

Outcome<QByteArray> read(const QSqlDatabase& db, const bench::Attached& file)
{
    const blob::Found found = blob::read(folder_of(db), QString::fromStdString(file.sha256));
    if (found.state == blob::State::whole) return found.bytes;
    const bool gone = found.state == blob::State::missing;
    return Outcome<QByteArray>::refuse(
        refusal(gone ? "attached_missing" : "attached_damaged", QString::fromStdString(file.name),
            QStringLiteral("%1 (%2). The numbers of the visit stand as they are; take the file from a backup.")
                .arg(gone ? QStringLiteral("is not beside the lab any more") : QStringLiteral("is not as it was kept"),
                    blob::place_of(folder_of(db), QString::fromStdString(file.sha256)))));
}

QSqlError note(const QSqlDatabase& db, long visit_id, const bench::Event& e)
{
    if (e.kind == bench::event::Attached::kind)
        if (const auto kept = bench::read<bench::event::Attached>(e.body))
            return run(db,
                QStringLiteral("INSERT OR REPLACE INTO attached_file (visit_id, sha256, bytes) VALUES (?, ?, ?)"),
                {big(visit_id), QString::fromStdString(kept->sha256), big(static_cast<long>(kept->bytes))})
                .lastError();
    if (e.kind == bench::event::Detached::kind)
        if (const auto gone = bench::read<bench::event::Detached>(e.body))
            return run(db, QStringLiteral("DELETE FROM attached_file WHERE visit_id = ? AND sha256 = ?"),
                {big(visit_id), QString::fromStdString(gone->sha256)})
                .lastError();
    return {};
}

void drop(const QSqlDatabase& db, const QString& sha256)
{
    if (const QString place = blob::place_of(folder_of(db), sha256); !place.isEmpty() && !is_kept(db, sha256))
        QFile::remove(place);
}

bool is_settled(const QSqlDatabase& db, const QString& sha256)
{
    return is_kept(db, sha256) || run(db, QStringLiteral("SELECT 1 FROM set_aside WHERE sha256 = ?"), {sha256}).next();
}

std::optional<Message> set_aside(const QSqlDatabase& db, const QString& sha256, const QString& who)
{
    const QSqlQuery done = run(db, QStringLiteral("INSERT OR IGNORE INTO set_aside (sha256, at, who) VALUES (?, ?, ?)"),
        {sha256, detail::now_utc(), who});
    if (done.lastError().isValid()) return detail::say(done.lastError(), db);
    return std::nullopt;
}

std::map<long, int> counts(const QSqlDatabase& db, long client_id)
{
    std::map<long, int> out;
    QSqlQuery q = run(db,
        QStringLiteral("SELECT a.visit_id, COUNT(*) FROM attached_file a JOIN visit v ON v.id = a.visit_id WHERE "
                       "v.client_id = ? GROUP BY a.visit_id"),
        {big(client_id)});
    while (q.next()) out[q.value(0).toLongLong()] = q.value(1).toInt();
    return out;
}

QStringList files_of(const QSqlDatabase& db, const QString& visits)
{
    QStringList out;
    QSqlQuery q =
        run(db, QStringLiteral("SELECT DISTINCT sha256 FROM attached_file WHERE visit_id IN (%1) AND sha256 NOT IN "
                               "(SELECT sha256 FROM attached_file WHERE visit_id NOT IN (%1))")
                    .arg(visits));
    while (q.next())
        if (const QString place = blob::place_of(folder_of(db), q.value(0).toString()); !place.isEmpty()) out << place;
    return out;
}

void sweep(const QSqlDatabase& db)
{
    blob::sweep(folder_of(db), [&](const QString& name) { return is_kept(db, name); });
}

} // namespace fusain::records::attached
