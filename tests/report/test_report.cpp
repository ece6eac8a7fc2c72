// SPDX-License-Identifier: GPL-3.0-or-later
// The sheets: what they say, that they say it for ever, that they fit their pages.
#include "bench/base/fields.h"
#include "bench/tank/tank.h"
#include "core/body/reference.h"
#include "core/quality/judgement.h"
#include "report/words/catalogue.h"
#include "report/words/caution_words.h"
#include "report/precision/study_words.h"
#include "report/sheets/sheets.h"
#include "report/reading/reading_words.h"

#include <gtest/gtest.h>

#include <QFile>
#include <QTemporaryDir>

using namespace fusain;
using bench::Json;
using report::Document;

namespace {

struct Made {
    bench::Visit visit;
    std::vector<bench::Event> log;
};

Made a_visit(const std::string& name = "Aliénor Quéméner", const std::string& birth = "1995-05-02",
    const std::vector<double>& trials_kg = {2.25, 2.36, 2.35, 2.34})
{
    Made m;
    const auto add = [&](const std::string& kind, Json body = Json::object()) {
        const bench::Event e{m.visit.last_seq + 1, "2026-11-23T08:20:00.000Z", "M. Tanguy", kind, body.dump()};
        const auto why = m.visit.apply(e);
        EXPECT_FALSE(why) << kind << ": " << (why ? why->text : "");
        m.log.push_back(e);
    };
    add("started", {{"client_id", 1}, {"number", "101"}, {"name", name}, {"birth_date", birth}, {"sex", "female"},
                       {"height_cm", 171.0}, {"software", "fusain 0.1.0"}});
    add("identity", {{"cm", 171.0}});
    add("stops", {{"stop", Json::array()}, {"noted", {"feels_cold"}}});
    add("mass", {{"kg", 68.41}});
    for (double l : {3.76, 3.74, 3.75}) add("blow", {{"l", l}});
    add("lungs",
        {{"route", "vital_capacity"}, {"equation", "quanjer_1993"}, {"gas_temp_c", 22.4}, {"barometric_mmhg", 757.0}});
    add("zero", {{"kg", 7.542}, {"sd_kg", 0.004}});
    add("water", {{"c", 34.6}});
    for (double kg : trials_kg) {
        add("trial_begun");
        add("trial_taken", {{"kg", kg}, {"u_kg", 0.004}, {"window_from_s", 0.8}, {"window_to_s", 3.2},
                               {"earliest_s", 3.2}, {"midpoint_kg", kg}});
    }
    add("trial_begun");
    add("trial_thrown_out", {{"number", trials_kg.size() + 1}, {"reason", "touched the wall"}});
    return m;
}

QString all_text(const Document& d)
{
    QString out = d.title + '\n' + d.header + '\n' + d.footer;
    for (const auto& b : d.blocks) {
        out += '\n' + b.text;
        for (const auto& row : b.rows) out += '\n' + row.join(" | ");
    }
    return out;
}

} // namespace

namespace {
void say_otherwise(bench::Event& e, const Json& more) { e.body = bench::joined(e.body, more.dump()); }
} // namespace

TEST(Sheets, SpeakTheLabsTimeAndFollowItsHouseRules)
{
    // the same moment is the next morning on the other side of the world; the house there wants people back sooner
    const Made made = a_visit();
    bench::Visit v;
    for (bench::Event e : made.log) {
        if (e.kind == "started") {
            say_otherwise(
                e, {{"zone", "Pacific/Auckland"}, {"instrument", "PG-T-01"},
                       {"house", {{"retest", "weeks_4_6"}, {"trial_rule", "mean_all"}, {"conversion", "no_such"},
                                     {"range", "gallagher_2000"}, {"lung_equation", "crapo_1982"}}}});
            e.at_utc = "2026-11-23T20:20:00.000Z";
        }
        if (e.kind == "stops")
            say_otherwise(e, {{"stop", Json::array()}, {"noted", {"last_meal"}},
                                 {"words", {"Ate 1 h 20 min before; the rule is 2 h."}},
                                 {"comparability", "Will compare well with the visit of 8 September 2026."}});
        if (e.kind == "lungs") say_otherwise(e, {{"equation", Json()}});
        ASSERT_FALSE(v.apply(e)) << e.kind;
    }
    EXPECT_EQ(bench::tank_of(v).trial_rule, "mean_all");
    EXPECT_EQ(bench::tank_of(v).conversion, "siri_1961") << "a rule that this program does not know changes nothing";
    EXPECT_EQ(bench::tank_of(v).lung_equation, "crapo_1982");
    const QString client = all_text(report::client_sheet(v, "Lab")), lab = all_text(report::lab_sheet(v, "Lab"));
    EXPECT_TRUE(client.contains("24 November 2026, 09:20")) << client.left(200).toStdString();
    EXPECT_TRUE(client.contains("between 22 December 2026 and 5 January 2027")) << client.toStdString();
    for (const char* words : {"noted: Ate 1 h 20 min before", "Will compare well", "Instrument PG-T-01", "mean_all"})
        EXPECT_TRUE(lab.contains(words)) << words;
    EXPECT_TRUE(all_text(report::client_sheet(made.visit, "Lab")).contains("18 January 2027"))
        << "eight weeks where the log knows of no house rules";
}

