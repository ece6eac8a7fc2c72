// SPDX-License-Identifier: GPL-3.0-or-later
// From the first start of an empty lab to a result: by typing alone, from files, and over lines that speak otherwise.
#include "new_lab.h"

#include "desk/bench/analyser/typed_spectrum.h"
#include "desk/bench/xray/typed_scan.h"
#include "virtual/chamber/chamber_air.h"
#include "virtual/tank/swing_trace.h"
#include "work/lab/lines.h"

#include <fstream>
#include <sstream>

using namespace fusain;
using namespace fusain::desk;

namespace {

std::string chamber_csv(const std::vector<chamber::Sample>& run)
{
    std::ostringstream text;
    text.precision(12);
    text << "t_s,p_test_pa,p_reference_pa,door\n";
    for (const auto& s : run) text << s.t_s << ',' << s.test_pa << ',' << s.reference_pa << ',' << s.door_open << '\n';
    return text.str();
}

} // namespace

TEST(FirstDay, TankByTyping)
{
    NewLab b;
    ASSERT_NO_FATAL_FAILURE(b.first_steps(&bench::instrument_of(method::hydrostatic), "typed"));
    ASSERT_NO_FATAL_FAILURE(b.to_bench());
    ASSERT_NO_FATAL_FAILURE(b.typed_mass());
    ASSERT_NO_FATAL_FAILURE(b.typed_breath());
    type_in(b, "typed_zero", "7.54");
    ASSERT_TRUE(b.wait([&] { return b.tank().zero_kg.has_value(); }));
    type_in(b, "hydrostatic.water_temp_c", "34.6");
    ASSERT_TRUE(b.wait([&] { return b.visit().next_step() == bench::step::trials; }));
    for (const char* one : {"9.96", "9.95", "9.97"}) {
        const std::size_t before = b.visit().trials.size();
        ASSERT_TRUE(b.wait([&] { return b.field("typed_low")->text().isEmpty(); }));
        type_in(b, "typed_low", one);
        QTest::keyClick(b.field("typed_high"), Qt::Key_Return);
        ASSERT_TRUE(b.wait([&] { return b.visit().trials.size() > before; }));
    }
    ASSERT_TRUE(b.key("trials_done", Qt::Key_Return));
    ASSERT_NO_FATAL_FAILURE(b.ends_with_a_result());
    b.all_from("typed");
}

