// SPDX-License-Identifier: GPL-3.0-or-later
// A client over time, driven by keys: the day, the balance, the change, folds and girths, energy, the plan, telling it.
#include "bench/base/fields.h"
#include "../work/told.h"
#include "desk/course/change_view.h"
#include "desk/course/plan_view.h"
#include "gui.h"
#include "records/base/clock.h"
#include "report/sheets/given.h"
#include "work/reading/entries.h"

#include <QDir>
#include <QPlainTextEdit>
#include <QRegularExpression>
#include <QSqlError>
#include <QSqlQuery>
#include <QTableWidget>

using namespace fusain;
using namespace fusain::desk;

namespace {

/// A client with a year of tests, and the page of it.
struct Course : Bench {
    work::ToldLab told;

    explicit Course(bool with_tests = true) : Bench(4, 7)
    {
        told.store = store;
        told.client = add_client();
        if (!with_tests) return;
        told.tank("2026-02-10", 76.0, {1.70, 1.71, 1.72});
        told.tank("2026-05-10", 74.8, {1.86, 1.87, 1.88});
        told.tank("2026-08-10", 72.0, {2.16, 2.17, 2.15});
        told.analyser("2026-08-10", 72.6, 470, 55);
        told.table("2026-08-10", 72.0, 19000, 50000, 2600);
    }
    ::testing::AssertionResult open()
    {
        window->show_clients();
        auto* list = window->findChild<QListView*>("clients");
        if (list) list->setFocus();
        return key("course_client", Qt::Key_F3);
    }
    ::testing::AssertionResult view(const char* name, int k)
    {
        window->course().setFocus();
        return key(QStringLiteral("course_") + name, k);
    }
    work::Entries entries() { return work::entries_of(*store, told.client.id); }
    template <class W>
    W* seen()
    {
        for (W* w : window->findChildren<W*>())
            if (w->isVisible()) return w;
        return nullptr;
    }
};

} // namespace

TEST(CourseDesk, OneDayOneBody)
{
    Course c;
    ASSERT_TRUE(c.open());
    EXPECT_TRUE(c.text("day_title").contains("10 August 2026")) << c.text("day_title").toStdString();
    EXPECT_TRUE(c.shows("female, 31 y")) << "years are full before they are counted";
    EXPECT_TRUE(c.text("day_pairs").contains("never averaged"));
    EXPECT_TRUE(c.text("together_missing").contains("fewer assumptions"));
    EXPECT_TRUE(c.text("together_drops").isEmpty()) << "one key away";
    ASSERT_TRUE(c.key("combine", Qt::Key_C));
    EXPECT_TRUE(c.text("together_drops").contains("no longer assumes"));
    EXPECT_TRUE(c.text("together_differ").contains("0.6 kg apart")) << c.text("together_differ").toStdString();
    auto* equation = c.window->findChild<QComboBox*>("compartments");
    EXPECT_EQ(equation->count(), 6);
    EXPECT_EQ(equation->currentData().toString(), "wang_2002");
    ASSERT_TRUE(c.key("earlier_day", Qt::Key_Left));
    EXPECT_TRUE(c.text("day_title").contains("10 May 2026"));
    EXPECT_FALSE(c.button("combine")) << "one method alone is not combined";
    EXPECT_TRUE(c.text("together_missing").contains("body water"));
}

