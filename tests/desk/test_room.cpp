// SPDX-License-Identifier: GPL-3.0-or-later
// Every page in the smallest window with large text and long names: nothing is cut.
#include "../work/told.h"
#include "gui.h"

#include "bench/files/layout_file.h"
#include "desk/bench/printed/panel_printout.h"
#include "desk/rules/watched_folder_row.h"
#include "desk/clients/import_page.h"
#include "desk/instruments/instruments_page.h"
#include "desk/instruments/layout_page.h"
#include "work/files/layouts.h"
#include "work/practice/practice.h"

#include <QAbstractItemView>
#include <QScrollArea>
#include <QScrollBar>

using namespace fusain;
using namespace fusain::desk;

namespace {

/// What of the page does not have the room its words need.
QStringList cut(MainWindow& window)
{
    QStringList out;
    const auto said = [&](const QWidget* w, const QString& words, const QString& why) {
        out << QStringLiteral("%1 \"%2\": %3 (%4x%5)")
                   .arg(w->objectName(), words.left(60), why)
                   .arg(w->width())
                   .arg(w->height());
    };
    const auto beyond = [&](const QWidget* w, const QString& words) {
        const QWidget* room = &window;
        bool scrolls = false;
        for (const QWidget* p = w->parentWidget(); p && p != &window; p = p->parentWidget())
            if (const auto* area = qobject_cast<const QScrollArea*>(p)) {
                if (!scrolls) room = area->viewport();
                scrolls = true;
            }
        const QPoint at = w->mapTo(const_cast<QWidget*>(room), QPoint());
        if (at.x() < 0 || at.x() + w->width() > room->width() + 1)
            said(w, words, QStringLiteral("stands beyond the edge, at %1 of %2").arg(at.x()).arg(room->width()));
        if (!scrolls && at.y() + w->height() > room->height() + 1) said(w, words, "stands under the window");
    };
    for (auto* l : window.findChildren<QLabel*>()) {
        if (!l->isVisible() || l->text().isEmpty()) continue;
        if (l->wordWrap()) {
            if (l->minimumSizeHint().width() > l->width())
                said(l, l->text(), QStringLiteral("a word needs %1").arg(l->minimumSizeHint().width()));
            if (l->heightForWidth(l->width()) > l->height() + 1)
                said(l, l->text(), QStringLiteral("its lines need %1").arg(l->heightForWidth(l->width())));
        } else if (l->sizeHint().width() > l->width() || l->sizeHint().height() > l->height() + 1) {
            said(l, l->text(), QStringLiteral("needs %1x%2").arg(l->sizeHint().width()).arg(l->sizeHint().height()));
        }
        beyond(l, l->text());
    }
    for (auto* b : window.findChildren<QAbstractButton*>()) {
        if (!b->isVisible() || b->text().isEmpty()) continue;
        if (b->sizeHint().width() > b->width() || b->sizeHint().height() > b->height())
            said(b, b->text(), QStringLiteral("needs %1x%2").arg(b->sizeHint().width()).arg(b->sizeHint().height()));
        beyond(b, b->text());
    }
    for (auto* v : window.findChildren<QAbstractItemView*>())
        if (v->isVisible() && v->horizontalScrollBar()->maximum() > 0)
            said(v, "list", QStringLiteral("its lines need %1 more").arg(v->horizontalScrollBar()->maximum()));
    for (auto* s : window.findChildren<DayStrip*>())
        if (s->isVisible() && s->height() < s->minimumSizeHint().height())
            said(s, "day strip", QStringLiteral("needs %1").arg(s->minimumSizeHint().height()));
    out.removeDuplicates();
    return out;
}

/// The smallest window, the largest usual text.
struct Room {
    Room()
    {
        b = std::make_unique<Bench>();
        Theme::get().set_zoom(1.3); // as Ctrl + does it, in a window that stands already
        b->window->resize(size);
        long_name = b->add_client("Maximilienne-Aliénor", "Quéméner de Kerc'hoadec-Plougastell");
    }
    ~Room() { Theme::get().set_zoom(1.3); }
    void look(const char* where)
    {
        b->wait([&] { return cut(*b->window).isEmpty(); }, 3000); // a page is laid out in its own time
        if (qEnvironmentVariableIsSet("FUSAIN_SHOTS"))
            b->window->grab().save(
                QStringLiteral("%1/%2.png")
                    .arg(qEnvironmentVariable("FUSAIN_SHOTS"), QString::fromUtf8(where).replace(' ', '-')));
        EXPECT_EQ(b->window->size(), size) << where << ": the window grew";
        const QStringList bad = cut(*b->window);
        EXPECT_TRUE(bad.isEmpty()) << where << ":\n  " << bad.join("\n  ").toStdString();
    }
    QSize size{1024, 700};
    std::unique_ptr<Bench> b;
    records::Client long_name;
};

} // namespace

