// SPDX-License-Identifier: GPL-3.0-or-later
#include "records/visits/store.h"

#include "core/base/limits.h"
#include "records/file/detail.h"
#include "records/file/lab_file.h"
#include "records/file/schema.h"

#include <QDate>
#include <QDir>
#include <QFileInfo>
#include <QJsonArray>
#include <QRegularExpression>
#include <QSqlError>
#include <QSqlQuery>
#include <QUuid>
#include <QVariant>

#include <cstring>

namespace fusain::records {

using detail::lab_message, detail::say, detail::text, detail::Transaction;

namespace {

bench::Event event_of(const QSqlQuery& q)
{
    bench::Event e;
    e.seq = q.value(0).toLongLong();
    e.at_utc = q.value(1).toString().toStdString();
    e.who = q.value(2).toString().toStdString();
    e.kind = q.value(3).toString().toStdString();
    e.body = bench::Json::parse(q.value(4).toString().toStdString(), nullptr, false);
    return e;
}

bool insert_event(QSqlQuery& q, long visit_id, const bench::Event& e)
{
    q.prepare(QStringLiteral("INSERT INTO visit_event (visit_id, seq, at, who, kind, body) VALUES (?, ?, ?, ?, ?, ?)"));
    q.addBindValue(QVariant::fromValue<qlonglong>(visit_id));
    q.addBindValue(QVariant::fromValue<qlonglong>(e.seq));
    q.addBindValue(QString::fromStdString(e.at_utc));
    q.addBindValue(QString::fromStdString(e.who));
    q.addBindValue(QString::fromStdString(e.kind));
    q.addBindValue(QString::fromStdString(e.body.dump()));
    return q.exec();
}

/// What an event makes of the row of its visit: measured, stopped, or open again.
std::optional<QSqlError> close_by(QSqlQuery& q, long visit_id, const bench::Event& e)
{
    const bool stops =
        e.kind == "given_up" || (e.kind == "stops" && e.body.contains("stop") && !e.body["stop"].empty());
    const char* outcome = e.kind == "finished" ? "measured" : stops ? "stopped" : e.kind == "reopened" ? "" : nullptr;
    if (!outcome) return std::nullopt;
    q.prepare(QStringLiteral("UPDATE visit SET finished = ?, outcome = ? WHERE id = ?"));
    q.addBindValue(*outcome ? 1 : 0);
    q.addBindValue(QString::fromLatin1(outcome));
    q.addBindValue(QVariant::fromValue<qlonglong>(visit_id));
    if (!q.exec()) return q.lastError();
    return std::nullopt;
}

QString search_words(const Client& c)
{
    return ' ' + folded(QStringList{c.given_name, c.family_name, c.number, c.other_numbers, c.role,
                            QString(c.phone).remove(' ')}
                            .join(' '))
                     .replace('-', ' ');
}

const QString client_columns = QStringLiteral(
    "id, number, family_name, given_name, birth_date, sex, height_cm, role, phone, note, email, consent_on, guardian, "
    "guardian_consent_on, facts, conditions, medicines, sport, goal, other_numbers, archived");

Client client_of(const QSqlQuery& q)
{
    Client c;
    c.id = q.value(0).toLongLong();
    c.number = q.value(1).toString();
    c.family_name = q.value(2).toString();
    c.given_name = q.value(3).toString();
    c.birth_date = q.value(4).toString();
    c.sex = q.value(5).toString() == "male" ? Sex::male : Sex::female;
    c.height_cm = q.value(6).toDouble();
    c.role = q.value(7).toString();
    c.phone = q.value(8).toString();
    c.note = q.value(9).toString();
    c.email = q.value(10).toString();
    c.consent_on = q.value(11).toString();
    c.guardian = q.value(12).toString();
    c.guardian_consent_on = q.value(13).toString();
    for (const QJsonValue& fact : QJsonDocument::fromJson(q.value(14).toByteArray()).array())
        c.facts << fact.toString();
    c.conditions = q.value(15).toString();
    c.medicines = q.value(16).toString();
    c.sport = q.value(17).toString();
    c.goal = q.value(18).toString();
    c.other_numbers = q.value(19).toString();
    c.archived = q.value(20).toBool();
    return c;
}

VisitRow visit_of(const QSqlQuery& q)
{
    return {static_cast<long>(q.value(0).toLongLong()), static_cast<long>(q.value(1).toLongLong()),
        q.value(2).toString(), q.value(3).toString(), q.value(4).toString(), q.value(5).toBool(),
        q.value(6).toString()};
}
const QString visit_columns = QStringLiteral("id, client_id, method, started_at, technician, finished, outcome");

} // namespace

QString folded(const QString& text)
{
    QString out;
    for (const QChar c : text.normalized(QString::NormalizationForm_D))
        if (c.category() != QChar::Mark_NonSpacing) out += c.toLower();
    return out;
}

Messages check(const Client& c, const QString& today)
{
    Messages bad;
    const auto missing = [&](const QString& value, const char* field, const char* title) {
        if (value.trimmed().isEmpty())
            bad.push_back({"missing_field", Level::error, field, std::string(title) + " is missing."});
    };
    missing(c.given_name, "given_name", "Given name");
    missing(c.family_name, "family_name", "Family name");
    // it becomes part of file names
    static const QRegularExpression number(QStringLiteral("^[A-Za-z0-9._-]{0,20}$"));
    if (!number.match(c.number).hasMatch())
        bad.push_back({"bad_number", Level::error, "number",
            "Number \"" + c.number.toStdString() +
                "\" cannot be used; allowed are up to 20 letters, digits, points, dashes and underscores."});
    const QDate born = QDate::fromString(c.birth_date, Qt::ISODate), now = QDate::fromString(today, Qt::ISODate);
    if (!born.isValid()) {
        bad.push_back({"bad_date", Level::error, "birth_date",
            "Date of birth is \"" + c.birth_date.toStdString() + "\"; write year-month-day, as 1994-03-27."});
    } else {
        const double age = bench::age_between(c.birth_date.toStdString(), today.toStdString());
        if (born > now)
            bad.push_back({"bad_date", Level::error, "birth_date",
                "Date of birth " + c.birth_date.toStdString() + " is in the future."});
        else if (const auto m = limits::check("age_y", age))
            bad.push_back({"out_of_range", Level::error, "birth_date",
                "Date of birth " + c.birth_date.toStdString() + " makes the client " + limits::plain(age, 1) +
                    " years old; allowed is 3 to 110."});
    }
    if (auto m = limits::check("height_cm", c.height_cm)) bad.push_back(*m);
    for (const auto& [value, field, title] : {std::tuple{c.consent_on, "consent_on", "Consent"},
             std::tuple{c.guardian_consent_on, "guardian_consent_on", "The guardian's consent"}}) {
        if (value.isEmpty()) continue;
        const QDate day = QDate::fromString(value, Qt::ISODate);
        if (!day.isValid())
            bad.push_back({"bad_date", Level::error, field,
                std::string(title) + " is \"" + value.toStdString() +
                    "\"; write the day it was signed as year-month-day."});
        else if (day > now)
            bad.push_back({"bad_date", Level::error, field,
                std::string(title) + " " + value.toStdString() + " is in the future."});
    }
    if (!c.guardian_consent_on.isEmpty() && c.guardian.trimmed().isEmpty())
        bad.push_back({"missing_field", Level::error, "guardian", "Who is the guardian that consented?"});
    if (!c.email.isEmpty() &&
        !QRegularExpression(QStringLiteral("^[^@\\s,;:<>()\\[\\]\"\\\\]+@[^@\\s,;:<>()\\[\\]\"\\\\]+$"))
             .match(c.email)
             .hasMatch())
        bad.push_back({"bad_email", Level::error, "email",
            "E-mail \"" + c.email.toStdString() + "\" is not an address; allowed is name@place."});
    return bad;
}

Outcome<std::shared_ptr<Store>> Store::open(const QString& file)
{
    using Result = Outcome<std::shared_ptr<Store>>;
    const QFileInfo info(file);
    if (!QDir().mkpath(info.absolutePath()))
        return Result::refuse(
            lab_message("lab_unreachable", QStringLiteral("The folder %1 cannot be made.").arg(info.absolutePath())));
    if (const auto why = look_at(file)) return Result::refuse(*why);
    const QString connection = QUuid::createUuid().toString();
    QSqlDatabase db = QSqlDatabase::addDatabase(QStringLiteral("QSQLITE"), connection);
    db.setDatabaseName(file);
    db.setConnectOptions(QStringLiteral("QSQLITE_BUSY_TIMEOUT=3000"));
    const auto give_up = [&](Message why) {
        db.close();
        db = {};
        QSqlDatabase::removeDatabase(connection);
        return Result::refuse(std::move(why));
    };
    if (info.exists() && !info.isWritable()) return give_up(say(QSqlError({}, {}, {}, QStringLiteral("8")), file));
    if (!db.open()) return give_up(say(db.lastError(), file));
    {
        QSqlQuery q(db);
        // every table but the raw signals, which may be gigabytes: a damaged one is told when it is read
        QStringList tables;
        if (!q.exec(QStringLiteral("SELECT name FROM sqlite_master WHERE type = 'table' AND name <> 'signal_chunk'")))
            return give_up(say(q.lastError(), file));
        while (q.next()) tables << q.value(0).toString();
        for (const QString& table : tables) {
            if (!q.exec(QStringLiteral("PRAGMA quick_check('%1')").arg(QString(table).replace('\'', "''"))))
                return give_up(say(q.lastError(), file));
            if (q.next() && q.value(0).toString() != "ok")
                return give_up(say(QSqlError({}, {}, {}, QStringLiteral("11")), file));
        }
        q.finish();
        for (const char* pragma :
            {"PRAGMA journal_mode = WAL", "PRAGMA synchronous = FULL", "PRAGMA foreign_keys = ON"}) {
            if (!q.exec(QString::fromLatin1(pragma))) return give_up(say(q.lastError(), file));
            q.finish();
        }
    }
    make_private(file);
    if (auto why = migrate(db, file)) return give_up(*why);
    make_private(file);
    // opening may wait for another window's upgrade; nothing else waits for long (patience.h)
    QSqlQuery(db).exec(QStringLiteral("PRAGMA busy_timeout = 100"));
    return std::shared_ptr<Store>(new Store(db, file));
}

Store::~Store()
{
    const QString connection = db_.connectionName();
    db_.close();
    db_ = {};
    QSqlDatabase::removeDatabase(connection);
}

Outcome<Client> Store::save(Client c)
{
    Transaction transaction(db_);
    if (!transaction.is_open()) return Outcome<Client>::refuse(say(transaction.error(), file_));
    if (auto why = save_within(c)) return Outcome<Client>::refuse(*why);
    if (!transaction.commit()) return Outcome<Client>::refuse(say(transaction.error(), file_));
    return c;
}

std::optional<Message> Store::save_within(Client& c)
{
    QSqlQuery q(db_);
    if (c.number.trimmed().isEmpty()) {
        q.exec(QStringLiteral("SELECT value FROM setting WHERE key = 'last_number'"));
        int last = q.next() ? q.value(0).toInt() : 0;
        q.finish();
        if (last == 0) { // numbers given before the counter was kept
            q.exec(QStringLiteral("SELECT MAX(100, COALESCE(MAX(CAST(number AS INTEGER)), 100)) FROM client"));
            last = q.next() ? q.value(0).toInt() : 100;
            q.finish();
        }
        do {
            c.number = QString::number(++last);
            q = detail::run(db_, QStringLiteral("SELECT 1 FROM client WHERE number = ?"), {c.number});
        } while (q.next());
        if (auto why = set_setting(QStringLiteral("last_number"), c.number)) return why;
    }
    // a number that was merged into another record still finds that person: it is theirs for good
    q = detail::run(db_,
        QStringLiteral("SELECT number FROM client WHERE other_numbers <> '' AND id <> ? AND instr(' ' || other_numbers "
                       "|| ' ', ' ' || ? || ' ') > 0"),
        {detail::big(c.id), c.number});
    if (q.next())
        return Message{"number_taken", Level::error, "number",
            "Number \"" + c.number.toStdString() + "\" was merged into the record of client " +
                q.value(0).toString().toStdString() + " and stays theirs."};
    const QStringList columns = client_columns.mid(4).split(QStringLiteral(", ")) << QStringLiteral("search");
    QStringList marks(columns.size(), QStringLiteral("?"));
    q.prepare(c.id ? QStringLiteral("UPDATE client SET %1 = ? WHERE id = ?").arg(columns.join(QStringLiteral(" = ?, ")))
                   : QStringLiteral("INSERT INTO client (%1) VALUES (%2)")
                         .arg(columns.join(QStringLiteral(", ")), marks.join(QStringLiteral(", "))));
    for (const QVariant& v : {QVariant(c.number), QVariant(c.family_name.trimmed()), QVariant(c.given_name.trimmed()),
             QVariant(c.birth_date), QVariant(QString::fromLatin1(word(c.sex))), QVariant(c.height_cm), text(c.role),
             text(c.phone), text(c.note), text(c.email), text(c.consent_on), text(c.guardian),
             text(c.guardian_consent_on),
             QVariant(
                 QString::fromUtf8(QJsonDocument(QJsonArray::fromStringList(c.facts)).toJson(QJsonDocument::Compact))),
             text(c.conditions), text(c.medicines), text(c.sport), text(c.goal), text(c.other_numbers),
             QVariant(c.archived ? 1 : 0), QVariant(search_words(c))})
        q.addBindValue(v);
    if (c.id) q.addBindValue(QVariant::fromValue<qlonglong>(c.id));
    if (!q.exec()) {
        if (q.lastError().text().contains("client.number"))
            return Message{"number_taken", Level::error, "number",
                "Number \"" + c.number.toStdString() + "\" belongs to another client."};
        return say(q.lastError(), file_);
    }
    if (!c.id) c.id = q.lastInsertId().toLongLong();
    return std::nullopt;
}

std::optional<Client> Store::client(long id) const
{
    QSqlQuery q(db_);
    q.prepare(QStringLiteral("SELECT %1 FROM client WHERE id = ?").arg(client_columns));
    q.addBindValue(QVariant::fromValue<qlonglong>(id));
    if (q.exec() && q.next()) return client_of(q);
    return std::nullopt;
}

std::vector<Client> Store::find_clients(const QString& words, int limit, int from, bool archived) const
{
    const std::vector<long>& found = search_.find(db_, words, archived);
    QSqlQuery q(db_);
    q.prepare(QStringLiteral("SELECT %1 FROM client WHERE id = ?").arg(client_columns));
    std::vector<Client> out;
    for (std::size_t i = static_cast<std::size_t>(from);
         i < found.size() && out.size() < static_cast<std::size_t>(limit); ++i) {
        q.bindValue(0, detail::big(found[i]));
        if (q.exec() && q.next()) out.push_back(client_of(q));
    }
    return out;
}

int Store::count_clients(const QString& words, bool archived) const
{
    return static_cast<int>(search_.find(db_, words, archived).size());
}

Outcome<long> Store::begin_visit(
    long client_id, const QString& method, const std::vector<bench::Event>& first, const std::optional<Window>& window)
{
    using Result = Outcome<long>;
    bench::Visit fresh;
    for (const bench::Event& e : first)
        if (auto why = fresh.apply(e)) return Result::refuse(*why);
    Transaction transaction(db_);
    if (!transaction.is_open()) return Result::refuse(say(transaction.error(), file_));
    QSqlQuery q(db_);
    q.prepare(QStringLiteral("INSERT INTO visit (client_id, method, started_at, technician) VALUES (?, ?, ?, ?)"));
    q.addBindValue(QVariant::fromValue<qlonglong>(client_id));
    q.addBindValue(method);
    q.addBindValue(QString::fromStdString(first.front().at_utc));
    q.addBindValue(QString::fromStdString(first.front().who));
    if (!q.exec()) return Result::refuse(say(q.lastError(), file_));
    const long id = q.lastInsertId().toLongLong();
    for (const bench::Event& e : first) {
        if (!insert_event(q, id, e)) return Result::refuse(say(q.lastError(), file_));
        if (auto why = close_by(q, id, e)) return Result::refuse(say(*why, file_));
    }
    if (window)
        if (auto why = take_lease_within(db_, id, *window, QString::fromStdString(first.front().who)))
            return Result::refuse(*why);
    if (!transaction.commit()) return Result::refuse(say(transaction.error(), file_));
    return id;
}

std::optional<Message> Store::append(long visit_id, const bench::Event& e, const QString& window)
{
    Transaction transaction(db_);
    if (!transaction.is_open()) return say(transaction.error(), file_);
    if (auto why = held_elsewhere(db_, visit_id, window)) return why;
    QSqlQuery q(db_);
    if (!insert_event(q, visit_id, e)) {
        // the log refused it: another program wrote to this visit meanwhile
        if (q.lastError().nativeErrorCode().toInt() % 256 == 19)
            return Message{"log_moved_on", Level::error, "visit",
                "This visit has gone on in another window meanwhile, so this was not added to it. Open it again."};
        return say(q.lastError(), file_);
    }
    if (auto why = close_by(q, visit_id, e)) return say(*why, file_);
    if (!transaction.commit()) return say(transaction.error(), file_);
    return std::nullopt;
}

std::vector<bench::Event> Store::events(long visit_id) const
{
    QSqlQuery q(db_);
    q.prepare(QStringLiteral("SELECT seq, at, who, kind, body FROM visit_event WHERE visit_id = ? ORDER BY seq"));
    q.addBindValue(QVariant::fromValue<qlonglong>(visit_id));
    std::vector<bench::Event> out;
    if (q.exec())
        while (q.next()) out.push_back(event_of(q));
    return out;
}

long Store::last_seq(long visit_id) const
{
    QSqlQuery q = detail::run(
        db_, QStringLiteral("SELECT MAX(seq) FROM visit_event WHERE visit_id = ?"), {detail::big(visit_id)});
    return q.next() ? q.value(0).toLongLong() : 0;
}

std::vector<VisitRow> Store::visits_of(long client_id) const
{
    QSqlQuery q(db_);
    q.prepare(QStringLiteral("SELECT %1 FROM visit WHERE client_id = ? ORDER BY started_at DESC").arg(visit_columns));
    q.addBindValue(QVariant::fromValue<qlonglong>(client_id));
    std::vector<VisitRow> out;
    if (q.exec())
        while (q.next()) out.push_back(visit_of(q));
    return out;
}

std::optional<VisitRow> Store::visit(long visit_id) const
{
    QSqlQuery q(db_);
    q.prepare(QStringLiteral("SELECT %1 FROM visit WHERE id = ?").arg(visit_columns));
    q.addBindValue(QVariant::fromValue<qlonglong>(visit_id));
    if (q.exec() && q.next()) return visit_of(q);
    return std::nullopt;
}

std::optional<VisitRow> Store::open_visit() const
{
    QSqlQuery q(db_);
    if (q.exec(QStringLiteral("SELECT %1 FROM visit WHERE finished = 0 ORDER BY started_at DESC LIMIT 1")
                   .arg(visit_columns)) &&
        q.next())
        return visit_of(q);
    return std::nullopt;
}

Outcome<bench::Visit> Store::replay(long visit_id) const
{
    bench::Visit visit;
    for (const bench::Event& e : events(visit_id))
        if (auto why = visit.apply(e)) return Outcome<bench::Visit>::refuse(*why);
    return visit;
}

std::optional<Message> Store::append_signal(const SignalChunk& chunk)
{
    const std::vector<double>& values = chunk.signal.values;
    QSqlQuery q(db_);
    q.prepare(
        QStringLiteral("INSERT INTO signal_chunk (visit_id, trial, seq, columns, samples) VALUES (?, ?, ?, ?, ?)"));
    q.addBindValue(QVariant::fromValue<qlonglong>(chunk.visit));
    q.addBindValue(chunk.trial);
    q.addBindValue(chunk.seq);
    q.addBindValue(QString::fromStdString(chunk.signal.columns));
    q.addBindValue(QByteArray(
        reinterpret_cast<const char*>(values.data()), static_cast<qsizetype>(values.size() * sizeof(double))));
    if (!q.exec()) return say(q.lastError(), file_);
    return std::nullopt;
}

bench::Signal Store::signal(long visit_id, int trial) const
{
    QSqlQuery q(db_);
    q.prepare(
        QStringLiteral("SELECT columns, samples FROM signal_chunk WHERE visit_id = ? AND trial = ? ORDER BY seq"));
    q.addBindValue(QVariant::fromValue<qlonglong>(visit_id));
    q.addBindValue(trial);
    bench::Signal out;
    if (!q.exec()) return out;
    while (q.next()) {
        out.columns = q.value(0).toString().toStdString();
        const QByteArray bytes = q.value(1).toByteArray();
        const std::size_t n = static_cast<std::size_t>(bytes.size()) / sizeof(double), at = out.values.size();
        out.values.resize(at + n);
        std::memcpy(out.values.data() + at, bytes.constData(), n * sizeof(double));
    }
    return out;
}

QString Store::setting(const QString& key, const QString& otherwise) const
{
    QSqlQuery q(db_);
    q.prepare(QStringLiteral("SELECT value FROM setting WHERE key = ?"));
    q.addBindValue(key);
    return q.exec() && q.next() ? q.value(0).toString() : otherwise;
}

std::optional<Message> Store::set_setting(const QString& key, const QString& value)
{
    const QSqlQuery q = detail::run(db_,
        QStringLiteral(
            "INSERT INTO setting (key, value) VALUES (?, ?) ON CONFLICT (key) DO UPDATE SET value = excluded.value"),
        {key, text(value)});
    if (q.lastError().isValid()) return say(q.lastError(), file_);
    return std::nullopt;
}

} // namespace fusain::records
