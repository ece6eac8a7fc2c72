// SPDX-License-Identifier: GPL-3.0-or-later
// The practice bench in the real window: one drill of each kind by keys, marked against the truth the stand-in held
// back.
#include "gui.h"

#include "core/air_and_water/water.h"
#include "desk/bench/tank/swing_view.h"
#include "desk/practice/practice_page.h"
#include "virtual/table/xray_table.h"

using namespace fusain;
using namespace fusain::desk;

namespace {

struct Practice : Bench {
    explicit Practice(double speed = 8, const QString& who = QStringLiteral("M. Tanguy")) : Bench(speed, 7, false)
    {
        window.reset();
        store =
            *work::open_practice(work::practice_folder(dir.path()), who.isEmpty() ? QStringList() : QStringList{who});
        EXPECT_FALSE(store->set_setting("technician", who));
        again();
    }
    void again()
    {
        window.reset();
        window = std::make_unique<MainWindow>(store, room->lines(), seams());
        window->practise(*room);
        show_window();
    }
    const bench::Drill& drill(const char* id)
    {
        for (const bench::Drill& d : bench::shipped_drills())
            if (d.id == id) return d;
        throw std::out_of_range(id);
    }
    void begin(const char* id)
    {
        auto* list = window->findChild<QListWidget*>("drills");
        for (int i = 0; i < list->count(); ++i)
            if (list->item(i)->text().contains(QString::fromStdString(drill(id).title) + "  ·")) list->setCurrentRow(i);
        ASSERT_EQ(text("drill_name").toStdString(), drill(id).title);
        list->setFocus();
        ASSERT_TRUE(key("drill_begin", Qt::Key_Return));
    }
    void asked(int item, int of)
    {
        ASSERT_TRUE(wait([&] {
            return text("drill_title").contains(QStringLiteral("%1 of %2").arg(item).arg(of)) &&
                   !text("drill_asked").isEmpty();
        })) << text("drill_title").toStdString()
            << " " << text("trouble").toStdString();
    }
    /// The choice of this word, by its key.
    void choose(const QString& words)
    {
        for (int i = 1; i <= 6; ++i)
            if (auto* b = button(QStringLiteral("drill_choice_%1").arg(i)); b && b->text().contains(words)) {
                ASSERT_TRUE(key(b->objectName(), Qt::Key_F1 + i - 1));
                return;
            }
        FAIL() << "no choice " << words.toStdString();
    }
    work::DrillRun last() { return work::drill_runs(*store).back(); }
};

} // namespace