TEST(ClientSheet, SaysWhatItMustInPlainWords)
{
    const Made m = a_visit();
    const QString text = all_text(report::client_sheet(m.visit, "The lab"));
    const double fat = (*m.visit.result())[quantity::fat_percent].value;
    for (const QString& words : {QString::number(fat, 'f', 1) + " %", QStringLiteral("likely between"),
             QStringLiteral("women of 20 to 39"), QStringLiteral("Gallagher"), QStringLiteral("Siri 1961"),
             QStringLiteral("between 18 January 2027 and 15 February 2027"), QStringLiteral("not a medical diagnosis"),
             QStringLiteral("68.4 kg")})
        EXPECT_TRUE(text.contains(words)) << words.toStdString() << "\n" << text.toStdString();
    EXPECT_FALSE(text.contains('!'));
    EXPECT_LE(text.count(QStringLiteral("\n·  ")), 3) << "at most three points to take home";
}

TEST(ClientSheet, CarriesTheUsualClosing)
{
    EXPECT_TRUE(
        all_text(report::client_sheet(a_visit("A B", "2012-01-01").visit, "L")).contains("plan nothing about weight"));
    EXPECT_FALSE(all_text(report::client_sheet(a_visit("A B", "2012-01-01").visit, "L")).contains("a good pace"));
    EXPECT_TRUE(all_text(report::client_sheet(a_visit("A B", "1995-05-02", {4.4, 4.4, 4.4}).visit, "L"))
                    .contains("talk to a clinician"));
    EXPECT_TRUE(all_text(report::client_sheet(a_visit("A B", "1995-05-02", {0.4, 0.4, 0.4}).visit, "L"))
                    .contains("of fat a week is a good pace"));
}

TEST(ClientSheet, EveryCautionReachesItInPlainWords)
{
    for (const auto& c : judgement::cautions())
        EXPECT_TRUE(report::client_words_of(c.code)) << c.code << " has no words for the client";
    EXPECT_EQ(report::client_words({"new_code", Level::caution, "", "as the core says it"}), "as the core says it")
        << "no caution is ever lost";
    // so light under water that nobody would build on it, in a visit that began five days after 74 kg
    bench::Visit v;
    for (bench::Event e : a_visit("Aliénor Quéméner", "1995-05-02", {0.10, 0.12, 0.11}).log) {
        if (e.kind == "started") say_otherwise(e, {{"log", 2}, {"last", {{"mass_kg", 74.0}, {"days", 5.0}}}});
        if (e.kind == "mass") say_otherwise(e, {{"kg", 120.0}});
        ASSERT_FALSE(v.apply(e)) << e.kind;
    }
    const auto result = v.result();
    ASSERT_TRUE(result);
    const QString client = all_text(report::client_sheet(v, "Lab")), lab = all_text(report::lab_sheet(v, "Lab"));
    ASSERT_GE(result.messages().size(), 2u);
    for (const Message& m : result.messages()) {
        EXPECT_TRUE(client.contains(report::client_words(m))) << m.code;
        EXPECT_TRUE(lab.contains(QString::fromStdString(m.text))) << m.code;
    }
    EXPECT_TRUE(client.contains("Please note"));
    EXPECT_FALSE(client.contains("number to build on"));
    EXPECT_TRUE(client.contains("first look"));
    ASSERT_FALSE(v.apply({v.last_seq + 1, "2026-11-23T09:00:00.000Z", "A. Le Bras", "acknowledged",
        R"({"codes": ["mass_differs", "fat_unusual", "density_unusual"]})"}));
    EXPECT_TRUE(all_text(report::lab_sheet(v, "Lab")).contains("seen by A. Le Bras"));
    EXPECT_FALSE(all_text(report::client_sheet(a_visit().visit, "Lab")).contains("Please note"))
        << "nothing to note, nothing said";
}