TEST(CourseDesk, ChangeIsHeldAgainstNoiseByKeysAndByTheMouse)
{
    Course c;
    ASSERT_TRUE(c.open());
    ASSERT_TRUE(c.view("change", Qt::Key_3));
    EXPECT_TRUE(c.text("change_title").contains("Percent fat by underwater weighing"));
    const work::History h = work::History::of(c.window->lab(), c.told.client.id);
    const auto s = h.series(quantity::fat_percent, "hydrostatic");
    ASSERT_EQ(s->step(1, 2).verdict, change::Verdict::fall);
    ASSERT_EQ(s->step(0, 1).verdict, change::Verdict::within_noise);
    EXPECT_TRUE(c.text("change_sentence").contains("since 10 May 2026: a fall, more than"));
    EXPECT_TRUE(c.text("change_sentence").contains("in fewer than 5 of 100"));
    EXPECT_TRUE(c.text("moved").contains("The scale says −2.8 kg")) << c.text("moved").toStdString();
    EXPECT_TRUE(c.text("change_trend").contains("Trend over 3 tests"));
    EXPECT_TRUE(c.text("change_trend").contains("not a study of this lab"));
    ASSERT_TRUE(c.key("against_first", Qt::Key_F));
    EXPECT_TRUE(c.text("change_sentence").contains("since 10 February 2026"));
    auto* plot = c.seen<ChangePlot>();
    ASSERT_TRUE(plot);
    EXPECT_EQ(plot->picture().around, 0);
    // the wheel zooms, the mouse pans; a click on a visit holds changes against it; X leaves it out, B brings it back
    const auto place =
        report::place_change(QRectF(plot->rect()).adjusted(2, 6, -2, -2), plot->picture(), {}, Theme::get().px(14));
    const QPoint second = place.at(plot->picture().points[1].day, plot->picture().points[1].value).toPoint();
    QTest::mouseClick(plot, Qt::LeftButton, {}, second);
    EXPECT_EQ(plot->picture().around, 1);
    EXPECT_TRUE(c.text("change_sentence").contains("since 10 May 2026"));
    ASSERT_TRUE(c.key("leave_out", Qt::Key_X));
    EXPECT_EQ(plot->picture().points.size(), 2u);
    EXPECT_TRUE(c.text("change_trend").contains("needs three tests"));
    ASSERT_TRUE(c.key("bring_back", Qt::Key_B));
    EXPECT_EQ(plot->picture().points.size(), 3u);
    // another quantity, another method: never across
    auto* list = c.window->findChild<QTableWidget*>("change_list");
    for (int row = 0; row < list->rowCount(); ++row)
        if (list->item(row, 0)->text() == "Fat-free mass") list->setCurrentCell(row, 0);
    EXPECT_TRUE(c.text("change_title").startsWith("Fat-free mass"));
    auto* method = c.window->findChild<QComboBox*>("change_method");
    method->setCurrentIndex(method->findData("impedance"));
    emit method->activated(method->currentIndex());
    EXPECT_TRUE(c.text("change_title").contains("one test so far"));
    EXPECT_TRUE(c.text("moved").contains("two tests of one method"));
}

TEST(CourseDesk, LeanThatWentDownBringsQuestionsInTheirOrder)
{
    Course c(false);
    c.told.tank("2026-02-10", 74.0, {2.30, 2.31, 2.32});
    c.told.tank("2026-05-10", 70.5, {2.00, 2.01, 2.02});
    ASSERT_TRUE(c.open());
    ASSERT_TRUE(c.view("change", Qt::Key_3));
    const QString asked = c.text("lean_questions");
    qsizetype at = 0;
    for (const char* word : {"Water", "load", "endurance", "protein", "sleep"}) {
        const qsizetype next = asked.indexOf(word, at);
        EXPECT_GE(next, at) << word << " in " << asked.toStdString();
        at = next;
    }
    EXPECT_EQ(asked.count('?'), 5) << "questions, never findings";
}

