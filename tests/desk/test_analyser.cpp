// SPDX-License-Identifier: GPL-3.0-or-later
// The impedance analyser in the real windows: a whole test by keys, what goes wrong at it, and without a line.
#include "gui.h"

#include "desk/bench/analyser/typed_spectrum.h"

#include <QDir>

using namespace fusain;
using namespace fusain::desk;
using impedance::Segment;

namespace {

/// The demo knows the added client by name and birthday (demo/crew.json).
constexpr double true_fat = 100 * 14.6 / (14.6 + 53.8);

} // namespace

TEST(AnalyserDesk, AWholeTestByKeysAlone)
{
    Bench b(8, 3);
    b.add_client();
    ASSERT_NO_FATAL_FAILURE(b.to_current());
    b.shot("analyser-ready");
    EXPECT_EQ(b.visit().mass_source, "platform") << "its own platform";
    ASSERT_TRUE(b.key("spectrum_main", Qt::Key_Space));
    ASSERT_TRUE(b.wait([&] { return b.seen_analyser().state.seconds > 25; }));
    b.shot("analyser-live");
    ASSERT_TRUE(b.wait([&] { return b.seen_analyser().complete; }, 30000)) << b.title().toStdString();
    EXPECT_EQ(b.title(), "Got it") << b.text("found").toStdString();
    ASSERT_TRUE(b.key("spectrum_main", Qt::Key_Space));
    ASSERT_TRUE(b.wait([&] { return b.analyser().enough(b.visit()); }));
    b.shot("analyser-taken");
    ASSERT_TRUE(b.key("spectrum_done", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return b.text("result_title").contains("% fat"); })) << b.title().toStdString();
    b.shot("analyser-result");
    const long id = b.window->session().visit_id();
    const auto stored = b.store->replay(id);
    ASSERT_TRUE(stored);
    const auto result = stored->result();
    ASSERT_TRUE(result);
    EXPECT_NEAR((*result)[quantity::fat_percent].value, true_fat, 3 * (*result)[quantity::fat_percent].u);
    // every point is kept, in columns that say what they are
    const bench::Signal kept = *b.store->signal(id, 1);
    EXPECT_EQ(kept.columns, bench::analyser_columns);
    EXPECT_GT(kept.size(), 500u);
    // another equation moves every number at once, and stays with who and when
    const double before = (*result)[quantity::fat_percent].value;
    auto* box = b.window->findChild<QComboBox*>("choose_fat_free_mass");
    ASSERT_TRUE(box);
    box->setFocus();
    QTest::keyClick(box, Qt::Key_Down);
    ASSERT_TRUE(b.wait([&] { return !b.visit().choices.empty(); }));
    EXPECT_EQ(b.visit().choices.back().who, "M. Tanguy");
    const auto moved = b.visit().result();
    EXPECT_NE((*moved)[quantity::fat_percent].value, before);
    EXPECT_NE((*moved)[quantity::segment_lean[0]].value, (*result)[quantity::segment_lean[0]].value)
        << "segments follow the whole";
    b.window->findChild<QWidget*>("every_step")->setFocus();
    ASSERT_NO_FATAL_FAILURE(b.give_out());
    ASSERT_TRUE(b.wait([&] { return b.visit().finished; })) << b.text("said").toStdString();
    ASSERT_TRUE(b.key("lab_sheet", Qt::Key_L));
    EXPECT_EQ(QDir(b.dir.path() + "/sheets").entryList({"*.pdf"}).size(), 2);
    const QString title = b.text("result_title");
    b.reopen();
    ASSERT_FALSE(b.window->session().resume(id, "M. Tanguy"));
    b.window->show_result();
    EXPECT_EQ(b.text("result_title"), title) << "tomorrow: the same digits";
}

