// SPDX-License-Identifier: GPL-3.0-or-later
// What the windows withstand: two of them on one lab, silent sensors, trials left running, clocks that are set back,
// names that are markup, a demo let loose on a real lab.
#include "gui.h"

#include <QDir>
#include <QMessageBox>
#include <QProcess>
#include <QSignalSpy>

using namespace fusain;
using namespace fusain::desk;

TEST(Withstands, ASecondWindowLooksAndNeverDisturbs)
{
    Bench b;
    b.add_client();
    ASSERT_NO_FATAL_FAILURE(b.to_trials());
    ASSERT_NO_FATAL_FAILURE(b.begin_swing());
    const long visit = b.window->session().visit_id();
    // a second window comes while the client swings
    const auto store = *records::Store::open(b.store->file());
    MainWindow second(store, {}, b.seams());
    ASSERT_FALSE(second.session().resume(visit, "S. Morvan"));
    ASSERT_TRUE(second.session().held());
    EXPECT_NE(second.session().held()->text.find("M. Tanguy"), std::string::npos);
    EXPECT_TRUE(second.session().visit().running()) << "it sees what is done";
    QSignalSpy refused(&second.session(), &work::Session::refused);
    second.session().act(bench::event::Mass{80.0});
    second.session().throw_out(1, "mine now");
    EXPECT_EQ(refused.size(), 2);
    // the first one's reading is taken as if nobody were there
    ASSERT_TRUE(b.wait([&] { return b.button("trial_main") && b.button("trial_main")->isEnabled(); }));
    ASSERT_TRUE(b.key("trial_main", Qt::Key_Space));
    ASSERT_TRUE(b.wait([&] { return b.visit().readings().size() == 1; })) << b.text("trouble").toStdString();
    EXPECT_EQ(*b.visit().mass_kg, *store->replay(visit)->mass_kg);
    ASSERT_TRUE(b.wait([&] { return second.session().visit().readings().size() == 1; })) << "and shown in the second";
    // others may be measured there meanwhile
    records::Client c = b.store->find_clients({})[0];
    EXPECT_FALSE(second.session().start(c, "S. Morvan", method::hydrostatic));
    EXPECT_FALSE(second.session().held());
    ASSERT_FALSE(second.session().resume(visit, "S. Morvan"));
    ASSERT_TRUE(second.session().held());
    // left by the first: it goes on in the second
    QSignalSpy taken_over(&second.session(), &work::Session::taken_over);
    ASSERT_FALSE(b.window->session().leave());
    ASSERT_TRUE(b.wait([&] { return taken_over.size() == 1; }));
    EXPECT_FALSE(second.session().held());
    second.session().act(bench::event::Remark{"mine now"});
    ASSERT_TRUE(b.wait([&] { return store->events(visit).back().kind == "remark"; }));
    // and the first, coming back, looks
    ASSERT_FALSE(b.window->session().resume(visit, "M. Tanguy"));
    EXPECT_TRUE(b.window->session().held());
    EXPECT_TRUE(b.text("trouble").contains("another window")) << b.text("trouble").toStdString();
}