TEST(Room, BeforeTheTestNothingIsCut)
{
    Room r;
    Bench& b = *r.b;
    r.look("clients");
    ASSERT_TRUE(b.key("more", Qt::Key_F4));
    r.look("clients more");
    ASSERT_TRUE(b.key("add_client", Qt::Key_N, Qt::ControlModifier));
    ASSERT_TRUE(b.key("save_client", Qt::Key_S, Qt::ControlModifier));
    r.look("client form with errors");
    ASSERT_TRUE(b.key("leave_client", Qt::Key_Escape));
    ASSERT_TRUE(b.key("import_list", Qt::Key_I, Qt::ControlModifier));
    r.look("import");
    QFile earlier(b.dir.path() + "/results of a year that were measured elsewhere.csv");
    ASSERT_TRUE(earlier.open(QIODevice::WriteOnly));
    earlier.write(
        "Number,Test date,Body mass in the morning before breakfast,Percent fat,What the leaflet calls visceral\n"
        "999,2024-03-12,81.4,24.1,7\n");
    earlier.close();
    b.window->findChild<ImportPage*>()->read(earlier.fileName());
    ASSERT_TRUE(b.wait([&] { return !b.text("import_trouble").isEmpty(); }));
    r.look("import results");
    ASSERT_TRUE(b.key("import_leave", Qt::Key_Escape));
    ASSERT_TRUE(b.key("book_client", Qt::Key_B, Qt::ControlModifier));
    for (auto key : {Qt::Key_3, Qt::Key_4})
        QTest::keyClick(b.window->focusWidget(), key, Qt::AltModifier | Qt::ShiftModifier);
    r.look("booking");
    auto* times = b.window->findChild<QListWidget*>("book_times");
    ASSERT_TRUE(b.wait([&] { return times->count() > 0; }));
    ASSERT_TRUE(b.key("book_time", Qt::Key_Return, Qt::ControlModifier));
    ASSERT_TRUE(b.wait([&] { return b.button("day_go"); }));
    r.look("day");
    ASSERT_TRUE(b.key("day_move", Qt::Key_M));
    r.look("day moving");
    ASSERT_TRUE(b.key("move_leave", Qt::Key_Escape));
    ASSERT_TRUE(b.key("day_go", Qt::Key_Return));
    r.look("screening question");
    ASSERT_NO_FATAL_FAILURE(b.screen({{"last food", "20 min ago"}, {"Ill", "yes"}}));
    r.look("screening verdict");
    ASSERT_TRUE(b.key("screening_override", Qt::Key_O));
    r.look("screening override");
    b.window->show_instruments();
    r.look("instruments");
    for (const char* page : {"add_instrument", "lab_hours"}) {
        ASSERT_TRUE(b.button(page)) << page;
        QTest::mouseClick(b.button(page), Qt::LeftButton);
        r.look(page);
        QTest::keyClick(b.window->focusWidget(), Qt::Key_Escape);
    }
    ASSERT_TRUE(b.key("lab_lines", Qt::Key_L));
    r.look("lines");
    ASSERT_TRUE(b.key("connect_one", Qt::Key_N));
    r.look("connect");
    ASSERT_TRUE(b.key("line_leave", Qt::Key_Escape));
    b.window->show_first();
    r.look("first steps");
    b.window->show_rules();
    r.look("house rules");
    for (Method m : all_methods()) {
        QTest::mouseClick(b.button(QStringLiteral("rules_") + m->word), Qt::LeftButton);
        r.look(m->word);
    }
}

