// SPDX-License-Identifier: GPL-3.0-or-later
// A lab whose instruments do not speak: whole tests by typing alone, in the real window.
#include "gui.h"

using namespace fusain;
using namespace fusain::desk;

namespace {

void type_in(Bench& b, const char* field, const char* text)
{
    QTest::keyClicks(b.field(field), text);
    QTest::keyClick(b.field(field), Qt::Key_Return);
}

void until_mass_is_typed(Bench& b, bool in_chamber)
{
    b.reopen({});
    b.add_client();
    ASSERT_NO_FATAL_FAILURE(b.to_bench(in_chamber));
    ASSERT_TRUE(b.key("confirm_who", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return !b.text("live_mass").isEmpty(); }));
    type_in(b, "mass_kg", "68.44"); // the field is there by itself
    ASSERT_TRUE(b.wait([&] { return b.visit().mass_kg.has_value(); })) << b.title().toStdString();
}

const bench::Event* last_of(const std::vector<bench::Event>& events, const char* kind)
{
    for (auto e = events.rbegin(); e != events.rend(); ++e)
        if (e->kind == kind) return &*e;
    return nullptr;
}

} // namespace

TEST(TypedDesk, AWholeTankTestWithoutALine)
{
    Bench b;
    ASSERT_NO_FATAL_FAILURE(until_mass_is_typed(b, false));
    // three breaths read off a spirometer, room gas typed
    for (std::size_t i = 1; i <= 3; ++i) {
        ASSERT_TRUE(b.key("type_blow", Qt::Key_T));
        type_in(b, "hydrostatic.lung.vital_capacity_l", "3.75");
        ASSERT_TRUE(b.wait([&] { return b.tank().blows.size() == i; }));
    }
    b.type("hydrostatic.lung.gas_temp_c", "22.4");
    b.type("hydrostatic.lung.barometric_mmhg", "757");
    b.window->setFocus();
    ASSERT_TRUE(b.key("use_lungs", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return b.title().contains("type what the display shows"); })) << b.title().toStdString();
    type_in(b, "typed_zero", "7.54");
    ASSERT_TRUE(b.wait([&] { return b.tank().zero_kg.has_value(); }));
    type_in(b, "hydrostatic.water_temp_c", "34.6");
    ASSERT_TRUE(b.wait([&] { return b.visit().next_step() == bench::step::trials; })) << b.title().toStdString();
    EXPECT_TRUE(b.title().contains("type what the display swings between")) << b.title().toStdString();

    // a digit is mistyped: said by name, and what was typed stays
    QTest::keyClicks(b.field("typed_low"), "97.0");
    QTest::keyClick(b.field("typed_low"), Qt::Key_Return);
    QTest::keyClick(b.field("typed_high"), Qt::Key_Return);
    ASSERT_TRUE(b.wait([&] { return b.text("trouble").contains("15 % of body mass"); }));
    EXPECT_EQ(b.field("typed_low")->text(), "97.0");
    EXPECT_TRUE(b.visit().trials.empty());
    b.type("typed_low", "9.70");
    QTest::keyClick(b.field("typed_low"), Qt::Key_Return);
    QTest::keyClicks(b.field("typed_high"), "10.18");
    EXPECT_TRUE(b.text("typed_sum").contains("2.400")) << b.text("typed_sum").toStdString();
    QTest::keyClick(b.field("typed_high"), Qt::Key_Return);
    // several a minute: the row is empty again, its first field waits
    for (const char* one : {"9.96", "9.95", "9.97"}) {
        const std::size_t before = b.visit().trials.size();
        ASSERT_TRUE(b.wait([&] { return b.field("typed_low")->text().isEmpty() && b.field("typed_low")->hasFocus(); }));
        type_in(b, "typed_low", one);
        QTest::keyClick(b.field("typed_high"), Qt::Key_Return);
        ASSERT_TRUE(b.wait([&] { return b.visit().trials.size() > before || before == 0; }));
    }
    ASSERT_TRUE(b.wait([&] { return b.visit().trials.size() == 4; }));
    ASSERT_TRUE(b.key("trials_done", Qt::Key_Return)) << "nothing is typed: Enter goes on";
    ASSERT_TRUE(b.wait([&] { return !b.text("result_title").isEmpty(); }));
    ASSERT_NO_FATAL_FAILURE(b.give_out());
    ASSERT_TRUE(b.wait([&] { return b.visit().finished; }));
    ASSERT_TRUE(b.key("lab_sheet", Qt::Key_L));
    ASSERT_TRUE(b.wait([&] { return b.text("said").contains("-lab.pdf"); })) << b.text("said").toStdString();
    const auto log = b.store->events(b.window->session().visit_id());
    for (const char* kind : {"mass", "blow", "zero", "water", "trial_typed"})
        EXPECT_EQ(bench::read<bench::event::TrialTyped>(last_of(log, kind)->body)->source, "typed") << kind;
    const auto stored = b.store->replay(b.window->session().visit_id());
    ASSERT_TRUE(stored);
    EXPECT_EQ((*stored->result())[quantity::fat_percent].value, (*b.visit().result())[quantity::fat_percent].value);
}