TEST(AnalyserDesk, WhatIsWrongIsSaidWhileTheClientStandsThereAndOnlyThatIsMeasuredAgain)
{
    Bench b(8, 5);
    b.add_client();
    ASSERT_NO_FATAL_FAILURE(b.to_current());
    b.room->direct("fault contact_8 on"); // the left heel is off its electrode
    ASSERT_TRUE(b.key("spectrum_main", Qt::Key_Space));
    ASSERT_TRUE(b.wait([&] { return b.text("found").contains("Left heel: poor contact"); }))
        << b.text("found").toStdString();
    b.shot("analyser-contact");
    ASSERT_TRUE(b.wait([&] { return b.seen_analyser().complete; }, 30000));
    EXPECT_TRUE(b.title().contains("left leg")) << b.title().toStdString();
    ASSERT_TRUE(b.key("spectrum_main", Qt::Key_Space)); // keep the good ones
    ASSERT_TRUE(b.wait([&] { return !b.visit().running() && b.analyser().segments(b.visit())[0].trial == 1; }));
    EXPECT_FALSE(b.visit().result());
    b.room->direct("fault contact_8 off"); // wiped
    ASSERT_TRUE(b.wait([&] { return b.seen_analyser().contact_ohm[7] < impedance::contact_limit_ohm; }));
    b.shot("analyser-again");
    for (int i = 0; i < 4 && !b.analyser().enough(b.visit()); ++i) ASSERT_NO_FATAL_FAILURE(b.sweep());
    ASSERT_TRUE(b.visit().result()) << b.title().toStdString();
    EXPECT_EQ(b.analyser().segments(b.visit())[0].trial, 1) << "the good ones stay";
    EXPECT_GT(b.analyser().segments(b.visit())[4].trial, 1);
    EXPECT_TRUE(b.text("found").isEmpty()) << b.text("found").toStdString();
}

TEST(AnalyserDesk, HandsOnTheMetalAreNotWeighedAndALostLineIsAPause)
{
    Bench b(8, 6);
    b.add_client();
    ASSERT_NO_FATAL_FAILURE(b.to_bench(false, true));
    ASSERT_TRUE(b.key("confirm_who", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return b.button("take_mass") && b.button("take_mass")->isEnabled(); }));
    b.room->direct("grip");
    ASSERT_TRUE(b.wait([&] { return b.title() == "Hands off the metal"; })) << b.title().toStdString();
    EXPECT_FALSE(b.button("take_mass")->isEnabled());
    b.room->direct("stand");
    ASSERT_TRUE(b.key("take_mass", Qt::Key_Space));
    ASSERT_TRUE(b.key("see_stood", Qt::Key_4)); // all but one
    ASSERT_TRUE(b.key("see_bare", Qt::Key_1));
    ASSERT_TRUE(b.wait([&] { return b.text("left_out").contains("feet off their place"); }))
        << b.text("left_out").toStdString();
    ASSERT_TRUE(b.key("prepared", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return b.seen_analyser().hands; }));
    EXPECT_FALSE(b.analyser().left_out.empty());
    ASSERT_TRUE(b.key("spectrum_main", Qt::Key_Space));
    ASSERT_TRUE(b.wait([&] { return b.seen_analyser().state.seconds > 10; }));
    b.room->direct("unplug 4");
    ASSERT_TRUE(b.wait([&] { return b.title().startsWith("The line is gone"); })) << b.title().toStdString();
    EXPECT_TRUE(b.visit().running()) << "it goes on";
    ASSERT_TRUE(b.wait([&] { return b.seen_analyser().complete; }, 40000)) << b.title().toStdString();
    ASSERT_TRUE(b.key("spectrum_main", Qt::Key_Space));
    ASSERT_TRUE(b.wait([&] { return b.visit().trials.front().status == bench::Trial::Status::taken; }));
    // the doubt of what was left out stands at the result
    const auto result = b.visit().result();
    ASSERT_TRUE(result) << result.messages().front().text;
    EXPECT_TRUE(std::any_of(
        result.messages().begin(), result.messages().end(), [](const Message& m) { return m.code == "left_out"; }));
}