TEST(ClientSheet, PlansNothingForWhoIsExpectingOrFallsFast)
{
    const auto sheet_of = [](const char* kind, const Json& more, double kg) {
        bench::Visit v;
        for (bench::Event e : a_visit("Aliénor Quéméner", "1995-05-02", {0.60, 0.62, 0.61}).log) {
            if (e.kind == kind) say_otherwise(e, more);
            if (e.kind == "mass") say_otherwise(e, {{"kg", kg}});
            EXPECT_FALSE(v.apply(e)) << e.kind;
        }
        return all_text(report::client_sheet(v, "Lab"));
    };
    EXPECT_TRUE(sheet_of("stops", Json::object(), 68.41).contains("of fat a week is a good pace"));
    EXPECT_FALSE(sheet_of("stops", {{"pregnant", true}}, 68.41).contains("a good pace"));
    EXPECT_TRUE(sheet_of("stops", {{"pregnant", true}}, 68.41).contains("nothing about weight is planned"));
    const QString fast = sheet_of("started", {{"last", {{"mass_kg", 74.0}, {"days", 21.0}}}}, 68.41);
    EXPECT_FALSE(fast.contains("a good pace"));
    EXPECT_TRUE(fast.contains("no further loss"));
}

TEST(LabSheet, HoldsEveryInputTrialReasonAndSource)
{
    const Made m = a_visit();
    const QString text = all_text(report::lab_sheet(m.visit, "The lab"));
    for (const char* words : {"68.41", "7.542", "touched the wall", "taken, not counted by the rule", "Wilmore 1969",
             "Tanaka", "Buck 1981", "siri_1961", "fusain 0.1.0", "Feels cold", "best, kept", "95 % range"})
        EXPECT_TRUE(text.contains(QString::fromUtf8(words))) << words;
    const Story story = m.visit.result()->story;
    for (const StoryStep& s : story) EXPECT_TRUE(text.contains(QString::fromStdString(s.title))) << s.title;
}

TEST(Sheets, AReplayedVisitGivesTheSameSheets)
{
    const Made m = a_visit();
    bench::Visit again;
    for (bench::Event e : m.log) {
        e.body = Json::parse(e.body).dump();
        ASSERT_FALSE(again.apply(e));
    }
    EXPECT_EQ(all_text(report::client_sheet(m.visit, "L")), all_text(report::client_sheet(again, "L")));
    EXPECT_EQ(all_text(report::lab_sheet(m.visit, "L")), all_text(report::lab_sheet(again, "L")));
    // the sheet that was given out and the one made after the visit was closed are the same
    const QString before = all_text(report::lab_sheet(again, "L"));
    ASSERT_FALSE(again.apply({again.last_seq + 1, "2026-11-24T10:00:00.000Z", "M. Tanguy", "finished", "{}"}));
    EXPECT_EQ(all_text(report::lab_sheet(again, "L")), before);
}

TEST(Sheets, ThePdfFitsItsPages)
{
    QTemporaryDir dir;
    const Made m = a_visit("Nolwenn Coatanéa-Le Bihan de Kerangoat de la Pointe du Grand Large");
    const auto client = report::write_pdf(
        report::client_sheet(m.visit, "A lab with quite a long name, physiology room"), dir.path() + "/c.pdf");
    ASSERT_TRUE(client);
    EXPECT_EQ(*client, 1) << "the client's sheet is one page";
    const auto lab = report::write_pdf(report::lab_sheet(m.visit, "L"), dir.path() + "/l.pdf");
    ASSERT_TRUE(lab);
    EXPECT_LE(*lab, 3);
    QFile f(dir.path() + "/c.pdf");
    ASSERT_TRUE(f.open(QIODevice::ReadOnly));
    EXPECT_TRUE(f.read(5) == "%PDF-");
    const auto nowhere = report::write_pdf(report::client_sheet(m.visit, "L"), "/proc/nowhere/c.pdf");
    ASSERT_FALSE(nowhere);
    EXPECT_NE(nowhere.messages().front().text.find("/proc/nowhere"), std::string::npos);
}

