// SPDX-License-Identifier: GPL-3.0-or-later
// Sheets beyond one test: the day's methods on one page, course and plan on the next, what replaces what, the end of a
// day, files that can be read aloud and by other programs.
#include "bench/base/fields.h"
#include "../../work/told.h"
#include "report/page/tagged_pdf.h"
#include "report/reading/reading_words.h"
#include "report/sheets/day_end.h"
#include "report/sheets/given.h"
#include "work/reading/quantities_file.h"

#include <QDir>
#include <QFile>
#include <QRegularExpression>
#include <QTemporaryDir>

using namespace fusain;

namespace {

struct Sheets : work::ToldLab {
    QTemporaryDir dir;
    std::unique_ptr<work::Lab> lab;

    Sheets()
    {
        work::set_clock(QDateTime(QDate(2026, 11, 23), QTime(15, 0), QTimeZone("Europe/Paris")));
        store = *records::Store::open(dir.path() + "/lab.fusain");
        EXPECT_FALSE(store->set_setting("zone", "Europe/Paris"));
        lab = std::make_unique<work::Lab>(store);
        add("Aliénor", "Quéméner");
    }
    void add(const char* given, const char* family, const char* email = "")
    {
        records::Client c;
        c.given_name = QString::fromUtf8(given);
        c.family_name = QString::fromUtf8(family);
        c.birth_date = "1995-05-02";
        c.height_cm = 171;
        c.email = email;
        client = *store->save(c);
    }
    QString text(long visit, bool for_client)
    {
        const bench::Visit v = *store->replay(visit);
        QString out;
        for (const report::Block& b : report::sheet_of(*lab, {visit, &v, for_client}).blocks) {
            out += b.text + '\n';
            for (const QStringList& row : b.rows) out += row.join(" | ") + '\n';
        }
        return out;
    }
    Outcome<report::Given> give(long visit, bool for_client = true)
    {
        const bench::Visit v = *store->replay(visit);
        return report::give_sheet(*lab, {visit, &v, for_client}, "M. Tanguy");
    }
    void keep(records::ClientEvent e, const char* day)
    {
        e.client_id = client.id;
        e.who = "M. Tanguy";
        e.day = day;
        ASSERT_TRUE(records::keep(*store, e));
    }
};

QByteArray bytes_of(const QString& file)
{
    QFile f(file);
    EXPECT_TRUE(f.open(QIODevice::ReadOnly)) << file.toStdString();
    return f.readAll();
}

} // namespace

TEST(ReadingSheets, WhatAsksToBeMeasuredAgainIsNotWrittenForTheClientBeforeSomebodyAnsweredForIt)
{
    Sheets s;
    work::More taller;
    taller.height_cm = 174; // the record says 171
    const long visit = s.tank("2026-08-10", 72.0, {2.16, 2.17, 2.15}, taller);
    const auto refused = s.give(visit);
    ASSERT_FALSE(refused);
    EXPECT_EQ(refused.messages().front().code, "asks_again");
    EXPECT_FALSE(QDir(s.dir.path() + "/sheets").exists());
    EXPECT_TRUE(s.give(visit, false)) << "the lab's own says everything";
    const long next = s.store->last_seq(visit) + 1;
    ASSERT_FALSE(s.store->append(visit, {next, "2026-08-10T07:30:00.000Z", "M. Tanguy", "acknowledged",
                                            bench::written(bench::event::Acknowledged{{"height_differs"}})}));
    EXPECT_TRUE(s.give(visit));
}

TEST(ReadingSheets, TheDaysMethodsOnOnePageTheCourseOnTheNext)
{
    Sheets s;
    s.tank("2026-05-10", 74.8, {1.86, 1.87, 1.88});
    const long tank = s.tank("2026-08-10", 72.0, {2.16, 2.17, 2.15});
    EXPECT_EQ(s.give(tank)->pages, 2);
    s.analyser("2026-08-10", 72.6, 470, 55);
    s.table("2026-08-10", 72.0, 19000, 50000, 2600);
    work::Told told{"2026-08-10", "M. Tanguy", "asked about milk", {"two evenings with weights"}};
    s.keep(work::event_of(told), "2026-08-10");
    const QString client = s.text(tank, true), lab = s.text(tank, false);
    for (const char* words : {"The same day, measured in other ways", "never averaged", "0.6 kg apart",
             "volume, water and bone mineral", "Since 10 May 2026", "less fat", "two evenings with weights",
             "asked about milk", "The next date", "not a medical diagnosis"})
        EXPECT_TRUE(client.contains(words)) << words << "\n" << client.toStdString();
    EXPECT_FALSE(client.contains('!'));
    for (const char* words : {"together, Wang 2002", "Change by underwater weighing", "Percent fat | ",
             "The scale says −2.8 kg", "rest by | kcal", "Cunningham 1991 (chosen)", "two evenings with weights"})
        EXPECT_TRUE(lab.contains(words)) << words << "\n" << lab.toStdString();
    const auto given = s.give(tank);
    ASSERT_TRUE(given) << given.messages().front().text;
    EXPECT_EQ(given->pages, 2) << "one page the day, one page the course";
    EXPECT_FALSE(given->replaces.isEmpty());
    // of somebody who was measured once, by one method, one page says it
    Sheets alone;
    const long first = alone.tank("2026-08-10", 72.0, {2.16, 2.17, 2.15});
    EXPECT_EQ(alone.give(first)->pages, 1);
    EXPECT_FALSE(alone.text(first, true).contains("other ways"));
}