TEST(Withstands, ASilentThermometerIsShownAsOldAndNotTaken)
{
    Bench b(8);
    b.add_client();
    ASSERT_NO_FATAL_FAILURE(b.to_bench());
    ASSERT_TRUE(b.key("confirm_who", Qt::Key_Return));
    ASSERT_TRUE(b.key("take_mass", Qt::Key_Space));
    for (std::size_t i = 1; i <= 3; ++i) {
        ASSERT_TRUE(b.key("ask_blow", Qt::Key_Space));
        ASSERT_TRUE(b.wait([&] { return b.tank().blows.size() >= i; }));
    }
    ASSERT_TRUE(b.key("use_lungs", Qt::Key_Return));
    b.room->direct("fault sensors_silent on");
    ASSERT_TRUE(b.key("take_zero", Qt::Key_Space));
    ASSERT_TRUE(b.wait([&] { return b.text("old_water").contains("too old to take"); }, 15000))
        << b.title().toStdString();
    EXPECT_TRUE(b.text("old_water").contains("34."))
        << "what it said last, as old: " << b.text("old_water").toStdString();
    EXPECT_FALSE(b.button("take_water")->isEnabled());
    QTest::keyClick(b.window->focusWidget(), Qt::Key_Space);
    b.pass(200);
    EXPECT_FALSE(b.tank().water_temp_c);
    EXPECT_TRUE(b.seen_tank().cell_kg) << "the load cell goes on";
    // typed it can be; and the sensor, when it speaks again
    b.room->direct("fault sensors_silent off");
    ASSERT_TRUE(b.wait([&] { return b.button("take_water")->isEnabled(); }));
    EXPECT_TRUE(b.text("old_water").isEmpty());
    ASSERT_TRUE(b.key("take_water", Qt::Key_Space));
    ASSERT_TRUE(b.wait([&] { return b.tank().water_temp_c.has_value(); }));
}

TEST(Withstands, ATrialLeftRunningEndsByItself)
{
    Bench b(8);
    b.add_client();
    ASSERT_NO_FATAL_FAILURE(b.to_trials());
    ASSERT_NO_FATAL_FAILURE(b.begin_swing());
    ASSERT_TRUE(b.wait([&] { return b.visit().trials.back().status == bench::Trial::Status::broken; }, 15000));
    EXPECT_TRUE(b.visit().trials.back().reason.find("was not taken") != std::string::npos)
        << b.visit().trials.back().reason;
    EXPECT_FALSE(b.window->session().live().trial);
    EXPECT_LT(b.store->signal(b.window->session().visit_id(), 1)->last_s(), 62) << "what it was is kept, and no more";
    ASSERT_NO_FATAL_FAILURE(b.take_trial());
    EXPECT_EQ(b.visit().readings().size(), 1u) << "and the next one counts";
}

TEST(Withstands, NamesAreNeverMarkup)
{
    Bench b;
    const QString given = "<b>Bold</b>", family = "<img src='file:///etc/hostname'><script>";
    b.add_client(given, family);
    const auto plain = [&](const char* where) {
        int seen = 0;
        for (auto* l : b.window->findChildren<QLabel*>()) {
            if (!l->isVisible() || !(l->text().contains("Bold") || l->text().contains("img"))) continue;
            ++seen;
            EXPECT_TRUE(l->textFormat() == Qt::PlainText || !l->text().contains("<img"))
                << where << ": " << l->text().toStdString();
        }
        EXPECT_GT(seen, 0) << where;
    };
    plain("the record");
    ASSERT_TRUE(b.key("book_client", Qt::Key_B, Qt::ControlModifier));
    plain("booking");
    ASSERT_TRUE(b.wait([&] { return b.button("book_time"); }));
    QTest::keyClick(b.window->focusWidget(), Qt::Key_Escape);
    b.window->show_clients();
    ASSERT_TRUE(b.key("start_visit", Qt::Key_Return, Qt::ControlModifier));
    plain("screening");
    ASSERT_NO_FATAL_FAILURE(b.screen());
    ASSERT_TRUE(b.key("screening_keep", Qt::Key_Return));
    auto* who = b.window->findChild<QComboBox*>("technician");
    who->insertItem(0, "<i>M.</i> Tanguy");
    who->setCurrentIndex(0);
    ASSERT_TRUE(b.key("screening_start", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return b.visit().stops_asked; }));
    plain("is this the same person?");
    EXPECT_TRUE(b.shows(given)) << "as it was written";
    b.window->show_day();
    plain("the day");
}