TEST(FirstDay, TankFromFiles)
{
    NewLab b;
    ASSERT_NO_FATAL_FAILURE(b.first_steps(&bench::instrument_of(method::hydrostatic), "file"));
    ASSERT_NO_FATAL_FAILURE(b.to_bench());
    ASSERT_NO_FATAL_FAILURE(b.typed_mass());
    ASSERT_NO_FATAL_FAILURE(b.typed_breath());
    type_in(b, "typed_zero", "7.54"); // the recordings are net: it must not come off a second time
    ASSERT_TRUE(b.wait([&] { return b.tank().zero_kg.has_value(); }));
    type_in(b, "hydrostatic.water_temp_c", "34.6");
    ASSERT_TRUE(b.wait([&] { return b.visit().next_step() == bench::step::trials; }));

    // files that are none: said with line and column, nothing is taken
    struct Bad {
        const char *text, *words;
    } bad[] = {
        {"", "is empty"},
        {"name;born\nx;y\n", "columns must be t_s,mass_kg"},
        {"t_s;mass_kg\n0;2,41\n", "parted by commas"},
        {"t_s,mass_kg\n0,2,41\n0,01,2,42\n", "Line 2"},
        {"\xEF\xBB\xBFt_s,mass_kg\n0,2.41\n0.01,x\n", "Line 3, column mass_kg"},
        {"t_s,mass_kg\n0,2.41\n0.01,2.41\n", "ended before"},
    };
    for (const Bad& each : bad) {
        b.bring("swing_file", b.file("bad.csv", each.text));
        ASSERT_TRUE(b.wait([&] { return b.shows(each.words); }, 3000)) << each.text << b.title().toStdString();
        EXPECT_TRUE(b.visit().trials.empty());
    }
    for (std::uint64_t seed = 3; b.visit().trials.size() < 3; ++seed) {
        ASSERT_LT(seed, 20u);
        virt::Swing truth;
        truth.seed = seed;
        std::string csv = "t_s,mass_kg\n";
        for (const auto& s : virt::make_trace(truth)) csv += std::to_string(s.t_s) + "," + std::to_string(s.kg) + "\n";
        b.bring("swing_file", b.file(("swing" + std::to_string(seed) + ".csv").c_str(), csv));
        ASSERT_TRUE(b.wait([&] { return b.title().contains("was the zero taken off"); })) << b.title().toStdString();
        if (seed == 3) b.shot("swing-file");
        const std::size_t before = b.visit().trials.size();
        QTest::keyClick(b.window.get(), Qt::Key_1);
        ASSERT_TRUE(b.wait([&] { return b.visit().trials.size() > before; })) << b.text("trouble").toStdString();
        const bench::Weighing* w = b.tank().weighing(static_cast<int>(before) + 1);
        ASSERT_TRUE(w);
        EXPECT_NEAR(w->kg, truth.level_kg, 0.03);
        EXPECT_LT(w->u_kg, 0.03) << "the reader's doubt, not that of an eye";
        ASSERT_EQ(b.store->recorded(b.window->session().visit_id()).size(), before + 1) << "the recording is kept";
    }
    ASSERT_TRUE(b.key("trials_done", Qt::Key_Return));
    ASSERT_NO_FATAL_FAILURE(b.ends_with_a_result());
    b.all_from("file");
}

TEST(FirstDay, TankOverLinesThatSpeakOtherwise)
{
    NewLab b(1, {{"tank", {"LC=letter_state@%1/cell", "SC=asked_frame@%1/scale", "TW=thermometer@tcp:4711"}}});
    ASSERT_NO_FATAL_FAILURE(b.first_steps(&bench::instrument_of(method::hydrostatic), "line"));
    ASSERT_NO_FATAL_FAILURE(b.connect_line(b.room->folder() + "/cell", "letter_state", "LC", 19200));
    ASSERT_NO_FATAL_FAILURE(b.connect_line(b.room->folder() + "/scale", "asked_frame", "SC", 19200));
    ASSERT_NO_FATAL_FAILURE(b.connect_line("tcp:127.0.0.1:4711", "thermometer", "TW", 0));
    ASSERT_TRUE(b.wait([&] { return b.window->session().live().lines.size() == 3; }));
    ASSERT_TRUE(b.wait([&] {
        const auto& lines = b.window->session().live().lines;
        return std::all_of(lines.begin(), lines.end(), [](const auto& l) { return l.connected; });
    }));
    b.shot("lines-kept");
    b.window->show_clients();
    ASSERT_NO_FATAL_FAILURE(b.to_bench());
    ASSERT_TRUE(b.key("confirm_who", Qt::Key_Return));
    ASSERT_TRUE(b.key("take_mass", Qt::Key_Space)) << b.title().toStdString();
    ASSERT_TRUE(b.wait([&] { return b.visit().mass_kg.has_value(); }));
    EXPECT_NEAR(*b.visit().mass_kg, 68.4, 15) << "an ordinary body of that height";
    ASSERT_NO_FATAL_FAILURE(b.typed_breath());
    ASSERT_TRUE(b.key("take_zero", Qt::Key_Space)) << b.title().toStdString();
    ASSERT_TRUE(b.key("take_water", Qt::Key_Space)) << b.title().toStdString();
    ASSERT_TRUE(b.wait([&] { return b.visit().next_step() == bench::step::trials; }));
    for (int i = 0; i < 8 && !b.visit().result(); ++i) {
        const std::size_t before = b.visit().trials.size();
        ASSERT_TRUE(b.key("trial_main", Qt::Key_Space));
        ASSERT_TRUE(b.wait([&] { return b.visit().trials.size() > before; }));
        b.pass(3500); // the client breathes out
        ASSERT_TRUE(b.key("trial_main", Qt::Key_Space));
        ASSERT_TRUE(b.wait([&] { return b.seen_tank().let_go; }));
        ASSERT_TRUE(b.wait([&] { return b.button("trial_main") && b.button("trial_main")->isEnabled(); }));
        ASSERT_TRUE(b.key("trial_main", Qt::Key_Space));
        ASSERT_TRUE(b.wait([&] { return !b.visit().running() && b.window->session().live().trial == 0; }))
            << i << b.title().toStdString() << b.text("trouble").toStdString();
    }
    ASSERT_TRUE(b.visit().result()) << b.visit().readings().size();
    ASSERT_TRUE(b.key("trials_done", Qt::Key_Return));
    ASSERT_NO_FATAL_FAILURE(b.ends_with_a_result());
    b.all_from("line");
}

