// SPDX-License-Identifier: GPL-3.0-or-later
// The X-ray table in the real windows: a whole scan by keys with the map arriving over its socket, lines moved by key
// and mouse, what goes wrong, and without a line: typed, from tables, from a map.
#include "gui.h"

#include "bench/files/scan_file.h"
#include "desk/bench/xray/map_view.h"
#include "desk/bench/xray/typed_scan.h"
#include "desk/rules/bone_reference_row.h"
#include "virtual/table/table.h"

#include <QDir>

using namespace fusain;
using namespace fusain::desk;

namespace {

constexpr double true_fat = 100 * 14.6 / (14.6 + 53.8);

MapView* map_of(Bench& b) { return b.window->findChild<MapView*>("lines_map"); }

void bring(Bench& b, const QString& file)
{
    auto* typed = b.window->findChild<TypedScan*>();
    ASSERT_TRUE(typed);
    ASSERT_TRUE(QMetaObject::invokeMethod(typed, "read", Qt::DirectConnection, Q_ARG(QString, file)));
}

void write(const QString& file, const QByteArray& bytes)
{
    QFile f(file);
    ASSERT_TRUE(f.open(QIODevice::WriteOnly));
    f.write(bytes);
}

} // namespace

TEST(XrayDesk, AWholeScanByKeysAlone)
{
    Bench b(8, 3);
    b.add_client();
    ASSERT_NO_FATAL_FAILURE(b.to_beam());
    b.shot("xray-ready");
    EXPECT_TRUE(b.shows("4.0 µSv"));
    ASSERT_TRUE(b.key("scan_main", Qt::Key_Space));
    ASSERT_TRUE(b.wait([&] { return b.seen_table().rows_seen > 230; }, 30000)) << b.title().toStdString();
    b.shot("xray-live");
    EXPECT_TRUE(b.title().contains("lie still")) << b.title().toStdString() << b.text("found").toStdString();
    EXPECT_TRUE(b.shows("of 396"));
    ASSERT_TRUE(b.wait([&] { return b.seen_table().complete; }, 60000)) << b.title().toStdString();
    EXPECT_EQ(b.title(), "Got it") << b.text("found").toStdString();
    ASSERT_TRUE(b.key("scan_main", Qt::Key_Space));
    ASSERT_TRUE(b.wait([&] { return !b.text("string").isEmpty(); })) << b.title().toStdString();
    EXPECT_FALSE(b.visit().result()) << "nobody has looked at the lines";
    b.shot("xray-lines");

    // by key: the right hip's line, 5 mm and 1 mm down; undone once
    MapView* map = map_of(b);
    for (int i = 0; i < 4; ++i) QTest::keyClick(map, Qt::Key_Tab);
    EXPECT_EQ(b.text("string"), "right hip joint");
    EXPECT_TRUE(b.text("worth").contains("1 mm down")) << b.text("worth").toStdString();
    const xray::Lines before = map->lines();
    QTest::keyClick(map, Qt::Key_Down, Qt::ShiftModifier);
    QTest::keyClick(map, Qt::Key_Down);
    EXPECT_NEAR(map->lines().right_leg[0].y_mm, before.right_leg[0].y_mm + 6, 1e-9);
    ASSERT_TRUE(b.key("lines_undo", Qt::Key_U));
    EXPECT_NEAR(map->lines().right_leg[0].y_mm, before.right_leg[0].y_mm + 5, 1e-9);
    // by mouse: the line under the chin
    const auto place = report::place_map(QRectF(map->rect()).adjusted(4, 4, -4, -4), 660, 1980);
    const QPoint chin = place.at(330, before.neck_mm).toPoint();
    QTest::mousePress(map, Qt::LeftButton, {}, chin);
    QTest::mouseMove(map, chin + QPoint(0, 6));
    QTest::mouseRelease(map, Qt::LeftButton, {}, chin + QPoint(0, 6));
    EXPECT_GT(map->lines().neck_mm, before.neck_mm + 3);
    EXPECT_EQ(b.text("string"), "under the chin");
    const xray::Lines drawn = map->lines();
    ASSERT_TRUE(b.key("lines_done", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return b.text("result_title").contains("% fat"); })) << b.title().toStdString();
    b.shot("xray-result");
    const auto stored = b.store->replay(b.window->session().visit_id());
    ASSERT_TRUE(stored);
    const bench::LinesSeen* seen = bench::xray_of(*stored).lines(*stored);
    ASSERT_TRUE(seen);
    EXPECT_EQ(seen->by, "technician");
    EXPECT_EQ(seen->lines.neck_mm, drawn.neck_mm);
    const auto result = stored->result();
    EXPECT_NEAR((*result)[quantity::fat_percent].value, true_fat, 3 * (*result)[quantity::fat_percent].u);
    // the map is kept, whole
    EXPECT_EQ(b.store->signal(b.window->session().visit_id(), 1)->size(), 396u * 132u);
    // the house's rule moves the trunk, not the regions
    auto* box = b.window->findChild<QComboBox*>("choose_trunk_head");
    ASSERT_TRUE(box);
    box->setFocus();
    QTest::keyClick(box, Qt::Key_Down);
    ASSERT_TRUE(b.wait([&] { return b.xray().trunk_with_head; }));
    EXPECT_EQ((*b.visit().result())[quantity::region_lean[3]].value, (*result)[quantity::region_lean[3]].value);
    b.window->findChild<QWidget*>("every_step")->setFocus();
    ASSERT_TRUE(b.key("every_equation", Qt::Key_E));
    b.shot("xray-thresholds");
    ASSERT_NO_FATAL_FAILURE(b.give_out());
    ASSERT_TRUE(b.wait([&] { return b.visit().finished; })) << b.text("said").toStdString();
    ASSERT_TRUE(b.key("lab_sheet", Qt::Key_L));
    EXPECT_EQ(QDir(b.dir.path() + "/sheets").entryList({"*.pdf"}).size(), 2);
    const QString title = b.text("result_title");
    const long id = b.window->session().visit_id();
    b.reopen();
    ASSERT_FALSE(b.window->session().resume(id, "M. Tanguy"));
    b.window->show_result();
    EXPECT_EQ(b.text("result_title"), title) << "tomorrow: the same digits";
    if (qEnvironmentVariableIsSet("FUSAIN_SHOTS"))
        for (const QString& pdf : QDir(b.dir.path() + "/sheets").entryList({"*.pdf"}))
            QFile::copy(b.dir.path() + "/sheets/" + pdf, qEnvironmentVariable("FUSAIN_SHOTS") + "/xray-" + pdf);
}

