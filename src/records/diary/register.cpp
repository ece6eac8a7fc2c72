// SPDX-License-Identifier: GPL-3.0-or-later
// Instruments, staff and opening hours of the diary.
#include "core/base/limits.h"
#include "bench/files/profile_file.h"
#include "bench/files/tissue_table.h"
#include "records/diary/diary.h"
#include "records/file/detail.h"

#include <QDate>
#include <QJsonArray>
#include <QJsonObject>

#include <algorithm>

namespace fusain::records {

using detail::big, detail::run, detail::say, detail::text, detail::json_text, detail::list_of;

namespace {

const QStringList usual_hours = {"07:00-17:00", "07:00-17:00", "07:00-17:00", "07:00-17:00", "07:00-17:00", "", ""};

Instrument instrument_of(const QSqlQuery& q)
{
    Instrument i;
    i.id = q.value(0).toLongLong();
    if (const auto* kind = bench::instrument_kind(q.value(1).toString().toStdString())) i.kind = kind;
    i.name = q.value(2).toString();
    i.serial = q.value(3).toString();
    i.profile = q.value(4).toString();
    i.location = q.value(5).toString();
    i.calibration_due = q.value(6).toString();
    i.in_use = q.value(7).toBool();
    const QJsonObject s = QJsonDocument::fromJson(q.value(8).toByteArray()).object();
    i.reference = s["reference"].toDouble(i.kind->reference);
    i.duration_min = s["duration_min"].toInt(i.kind->duration_min);
    if (s.contains("rated_mass_kg")) i.rated_mass_kg = s["rated_mass_kg"].toDouble();
    i.baseline_from = s["baseline_from"].toString();
    i.reference_x = s["reference_x"].toDouble();
    i.way = s["way"].toString();
    i.layout = s["layout"].toString();
    i.check_by = s["check_by"].toString();
    return i;
}
const QString instrument_columns =
    QStringLiteral("id, kind, name, serial, profile, location, calibration_due, in_use, settings");

} // namespace

Messages check(const Instrument& i)
{
    Messages bad;
    if (i.name.trimmed().isEmpty())
        bad.push_back(
            {"missing_field", Level::error, "name", "The instrument needs a name, as it is called in the lab."});
    if (i.serial.trimmed().isEmpty())
        bad.push_back({"missing_field", Level::error, "serial", "The serial number is missing."});
    if (!i.calibration_due.isEmpty() && !QDate::fromString(i.calibration_due, Qt::ISODate).isValid())
        bad.push_back({"bad_date", Level::error, "calibration_due",
            "Calibration due is \"" + i.calibration_due.toStdString() + "\"; write year-month-day."});
    const bench::InstrumentKind& kind = *i.kind;
    if (*kind.reference_title &&
        !(i.reference > 0 && i.reference >= kind.reference / 5 && i.reference <= kind.reference * 5))
        bad.push_back({"out_of_range", Level::error, "reference",
            std::string("The ") + kind.reference_title + " is " + limits::plain(i.reference) + ' ' + kind.unit +
                "; allowed is " + limits::plain(kind.reference / 5) + " to " + limits::plain(kind.reference * 5) + ' ' +
                kind.unit + "."});
    if (const auto& asked = kind.profile;
        asked && !i.profile.trimmed().isEmpty() && !asked->known(i.profile.trimmed().toStdString()))
        bad.push_back({"unknown_choice", Level::error, "profile",
            std::string("There is no ") + asked->title + " \"" + i.profile.toStdString() +
                "\"; allowed is none, or one of " + asked->ids() + "."});
    if (!bench::check_fits(*i.kind, i.check_by.toStdString()))
        bad.push_back({"unknown_choice", Level::error, "check_by",
            std::string("The ") + kind.title + " is checked by \"" + i.check_by.toStdString() +
                "\"; that does not fit this kind of instrument."});
    if (!(i.reference_x >= 0 && i.reference_x <= i.reference))
        bad.push_back({"out_of_range", Level::error, "reference_x",
            "The reactance of the reference network is " + limits::plain(i.reference_x) +
                " Ω; allowed is 0 (a plain resistor) up to its resistance."});
    if (!(i.duration_min >= 1 && i.duration_min <= 240))
        bad.push_back({"out_of_range", Level::error, "duration_min",
            "The time on it is " + std::to_string(i.duration_min) + " min; allowed is 1 to 240."});
    if (i.rated_mass_kg && !(*i.rated_mass_kg >= 50 && *i.rated_mass_kg <= 400))
        bad.push_back({"out_of_range", Level::error, "rated_mass_kg",
            "The table's rated mass is " + limits::plain(*i.rated_mass_kg) + " kg; allowed is 50 to 400 kg."});
    return bad;
}

std::vector<Instrument> Diary::instruments() const
{
    QSqlQuery q =
        run(store_->database(), QStringLiteral("SELECT %1 FROM instrument ORDER BY id").arg(instrument_columns));
    std::vector<Instrument> out;
    while (q.next()) out.push_back(instrument_of(q));
    // lanes in the order of a visit: scales, then method by method
    std::stable_sort(out.begin(), out.end(),
        [](const Instrument& a, const Instrument& b) { return a.kind->method < b.kind->method; });
    return out;
}

std::optional<Instrument> Diary::instrument(long id) const
{
    QSqlQuery q = run(store_->database(),
        QStringLiteral("SELECT %1 FROM instrument WHERE id = ?").arg(instrument_columns), {big(id)});
    if (q.next()) return instrument_of(q);
    return std::nullopt;
}

Outcome<Instrument> Diary::save(Instrument i)
{
    if (const Messages bad = check(i); !bad.empty()) return Outcome<Instrument>::refuse(bad);
    QJsonObject settings{{"reference", i.reference}, {"duration_min", i.duration_min}};
    if (i.rated_mass_kg) settings["rated_mass_kg"] = *i.rated_mass_kg;
    if (i.reference_x > 0) settings["reference_x"] = i.reference_x;
    if (!i.baseline_from.isEmpty()) settings["baseline_from"] = i.baseline_from;
    for (const auto& [name, value] : {std::pair("way", &i.way), {"layout", &i.layout}, {"check_by", &i.check_by}})
        if (!value->isEmpty()) settings[name] = *value;
    QVariantList values{QString::fromLatin1(i.kind->id), i.name.trimmed(), i.serial.trimmed(), text(i.profile),
        text(i.location), text(i.calibration_due), i.in_use ? 1 : 0,
        QString::fromUtf8(QJsonDocument(settings).toJson(QJsonDocument::Compact))};
    if (i.id) values << big(i.id);
    QSqlQuery q = run(store_->database(),
        i.id ? QStringLiteral("UPDATE instrument SET kind = ?, name = ?, serial = ?, profile = ?, location = ?, "
                              "calibration_due = ?, in_use = ?, settings = ? WHERE id = ?")
             : QStringLiteral("INSERT INTO instrument (kind, name, serial, profile, location, calibration_due, in_use, "
                              "settings) VALUES (?, ?, ?, ?, ?, ?, ?, ?)"),
        values);
    if (q.lastError().isValid()) {
        if (q.lastError().text().contains("instrument.serial"))
            return Outcome<Instrument>::refuse({"serial_taken", Level::error, "serial",
                "Serial number \"" + i.serial.toStdString() + "\" belongs to another instrument."});
        return Outcome<Instrument>::refuse(say(q.lastError(), store_->database()));
    }
    if (!i.id) i.id = q.lastInsertId().toLongLong();
    return i;
}

std::vector<StaffMember> Diary::staff() const
{
    QSqlQuery q =
        run(store_->database(), QStringLiteral("SELECT id, name, licences, hours, active FROM staff ORDER BY name"));
    std::vector<StaffMember> out;
    while (q.next())
        out.push_back({static_cast<long>(q.value(0).toLongLong()), q.value(1).toString(),
            list_of(q.value(2).toString()).contains("absorptiometry"), list_of(q.value(3).toString()),
            q.value(4).toBool()});
    return out;
}

Outcome<StaffMember> Diary::save(StaffMember p)
{
    if (p.name.trimmed().isEmpty())
        return Outcome<StaffMember>::refuse({"missing_field", Level::error, "name", "The name is missing."});
    if (const auto spans = opening(p.week, QDate(2026, 1, 5), QDate(2026, 1, 5), zone()); !spans)
        return Outcome<StaffMember>::refuse(spans.messages());
    QVariantList values{p.name.trimmed(), json_text(p.xray_licence ? QStringList{"absorptiometry"} : QStringList{}),
        json_text(p.week), p.active ? 1 : 0};
    if (p.id) values << big(p.id);
    QSqlQuery q = run(store_->database(),
        p.id ? QStringLiteral("UPDATE staff SET name = ?, licences = ?, hours = ?, active = ? WHERE id = ?")
             : QStringLiteral("INSERT INTO staff (name, licences, hours, active) VALUES (?, ?, ?, ?)"),
        values);
    if (q.lastError().isValid()) {
        if (q.lastError().text().contains("staff.name"))
            return Outcome<StaffMember>::refuse(
                {"name_taken", Level::error, "name", "\"" + p.name.toStdString() + "\" is on the list already."});
        return Outcome<StaffMember>::refuse(say(q.lastError(), store_->database()));
    }
    if (!p.id) p.id = q.lastInsertId().toLongLong();
    return p;
}

QStringList Diary::hours() const
{
    const QString stored = store_->setting(QStringLiteral("hours"));
    return stored.isEmpty() ? usual_hours : list_of(stored);
}

std::optional<Message> Diary::set_hours(const QStringList& week)
{
    if (const auto spans = opening(week, QDate(2026, 1, 5), QDate(2026, 1, 11), zone()); !spans)
        return spans.messages().front();
    return store_->set_setting(QStringLiteral("hours"), json_text(week));
}

} // namespace fusain::records