TEST(FirstDay, ChamberByTyping)
{
    NewLab b;
    ASSERT_NO_FATAL_FAILURE(b.first_steps(&bench::instrument_of(method::air_displacement), "typed"));
    ASSERT_NO_FATAL_FAILURE(b.to_bench(true));
    ASSERT_NO_FATAL_FAILURE(b.typed_mass());
    ASSERT_NO_FATAL_FAILURE(b.to_calibrate());
    ASSERT_TRUE(b.key("self_calibrated", Qt::Key_T));
    ASSERT_TRUE(b.wait([&] { return b.title().contains("type what the chamber shows"); })) << b.title().toStdString();
    for (const char* litres : {"64.30", "64.36"}) {
        const std::size_t before = b.visit().readings().size();
        ASSERT_TRUE(b.wait([&] { return b.field("typed_volume")->text().isEmpty(); }));
        type_in(b, "typed_volume", litres);
        ASSERT_TRUE(b.wait([&] { return b.visit().readings().size() > before; }));
    }
    ASSERT_NO_FATAL_FAILURE(b.predicted_gas());
    ASSERT_NO_FATAL_FAILURE(b.ends_with_a_result());
    b.all_from("typed");
}

TEST(FirstDay, ChamberFromFiles)
{
    NewLab b;
    ASSERT_NO_FATAL_FAILURE(b.first_steps(&bench::instrument_of(method::air_displacement), "file"));
    ASSERT_NO_FATAL_FAILURE(b.to_bench(true));
    ASSERT_NO_FATAL_FAILURE(b.typed_mass());
    ASSERT_NO_FATAL_FAILURE(b.to_calibrate());
    virt::ChamberAir air({}, 5);
    virt::Body body;
    body.fat_mass_kg = 18.44; // what was typed of the scale, 68.44 kg
    b.bring("calibration_file", b.file("empty.csv", chamber_csv(virt::record(air, 0, 25, 80))));
    ASSERT_TRUE(b.wait([&] { return b.visit().last_taken(bench::take::empty) != nullptr; }))
        << b.title().toStdString() << b.text("trouble").toStdString();
    air.set_cylinder(50.012);
    const QString cylinder = b.file("cylinder.csv", chamber_csv(virt::record(air, 30, 25, 80)));
    b.shot("chamber-files");
    b.type("air_displacement.cylinder_l", "50.012");
    b.bring("calibration_file", cylinder);
    ASSERT_TRUE(b.wait([&] { return bool(b.chamber().calibration(b.visit())); }))
        << b.title().toStdString() << b.text("trouble").toStdString();
    if (b.button("calibrated")) ASSERT_TRUE(b.key("calibrated", Qt::Key_Return));
    air.set_cylinder(0);
    air.set_client(&body);
    for (int i = 0; i < 2; ++i) {
        b.bring("run_file", b.file(i ? "run2.csv" : "run1.csv", chamber_csv(virt::record(air, 60 + 40 * i, 25, 80))));
        ASSERT_TRUE(b.wait([&] { return b.visit().readings().size() == static_cast<std::size_t>(i) + 1; }))
            << b.title().toStdString() << b.text("trouble").toStdString();
        EXPECT_NEAR(b.visit().readings().back(), air.true_raw_l(), 0.08);
    }
    ASSERT_NO_FATAL_FAILURE(b.predicted_gas());
    ASSERT_TRUE(b.wait([&] { return !b.text("result_title").isEmpty(); })) << b.title().toStdString();
    b.all_from("file");
}

