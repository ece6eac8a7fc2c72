// SPDX-License-Identifier: GPL-3.0-or-later
// A fifth method, made up for this test, goes through everything by its rooms (this folder) and one list
// (list/core/method/rooms.h). What must be touched elsewhere for it shows here as a failure.
#include "../desk/new_lab.h"
#include "bench/visit/methods.h"
#include "cli/batch/record.h"
#include "desk/clients/import_page.h"
#include "tape.h"
#include "work/reading/history.h"
#include "work/study/study.h"

#include <QDir>

using namespace fusain;
using namespace fusain::desk;

TEST(FifthMethod, IsKnownWhereMethodsAreListed)
{
    ASSERT_TRUE(method_of("trunk_tape"));
    EXPECT_EQ(all_methods().back(), method::trunk_tape) << "in its order";
    EXPECT_EQ(&bench::instrument_of(method::trunk_tape), &bench::tape_instrument());
    EXPECT_EQ(bench::instruments().count(method::trunk_tape), 0u) << "its instrument does not speak";
    cli::Computer command;
    const cli::Answer& answer = command.compute(R"({"method":"trunk_tape","sex":"female","age_y":30,"height_cm":171,)"
                                                R"("mass_kg":68,"trunk_tape":{"girth_cm":84}})",
        1);
    ASSERT_TRUE(answer.result) << answer.messages.front().text;
    EXPECT_EQ((*answer.result)[quantity::fat_percent].value, 21);
}

TEST(FifthMethod, IsBookedScreenedMeasuredToldStudiedAndImported)
{
    NewLab b;
    ASSERT_NO_FATAL_FAILURE(b.first_steps(&bench::tape_instrument(), "typed"));
    work::Lab& lab = b.window->lab();
    const records::Client client = b.store->find_clients("Guillou", 1).front();

    // booked for tomorrow by keys, and told how to prepare
    ASSERT_TRUE(b.key("book_client", Qt::Key_B, Qt::ControlModifier));
    b.type("book_from", "2026-11-24");
    ASSERT_TRUE(b.button("method_trunk_tape"));
    b.button("method_trunk_tape")->click();
    auto* times = b.window->findChild<QListWidget*>("book_times");
    ASSERT_TRUE(b.wait([&] { return times->count() > 0; })) << b.text("book_said").toStdString();
    ASSERT_TRUE(b.key("book_time", Qt::Key_Return, Qt::ControlModifier));
    ASSERT_EQ(lab.diary->bookings_of(client.id).size(), 1u);
    ASSERT_TRUE(b.key("day_send", Qt::Key_S));
    EXPECT_FALSE(QDir(b.dir.path() + "/outbox").entryList({"*.pdf"}).isEmpty());

    // today she comes without a booking, and is a repeat of a study
    work::Design design;
    design.method = method::trunk_tape;
    design.instrument = "S-trunk_tape";
    design.operators = QStringList{"M. Tanguy"};
    const auto study = work::begin_study(lab, design, "M. Tanguy");
    ASSERT_TRUE(study) << study.messages().front().text;
    ASSERT_FALSE(work::await_repeat(lab, *study, client.id, true, "M. Tanguy"));
    b.window->show_clients();
    ASSERT_NO_FATAL_FAILURE(b.to_bench());
    ASSERT_NO_FATAL_FAILURE(b.typed_mass());
    type_in(b, "tape_girth", "400");
    EXPECT_TRUE(b.wait([&] { return b.shows("allowed is 10 to 300"); })) << "the limit, in words";
    EXPECT_TRUE(b.visit().readings().empty());
    b.type("tape_girth", "");
    type_in(b, "tape_girth", "84");
    ASSERT_NO_FATAL_FAILURE(b.ends_with_a_result());
    b.pass(500);
    b.shot("fifth-result");
    const long visit = b.window->session().visit_id();
    const double told = b.store->snapshot(visit)->result[quantity::fat_percent].value;
    EXPECT_GT(told, 5);
    EXPECT_LT(told, 60);
    EXPECT_EQ(b.store->snapshot(visit)->method, method::trunk_tape);
    EXPECT_EQ(work::study(lab, *study)->members.size(), 1u);
    const QDir sheets(b.dir.path() + "/sheets");
    EXPECT_TRUE(b.wait([&] { return sheets.entryList({"*-client.pdf"}).size() == 1; })) << "the client's sheet";
    ASSERT_TRUE(b.key("lab_sheet", Qt::Key_L));
    EXPECT_TRUE(b.wait([&] { return sheets.entryList({"*-lab.pdf"}).size() == 1; })) << "the lab's, with the girths";
    if (qEnvironmentVariableIsSet("FUSAIN_SHOTS"))
        for (const QString& name : sheets.entryList({"*.pdf"}))
            QFile::copy(sheets.filePath(name), qEnvironmentVariable("FUSAIN_SHOTS") + '/' + name);

    // an earlier test of hers comes from a table, by one of the names that other people give it
    QFile table(b.dir.path() + "/before.csv");
    ASSERT_TRUE(table.open(QIODevice::WriteOnly));
    table.write("Number;Test date;Time;Method;Weight;Body fat %\n" + client.number.toUtf8() +
                ";12.03.2026;08:30;Tape of the trunk;69,0;26,1\n");
    table.close();
    b.window->show_clients();
    ASSERT_TRUE(b.key("import_list", Qt::Key_I, Qt::ControlModifier));
    b.window->findChild<ImportPage*>()->read(table.fileName());
    ASSERT_TRUE(b.wait([&] { return b.button("import_now") && b.button("import_now")->isEnabled(); }))
        << b.text("import_trouble").toStdString() << b.text("import_said").toStdString();
    b.button("import_now")->click();
    ASSERT_TRUE(b.wait([&] { return b.store->visits_of(client.id).size() == 2; }));

    // and what changed since is read with its own repeatability
    const auto history = work::History::of(lab, client.id);
    const auto series = history.series(quantity::fat_percent, "trunk_tape");
    ASSERT_TRUE(series);
    ASSERT_EQ(series->points.size(), 2u);
    EXPECT_EQ(series->repeatability->rms_sd, 1.5);
    EXPECT_EQ(series->points.front()->result[quantity::fat_percent].u, 4.5) << "of a test told elsewhere";
    b.window->show_rules();
    EXPECT_TRUE(b.button("rules_trunk_tape")) << "its protocol can be read and changed";
}