TEST(ReadingSheets, ACorrectedVisitReplacesItsSheetAndTheOldOneStays)
{
    Sheets s;
    const long visit = s.tank("2026-08-10", 72.0, {2.16, 2.17, 2.15});
    const auto first = s.give(visit), again = s.give(visit);
    ASSERT_TRUE(first && again);
    EXPECT_TRUE(again->again && again->file == first->file);
    const QByteArray was = bytes_of(first->file);
    ASSERT_FALSE(
        s.store->append(visit, {s.store->last_seq(visit) + 1, "2026-08-11T07:00:00.000Z", "M. Tanguy", "choice",
                                   bench::written(bench::event::Choice{"conversion", "brozek_1963"})}));
    const auto second = s.give(visit);
    ASSERT_TRUE(second);
    EXPECT_NE(second->file, first->file);
    EXPECT_FALSE(second->replaces.isEmpty());
    EXPECT_EQ(bytes_of(first->file), was) << "what was given stays as it was given";
    QStringList kinds;
    for (const auto& e : records::client_events(*s.store, s.client.id)) kinds << e.kind;
    EXPECT_EQ(kinds, (QStringList{"sheet", "sheet"}));
    EXPECT_NE(s.give(visit, false)->file, second->file) << "the lab's is another one";
}

TEST(ReadingSheets, OfAnOldVisitSayWhatWasKnownThatDay)
{
    Sheets s;
    s.tank("2026-05-10", 74.8, {1.86, 1.87, 1.88});
    const long visit = s.tank("2026-08-10", 72.0, {2.16, 2.17, 2.15});
    const QString client = s.text(visit, true), lab = s.text(visit, false);
    s.tank("2026-10-10", 69.0, {2.30, 2.31, 2.29});
    s.analyser("2026-10-10", 69.0, 470, 55);
    s.keep(work::event_of(work::Told{"2026-10-10", "M. Tanguy", "later", {"later"}}), "2026-10-10");
    work::Plan p;
    p.day = "2026-10-10";
    p.method = "hydrostatic";
    p.input.body = {Sex::female, 31, 171, 16, 53};
    p.input.target = 22;
    p.intake_kcal = 1900;
    s.keep(work::event_of(p), "2026-10-10");
    EXPECT_EQ(s.text(visit, true), client);
    EXPECT_EQ(s.text(visit, false), lab);
}

TEST(ReadingSheets, CanBeReadAloudAndKept)
{
    Sheets s;
    const long visit = s.tank("2026-08-10", 72.0, {2.16, 2.17, 2.15});
    for (const bool for_client : {true, false}) {
        const QByteArray pdf = bytes_of(s.give(visit, for_client)->file);
        for (const char* words :
            {"%PDF-1.7", "/StructTreeRoot", "/Marked true", "/Lang (en-GB)", "/OutputIntents", "<pdfaid:part>2",
                "<pdfaid:conformance>A", "/DisplayDocTitle true", "/S /H1", "/S /P", "/S /Figure", "/Alt "})
            EXPECT_TRUE(pdf.contains(words)) << words;
        EXPECT_EQ(pdf.contains("/S /TD"), !for_client) << "tables have rows and cells";
        EXPECT_TRUE(pdf.contains(for_client ? "Body composition of Aliénor Quéméner" : "Lab sheet, client "))
            << "the title stands in the metadata";
        EXPECT_FALSE(pdf.contains("/Annots"));
    }
    EXPECT_EQ(report::tagged("no pdf", {}, "t", "en-GB").messages().front().code, "bad_pdf");
}

TEST(ReadingSheets, GoIntoTheOutboxOnlyWhereThereIsAnAddress)
{
    Sheets s;
    const long visit = s.tank("2026-08-10", 72.0, {2.16, 2.17, 2.15});
    const auto mail = [&](long id) {
        const bench::Visit v = *s.store->replay(id);
        const report::SheetOf of{id, &v, true};
        return report::mail_sheet(*s.lab, of, *report::give_sheet(*s.lab, of, "M. Tanguy"), "M. Tanguy");
    };
    EXPECT_EQ(mail(visit).messages().front().code, "no_email");
    s.add("Ewen", "Le Dantec, \"helmsman\"", "e.ledantec@pointe-grise.example");
    const auto put = mail(s.tank("2026-08-10", 72.0, {2.16, 2.17, 2.15}));
    ASSERT_TRUE(put) << put.messages().front().text;
    const QByteArray eml = bytes_of(*put);
    EXPECT_TRUE(eml.contains("To: \"Ewen Le Dantec, \\\"helmsman\\\"\" <e.ledantec@pointe-grise.example>\r\n"))
        << eml.left(400).toStdString();
    EXPECT_TRUE(eml.contains("Content-Type: application/pdf; name=\"your-sheet.pdf\""));
    const qsizetype at = eml.lastIndexOf("base64\r\n\r\n");
    EXPECT_TRUE(QByteArray::fromBase64(eml.mid(at + 10, 400)).startsWith("%PDF"));
}