TEST(Withstands, AClockThatIsSetBackDoesNotMakeOldThingsYoung)
{
    const QDateTime machine = QDateTime::currentDateTimeUtc();
    qint64 up_ms = 1000;
    const auto up = [&] { return up_ms; };
    work::set_machine_clock([machine] { return machine; }, up);
    const QDateTime before = work::clock_now();
    work::set_machine_clock([machine] { return machine.addSecs(-2 * 3600); }, up);
    const QDateTime after = work::clock_now();
    EXPECT_GE(after, before);
    EXPECT_LT(before.secsTo(after), 5) << "and counts on from where it stood";
    up_ms += 300;
    EXPECT_EQ(after.msecsTo(work::clock_now()), 300);
    // a nudge is no jump, and forward it follows
    work::set_machine_clock([machine] { return machine.addSecs(3600); }, up);
    EXPECT_GT(before.secsTo(work::clock_now()), 3500);
    work::set_machine_clock(QDateTime::currentDateTimeUtc);
}

// A battery that is empty, or somebody who sets the date: until it is answered nothing is kept under the new day.
static void leap(bool machine_is_right)
{
    Bench b;
    const records::Client c = b.add_client();
    ASSERT_FALSE(b.window->session().start(c, "M. Tanguy", method::hydrostatic));
    ASSERT_TRUE(b.wait([&] { return !b.window->session().has_unwritten(); }));
    const QDateTime before = work::clock_now();
    qint64 ahead_s = 20 * 3600;
    const QDateTime begun = QDateTime::currentDateTimeUtc();
    const qint64 from_ns = b.clock.now_ns();
    work::set_machine_clock([&] { return begun.addMSecs((b.clock.now_ns() - from_ns) / 1'000'000).addSecs(ahead_s); },
        [&] { return b.clock.now_ns() / 1'000'000; });
    b.pass(3000);
    EXPECT_FALSE(b.window->findChild<QMessageBox*>("clock_jump")) << "less than a day is followed";
    EXPECT_GT(before.secsTo(work::clock_now()), 19 * 3600);
    const QDateTime followed = work::clock_now();
    ahead_s += 4 * 86400;
    b.pass(3000);
    auto* ask = b.window->findChild<QMessageBox*>("clock_jump");
    ASSERT_TRUE(ask);
    b.shot("clock-jump");
    QTest::keyClick(ask, Qt::Key_Return);
    QTest::keyClick(ask, Qt::Key_Escape);
    b.pass(3000);
    ASSERT_EQ(b.window->findChildren<QMessageBox*>("clock_jump").size(), 1)
        << "asked once, and answered by nothing else";
    b.window->session().act(bench::event::Identity{171.0});
    ASSERT_TRUE(b.wait([&] { return b.visit().identity_confirmed; }));
    EXPECT_LT(followed.secsTo(work::clock_now()), 60);
    const auto events = b.store->events(b.window->session().visit_id());
    EXPECT_LT(
        followed.secsTo(QDateTime::fromString(QString::fromStdString(events.back().at_utc), Qt::ISODateWithMs)), 60);

    QTest::mouseClick(b.button(machine_is_right ? "clock_is_right" : "clock_counts_on"), Qt::LeftButton);
    b.pass(5000);
    EXPECT_FALSE(b.window->findChild<QMessageBox*>("clock_jump")) << "not asked again";
    const qint64 since_s = followed.secsTo(work::clock_now());
    if (machine_is_right) {
        EXPECT_GT(since_s, 4 * 86400);
    } else {
        EXPECT_LT(since_s, 60);
        ahead_s -= 4 * 86400; // set back: it is followed again, and asked about when it leaps again
        b.pass(3000);
        EXPECT_LT(followed.secsTo(work::clock_now()), 60);
        ahead_s += 2 * 86400;
        b.pass(3000);
        EXPECT_TRUE(b.window->findChild<QMessageBox*>("clock_jump"));
    }
}

TEST(Withstands, AClockThatLeapsADayIsFollowedWhereItIsRight) { leap(true); }
TEST(Withstands, AClockThatLeapsADayIsCountedOnWhereItIsWrong) { leap(false); }