TEST(PracticeDesk, ReadingASwingByEyeIsMarkedAgainstTheTruthAndTheReader)
{
    Practice b;
    b.shot("practice");
    EXPECT_TRUE(b.window->findChild<QWidget*>("practice_band")->isVisible());
    EXPECT_FALSE(b.button("room_clients")) << "there are no clients here";
    ASSERT_NO_FATAL_FAILURE(b.begin("swing_calm"));
    for (int i = 1; i <= 2; ++i) {
        ASSERT_NO_FATAL_FAILURE(b.asked(i, 6));
        if (i == 1) { // an answer before there is a swing is no answer
            ASSERT_TRUE(b.key("drill_type", Qt::Key_F7));
            QTest::keyClicks(b.window->focusWidget(), "2.3");
            QTest::keyClick(b.window->focusWidget(), Qt::Key_Return);
            EXPECT_TRUE(b.text("drill_told").contains("no swing yet"));
            b.window->findChild<QWidget*>("trial_main")->parentWidget()->setFocus();
        }
        const std::size_t before = b.visit().trials.size();
        ASSERT_TRUE(b.key("trial_main", Qt::Key_Space));
        ASSERT_TRUE(b.wait([&] { return b.visit().trials.size() > before; }));
        b.pass(600);
        ASSERT_TRUE(b.key("trial_main", Qt::Key_Space));
        ASSERT_TRUE(b.wait([&] { return bool(b.seen_tank().swing.reading); }));
        b.pass(100);
        EXPECT_FALSE(b.shows("±")) << "the reader's number is not shown";
        auto* plot = b.window->findChild<SwingView*>();
        for (int k = 0; k < plot->itemCount(); ++k)
            EXPECT_FALSE(plot->item(k)->visible()) << "nor its line and window in the picture";
        const double reader = b.seen_tank().swing.reading->kg;
        const QString by_eye = QString::number(reader + (i == 1 ? 0 : 0.2), 'f', 3);
        if (i == 1) b.shot("practice-swing");
        ASSERT_TRUE(b.key("drill_type", Qt::Key_F7));
        b.type("drill_number", by_eye);
        QTest::keyClick(b.window->focusWidget(), Qt::Key_Return);
        ASSERT_TRUE(b.wait([&] { return b.text("drill_told").contains("You read"); }))
            << b.text("drill_told").toStdString();
        if (i == 2) b.shot("practice-told");
        ASSERT_EQ(b.last().answers.size(), static_cast<std::size_t>(i));
        const practice::Reading r = b.last().answers.back().numbers.front();
        EXPECT_DOUBLE_EQ(r.given, by_eye.toDouble());
        EXPECT_NEAR(*r.reader, r.truth, 0.04) << "no calm swing in docs/calm-window.md is further off";
        if (i == 2) { // 0.2 kg on this body, by hand
            const bench::DrillItem& body = b.drill("swing_calm").items[1];
            const auto fat = [&](double kg) {
                return 495 / (body.mass_kg() / ((body.mass_kg() - kg) / water::density_tanaka_2001(34.6) -
                                                   body.residual_volume_l - 0.1)) -
                       450;
            };
            const double cost = fat(r.given) - fat(r.truth);
            EXPECT_TRUE(b.last().answers.back().cost.contains(QString::number(std::abs(cost), 'f', 1)))
                << b.last().answers.back().cost.toStdString() << " " << cost;
        }
        ASSERT_TRUE(b.key("drill_next", Qt::Key_F8));
    }
    ASSERT_NO_FATAL_FAILURE(b.asked(3, 6));
    // the program is closed in mid-drill, and opened again
    b.again();
    EXPECT_EQ(b.last().next_item(), 2);
    ASSERT_TRUE(b.key("drill_go_on", Qt::Key_G));
    ASSERT_NO_FATAL_FAILURE(b.asked(3, 6));
    ASSERT_TRUE(b.key("drill_stop", Qt::Key_F12));
    ASSERT_TRUE(b.wait([&] { return b.last().given_up; }));
    EXPECT_FALSE(b.last().passed());
    EXPECT_EQ(b.window->windowTitle(), "Fusain · practice");
}

TEST(PracticeDesk, SomebodyNewSaysTheirNameAndBegins)
{
    Practice b(8, {});
    auto* list = b.window->findChild<QListWidget*>("drills");
    list->setFocus();
    ASSERT_TRUE(b.key("drill_begin", Qt::Key_Return));
    EXPECT_TRUE(work::drill_runs(*b.store).empty()) << "nobody practises without a name";
    b.type("practice_name", "Trainee One");
    QTest::keyClick(b.window->focusWidget(), Qt::Key_Return);
    ASSERT_TRUE(b.wait([&] { return b.window->focusWidget() == list; }));
    ASSERT_NO_FATAL_FAILURE(b.begin("runs_1"));
    ASSERT_NO_FATAL_FAILURE(b.asked(1, 5));
    EXPECT_EQ(b.last().who, "Trainee One");
}