TEST(DayEnd, OneListAndASheetEachExceptWhatAsksToBeMeasuredAgain)
{
    Sheets s;
    s.tank("2026-11-23", 72.0, {2.16, 2.17, 2.15});
    s.add("Ewen", "Le Dantec");
    s.tank("2026-11-23", 72.0, {2.16, 2.17, 2.15});
    s.add("Soazig", "Morvan");
    s.tank("2026-11-23", 120.0, {-5.00, -4.98, -4.99}); // so light under water that nobody builds on it
    s.add("Gwenn", "Riou");
    s.tank("2026-11-22", 72.0, {2.16, 2.17, 2.15}); // another day
    const QDate day(2026, 11, 23);
    EXPECT_EQ(report::people_of(*s.lab, day).size(), 3u);
    QStringList names;
    const auto go_on = [&](int, int of, const QString& name) {
        EXPECT_EQ(of, 3);
        names << name;
        return true;
    };
    const auto end = report::end_of_day(*s.lab, day, "M. Tanguy", go_on);
    ASSERT_TRUE(end) << end.messages().front().text;
    EXPECT_EQ(names.size(), 3);
    EXPECT_EQ(end->sheets, 2);
    ASSERT_EQ(end->left.size(), 1u);
    EXPECT_EQ(end->left.front().client, "Soazig Morvan");
    EXPECT_TRUE(end->left.front().why.contains("measured again"));
    EXPECT_TRUE(bytes_of(end->list).startsWith("%PDF"));
    EXPECT_EQ(report::end_of_day(*s.lab, day, "M. Tanguy", go_on)->unchanged, 2) << "again: nothing is given twice";
    int asked = 0;
    const auto stopped =
        report::end_of_day(*s.lab, day, "M. Tanguy", [&](int, int, const QString&) { return ++asked < 2; });
    EXPECT_EQ(stopped.messages().front().code, "cancelled");
    EXPECT_EQ(report::end_of_day(*s.lab, day.addDays(5), "M. Tanguy", go_on).messages().front().code, "nobody");
}

TEST(QuantitiesFile, OneRowAQuantityAndNoFormulas)
{
    Sheets s;
    records::Client c = s.client;
    c.number = "=1+2";
    s.client = *s.store->save(c);
    s.tank("2026-08-10", 72.0, {2.16, 2.17, 2.15});
    const auto history = work::History::of(*s.lab, s.client.id);
    const auto saved = work::save_quantities(history, s.dir.path() + "/handed-out");
    ASSERT_TRUE(saved);
    const QByteArray csv = bytes_of(*saved);
    const auto lines = csv.split('\n');
    EXPECT_TRUE(lines[0].startsWith("client,day,time,method"));
    EXPECT_TRUE(lines[1].startsWith("'=1+2,2026-08-10,09:20,hydrostatic,PG-hydrostatic")) << lines[1].toStdString();
    const double fat = history.newest()->result[quantity::fat_percent].value;
    bool found = false;
    for (const QByteArray& line : lines)
        if (line.contains(",fat_percent,")) {
            found = true;
            EXPECT_EQ(line.split(',').at(line.contains('"') ? 9 : 8).toDouble(), fat) << line.toStdString();
        }
    EXPECT_TRUE(found);
    const auto json = bench::Json::parse(bytes_of(QString(*saved).replace(".csv", ".json")).toStdString());
    EXPECT_EQ(json["measurements"][0]["quantities"]["fat_percent"]["value"].get<double>(), fat);
    EXPECT_FALSE(work::save_quantities(history, "/proc/nowhere"));
}

TEST(Questions, EightWeeksAreAnsweredByThePlannerForThisClient)
{
    const auto eight = [](double kg, std::initializer_list<double> under_water, double height_cm = 171) {
        Sheets s;
        records::Client c = s.client;
        c.height_cm = height_cm;
        s.client = *s.store->save(c);
        s.tank("2026-08-10", kg, under_water);
        const work::History h = work::History::of(*s.lab, s.client.id);
        for (const report::Answer& a : report::usual_questions(work::read(h), std::nullopt))
            if (a.key == "E") return a.answer;
        return QString();
    };
    const QString usual = eight(80, {1.90, 1.91, 1.92});
    const auto most = QRegularExpression("and ([0-9.]+) kg is the most").match(usual);
    ASSERT_TRUE(most.hasMatch()) << usual.toStdString();
    EXPECT_GT(most.captured(1).toDouble(), 2);
    EXPECT_LE(most.captured(1).toDouble(), 8 * 0.8) << "never over 1 % of this body a week";
    const QString light = eight(60, {1.90, 1.91, 1.92}, 185); // BMI 17.5
    EXPECT_TRUE(light.contains("nothing is planned to be lost")) << light.toStdString();
}
