// SPDX-License-Identifier: GPL-3.0-or-later
#include "records/people/results_import.h"

#include "bench/brought/brought_events.h"
#include "core/base/limits.h"
#include "core/body/told.h"
#include "records/file/detail.h"
#include "records/visits/log.h"

#include <QCryptographicHash>
#include <QJsonArray>
#include <QJsonObject>
#include <QRegularExpression>
#include <QSet>

#include <algorithm>
#include <cmath>

namespace fusain::records::results {
namespace {

const QString layouts_key = QStringLiteral("result_layouts");
constexpr int most_layouts = 50;
constexpr double least_usual_bmi = 15, most_usual_bmi = 42; ///< in the middle of a table
constexpr std::size_t every = 200;                          ///< rows between two reports of progress

struct Unit {
    const char* word;
    double factor;
};

/// How a quantity may be written; its own unit first.
std::vector<Unit> units_of(const Quantity& q)
{
    switch (q.kind) {
    case UnitKind::mass: return {{"kg", 1}, {"g", 0.001}, {"lb", 0.45359237}};
    case UnitKind::volume: return {{"L", 1}, {"mL", 0.001}};
    case UnitKind::density: return {{"kg/L", 1}, {"g/cm³", 1}, {"kg/m³", 0.001}};
    case UnitKind::percent: return {{"%", 1}, {"of one", 100}};
    case UnitKind::length: return {{"cm", 1}, {"mm", 0.1}, {"in", 2.54}};
    case UnitKind::impedance: return {{"Ω", 1}, {"kΩ", 1000}};
    default: return {{q.unit, 1}};
    }
}
std::vector<Unit> units_of(const QString& id)
{
    if (id == "mass_kg") return {{"kg", 1}, {"g", 0.001}, {"lb", 0.45359237}};
    if (id == "height_cm") return {{"cm", 1}, {"m", 100}, {"mm", 0.1}, {"in", 2.54}};
    if (id == "u_fat_percent") return {{"%", 1}, {"of one", 100}};
    const Quantity* q = find_quantity(id.toStdString());
    return q ? units_of(*q) : std::vector<Unit>{};
}

/// A quantity that a result can tell; not one of plans, energy or repeats.
bool can_be_told(const Quantity& q)
{
    static constexpr std::string_view others[] = {"balance_", "segments.scale", "resting", "daily", "quiet_day",
        "deficit", "surplus", "protein", "target_", "fat_change", "intake", "pace", "static_", "earliest", "arrive.",
        "nearest.", "rms_", "lsc", "degrees_", "skinfold", "waist_"};
    return std::none_of(std::begin(others), std::end(others),
        [&](std::string_view o) { return std::string_view(q.id).starts_with(o); });
}

QString plain(const QString& s)
{
    return folded(s)
        .replace('%', QStringLiteral(" percent "))
        .replace(QRegularExpression(QStringLiteral("[^a-z0-9]+")), QStringLiteral(" "))
        .trimmed();
}

std::optional<Method> method_in(const QString& cell)
{
    const std::string word = plain(cell).toStdString();
    for (const Method m : all_methods())
        if (word == plain(QString::fromLatin1(m->term)).toStdString() ||
            std::find(m->other.begin(), m->other.end(), word) != m->other.end())
            return m;
    return method_of(cell.trimmed().toStdString());
}

QTime time_in(const QString& text)
{
    for (const char* format : {"HH:mm", "H:mm", "HH:mm:ss", "H:mm:ss", "HH.mm"})
        if (const QTime t = QTime::fromString(text, QString::fromLatin1(format)); t.isValid()) return t;
    return {};
}

QString layout_of(const QStringList& header)
{
    return QString::fromLatin1(
        QCryptographicHash::hash(header.join('\x1F').toUtf8(), QCryptographicHash::Sha256).toHex().left(24));
}

/// Whom the lab knows, by number and by name and date of birth.
struct Known {
    explicit Known(const Store& store) : store_(store)
    {
        QSqlQuery q = detail::run(store.database(),
            QStringLiteral("SELECT id, number, other_numbers, given_name, family_name, birth_date FROM client"));
        while (q.next()) {
            const long id = q.value(0).toLongLong();
            for (const QString& number :
                (q.value(1).toString() + ' ' + q.value(2).toString()).split(' ', Qt::SkipEmptyParts))
                by_number_[number] = id;
            by_name_[key(q.value(3).toString(), q.value(4).toString(), q.value(5).toString())].push_back(id);
        }
        q = detail::run(store.database(), QStringLiteral("SELECT client_id, method, started_at FROM visit"));
        while (q.next()) tests_.insert(test(q.value(0).toLongLong(), q.value(1).toString(), q.value(2).toString()));
    }
    static QString key(const QString& given, const QString& family, const QString& born)
    {
        return folded(given) + '|' + folded(family) + '|' + born;
    }
    static QString test(long client, const QString& method, const QString& at)
    {
        return QStringLiteral("%1|%2|%3").arg(client).arg(method, at.left(16));
    }
    /// Whose row it is; empty with the reason in `wrong`.
    std::optional<Client> find(const QString& number, const QString& given, const QString& family, const QString& born,
        QStringList& wrong) const
    {
        long id = 0;
        if (!number.isEmpty()) {
            const auto at = by_number_.find(number);
            if (at == by_number_.end()) {
                wrong << QStringLiteral("Nobody here has the number %1; import the client list first.").arg(number);
                return std::nullopt;
            }
            id = at->second;
        } else {
            const auto at = by_name_.find(key(given, family, born));
            if (at == by_name_.end() || at->second.size() != 1) {
                wrong << (at == by_name_.end()
                              ? QStringLiteral("Nobody here is called %1 %2, born %3; import the client list first.")
                              : QStringLiteral(
                                    "Several people here are called %1 %2, born %3; a number tells them apart."))
                             .arg(given, family, born);
                return std::nullopt;
            }
            id = at->second.front();
        }
        const auto client = store_.client(id);
        // a number that was mistyped must not give a body to somebody else
        if (client && !family.isEmpty() && folded(family) != folded(client->family_name)) {
            wrong
                << QStringLiteral("Number %1 is %2 here; the table says %3.").arg(number, client->full_name(), family);
            return std::nullopt;
        }
        if (client && !born.isEmpty() && born != client->birth_date) {
            wrong << QStringLiteral("%1 is born %2 here; the table says %3.")
                         .arg(client->full_name(), client->birth_date, born);
            return std::nullopt;
        }
        return client;
    }
    bool has(const QString& test) const { return tests_.contains(test); }
    void add(const QString& test) { tests_.insert(test); }

private:
    const Store& store_;
    std::map<QString, long> by_number_;
    std::map<QString, std::vector<long>> by_name_;
    QSet<QString> tests_;
};

} // namespace

const std::vector<Field>& fields()
{
    static const std::vector<Field> all = [] {
        std::vector<Field> out = {
            {"number", "client's number", {}, {"number", "no", "client number", "client", "id", "numero", "nummer"}},
            {"given_name", "given name", {}, {"given name", "first name", "given", "prenom", "vorname"}},
            {"family_name", "family name", {}, {"family name", "last name", "surname", "nom", "nachname", "name"}},
            {"birth_date", "date of birth", {},
                {"date of birth", "birth date", "born", "dob", "date de naissance", "geburtsdatum"}},
            {"date", "day of the test", {}, {"date", "day", "test date", "measured on", "datum", "jour"}},
            {"time", "hour of the test", {}, {"time", "hour", "heure", "uhrzeit"}},
            {"method", "method", {}, {"method", "methode", "test"}},
            {"instrument", "instrument", {}, {"instrument", "device", "serial", "serial number"}},
            {"equations", "equations used", {}, {"equation", "equations", "formula"}},
            {"mass_kg", "body mass", {}, {"mass", "mass kg", "body mass", "weight", "weight kg", "poids", "gewicht"}},
            {"height_cm", "height", {}, {"height", "height cm", "taille", "grosse"}},
            {"u_fat_percent", "error of percent fat", {}, {"error", "u fat percent", "standard error"}},
        };
        static const std::map<QString, std::vector<const char*>> also = {
            {"fat_percent", {"fat percent", "percent fat", "percent body fat", "body fat", "body fat percent",
                                "masse grasse percent", "fett percent"}},
            {"fat_mass_kg", {"fat mass", "fat kg", "masse grasse", "fettmasse"}},
            {"fat_free_mass_kg", {"fat free mass", "ffm", "ffm kg", "masse maigre"}},
            {"total_body_water_l", {"total body water", "tbw", "tbw l", "water"}},
            {"bone_mineral_content_kg", {"bone mineral content", "bmc", "bmc kg"}},
        };
        for (const Quantity* q : quantities()) {
            if (!can_be_told(*q)) continue;
            Field f{QString::fromLatin1(q->id), QString::fromUtf8(q->title).toLower(), {}, {}, true};
            if (const auto at = also.find(f.id); at != also.end()) f.known_as = at->second;
            out.push_back(f);
        }
        for (Field& f : out)
            for (const Unit& u : units_of(f.id)) f.units << QString::fromUtf8(u.word);
        return out;
    }();
    return all;
}

const Field* field(const QString& id)
{
    const auto at = std::find_if(fields().begin(), fields().end(), [&](const Field& f) { return f.id == id; });
    return at == fields().end() ? nullptr : &*at;
}

Mapping guess(const QStringList& header)
{
    Mapping out;
    QSet<QString> taken;
    for (const QString& heading : header) {
        const QString bare = plain(heading);
        Column column;
        for (const Field& f : fields()) {
            if (taken.contains(f.id)) continue;
            const bool known = bare == plain(f.id) || bare == plain(f.title) ||
                               std::any_of(f.known_as.begin(), f.known_as.end(),
                                   [&](const char* k) { return bare == QString::fromLatin1(k); });
            // a heading may end with its unit
            QString unit = f.units.value(0);
            bool with_unit = false;
            for (const QString& u : f.units) {
                const QString tail = ' ' + plain(u);
                if (!plain(u).isEmpty() && bare.endsWith(tail)) {
                    const QString rest = bare.chopped(tail.size());
                    if (rest == plain(f.title) || std::any_of(f.known_as.begin(), f.known_as.end(),
                                                      [&](const char* k) { return rest == QString::fromLatin1(k); })) {
                        with_unit = true;
                        unit = u;
                    }
                }
            }
            if (!known && !with_unit) continue;
            column = {f.id, unit};
            taken.insert(f.id);
            break;
        }
        out.columns.push_back(column);
    }
    return out;
}

std::optional<Mapping> remembered(const Store& store, const QStringList& header)
{
    const QJsonArray all = QJsonDocument::fromJson(store.setting(layouts_key).toUtf8()).array();
    for (const QJsonValue& each : all) {
        const QJsonObject o = each.toObject();
        const QJsonArray columns = o["columns"].toArray();
        if (o["layout"].toString() != layout_of(header) || columns.size() != header.size()) continue;
        Mapping out;
        out.method = o["method"].toString();
        out.u_fat_percent = o["u_fat_percent"].toDouble();
        for (const QJsonValue& c : columns) {
            const Field* f = field(c.toObject()["what"].toString());
            const QString unit = c.toObject()["unit"].toString();
            out.columns.push_back(f ? Column{f->id, f->units.contains(unit) ? unit : f->units.value(0)} : Column{});
        }
        return out;
    }
    return std::nullopt;
}

std::optional<Message> remember(Store& store, const QStringList& header, const Mapping& mapping)
{
    QJsonArray columns, all{};
    for (const Column& c : mapping.columns) columns.append(QJsonObject{{"what", c.what}, {"unit", c.unit}});
    all.append(QJsonObject{{"layout", layout_of(header)}, {"columns", columns}, {"method", mapping.method},
        {"u_fat_percent", mapping.u_fat_percent}});
    const QJsonArray before = QJsonDocument::fromJson(store.setting(layouts_key).toUtf8()).array();
    for (const QJsonValue& each : before)
        if (each.toObject()["layout"].toString() != layout_of(header) && all.size() < most_layouts) all.append(each);
    return store.set_setting(layouts_key, QString::fromUtf8(QJsonDocument(all).toJson(QJsonDocument::Compact)));
}

Outcome<Check> check(
    const Store& store, const Table& table, const Mapping& mapping, const Source& source, const Progress& progress)
{
    using Result = Outcome<Check>;
    std::map<QString, int> where;
    for (std::size_t i = 0; i < mapping.columns.size(); ++i)
        if (!mapping.columns[i].what.isEmpty() && !where.emplace(mapping.columns[i].what, static_cast<int>(i)).second)
            return Result::refuse({"ambiguous", Level::error, mapping.columns[i].what.toStdString(),
                "Two columns are taken as " + field(mapping.columns[i].what)->title.toStdString() + "; one can be."});
    const auto missing = [&](const char* id, const QString& words) {
        return Result::refuse({"missing_field", Level::error, id, words.toStdString()});
    };
    if (!where.count("number") &&
        !(where.count("given_name") && where.count("family_name") && where.count("birth_date")))
        return missing("number", QStringLiteral("Say which column holds the client's number; or those with given name, "
                                                "family name and date of birth."));
    if (!where.count("date")) return missing("date", QStringLiteral("Say which column holds the day of the test."));
    if (!where.count("method") && !method_of(mapping.method.toStdString()))
        return missing("method", QStringLiteral("Say by which method these tests were made."));
    if (!where.count("mass_kg"))
        return missing("mass_kg", QStringLiteral("Say which column holds the mass of that day."));
    if (!where.count("fat_percent") && !where.count("fat_mass_kg") && !where.count("fat_free_mass_kg"))
        return missing("fat_percent",
            QStringLiteral("Say which column holds percent fat, fat mass or fat-free mass: one of them is needed."));

    Check out;
    std::vector<double> bmi;
    Known known(store);
    for (std::size_t i = 0; i < table.rows.size(); ++i) {
        if (progress && i % every == 0 && !progress(i))
            return Result::refuse({"cancelled", Level::caution, "file", "Stopped. Nothing was taken over."});
        const QStringList& row = table.rows[i];
        const long line = table.lines[i];
        if (row.size() != table.header.size()) {
            out.bad.push_back(
                {line, QStringLiteral("%1 cells where the heading has %2").arg(row.size()).arg(table.header.size())});
            continue;
        }
        QStringList wrong;
        const auto cell = [&](const char* id) {
            const auto at = where.find(QString::fromLatin1(id));
            return at == where.end() ? QString() : row[at->second].trimmed();
        };
        const auto number = [&](const QString& id) -> std::optional<double> {
            const auto at = where.find(id);
            if (at == where.end() || row[at->second].trimmed().isEmpty()) return std::nullopt;
            const Column& column = mapping.columns[static_cast<std::size_t>(at->second)];
            QString text = row[at->second].trimmed();
            if (table.separator != ',') text.replace(',', '.');
            bool is_number = false;
            const double value = text.toDouble(&is_number);
            if (!is_number || !std::isfinite(value)) {
                wrong << QStringLiteral("Column \"%1\": \"%2\" is not a number.")
                             .arg(table.header[at->second], row[at->second]);
                return std::nullopt;
            }
            for (const Unit& u : units_of(id))
                if (column.unit == QString::fromUtf8(u.word)) return value * u.factor;
            return value;
        };
        const QString born_cell = cell("birth_date");
        const QDate born = read_date(born_cell);
        if (!born_cell.isEmpty() && !born.isValid())
            wrong << QStringLiteral("Date of birth \"%1\" is not a date.").arg(born_cell);
        const auto client = wrong.isEmpty() ? known.find(cell("number"), cell("given_name"), cell("family_name"),
                                                  born.isValid() ? born.toString(Qt::ISODate) : QString(), wrong)
                                            : std::nullopt;
        const QDate day = read_date(cell("date"));
        if (!day.isValid())
            wrong
                << QStringLiteral("Day \"%1\" is not a date; write it as 2026-03-27 or 27.03.2026.").arg(cell("date"));
        else if (day > source.now.toTimeZone(source.zone).date())
            wrong << QStringLiteral("Day %1 is still to come.").arg(cell("date"));
        else if (client && day.toString(Qt::ISODate) <= client->birth_date)
            wrong << QStringLiteral("Day %1 is before %2 was born.").arg(cell("date"), client->full_name());
        const QString hour = cell("time");
        const QTime time = hour.isEmpty() ? QTime(12, 0) : time_in(hour);
        if (!time.isValid()) wrong << QStringLiteral("Hour \"%1\" is not a time; write it as 08:30.").arg(hour);
        const auto method = where.count("method") ? method_in(cell("method")) : method_of(mapping.method.toStdString());
        if (!method)
            wrong << QStringLiteral("Method \"%1\" is not known; allowed is %2.")
                         .arg(cell("method"), QString::fromStdString(method_words()));
        const auto mass = number(QStringLiteral("mass_kg"));
        if (!mass && cell("mass_kg").isEmpty()) wrong << QStringLiteral("The mass is missing.");
        const auto height = number(QStringLiteral("height_cm"));
        const auto error = number(QStringLiteral("u_fat_percent"));
        std::map<std::string, double> values;
        for (const auto& [id, column] : where)
            if (field(id)->is_quantity)
                if (const auto value = number(id)) values[id.toStdString()] = *value;
        if (!wrong.isEmpty() || !client || !method || !mass) {
            out.bad.push_back({line, wrong.join(' ')});
            continue;
        }
        const QDateTime at = QDateTime(day, time, source.zone);
        const std::string utc = at.toUTC().toString(Qt::ISODateWithMs).toStdString(), who = source.who.toStdString(),
                          name = (*method)->word;
        const QString test = Known::test(client->id, QString::fromStdString(name), QString::fromStdString(utc));
        if (known.has(test)) {
            out.doubles.push_back({line, QStringLiteral("%1 has a test by %2 on %3 at %4 already")
                                             .arg(client->full_name(), QString::fromLatin1((*method)->title),
                                                 day.toString(Qt::ISODate), time.toString(QStringLiteral("HH:mm")))});
            continue;
        }
        const double usual = mapping.u_fat_percent > 0 ? mapping.u_fat_percent : (*method)->elsewhere_error;
        long seq = 0;
        using namespace bench::event;
        const auto event = [&](const bench::Act& act) { return bench::logged({++seq, utc, who}, act); };
        Started begun = beginning_of(*client, *method);
        begun.log = 3;
        begun.told_elsewhere = true;
        begun.height_cm = height.value_or(client->height_cm);
        begun.instrument = cell("instrument").toStdString();
        begun.zone = source.zone.id().toStdString();
        begun.local = at.toString(QStringLiteral("yyyy-MM-ddTHH:mm")).toStdString();
        const Brought brought{{source.file.toStdString(), source.sha256.toStdString()}, values, error.value_or(usual),
            error.has_value(), line, cell("equations").toStdString(), !hour.isEmpty()};
        std::vector<bench::Event> events = {
            event(begun), event(Mass{*mass, "file"}), event(brought), event(Finished{})};
        if (const auto visit = log::replay(events); !visit) {
            out.bad.push_back({line, QString::fromStdString(visit.messages().front().text)});
            continue;
        }
        known.add(test);
        const double m = height.value_or(client->height_cm) / 100;
        bmi.push_back(*mass / (m * m));
        out.good.push_back({client->id, std::move(events)});
    }
    if (!bmi.empty()) {
        std::nth_element(bmi.begin(), bmi.begin() + static_cast<long>(bmi.size() / 2), bmi.end());
        const double middle = bmi[bmi.size() / 2];
        if (!(middle >= least_usual_bmi && middle <= most_usual_bmi))
            out.doubt =
                QStringLiteral("The people of this table would have a BMI of %1 in the middle: is the mass, or the "
                               "height, in another unit?")
                    .arg(middle, 0, 'f', 0);
    }
    return out;
}

} // namespace fusain::records::results