TEST(TypedDesk, AWholeChamberTestWithoutALine)
{
    Bench b;
    ASSERT_NO_FATAL_FAILURE(until_mass_is_typed(b, true));
    ASSERT_TRUE(b.key("prepare_all", Qt::Key_Space));
    ASSERT_TRUE(b.key("prepared", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return b.title().contains("as its maker says"); })) << b.title().toStdString();
    ASSERT_TRUE(b.key("self_calibrated", Qt::Key_T));
    ASSERT_TRUE(b.wait([&] { return b.title().contains("Run 1: type what the chamber shows"); }))
        << b.title().toStdString();
    type_in(b, "typed_volume", "46.30");
    ASSERT_TRUE(b.wait([&] { return b.text("trouble").contains("density"); }));
    EXPECT_EQ(b.field("typed_volume")->text(), "46.30") << "what was typed stays";
    b.type("typed_volume", "64.30");
    QTest::keyClick(b.field("typed_volume"), Qt::Key_Return);
    ASSERT_TRUE(b.wait([&] { return b.visit().readings().size() == 1 && b.field("typed_volume")->text().isEmpty(); }));
    type_in(b, "typed_volume", "64.36");
    ASSERT_TRUE(b.wait([&] { return b.visit().readings().size() == 2; }));
    ASSERT_TRUE(b.key("runs_done", Qt::Key_Return));
    ASSERT_TRUE(b.key("gas_route_3", Qt::Key_3));
    type_in(b, "air_displacement.lung.thoracic_gas_volume_l", "3.2");
    ASSERT_TRUE(b.wait([&] { return !b.text("result_title").isEmpty(); }));
    ASSERT_NO_FATAL_FAILURE(b.give_out());
    ASSERT_TRUE(b.wait([&] { return b.visit().finished; }));
    ASSERT_TRUE(b.key("lab_sheet", Qt::Key_L));
    ASSERT_TRUE(b.wait([&] { return b.text("said").contains("-lab.pdf"); })) << b.text("said").toStdString();
    const auto r = b.visit().result();
    ASSERT_TRUE(r);
    EXPECT_EQ((*r)[quantity::thoracic_gas_volume].value, 3.2);
    EXPECT_NEAR((*r)[quantity::raw_volume].value, 64.33, 1e-9);
    for (const auto& t : b.visit().trials) EXPECT_EQ(t.source, "typed");
}

TEST(TypedDesk, TheFormOfAnInstrumentAsksWhatItsKindHas)
{
    Bench b;
    b.window->show_instruments();
    ASSERT_TRUE(b.key("add_instrument", Qt::Key_N, Qt::ControlModifier));
    ASSERT_TRUE(b.key("instrument_more", Qt::Key_M, Qt::ControlModifier));
    const auto pick = [&](const char* name, const QVariant& data) {
        auto* box = b.window->findChild<QComboBox*>(name);
        const int row = box->findData(data);
        ASSERT_GE(row, 0) << name;
        box->setCurrentIndex(row);
        emit box->activated(row);
    };
    struct Row {
        const char* kind;
        bool reference, reactance, profile, rated;
        int ways; ///< in which it may be checked
    };
    for (const Row& row : {Row{"scale", true, false, false, false, 3}, {"impedance", true, true, true, false, 4},
             {"absorptiometry", true, false, true, true, 2}, {"air_displacement", true, false, false, false, 4},
             {"hydrostatic", false, false, false, false, 1}}) {
        pick("instrument_kind", row.kind);
        pick("check_by", "reference");
        const auto shows = [&](const char* field) {
            auto* e = b.window->findChild<QLineEdit*>(field);
            return e && e->isVisible();
        };
        EXPECT_EQ(shows("reference"), row.reference) << row.kind;
        EXPECT_EQ(shows("reference_x"), row.reactance) << row.kind;
        EXPECT_EQ(shows("rated_mass_kg"), row.rated) << row.kind;
        EXPECT_EQ(!b.window->findChild<QLineEdit*>("profile")->placeholderText().isEmpty(), row.profile) << row.kind;
        EXPECT_EQ(b.window->findChild<QComboBox*>("check_by")->count(), row.ways) << row.kind;
    }
}

TEST(TypedDesk, AnInstrumentIsCheckedByTyping)
{
    Bench b(4, 7, false);
    work::Lab lab(b.store);
    ASSERT_TRUE(lab.diary->save(records::StaffMember{0, "M. Tanguy", true, {}, true}));
    const auto& kind = bench::instrument_of(method::air_displacement);
    const auto chamber = lab.diary->save(records::Instrument{0, &bench::instrument_of(method::air_displacement),
        kind.title, "PG-1", "", "", "", true, 50.012, kind.duration_min, {}});
    ASSERT_TRUE(chamber);
    b.reopen({});
    b.window->show_instruments();
    ASSERT_TRUE(b.key("begin_check", Qt::Key_C));
    for (int i = 0; i < 2; ++i) ASSERT_TRUE(b.key("check_main", Qt::Key_Space));
    ASSERT_TRUE(b.key("check_type", Qt::Key_T));
    for (const char* litres : {"50.01", "50.02", "50.00", "50.015", "50.01"}) {
        ASSERT_TRUE(b.wait([&] { return b.field("check_typed")->text().isEmpty(); }));
        type_in(b, "check_typed", litres);
    }
    ASSERT_TRUE(b.wait([&] { return b.text("check_title").contains("ready"); })) << b.text("check_title").toStdString();
    EXPECT_TRUE(lab.checks.ready(*chamber, lab.now()).ready);
}
