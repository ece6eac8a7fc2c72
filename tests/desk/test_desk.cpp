// SPDX-License-Identifier: GPL-3.0-or-later
// The user's path through the real windows: keys in, what is shown and what is stored out.
#include "gui.h"
#include "report/sheets/sheets.h"

#include <QDir>
#include <QFile>
#include <QTableWidget>
#include <QTextBrowser>

using namespace fusain;
using namespace fusain::desk;

TEST(Desk, AWholeVisitByKeysAlone)
{
    Bench b;
    const auto client = b.add_client();
    b.type("search", "quem");
    EXPECT_EQ(b.text("client_name"), "Aliénor Quéméner");
    ASSERT_NO_FATAL_FAILURE(b.to_trials());
    for (int i = 0; i < 4; ++i) ASSERT_NO_FATAL_FAILURE(b.take_trial());
    int more = 0;
    while (!b.visit().result() && more++ < 5) ASSERT_NO_FATAL_FAILURE(b.take_trial());
    ASSERT_TRUE(b.visit().result());
    ASSERT_TRUE(b.key("trials_done", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return b.text("result_title").contains("% fat"); }));

    const auto stored = b.store->replay(b.window->session().visit_id());
    ASSERT_TRUE(stored);
    const double fat = (*stored->result())[quantity::fat_percent].value;
    EXPECT_TRUE(b.text("result_title").startsWith(QString::number(fat, 'f', 1)))
        << b.text("result_title").toStdString();
    // the invented body of an added client: 5.0 kg/m² fat, 17.5 kg/m² fat-free; conversion and lung equation leave a
    // few percent
    EXPECT_NEAR(fat, 100 * 5.0 / 22.5, 3 * stored->result()->budget(quantity::fat_percent).u);
    EXPECT_GT(b.store->signal(b.window->session().visit_id(), 1)->size(), 200u) << "the raw signal is kept";

    // choosing another conversion moves the number at once and is kept with name and time
    auto* box = b.window->findChild<QComboBox*>("choose_conversion");
    box->setFocus();
    QTest::keyClick(box, Qt::Key_Down);
    ASSERT_TRUE(b.wait([&] { return !b.visit().choices.empty(); }));
    EXPECT_EQ(bench::density_of(b.visit())->conversion, "brozek_1963");
    EXPECT_FALSE(b.text("result_title").startsWith(QString::number(fat, 'f', 1)));
    EXPECT_TRUE(b.shows("Last changed by M. Tanguy"));
    auto* doubt_of = b.window->findChild<QComboBox*>("doubt_of");
    ASSERT_EQ(doubt_of->count(), 4) << "every headline quantity has its budget";
    EXPECT_TRUE(doubt_of->currentText().startsWith("of percent fat")) << doubt_of->currentText().toStdString();
    doubt_of->setFocus();
    QTest::keyClick(doubt_of, Qt::Key_Down);
    EXPECT_TRUE(doubt_of->currentText().startsWith("of body density, ± 0.00")) << doubt_of->currentText().toStdString();
    EXPECT_TRUE(doubt_of->currentText().endsWith("kg/L"));
    b.window->findChild<QWidget*>("every_step")->setFocus();
    // a step of the story opens the page that explains it
    ASSERT_TRUE(b.key("every_step", Qt::Key_D));
    auto* steps = b.window->findChild<QTableWidget*>("steps");
    for (int row = 0; row < steps->rowCount(); ++row)
        if (steps->item(row, 0)->text() == "RV") emit steps->cellDoubleClicked(row, 0);
    EXPECT_TRUE(
        b.window->findChild<QTextBrowser*>("science")->toPlainText().contains("Residual volume from vital capacity"));
    ASSERT_TRUE(b.key("every_step", Qt::Key_D));
    ASSERT_TRUE(b.key("every_step", Qt::Key_D));

    ASSERT_NO_FATAL_FAILURE(b.give_out());
    ASSERT_TRUE(b.wait([&] { return b.visit().finished; }))
        << b.text("said").toStdString() << b.text("trouble").toStdString();
    ASSERT_TRUE(b.key("lab_sheet", Qt::Key_L));
    EXPECT_EQ(QDir(b.dir.path() + "/sheets").entryList({"*.pdf"}).size(), 2);

    // tomorrow: the same visit, found again, with the same number
    const QString title = b.text("result_title");
    b.reopen();
    b.window->show_clients();
    ASSERT_TRUE(b.wait([&] { return b.shows("% fat"); }));
    const long id = b.store->visits_of(client.id).front().id;
    ASSERT_FALSE(b.window->session().resume(id, "M. Tanguy"));
    b.window->show_result();
    EXPECT_EQ(b.text("result_title"), title);
}

TEST(Desk, AddingAClientSaysWhatIsWrongAndKeepsTheRest)
{
    Bench b;
    b.window->show_clients();
    QTest::keyClick(b.window.get(), Qt::Key_N, Qt::ControlModifier);
    b.type("given_name", "Gwenn");
    b.type("birth_date", "8.3.1992");
    b.type("height_cm", "1.68");
    ASSERT_TRUE(b.key("save_client", Qt::Key_S, Qt::ControlModifier));
    EXPECT_TRUE(b.shows("Family name is missing"));
    EXPECT_TRUE(b.shows("8.3.1992"));
    EXPECT_TRUE(b.shows("it looks like metres"));
    EXPECT_TRUE(b.shows("Choose which sex"));
    EXPECT_TRUE(b.store->find_clients({}).empty());
    EXPECT_EQ(b.field("given_name")->text(), "Gwenn");
    b.type("family_name", "Riou");
    b.type("birth_date", "1992-03-08");
    b.type("height_cm", "168,5");
    auto* sex = b.window->findChild<QComboBox*>("sex");
    sex->setFocus();
    QTest::keyClick(sex, Qt::Key_Down);
    ASSERT_TRUE(b.key("save_client", Qt::Key_S, Qt::ControlModifier));
    ASSERT_EQ(b.store->find_clients("riou").size(), 1u);
    EXPECT_EQ(b.store->find_clients("riou")[0].height_cm, 168.5);
    EXPECT_EQ(b.text("client_name"), "Gwenn Riou");
}

