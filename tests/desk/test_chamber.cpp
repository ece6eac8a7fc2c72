// SPDX-License-Identifier: GPL-3.0-or-later
// The displacement chamber in the real windows: a whole test by keys, and what goes wrong at it.
#include "bench/base/fields.h"
#include "gui.h"

#include <QDir>

using namespace fusain;
using namespace fusain::desk;
using What = bench::ChamberWhat;

namespace {

/// The demo knows the added client by name and birthday (demo/crew.json).
virt::Body added_body()
{
    return virt::parse_body("sex=female height=171 fat=14.6 ffm=53.8 density=1.099 rv=1.16 vc=4.15 gut=0.09");
}

/// Begins a run and waits until it is under way; again where a late line broke it at once, as a technician would.
void begin_run(Bench& b)
{
    for (int i = 0; i < 3; ++i) {
        ASSERT_TRUE(b.key("chamber_main", Qt::Key_Space));
        if (b.wait(
                [&] {
                    return b.visit().running() && b.window->session().live().trial == b.visit().running()->number &&
                           b.seen_chamber().state.now_s > 3;
                },
                8000))
            return;
    }
    FAIL() << b.title().toStdString() << ' ' << b.text("trouble").toStdString() << ' '
           << b.visit().trials.back().reason;
}

} // namespace

TEST(ChamberDesk, AWholeTestByKeysAlone)
{
    Bench b(8, 3);
    const auto client = b.add_client();
    ASSERT_NO_FATAL_FAILURE(b.to_runs());
    EXPECT_EQ(b.visit().method, method::air_displacement);
    EXPECT_EQ(*b.chamber().cylinder_l, virt::chamber_cylinder_l) << "taken from the register";
    for (int i = 0; i < 2; ++i) ASSERT_NO_FATAL_FAILURE(b.record());
    if (!displacement::agree(b.visit().readings())) ASSERT_NO_FATAL_FAILURE(b.record());
    for (double litres : b.visit().readings()) EXPECT_NEAR(litres, added_body().raw_volume_l(), 0.2);
    EXPECT_TRUE(b.shows("agree within"));
    ASSERT_TRUE(b.key("runs_done", Qt::Key_Return));
    EXPECT_TRUE(b.text("gas_result").contains("for age, height and sex")) << b.text("gas_result").toStdString();

    // measured: puffs in the chamber
    ASSERT_TRUE(b.key("gas_route_2", Qt::Key_2));
    ASSERT_TRUE(b.key("gas_main", Qt::Key_Space));
    ASSERT_TRUE(b.wait([&] { return b.seen_chamber().tube && b.seen_chamber().what == What::puffs; }));
    b.pass(300);
    ASSERT_TRUE(b.key("gas_main", Qt::Key_Space)); // shut the valve
    ASSERT_TRUE(b.wait([&] { return b.seen_chamber().complete && b.button("gas_main")->isEnabled(); }))
        << b.title().toStdString();
    EXPECT_EQ(b.title(), "Got it");
    ASSERT_TRUE(b.key("gas_main", Qt::Key_Space));
    ASSERT_TRUE(b.wait([&] { return b.chamber().measured_gas(b.visit()).has_value(); }));
    EXPECT_NEAR(b.chamber().measured_gas(b.visit())->litres, added_body().mean_lungs_l(), 0.25);
    ASSERT_TRUE(b.key("use_gas", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return b.text("result_title").contains("% fat"); })) << b.title().toStdString();

    const long id = b.window->session().visit_id();
    const auto stored = b.store->replay(id);
    ASSERT_TRUE(stored);
    const double fat = (*stored->result())[quantity::fat_percent].value;
    EXPECT_TRUE(b.text("result_title").startsWith(QString::number(fat, 'f', 1)))
        << b.text("result_title").toStdString();
    EXPECT_NEAR(fat, added_body().true_fat_percent(), 3 * stored->result()->budget(quantity::fat_percent).u);
    // every recording is kept whole, in the columns the command line reads
    for (const auto& t : stored->trials)
        EXPECT_EQ(b.store->signal(id, t.number)->columns,
            t.is(bench::take::puffs) ? bench::puff_columns : bench::chamber_columns);
    EXPECT_NEAR(b.store->signal(id, 1)->last_s(), bench::chamber_run_s, 1.0);
    // and read again from the disk it gives the same digits
    const bench::Signal kept = *b.store->signal(id, 1);
    std::vector<chamber::Sample> samples;
    for (std::size_t row = 0; row < kept.size(); ++row)
        samples.push_back({kept.at(row, 0), kept.at(row, 1), kept.at(row, 2), kept.at(row, 3) > 0});
    EXPECT_EQ(chamber::read(samples, {}).ratio->value, bench::chamber_of(*stored).ratios.at(1).value);

    // the other lung route moves the number at once
    auto* box = b.window->findChild<QComboBox*>("choose_gas_route");
    ASSERT_EQ(box->count(), 2);
    box->setFocus();
    QTest::keyClick(box, Qt::Key_Down);
    ASSERT_TRUE(b.wait([&] { return b.chamber().gas_route == displacement::LungRoute::predicted; }));
    EXPECT_NE((*b.visit().result())[quantity::fat_percent].value, fat);
    EXPECT_FALSE(b.window->findChild<QComboBox*>("choose_trial_rule")) << "a matter of the tank";
    b.window->findChild<QWidget*>("every_step")->setFocus();
    ASSERT_NO_FATAL_FAILURE(b.give_out());
    ASSERT_TRUE(b.wait([&] { return b.visit().finished; }))
        << b.text("said").toStdString() << b.text("trouble").toStdString();
    ASSERT_TRUE(b.key("lab_sheet", Qt::Key_L));
    EXPECT_EQ(QDir(b.dir.path() + "/sheets").entryList({"*.pdf"}).size(), 2);
    EXPECT_FALSE(b.button("show_beside")) << "no other method yet";

    // the same day under water: side by side, never joined
    bench::Event e{1, b.visit().started_at, "M. Tanguy", "started",
        bench::Json{{"client_id", client.id}, {"number", client.number.toStdString()}, {"name", "A Q"},
            {"birth_date", "1995-05-02"}, {"sex", "female"}, {"height_cm", 171.0}}
            .dump()};
    const auto tank = b.store->begin_visit(client.id, "hydrostatic", e);
    ASSERT_TRUE(tank);
    const std::pair<const char*, bench::Json> rest[] = {{"identity", {{"cm", 171.0}}},
        {"stops", {{"stop", bench::Json::array()}}}, {"mass", {{"kg", 65.8}}},
        {"lungs", {{"route", "measured"}, {"rv_l", 1.3}}}, {"zero", {{"kg", 7.0}}}, {"water", {{"c", 34.6}}},
        {"trial_begun", bench::Json::object()}, {"trial_taken", {{"kg", 2.20}}}, {"trial_begun", bench::Json::object()},
        {"trial_taken", {{"kg", 2.21}}}, {"trial_begun", bench::Json::object()}, {"trial_taken", {{"kg", 2.22}}},
        {"finished", bench::Json::object()}};
    for (const auto& [kind, body] : rest) {
        e = {e.seq + 1, e.at_utc, e.who, kind, body.dump()};
        ASSERT_FALSE(b.store->append(*tank, e)) << kind;
    }
    b.window->show_result();
    ASSERT_TRUE(b.key("show_beside", Qt::Key_B));
    ASSERT_TRUE(b.wait([&] { return b.text("beside").contains("Air displacement minus underwater weighing"); }))
        << b.text("beside").toStdString();
    EXPECT_TRUE(b.text("beside").contains("never averaged"));

    // tomorrow: opened again, the same digits
    const QString title = b.text("result_title");
    b.reopen();
    ASSERT_FALSE(b.window->session().resume(id, "M. Tanguy"));
    b.window->show_result();
    EXPECT_EQ(b.text("result_title"), title);
}

