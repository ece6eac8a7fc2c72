// SPDX-License-Identifier: GPL-3.0-or-later
#include "records/people/people.h"

#include "records/people/also_held.h"

#include "records/base/clock.h"
#include "records/file/detail.h"
#include "records/visits/attached.h"
#include "records/visits/raw.h"

#include <QDateTime>
#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <QJsonArray>
#include <QJsonObject>
#include <QRegularExpression>
#include <QSaveFile>

#include <set>

namespace fusain::records {

using detail::big, detail::run, detail::say, detail::Transaction;

namespace {

int letters_apart(const QString& a, const QString& b)
{
    std::vector<int> row(static_cast<std::size_t>(b.size()) + 1);
    for (std::size_t j = 0; j < row.size(); ++j) row[j] = static_cast<int>(j);
    for (qsizetype i = 0; i < a.size(); ++i) {
        int diagonal = row[0];
        row[0] = static_cast<int>(i) + 1;
        for (qsizetype j = 0; j < b.size(); ++j) {
            const auto at = static_cast<std::size_t>(j) + 1;
            const int replaced = diagonal + (a[i] != b[j]);
            diagonal = row[at];
            row[at] = std::min({replaced, row[at] + 1, row[at - 1] + 1});
        }
    }
    return row.back();
}

QString digits(const QString& phone)
{
    QString out;
    for (const QChar c : phone)
        if (c.isDigit()) out += c;
    return out;
}

QJsonValue json_of(const QVariant& v)
{
    if (v.isNull()) return {};
    if (v.typeId() == QMetaType::QByteArray) return QString::fromLatin1(v.toByteArray().toBase64());
    return QJsonValue::fromVariant(v);
}

/// Rows of a query as objects with the columns' names.
QJsonArray rows_of(QSqlQuery q)
{
    QJsonArray out;
    while (q.next()) {
        QJsonObject row;
        const auto record = q.record();
        for (int i = 0; i < record.count(); ++i) {
            const QString name = record.fieldName(i);
            const QVariant v = q.value(i);
            const bool is_json = name == "body" || name == "facts" || name == "protocols";
            const QJsonDocument inside = is_json ? QJsonDocument::fromJson(v.toByteArray()) : QJsonDocument();
            row[name] = inside.isObject()  ? QJsonValue(inside.object())
                        : inside.isArray() ? QJsonValue(inside.array())
                                           : json_of(v);
        }
        out.append(row);
    }
    return out;
}

/// The client's files in a folder beside the lab. They carry the ids of visits or bookings, which never change hands as
/// a number can.
QStringList files_of(
    const Store& store, const char* folder_name, const char* pattern_of_id, const std::set<qlonglong>& ids)
{
    const QDir folder(QFileInfo(store.file()).absolutePath() + '/' + QString::fromLatin1(folder_name));
    const QRegularExpression pattern(QRegularExpression::anchoredPattern(QString::fromLatin1(pattern_of_id)));
    QStringList out;
    for (const QString& name : folder.entryList(QDir::Files | QDir::Hidden))
        if (const auto m = pattern.match(name);
            m.hasMatch() && ids.count(m.captured(QStringLiteral("id")).toLongLong()))
            out << folder.filePath(name);
    return out;
}

std::set<qlonglong> ids_of(const Store& store, const char* table, long client_id)
{
    std::set<qlonglong> out;
    QSqlQuery q = run(store.database(),
        QStringLiteral("SELECT id FROM %1 WHERE client_id = ?").arg(QString::fromLatin1(table)), {big(client_id)});
    while (q.next()) out.insert(q.value(0).toLongLong());
    return out;
}

/// Older sheets began with the client's number; the visit stood in their names then too.
QStringList sheets_of(const Store& store, const Client& c)
{
    return files_of(
        store, "sheets", R"((?:.*-)?visit(?<id>\d+)-(?:.*-)?(client|lab)\.pdf)", ids_of(store, "visit", c.id));
}

/// Letters carry the booking. Older ones carried number and time: they are the client's when a booking of theirs began
/// then.
QStringList letters_of(const Store& store, const Client& c, const QTimeZone& zone)
{
    QStringList out =
        files_of(store, "outbox", R"(booking(?<id>\d+)-.*\.(pdf|ics|eml))", ids_of(store, "booking", c.id));
    QStringList times;
    QSqlQuery q = run(store.database(),
        QStringLiteral("SELECT MIN(p.from_minute) FROM booking_part p JOIN booking b ON b.id = p.booking_id WHERE "
                       "b.client_id = ? GROUP BY b.id"),
        {big(c.id)});
    while (q.next()) times << local_of(q.value(0).toLongLong(), zone).toString(QStringLiteral("yyyyMMdd-HHmm"));
    const QDir folder(QFileInfo(store.file()).absolutePath() + QStringLiteral("/outbox"));
    for (const QString& number : (c.number + ' ' + c.other_numbers).split(' ', Qt::SkipEmptyParts))
        for (const QString& name : folder.entryList(QDir::Files | QDir::Hidden))
            for (const QString& time : times)
                if (name.startsWith(number + '-' + time + '.')) out << folder.filePath(name);
    out.removeDuplicates();
    return out;
}

} // namespace

std::vector<Likeness> likely_same(const Store& store, const Client& c)
{
    std::vector<Likeness> out;
    const QString given = folded(c.given_name.trimmed()), family = folded(c.family_name.trimmed()),
                  phone = digits(c.phone), mail = folded(c.email.trimmed());
    const auto look = [&](const Client& o) {
        if (o.id == c.id || std::any_of(out.begin(), out.end(), [&](const Likeness& l) { return l.client.id == o.id; }))
            return;
        const QString og = folded(o.given_name), of = folded(o.family_name);
        const bool named_alike = !family.isEmpty() && ((og == given && of == family) || (og == family && of == given));
        if (named_alike && o.birth_date == c.birth_date)
            out.push_back({o, QStringLiteral("same name and date of birth")});
        else if (named_alike)
            out.push_back({o, QStringLiteral("same name, born %1").arg(o.birth_date)});
        else if (o.birth_date == c.birth_date && letters_apart(of, family) <= 2)
            out.push_back({o, QStringLiteral("same date of birth, name alike")});
        else if (phone.size() >= 5 && digits(o.phone) == phone)
            out.push_back({o, QStringLiteral("same phone")});
        else if (!mail.isEmpty() && folded(o.email) == mail)
            out.push_back({o, QStringLiteral("same e-mail")});
    };
    for (const bool archived : {false, true}) {
        if (!family.isEmpty())
            for (const Client& o : store.find_clients(family + ' ' + given, 50, 0, archived)) look(o);
        if (phone.size() >= 5)
            for (const Client& o : store.find_clients(phone, 20, 0, archived)) look(o);
    }
    for (const char* column : {"birth_date", "email"}) {
        const QString value = QString::fromLatin1(column) == "email" ? c.email.trimmed() : c.birth_date;
        if (value.isEmpty()) continue;
        QSqlQuery q = run(store.database(),
            QStringLiteral("SELECT id FROM client WHERE %1 = ? LIMIT 200").arg(QString::fromLatin1(column)), {value});
        while (q.next())
            if (const auto o = store.client(q.value(0).toLongLong())) look(*o);
    }
    return out;
}

std::optional<Message> merge(Store& store, long keep, long away)
{
    const auto kept = store.client(keep), gone = store.client(away);
    if (!kept || !gone || keep == away)
        return Message{"unknown_client", Level::error, "client", "Choose two different clients to merge."};
    if (kept->sex != gone->sex)
        return Message{"not_the_same", Level::error, "sex",
            "The two records use different equations (" + std::string(word(kept->sex)) + " and " + word(gone->sex) +
                "). Correct one of them first, if they are one person."};
    if (kept->birth_date != gone->birth_date)
        return Message{"not_the_same", Level::error, "birth_date",
            "The two records differ in the date of birth (" + kept->birth_date.toStdString() + " and " +
                gone->birth_date.toStdString() + "). Correct one of them first, if they are one person."};
    Client c = *kept;
    const auto fill = [](QString& to, const QString& from) {
        if (to.isEmpty()) to = from;
    };
    fill(c.role, gone->role);
    fill(c.phone, gone->phone);
    fill(c.email, gone->email);
    fill(c.consent_on, gone->consent_on);
    fill(c.guardian, gone->guardian);
    fill(c.guardian_consent_on, gone->guardian_consent_on);
    fill(c.conditions, gone->conditions);
    fill(c.medicines, gone->medicines);
    fill(c.sport, gone->sport);
    fill(c.goal, gone->goal);
    for (const QString& fact : gone->facts)
        if (!c.facts.contains(fact)) c.facts << fact;
    if (!gone->note.isEmpty() && !c.note.contains(gone->note))
        c.note += (c.note.isEmpty() ? QString() : QStringLiteral(" · ")) + gone->note;
    c.other_numbers = (c.other_numbers + ' ' + gone->number + ' ' + gone->other_numbers).simplified();

    const QSqlDatabase& db = store.database();
    {
        Transaction transaction(db);
        if (!transaction.is_open()) return say(transaction.error(), db);
        for (const char* table : {"visit", "booking", "screening", "client_event"}) {
            QSqlQuery q = run(db,
                QStringLiteral("UPDATE %1 SET client_id = ? WHERE client_id = ?").arg(QString::fromLatin1(table)),
                {big(keep), big(away)});
            if (q.lastError().isValid()) return say(q.lastError(), db);
        }
        QSqlQuery q = run(db, QStringLiteral("DELETE FROM client WHERE id = ?"), {big(away)});
        if (q.lastError().isValid()) return say(q.lastError(), db);
        if (auto why = store.save_within(c)) return why;
        if (!transaction.commit()) return say(transaction.error(), db);
    }
    return std::nullopt;
}

static bool write_csv(const QString& place, const bench::Signal& signal)
{
    QSaveFile csv(place);
    if (!csv.open(QIODevice::WriteOnly)) return false;
    csv.write(QByteArray::fromStdString(signal.columns) + '\n');
    const std::size_t width = signal.width(), rows = signal.size();
    for (std::size_t row = 0; row < rows; ++row) {
        QByteArray line;
        for (std::size_t column = 0; column < width; ++column)
            line += (column ? "," : "") + QByteArray::number(signal.values[row * width + column], 'g', 17);
        csv.write(line + '\n');
    }
    return csv.commit();
}

/// Every kept file under its own name, in a folder a visit. What cannot be read is noted in `unread`.
static std::optional<Message> write_attached(
    const Store& store, long client_id, const QString& place, QJsonArray& unread)
{
    for (const VisitRow& row : store.visits_of(client_id)) {
        const auto visit = store.replay(row.id);
        if (!visit) continue;
        for (const bench::Attached& a : visit->attached) {
            if (!a.taken_away.empty()) continue;
            const auto bytes = attached::read(store.database(), a);
            const QString folder = place + QStringLiteral("/attached/visit%1").arg(row.id);
            // two files of one name: told apart by their sums
            QString path = folder + '/' + QFileInfo(QString::fromStdString(a.name)).fileName();
            if (QFile::exists(path))
                path = folder + '/' + QString::fromStdString(a.sha256).left(8) + '-' + path.section('/', -1);
            if (!bytes) {
                unread.append(QJsonObject{{"signal", QString::fromStdString(a.name)},
                    {"why", QString::fromStdString(bytes.messages().front().text)}});
                continue;
            }
            QSaveFile out(path);
            if (!QDir().mkpath(folder) || !out.open(QIODevice::WriteOnly) || out.write(*bytes) != bytes->size() ||
                !out.commit())
                return Message{"file_unreachable", Level::error, "folder",
                    "The export cannot be written to " + place.toStdString() + ". Is the disk full?"};
        }
    }
    return std::nullopt;
}

Outcome<QString> export_person(const Store& store, long client_id, const QString& folder)
{
    const auto c = store.client(client_id);
    if (!c) return Outcome<QString>::refuse({"unknown_client", Level::error, "client", "There is no such client."});
    const QString name = QStringLiteral("client%1-%2")
                             .arg(client_id)
                             .arg(QDateTime::currentDateTime().toString(QStringLiteral("yyyyMMdd-HHmmss")));
    const QString place = QDir(folder).filePath(name);
    if (!QDir().mkpath(place + QStringLiteral("/signals")) || !QDir().mkpath(place + QStringLiteral("/sheets")))
        return Outcome<QString>::refuse(
            {"file_unreachable", Level::error, "folder", "The folder " + place.toStdString() + " cannot be made."});
    const QSqlDatabase& db = store.database();
    const QVariantList id{big(client_id)};
    QJsonObject all{{"kind", "fusain person export"}, {"version", 1}, {"made_at", detail::now_utc()}};
    all["client"] = rows_of(run(db, QStringLiteral("SELECT * FROM client WHERE id = ?"), id)).first();
    all["visits"] = rows_of(run(db, QStringLiteral("SELECT * FROM visit WHERE client_id = ? ORDER BY id"), id));
    all["visit_events"] = rows_of(run(db,
        QStringLiteral("SELECT e.* FROM visit_event e JOIN visit v ON v.id = e.visit_id WHERE v.client_id = ? ORDER BY "
                       "e.visit_id, e.seq"),
        id));
    all["snapshots"] = rows_of(run(db,
        QStringLiteral("SELECT s.* FROM snapshot s JOIN visit v ON v.id = s.visit_id WHERE v.client_id = ? ORDER BY "
                       "s.visit_id, s.seq"),
        id));
    all["bookings"] = rows_of(run(db, QStringLiteral("SELECT * FROM booking WHERE client_id = ? ORDER BY id"), id));
    all["booking_parts"] = rows_of(run(db,
        QStringLiteral("SELECT p.* FROM booking_part p JOIN booking b ON b.id = p.booking_id WHERE b.client_id = ? "
                       "ORDER BY p.booking_id, p.seq"),
        id));
    all["client_events"] =
        rows_of(run(db, QStringLiteral("SELECT * FROM client_event WHERE client_id = ? ORDER BY id"), id));
    all["screenings"] = rows_of(run(db, QStringLiteral("SELECT * FROM screening WHERE client_id = ? ORDER BY id"), id));
    QJsonArray unread;
    for (const VisitRow& v : store.visits_of(client_id))
        for (int trial : store.recorded(v.id)) {
            const auto signal = store.signal(v.id, trial);
            const QString csv = QStringLiteral("visit%1-trial%2.csv").arg(v.id).arg(trial);
            if (!signal) // what cannot be read keeps nobody from the rest
                unread.append(
                    QJsonObject{{"signal", csv}, {"why", QString::fromStdString(signal.messages().front().text)}});
            else if (!write_csv(place + QStringLiteral("/signals/") + csv, *signal))
                return Outcome<QString>::refuse({"file_unreachable", Level::error, "folder",
                    "The export cannot be written to " + place.toStdString() + ". Is the disk full?"});
        }
    if (const auto why = write_attached(store, client_id, place, unread)) return Outcome<QString>::refuse(*why);
    if (!unread.isEmpty()) all["signals_not_read"] = unread;
    QSaveFile file(place + QStringLiteral("/person.json"));
    const QByteArray bytes = QJsonDocument(all).toJson();
    if (!file.open(QIODevice::WriteOnly) || file.write(bytes) != bytes.size() || !file.commit())
        return Outcome<QString>::refuse({"file_unreachable", Level::error, "folder",
            "The export cannot be written to " + place.toStdString() + ": " + file.errorString().toStdString() + "."});
    for (const QString& sheet : sheets_of(store, *c))
        QFile::copy(sheet, place + QStringLiteral("/sheets/") + QFileInfo(sheet).fileName());
    return place;
}

/// Lists of the days on which the client was measured: they name others too, and can be made again.
static QStringList day_lists_of(const Store& store, long client_id)
{
    QStringList out;
    const QDir folder(QFileInfo(store.file()).absolutePath() + QStringLiteral("/sheets"));
    for (const auto& [visit, told] : store.snapshots_of(client_id)) {
        const QString list = folder.filePath(QStringLiteral("day-%1-lab.pdf").arg(QString::fromStdString(told.day)));
        if (QFile::exists(list) && !out.contains(list)) out << list;
    }
    return out;
}

std::optional<Message> erase(Store& store, long client_id, const QString& who, const QTimeZone& zone)
{
    const auto c = store.client(client_id);
    if (!c) return Message{"unknown_client", Level::error, "client", "There is no such client."};
    for (const VisitRow& v : store.visits_of(client_id))
        if (!v.finished)
            return Message{"visit_open", Level::error, "visit",
                "A visit of " + c->full_name().toStdString() +
                    " is still open. Finish it, or give it up, before the record is deleted."};
    const QSqlDatabase& db = store.database();
    const QStringList files =
        sheets_of(store, *c) + letters_of(store, *c, zone) + day_lists_of(store, client_id) +
        files_of(store, "outbox", R"(visit(?<id>\d+)-.*\.eml)", ids_of(store, "visit", c->id)) +
        raw::files_of(db, QStringLiteral("SELECT id FROM visit WHERE client_id = %1").arg(client_id)) +
        attached::files_of(db, QStringLiteral("SELECT id FROM visit WHERE client_id = %1").arg(client_id));
    run(db, QStringLiteral("PRAGMA secure_delete = ON")); // freed pages are overwritten
    // the logs are append-only; their guards are lifted for this one act, inside the transaction
    QStringList guards;
    QSqlQuery g =
        run(db, QStringLiteral("SELECT sql FROM sqlite_master WHERE type = 'trigger' AND name IN ('visit_event_stays', "
                               "'snapshot_stays', 'client_event_stays')"));
    while (g.next()) guards << g.value(0).toString();
    g.finish();
    {
        Transaction transaction(db);
        if (!transaction.is_open()) return say(transaction.error(), db);
        const QString visits = QStringLiteral("SELECT id FROM visit WHERE client_id = ?"),
                      bookings = QStringLiteral("SELECT id FROM booking WHERE client_id = ?");
        const QVariantList id{big(client_id)};
        const std::pair<QString, QVariantList> acts[] = {
            {QStringLiteral(
                 "INSERT INTO erased (at, who, visits) SELECT ?, ?, COUNT(*) FROM visit WHERE client_id = ?"),
                {detail::now_utc(), who, big(client_id)}},
            {QStringLiteral("DROP TRIGGER IF EXISTS visit_event_stays"), {}},
            {QStringLiteral("DROP TRIGGER IF EXISTS snapshot_stays"), {}},
            {QStringLiteral("DROP TRIGGER IF EXISTS client_event_stays"), {}},
            {QStringLiteral("DELETE FROM client_event WHERE client_id = ?"), id},
            {QStringLiteral("DELETE FROM screening WHERE client_id = ?"), id},
            {QStringLiteral("DELETE FROM setting WHERE key IN (SELECT 'screening_draft_' || id FROM booking WHERE "
                            "client_id = ?)"),
                id},
            {QStringLiteral("DELETE FROM booking_part WHERE booking_id IN (%1)").arg(bookings), id},
            {QStringLiteral("DELETE FROM booking WHERE client_id = ?"), id},
            {QStringLiteral("DELETE FROM signal_chunk WHERE visit_id IN (%1)").arg(visits), id},
            {QStringLiteral("DELETE FROM raw_file WHERE visit_id IN (%1)").arg(visits), id},
            {QStringLiteral("DELETE FROM attached_file WHERE visit_id IN (%1)").arg(visits), id},
            {QStringLiteral("DELETE FROM snapshot WHERE visit_id IN (%1)").arg(visits), id},
            {QStringLiteral("DELETE FROM visit_event WHERE visit_id IN (%1)").arg(visits), id},
            {QStringLiteral("DELETE FROM visit_lease WHERE visit_id IN (%1)").arg(visits), id},
            {QStringLiteral("DELETE FROM visit WHERE client_id = ?"), id},
            {QStringLiteral("DELETE FROM client WHERE id = ?"), id},
        };
        for (const auto& [sql, values] : acts) {
            QSqlQuery q = run(db, sql, values);
            if (q.lastError().isValid()) return say(q.lastError(), db);
        }
        for (const QString& guard : guards) {
            QSqlQuery q = run(db, guard);
            if (q.lastError().isValid()) return say(q.lastError(), db);
        }
        if (!transaction.commit()) return say(transaction.error(), db);
    }
    const QStringList left = remove_all(files);
    if (!left.isEmpty())
        return Message{"bytes_remain", Level::caution, "client",
            "The record is deleted, but " + std::to_string(left.size()) + " of its files could not be: " +
                left.join(QStringLiteral(", ")).toStdString() + ". Delete them by hand."};
    // it waits for whoever reads the file as long as for any lock
    QSqlQuery emptied = run(db, QStringLiteral("PRAGMA wal_checkpoint(TRUNCATE)"));
    if (!emptied.next() || emptied.value(0).toInt() != 0)
        return Message{"bytes_remain", Level::caution, "client",
            "The record is deleted, but another program is still reading the lab: the old bytes stay on the disk until "
            "it ends. Close the other windows on this lab, then this one; the last to close overwrites them."};
    return std::nullopt;
}

int erased_count(const Store& store)
{
    QSqlQuery q = run(store.database(), QStringLiteral("SELECT COUNT(*) FROM erased"));
    return q.next() ? q.value(0).toInt() : 0;
}

} // namespace fusain::records