TEST(FirstDay, ChamberOverALineThatSpeaksOtherwise)
{
    NewLab b(4, {{"chamber", {"two_pressures@%1/pressures"}}});
    ASSERT_NO_FATAL_FAILURE(b.first_steps(&bench::instrument_of(method::air_displacement), "line"));
    ASSERT_NO_FATAL_FAILURE(b.connect_line(b.room->folder() + "/pressures", "two_pressures", "", 115200));
    b.window->show_clients();
    ASSERT_NO_FATAL_FAILURE(b.to_bench(true));
    ASSERT_NO_FATAL_FAILURE(b.typed_mass());
    ASSERT_NO_FATAL_FAILURE(b.to_calibrate());
    ASSERT_NO_FATAL_FAILURE(b.calibrate());
    ASSERT_TRUE(b.wait([&] { return b.visit().next_step() == bench::step::runs; })) << b.title().toStdString();
    for (int i = 0; i < 3 && !displacement::agree(b.visit().readings()); ++i) ASSERT_NO_FATAL_FAILURE(b.record());
    ASSERT_NO_FATAL_FAILURE(b.predicted_gas());
    ASSERT_TRUE(b.wait([&] { return !b.text("result_title").isEmpty(); })) << b.title().toStdString();
    b.all_from("line");
}

TEST(FirstDay, AnalyserEachWay)
{
    for (const char* way : {"typed", "file", "line"}) {
        SCOPED_TRACE(way);
        NewLab b(4, {{"analyser", {"segment_points@%1/points"}}});
        ASSERT_NO_FATAL_FAILURE(b.first_steps(&bench::instrument_of(method::impedance), way));
        if (std::string(way) == "line") {
            // its plates and platform speak the bench line, its points another
            bench::LineSetup points = bench::bench_line((b.room->folder() + "/points").toStdString());
            points.decoder = bench::shipped_decoder("segment_points");
            points.serial = points.decoder->serial;
            ASSERT_FALSE(work::keep_line(*b.store, points));
            b.reopen({b.room->lines()[2]});
            b.window->show_clients();
            ASSERT_NO_FATAL_FAILURE(b.to_current());
            for (int i = 0; i < 4 && !b.visit().result(); ++i) ASSERT_NO_FATAL_FAILURE(b.sweep());
            ASSERT_TRUE(b.visit().result());
            b.all_from("line");
            continue;
        }
        ASSERT_NO_FATAL_FAILURE(b.to_bench(false, true));
        ASSERT_NO_FATAL_FAILURE(b.typed_mass());
        ASSERT_TRUE(b.key("prepare_all", Qt::Key_Space));
        ASSERT_TRUE(b.key("prepared", Qt::Key_Return));
        ASSERT_TRUE(b.wait([&] { return b.visit().next_step() == bench::step::spectrum; })) << b.title().toStdString();
        if (std::string(way) == "typed") {
            type_in(b, "typed_r", "520");
            type_in(b, "typed_x", "58");
        } else {
            b.window->findChild<TypedSpectrum*>()->read(
                b.file("spectra.csv", "segment,f_khz,r_ohm,x_ohm\nwhole_body,50,520,58\n"));
        }
        ASSERT_TRUE(b.wait([&] { return bool(b.visit().result()); }))
            << b.title().toStdString() << b.text("spectrum_said").toStdString();
        b.all_from(way);
    }
}