TEST(AnalyserDesk, WithoutALineItIsTyped)
{
    Bench b;
    b.reopen({});
    b.add_client();
    ASSERT_NO_FATAL_FAILURE(b.to_bench(false, true));
    ASSERT_TRUE(b.key("confirm_who", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return !b.text("live_mass").isEmpty(); }));
    QTest::keyClicks(b.field("mass_kg"), "68.44");
    QTest::keyClick(b.field("mass_kg"), Qt::Key_Return);
    ASSERT_TRUE(b.key("prepare_all", Qt::Key_Space));
    ASSERT_TRUE(b.key("prepared", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return b.title() == "Type what the analyser shows"; })) << b.title().toStdString();
    b.shot("analyser-typed");
    const auto type_in = [&](const char* field, const char* text) {
        QTest::keyClicks(b.field(field), text);
        QTest::keyClick(b.field(field), Qt::Key_Return);
    };
    const auto file = [&](const char* text) {
        QFile f(b.dir.path() + "/a.csv");
        EXPECT_TRUE(f.open(QIODevice::WriteOnly));
        f.write(text);
        f.close();
        b.window->findChild<TypedSpectrum*>()->read(f.fileName());
    };
    file("segment,f_khz,r_ohm,x_ohm\nwhole_body,50,5O0,60\n");
    EXPECT_TRUE(b.text("spectrum_said").contains("a.csv, line 2, column r_ohm"))
        << b.text("spectrum_said").toStdString();
    file("quantity,value,unit\nbody fat,27.4,%\n");
    ASSERT_TRUE(b.wait([&] { return b.analyser().own_numbers.size() == 1; })) << b.text("spectrum_said").toStdString();
    EXPECT_FALSE(b.visit().result()) << "never computed with";
    type_in("typed_r", "58"); // swapped: said, and what was typed stays
    type_in("typed_x", "280");
    ASSERT_TRUE(b.wait([&] { return b.text("spectrum_said").contains("swapped"); }))
        << b.text("spectrum_said").toStdString();
    EXPECT_EQ(b.field("typed_r")->text(), "58");
    EXPECT_TRUE(b.visit().trials.empty());
    for (const auto& [field, text] : {std::pair{"typed_r", "560"}, {"typed_x", "61"}}) {
        b.field(field)->setFocus();
        b.field(field)->selectAll();
        QTest::keyClicks(b.field(field), text);
        QTest::keyClick(b.field(field), Qt::Key_Return);
    }
    ASSERT_TRUE(b.wait([&] { return b.visit().trials.size() == 1; })) << b.text("spectrum_said").toStdString();
    EXPECT_EQ(b.visit().trials[0].source, "typed");
    ASSERT_TRUE(b.key("spectrum_done", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return b.text("result_title").contains("% fat"); }));
    ASSERT_TRUE(b.key("every_equation", Qt::Key_E));
    b.shot("analyser-equations");
    const auto* table = b.window->findChild<QTableWidget*>("equations");
    ASSERT_TRUE(table && table->isVisible());
    const int equations = static_cast<int>(impedance::equations().size());
    ASSERT_EQ(table->rowCount(), equations + 1) << "and what the instrument says itself";
    EXPECT_EQ(table->item(equations, 3)->text().trimmed(), "27.4 %");
}

TEST(AnalyserDesk, ACrewIsBookedInOneGoAndTheNextClientIsOneKeyAway)
{
    Bench b(8, 8);
    const auto first = b.add_client("Aliénor", "Quéméner");
    b.add_client("Malo", "Stephan");
    const auto third = b.add_client("Yuna", "Floch");
    b.window->show_day();
    ASSERT_TRUE(b.key("day_group", Qt::Key_G));
    auto* names = b.window->findChild<QPlainTextEdit*>("group_names");
    ASSERT_TRUE(names);
    names->setPlainText("Quéméner\nStephan\nnobody of that name\nFloch");
    ASSERT_TRUE(b.wait([&] { return b.text("group_trouble").contains("nobody is called \"nobody of that name\""); }))
        << b.text("group_trouble").toStdString();
    EXPECT_FALSE(b.button("group_book")->isEnabled());
    names->setPlainText("Quéméner\nStephan\nFloch");
    b.field("group_from")->setText("07:30");
    ASSERT_TRUE(b.wait([&] { return b.text("group_trouble").contains("has passed"); }))
        << b.text("group_trouble").toStdString();
    b.field("group_from")->setText("09:30");
    EXPECT_TRUE(b.text("group_said").contains("3 people")) << b.text("group_said").toStdString();
    b.shot("group");
    ASSERT_TRUE(b.key("group_book", Qt::Key_Return, Qt::ControlModifier));
    work::Lab lab(b.store);
    const auto day = lab.diary->day(lab.today());
    ASSERT_EQ(day.size(), 3u);
    EXPECT_EQ(day[0].client_id, first.id);
    EXPECT_EQ(day[1].parts[0].at.from - day[0].parts[0].at.from, 10);
    EXPECT_EQ(day[2].client_id, third.id);
    // the first is measured; the next is one key away
    b.window->show_clients();
    ASSERT_TRUE(b.wait([&] { return b.button("start_analyser"); }));
    b.type("search", "quemener");
    ASSERT_NO_FATAL_FAILURE(b.to_current());
    ASSERT_NO_FATAL_FAILURE(b.sweep());
    ASSERT_TRUE(b.key("spectrum_done", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return b.button("next_measurement"); })) << b.title().toStdString();
    ASSERT_TRUE(b.key("next_measurement", Qt::Key_N));
    ASSERT_TRUE(b.wait([&] { return b.text("screening_title") != "" && b.shows("Stephan"); }));
    EXPECT_EQ(lab.diary->booking(day[0].id)->state, records::BookingState::measured);
}