TEST(Room, InStudiesNothingIsCut)
{
    Room r;
    Bench& b = *r.b;
    work::ToldLab told;
    told.store = b.store;
    told.client = r.long_name;
    for (const char* clock : {"06:10", "06:30"})
        told.analyser("2026-11-23", 70, clock[3] == '3' ? 504 : 500, 55, {.clock = clock});
    b.window->show_instruments();
    auto* list = b.window->findChild<QListWidget*>("instruments");
    for (int i = 0; i < list->count(); ++i)
        if (list->item(i)->text().contains("analyser")) list->setCurrentRow(i);
    list->setFocus();
    ASSERT_TRUE(b.key("show_studies", Qt::Key_S));
    r.look("studies none");
    ASSERT_TRUE(b.key("study_new", Qt::Key_N));
    r.look("study form");
    ASSERT_TRUE(b.key("begin_study", Qt::Key_S, Qt::ControlModifier));
    ASSERT_TRUE(b.key("study_pick", Qt::Key_P));
    r.look("study pick");
    for (int i = 0; i < 2; ++i) ASSERT_TRUE(b.key("study_yes", Qt::Key_Return));
    ASSERT_TRUE(b.key("study_no", Qt::Key_Escape));
    r.look("study");
    ASSERT_TRUE(b.key("study_again", Qt::Key_R));
    r.look("study anew");
    ASSERT_TRUE(b.key("study_no", Qt::Key_Escape));
}

TEST(Room, AtThePracticeBenchNothingIsCut)
{
    Room r;
    Bench& b = *r.b;
    b.window.reset();
    b.store = *work::open_practice(work::practice_folder(b.dir.path()), {"Maximilienne Le Goff-Kerdoncuff"});
    EXPECT_FALSE(b.store->set_setting("technician", "Maximilienne Le Goff-Kerdoncuff"));
    b.window = std::make_unique<MainWindow>(b.store, b.room->lines(), b.seams());
    b.window->practise(*b.room);
    b.window->resize(r.size);
    b.show_window();
    r.look("practice");
    auto* list = b.window->findChild<QListWidget*>("drills");
    for (const char* title : {"Before the platform  ", "What may be said  ", "At the tank", "On the platform",
             "A calm swing", "Two that agree", "In the chamber", "Ten bodies"}) {
        for (int i = 0; i < list->count(); ++i)
            if (list->item(i)->text().contains(title)) list->setCurrentRow(i);
        list->setFocus();
        ASSERT_TRUE(b.key("drill_begin", Qt::Key_Return)) << title;
        ASSERT_TRUE(b.wait([&] { return !b.text("drill_asked").isEmpty(); }))
            << title << b.text("trouble").toStdString();
        r.look((std::string("practice ") + title).c_str());
        if (auto* choice = b.button("drill_choice_2")) {
            choice->click();
            ASSERT_TRUE(b.wait([&] { return b.button("drill_next"); })) << title;
            r.look((std::string("practice told ") + title).c_str());
        }
        ASSERT_TRUE(b.key("drill_stop", Qt::Key_F12)) << title;
        ASSERT_TRUE(b.wait([&] { return b.button("drill_begin"); })) << title;
    }
}