TEST(XrayDesk, ABeamIsStoppedLostAndStartedOver)
{
    Bench b(8, 4);
    b.add_client();
    ASSERT_NO_FATAL_FAILURE(b.to_beam());
    b.room->direct("fault wrong_way on");
    b.pass(200); // it comes by another way than the order to scan
    ASSERT_TRUE(b.key("scan_main", Qt::Key_Space));
    ASSERT_TRUE(b.wait([&] { return b.text("found").contains("two feet"); }, 30000))
        << b.title().toStdString() << b.text("found").toStdString() << b.text("trouble").toStdString();
    b.shot("xray-wrong-way");
    EXPECT_TRUE(b.title().contains("wrong")) << b.title().toStdString();
    ASSERT_TRUE(b.key("scan_out", Qt::Key_X));
    ASSERT_TRUE(b.wait([&] { return !b.visit().running() && b.window->session().live().trial == 0; }));
    EXPECT_TRUE(QString::fromStdString(b.visit().trials[0].reason).startsWith("stopped in row"));
    EXPECT_GT(b.store->signal(b.window->session().visit_id(), 1)->size(), 0u) << "what was scanned is kept";
    EXPECT_TRUE(b.title().contains("start over")) << b.title().toStdString();
    b.room->direct("fault wrong_way off");
    b.pass(200);

    ASSERT_TRUE(b.key("scan_main", Qt::Key_Space));
    ASSERT_TRUE(b.wait([&] { return b.seen_table().rows_seen > 60; }, 30000));
    b.room->direct("unplug 2");
    ASSERT_TRUE(b.wait([&] { return b.visit().trials.size() == 2 && !b.visit().running(); }));
    EXPECT_TRUE(QString::fromStdString(b.visit().trials[1].reason).contains("lost in row"))
        << b.visit().trials[1].reason;
    ASSERT_TRUE(b.wait([&] { return !b.seen_table().connected; }));
    ASSERT_TRUE(b.wait([&] { return b.seen_table().connected; })) << "it is opened again by itself";
    b.shot("xray-lost");
    EXPECT_EQ(b.xray().beams(b.visit()), 2);
    ASSERT_NO_FATAL_FAILURE(b.to_lines());
    EXPECT_EQ(b.xray().beams(b.visit()), 3) << "every beam is a dose";
}

