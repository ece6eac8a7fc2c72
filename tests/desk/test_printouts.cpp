// SPDX-License-Identifier: GPL-3.0-or-later
// Instruments that show finished numbers: typed, read from a file or a picture, their layout taught; in the real
// window.
#include "new_lab.h"

#include "bench/files/layout_file.h"
#include "bench/printed/printed.h"
#include "core/printout/typed.h"
#include "desk/bench/printed/panel_printout.h"
#include "desk/rules/watched_folder_row.h"
#include "desk/instruments/instruments_page.h"
#include "desk/instruments/layout_page.h"
#include "work/files/layouts.h"

#include <QFile>
#include <QLabel>

using namespace fusain;
using namespace fusain::desk;

namespace {

const QString samples = QStringLiteral(OWN_CASES "/v3/printouts/");

printout::Layout sample(const char* id)
{
    QFile f(samples + "layouts/" + id + ".json");
    EXPECT_TRUE(f.open(QIODevice::ReadOnly)) << f.fileName().toStdString();
    auto read = bench::read_layout(f.readAll().toStdString(), id);
    EXPECT_TRUE(read);
    return std::move(read).take();
}

/// A furnished lab whose analyser shows finished numbers.
struct Shows : Bench {
    explicit Shows(const printout::Layout& layout, const char* number = "", const char* born = "")
    {
        work::Lab lab(store);
        EXPECT_FALSE(work::keep(lab, layout));
        for (records::Instrument i : lab.diary->instruments())
            if (i.kind == &bench::instrument_of(method::impedance)) {
                i.layout = QString::fromStdString(layout.id);
                i.way = QStringLiteral("typed");
                EXPECT_TRUE(lab.diary->save(i));
            }
        reopen({});
        records::Client c = add_client();
        if (*number) c.number = number;
        if (*born) c.birth_date = born;
        EXPECT_TRUE(store->save(c));
        window->show_clients();
    }
    PrintoutPanel& panel() { return *window->findChild<PrintoutPanel*>(); }
    void to_panel()
    {
        ASSERT_NO_FATAL_FAILURE(to_bench(false, true));
        ASSERT_TRUE(key("confirm_who", Qt::Key_Return));
        ASSERT_TRUE(wait([&] { return button("take_printout") != nullptr; })) << title().toStdString();
    }
    void read(const QString& path)
    {
        panel().read(path);
        ASSERT_TRUE(wait([&] { return !panel().is_reading(); }, 60000));
    }
    QString typed(const char* key) { return field(QStringLiteral("printed_") + key)->text(); }
};

void enter(Bench& b, const QString& name, const char* text)
{
    QTest::keyClicks(b.field(name), text);
    QTest::keyClick(b.field(name), Qt::Key_Return);
}

double fat(Bench& b) { return (*b.visit().result())[quantity::fat_percent].value; }

bool cautioned(Bench& b, const char* code)
{
    const Messages all = b.visit().result().messages();
    return std::any_of(all.begin(), all.end(), [&](const Message& m) { return m.code == code; });
}

} // namespace