TEST(Desk, UnitsSwitchWithoutTouchingWhatIsStored)
{
    Bench b;
    b.add_client();
    QTest::keyClick(b.window.get(), Qt::Key_F2);
    QTest::mouseClick(b.button("unit_1"), Qt::LeftButton);
    EXPECT_EQ(b.field("height_cm")->text(), "67.32");
    ASSERT_TRUE(b.key("save_client", Qt::Key_S, Qt::ControlModifier));
    EXPECT_EQ(b.store->find_clients({})[0].height_cm, 171.0) << "showing inches must not change a millimetre";
    QTest::keyClick(b.window.get(), Qt::Key_F2);
    b.type("height_cm", "68");
    ASSERT_TRUE(b.key("save_client", Qt::Key_S, Qt::ControlModifier));
    EXPECT_DOUBLE_EQ(b.store->find_clients({})[0].height_cm, 172.72);
    QTest::mouseClick(b.button("unit_1"), Qt::LeftButton);
    EXPECT_TRUE(b.shows("5 ft 8.0 in"));
    Units::get().restore({}); // the program was closed
    b.reopen();
    b.window->show_clients();
    EXPECT_TRUE(b.shows("5 ft 8.0 in")) << "it stays so over a restart";
    QTest::mouseClick(b.button("unit_1"), Qt::LeftButton);
    EXPECT_TRUE(b.shows("172.7 cm"));
}

TEST(Desk, ABlowCanBeTypedAndOnlyTheLungStepListens)
{
    Bench b;
    b.add_client();
    ASSERT_NO_FATAL_FAILURE(b.to_bench());
    ASSERT_TRUE(b.key("confirm_who", Qt::Key_Return));
    b.room->direct("blow"); // somebody tries the spirometer
    b.pass(2000);           // and its value comes while another step is on the screen
    ASSERT_TRUE(b.key("take_mass", Qt::Key_Space));
    EXPECT_TRUE(b.tank().blows.empty());
    for (const char* litres : {"3,71", "37.5", "3.75", "3.68", "3.9"}) {
        ASSERT_TRUE(b.key("type_blow", Qt::Key_T));
        const std::size_t before = b.tank().blows.size();
        b.type("hydrostatic.lung.vital_capacity_l", litres);
        QTest::keyClick(b.window->focusWidget(), Qt::Key_Return);
        const bool possible = QString(litres) != "37.5";
        EXPECT_EQ(b.wait([&] { return b.tank().blows.size() > before; }, possible ? 3000 : 300), possible) << litres;
        if (!possible) EXPECT_TRUE(b.shows("37.5 L; allowed is")) << "said at the field";
    }
    EXPECT_FALSE(b.tank().lungs_done) << "Enter in the field adds the blow and does not end the step";
    EXPECT_EQ(b.tank().blows.size(), 4u);
    EXPECT_DOUBLE_EQ(*b.tank().best_blow_l(), 3.9);
    ASSERT_TRUE(b.key("use_lungs", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return b.tank().lungs_done; }));
}

TEST(Desk, WithoutATechnicianNothingStarts)
{
    Bench b;
    b.add_client();
    b.window->findChild<QComboBox*>("technician")->setCurrentIndex(-1);
    b.button("start_visit")->click();
    EXPECT_TRUE(b.text("trouble").contains("your name"));
    EXPECT_FALSE(b.window->session().is_open());
}

TEST(Desk, WhatAsksForANewMeasurementIsHeldBackUntilSomebodySaysSo)
{
    Bench b;
    const auto client = b.add_client();
    ASSERT_NO_FATAL_FAILURE(b.tank_result(client, client.height_cm + 4)); // is it the right person?
    const long id = b.window->session().visit_id();
    const auto sheets = [&] { return QDir(b.dir.path() + "/sheets").entryList({"*-client.pdf"}).size(); };
    ASSERT_TRUE(b.key("client_sheet", Qt::Key_P));
    EXPECT_TRUE(b.text("said").contains("measured again")) << b.text("said").toStdString();
    EXPECT_EQ(sheets(), 0);
    EXPECT_FALSE(b.visit().finished);
    ASSERT_TRUE(b.key("acknowledge", Qt::Key_A));
    ASSERT_TRUE(b.wait([&] { return !b.visit().acknowledgements.empty(); }));
    ASSERT_TRUE(b.key("client_sheet", Qt::Key_P));
    ASSERT_TRUE(b.wait([&] { return b.visit().finished; }))
        << b.text("said").toStdString() << b.text("trouble").toStdString();
    ASSERT_TRUE(b.wait([&] { return sheets() == 1; })) << "written once the visit is on the disk";
    // opened again, with a reason
    ASSERT_TRUE(b.key("reopen", Qt::Key_O));
    b.type("reopen_reason", "height was read wrongly");
    QTest::keyClick(b.window->findChild<QLineEdit*>("reopen_reason"), Qt::Key_Return);
    ASSERT_TRUE(b.wait([&] { return !b.visit().finished; }));
    EXPECT_EQ(b.visit().reopenings.front().reason, "height was read wrongly");
    EXPECT_EQ(b.store->visit(id)->outcome, "") << "nothing counts as measured while it is open";
}