TEST(Sheets, OfTheChamberSayWhatTheChamberDid)
{
    Made m;
    const auto add = [&](const std::string& kind, Json body = Json::object()) {
        const bench::Event e{m.visit.last_seq + 1, "2026-11-23T08:20:00.000Z", "M. Tanguy", kind, body.dump()};
        const auto why = m.visit.apply(e);
        EXPECT_FALSE(why) << kind << ": " << (why ? why->text : "");
    };
    const auto reading = [&](const char* what, double litres) {
        add("trial_begun", {{"what", what}});
        add("trial_taken",
            {{"ratio", (450 - litres) / 300}, {"u_ratio", 3e-5}, {"phase_rad", 3.14159}, {"breath", 4e-4}});
    };
    add("started",
        {{"method", "air_displacement"}, {"client_id", 1}, {"number", "102"}, {"name", "Ewen Le Dantec"},
            {"birth_date", "1988-11-17"}, {"sex", "male"}, {"height_cm", 183.0}, {"software", "fusain 0.3.0"}});
    add("identity", {{"cm", 183.0}});
    add("stops", {{"stop", Json::array()}, {"noted", Json::array()}});
    add("mass", {{"kg", 89.3}});
    add("prepared", {{"seen", {"cap over all hair", "told about the chamber"}}});
    add("cylinder", {{"l", 50.012}});
    reading("empty", 0);
    reading("cylinder", 50.012);
    for (double litres : {81.20, 81.60, 81.61}) reading("run", litres);
    add("trial_begun", {{"what", "run"}});
    add("trial_broken", {{"reason", "the door was opened"}});
    add("trial_begun", {{"what", "puffs"}});
    add("trial_taken",
        {{"slope", 0.0135}, {"u_slope", 1e-4}, {"merit", 0.42}, {"peak_cmh2o", 14.2}, {"barometric_mmhg", 757.0}});
    add("lung_gas", {{"route", "measured"}, {"equation", "mccrory_1998"}});
    ASSERT_TRUE(m.visit.result()) << m.visit.result().messages().front().text;
    const QString client = all_text(report::client_sheet(m.visit, "The lab")),
                  lab = all_text(report::lab_sheet(m.visit, "The lab"));
    for (const char* words :
        {"two runs agree within 10 mL", "displace, 3 times, two of them count", "air in your lungs was measured",
            "hair outside the cap", "not a medical diagnosis", "between 18 January 2027"})
        EXPECT_TRUE(client.contains(QString::fromUtf8(words))) << words << client.toStdString();
    EXPECT_FALSE(client.contains("water 1")) << "nothing of the tank";
    for (const char* words :
        {"air displacement, lab sheet", "taken, not counted by the rule", "broken: the door was opened",
            "cylinder of 50.012 L", "merit 0.42", "cap over all hair", "Du Bois", "Dempster", "gas route"})
        EXPECT_TRUE(lab.contains(QString::fromUtf8(words))) << words;
    const Story story = m.visit.result()->story;
    for (const StoryStep& s : story) EXPECT_TRUE(lab.contains(QString::fromStdString(s.title))) << s.title;
    QTemporaryDir dir;
    const auto pages = report::write_pdf(report::client_sheet(m.visit, "L"), dir.path() + "/c.pdf");
    ASSERT_TRUE(pages);
    EXPECT_EQ(*pages, 1);
}

TEST(Catalogue, ShippedTablesAreComplete)
{
    ASSERT_GE(reference::sets().size(), 2u);
    for (const auto& set : reference::sets()) {
        EXPECT_FALSE(std::string(set.source).empty()) << set.id;
        for (const auto& row : set.rows) {
            EXPECT_LT(row.low, row.high) << set.id;
            EXPECT_LT(row.age_from_y, row.age_below_y) << set.id;
        }
    }
    EXPECT_TRUE(reference::find(bench::Visit().range));
    EXPECT_GE(report::hydrostatic_questions().stops.size(), 6u);
    EXPECT_EQ(report::hydrostatic_questions().text("recent_surgery"), "Recent ear or chest surgery");
}

TEST(StudyWords, WhoScattersOverThePublishedLimitIsToldAndNobodyElse)
{
    work::Repeated told{&quantity::fat_percent, {}, {}, 2.0, {}, 0, {}};
    told.operators = {{"M. Tanguy", 6, 0.3, 1.4, 3, {}, 0, 0, false}, {"B. Le Goff", 6, 0.6, 2.6, 3, {}, 0, 0, false}};
    const QStringList words = report::operator_sentences(told);
    ASSERT_EQ(words.size(), 2);
    EXPECT_FALSE(words[0].contains("over the published")) << words[0].toStdString();
    EXPECT_TRUE(words[1].contains("2.60 %, over the published 2 %")) << words[1].toStdString();
}

TEST(Moved, KeptIsShownNotConcluded)
{
    const auto told = [](double fat_free_kg, double band_kg) {
        return report::moved_for_client({-1.8 + fat_free_kg, -1.8, fat_free_kg, 1.5, band_kg}, true);
    };
    EXPECT_TRUE(told(-0.9, 1.94).contains("cannot be told")) << told(-0.9, 1.94).toStdString();
    EXPECT_FALSE(told(-0.9, 1.94).contains("kept"));
    EXPECT_FALSE(told(-0.1, 0.9).contains("kept")) << "down to a kilogram and more is not excluded";
    EXPECT_TRUE(told(-0.05, 0.9).contains("has been kept"));
    EXPECT_TRUE(told(-2.0, 1.94).contains("has gone down by about 2.0 kg"));
}

TEST(Sheet, WhatWasNotedBeforeTheTestIsToldToTheClient)
{
    const Message noted{"noted_before", Level::caution, "", "Noted before the test: Ate 1 h before."};
    EXPECT_EQ(report::client_words(noted), "Before the test it was noted: Ate 1 h before. That can move the number.");
    const Message swollen{"water_and_swelling", Level::caution, "", ""};
    EXPECT_FALSE(report::client_words(swollen).contains("Eating enough"));
}
