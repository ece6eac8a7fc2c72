// SPDX-License-Identifier: GPL-3.0-or-later
// A precision study as a technician makes it: by keys in the real window, on the virtual analyser.
#include "gui.h"

#include "../work/told.h"
#include "work/reading/history.h"
#include "work/study/study.h"

#include <QDir>

using namespace fusain;
using namespace fusain::desk;

namespace {

/// People whose two tests stand in the records: of this morning, or of two days.
std::vector<records::Client> told_people(
    Bench& b, int n, std::array<const char*, 2> days = {"2026-11-23", "2026-11-23"})
{
    work::ToldLab told{b.store, {}};
    std::vector<records::Client> out;
    for (int k = 0; k < n; ++k) {
        records::Client c;
        c.given_name = "Jeanne";
        c.family_name = QStringLiteral("Le Bihan-Kervadec %1").arg(k + 1);
        c.birth_date = "1990-02-03";
        c.height_cm = 164 + k;
        c.consent_on = "2026-01-10";
        told.client = *b.store->save(c);
        for (const char* clock : {"06:10", "06:30"})
            told.analyser(days[clock[3] == '3'], 66 + k, 520 + 10 * k + (clock[3] == '3' ? 3 + k % 3 : 0), 56,
                {.clock = clock, .house = {{"impedance_fat_free_mass", "kyle_2001"}}});
        out.push_back(told.client);
    }
    return out;
}

void to_studies(Bench& b)
{
    QTest::keyClick(b.window.get(), Qt::Key_5, Qt::AltModifier);
    auto* list = b.window->findChild<QListWidget*>("instruments");
    ASSERT_TRUE(list);
    for (int i = 0; i < list->count(); ++i)
        if (list->item(i)->text().contains(QString(bench::instrument_of(method::impedance).title)))
            list->setCurrentRow(i);
    list->setFocus();
    ASSERT_TRUE(b.key("show_studies", Qt::Key_S));
}

} // namespace

TEST(StudyDesk, FromTheFormToTheBandsByKeys)
{
    Bench b(8, 3);
    b.add_client();
    told_people(b, 5);
    ASSERT_NO_FATAL_FAILURE(to_studies(b));
    b.shot("study-none");
    ASSERT_TRUE(b.key("study_new", Qt::Key_N));
    b.type("study_people", "1");
    ASSERT_TRUE(b.key("begin_study", Qt::Key_S, Qt::ControlModifier));
    EXPECT_TRUE(b.shows("allowed is 2 to 200")) << "the field says what is allowed";
    b.type("study_people", "6");
    b.type("study_times", "2");
    EXPECT_TRUE(b.text("study_worth").startsWith("6 degrees")) << b.text("study_worth").toStdString();
    b.shot("study-form");
    ASSERT_TRUE(b.key("begin_study", Qt::Key_S, Qt::ControlModifier));
    const auto study = [&] { return work::studies(b.window->lab()).front(); };
    EXPECT_EQ(study().design.people, 6);

    // five people from what stands in the records
    ASSERT_TRUE(b.key("study_pick", Qt::Key_P));
    auto* choices = b.window->findChild<QListWidget*>("study_choices");
    EXPECT_EQ(choices->count(), 10);
    b.shot("study-pick");
    for (int left = 10; left > 0; --left) {
        ASSERT_EQ(choices->count(), left);
        ASSERT_TRUE(b.key("study_yes", Qt::Key_Return));
    }
    ASSERT_TRUE(b.key("study_no", Qt::Key_Escape));
    EXPECT_EQ(study().members.size(), 10u);

    // the sixth is measured twice, from the study on
    ASSERT_TRUE(b.key("study_somebody", Qt::Key_S));
    QTest::keyClicks(b.field("study_answer"), "alienor");
    QTest::keyClick(b.window->focusWidget(), Qt::Key_Return);
    for (int repeat = 1; repeat <= 2; ++repeat) {
        EXPECT_FALSE(b.window->findChild<QWidget*>("trouble")->isVisible())
            << "a repeat is not too soon, nor in its own way: " << b.text("trouble").toStdString();
        EXPECT_EQ(b.text("screening_title").startsWith("Is all of this still true"), repeat == 2)
            << "a repeat is not asked everything again: " << b.text("screening_title").toStdString();
        b.shot(repeat == 1 ? "study-first" : "study-second");
        ASSERT_NO_FATAL_FAILURE(b.screen());
        ASSERT_TRUE(b.key("screening_keep", Qt::Key_Return));
        ASSERT_TRUE(b.key("screening_start", Qt::Key_Return));
        ASSERT_TRUE(b.wait([&] { return b.visit().stops_asked; })) << b.text("trouble").toStdString();
        ASSERT_NO_FATAL_FAILURE(b.through_to_current());
        ASSERT_NO_FATAL_FAILURE(b.sweep());
        ASSERT_TRUE(b.key("spectrum_done", Qt::Key_Return));
        ASSERT_TRUE(b.wait([&] { return b.button("next_measurement") && b.visit().result(); }));
        ASSERT_TRUE(b.key("next_measurement", Qt::Key_N));
        ASSERT_TRUE(b.wait([&] { return study().members.size() == 10u + static_cast<std::size_t>(repeat); }))
            << b.text("trouble").toStdString();
        if (repeat == 1) {
            ASSERT_TRUE(b.wait([&] { return b.text("study_next").contains("again: repeat 2 of 2"); }))
                << b.text("study_next").toStdString();
            ASSERT_TRUE(b.key("study_again", Qt::Key_R));
            EXPECT_TRUE(b.text("study_question").contains("Off the platform")) << "how to place anew";
            b.shot("study-anew");
            ASSERT_TRUE(b.key("study_yes", Qt::Key_Return));
        }
    }
    ASSERT_TRUE(b.wait([&] { return b.text("study_next").startsWith("Everybody is measured"); }))
        << b.text("study_next").toStdString();
    EXPECT_TRUE(b.text("study_said").contains("repeats scatter by"));
    b.shot("study-whole");

    // one is left out, with a reason only
    auto* repeats = b.window->findChild<QListWidget*>("repeats");
    repeats->setFocus();
    repeats->setCurrentRow(1);
    ASSERT_TRUE(b.key("study_out", Qt::Key_X));
    QTest::keyClick(b.window->focusWidget(), Qt::Key_Return);
    EXPECT_TRUE(b.text("trouble").contains("reason")) << b.text("trouble").toStdString();
    QTest::keyClicks(b.field("study_answer"), "cold feet");
    QTest::keyClick(b.window->focusWidget(), Qt::Key_Return);
    EXPECT_EQ(study().members[0].left_out, "cold feet");
    repeats->setCurrentRow(1);
    repeats->setFocus();
    ASSERT_TRUE(b.key("study_out", Qt::Key_X));
    EXPECT_TRUE(study().members[0].left_out.isEmpty()) << "taken back in";

    // sheet and files name nobody
    ASSERT_TRUE(b.key("study_give", Qt::Key_P, Qt::ControlModifier));
    const QDir folder(b.dir.path() + "/studies");
    EXPECT_EQ(
        folder.entryList(QDir::Files), (QStringList{"study-1-repeats.csv", "study-1-results.csv", "study-1.pdf"}));
    if (qEnvironmentVariableIsSet("FUSAIN_SHOTS"))
        QFile::copy(folder.filePath("study-1.pdf"), qEnvironmentVariable("FUSAIN_SHOTS") + "/study-1.pdf");

    // and from now on it is used
    ASSERT_TRUE(b.key("study_use", Qt::Key_U));
    ASSERT_TRUE(b.key("study_yes", Qt::Key_Return));
    EXPECT_FALSE(study().open());
    b.shot("study-used");
    const auto rest = work::InForce(b.window->lab())
                          .repeatability(quantity::fat_percent, "impedance", "PG-impedance",
                              b.window->lab().now().addSecs(60), {70, 170, 25});
    ASSERT_TRUE(rest);
    EXPECT_FALSE(rest->by_default);
    EXPECT_TRUE(b.shows("this lab's own study"));
}