TEST(AnalyserDesk, ImpedanceChamberAndTankInOneBookingOneLeadsToTheNext)
{
    Bench b(8, 9);
    const auto client = b.add_client();
    records::Booking k;
    k.client_id = client.id;
    k.made_by = "M. Tanguy";
    const auto m = records::minute_of(work::clock_now());
    k.parts.push_back({0, client.id, method::impedance, "PG-impedance", {m, m + 10}});
    k.parts.push_back({0, client.id, method::air_displacement, "PG-air_displacement", {m + 10, m + 20}});
    k.parts.push_back({0, client.id, method::hydrostatic, "PG-hydrostatic", {m + 20, m + 60}});
    const auto booked = b.window->lab().diary->book(k, true);
    ASSERT_TRUE(booked) << booked.messages().front().text;
    const auto state = [&] { return b.window->lab().diary->booking(booked->id)->state; };
    const auto next = [&](Method method) {
        ASSERT_TRUE(b.key("next_measurement", Qt::Key_N)) << b.title().toStdString();
        ASSERT_TRUE(b.wait([&] { return b.visit().method == method && b.visit().stops_asked; }));
        EXPECT_EQ(state(), records::BookingState::arrived) << "not done before its last part";
        EXPECT_EQ(b.visit().next_step(), bench::step::who);
    };
    std::vector<long> visits;
    const auto done = [&] { visits.push_back(b.window->session().visit_id()); };

    ASSERT_NO_FATAL_FAILURE(b.to_current());
    ASSERT_NO_FATAL_FAILURE(b.sweep());
    ASSERT_TRUE(b.key("spectrum_done", Qt::Key_Return));
    done();
    ASSERT_NO_FATAL_FAILURE(next(method::air_displacement));
    ASSERT_NO_FATAL_FAILURE(b.through_to_runs());
    for (int i = 0; i < 2; ++i) ASSERT_NO_FATAL_FAILURE(b.record());
    if (!displacement::agree(b.visit().readings())) ASSERT_NO_FATAL_FAILURE(b.record());
    ASSERT_TRUE(b.key("runs_done", Qt::Key_Return));
    ASSERT_TRUE(b.key("use_gas", Qt::Key_Return));
    done();
    // given out, and the program is closed and opened again: the tank is still to come
    ASSERT_NO_FATAL_FAILURE(b.give_out());
    ASSERT_TRUE(b.wait([&] { return b.visit().finished; }));
    b.reopen();
    emit b.window->findChild<ClientsPage*>()->open_visit(visits.back());
    ASSERT_TRUE(b.key("next_measurement", Qt::Key_N)) << b.title().toStdString();
    ASSERT_TRUE(b.key("screening_start", Qt::Key_Return)) << "the screening that was kept is taken up";
    ASSERT_TRUE(b.wait([&] { return b.visit().method == method::hydrostatic && b.visit().stops_asked; }));
    EXPECT_EQ(state(), records::BookingState::arrived);
    ASSERT_NO_FATAL_FAILURE(b.through_to_trials());
    for (int i = 0; i < 9 && !b.visit().result(); ++i) ASSERT_NO_FATAL_FAILURE(b.take_trial());
    ASSERT_TRUE(b.key("trials_done", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return !b.text("result_title").isEmpty(); }));
    done();
    ASSERT_NO_FATAL_FAILURE(b.give_out());
    ASSERT_TRUE(b.wait([&] { return state() == records::BookingState::measured; }));

    // one true body: every method finds it within its own doubt, and each stands on the disk
    for (long id : visits) {
        const auto stored = b.store->replay(id);
        ASSERT_TRUE(stored);
        EXPECT_TRUE(stored->finished) << id;
        const auto r = stored->result();
        ASSERT_TRUE(r);
        EXPECT_NEAR((*r)[quantity::fat_percent].value, true_fat, 3 * (*r)[quantity::fat_percent].u) << id;
    }
}