TEST(Printouts, AWholeTestByALayoutTypedInAnEmptyLab)
{
    NewLab b;
    ASSERT_TRUE(b.key("first_lab", Qt::Key_1));
    b.type("lab_name", "Pointe-Grise");
    b.type("new_staff", "M. Tanguy");
    ASSERT_TRUE(b.key("save_hours", Qt::Key_S, Qt::ControlModifier));
    // an analyser asks for its name and what it shows, nothing else
    ASSERT_TRUE(b.key("first_instruments", Qt::Key_2));
    choose(b, "instrument_kind", "impedance");
    b.type("name", "The one at the door");
    choose(b, "instrument_way", "typed");
    b.shot("printout-1-instrument");
    ASSERT_TRUE(b.key("save_instrument", Qt::Key_S, Qt::ControlModifier));
    ASSERT_TRUE(b.wait([&] { return b.text("layout_title").contains("The one at the door"); }));
    for (const char* name : {"Weight (kg)", "Fat mass kg", "Fat-free mass (kg)", "Body fat (%)", "Total body water (L)",
             "Right arm, lean (kg)", "Left arm, lean (kg)", "Visceral level"})
        enter(b, "layout_next", name);
    b.shot("printout-2-layout");
    ASSERT_TRUE(b.key("keep_layout", Qt::Key_S, Qt::ControlModifier));
    work::Lab lab(b.store);
    ASSERT_TRUE(b.wait([&] { return work::layouts(lab).usable.size() == 1; })) << b.text("layout_said").toStdString();
    const printout::Layout kept = work::layouts(lab).usable.front();
    const records::Instrument analyser = lab.diary->instruments().front();
    EXPECT_EQ(analyser.layout.toStdString(), kept.id);
    EXPECT_EQ(analyser.check_by, "person") << "such labs have no reference network";
    EXPECT_EQ(kept.fields[3].quantity, "fat_percent");
    EXPECT_EQ(kept.fields[5].segment, "right_arm");
    EXPECT_EQ(kept.fields[7].quantity, "") << "an index of the instrument's own is kept under its name";

    // one of the staff is measured, and it is ready
    EXPECT_FALSE(lab.checks.ready(analyser, lab.now()).ready);
    b.window->show_instruments();
    ASSERT_TRUE(b.key("begin_check", Qt::Key_C));
    for (int i = 0; i < 5 && !b.button("check_person"); ++i) {
        if (b.text("check_title").contains("Which of you")) break;
        b.pass(125000);
        ASSERT_TRUE(b.key("check_main", Qt::Key_Space));
    }
    b.shot("printout-3-check");
    ASSERT_TRUE(b.key("check_main", Qt::Key_Space)) << b.text("check_title").toStdString();
    enter(b, "check_typed", "21.4");
    enter(b, "check_typed", "70.2");
    enter(b, "check_typed", ""); // it shows no resistance
    EXPECT_TRUE(b.text("check_result").contains("M. Tanguy: 21.4 % fat")) << b.text("check_result").toStdString();
    ASSERT_TRUE(lab.checks.ready(analyser, lab.now()).ready) << lab.checks.ready(analyser, lab.now()).words;

    b.window->show_first();
    ASSERT_TRUE(b.key("first_client", Qt::Key_3));
    for (const auto& [field, words] : {std::pair{"given_name", "Maud"}, {"family_name", "Guillou"},
             {"birth_date", "1995-05-02"}, {"consent_on", "2026-01-10"}})
        b.type(field, words);
    choose(b, "sex", QString("female"));
    auto* height = b.window->findChild<QWidget*>("height_box")->findChild<QLineEdit*>();
    height->setFocus();
    QTest::keyClicks(height, "171");
    ASSERT_TRUE(b.key("save_client", Qt::Key_S, Qt::ControlModifier));
    ASSERT_NO_FATAL_FAILURE(b.to_bench());
    ASSERT_TRUE(b.key("confirm_who", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return b.title() == "Type what it shows"; })) << b.title().toStdString();
    const auto name = [&](std::size_t i) { return "printed_" + q(kept.fields[i].key); };
    // 18.9 was typed 19.8: percent and masses do not fit, and it is not taken
    for (const auto& [at, text] : {std::pair<std::size_t, const char*>{0, "68,4"}, {1, "19.8"}, {2, "49.5"},
             {3, "27.6"}, {4, "36.2"}, {5, "2.31"}, {6, "2.28"}, {7, "7"}})
        enter(b, name(at), text);
    EXPECT_TRUE(b.text("printout_said").contains("Fat and fat-free mass do not make the mass"))
        << b.text("printout_said").toStdString();
    EXPECT_TRUE(b.text("printout_said").contains("With 18.9 for “Fat mass” everything would fit"))
        << b.text("printout_said").toStdString();
    EXPECT_TRUE(b.field(name(1))->property("wrong").toBool() && !b.field(name(0))->property("wrong").toBool());
    b.shot("printout-4-misfit");
    EXPECT_FALSE(b.visit().result());
    b.type(name(1), "18.9");
    QTest::keyClick(b.field(name(1)), Qt::Key_Return);
    ASSERT_NO_FATAL_FAILURE(b.ends_with_a_result());
    EXPECT_DOUBLE_EQ(fat(b), 27.6) << "told as it is printed";
    EXPECT_DOUBLE_EQ(*b.visit().mass_kg, 68.4);
    EXPECT_NEAR((*b.visit().result())[quantity::fat_percent].u, 3.5, 0.05) << "the method's published doubt";
    EXPECT_FALSE(cautioned(b, "sum_differs"));
    b.shot("printout-5-result");
    ASSERT_TRUE(b.key("every_equation", Qt::Key_E));
    auto* table = b.window->findChild<QTableWidget*>("equations");
    bool own = false;
    for (int row = 0; row < table->rowCount(); ++row)
        own = own || (table->item(row, 1)->text() == "Visceral level" && table->item(row, 3)->text().startsWith("7"));
    EXPECT_TRUE(own) << "kept under its printed name";
    b.shot("printout-6-beside");
    ASSERT_TRUE(b.key("lab_sheet", Qt::Key_L));
    ASSERT_TRUE(b.wait([&] { return b.text("said").contains("-lab.pdf"); })) << b.text("said").toStdString();
    // what it rests on is the instrument's own, read by this layout
    EXPECT_EQ(b.store->snapshot(b.window->session().visit_id())->conditions.equations, bench::printed_schools(kept.id));
}