TEST(PracticeLevel, IsAskedForAtTheDoorAndAColleagueAnswersForIt)
{
    Bench b;
    ASSERT_TRUE(b.window->lab().diary->save(records::StaffMember{0, "B. Le Goff", false, {}, true}));
    b.add_client();
    ASSERT_FALSE(b.window->lab().rules.choose("practice_level", "1", "M. Tanguy"));
    ASSERT_TRUE(b.key("start_analyser", Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier));
    ASSERT_NO_FATAL_FAILURE(b.screen());
    ASSERT_TRUE(b.key("screening_keep", Qt::Key_Return));
    ASSERT_TRUE(b.key("screening_start", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return b.text("trouble").contains("asks for level 1"); }))
        << b.text("trouble").toStdString();
    EXPECT_TRUE(b.text("trouble").contains("On the platform, Before the platform")) << "which drills are missing";
    EXPECT_FALSE(b.window->session().is_open());
    // in the lab's people: not for oneself, and not without a reason
    b.window->show_instruments();
    QTest::mouseClick(b.button("lab_hours"), Qt::LeftButton);
    for (auto* list : b.window->findChildren<QListWidget*>())
        for (int i = 0; list->isVisible() && i < list->count(); ++i)
            if (list->item(i)->text().startsWith("M. Tanguy")) list->setCurrentRow(i);
    b.type("let_measure", "knows it for years");
    ASSERT_TRUE(b.key("save_hours", Qt::Key_S, Qt::ControlModifier));
    EXPECT_TRUE(b.shows("Nobody answers for themselves"));
    EXPECT_FALSE(b.store->set_setting("technician", "B. Le Goff"));
    ASSERT_TRUE(b.key("save_hours", Qt::Key_S, Qt::ControlModifier));
    EXPECT_TRUE(b.wait([&] { return b.shows("let by B. Le Goff"); }));
    EXPECT_TRUE(work::let_by(b.window->lab(), "M. Tanguy").contains("knows it for years"));
    b.shot("practice-let");
}

TEST(PracticeDesk, CoachingEndsWithWhatTheTrialsHeld)
{
    Practice b;
    ASSERT_NO_FATAL_FAILURE(b.begin("exhale_1"));
    ASSERT_NO_FATAL_FAILURE(b.asked(1, 1));
    ASSERT_TRUE(b.key("drill_done", Qt::Key_F7));
    EXPECT_TRUE(b.text("drill_told").contains("no result yet"));
    for (int trial = 1; trial <= 6; ++trial) {
        b.window->findChild<QWidget*>("trial_main")->parentWidget()->setFocus();
        const std::size_t before = b.visit().trials.size();
        ASSERT_TRUE(b.key("trial_main", Qt::Key_Space));
        ASSERT_TRUE(b.wait([&] { return b.visit().trials.size() > before; }));
        b.pass(500);
        ASSERT_TRUE(b.key("trial_main", Qt::Key_Space));
        ASSERT_TRUE(b.wait([&] { return b.seen_tank().let_go; }));
        ASSERT_TRUE(b.key("trial_main", Qt::Key_Space)) << "taken, or thrown out where it was never calm";
        ASSERT_TRUE(b.wait([&] { return !b.visit().running() && b.window->session().live().trial == 0; }));
        b.pass(100);
    }
    b.shot("practice-coach");
    ASSERT_TRUE(b.key("drill_done", Qt::Key_F7));
    ASSERT_TRUE(b.wait([&] { return b.text("drill_told").contains("% fat; truly"); }))
        << b.text("drill_told").toStdString();
    const work::DrillAnswer a = b.last().answers.back();
    EXPECT_GE(a.calls.size(), 3u);
    EXPECT_LE(a.calls.size(), 6u);
    EXPECT_NEAR(a.numbers.front().truth, b.drill("exhale_1").items[0].true_fat_percent(), 1e-9);
    EXPECT_NEAR(a.numbers.front().given, a.numbers.front().truth, 1.0) << "the conversion is right for these bodies";
    ASSERT_TRUE(b.key("drill_next", Qt::Key_F8));
    EXPECT_TRUE(b.wait([&] { return b.text("drill_marks").contains("right; missed"); }))
        << b.text("drill_marks").toStdString();
    b.shot("practice-marks");
}

