// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/sheets/appointment.h"

#include "report/page/mail.h"

#include "version.h"

#include <QDir>
#include <QFile>
#include <QLocale>
#include <QSaveFile>

#include <libical/ical.h>

#include <memory>

namespace fusain::report {
namespace {

using Kind = Block::Kind;

QString day_words(const QDate& d)
{
    return QLocale(QLocale::English, QLocale::UnitedKingdom).toString(d, QStringLiteral("dddd, d MMMM yyyy"));
}
QString clock(const QDateTime& t) { return t.toString(QStringLiteral("HH:mm")); }

QString methods_words(const Appointment& a)
{
    QStringList names;
    for (const auto& p : a.parts) names << p.method;
    return names.size() < 2
               ? names.join(QString())
               : names.mid(0, names.size() - 1).join(QStringLiteral(", ")) + QStringLiteral(" and ") + names.back();
}

icaltimetype floating(const QDateTime& at)
{
    icaltimetype out = icaltime_null_time();
    out.year = at.date().year();
    out.month = at.date().month();
    out.day = at.date().day();
    out.hour = at.time().hour();
    out.minute = at.time().minute();
    out.second = at.time().second();
    return out;
}

icaltimetype in_utc(const QDateTime& at)
{
    icaltimetype out = floating(at.toUTC());
    return icaltime_set_timezone(&out, icaltimezone_get_utc_timezone());
}

/// The lab's zone with the changes of the clock around the visit: exact, and short.
icalcomponent* zone_component(const QTimeZone& zone, const QDateTime& around)
{
    icalcomponent* out = icalcomponent_new_vtimezone();
    icalcomponent_add_property(out, icalproperty_new_tzid(zone.id().constData()));
    auto changes =
        zone.hasTransitions() ? zone.transitions(around.addYears(-1), around.addYears(1)) : QTimeZone::OffsetDataList{};
    if (changes.isEmpty()) {
        QTimeZone::OffsetData fixed = zone.offsetData(around);
        fixed.atUtc = around.addYears(-1).toUTC();
        changes << fixed;
    }
    int before = zone.offsetFromUtc(changes.front().atUtc.addSecs(-1));
    for (const auto& change : changes) {
        icalcomponent* one = change.daylightTimeOffset ? icalcomponent_new_xdaylight() : icalcomponent_new_xstandard();
        // DTSTART is in the wall time that held until the change
        icalcomponent_add_property(one, icalproperty_new_dtstart(floating(change.atUtc.addSecs(before))));
        icalcomponent_add_property(one, icalproperty_new_tzoffsetfrom(before));
        icalcomponent_add_property(one, icalproperty_new_tzoffsetto(change.offsetFromUtc));
        icalcomponent_add_property(one, icalproperty_new_tzname(change.abbreviation.toUtf8().constData()));
        icalcomponent_add_component(out, one);
        before = change.offsetFromUtc;
    }
    return out;
}

void remind(icalcomponent* event, const icaltimetype& at, const QString& words)
{
    icalcomponent* alarm = icalcomponent_new_valarm();
    icalcomponent_add_property(alarm, icalproperty_new_action(ICAL_ACTION_DISPLAY));
    icalcomponent_add_property(alarm, icalproperty_new_description(words.toUtf8().constData()));
    icaltriggertype trigger{at, icaldurationtype_null_duration()};
    icalproperty* p = icalproperty_new_trigger(trigger);
    icalproperty_set_parameter(p, icalparameter_new_value(ICAL_VALUE_DATETIME));
    icalcomponent_add_property(alarm, p);
    icalcomponent_add_component(event, alarm);
}

bool write_file(const QString& path, const QByteArray& bytes)
{
    QSaveFile f(path);
    return f.open(QIODevice::WriteOnly) && f.write(bytes) == bytes.size() && f.commit();
}

} // namespace

Document preparation_sheet(const Appointment& a)
{
    Document d;
    d.text_scale = 1.2;
    d.title = QStringLiteral("Before your visit on %1").arg(day_words(a.parts.front().from.date()));
    d.header = QStringLiteral("%1   ·   for %2 (%3)").arg(a.lab_name, a.client_name, a.client_number);
    d.footer = QStringLiteral("Fusain %1 · rules: %2").arg(QStringLiteral(FUSAIN_VERSION), a.protocols);
    d.add(Kind::title, QStringLiteral("Come on %1 at %2")
                           .arg(QLocale(QLocale::English, QLocale::UnitedKingdom)
                                    .toString(a.parts.front().from.date(), QStringLiteral("dddd d MMMM")),
                               clock(a.arrive())));
    d.add(Kind::lead, QStringLiteral("%1, we measure you by %2. What you do before decides how good the numbers are.")
                          .arg(a.client_name.section(' ', 0, 0), methods_words(a)));
    std::vector<QStringList> rows = {{QStringLiteral("when"), QStringLiteral("what"), QStringLiteral("where")}};
    for (const auto& p : a.parts)
        rows.push_back({QStringLiteral("%1–%2").arg(clock(p.from), clock(p.to)), p.method, p.place});
    d.table({1.4, 3, 4}, rows);
    d.gap(4);
    const auto part = [&](const char* heading, auto belongs) {
        bool any = false;
        for (const auto& t : a.tasks) {
            if (!belongs(t)) continue;
            if (!any) d.add(Kind::heading, QString::fromLatin1(heading));
            any = true;
            d.add(Kind::sentence,
                QStringLiteral("·  ") + t.words +
                    (t.when.isEmpty() || t.methods.isEmpty() ? QString()
                                                             : QStringLiteral("  (for %1)").arg(t.methods)));
        }
    };
    using Task = Appointment::Task;
    part("By the clock", [](const Task& t) { return !t.when.isEmpty(); });
    part("On the day", [](const Task& t) { return t.when.isEmpty() && t.part.isEmpty(); });
    part("Wear and bring", [](const Task& t) { return t.when.isEmpty() && t.part == "wear"; });
    part("Tell us before you come", [](const Task& t) { return t.when.isEmpty() && t.part == "tell"; });
    d.gap(4);
    d.add(Kind::sentence, QStringLiteral("If one of these did not work out, come all the same and tell us: we write it "
                                         "down, and say what it does to the result."));
    d.gap(6);
    d.add(Kind::small,
        QStringLiteral("Do not stop or change a medicine for this. Ask a physician if you are unsure whether a test is "
                       "right for you. Local rules and licensed practice decide what this lab may do."));
    return d;
}

QByteArray calendar_entry(const Appointment& a)
{
    const QTimeZone zone = a.parts.front().from.timeZone();
    const std::unique_ptr<icalcomponent, decltype(&icalcomponent_free)> calendar(
        icalcomponent_new_vcalendar(), icalcomponent_free);
    icalcomponent_add_property(calendar.get(), icalproperty_new_version("2.0"));
    icalcomponent_add_property(calendar.get(), icalproperty_new_prodid("-//Fusain//" FUSAIN_VERSION "//EN"));
    icalcomponent_add_property(calendar.get(), icalproperty_new_method(ICAL_METHOD_PUBLISH));
    icalcomponent_add_component(calendar.get(), zone_component(zone, a.parts.front().from));
    icalcomponent* event = icalcomponent_new_vevent();
    icalcomponent_add_component(calendar.get(), event);
    icalcomponent_add_property(event, icalproperty_new_uid(a.uid.toUtf8().constData()));
    icalcomponent_add_property(event, icalproperty_new_sequence(a.revision));
    icalcomponent_add_property(event, icalproperty_new_dtstamp(in_utc(QDateTime::currentDateTimeUtc())));
    const auto time = [&](icalproperty* p) {
        icalproperty_set_parameter(p, icalparameter_new_tzid(zone.id().constData()));
        icalcomponent_add_property(event, p);
    };
    time(icalproperty_new_dtstart(floating(a.arrive())));
    time(icalproperty_new_dtend(floating(a.parts.back().to)));
    icalcomponent_add_property(event,
        icalproperty_new_summary(QStringLiteral("Body composition: %1").arg(methods_words(a)).toUtf8().constData()));
    icalcomponent_add_property(event, icalproperty_new_location(a.lab_name.toUtf8().constData()));
    QString words;
    for (const auto& t : a.tasks) words += QStringLiteral("- ") + t.words + '\n';
    icalcomponent_add_property(event, icalproperty_new_description(words.toUtf8().constData()));
    remind(event, in_utc(a.arrive().addDays(-1)),
        QStringLiteral("Tomorrow %1: body composition. Look at the sheet.").arg(clock(a.arrive())));
    for (const auto& t : a.tasks)
        if (t.at) remind(event, in_utc(*t.at), t.words);
    char* text = icalcomponent_as_ical_string_r(calendar.get());
    const QByteArray out(text);
    icalmemory_free_buffer(text);
    return out;
}

QByteArray message(const Appointment& a, const QByteArray& pdf, const QByteArray& ics)
{
    QString text = QStringLiteral(
        "Dear %1,\r\n\r\nplease come on %2 at %3. The attached page says what to do before, by the clock:\r\n\r\n")
                       .arg(a.client_name, day_words(a.parts.front().from.date()), clock(a.arrive()));
    for (const auto& t : a.tasks) text += QStringLiteral("- %1\r\n").arg(t.words);
    text += QStringLiteral("\r\nIf you cannot come, tell us and we find another time.\r\n\r\n%1\r\n%2\r\n")
                .arg(a.made_by, a.lab_name);
    return to_bytes({a.lab_name, a.lab_email, a.client_name, a.client_email,
        QStringLiteral("Your visit on %1, %2").arg(day_words(a.parts.front().from.date()), clock(a.arrive())),
        QStringLiteral("%1.%2").arg(a.uid).arg(a.revision), text,
        {{"application/pdf", "before-your-visit.pdf", pdf},
            {"text/calendar", "visit.ics", ics, "; charset=utf-8; method=PUBLISH"}}});
}

Outcome<QString> put_into_outbox(const Appointment& a, const QString& folder)
{
    const auto unreachable = [&](const QString& what) {
        return Outcome<QString>::refuse({"file_unreachable", Level::error, "outbox",
            "The outbox " + folder.toStdString() + " cannot be written to (" + what.toStdString() +
                "). Is the disk full?"});
    };
    if (!QDir().mkpath(folder)) return unreachable(QStringLiteral("no folder"));
    const QString base = QDir(folder).filePath(
        QStringLiteral("booking%1-%2")
            .arg(QString::number(a.booking_id), a.parts.front().from.toString(QStringLiteral("yyyyMMdd-HHmm"))));
    Document sheet = preparation_sheet(a);
    sheet.fits = true; // one page, whatever is booked
    const Outcome<int> pages = write_pdf(sheet, base + QStringLiteral(".pdf"));
    if (!pages) return Outcome<QString>::refuse(pages.messages());
    QFile pdf(base + QStringLiteral(".pdf"));
    if (!pdf.open(QIODevice::ReadOnly)) return unreachable(pdf.errorString());
    const QByteArray ics = calendar_entry(a);
    if (!write_file(base + QStringLiteral(".ics"), ics)) return unreachable(QStringLiteral("calendar entry"));
    Messages cautions;
    if (a.client_email.isEmpty())
        cautions.push_back({"no_email", Level::caution, "email",
            "No e-mail address in the record: print the sheet and hand it over."});
    else if (!write_file(base + QStringLiteral(".eml"), message(a, pdf.readAll(), ics)))
        return unreachable(QStringLiteral("e-mail"));
    return Outcome<QString>(base + QStringLiteral(".pdf"), cautions);
}

} // namespace fusain::report
