// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/base/csv.h"
#include "records/file/detail.h"
#include "records/file/regular.h"
#include "records/people/people.h"

#include <QCryptographicHash>
#include <QDate>
#include <QFile>
#include <QRegularExpression>
#include <QSet>
#include <QStringDecoder>

#include <sstream>

namespace fusain::records {
namespace {

constexpr qint64 largest_table = 32 << 20; ///< a quarter of a million people
constexpr std::size_t most_columns = 200;
constexpr std::size_t every = 500; // rows between two reports of progress

Message cancelled() { return {"cancelled", Level::caution, "file", "Stopped. Nothing was taken over."}; }

/// Bytes 0x80 to 0x9F of Windows-1252; the rest is as in Latin-1.
QString from_windows_1252(const QByteArray& bytes)
{
    static const char16_t high[] =
        u"\u20AC\uFFFD\u201A\u0192\u201E\u2026\u2020\u2021\u02C6\u2030\u0160\u2039\u0152\uFFFD\u017D\uFFFD\uFFFD\u2018"
        u"\u2019\u201C\u201D\u2022\u2013\u2014\u02DC\u2122\u0161\u203A\u0153\uFFFD\u017E\u0178";
    QString out;
    out.reserve(bytes.size());
    for (const char c : bytes) {
        const auto b = static_cast<unsigned char>(c);
        out += b >= 0x80 && b <= 0x9F ? QChar(high[b - 0x80]) : QChar(b);
    }
    return out;
}

} // namespace

QDate read_date(const QString& text)
{
    for (const char* format : {"yyyy-MM-dd", "dd.MM.yyyy", "d.M.yyyy", "dd/MM/yyyy", "d/M/yyyy"})
        if (const QDate d = QDate::fromString(text, QString::fromLatin1(format)); d.isValid()) return d;
    return {};
}

Outcome<Table> read_table(const QString& path, const Progress& progress)
{
    using Result = Outcome<Table>;
    auto read = read_regular(path, largest_table);
    if (!read) return Result::refuse(read.messages());
    QByteArray bytes = std::move(read).take();
    if (bytes.isEmpty()) return Result::refuse({"file_empty", Level::error, "file", path.toStdString() + " is empty."});
    Table t;
    t.sha256 = QString::fromLatin1(QCryptographicHash::hash(bytes, QCryptographicHash::Sha256).toHex());
    QStringDecoder utf8(QStringDecoder::Utf8, QStringDecoder::Flag::Stateless);
    if (bytes.startsWith("\xFF\xFE") || bytes.startsWith("\xFE\xFF")) {
        QStringDecoder utf16(QStringDecoder::Utf16);
        bytes = QString(utf16(bytes)).toUtf8();
        t.encoding = QStringLiteral("UTF-16");
    } else {
        const QString as_utf8 = utf8(bytes);
        if (utf8.hasError()) {
            t.encoding = QStringLiteral("Windows-1252");
            bytes = from_windows_1252(bytes).toUtf8();
        } else {
            t.encoding = QStringLiteral("UTF-8");
        }
    }
    if (bytes.startsWith("\xEF\xBB\xBF")) bytes.remove(0, 3);
    if (bytes.contains('\0'))
        return Result::refuse({"bad_csv", Level::error, "file", path.toStdString() + " is not a text file."});
    t.separator = csv::guess_separator(bytes.left(8000).toStdString());
    std::istringstream in(bytes.toStdString());
    long line = 0;
    try {
        while (true) {
            const long first = line + 1;
            const auto row = csv::read_row(in, line, t.separator);
            if (!row) break;
            if (row->size() > most_columns)
                return Result::refuse({"bad_csv", Level::error, "file",
                    path.toStdString() + ": line " + std::to_string(first) + " has " + std::to_string(row->size()) +
                        " columns; allowed is up to " + std::to_string(most_columns) + "."});
            QStringList cells;
            bool any = false;
            for (const std::string& cell : *row) {
                cells << QString::fromStdString(cell).trimmed();
                any |= !cells.back().isEmpty();
            }
            if (!any) continue;
            if (t.header.isEmpty()) {
                t.header = cells;
                continue;
            }
            t.rows.push_back(cells);
            t.lines.push_back(first);
            if (progress && t.rows.size() % every == 0 && !progress(t.rows.size())) return Result::refuse(cancelled());
        }
    } catch (const std::runtime_error& x) {
        return Result::refuse({"bad_csv", Level::error, "file", path.toStdString() + ": " + x.what() + "."});
    }
    if (t.header.size() < 2)
        return Result::refuse(
            {"bad_csv", Level::error, "file", path.toStdString() + " has no heading with at least two columns."});
    return t;
}

const std::vector<ImportField>& import_fields()
{
    static const std::vector<ImportField> fields = {
        {"given_name", "Given name", true, {"given name", "first name", "given", "prenom", "vorname", "forename"}},
        {"family_name", "Family name", true,
            {"family name", "last name", "surname", "family", "nom", "nachname", "name"}},
        {"birth_date", "Date of birth", true,
            {"date of birth", "birth date", "born", "dob", "birthday", "date de naissance", "geburtsdatum"}},
        {"sex", "Sex used by the equations", true, {"sex", "sexe", "geschlecht", "gender"}},
        {"height_cm", "Height, cm", true, {"height", "height cm", "taille", "grosse"}},
        {"number", "Number", false, {"number", "no", "client number", "id", "numero", "nummer"}},
        {"role", "Role", false, {"role", "job", "post", "fonction"}},
        {"phone", "Phone", false, {"phone", "telephone", "telefon", "tel", "mobile"}},
        {"email", "E-mail", false, {"email", "mail", "e mail", "courriel"}},
        {"consent_on", "Consent signed on", false, {"consent", "consent on", "consent date"}},
        {"sport", "Sport", false, {"sport"}},
        {"note", "Note", false, {"note", "notes", "remark", "remarks"}},
    };
    return fields;
}

std::map<QString, int> guess_mapping(const QStringList& header)
{
    std::map<QString, int> out;
    const auto plain = [](const QString& s) {
        return folded(s).replace(QRegularExpression(QStringLiteral("[^a-z0-9]+")), QStringLiteral(" ")).trimmed();
    };
    for (const ImportField& f : import_fields()) {
        int found = -1;
        for (const char* name : f.known_as)
            for (int i = 0; i < header.size() && found < 0; ++i)
                if (plain(header[i]) == QString::fromLatin1(name)) found = i;
        if (found >= 0)
            for (const auto& [other, column] : out)
                if (column == found) found = -1;
        out[QString::fromLatin1(f.id)] = found;
    }
    return out;
}

Outcome<ImportCheck> check_import(const Store& store, const Table& table, const std::map<QString, int>& mapping,
    const QString& today, const Progress& progress)
{
    using Result = Outcome<ImportCheck>;
    for (const ImportField& f : import_fields()) {
        const auto at = mapping.find(QString::fromLatin1(f.id));
        if (f.needed && (at == mapping.end() || at->second < 0))
            return Result::refuse(
                {"missing_field", Level::error, f.id, std::string("Choose the column for \"") + f.title + "\"."});
    }
    ImportCheck out;
    // what the lab already has, read once
    QSet<QString> numbers, persons;
    const auto person_key = [](const QString& given, const QString& family, const QString& born) {
        return folded(given) + '|' + folded(family) + '|' + born;
    };
    QSqlQuery q =
        detail::run(store.database(), QStringLiteral("SELECT number, given_name, family_name, birth_date FROM client"));
    while (q.next()) {
        numbers.insert(q.value(0).toString());
        persons.insert(person_key(q.value(1).toString(), q.value(2).toString(), q.value(3).toString()));
    }
    for (std::size_t i = 0; i < table.rows.size(); ++i) {
        if (progress && i % every == 0 && !progress(i)) return Result::refuse(cancelled());
        const QStringList& row = table.rows[i];
        const long line = table.lines[i];
        if (row.size() != table.header.size()) {
            out.bad.push_back(
                {line, QStringLiteral("%1 cells where the heading has %2").arg(row.size()).arg(table.header.size())});
            continue;
        }
        const auto cell = [&](const char* field) {
            const auto at = mapping.find(QString::fromLatin1(field));
            return at == mapping.end() || at->second < 0 || at->second >= row.size() ? QString() : row[at->second];
        };
        QStringList wrong;
        Client c;
        c.given_name = cell("given_name");
        c.family_name = cell("family_name");
        const QString born = cell("birth_date");
        const QDate date = read_date(born);
        c.birth_date = date.isValid() ? date.toString(Qt::ISODate) : born;
        const QString sex = folded(cell("sex"));
        if (sex == "f" || sex == "female" || sex == "w" || sex == "femme" || sex == "weiblich")
            c.sex = Sex::female;
        else if (sex == "m" || sex == "male" || sex == "homme" || sex == "mannlich")
            c.sex = Sex::male;
        else
            wrong << QStringLiteral("Sex \"%1\" is not known; allowed is f, female, m or male.").arg(cell("sex"));
        bool number = false;
        const QString height = cell("height_cm");
        c.height_cm = QString(height).replace(',', '.').toDouble(&number);
        if (!number) {
            wrong << QStringLiteral("Height \"%1\" is not a number.").arg(height);
            c.height_cm = 170;
        }
        c.number = cell("number");
        c.role = cell("role");
        c.phone = cell("phone");
        c.email = cell("email");
        c.sport = cell("sport");
        c.note = cell("note");
        const QString consent = cell("consent_on");
        if (!consent.isEmpty()) {
            const QDate d = read_date(consent);
            c.consent_on = d.isValid() ? d.toString(Qt::ISODate) : consent;
        }
        for (const Message& m : check(c, today)) wrong << QString::fromStdString(m.text);
        if (!wrong.isEmpty()) {
            out.bad.push_back({line, wrong.join(QStringLiteral(" "))});
            continue;
        }
        const QString key = person_key(c.given_name, c.family_name, c.birth_date);
        if (!c.number.isEmpty() && numbers.contains(c.number)) {
            out.doubles.push_back({line, QStringLiteral("number %1 is taken").arg(c.number)});
            continue;
        }
        if (persons.contains(key)) {
            out.doubles.push_back(
                {line, QStringLiteral("%1, born %2, is already there").arg(c.full_name(), c.birth_date)});
            continue;
        }
        if (!c.number.isEmpty()) numbers.insert(c.number);
        persons.insert(key);
        out.good.push_back(std::move(c));
    }
    return out;
}

std::optional<Message> import_clients(Store& store, const std::vector<Client>& clients, const Progress& progress)
{
    const QSqlDatabase& db = store.database();
    detail::Transaction transaction(db);
    if (!transaction.is_open()) return detail::say(transaction.error(), db);
    for (std::size_t i = 0; i < clients.size(); ++i) {
        if (progress && i % every == 0 && !progress(i)) return cancelled();
        Client c = clients[i];
        if (auto why = store.save_within(c)) return why;
    }
    if (!transaction.commit()) return detail::say(transaction.error(), db);
    return std::nullopt;
}

} // namespace fusain::records