TEST(CourseDesk, FoldsAndGirthsAreKeptOnlyWhenTheyAgree)
{
    Course c;
    ASSERT_TRUE(c.open());
    ASSERT_TRUE(c.view("tape", Qt::Key_4));
    c.type("girth_waist", "84 86");
    c.type("girth_hips", "98 98,4");
    ASSERT_TRUE(c.key("keep_tape", Qt::Key_Return, Qt::ControlModifier));
    EXPECT_TRUE(c.text("tape_trouble").contains("third")) << c.text("tape_trouble").toStdString();
    EXPECT_TRUE(c.entries().tapes.empty());
    EXPECT_EQ(c.field("girth_hips")->text(), "98 98,4") << "nothing that was typed is lost";
    c.type("girth_waist", "84 eighty");
    ASSERT_TRUE(c.key("keep_tape", Qt::Key_Return, Qt::ControlModifier));
    EXPECT_TRUE(c.text("tape_trouble").contains("waist"));
    c.type("girth_waist", "84 86 84.6");
    EXPECT_TRUE(c.text("tape_so_far").contains("waist over hips")) << c.text("tape_so_far").toStdString();
    ASSERT_TRUE(c.key("keep_tape", Qt::Key_Return, Qt::ControlModifier));
    ASSERT_TRUE(c.wait([&] { return c.entries().tapes.size() == 1; }, 2000)) << c.text("tape_trouble").toStdString();
    EXPECT_EQ(c.entries().tapes.front().girths_cm.at("waist").size(), 3u);
    EXPECT_EQ(c.entries().tapes.front().measurer, "M. Tanguy");
    ASSERT_TRUE(c.view("change", Qt::Key_3));
    EXPECT_GE(c.window->findChild<QComboBox*>("change_method")->findData("callipers_and_tape"), 0);
}

TEST(CourseDesk, ThePlanAnswersTheHandAndRefusesWhatIsNotSafe)
{
    Course c;
    ASSERT_TRUE(c.open());
    ASSERT_TRUE(c.view("plan", Qt::Key_6));
    ASSERT_TRUE(c.button("agree_plan") && c.button("agree_plan")->isEnabled()) << c.text("plan_takes").toStdString();
    const QString before = c.text("plan_title");
    EXPECT_TRUE(before.contains("kcal a day"));
    auto* plot = c.seen<PlanPlot>();
    ASSERT_TRUE(plot);
    // dragged to the left, the same aim takes more
    const QPoint handle = plot->handle().toPoint();
    QTest::mousePress(plot, Qt::LeftButton, {}, handle);
    QTest::mouseMove(plot, handle - QPoint(60, 0));
    QTest::mouseRelease(plot, Qt::LeftButton, {}, handle - QPoint(60, 0));
    EXPECT_NE(c.text("plan_title"), before);
    EXPECT_LT(c.field("plan.weeks")->text().toInt(), 12);
    // under the range: refused with the nearest that is safe, and no intake is shown
    c.type("plan.target.fat_percent", "12");
    EXPECT_TRUE(c.text("plan_takes").contains("nearest that is safe")) << c.text("plan_takes").toStdString();
    EXPECT_FALSE(c.button("agree_plan")->isEnabled());
    EXPECT_FALSE(c.shows("eaten a day"));
    c.type("plan.target.fat_percent", "25");
    c.type("plan.weeks", "999");
    EXPECT_TRUE(c.text("plan_takes").contains("1 to 156")) << c.text("plan_takes").toStdString();
    c.type("plan.weeks", "30");
    ASSERT_TRUE(c.button("agree_plan")->isEnabled()) << c.text("plan_takes").toStdString();
    c.window->course().setFocus();
    ASSERT_TRUE(c.key("agree_plan", Qt::Key_Return, Qt::ControlModifier));
    ASSERT_TRUE(c.wait([&] { return c.entries().running() != nullptr; }, 2000));
    EXPECT_EQ(c.entries().running()->input.weeks, 30);
    EXPECT_EQ(c.entries().running()->day, "2026-08-10") << "from the test it rests on";
    EXPECT_TRUE(c.text("plan_way").contains("Agreed on 10 August 2026"));
    // the next visit is booked with one key, no sooner than the change can show
    ASSERT_TRUE(c.key("book_next", Qt::Key_B, Qt::ControlModifier));
    EXPECT_TRUE(c.text("note").startsWith("Booked:"))
        << c.text("note").toStdString() << c.text("trouble").toStdString();
    const auto booked = c.window->lab().diary->bookings_of(c.told.client.id);
    ASSERT_EQ(booked.size(), 1u);
    EXPECT_EQ(booked[0].parts.front().method, method::hydrostatic);
    EXPECT_GT(records::local_of(booked[0].from(), c.window->lab().diary->zone()).date(), c.window->lab().today());
    // a later test is drawn on it
    c.told.tank("2026-11-10", 71.0, {2.25, 2.26, 2.24});
    ASSERT_TRUE(c.open());
    ASSERT_TRUE(c.view("plan", Qt::Key_6));
    EXPECT_TRUE(c.text("plan_way").contains("10 November 2026")) << c.text("plan_way").toStdString();
    EXPECT_EQ(c.seen<PlanPlot>()->picture().since.size(), 1u);
    // who became pregnant is not planned for any more
    records::Client client = *c.store->client(c.told.client.id);
    client.facts << "pregnancy_possible";
    ASSERT_TRUE(c.store->save(client));
    ASSERT_TRUE(c.open());
    ASSERT_TRUE(c.view("plan", Qt::Key_6));
    EXPECT_TRUE(c.text("plan_stops").contains("not gone on with")) << c.text("plan_stops").toStdString();
    EXPECT_FALSE(c.button("agree_plan"));
    ASSERT_TRUE(c.key("end_plan", Qt::Key_Backspace, Qt::ControlModifier));
    EXPECT_TRUE(c.wait([&] { return !c.entries().running(); }, 2000));
}