TEST(FirstDay, XrayEachWay)
{
    for (const char* way : {"typed", "file", "line"}) {
        SCOPED_TRACE(way);
        const bool line = std::string(way) == "line";
        NewLab b(line ? 1 : 4, {{"tank", {"SC=framed_xor@%1/scale"}}});
        ASSERT_NO_FATAL_FAILURE(b.first_steps(&bench::instrument_of(method::absorptiometry), way));
        if (line) ASSERT_NO_FATAL_FAILURE(b.connect_line(b.room->folder() + "/scale", "framed_xor", "SC", 38400));
        b.window->show_clients();
        ASSERT_TRUE(b.wait([&] { return b.button("start_visit") != nullptr; }));
        EXPECT_FALSE(b.button("start_chamber")) << "only what the lab has";
        ASSERT_TRUE(b.key("start_visit", Qt::Key_Return, Qt::ControlModifier));
        ASSERT_NO_FATAL_FAILURE(b.screen());
        ASSERT_TRUE(b.key("screening_keep", Qt::Key_Return));
        ASSERT_TRUE(b.key("screening_start", Qt::Key_Return));
        ASSERT_TRUE(b.wait([&] { return b.visit().stops_asked; })) << b.text("trouble").toStdString();
        double kg = 68.44;
        if (line) {
            ASSERT_TRUE(b.key("confirm_who", Qt::Key_Return));
            ASSERT_TRUE(b.key("take_mass", Qt::Key_Space)) << b.title().toStdString();
            ASSERT_TRUE(b.wait([&] { return b.visit().mass_kg.has_value(); }))
                << b.title().toStdString() << b.text("trouble").toStdString();
            EXPECT_EQ(b.visit().mass_source, "scale");
            kg = *b.visit().mass_kg;
        } else {
            ASSERT_NO_FATAL_FAILURE(b.typed_mass());
        }
        ASSERT_TRUE(b.key("prepare_all", Qt::Key_Space));
        ASSERT_TRUE(b.key("prepared", Qt::Key_Return));
        ASSERT_TRUE(b.wait([&] { return b.visit().next_step() == bench::step::scan; })) << b.title().toStdString();
        // a table of regions that add up to the mass
        const double per = 1000 * (kg - 4.5 - 2.4) / 5;
        std::ostringstream csv;
        csv << "region,fat_g,lean_g,bmc_g\nhead,900,3100,500\n";
        for (const char* region : {"right_arm", "left_arm", "trunk", "right_leg", "left_leg"})
            csv << region << ',' << 0.22 * per << ',' << 0.78 * per << ",480\n";
        auto* typed = b.window->findChild<TypedScan*>();
        typed->open();
        ASSERT_TRUE(QMetaObject::invokeMethod(
            typed, "read", Qt::DirectConnection, Q_ARG(QString, b.file("regions.csv", csv.str()))));
        ASSERT_TRUE(b.wait([&] { return bool(b.visit().result()) || b.button("scan_understood"); }))
            << b.title().toStdString() << b.text("scan_said").toStdString();
        EXPECT_TRUE(b.visit().result()) << b.text("trouble").toStdString();
        b.all_from("file");
    }
}