TEST(Printouts, AFileIsHeldBesideThePaper)
{
    printout::Layout layout = sample("plain_list");
    layout.fields[0].decimals = 2; // the paper has one: doubtful
    Shows b(layout, "1089", "2001-03-02");
    ASSERT_NO_FATAL_FAILURE(b.to_panel());
    ASSERT_NO_FATAL_FAILURE(b.read(samples + "plain_list_text.pdf"));
    EXPECT_EQ(b.title(), "Look at these: are they as on the paper?");
    EXPECT_EQ(b.typed("pct"), "41.6");
    EXPECT_TRUE(b.wait([&] { return b.field("printed_mass")->hasFocus(); }, 1000)) << "what is doubtful comes first";
    const auto y = [&](const char* key) {
        auto* f = b.field(QStringLiteral("printed_") + key);
        return f->mapTo(b.window.get(), QPoint()).y();
    };
    EXPECT_LT(y("mass"), y("fat"));
    auto* cut = b.window->findChild<QLabel*>("cut_mass");
    ASSERT_TRUE(cut && !cut->pixmap().isNull()) << "each beside its own piece of the paper";
    b.shot("printout-7-cuts");
    // nothing is taken that nobody looked at
    ASSERT_TRUE(b.key("take_printout", Qt::Key_Return, Qt::ControlModifier));
    EXPECT_FALSE(b.visit().result());
    QTest::keyClick(b.field("printed_mass"), Qt::Key_Return); // looked at
    // another day, another height than the record's: said, and taken only all the same
    EXPECT_TRUE(b.text("printout_said").contains("The printout is of 2026-05-14"))
        << b.text("printout_said").toStdString();
    EXPECT_NE(b.title(), "Something does not fit: look at it again") << "one Enter is one step";
    b.pass(50);
    QTest::keyClick(b.window->focusWidget(), Qt::Key_Return);
    EXPECT_EQ(b.title(), "Something does not fit: look at it again");
    EXPECT_FALSE(b.visit().result());
    b.shot("printout-8-of-another");
    ASSERT_TRUE(b.key("take_all_the_same", Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier));
    ASSERT_TRUE(b.wait([&] { return bool(b.visit().result()); })) << b.text("printout_said").toStdString();
    EXPECT_DOUBLE_EQ(fat(b), 41.6);
    EXPECT_TRUE(cautioned(b, "of_another"));
    EXPECT_FALSE(b.visit().to_acknowledge().empty()) << "given out only when somebody has seen it";
    ASSERT_TRUE(b.wait([&] { return b.visit().attached.size() == 1; })) << "the file is kept with the visit";
    const auto log = b.store->events(b.window->session().visit_id());
    const auto taken = std::find_if(log.begin(), log.end(), [](const auto& e) { return e.kind == "printout"; });
    ASSERT_NE(taken, log.end());
    const auto said = bench::read<bench::event::Printout>(taken->body);
    ASSERT_TRUE(said);
    EXPECT_EQ(said->sha256, b.visit().attached.front().sha256);
    EXPECT_TRUE(said->values.front().doubtful) << taken->body;
    const auto stored = b.store->replay(b.window->session().visit_id());
    ASSERT_TRUE(stored);
    EXPECT_EQ((*stored->result())[quantity::fat_percent].value, fat(b));
    EXPECT_DOUBLE_EQ((*stored->result())[quantity::segment_lean[2]].value, 21.65) << "trunk";
}