TEST(CourseDesk, EnergySetsWhatIsEatenBesideWhatIsNeeded)
{
    Course c;
    ASSERT_TRUE(c.open());
    ASSERT_TRUE(c.view("energy", Qt::Key_5));
    EXPECT_TRUE(c.text("energy_title").contains("Lying still costs"));
    c.type("energy.food_kcal", "900");
    EXPECT_TRUE(c.text("energy_gap").contains("under what lying still costs")) << c.text("energy_gap").toStdString();
    EXPECT_FALSE(c.text("energy_gap").contains("!"));
    c.type("energy.activity_level", "3");
    c.window->course().setFocus();
    ASSERT_TRUE(c.key("keep_days", Qt::Key_Return, Qt::ControlModifier));
    EXPECT_FALSE(c.entries().days) << "3 is over what is allowed";
    EXPECT_TRUE(c.shows("allowed is 1.2 to 2.5"));
    c.type("energy.activity_level", "1.8");
    c.window->course().setFocus();
    ASSERT_TRUE(c.key("keep_days", Qt::Key_Return, Qt::ControlModifier));
    ASSERT_TRUE(c.wait([&] { return c.entries().days.has_value(); }, 2000));
    EXPECT_EQ(c.entries().days->food_kcal, 900);
    EXPECT_EQ(c.entries().days->activity_level, 1.8);
}