TEST(FirstDay, ConnectingTellsUnpluggedWrongSpeedAndGarbageApart)
{
    NewLab b(1, {{"tank", {"LC=letter_state@%1/cell"}}});
    b.window->show_instruments();
    const auto listen = [&](const QString& place, int baud) {
        ASSERT_TRUE(b.key("line_listen", Qt::Key_L, Qt::AltModifier));
        choose(b, "line_place", "other");
        b.type("line_other", place);
        choose(b, "line_baud", QString::number(baud));
        ASSERT_TRUE(b.key("line_listen", Qt::Key_L, Qt::AltModifier));
    };
    ASSERT_TRUE(b.key("lab_lines", Qt::Key_L));
    ASSERT_TRUE(b.key("connect_one", Qt::Key_N));
    choose(b, "line_place", "other");
    ASSERT_NO_FATAL_FAILURE(listen(b.room->folder() + "/nothing", 9600));
    ASSERT_TRUE(b.wait([&] { return b.text("line_said").contains("not plugged in"); }))
        << b.text("line_said").toStdString();
    ASSERT_NO_FATAL_FAILURE(listen(b.room->folder() + "/cell", 9600));
    ASSERT_TRUE(b.wait([&] { return b.text("line_said").contains("no text"); })) << b.text("line_said").toStdString();
    b.shot("connect-garbage");
    // the right speed is found, and proposed with the decoder that fits
    ASSERT_TRUE(b.key("line_speeds", Qt::Key_S, Qt::AltModifier));
    ASSERT_TRUE(b.wait([&] { return b.text("line_said").contains("State letter"); }, 15000))
        << b.text("line_said").toStdString();
    choose(b, "line_feeds", "LC");
    ASSERT_TRUE(b.key("line_keep", Qt::Key_S, Qt::ControlModifier));
    const auto kept = work::kept_lines(*b.store).lines;
    ASSERT_EQ(kept.size(), 1u);
    EXPECT_EQ(kept[0].serial.baud, 19200);
    ASSERT_TRUE(b.wait(
        [&] { return !b.window->session().live().lines.empty() && b.window->session().live().lines[0].connected; }));
    bench::LineSetup second = kept[0];
    second.place = "/dev/ttyUSB7";
    const auto taken = work::keep_line(*b.store, second);
    ASSERT_TRUE(taken) << "two lines for one load cell";
    EXPECT_EQ(taken->code, "line_taken");
    // a decoder file with a mistake is named, the others stay
    QDir().mkpath(work::decoder_folder(*b.store));
    b.file("decoders/mine.json", R"({"kind":"fusain line decoder","id":"mine","title":"x","pattern":"[","unit":"kg"})");
    ASSERT_TRUE(b.key("connect_one", Qt::Key_N));
    ASSERT_TRUE(b.key("line_leave", Qt::Key_Escape));
    ASSERT_TRUE(b.wait([&] { return b.text("lines_wrong").contains("mine.json: \"pattern\""); }))
        << b.text("lines_wrong").toStdString();
    // two that understand the same: nothing is proposed, the technician chooses
    std::ifstream shipped(std::string(TEST_SOURCE_DIR) + "/data/decoders/letter_state.json");
    std::string twin{std::istreambuf_iterator<char>(shipped), {}};
    twin.replace(twin.find("\"letter_state\""), 14, "\"our_own\"");
    twin.replace(twin.find("State letter,"), 13, "Our display,");
    b.file("decoders/ours.json", twin);
    ASSERT_TRUE(b.key("connect_one", Qt::Key_N));
    choose(b, "line_place", "other");
    ASSERT_NO_FATAL_FAILURE(listen(b.room->folder() + "/cell", 19200));
    ASSERT_TRUE(b.wait([&] { return b.text("line_said").contains("equally well"); }, 8000))
        << b.text("line_said").toStdString();
    EXPECT_FALSE(b.button("line_keep")->isEnabled());
    b.shot("connect-two");
    auto* list = b.window->findChild<QListWidget*>("line_understood"); // by keys: the second of the two
    list->setFocus();
    for (const auto k : {Qt::Key_Home, Qt::Key_Down, Qt::Key_Return}) QTest::keyClick(list, k);
    EXPECT_TRUE(b.wait([&] { return b.button("line_keep")->isEnabled(); }, 3000));
    EXPECT_TRUE(list->item(1)->text().startsWith(QStringLiteral("●"))) << list->item(1)->text().toStdString();
    ASSERT_TRUE(b.key("line_leave", Qt::Key_Escape));
    ASSERT_TRUE(b.wait([&] { return b.button("forget_line") != nullptr; }));
    ASSERT_TRUE(b.key("forget_line", Qt::Key_X));
    ASSERT_TRUE(b.key("forget_line", Qt::Key_X));
    EXPECT_TRUE(work::kept_lines(*b.store).lines.empty());
}
