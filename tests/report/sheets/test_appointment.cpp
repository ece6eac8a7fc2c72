// SPDX-License-Identifier: GPL-3.0-or-later
// What a client gets before the visit: clock times across midnight and summer time, the calendar entry, the e-mail.
#include "report/sheets/appointment.h"

#include <gtest/gtest.h>

#include <QDir>
#include <QFile>
#include <QRegularExpression>
#include <QTemporaryDir>

#include <libical/ical.h>

using namespace fusain;
using namespace fusain::report;

namespace {

const QTimeZone paris("Europe/Paris");

Appointment visit(const QDate& day, const QTime& at, int tasks = 6)
{
    Appointment a;
    a.uid = "fusain-7-20261123";
    a.revision = 3;
    a.lab_name = "Physiology room";
    a.lab_email = "lab@fusain.invalid";
    a.client_name = "Aliénor Quéméner";
    a.client_number = "101";
    a.client_email = "a@pointe-grise.example";
    a.made_by = "M. Tanguy";
    a.protocols = "impedance version 1";
    const QDateTime from(day, at, paris);
    a.parts = {{"impedance", "Analyser", from, from.addSecs(300)},
        {"underwater weighing", "Tank 1", from.addSecs(1800), from.addSecs(4200)}};
    for (int i = 0; i < tasks; ++i) {
        Appointment::Task t;
        t.words = i == 0 ? "Last meal before 05:00."
                         : "Bring swimwear, a towel, and whatever else this long sentence asks for so that it fills "
                           "more than one line of the page.";
        if (i == 0) {
            t.at = from.addSecs(-3 * 3600);
            t.when = t.at->toString("HH:mm");
        }
        a.tasks.push_back(t);
    }
    return a;
}

} // namespace

TEST(Appointment, TheCalendarEntryMeansTheSameMomentInEveryCalendar)
{
    struct Row {
        const char* name;
        QDate day;
        QTime at;
    };
    for (const Row& row :
        {Row{"winter", QDate(2026, 11, 23), QTime(8, 0)}, Row{"summer", QDate(2026, 7, 1), QTime(8, 0)},
            Row{"the day summer time begins", QDate(2026, 3, 29), QTime(8, 0)},
            Row{"the day it ends", QDate(2026, 10, 25), QTime(8, 0)},
            Row{"just after midnight", QDate(2026, 10, 25), QTime(0, 15)}}) {
        const Appointment a = visit(row.day, row.at);
        const QByteArray text = calendar_entry(a);
        icalcomponent* calendar = icalparser_parse_string(text.constData());
        ASSERT_TRUE(calendar) << row.name;
        EXPECT_EQ(icalcomponent_count_errors(calendar), 0) << row.name;
        icalcomponent* event = icalcomponent_get_first_component(calendar, ICAL_VEVENT_COMPONENT);
        ASSERT_TRUE(event);
        // the zone that is inside the entry decides, not one the reader happens to know
        icaltimezone* zone = icalcomponent_get_timezone(calendar, "Europe/Paris");
        ASSERT_TRUE(zone) << row.name;
        const icaltimetype start = icalcomponent_get_dtstart(event);
        EXPECT_EQ(static_cast<qint64>(icaltime_as_timet_with_zone(start, zone)), a.arrive().toSecsSinceEpoch())
            << row.name;
        EXPECT_EQ(icalproperty_get_sequence(icalcomponent_get_first_property(event, ICAL_SEQUENCE_PROPERTY)), 3);
        int alarms = 0;
        bool meal = false;
        for (icalcomponent* x = icalcomponent_get_first_component(event, ICAL_VALARM_COMPONENT); x;
             x = icalcomponent_get_next_component(event, ICAL_VALARM_COMPONENT)) {
            ++alarms;
            const icaltriggertype t =
                icalproperty_get_trigger(icalcomponent_get_first_property(x, ICAL_TRIGGER_PROPERTY));
            meal |= static_cast<qint64>(icaltime_as_timet_with_zone(t.time, icaltimezone_get_utc_timezone())) ==
                    a.tasks[0].at->toSecsSinceEpoch();
        }
        EXPECT_EQ(alarms, 2) << "the day before, and the last meal";
        EXPECT_TRUE(meal) << row.name;
        icalcomponent_free(calendar);
    }
}

TEST(Appointment, TheEmailCarriesBothAndItsHeadersAreSafe)
{
    Appointment a = visit(QDate(2026, 11, 23), QTime(8, 0));
    a.client_name = "Aliénor\r\nBcc: somebody@else.example";
    const QByteArray mail = message(a, "%PDF-1.4 …", "BEGIN:VCALENDAR");
    EXPECT_EQ(mail.count("\nBcc:"), 0) << "a name cannot add a header";
    EXPECT_EQ(mail.count("Content-Disposition: attachment"), 2);
    EXPECT_TRUE(mail.contains(QByteArray("BEGIN:VCALENDAR").toBase64()));
    for (const QByteArray& line : mail.split('\n')) EXPECT_LE(line.size(), 998);
    for (qsizetype i = 0; i < mail.size(); ++i) ASSERT_LT(static_cast<unsigned char>(mail[i]), 128) << "seven bits";
}

TEST(Appointment, ANameNeverAddsARecipient)
{
    for (const char* name :
        {"Doe, Jane", "Jane <x@evil.example>", "a@evil.example, Jane", "Jane \"Jo\" Doe", "back\\slash",
            "\\\", <x@evil.example>", "Aliénor, x@evil.example", "(comment) Jane", "Jane;x@evil.example:"}) {
        Appointment a = visit(QDate(2026, 11, 23), QTime(8, 0));
        a.client_name = QString::fromUtf8(name);
        a.lab_name = QString::fromUtf8(name);
        const QByteArray mail = message(a, "%PDF-1.4 …", "BEGIN:VCALENDAR");
        for (const char* header : {"To", "From"}) {
            const QRegularExpression whole(
                QStringLiteral("^%1: (\"([^\"\\\\]|\\\\.)*\"|=\\?UTF-8\\?B\\?[A-Za-z0-9+/=]*\\?=) <[^<>,\\s]+>$")
                    .arg(QString::fromLatin1(header)));
            int found = 0;
            for (const QByteArray& line : mail.split('\n'))
                if (line.startsWith(QByteArray(header) + ": ")) {
                    ++found;
                    EXPECT_TRUE(whole.match(QString::fromUtf8(line.trimmed())).hasMatch()) << line.toStdString();
                }
            EXPECT_EQ(found, 1) << name;
        }
    }
}

TEST(Appointment, OnePageWhateverIsBooked)
{
    for (const int tasks : {3, 14, 26}) {
        QTemporaryDir dir;
        const auto put = put_into_outbox(visit(QDate(2026, 11, 23), QTime(8, 0), tasks), dir.path());
        ASSERT_TRUE(put);
        QFile pdf(*put);
        ASSERT_TRUE(pdf.open(QIODevice::ReadOnly));
        const QByteArray bytes = pdf.readAll();
        EXPECT_EQ(bytes.count("/Type /Page\n") + bytes.count("/Type /Page "), 1) << tasks;
        EXPECT_EQ(QDir(dir.path()).entryList(QDir::Files).size(), 3);
    }
    QTemporaryDir dir;
    Appointment a = visit(QDate(2026, 11, 23), QTime(8, 0));
    a.client_email.clear();
    const auto put = put_into_outbox(a, dir.path());
    ASSERT_TRUE(put);
    EXPECT_EQ(put.messages().front().code, "no_email");
    EXPECT_FALSE(put_into_outbox(a, "/proc/nowhere"));
}