TEST(PracticeDesk, FindingAFaultOnTheAnalyser)
{
    Practice b;
    ASSERT_NO_FATAL_FAILURE(b.begin("analyser_faults"));
    ASSERT_NO_FATAL_FAILURE(b.asked(1, 6));
    ASSERT_TRUE(b.wait([&] { return b.seen_analyser().hands; }));
    ASSERT_NO_FATAL_FAILURE(b.sweep());
    ASSERT_NO_FATAL_FAILURE(b.choose("nothing is wrong"));
    ASSERT_TRUE(b.wait([&] { return b.text("drill_told").contains("Right"); })) << b.text("drill_told").toStdString();
    ASSERT_TRUE(b.key("drill_next", Qt::Key_F8));
    ASSERT_NO_FATAL_FAILURE(b.asked(2, 6));
    EXPECT_TRUE(b.text("drill_seen").contains("two fingers"));
    b.shot("practice-fault");
    ASSERT_NO_FATAL_FAILURE(b.choose("nothing is wrong"));
    ASSERT_TRUE(b.wait([&] { return b.text("drill_told").contains("It was: an electrode"); }))
        << b.text("drill_told").toStdString();
    EXPECT_EQ(b.last().calls().missed, 1);
    EXPECT_EQ(b.last().calls().right, 1);
}

TEST(PracticeDesk, ChoosingBetweenRunsWithoutTheProgramsHelp)
{
    Practice b;
    ASSERT_NO_FATAL_FAILURE(b.begin("runs_1"));
    const char* right[] = {"runs 1 and 2", "a third run", "runs 1 and 3", "runs 2 and 3", "runs 1 and 2"};
    for (int i = 0; i < 5; ++i) {
        ASSERT_NO_FATAL_FAILURE(b.asked(i + 1, 5));
        ASSERT_TRUE(b.wait([&] { return b.title().contains("2:"); })) << b.title().toStdString();
        EXPECT_FALSE(b.shows("runs agree") || b.shows("That is enough") || b.shows("start over")) << "that is asked";
        if (i == 2) b.shot("practice-runs");
        ASSERT_NO_FATAL_FAILURE(b.choose(i == 3 ? "runs 1 and 2" : right[i]));
        ASSERT_TRUE(b.wait([&] { return b.button("drill_next"); }));
        if (i == 3) { // and what the wrong two would have cost on this body, by hand
            EXPECT_TRUE(b.text("drill_told").contains("It was: runs 2 and 3")) << b.text("drill_told").toStdString();
            const bench::DrillItem& body = b.drill("runs_1").items[3];
            const double off = 495 * (body.runs_off_l[0] + body.runs_off_l[1]) / 2 / body.mass_kg(); // Siri
            EXPECT_TRUE(b.last().answers.back().cost.contains(QString::number(std::abs(off), 'f', 1)))
                << b.last().answers.back().cost.toStdString() << " " << off;
        }
        ASSERT_TRUE(b.key("drill_next", Qt::Key_F8));
    }
    ASSERT_TRUE(b.wait([&] { return b.last().over; }));
    EXPECT_EQ(b.last().calls().right, 4);
    EXPECT_TRUE(b.last().passed()) << "four of five";
    EXPECT_TRUE(b.text("drill_marks").startsWith("● Passed")) << b.text("drill_marks").toStdString();
}

TEST(PracticeDesk, PlacingLinesIsMarkedInMillimetresAndGrams)
{
    Practice b;
    ASSERT_NO_FATAL_FAILURE(b.begin("lines_1"));
    ASSERT_NO_FATAL_FAILURE(b.asked(1, 10));
    ASSERT_TRUE(b.wait([&] { return b.button("lines_done") && b.button("lines_done")->isEnabled(); }, 30000));
    b.shot("practice-lines");
    const xray::Lines before = b.xray().standing(b.visit())->lines;
    ASSERT_TRUE(b.key("lines_done", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return b.text("drill_told").contains("strings lie"); }))
        << b.text("drill_told").toStdString();
    const auto numbers = b.last().answers.back().numbers;
    ASSERT_EQ(numbers.size(), 7u);
    // against the true map, made here once more from the same seed
    std::mt19937_64 random(401);
    const virt::Body body = virt::parse_body(b.drill("lines_1").items[0].body);
    const xray::Table table = virt::stand_in_table();
    const virt::TrueMap map = virt::lie_down(
        body, virt::posture_of(body, random), table.field_width_mm, table.field_height_mm, virt::scan_pixel_mm);
    EXPECT_NEAR(numbers[0].given, std::abs(before.neck_mm - map.lines.neck_mm), 0.05)
        << "its scan came as a file, which rounds";
    EXPECT_GT(b.last().numbers().rms, 3) << "they were accepted where they lay beside their places";
    EXPECT_TRUE(b.last().answers.back().cost.contains("g lean"));
}