TEST(Withstands, ALabStandsWhereItStands)
{
    QTemporaryDir dir;
    const auto store = *records::Store::open(dir.path() + "/lab.fusain");
    ASSERT_TRUE(store->setting("zone").isEmpty());
    work::Lab first(store);
    const QString zone = store->setting("zone");
    EXPECT_EQ(zone, QString::fromLatin1(QTimeZone::systemTimeZoneId())) << "the computer's, once";
    EXPECT_FALSE(store->set_setting("zone", "America/Los_Angeles"));
    work::Lab second(store);
    EXPECT_EQ(second.diary->zone().id(), "America/Los_Angeles") << "and kept";
    EXPECT_EQ(store->zone_of({}).id(), "America/Los_Angeles") << "a visit that begins is in the lab's zone";
    bench::Visit elsewhere;
    elsewhere.zone = "Pacific/Auckland";
    EXPECT_EQ(store->zone_of(elsewhere).id(), "Pacific/Auckland") << "one that was made elsewhere stays there";
    // a check at 16:15 of the 24th there, 00:15 of the 25th in UTC, is one of the 24th
    const auto i =
        second.diary->save(records::Instrument{0, &bench::scale_kind(), "Scale", "S-1", "", "", "", true, 20, 2, {}});
    ASSERT_TRUE(i);
    work::set_clock(QDateTime(QDate(2026, 11, 25), QTime(6, 0), Qt::UTC));
    work::pass_check(second, *i); // six hours earlier: 00:00 UTC of the 25th
    const auto points = second.checks.points(*i);
    ASSERT_EQ(points.size(), 1u);
    EXPECT_EQ(points[0].day, "24 November 2026");
    // one that is dated in the future proves nothing
    work::set_clock(QDateTime(QDate(2026, 11, 24), QTime(6, 0), Qt::UTC));
    EXPECT_FALSE(second.checks.ready(*i, second.now()).ready);
}

TEST(Withstands, TheDemoOpensOnlyWhatADemoMade)
{
    QTemporaryDir dir;
    const QString file = dir.path() + "/lab.fusain";
    {
        const auto store = *records::Store::open(file);
        EXPECT_FALSE(store->set_setting("lab_name", "A real lab"));
        EXPECT_FALSE(store->set_setting("technician", "M. Tanguy"));
        records::Client c;
        c.given_name = "Aliénor";
        c.family_name = "Quéméner";
        c.birth_date = "1995-05-02";
        c.height_cm = 171;
        c.archived = true;
        ASSERT_TRUE(store->save(c));
    }
    QProcess demo;
    demo.start(QStringLiteral(TEST_BIN_DIR "/fusain-demo"), {"--lab", dir.path()});
    ASSERT_TRUE(demo.waitForFinished(20000));
    EXPECT_EQ(demo.exitCode(), 1);
    EXPECT_TRUE(demo.readAllStandardError().contains("is a real lab"));
    const auto store = *records::Store::open(file);
    EXPECT_EQ(store->setting("lab_name"), "A real lab");
    EXPECT_EQ(store->setting("technician"), "M. Tanguy");
    EXPECT_EQ(store->count_clients({}) + store->count_clients({}, true), 1);

    // what it makes itself is for its user alone, whatever the machine's habit is
    QTemporaryDir home;
    QProcess fresh;
    fresh.start("/bin/sh", {"-c", "umask 022; exec " TEST_BIN_DIR "/fusain-demo --lab " + home.path() + "/made"});
    ASSERT_TRUE(fresh.waitForStarted());
    // another process, in its own time: it has made its lab once it says so
    while (!QFile::exists(home.path() + "/made/lab.fusain-wal")) ASSERT_FALSE(fresh.waitForFinished(50));
    fresh.kill();
    fresh.waitForFinished();
    for (const char* made : {"made", "made/lab.fusain", "made/lab.fusain-wal"}) {
        const auto p = QFileInfo(home.path() + '/' + made).permissions();
        EXPECT_TRUE(p & QFile::ReadOwner) << made;
        EXPECT_FALSE(p & (QFile::ReadGroup | QFile::ReadOther | QFile::WriteGroup | QFile::ExeOther)) << made;
    }
}