TEST(CourseDesk, ToldOneSentenceAtATimeAndKeptForTheSheet)
{
    Course c;
    ASSERT_TRUE(c.open());
    ASSERT_TRUE(c.view("talk", Qt::Key_7));
    QStringList told;
    for (int i = 0; i < 12; ++i) {
        if (!told.contains(c.text("talk_sentence"))) told << c.text("talk_sentence");
        if (c.text("talk_sentence").startsWith("One to three things")) break;
        ASSERT_TRUE(c.key("talk_on", Qt::Key_Right));
    }
    EXPECT_TRUE(told.front().contains("likely between"));
    EXPECT_TRUE(told[1].startsWith("Your 72.0 kg are made of")) << told[1].toStdString();
    EXPECT_TRUE(told.join(' ').contains("less fat")) << told.join('\n').toStdString();
    EXPECT_FALSE(told.join(' ').contains('!'));
    c.type("step_1", "two evenings with weights");
    c.window->findChild<QPlainTextEdit*>("talk_note")->setPlainText("asked about milk");
    ASSERT_TRUE(c.key("keep_steps", Qt::Key_Return, Qt::ControlModifier));
    ASSERT_TRUE(c.wait([&] { return c.entries().told.size() == 1; }, 2000));
    EXPECT_EQ(c.entries().told.front().day, "2026-08-10") << "the day that was talked about";
    // the usual questions, on keys
    c.window->course().setFocus();
    ASSERT_TRUE(c.key("talk_back", Qt::Key_Left));
    ASSERT_TRUE(c.key("ask_H", Qt::Key_H));
    EXPECT_TRUE(c.text("talk_answer").contains("other equations"));
    ASSERT_TRUE(c.key("ask_H", Qt::Key_H));
    EXPECT_TRUE(c.text("talk_answer").isEmpty());
    ASSERT_TRUE(c.key("talk_on", Qt::Key_Right));
    c.window->course().setFocus();
    // the sheet has it; a changed one replaces, the old one stays
    ASSERT_TRUE(c.key("talk_sheet", Qt::Key_P));
    const QDir sheets(c.dir.path() + "/sheets");
    ASSERT_TRUE(c.wait([&] { return sheets.entryList({"*client.pdf"}, QDir::Files).size() == 1; }))
        << c.text("trouble").toStdString();
    ASSERT_TRUE(c.key("talk_sheet", Qt::Key_P));
    EXPECT_TRUE(c.text("note").contains("unchanged")) << c.text("note").toStdString();
    EXPECT_EQ(sheets.entryList({"*client.pdf"}, QDir::Files).size(), 1);
    c.type("step_2", "bed at ten");
    ASSERT_TRUE(c.key("keep_steps", Qt::Key_Return, Qt::ControlModifier));
    ASSERT_TRUE(c.wait([&] { return c.entries().told.front().steps.size() == 2; }, 2000));
    c.window->course().setFocus();
    ASSERT_TRUE(c.key("talk_sheet", Qt::Key_P));
    EXPECT_TRUE(c.text("note").contains("replaces the one of")) << c.text("note").toStdString();
    EXPECT_EQ(sheets.entryList({"*client.pdf"}, QDir::Files).size(), 2) << "the old one stays";
}

TEST(CourseDesk, SomebodyMayBeToldWithoutNumbers)
{
    Course c;
    ASSERT_TRUE(c.open());
    ASSERT_TRUE(c.view("talk", Qt::Key_7));
    ASSERT_TRUE(c.key("talk_quiet", Qt::Key_N));
    ASSERT_TRUE(c.wait([&] { return c.text("talk_sentence").contains("No number is told"); }, 2000));
    EXPECT_FALSE(c.button("ask_W")) << "no answer in numbers either";
    QStringList told;
    for (int i = 0; i < 4; ++i) {
        told << c.text("talk_sentence");
        EXPECT_FALSE(told.back().contains(QRegularExpression("[0-9] (kg|%|kcal)"))) << told.back().toStdString();
        if (told.back().startsWith("One to three things")) break;
        ASSERT_TRUE(c.key("talk_on", Qt::Key_Right));
    }
    EXPECT_EQ(told.size(), 2) << "what was done, and what to do";
    EXPECT_EQ(c.entries().without_numbers, true) << "it holds for the next time too";
    const work::History h = work::History::of(c.window->lab(), c.told.client.id);
    const long visit = h.all().back().visit_id;
    const auto v = c.window->lab().store->replay(visit);
    ASSERT_TRUE(v);
    const auto words = [&](bool for_client) {
        QString out;
        for (const report::Block& b : report::sheet_of(c.window->lab(), {visit, &*v, for_client}).blocks)
            out += b.text + '\n' + (b.rows.empty() ? QString() : b.rows.front().join(' '));
        return out;
    };
    EXPECT_TRUE(words(true).contains("No number is told"));
    EXPECT_FALSE(words(true).contains(QRegularExpression("[0-9] (kg|%|kcal)"))) << words(true).toStdString();
    EXPECT_TRUE(words(false).contains("% fat")) << "the lab's sheet says everything";
    c.window->course().setFocus();
    ASSERT_TRUE(c.key("talk_back", Qt::Key_Left));
    ASSERT_TRUE(c.key("talk_quiet", Qt::Key_N));
    ASSERT_TRUE(c.wait([&] { return c.text("talk_sentence").contains("likely between"); }, 2000));
    // an eating disorder in the record, or the worry, begins without numbers
    EXPECT_FALSE(work::History::of(c.window->lab(), c.told.client.id).without_numbers());
}