TEST(PracticeDesk, PanelsOfOneMethodAreLeftAloneByAnother)
{
    Practice b;
    for (const char* id : {"runs_1", "swing_calm", "lines_1", "analyser_faults"}) { // each with the panels before it
        ASSERT_NO_FATAL_FAILURE(b.begin(id));
        ASSERT_NO_FATAL_FAILURE(b.asked(1, static_cast<int>(b.drill(id).items.size())));
        for (int i = 0; i < 3; ++i) Units::get().toggle(Measure::mass);
        b.pass(50);
        ASSERT_TRUE(b.key("drill_stop", Qt::Key_F12));
        ASSERT_TRUE(b.wait([&] { return b.button("drill_begin"); }));
    }
    // given up at the bench: the drill is left with it
    ASSERT_NO_FATAL_FAILURE(b.begin("swing_calm"));
    ASSERT_NO_FATAL_FAILURE(b.asked(1, 6));
    ASSERT_TRUE(b.key("give_visit_up", Qt::Key_G, Qt::ControlModifier));
    b.type("give_up_reason", "enough for today");
    QTest::keyClick(b.window->focusWidget(), Qt::Key_Return);
    ASSERT_TRUE(b.wait([&] { return b.last().given_up; })) << b.title().toStdString();
    // left while its map is still being made: the map is nobody's any more
    ASSERT_NO_FATAL_FAILURE(b.begin("lines_1"));
    ASSERT_TRUE(b.key("drill_stop", Qt::Key_F12));
    ASSERT_NO_FATAL_FAILURE(b.begin("swing_calm"));
    ASSERT_NO_FATAL_FAILURE(b.asked(1, 6));
    b.pass(1500);
    EXPECT_EQ(b.visit().method, method::hydrostatic);
}

TEST(PracticeDesk, DecidingAtScreeningAndTalking)
{
    Practice b;
    ASSERT_NO_FATAL_FAILURE(b.begin("screen_impedance_1"));
    const char* right[] = {"go", "no", "better another day", "go, noted", "better another day", "go, noted"};
    for (int i = 0; i < 6; ++i) {
        ASSERT_NO_FATAL_FAILURE(b.asked(i + 1, 6));
        if (i == 1) b.shot("practice-screening");
        for (int k = 1; k <= 4; ++k)
            if (auto* one = b.button(QStringLiteral("drill_choice_%1").arg(k));
                one && one->text().endsWith(right[i]) && (QString(right[i]) != "go" || k == 1)) {
                ASSERT_TRUE(b.key(one->objectName(), Qt::Key_F1 + k - 1));
                break;
            }
        ASSERT_TRUE(b.wait([&] { return b.button("drill_next"); }));
        EXPECT_TRUE(b.text("drill_told").startsWith("● Right")) << i << b.text("drill_told").toStdString();
        ASSERT_TRUE(b.key("drill_next", Qt::Key_F8));
    }
    EXPECT_TRUE(b.wait([&] { return b.last().passed(); }));

    ASSERT_NO_FATAL_FAILURE(b.begin("talk_1"));
    const char* said[] = {
        "told from noise", "Fat fell", "Fat rose", "cannot be compared", "told from noise", "told from noise"};
    for (int i = 0; i < 6; ++i) {
        ASSERT_NO_FATAL_FAILURE(b.asked(i + 1, 6));
        if (i == 1) b.shot("practice-talk");
        ASSERT_NO_FATAL_FAILURE(b.choose(i == 2 ? "into muscle" : said[i]));
        ASSERT_TRUE(b.wait([&] { return b.button("drill_next"); }));
        EXPECT_EQ(b.text("drill_told").startsWith("● Right"), i != 2) << i << b.text("drill_told").toStdString();
        ASSERT_TRUE(b.key("drill_next", Qt::Key_F8));
    }
    EXPECT_TRUE(b.wait([&] { return b.last().passed(); })) << "five of six";
    EXPECT_EQ(b.last().calls().mistaken, 1);
}