TEST(XrayDesk, WhatTheBeamDoesIsSaidFromWhatTheTableSays)
{
    Bench b(8, 3);
    b.add_client();
    ASSERT_NO_FATAL_FAILURE(b.to_beam());
    ASSERT_TRUE(b.key("scan_main", Qt::Key_Space));
    ASSERT_TRUE(b.wait([&] { return b.seen_table().complete; }, 60000)) << b.title().toStdString();
    {
        Locked other(b.store->file());
        ASSERT_TRUE(b.key("scan_main", Qt::Key_Space));
        // the table's time goes on while the disk stands
        ASSERT_TRUE(b.clock.wait([&] { return b.title() == "The beam is off"; }, 20000, [] { return false; }))
            << b.title().toStdString();
        EXPECT_TRUE(b.shows("not on the disk yet"));
        EXPECT_FALSE(b.shows("Stay out of the beam.")) << "it has been off for a while";
        b.shot("xray-beam-off");
    }
    ASSERT_TRUE(b.wait([&] { return !b.visit().running() && !b.text("string").isEmpty(); })) << "stored by itself";
}

TEST(XrayDesk, LicenceRatingAndPregnancyAreNotPassed)
{
    Bench b(8, 4);
    b.add_client();
    EXPECT_FALSE(b.store->set_setting("technician", "R. Prigent")); // who has no licence
    b.reopen();
    b.window->show_clients();
    ASSERT_TRUE(b.key("start_X-ray", Qt::Key_Return, Qt::AltModifier | Qt::ShiftModifier));
    ASSERT_NO_FATAL_FAILURE(b.screen());
    ASSERT_TRUE(b.key("screening_keep", Qt::Key_Return));
    ASSERT_TRUE(b.key("screening_start", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return b.shows("M. Tanguy"); }));
    EXPECT_TRUE(b.shows("only by people licensed")) << "and who they are";
    EXPECT_FALSE(b.window->session().is_open());
    EXPECT_FALSE(b.store->set_setting("technician", "M. Tanguy"));
    b.reopen();
    b.window->show_clients();
    ASSERT_TRUE(b.key("start_X-ray", Qt::Key_Return, Qt::AltModifier | Qt::ShiftModifier));
    ASSERT_TRUE(b.key("screening_again", Qt::Key_R)) << b.text("screening_title").toStdString();
    ASSERT_NO_FATAL_FAILURE(b.screen({{"Pregnant", "yes"}}));
    EXPECT_FALSE(b.button("screening_override")) << "no way around";
}