TEST(Room, InTheCourseNothingIsCut)
{
    Room r;
    Bench& b = *r.b;
    work::ToldLab told;
    told.store = b.store;
    told.client = r.long_name;
    told.tank("2026-02-10", 76.0, {1.70, 1.71, 1.72});
    told.tank("2026-05-10", 72.0, {2.16, 2.17, 2.15});
    told.tank("2026-08-10", 69.0, {1.86, 1.87, 1.88});
    told.analyser("2026-08-10", 69.6, 470, 55);
    told.table("2026-08-10", 69.0, 19000, 47000, 2600);
    b.window->show_course(r.long_name.id);
    r.look("course day");
    ASSERT_TRUE(b.key("combine", Qt::Key_C));
    r.look("course together");
    for (const auto& [name, k] : {std::pair{"balance", Qt::Key_2}, {"change", Qt::Key_3}, {"tape", Qt::Key_4},
             {"energy", Qt::Key_5}, {"plan", Qt::Key_6}, {"talk", Qt::Key_7}}) {
        ASSERT_TRUE(b.key(QStringLiteral("course_") + name, k));
        r.look((std::string("course ") + name).c_str());
    }
    for (int i = 0; i < 8; ++i) {
        ASSERT_TRUE(b.key("talk_on", Qt::Key_Right));
        r.look((std::string("course talk ") + std::to_string(i)).c_str());
        if (qobject_cast<QLineEdit*>(b.window->focusWidget())) b.window->course().setFocus();
    }
    b.window->show_day();
    ASSERT_TRUE(b.key("day_end", Qt::Key_E));
    r.look("day end");
}

TEST(Room, AtTheTankNothingIsCut)
{
    Room r;
    Bench& b = *r.b;
    ASSERT_NO_FATAL_FAILURE(b.to_bench());
    for (const auto& [key, code] : {std::pair{"confirm_who", Qt::Key_Return}, std::pair{"take_mass", Qt::Key_Space}}) {
        r.look(key);
        ASSERT_TRUE(b.key(key, code));
    }
    for (std::size_t i = 1; i <= 3; ++i) {
        r.look("lungs");
        ASSERT_TRUE(b.key("ask_blow", Qt::Key_Space));
        ASSERT_TRUE(b.wait([&] { return b.tank().blows.size() >= i; }));
    }
    for (const auto& [key, code] : {std::pair{"use_lungs", Qt::Key_Return}, std::pair{"take_zero", Qt::Key_Space},
             std::pair{"take_water", Qt::Key_Space}}) {
        r.look(key);
        if (QString(key) == "take_water") {
            b.room->direct("fault sensors_silent on");
            ASSERT_TRUE(b.wait([&] { return !b.text("old_water").isEmpty(); }));
            r.look("silent thermometer");
            b.room->direct("fault sensors_silent off");
        }
        ASSERT_TRUE(b.key(key, code));
    }
    ASSERT_TRUE(b.wait([&] { return b.visit().next_step() == bench::step::trials; }));
    r.look("trials");
    ASSERT_NO_FATAL_FAILURE(b.begin_swing());
    r.look("swing");
}

TEST(Room, InTheChamberNothingIsCut)
{
    Room r;
    Bench& b = *r.b;
    ASSERT_NO_FATAL_FAILURE(b.to_bench(true));
    ASSERT_TRUE(b.key("confirm_who", Qt::Key_Return));
    ASSERT_TRUE(b.key("take_mass", Qt::Key_Space));
    ASSERT_TRUE(b.wait([&] { return b.button("prepare_all"); }));
    r.look("prepare");
    ASSERT_NO_FATAL_FAILURE(b.to_calibrate());
    r.look("calibrate");
    ASSERT_NO_FATAL_FAILURE(b.record());
    ASSERT_NO_FATAL_FAILURE(b.record());
    ASSERT_TRUE(b.wait([&] { return b.visit().next_step() == bench::step::runs; }));
    r.look("runs");
    ASSERT_TRUE(b.key("chamber_main", Qt::Key_Space));
    ASSERT_TRUE(b.wait([&] { return b.seen_chamber().state.now_s > 8; }));
    r.look("a run");
}