TEST(ChamberDesk, AMistypedCylinderAndAStaleCalibrationAreSaidAndCanBePutRight)
{
    Bench b(8, 5);
    b.add_client();
    ASSERT_NO_FATAL_FAILURE(b.to_bench(true));
    ASSERT_TRUE(b.key("confirm_who", Qt::Key_Return));
    ASSERT_TRUE(b.key("take_mass", Qt::Key_Space));
    ASSERT_NO_FATAL_FAILURE(b.to_calibrate());
    ASSERT_TRUE(b.wait([&] { return b.button("chamber_main"); }));
    b.type("air_displacement.cylinder_l", "20.5");
    ASSERT_TRUE(b.wait([&] { return b.button("chamber_main")->isEnabled(); }));
    QTest::keyClick(b.window->focusWidget(), Qt::Key_Return);
    ASSERT_TRUE(b.wait([&] { return b.text("trouble").contains("50.012 L in the register"); }))
        << b.text("trouble").toStdString();
    EXPECT_TRUE(b.visit().trials.empty());
    EXPECT_EQ(b.field("air_displacement.cylinder_l")->text(), "20.5") << "what was typed stays to be corrected";
    b.type("air_displacement.cylinder_l", "50.012");
    b.button("chamber_main")->parentWidget()->setFocus();
    ASSERT_NO_FATAL_FAILURE(b.record());

    // the cylinder was forgotten: the reading is thrown out with the reason, and it goes on from there
    ASSERT_TRUE(b.wait([&] { return b.title().contains("Cylinder in, door closed"); })) << b.title().toStdString();
    b.room->direct("chamber_empty");
    ASSERT_TRUE(b.wait([&] { return b.seen_chamber().door_open; }));
    ASSERT_NO_FATAL_FAILURE(b.record());
    ASSERT_TRUE(b.wait([&] { return b.visit().trials.back().status == bench::Trial::Status::thrown_out; }));
    EXPECT_TRUE(b.text("mishap").contains("does not raise the pressure")) << b.text("mishap").toStdString();
    b.room->direct("chamber_cylinder");
    ASSERT_TRUE(b.wait([&] { return b.seen_chamber().door_open; }));
    ASSERT_NO_FATAL_FAILURE(b.record());
    ASSERT_TRUE(b.wait([&] { return b.visit().next_step() == bench::step::runs; }));

    // the client takes twenty minutes to come
    work::set_clock(work::clock_now().addSecs(20 * 60));
    ASSERT_TRUE(b.key("chamber_main", Qt::Key_Space));
    ASSERT_TRUE(b.wait([&] { return b.text("trouble").contains("minutes ago"); })) << b.text("trouble").toStdString();
    EXPECT_FALSE(b.visit().running());
    ASSERT_TRUE(b.key("calibrate_again", Qt::Key_K));
    ASSERT_TRUE(b.key("chamber_main", Qt::Key_Space));
    ASSERT_TRUE(b.wait([&] { return b.title().contains("Empty, door closed"); })) << b.title().toStdString();
    ASSERT_NO_FATAL_FAILURE(b.calibrate());
    ASSERT_TRUE(b.wait([&] { return b.title().contains("run 1"); })) << b.title().toStdString();
    ASSERT_NO_FATAL_FAILURE(b.record());
    EXPECT_EQ(b.visit().readings().size(), 1u);
    EXPECT_GE(b.visit().trials.size(), 6u) << "both calibrations stay in the log";
}