TEST(Printouts, NothingIsTakenThatNobodyLookedAt)
{
    printout::Layout layout = sample("plain_list");
    layout.client = {};
    layout.fields[0].decimals = 2; // the paper has one: doubtful
    Shows b(layout);
    ASSERT_NO_FATAL_FAILURE(b.to_panel());
    ASSERT_NO_FATAL_FAILURE(b.read(samples + "plain_list_text.pdf"));
    EXPECT_EQ(b.text("printout_said"), "");
    ASSERT_TRUE(b.key("take_printout", Qt::Key_Return, Qt::ControlModifier));
    b.pass(500);
    EXPECT_FALSE(b.visit().result());
    QTest::keyClick(b.field("printed_mass"), Qt::Key_Return); // looked at
    ASSERT_TRUE(b.key("take_printout", Qt::Key_Return, Qt::ControlModifier));
    ASSERT_TRUE(b.wait([&] { return bool(b.visit().result()); })) << b.text("printout_said").toStdString();
}

TEST(Printouts, APictureIsReadAndAnotherPaperRefused)
{
    Shows b(sample("receipt"), "8245");
    ASSERT_NO_FATAL_FAILURE(b.to_panel());
    ASSERT_NO_FATAL_FAILURE(b.read(samples + "plain_list_text.pdf"));
    EXPECT_TRUE(b.text("printout_said").contains("◆")) << "another layout's paper";
    EXPECT_EQ(b.title(), "Type what it shows");
    ASSERT_NO_FATAL_FAILURE(b.read(samples + "receipt_scan.png"));
    EXPECT_EQ(b.typed("mass"), "125,2");
    EXPECT_TRUE(b.text("printout_said").contains("male")) << b.text("printout_said").toStdString();
    // somebody sees better than the reader
    b.type("printed_pct", "34,6");
    EXPECT_FALSE(b.text("printout_said").contains("Percent fat")) << "within what rounding allows";
    b.type("printed_pct", "43,5");
    EXPECT_TRUE(b.text("printout_said").contains("Percent fat")) << b.text("printout_said").toStdString();
}

TEST(Printouts, ALayoutIsTaughtByClickingOnTheFirstPaper)
{
    Bench b;
    work::Lab lab(b.store);
    for (records::Instrument i : lab.diary->instruments())
        if (i.kind == &bench::instrument_of(method::impedance)) {
            i.way = QStringLiteral("file");
            ASSERT_TRUE(lab.diary->save(i));
            b.show_window();
            b.window->show_instruments();
            b.window->findChild<InstrumentsPage*>()->select(i.id);
        }
    ASSERT_TRUE(b.key("teach_layout", Qt::Key_Y));
    auto& page = b.window->findChild<InstrumentsPage*>()->layouts();
    page.show_paper(samples + "plain_list_text.pdf");
    ASSERT_TRUE(b.wait([&] { return !page.is_reading() && page.pages(); }, 60000));
    const auto& words = page.pages()->words.front();
    const auto click = [&](const char* text, std::size_t nth = 0) {
        for (std::size_t i = 0; i < words.words.size(); ++i)
            if (words.words[i].text == text && nth-- == 0) {
                QTest::mouseClick(&page.paper(), Qt::LeftButton, {}, page.paper().on_screen(i).toPoint());
                return;
            }
        ADD_FAILURE() << text << " is not on the paper";
    };
    for (const char* text :
        {"81.3", "33.8", "47.5", "41.6", "35.3", "26.9", "1396", "2.68", "2.16", "1089", "Female", "07:27"})
        click(text);
    b.shot("printout-9-taught");
    ASSERT_TRUE(b.key("keep_layout", Qt::Key_S, Qt::ControlModifier));
    ASSERT_TRUE(b.wait([&] { return work::layouts(lab).usable.size() == 1; })) << b.text("layout_said").toStdString();
    const printout::Layout taught = work::layouts(lab).usable.front(), truth = sample("plain_list");
    EXPECT_EQ(taught.client.number, truth.client.number);
    EXPECT_EQ(taught.client.sex, truth.client.sex);
    EXPECT_EQ(taught.client.at, truth.client.at) << "a day is no number, and is pointed at all the same";
    for (const printout::Field& f : taught.fields) {
        const auto same = std::find_if(truth.fields.begin(), truth.fields.end(), [&](const printout::Field& t) {
            return t.label == f.label && t.quantity == f.quantity && t.segment == f.segment;
        });
        ASSERT_NE(same, truth.fields.end()) << f.label << ' ' << f.quantity << ' ' << f.segment;
        EXPECT_EQ(f.unit, same->unit) << f.label;
        EXPECT_EQ(f.decimals, same->decimals) << f.label;
        EXPECT_EQ(f.range, same->range) << f.label;
    }
    EXPECT_EQ(taught.fields.size(), 9u);
    for (const char* text : {"Right arm"}) // a heading tells the two apart
        EXPECT_EQ(std::count_if(taught.fields.begin(), taught.fields.end(),
                      [&](const printout::Field& f) { return f.label == text && !f.under.empty(); }),
            2);
}