TEST(XrayDesk, ATableThatDoesNotSpeakTypedFilesAndAMap)
{
    Bench b(8, 4);
    b.reopen(QStringList{});
    const records::Client client = b.add_client();
    const auto to_scan = [&] {
        b.window->show_clients();
        ASSERT_TRUE(b.key("start_X-ray", Qt::Key_Return, Qt::AltModifier | Qt::ShiftModifier));
        ASSERT_NO_FATAL_FAILURE(b.screen());
        ASSERT_TRUE(b.key("screening_keep", Qt::Key_Return));
        ASSERT_TRUE(b.key("screening_start", Qt::Key_Return));
        ASSERT_TRUE(b.key("confirm_who", Qt::Key_Return));
        ASSERT_TRUE(b.wait([&] { return b.visit().identity_confirmed && b.field("mass_kg"); }));
        b.type("mass_kg", "68.4");
        QTest::keyClick(b.window->focusWidget(), Qt::Key_Return);
        ASSERT_TRUE(b.key("prepare_all", Qt::Key_Space)) << b.title().toStdString();
        ASSERT_TRUE(b.key("prepared", Qt::Key_Return));
        ASSERT_TRUE(b.wait([&] { return b.button("scan_file"); })) << b.title().toStdString();
    };
    ASSERT_NO_FATAL_FAILURE(to_scan());
    b.shot("xray-typed");
    const auto fill = [&](const char* region, double fat, double lean, double bone) {
        for (const auto& [tissue, grams] : {std::pair{"fat_g", fat}, {"lean_g", lean}, {"bmc_g", bone}}) {
            auto* e = b.window->findChild<QLineEdit*>(QStringLiteral("typed_%1_%2").arg(region, tissue));
            ASSERT_TRUE(e) << region << tissue;
            e->setText(QString::number(grams));
            emit e->textEdited(e->text());
        }
    };
    fill("head", 700, 3000, 450);
    fill("right_arm", 800, 2400, 160);
    fill("left_arm", 800, 2300, 155);
    fill("trunk", 6500, 24000, 700);
    fill("right_leg", 3000, 9000, 430);
    b.window->findChild<QAbstractButton*>("typed_scan_take")->click();
    EXPECT_FALSE(b.xray().standing(b.visit())) << "the left leg is missing";
    fill("left_leg", 3000, 8900, 420);
    b.window->findChild<QAbstractButton*>("typed_scan_take")->click();
    ASSERT_TRUE(b.wait([&] { return b.xray().standing(b.visit()); })) << b.text("scan_said").toStdString();
    ASSERT_TRUE(b.wait([&] { return b.visit().result().operator bool(); }));
    EXPECT_NEAR((*b.visit().result())[quantity::fat_mass].value, 14.8, 1e-9);
    ASSERT_TRUE(b.key("scan_done", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return b.text("result_title").contains("% fat"); })) << b.title().toStdString();

    // a table with words nobody knows: asked once
    b.window->show_bench();
    b.window->findChild<BenchPage*>()->show_step(bench::step::scan);
    ASSERT_TRUE(b.key("scan_type", Qt::Key_T));
    const QString csv = b.dir.path() + "/table.csv";
    ASSERT_NO_FATAL_FAILURE(
        write(csv, "part;fat g;lean g;bmc g\nhead;700;3000;450\nright arm;800;2400;160\n"
                   "left arm;800;2300;155\nmiddle;6600;24100;700\nright leg;3000;9000;430\nleft leg;3000;8900;420\n"));
    ASSERT_NO_FATAL_FAILURE(bring(b, csv));
    ASSERT_TRUE(b.shows("“middle” is")) << b.text("scan_said").toStdString();
    b.shot("xray-words");
    auto* means = b.window->findChild<QComboBox*>("means_0");
    means->setCurrentIndex(means->findData("region:trunk"));
    b.window->findChild<QAbstractButton*>("words_understood")->click();
    ASSERT_TRUE(b.wait([&] { return b.visit().trials.size() == 2; })) << b.text("scan_said").toStdString();
    EXPECT_EQ(b.visit().trials[1].source, "file");
    EXPECT_NEAR((*b.visit().result())[quantity::fat_mass].value, 14.9, 1e-9);

    // a map of somebody else: asked; agreed to, it is noted with the result
    virt::Body body;
    body.sex = Sex::female;
    body.height_cm = 171;
    body.fat_mass_kg = 14.6;
    body.fat_free_mass_kg = 53.8;
    const xray::Map map = virt::scan(virt::lie_down(body, {}, 660, 1980, 6), virt::stand_in_table(), {}, {}, 3);
    const QString dcm = b.dir.path() + "/scan.dcm";
    ASSERT_NO_FATAL_FAILURE(write(
        dcm, QByteArray::fromStdString(bench::write_scan({map, {"Somebody^Else", "7", "19800101", "F", "20261120"}}))));
    ASSERT_TRUE(b.key("scan_type", Qt::Key_T));
    ASSERT_NO_FATAL_FAILURE(bring(b, dcm));
    ASSERT_TRUE(b.wait([&] { return b.button("scan_agree"); }, 30000)) << b.text("scan_said").toStdString();
    EXPECT_TRUE(b.text("scan_said").contains("Somebody")) << b.text("scan_said").toStdString();
    EXPECT_EQ(b.visit().trials.size(), 2u) << "nothing is taken before somebody has said so";
    b.button("scan_agree")->click();
    ASSERT_TRUE(b.wait([&] { return b.visit().trials.size() == 3; })) << b.text("scan_said").toStdString();
    ASSERT_TRUE(b.key("scan_done", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return !b.text("string").isEmpty(); }, 30000)) << b.title().toStdString();
    ASSERT_TRUE(b.key("lines_export", Qt::Key_E, Qt::ControlModifier));
    const QDir exports(b.dir.path() + "/exports");
    EXPECT_EQ(exports.entryList({"*.dcm", "*.csv", "*.png"}, QDir::Files).size(), 3)
        << b.text("lines_said").toStdString();
    ASSERT_TRUE(b.key("lines_done", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return !b.visit().to_acknowledge().empty(); })) << b.title().toStdString();
    EXPECT_TRUE(b.shows("Somebody")) << "said with the result";
    // nothing that is no map gets in
    b.window->show_bench();
    b.window->findChild<BenchPage*>()->show_step(bench::step::scan);
    ASSERT_TRUE(b.key("scan_type", Qt::Key_T));
    ASSERT_NO_FATAL_FAILURE(write(dcm, QByteArray(128, '\0') + "DICMnothing"));
    ASSERT_NO_FATAL_FAILURE(bring(b, dcm));
    ASSERT_TRUE(b.wait([&] {
        return b.text("scan_said").contains("scan.dcm") && !b.text("scan_said").contains("Reading");
    })) << b.text("scan_said").toStdString();
    EXPECT_EQ(b.visit().trials.size(), 3u);
}

