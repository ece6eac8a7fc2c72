// SPDX-License-Identifier: GPL-3.0-or-later
// Things that go wrong at the tank, in the real window.
#include "gui.h"

#include <QMessageBox>
#include <QTimer>

#include <functional>

using namespace fusain;
using namespace fusain::desk;

namespace {

void to_who(Bench& b)
{
    b.add_client();
    ASSERT_NO_FATAL_FAILURE(b.to_bench());
    ASSERT_TRUE(b.wait([&] { return b.button("confirm_who"); }));
}

void enter_in_vain(Bench& b)
{
    b.type("height_cm", "171.4");
    ASSERT_TRUE(b.key("confirm_who", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return b.text("trouble").contains("in use by another program"); }));
}

} // namespace

TEST(Failures, ALineLostInMidTrialBreaksTheTrialAndComesBackByItself)
{
    Bench b;
    b.add_client();
    ASSERT_NO_FATAL_FAILURE(b.to_trials());
    ASSERT_NO_FATAL_FAILURE(b.begin_swing());
    b.room->direct("unplug 6");
    ASSERT_TRUE(b.wait(
        [&] { return !b.visit().trials.empty() && b.visit().trials[0].status == bench::Trial::Status::broken; }));
    ASSERT_TRUE(b.wait([&] { return b.text("status").contains("no bytes since"); })) << b.text("status").toStdString();
    // the sentence beside the steps is gone once the line is back; what the log keeps is there for good
    EXPECT_TRUE(b.visit().trials[0].reason.find("line") != std::string::npos ||
                b.visit().trials[0].reason.find("gap") != std::string::npos)
        << b.visit().trials[0].reason;
    EXPECT_TRUE(b.visit().readings().empty()) << "never silently short";
    ASSERT_TRUE(b.wait([&] { return !b.seen_tank().cell_kg; }));
    ASSERT_TRUE(b.wait([&] { return b.seen_tank().cell_kg.has_value(); })) << "reconnects by itself";
    ASSERT_TRUE(b.wait([&] { return b.title().contains("is broken"); })) << b.title().toStdString();
    ASSERT_NO_FATAL_FAILURE(b.take_trial());
    EXPECT_EQ(b.visit().trials.back().number, 2);
}

TEST(Failures, ARestlessClientIsThrownOutWithTheReason)
{
    Bench b(6, 11);
    b.add_client();
    ASSERT_NO_FATAL_FAILURE(b.to_trials());
    b.room->direct("fault leaves_early on");
    ASSERT_NO_FATAL_FAILURE(b.begin_swing());
    // one leaver in twenty looks like a swing for ever: then the twelve seconds say it
    ASSERT_TRUE(b.wait([&] { return b.title().contains("No reading") || b.title().contains("No calm yet"); }))
        << b.title().toStdString();
    ASSERT_TRUE(b.key("trial_main", Qt::Key_Space));
    ASSERT_TRUE(b.wait([&] { return b.visit().trials.back().status == bench::Trial::Status::thrown_out; }));
    EXPECT_FALSE(b.visit().trials.back().reason.empty());
    b.room->direct("fault leaves_early off");
    ASSERT_NO_FATAL_FAILURE(b.take_trial());
    const int before = static_cast<int>(b.visit().readings().size());
    ASSERT_EQ(before, 1);
    ASSERT_TRUE(b.key("trial_out", Qt::Key_X));
    ASSERT_TRUE(b.key("reason_2", Qt::Key_2));
    ASSERT_TRUE(b.wait([&] { return b.visit().readings().empty(); }));
    EXPECT_EQ(b.visit().trials.back().reason, "touched the wall");
}

TEST(Failures, ALockedLabIsSaidAndNothingEnteredIsLost)
{
    Bench b;
    ASSERT_NO_FATAL_FAILURE(to_who(b));
    {
        Locked other(b.store->file());
        ASSERT_NO_FATAL_FAILURE(enter_in_vain(b));
        EXPECT_FALSE(b.visit().identity_confirmed) << "not shown as accepted before it is stored";
        EXPECT_EQ(b.field("height_cm")->text(), "171.4");
        EXPECT_TRUE(b.window->session().resume(1, "M. Tanguy"))
            << "the visit is not left while a value of it is not stored";
    }
    ASSERT_TRUE(b.wait([&] { return b.visit().identity_confirmed; })) << "tried again by itself";
    EXPECT_EQ(*b.visit().height_today_cm, 171.4);
    EXPECT_TRUE(b.text("trouble").isEmpty());
}