TEST(Printouts, OurOwnEquationsStandBesideWhereTheInputsAreShown)
{
    printout::Layout layout;
    layout.id = "raw_too";
    layout.title = "With its resistance";
    layout.method = "impedance";
    for (const char* name : {"Weight (kg)", "Body fat (%)", "Resistance (Ω)", "Reactance (Ω)"})
        layout.fields.push_back(printout::named(name));
    Shows b(layout);
    ASSERT_NO_FATAL_FAILURE(b.to_panel());
    for (const auto& [key, text] : {std::pair{"mass_kg", "68.4"}, {"fat_percent", "27.6"},
             {"resistance_50khz_ohm", "512"}, {"reactance_50khz_ohm", "61"}})
        enter(b, QStringLiteral("printed_") + key, text);
    ASSERT_TRUE(b.wait([&] { return !b.text("result_title").isEmpty(); })) << b.text("printout_said").toStdString();
    EXPECT_DOUBLE_EQ(fat(b), 27.6);
    const auto ways = bench::printed_of(b.visit()).ways(b.visit());
    ASSERT_GT(ways.size(), 3u);
    choose(b, "choose_told_by", "kyle_2001");
    ASSERT_TRUE(b.wait([&] { return !b.visit().choices.empty(); }));
    EXPECT_GT(std::abs(fat(b) - 27.6), 0.1);
    EXPECT_TRUE((*b.visit().result()).find(quantity::total_body_water));
    EXPECT_EQ(b.visit().own().schools(b.visit()), "kyle_2001, from a printout") << "not compared with the printed ones";
    b.shot("printout-10-own-equations");
    ASSERT_NO_FATAL_FAILURE(b.give_out());
    ASSERT_TRUE(b.wait([&] { return b.visit().finished; })) << b.text("said").toStdString();
}

TEST(Printouts, AWalkInIsMeasuredInSixtyKeys)
{
    Shows b(sample("receipt"));
    int keys = 0;
    const auto press = [&](const char* button, int key, Qt::KeyboardModifiers with = Qt::NoModifier) {
        ++keys;
        return b.key(button, key, with);
    };
    const auto write = [&](QLineEdit* field, const QString& text,
                           int then) { // text is not counted, the key after it is
        QTest::keyClicks(field, text);
        QTest::keyClick(field, static_cast<Qt::Key>(then));
        ++keys;
    };
    ASSERT_TRUE(press("add_client", Qt::Key_N, Qt::ControlModifier));
    for (const auto& [field, words] :
        {std::pair{"given_name", "Maud"}, {"family_name", "Guillou"}, {"birth_date", "1995-05-02"}}) {
        b.field(field)->setFocus();
        write(b.field(field), words, Qt::Key_Tab);
    }
    choose(b, "sex", QString("female"));
    ++keys;
    auto* height = b.window->findChild<QWidget*>("height_box")->findChild<QLineEdit*>();
    height->setFocus();
    write(height, "171", Qt::Key_Tab);
    ASSERT_TRUE(press("save_client", Qt::Key_S, Qt::ControlModifier));
    ASSERT_TRUE(press("start_analyser", Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier));
    ASSERT_TRUE(press("answer_yes", Qt::Key_Y)) << "the consent";
    ASSERT_TRUE(b.wait([&] { return b.text("screening_title").contains("Does any of it apply"); }));
    // where the text is large a page has a rest that is shown first
    for (int i = 0; i < 6 && b.button("page_done"); ++i) ASSERT_TRUE(press("page_done", Qt::Key_Return));
    ASSERT_TRUE(press("screening_keep", Qt::Key_Return));
    ASSERT_TRUE(press("screening_start", Qt::Key_Return));
    ASSERT_TRUE(press("confirm_who", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return b.button("take_printout") != nullptr; })) << b.title().toStdString();
    const printout::Layout& layout = bench::printed_of(b.visit()).layout;
    const std::map<std::string, QString> shown = {{"mass", "68.4"}, {"fat", "18.9"}, {"ffm", "49.5"}, {"pct", "27.6"},
        {"tbw", "36.2"}, {"bmi", "23.4"}, {"pha", "6.1"}, {"age", "31"}};
    ASSERT_EQ(layout.fields.size(), shown.size());
    for (const printout::Field& f : layout.fields)
        write(b.field("printed_" + q(f.key)), shown.at(f.key), Qt::Key_Return);
    ASSERT_TRUE(b.wait([&] { return !b.text("result_title").isEmpty(); })) << b.text("printout_said").toStdString();
    ASSERT_TRUE(press("client_sheet", Qt::Key_P));
    ASSERT_TRUE(b.wait([&] { return b.visit().finished; })) << b.text("said").toStdString();
    EXPECT_LE(keys, 60);
    RecordProperty("keys", keys);
    EXPECT_DOUBLE_EQ(fat(b), 27.6);
}

