// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/base/limits.h"
#include "records/file/detail.h"
#include "records/store/store.h"

#include <QDate>
#include <QRegularExpression>

namespace fusain::records {

using detail::say, detail::text, detail::Transaction;

namespace {

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
    c.facts = detail::list_of(q.value(14).toString());
    c.conditions = q.value(15).toString();
    c.medicines = q.value(16).toString();
    c.sport = q.value(17).toString();
    c.goal = q.value(18).toString();
    c.other_numbers = q.value(19).toString();
    c.archived = q.value(20).toBool();
    return c;
}

} // namespace

namespace {
constexpr int longest_name = 120, longest_note = 10000; ///< letters
}

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
    for (const auto& [value, field, title, most] : {std::tuple{&c.given_name, "given_name", "Given name", longest_name},
             {&c.family_name, "family_name", "Family name", longest_name},
             {&c.guardian, "guardian", "The guardian's name", longest_name}, {&c.role, "role", "Role", longest_name},
             {&c.phone, "phone", "Phone", longest_name}, {&c.email, "email", "E-mail", 2 * longest_name},
             {&c.note, "note", "Note", longest_note}})
        if (value->size() > most)
            bad.push_back({"out_of_range", Level::error, field,
                std::string(title) + " has " + std::to_string(value->size()) + " letters; allowed is up to " +
                    std::to_string(most) + "."});
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

bench::event::Started beginning_of(const Client& c, Method method, bench::event::Started e)
{
    e.client_id = c.id;
    e.number = c.number.toStdString();
    e.name = c.full_name().toStdString();
    e.birth_date = c.birth_date.toStdString();
    e.sex = c.sex;
    e.height_cm = c.height_cm;
    e.method = method->word;
    return e;
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
             text(c.guardian_consent_on), QVariant(detail::json_text(c.facts)), text(c.conditions), text(c.medicines),
             text(c.sport), text(c.goal), text(c.other_numbers), QVariant(c.archived ? 1 : 0),
             QVariant(search_words(c))})
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

QStringList Store::roles() const
{
    QSqlQuery q(db_);
    q.exec(QStringLiteral("SELECT DISTINCT role FROM client WHERE archived = 0 AND role <> '' ORDER BY role"));
    QStringList out;
    while (q.next()) out << q.value(0).toString();
    return out;
}

std::vector<Client> Store::clients_of_role(const QString& role) const
{
    QSqlQuery q = detail::run(db_,
        QStringLiteral("SELECT %1 FROM client WHERE archived = 0 AND role = ? ORDER BY family_name, given_name")
            .arg(client_columns),
        {role});
    std::vector<Client> out;
    while (q.next()) out.push_back(client_of(q));
    return out;
}

int Store::count_clients(const QString& words, bool archived) const
{
    return static_cast<int>(search_.find(db_, words, archived).size());
}

} // namespace fusain::records