TEST(Room, WhereEverythingIsTypedNothingIsCut)
{
    Room r;
    Bench& b = *r.b;
    const auto type_in = [&](const char* field, const char* text) {
        QTest::keyClicks(b.field(field), text);
        QTest::keyClick(b.field(field), Qt::Key_Return);
    };
    const auto begin = [&](bool in_chamber) {
        b.reopen({});
        b.window->resize(r.size);
        b.window->show_clients();
        ASSERT_NO_FATAL_FAILURE(b.to_bench(in_chamber));
        ASSERT_TRUE(b.key("confirm_who", Qt::Key_Return));
        ASSERT_TRUE(b.wait([&] { return !b.text("live_mass").isEmpty(); }));
        r.look("mass typed");
        type_in("mass_kg", "68.44");
        ASSERT_TRUE(b.wait([&] { return b.visit().mass_kg.has_value(); }));
    };
    ASSERT_NO_FATAL_FAILURE(begin(true));
    ASSERT_NO_FATAL_FAILURE(b.to_calibrate());
    r.look("calibrates itself");
    ASSERT_TRUE(b.key("self_calibrated", Qt::Key_T));
    ASSERT_TRUE(b.wait([&] { return b.title().contains("Run 1"); }));
    type_in("typed_volume", "64.30");
    ASSERT_TRUE(b.wait([&] { return b.visit().readings().size() == 1 && b.field("typed_volume")->text().isEmpty(); }));
    QTest::keyClicks(b.field("typed_volume"), "64.36");
    r.look("runs typed");
    QTest::keyClick(b.field("typed_volume"), Qt::Key_Return);
    ASSERT_TRUE(b.wait([&] { return b.visit().readings().size() == 2; }));
    ASSERT_TRUE(b.key("runs_done", Qt::Key_Return));
    ASSERT_TRUE(b.key("gas_route_3", Qt::Key_3));
    QTest::keyClicks(b.field("air_displacement.lung.thoracic_gas_volume_l"), "3.2");
    r.look("lung gas typed");

    EXPECT_FALSE(b.window->session().leave());
    ASSERT_NO_FATAL_FAILURE(begin(false));
    b.window->session().act(bench::event::Lungs{hydrostatic::LungRoute::age_height, "quanjer_1993", {}, {}, {}});
    ASSERT_TRUE(b.wait([&] { return b.title().contains("type what the display shows"); }));
    QTest::keyClicks(b.field("typed_zero"), "7.54");
    r.look("zero typed");
    QTest::keyClick(b.field("typed_zero"), Qt::Key_Return);
    ASSERT_TRUE(b.wait([&] { return b.tank().zero_kg.has_value(); }));
    type_in("hydrostatic.water_temp_c", "34.6");
    ASSERT_TRUE(b.wait([&] { return b.visit().next_step() == bench::step::trials; }));
    for (const char* kg : {"9.96", "9.91"}) {
        const std::size_t before = b.visit().trials.size();
        type_in("typed_low", kg);
        QTest::keyClick(b.field("typed_high"), Qt::Key_Return);
        ASSERT_TRUE(b.wait([&] { return b.visit().trials.size() > before && b.field("typed_low")->text().isEmpty(); }));
    }
    type_in("typed_low", "9.70");
    QTest::keyClicks(b.field("typed_high"), "10.18");
    r.look("trials typed");
}

TEST(Room, AtTheResultNothingIsCut)
{
    Room r;
    Bench& b = *r.b;
    ASSERT_NO_FATAL_FAILURE(b.tank_result(r.long_name, r.long_name.height_cm + 4, {2.30, 2.32, 1.95, 2.31, 2.10}));
    r.look("result");
    ASSERT_TRUE(b.key("every_step", Qt::Key_D));
    r.look("every step");
    ASSERT_TRUE(b.key("every_step", Qt::Key_D));
    ASSERT_TRUE(b.key("acknowledge", Qt::Key_A));
    ASSERT_TRUE(b.wait([&] { return !b.visit().acknowledgements.empty(); }));
    ASSERT_TRUE(b.key("client_sheet", Qt::Key_P));
    ASSERT_TRUE(b.wait([&] { return b.visit().finished; }))
        << b.text("said").toStdString() << b.text("trouble").toStdString();
    ASSERT_TRUE(b.key("reopen", Qt::Key_O));
    r.look("finished, to be opened again");
    b.window->show_clients();
    r.look("client with a visit");
}