TEST(StudyDesk, OverDaysTakesOneTestADay)
{
    Bench b(8, 3);
    told_people(b, 3, {"2026-11-18", "2026-11-20"});
    ASSERT_NO_FATAL_FAILURE(to_studies(b));
    ASSERT_TRUE(b.key("study_new", Qt::Key_N));
    b.window->findChild<QComboBox*>("study_kind")->setCurrentIndex(3);
    b.type("study_people", "3");
    b.type("study_times", "2");
    EXPECT_TRUE(b.text("study_worth").contains("on a day of its own, within 14 days"))
        << b.text("study_worth").toStdString();
    b.shot("study-days-form");
    ASSERT_TRUE(b.key("begin_study", Qt::Key_S, Qt::ControlModifier));
    const auto study = [&] { return work::studies(b.window->lab()).front(); };
    ASSERT_EQ(study().design.kind, work::StudyKind::days);
    ASSERT_TRUE(b.key("study_pick", Qt::Key_P));
    auto* choices = b.window->findChild<QListWidget*>("study_choices");
    ASSERT_EQ(choices->count(), 6);
    ASSERT_TRUE(b.key("study_yes", Qt::Key_Return));
    EXPECT_TRUE(b.text("study_next").contains("again, today: repeat 2 of 2")) << b.text("study_next").toStdString();
    for (int left = 5; left > 0; --left) ASSERT_TRUE(b.key("study_yes", Qt::Key_Return));
    ASSERT_TRUE(b.key("study_no", Qt::Key_Escape));
    EXPECT_TRUE(b.text("study_next").startsWith("Everybody is measured")) << b.text("study_next").toStdString();
    EXPECT_TRUE(b.text("study_said").contains("a change between days counts")) << b.text("study_said").toStdString();
    EXPECT_TRUE(b.text("study_said").contains("What days do to a body is in it"));
    EXPECT_FALSE(b.text("study_said").contains("published")) << "that is of repeats within hours";
    b.shot("study-days");
    ASSERT_TRUE(b.key("study_use", Qt::Key_U));
    ASSERT_TRUE(b.key("study_yes", Qt::Key_Return));
    const auto rest = work::InForce(b.window->lab())
                          .repeatability(quantity::fat_percent, "impedance", "PG-impedance",
                              b.window->lab().now().addSecs(60), {70, 170, 25});
    ASSERT_TRUE(rest);
    EXPECT_EQ(rest->day_sd, 0) << "not the default's day on top";
    EXPECT_TRUE(b.shows("this lab's own study over days"));
}