TEST(CourseDesk, ASheetOfAnOldVisitSaysWhatItSaid)
{
    Course c;
    ASSERT_TRUE(c.open());
    const work::History h = work::History::of(c.window->lab(), c.told.client.id);
    const long visit = h.all().back().visit_id;
    const auto v = c.store->replay(visit);
    ASSERT_TRUE(v);
    const auto words = [&](bool for_client) {
        QString out;
        for (const report::Block& b : report::sheet_of(c.window->lab(), {visit, &*v, for_client}).blocks)
            out += b.text + '\n';
        return out;
    };
    EXPECT_FALSE(words(false).contains("as they were told by"));
    // the same visit as an older engine reckoned it: 41.5 % fat
    QSqlQuery q(c.store->database());
    q.prepare("SELECT seq, at, who, body FROM snapshot WHERE visit_id = ?");
    q.addBindValue(static_cast<qlonglong>(visit));
    ASSERT_TRUE(q.exec() && q.next());
    bench::Json body = bench::Json::parse(q.value(3).toString().toStdString());
    body["engine"] = "fusain 0.3.0";
    body["quantities"]["fat_percent"]["value"] = 41.5;
    QSqlQuery told(c.store->database());
    told.prepare("INSERT INTO snapshot (visit_id, seq, at, who, made_by, body) VALUES (?, ?, ?, ?, 'visit', ?)");
    for (const QVariant& value : {QVariant(static_cast<qlonglong>(visit)), QVariant(q.value(0).toInt() + 1), q.value(1),
             q.value(2), QVariant(QString::fromStdString(body.dump()))})
        told.addBindValue(value);
    ASSERT_TRUE(told.exec()) << told.lastError().text().toStdString();
    EXPECT_TRUE(words(true).contains("41.5 % of your body is fat")) << words(true).left(300).toStdString();
    EXPECT_TRUE(words(false).contains("as they were told by fusain 0.3.0"));
}

TEST(CourseDesk, NobodyMeasuredYetAndAMinor)
{
    Course c(false);
    ASSERT_TRUE(c.open());
    EXPECT_TRUE(c.text("day_title").contains("Nothing measured yet"));
    for (const auto& [name, k] : {std::pair{"balance", Qt::Key_2}, {"change", Qt::Key_3}, {"tape", Qt::Key_4},
             {"energy", Qt::Key_5}, {"plan", Qt::Key_6}, {"talk", Qt::Key_7}})
        ASSERT_TRUE(c.view(name, k)) << name;
    EXPECT_TRUE(c.text("talk_sentence").contains("no result to tell"));
    records::Client young;
    young.given_name = "Malo";
    young.family_name = "Le Bris";
    young.birth_date = "2011-03-19";
    young.height_cm = 170;
    young.sex = Sex::male;
    young.guardian = "R. Le Bris";
    young.guardian_consent_on = "2026-01-10";
    young = *c.store->save(young);
    c.told.client = young;
    c.told.tank("2026-05-10", 62.0, {2.30, 2.31, 2.32});
    c.window->show_course(young.id);
    ASSERT_TRUE(c.view("plan", Qt::Key_6));
    EXPECT_TRUE(c.text("plan_stops").contains("under 18"));
    EXPECT_FALSE(c.button("agree_plan"));
    ASSERT_TRUE(c.view("energy", Qt::Key_5));
    EXPECT_FALSE(c.text("energy_deficit").contains("deficit"));
    ASSERT_TRUE(c.view("balance", Qt::Key_2));
    EXPECT_TRUE(c.text("balance_title").contains("Under 18"));
}