TEST(Room, OnTheAnalyserNothingIsCut)
{
    Room r;
    Bench& b = *r.b;
    ASSERT_NO_FATAL_FAILURE(b.to_bench(false, true));
    ASSERT_TRUE(b.key("confirm_who", Qt::Key_Return));
    r.look("on the platform");
    ASSERT_TRUE(b.key("take_mass", Qt::Key_Space));
    ASSERT_TRUE(b.key("see_bare", Qt::Key_1));
    r.look("stance");
    ASSERT_TRUE(b.key("prepared", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return b.seen_analyser().hands; }));
    r.look("before the current");
    for (const char* fault : {"contact_8", "arm_touches"})
        b.room->direct(QStringLiteral("fault %1 on").arg(QString::fromLatin1(fault)));
    ASSERT_TRUE(b.key("spectrum_main", Qt::Key_Space));
    ASSERT_TRUE(b.wait([&] { return b.seen_analyser().state.seconds > 20; }));
    r.look("the current, with faults");
    ASSERT_TRUE(b.key("spectrum_out", Qt::Key_X));
    ASSERT_TRUE(b.wait([&] { return !b.visit().running() && b.button("spectrum_type"); }));
    ASSERT_TRUE(b.key("spectrum_type", Qt::Key_T));
    r.look("typed spectrum");
    auto* what = b.window->findChild<QComboBox*>("analyser_shows");
    what->setCurrentIndex(1);
    emit what->activated(1);
    r.look("typed segments");
    QTest::keyClick(b.field("typed_r_ra"), Qt::Key_Escape);
    for (const char* fault : {"contact_8", "arm_touches"})
        b.room->direct(QStringLiteral("fault %1 off").arg(QString::fromLatin1(fault)));
    ASSERT_TRUE(b.wait([&] { return b.seen_analyser().contact_ohm[7] < 1000; }));
    ASSERT_NO_FATAL_FAILURE(b.sweep());
    r.look("everywhere");
    ASSERT_TRUE(b.key("spectrum_done", Qt::Key_Return));
    r.look("result by impedance");
    ASSERT_TRUE(b.key("every_equation", Qt::Key_E));
    r.look("every equation");
    b.window->show_day();
    ASSERT_TRUE(b.key("day_group", Qt::Key_G));
    b.window->findChild<QPlainTextEdit*>("group_names")->setPlainText("nobody\nnobody else");
    r.look("a crew");
}

TEST(Room, OfAPrintoutNothingIsCut)
{
    Room r;
    Bench& b = *r.b;
    const QString paper = QStringLiteral(OWN_CASES "/v3/printouts/plain_list_text.pdf");
    records::Instrument analyser;
    for (const records::Instrument& i : b.window->lab().diary->instruments())
        if (i.kind == &bench::instrument_of(method::impedance)) analyser = i;
    analyser.way = QStringLiteral("file");
    analyser.check_by = QStringLiteral("person");
    ASSERT_TRUE(b.window->lab().diary->save(analyser));
    b.window->show_instruments();
    auto& instruments = *b.window->findChild<InstrumentsPage*>();
    instruments.select(analyser.id);
    ASSERT_TRUE(b.key("teach_layout", Qt::Key_Y));
    QFile file(QStringLiteral(OWN_CASES "/v3/printouts/layouts/plain_list.json"));
    ASSERT_TRUE(file.open(QIODevice::ReadOnly));
    const auto layout = bench::read_layout(file.readAll().toStdString(), "plain_list");
    ASSERT_TRUE(layout && !work::keep(b.window->lab(), *layout));
    analyser.layout = q(layout->id);
    ASSERT_TRUE(b.window->lab().diary->save(analyser));
    ASSERT_TRUE(b.key("leave_layout", Qt::Key_Escape));
    ASSERT_TRUE(b.key("teach_layout", Qt::Key_Y));
    r.look("layout by names");
    instruments.layouts().show_paper(paper);
    ASSERT_TRUE(b.wait([&] { return instruments.layouts().pages() && !instruments.layouts().is_reading(); }, 60000));
    r.look("layout on paper");
    ASSERT_TRUE(b.key("leave_layout", Qt::Key_Escape));
    r.look("an instrument that is checked by a person");
    b.window->show_clients();
    ASSERT_NO_FATAL_FAILURE(b.to_bench(false, true));
    ASSERT_TRUE(b.key("confirm_who", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return b.button("take_printout"); }));
    r.look("typed printout");
    QTemporaryDir folder;
    ASSERT_TRUE(QFile::copy(paper, folder.filePath("a printout with a name as long as machines give 2026-05-14.pdf")));
    b.window->show_rules();
    ASSERT_TRUE(b.wait([&] { return !b.text("watched_folder_now").isEmpty(); }));
    b.window->findChild<WatchedFolderRow*>()->take(folder.path());
    r.look("where printouts appear");
    b.window->show_bench();
    ASSERT_TRUE(b.wait([&] { return b.button("came_in_0") != nullptr; }));
    r.look("a printout came in");
    b.window->show_day();
    ASSERT_TRUE(b.key("day_came_in", Qt::Key_I));
    r.look("what came in");
    b.window->show_bench();
    auto& panel = *b.window->findChild<PrintoutPanel*>();
    panel.read(paper);
    ASSERT_TRUE(b.wait([&] { return !panel.is_reading(); }, 60000));
    b.type("printed_fat", "38.3");
    r.look("printout that does not fit");
    ASSERT_TRUE(b.key("take_all_the_same", Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier));
    b.pass(1000); // half a kilogram is no rounding: it is refused, and what was typed stands
    b.type("printed_fat", "33.8");
    ASSERT_TRUE(b.key("take_all_the_same", Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier));
    ASSERT_TRUE(b.wait([&] { return !b.text("result_title").isEmpty(); })) << b.text("printout_said").toStdString();
    r.look("printed result");
    ASSERT_TRUE(b.key("every_equation", Qt::Key_E));
    r.look("printed numbers");
}