TEST(XrayDesk, ALabsOwnReferenceGivesAZScoreAndNothingElseDoes)
{
    Bench b(8, 4);
    b.window->show_rules();
    auto* row = b.window->findChild<BoneReferenceRow*>();
    ASSERT_TRUE(row);
    ASSERT_TRUE(b.wait([&] { return b.text("bone_reference_now").startsWith("None"); }));
    const QString csv = b.dir.path() + "/bone.csv";
    ASSERT_NO_FATAL_FAILURE(write(csv, "sex,age_y,mean_kg,sd_kg,source\nfemale,20,2400,0.3,Lab study\n"));
    row->take_file(csv);
    ASSERT_TRUE(b.wait([&] { return b.text("bone_reference_said").contains("line 2"); }))
        << b.text("bone_reference_said").toStdString();
    ASSERT_NO_FATAL_FAILURE(
        write(csv, "sex,age_y,mean_kg,sd_kg,source\nfemale,20,3.4,0.3,Lab study\nfemale,60,3.4,0.3,Lab study\n"));
    row->take_file(csv);
    EXPECT_TRUE(b.text("bone_reference_now").contains("Lab study"));
    b.shot("xray-bone-reference");
    b.add_client();
    ASSERT_NO_FATAL_FAILURE(b.to_beam());
    ASSERT_TRUE(b.xray().bone_reference);
    ASSERT_NO_FATAL_FAILURE(b.to_lines());
    ASSERT_TRUE(b.key("lines_done", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return b.text("result_title").contains("% fat"); }));
    EXPECT_NEAR((*b.visit().result())[quantity::bone_z].value, (2.69 - 3.4) / 0.3, 0.04 * 2.69 / 0.3)
        << "4 % of the bone";
    EXPECT_TRUE(b.text("equation").contains("Z")) << b.text("equation").toStdString();
    EXPECT_TRUE(b.shows("below the expected range for age")) << "and nothing that sounds like a diagnosis";
}