TEST(Printouts, WhatAppearsInTheWatchedFolderIsOfferedAndNeverGiven)
{
    Shows b(sample("plain_list"), "1089", "2001-03-02");
    work::set_clock(QDateTime(QDate(2026, 5, 14), QTime(7, 15), QTimeZone("Europe/Paris"))); // the paper: 07:27
    {
        work::Lab lab(b.store);
        for (const auto& i : lab.diary->instruments()) work::pass_check(lab, i);
    }
    QTemporaryDir folder;
    QFile paper(samples + "plain_list_text.pdf");
    ASSERT_TRUE(paper.open(QIODevice::ReadOnly));
    const QByteArray bytes = paper.readAll();
    const auto put = [&](const char* name, const QByteArray& what) {
        QFile f(folder.filePath(name));
        ASSERT_TRUE(f.open(QIODevice::WriteOnly));
        f.write(what);
    };
    put("of april.pdf", bytes + "% april"); // it lay there before, and is of a month ago
    {
        QFile f(folder.filePath("of april.pdf"));
        ASSERT_TRUE(f.open(QIODevice::ReadWrite));
        f.setFileTime(QDateTime(QDate(2026, 4, 2), QTime(9, 0)), QFileDevice::FileModificationTime);
    }
    b.window->show_rules();
    ASSERT_TRUE(b.wait([&] { return !b.text("watched_folder_now").isEmpty(); }));
    const auto watch = [&](const QString& path) {
        b.window->findChild<WatchedFolderRow*>()->take(path);
        return b.text("watched_folder_said");
    };
    EXPECT_TRUE(watch(folder.filePath("none")).contains("is no folder that can be read"));
    EXPECT_TRUE(watch(b.dir.path()).contains("the lab's own folder"));
    EXPECT_EQ(watch(folder.path()), "");
    EXPECT_TRUE(b.text("watched_folder_now").contains(folder.path()));
    b.shot("printout-watched-rules");

    b.window->show_clients();
    ASSERT_NO_FATAL_FAILURE(b.to_panel());
    auto* waiting = b.window->findChild<QLabel*>("watched_folder_now");
    for (int part = 1; part <= 5; ++part) { // still being written
        put("march.pdf", bytes.left(900 * part));
        b.pass(1900);
        EXPECT_TRUE(waiting->text().contains("Nothing waits")) << "what grows is left alone";
    }
    put("march.pdf", bytes);
    ASSERT_TRUE(b.wait([&] { return b.button("came_in_0") != nullptr; })) << b.title().toStdString();
    EXPECT_EQ(b.title(), "Its printout came in: look at it");
    EXPECT_TRUE(b.text("came_in_words_0").contains("number 1089") && b.text("came_in_words_0").contains("07:27"))
        << b.text("came_in_words_0").toStdString();
    EXPECT_FALSE(b.button("came_in_1"));
    EXPECT_EQ(b.typed("pct"), "") << "offered, not given";
    b.shot("printout-watched-offer");
    ASSERT_TRUE(b.key("came_in_0", Qt::Key_F5));
    ASSERT_TRUE(b.wait([&] { return !b.panel().is_reading(); }, 60000));
    EXPECT_EQ(b.typed("pct"), "41.6");
    EXPECT_FALSE(b.visit().result()) << "looked at first";
    EXPECT_FALSE(b.button("came_in_0")) << "it lies on the table";
    ASSERT_TRUE(b.window->focusWidget());
    QTest::keyClick(b.window->focusWidget(), Qt::Key_Return); // as the key says
    if (b.button("take_all_the_same"))                        // the height differs from the record's
        ASSERT_TRUE(b.key("take_all_the_same", Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier));
    ASSERT_TRUE(b.wait([&] { return b.visit().attached.size() == 1; })) << b.text("printout_said").toStdString();
    const long first = b.window->session().visit_id();
    ASSERT_TRUE(b.wait([&] { return !b.text("result_title").isEmpty(); }));
    ASSERT_NO_FATAL_FAILURE(b.give_out());
    put("once more.pdf", bytes); // what was taken does not come again, under whatever name
    b.pass(8000);
    b.window->show_day();
    EXPECT_FALSE(b.button("day_came_in"));

    // somebody else's is at the bench now
    put("second.pdf", bytes + "% second");
    ASSERT_TRUE(b.wait([&] { return b.button("day_came_in") != nullptr; }));
    records::Client other = b.add_client("Yann", "Kerbrat");
    other.number = "1090";
    ASSERT_TRUE(b.store->save(other));
    b.window->show_clients();
    b.type("search", "kerbrat");
    ASSERT_TRUE(b.key("start_visit", Qt::Key_Return, Qt::ControlModifier)) << "the lab's usual method by now";
    ASSERT_NO_FATAL_FAILURE(b.screen());
    ASSERT_TRUE(b.key("screening_keep", Qt::Key_Return));
    ASSERT_TRUE(b.key("screening_start", Qt::Key_Return));
    ASSERT_TRUE(b.key("confirm_who", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return b.button("came_in_0") != nullptr; }));
    EXPECT_NE(b.title(), "Its printout came in: look at it");
    EXPECT_TRUE(b.text("came_in_words_0").startsWith("◆") && b.text("came_in_words_0").contains("here is number 1090"))
        << b.text("came_in_words_0").toStdString();
    b.shot("printout-watched-of-another");
    EXPECT_EQ(b.typed("pct"), "");

    // under Day: whose it may be, and the way there
    b.window->show_day();
    ASSERT_TRUE(b.key("day_came_in", Qt::Key_I));
    auto* list = b.window->findChild<QListWidget*>("came_in_list");
    ASSERT_EQ(list->count(), 1);
    EXPECT_TRUE(list->item(0)->text().contains("Quéméner, visit of 07:15, finished"))
        << list->item(0)->text().toStdString();
    b.shot("printout-watched-came-in");
    ASSERT_TRUE(b.key("came_in_go", Qt::Key_Return));
    EXPECT_EQ(b.window->session().visit_id(), first);
    ASSERT_TRUE(b.wait([&] { return b.visit().attached.size() == 2; })) << b.text("trouble").toStdString();
    b.window->show_day();
    put("third.pdf", bytes + "% third");
    ASSERT_TRUE(b.wait([&] { return b.button("day_came_in") != nullptr; }));
    ASSERT_TRUE(b.key("day_came_in", Qt::Key_I));
    ASSERT_EQ(list->count(), 1);
    ASSERT_TRUE(b.key("came_in_aside", Qt::Key_Delete));
    EXPECT_EQ(list->count(), 0);
    put("third again.pdf", bytes + "% third");
    b.pass(8000);
    EXPECT_EQ(list->count(), 0) << "what was set aside does not come again";
    EXPECT_TRUE(QFile::exists(folder.filePath("third.pdf"))) << "nothing in that folder is changed";
    // a stick that is pulled out is said
    ASSERT_TRUE(folder.remove());
    b.window->show_rules();
    ASSERT_TRUE(b.wait([&] { return b.text("watched_folder_now").contains("cannot be read since"); }));
}