TEST(Room, OnTheXrayTableNothingIsCut)
{
    Room r;
    Bench& b = *r.b;
    ASSERT_TRUE(b.key("start_X-ray", Qt::Key_Return, Qt::AltModifier | Qt::ShiftModifier));
    ASSERT_NO_FATAL_FAILURE(b.screen());
    ASSERT_TRUE(b.key("screening_keep", Qt::Key_Return));
    ASSERT_TRUE(b.key("screening_start", Qt::Key_Return));
    ASSERT_TRUE(b.key("confirm_who", Qt::Key_Return));
    ASSERT_TRUE(b.key("take_mass", Qt::Key_Space));
    ASSERT_TRUE(b.key("see_agreed", Qt::Key_1));
    ASSERT_TRUE(b.key("see_alone", Qt::Key_2));
    r.look("lying down, much left out");
    ASSERT_TRUE(b.key("prepared", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return b.seen_table().connected; }));
    r.look("before the beam");
    b.room->direct("fault off_field on");
    b.pass(200);
    ASSERT_TRUE(b.key("scan_main", Qt::Key_Space));
    ASSERT_TRUE(b.wait([&] { return b.text("found").contains("edge"); }, 40000));
    r.look("the scan, over the edge");
    ASSERT_TRUE(b.key("scan_out", Qt::Key_X));
    b.room->direct("fault off_field off");
    ASSERT_TRUE(b.wait([&] { return !b.visit().running() && b.button("scan_type"); }));
    r.look("start over");
    ASSERT_TRUE(b.key("scan_type", Qt::Key_T));
    r.look("typed regions");
    QTest::keyClick(b.field("typed_head_fat_g"), Qt::Key_Escape);
    ASSERT_NO_FATAL_FAILURE(b.to_lines());
    r.look("the lines");
    ASSERT_TRUE(b.key("lines_bone", Qt::Key_Z));
    r.look("a reference for bone typed");
    QTest::keyClick(b.field("bone_mean"), Qt::Key_Escape);
    ASSERT_TRUE(b.key("lines_done", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return b.text("result_title").contains("% fat"); })) << b.title().toStdString();
    r.look("result by X-ray");
    ASSERT_TRUE(b.key("every_equation", Qt::Key_E));
    r.look("thresholds");
}