TEST(ChamberDesk, ABadRunIsRefusedWhileTheClientIsStillInside)
{
    Bench b(8, 6);
    b.add_client();
    ASSERT_NO_FATAL_FAILURE(b.to_runs());
    b.room->direct("fault client_coughs on");
    ASSERT_TRUE(b.key("chamber_main", Qt::Key_Space));
    ASSERT_TRUE(b.wait([&] { return b.title().contains("Not good, again"); })) << b.title().toStdString();
    EXPECT_TRUE(b.title().contains("coughed"));
    ASSERT_TRUE(b.key("chamber_main", Qt::Key_Space));
    ASSERT_TRUE(b.wait([&] { return b.visit().trials.back().status == bench::Trial::Status::thrown_out; }));
    EXPECT_EQ(b.visit().trials.back().reason, "moved");
    EXPECT_TRUE(b.visit().readings().empty());

    // the client wants out: the door opens by itself, what was taken is kept and marked
    b.room->direct("fault client_coughs off");
    ASSERT_NO_FATAL_FAILURE(begin_run(b));
    b.room->direct("release");
    ASSERT_TRUE(b.wait([&] { return b.visit().trials.back().status == bench::Trial::Status::broken; }));
    EXPECT_EQ(b.visit().trials.back().reason, "the door was opened");
    EXPECT_GT(b.store->signal(b.window->session().visit_id(), b.visit().trials.back().number)->last_s(), 2.0);
    EXPECT_TRUE(b.wait([&] { return b.text("mishap").contains("the door was opened"); })) << b.title().toStdString();

    // the line is lost in mid-run, and comes back
    ASSERT_TRUE(b.wait([&] { return b.title().contains("Door closed"); }))
        << "helped in again: " << b.title().toStdString();
    ASSERT_NO_FATAL_FAILURE(begin_run(b));
    b.room->direct("unplug 12");
    ASSERT_TRUE(b.wait([&] { return b.visit().trials.back().status == bench::Trial::Status::broken; }));
    EXPECT_EQ(b.visit().trials.back().reason, "the line was lost");
    ASSERT_TRUE(b.wait([&] { return b.title().contains("not heard"); })) << b.title().toStdString();
    ASSERT_TRUE(b.wait([&] { return b.seen_chamber().connected; }));
    ASSERT_TRUE(b.wait([&] { return b.title().contains("Door closed"); })) << b.title().toStdString();
    ASSERT_NO_FATAL_FAILURE(b.record());
    EXPECT_EQ(b.visit().readings().size(), 1u);
}