TEST(Failures, TheWindowLivesWhileItWaitsForTheLab)
{
    Bench b;
    ASSERT_TRUE(b.window->lab().diary->save(records::StaffMember{0, "R. Le Goff", false, {}, true}));
    b.window->lab().say_changed();
    const auto client = b.add_client();
    // the other program lets go only when this window turns its events: a write that stands still waits in vain
    std::optional<Locked> other;
    const auto let_go_soon = [&] {
        other.emplace(b.store->file());
        QTimer::singleShot(300, b.window.get(), [&] { other.reset(); });
    };
    work::Session& session = b.window->session();
    const struct {
        const char* what;
        std::function<bool()> write;
    } writes[] = {
        {"a client",
            [&] {
                auto c = client;
                c.phone = "0297000000";
                return bool(b.store->save(c));
            }},
        {"a setting",
            [&] {
                auto* who = b.window->findChild<QComboBox*>("technician");
                who->setCurrentIndex(who->findText("R. Le Goff"));
                emit who->activated(who->currentIndex());
                return b.store->setting("technician") == "R. Le Goff";
            }},
        {"a visit is begun", [&] { return !session.start(client, "R. Le Goff", method::hydrostatic); }},
        {"it is left", [&] { return !session.leave(); }},
        {"it is gone on with", [&] { return !session.resume(1, "R. Le Goff") && !session.held(); }},
    };
    for (const auto& row : writes) {
        let_go_soon();
        EXPECT_TRUE(row.write()) << row.what;
        EXPECT_FALSE(other) << row.what << " did not wait";
        EXPECT_TRUE(b.text("trouble").isEmpty()) << row.what << ": " << b.text("trouble").toStdString();
        other.reset();
    }
    other.emplace(b.store->file()); // for longer than anybody waits
    const auto refused = b.store->set_setting("lab_name", "x");
    ASSERT_TRUE(refused);
    EXPECT_EQ(refused->code, "lab_locked");
}

TEST(Failures, QuittingWaitsForWhatIsNotOnTheDiskYet)
{
    Bench b;
    ASSERT_NO_FATAL_FAILURE(to_who(b));
    {
        Locked other(b.store->file());
        ASSERT_NO_FATAL_FAILURE(enter_in_vain(b));
        b.window->close();
        EXPECT_TRUE(b.window->isVisible()) << "the value would be lost";
        ASSERT_TRUE(b.wait([&] { return b.window->findChild<QMessageBox*>("unwritten"); }));
        b.window->close();
        EXPECT_EQ(b.window->findChildren<QMessageBox*>("unwritten").size(), 1) << "asked once";
        QTest::mouseClick(b.button("wait_and_quit"), Qt::LeftButton);
        EXPECT_TRUE(b.window->isVisible());
    }
    ASSERT_TRUE(b.wait([&] { return !b.window->isVisible(); })) << "it quits by itself once everything is stored";
    const auto stored = b.store->replay(1);
    ASSERT_TRUE(stored);
    EXPECT_EQ(*stored->height_today_cm, 171.4);
}

TEST(Failures, TheTraceKeepsReachingTheScreen)
{
    Bench b;
    b.add_client();
    ASSERT_NO_FATAL_FAILURE(b.to_trials());
    ASSERT_NO_FATAL_FAILURE(b.begin_swing());
    const std::size_t before = b.seen_tank().trace.size();
    int turns = 0;
    b.wait([&] { return ++turns > 60; });
    EXPECT_GT(b.seen_tank().trace.size(), before + 50);
}

TEST(Failures, ASlowDiskIsToldUntilItHasCaughtUp)
{
    Bench b;
    ASSERT_NO_FATAL_FAILURE(to_who(b));
    emit b.window->session().disk_lags("The disk is slow.");
    EXPECT_TRUE(b.shows("The disk is slow."));
    emit b.window->session().disk_lags({});
    EXPECT_FALSE(b.shows("The disk is slow."));
    emit b.window->session().disk_lags("The disk is slow.");
    emit b.window->session().refused({"lab_locked", Level::error, "lab", "The lab is in use by another program."});
    emit b.window->session().disk_lags({});
    EXPECT_TRUE(b.shows("in use by another program")) << "only its own line goes";
}
