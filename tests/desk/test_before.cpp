// SPDX-License-Identifier: GPL-3.0-or-later
// Before the test, in the real windows: booking, preparing, screening, making instruments ready, clients, rules.
#include "gui.h"
#include "records/people/client_log.h"

#include <QDir>
#include <QFile>
#include <QSignalSpy>
#include <QTableWidget>

using namespace fusain;
using namespace fusain::desk;

namespace {

const QTimeZone paris("Europe/Paris");

void at_clock(int h, int m, const QDate& day = QDate(2026, 11, 23))
{
    work::set_clock(QDateTime(day, QTime(h, m), paris));
}

records::Booking book(Bench& b, long client, Method method, const QString& serial, const QTime& from, int minutes,
    const QDate& day = QDate(2026, 11, 23))
{
    records::Booking k;
    k.client_id = client;
    k.made_by = "M. Tanguy";
    const auto m = records::minute_at(day, from, paris);
    k.parts.push_back({0, client, method, serial.toStdString(), {m, m + minutes}});
    const auto stored = b.window->lab().diary->book(k, true);
    EXPECT_TRUE(stored) << stored.messages().front().text;
    return *stored;
}

void add_instrument(Bench& b, const QString& kind, const QString& name, const QString& serial)
{
    ASSERT_TRUE(b.wait([&] { return b.button("save_instrument") || b.button("add_instrument"); }));
    if (!b.button("save_instrument")) ASSERT_TRUE(b.key("add_instrument", Qt::Key_N, Qt::ControlModifier));
    auto* box = b.window->findChild<QComboBox*>("instrument_kind");
    box->setCurrentIndex(box->findData(kind));
    auto* shows = b.window->findChild<QComboBox*>("instrument_shows"); // raw readings
    shows->setCurrentIndex(0);
    emit shows->activated(0);
    if (!b.button("instrument_more")->isChecked())
        ASSERT_TRUE(b.key("instrument_more", Qt::Key_M, Qt::ControlModifier));
    for (const auto& [field, text] : {std::pair{"name", name}, std::pair{"serial", serial}}) {
        for (auto* e : b.window->findChildren<QLineEdit*>(field))
            if (e->isVisible()) {
                e->setFocus();
                e->selectAll();
                QTest::keyClicks(e, text);
            }
    }
    ASSERT_TRUE(b.key("save_instrument", Qt::Key_S, Qt::ControlModifier));
    ASSERT_TRUE(b.wait([&] { return b.text("instrument_name") == name; }));
}

} // namespace

TEST(Before, BookedPreparedScreenedTankReadyTested)
{
    Bench b(8, 7, false);
    auto client = b.add_client();
    client.email = "a@pointe-grise.example";
    ASSERT_TRUE(b.store->save(client));
    ASSERT_TRUE(b.window->lab().diary->save(records::StaffMember{0, "M. Tanguy", false, {}, true}));
    EXPECT_FALSE(b.button("room_day")) << "no day before there is an instrument";

    // without a tank in the register nobody is weighed
    b.window->show_clients();
    ASSERT_TRUE(b.key("start_visit", Qt::Key_Return, Qt::ControlModifier));
    EXPECT_TRUE(b.text("trouble").contains("no tank in the register"));
    ASSERT_NO_FATAL_FAILURE(add_instrument(b, "hydrostatic", "Tank 1", "T-01"));
    ASSERT_NO_FATAL_FAILURE(add_instrument(b, "scale", "Scale", "S-01"));

    // booked for tomorrow by keys
    b.window->show_clients();
    ASSERT_TRUE(b.key("book_client", Qt::Key_B, Qt::ControlModifier));
    b.type("book_from", "2026-11-24");
    ASSERT_TRUE(b.key("method_hydrostatic", Qt::Key_4, Qt::AltModifier | Qt::ShiftModifier));
    auto* times = b.window->findChild<QListWidget*>("book_times");
    ASSERT_TRUE(b.wait([&] { return times->count() > 0; })) << b.text("book_said").toStdString();
    EXPECT_TRUE(times->item(0)->text().contains("Tuesday 24 November")) << times->item(0)->text().toStdString();
    ASSERT_TRUE(b.key("book_time", Qt::Key_Return, Qt::ControlModifier));
    const auto booked = b.window->lab().diary->bookings_of(client.id);
    ASSERT_EQ(booked.size(), 1u);
    const auto from = records::local_of(booked[0].from(), paris);
    EXPECT_GE(from.time(), QTime(10, 30)) << "the staff comes at 07:00 and the tank takes three and a half hours";

    // the sheet: PDF, calendar entry, e-mail
    ASSERT_TRUE(b.key("day_send", Qt::Key_S));
    const QDir outbox(b.dir.path() + "/outbox");
    EXPECT_EQ(outbox.entryList(QDir::Files).size(), 3) << outbox.entryList(QDir::Files).join(' ').toStdString();
    EXPECT_FALSE(b.window->lab().diary->booking(booked[0].id)->sheet_sent_at.isEmpty());

    // the day: she ate 80 minutes before
    at_clock(from.time().hour(), from.time().minute(), from.date());
    b.window->show_day();
    b.window->findChild<DayPage*>()->show_day(from.date());
    EXPECT_TRUE(b.text("day_title").contains("Aliénor Quéméner")) << b.text("day_title").toStdString();
    EXPECT_TRUE(b.text("day_hint").contains("not ready"));
    ASSERT_TRUE(b.key("day_go", Qt::Key_Return));
    ASSERT_NO_FATAL_FAILURE(b.screen({{"last food", "80 min ago"}}));
    EXPECT_EQ(b.text("screening_title"), "Go, with what is noted");
    EXPECT_TRUE(b.text("screening_body").contains("Ate 1 h 20 min before; the rule is 2 h."))
        << b.text("screening_body").toStdString();
    ASSERT_TRUE(b.key("screening_keep", Qt::Key_Return));
    ASSERT_TRUE(b.key("screening_start", Qt::Key_Return));

    // not on a tank that is not ready
    EXPECT_TRUE(b.text("trouble").contains("Tank 1 is not ready")) << b.text("trouble").toStdString();
    EXPECT_EQ(b.text("instrument_name"), "Tank 1");
    EXPECT_FALSE(b.window->session().is_open());
    ASSERT_TRUE(b.key("begin_check", Qt::Key_C));
    ASSERT_TRUE(b.key("check_main", Qt::Key_Space)); // bleach on
    EXPECT_EQ(b.text("check_title"), "Leave the bleach");
    EXPECT_FALSE(b.button("check_main")->isEnabled()) << "fifteen minutes";
    const auto later = from.addSecs(16 * 60);
    at_clock(later.time().hour(), later.time().minute(), later.date());
    for (int i = 0; i < 6; ++i) ASSERT_TRUE(b.key("check_main", Qt::Key_Space)) << i; // bleach off … chair hung
    EXPECT_EQ(b.text("check_title"), "Read the water");
    ASSERT_TRUE(b.key("check_main", Qt::Key_Space));
    ASSERT_TRUE(b.key("check_main", Qt::Key_Space));
    ASSERT_TRUE(b.wait([&] { return b.text("check_title").contains("ready"); })) << b.text("check_title").toStdString();
    ASSERT_TRUE(b.key("check_main", Qt::Key_Space));

    // nor with a scale that was not checked: the certified mass, three times, over the line
    EXPECT_EQ(b.text("trouble"), "") << "ready: back to who waits, by itself";
    ASSERT_TRUE(b.key("screening_start", Qt::Key_Return));
    EXPECT_EQ(b.text("instrument_name"), "Scale");
    ASSERT_TRUE(b.key("begin_check", Qt::Key_C));
    ASSERT_TRUE(b.key("check_main", Qt::Key_Space));
    for (int i = 0; i < 3; ++i) ASSERT_TRUE(b.key("check_main", Qt::Key_Space)) << i;
    ASSERT_TRUE(b.wait([&] { return b.text("check_title").contains("ready"); }))
        << b.text("check_result").toStdString();
    EXPECT_TRUE(b.text("check_result").contains("against the certified mass"));
    ASSERT_TRUE(b.key("check_main", Qt::Key_Space));
    ASSERT_TRUE(b.key("screening_start", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return b.visit().stops_asked; }));
    EXPECT_EQ(b.visit().next_step(), bench::step::who);
    EXPECT_EQ(b.visit().instrument, "T-01");
    EXPECT_EQ(b.visit().house.at("trial_rule"), "best_three_within_100g");
    // looked at again from the day: the same visit, not a second one, and it is not moved any more
    const long begun = b.window->session().visit_id();
    b.window->show_day();
    ASSERT_TRUE(b.key("day_go", Qt::Key_Return));
    ASSERT_TRUE(b.key("screening_start", Qt::Key_Return));
    EXPECT_EQ(b.window->session().visit_id(), begun);
    EXPECT_EQ(b.store->visits_of(client.id).size(), 1u);
    EXPECT_EQ(b.window->lab().diary->change(*b.window->lab().diary->booking(booked[0].id)).messages().front().code,
        "has_begun");
    ASSERT_EQ(b.visit().note_words.size(), 1u);
    EXPECT_NE(b.visit().note_words[0].find("Ate 1 h 20 min"), std::string::npos);
}

TEST(Before, EveryInstrumentIsCheckedOverItsLine)
{
    Bench b(8, 7, false);
    b.window->show_instruments();
    struct Row {
        const char *kind, *name;
        int confirms, readings;
    };
    for (const Row& row : {Row{"impedance", "Analyser", 4, 15}, Row{"air_displacement", "Chamber", 2, 5},
             Row{"absorptiometry", "Table", 2, 1}}) {
        ASSERT_NO_FATAL_FAILURE(add_instrument(b, row.kind, row.name, QString("S-") + row.name));
        for (const bool stepped : {true, false}) {
            for (const char* fault : {"reference_step", "table_drifts"})
                b.room->direct(QString("fault %1 %2").arg(fault, stepped ? "on" : "off"));
            ASSERT_TRUE(b.key("begin_check", Qt::Key_C)) << row.name;
            for (int i = 0; i < row.confirms; ++i) {
                if (b.text("check_title") == "Warming up") work::set_clock(work::clock_now().addSecs(130));
                ASSERT_TRUE(b.key("check_main", Qt::Key_Space)) << row.name << " step " << i;
            }
            for (int i = 0; i < row.readings; ++i) {
                const QString before = b.text("check_steps") + b.text("check_title");
                ASSERT_TRUE(b.key("check_main", Qt::Key_Space)) << row.name << " reading " << i;
                ASSERT_TRUE(b.wait([&] { return b.text("check_steps") + b.text("check_title") != before; }))
                    << row.name << " reading " << i;
            }
            // the chamber's and the table's jump are larger than allowed; the analyser's one channel is within its 1 %
            const bool fails = stepped && QString(row.kind) != "impedance";
            ASSERT_TRUE(b.wait([&] { return b.text("check_title").contains(fails ? "failed" : "ready"); }))
                << row.name << b.text("check_title").toStdString() << b.text("check_result").toStdString();
            if (fails) {
                ASSERT_TRUE(b.key("check_write", Qt::Key_W));
                QTest::keyClicks(b.field("check_remark"), "door seal changed");
                QTest::keyClick(b.window->focusWidget(), Qt::Key_Return);
                EXPECT_TRUE(b.text("check_result").contains("Noted: door seal changed (M. Tanguy)"));
            }
            ASSERT_TRUE(b.key("check_main", Qt::Key_Space));
            EXPECT_EQ(b.text("instrument_ready").contains("failed"), fails) << b.text("instrument_ready").toStdString();
        }
    }
}

TEST(Before, AStopIsAStop)
{
    Bench b;
    b.add_client();
    ASSERT_TRUE(b.key("start_visit", Qt::Key_Return, Qt::ControlModifier));
    ASSERT_NO_FATAL_FAILURE(b.screen({{"surgery", "yes"}}));
    EXPECT_EQ(b.text("screening_title"), "Not today");
    EXPECT_TRUE(b.text("screening_body").contains("no way around"));
    EXPECT_FALSE(b.button("screening_override")) << "no override";
    ASSERT_TRUE(b.key("screening_keep", Qt::Key_Return));
    EXPECT_FALSE(b.button("screening_start")->text().contains("water"));
    ASSERT_TRUE(b.key("screening_start", Qt::Key_Return));
    EXPECT_FALSE(b.window->session().is_open());
    EXPECT_FALSE(b.button("room_bench"));
}

TEST(Before, WithoutConsentNobodyIsMeasured)
{
    Bench b;
    auto c = b.add_client();
    c.consent_on.clear();
    ASSERT_TRUE(b.store->save(c));
    b.window->show_clients();
    EXPECT_TRUE(b.shows("no signed consent"));
    ASSERT_TRUE(b.key("start_visit", Qt::Key_Return, Qt::ControlModifier));
    ASSERT_NO_FATAL_FAILURE(b.screen());
    EXPECT_TRUE(b.text("screening_body").contains("No signed consent"));
    EXPECT_FALSE(b.button("screening_override"));
}

TEST(Before, ConsentIsTheFirstQuestionAndIsRecordedThere)
{
    Bench b;
    auto c = b.add_client();
    c.consent_on.clear();
    ASSERT_TRUE(b.store->save(c));
    b.window->show_clients();
    ASSERT_TRUE(b.key("start_visit", Qt::Key_Return, Qt::ControlModifier));
    ASSERT_TRUE(b.wait([&] { return b.text("screening_title").contains("signed the consent today"); }));
    EXPECT_TRUE(b.text("screening_side").contains("No signed consent is on record")) << "the reason beside the verdict";
    ASSERT_TRUE(b.key("answer_yes", Qt::Key_Y));
    EXPECT_FALSE(b.text("screening_title").contains("consent"));
    EXPECT_FALSE(b.text("screening_side").contains("No signed consent"));
    EXPECT_EQ(b.store->client(c.id)->consent_on, b.window->lab().today().toString(Qt::ISODate));
    const auto log = records::client_events(*b.store, c.id);
    ASSERT_FALSE(log.empty());
    EXPECT_EQ(log.back().kind, "consent");
    EXPECT_EQ(log.back().who, "M. Tanguy");
    EXPECT_EQ(bench::read<records::entry::Consent>(log.back().body)->signed_by, c.full_name().toStdString());
    // what was answered before Esc is there again
    ASSERT_TRUE(b.key("ask_singly", Qt::Key_1));
    const QString second = b.text("screening_title");
    ASSERT_TRUE(b.key("answer_no", Qt::Key_N));
    ASSERT_TRUE(b.key("answer_no", Qt::Key_N));
    const QString third = b.text("screening_title");
    ASSERT_NE(third, second);
    ASSERT_TRUE(b.key("screening_leave", Qt::Key_Escape));
    b.window->show_clients();
    ASSERT_TRUE(b.key("start_visit", Qt::Key_Return, Qt::ControlModifier));
    ASSERT_TRUE(b.key("ask_singly", Qt::Key_1));
    ASSERT_TRUE(b.wait([&] { return b.text("screening_title") == third; })) << b.text("screening_title").toStdString();
}

TEST(Before, WhatWasNotOnTheScreenWasNotAsked)
{
    Bench b;
    b.window->resize(1024, 620);
    b.add_client();
    ASSERT_TRUE(b.key("start_visit", Qt::Key_Return, Qt::ControlModifier)); // the tank has the longest page
    ASSERT_TRUE(b.wait([&] { return b.button("page_done") && b.button("page_done")->text() == "show the rest"; }))
        << b.window->height() << b.text("screening_title").toStdString() << b.button("page_done")->text().toStdString();
    for (int i = 0; i < 5 && b.button("page_done")->text() == "show the rest"; ++i) {
        ASSERT_TRUE(b.key("page_done", Qt::Key_Return));
        b.pass(100);
        ASSERT_TRUE(b.text("screening_title").contains("Does any of it apply")) << "the rest is shown first";
    }
    EXPECT_TRUE(b.button("page_done")->text().startsWith("all asked"));
    ASSERT_TRUE(b.key("page_done", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return b.text("screening_title").contains("as the sheet asks"); }));
}

TEST(Before, WhatIsReadOutTogetherIsMarkedWithAKeyEach)
{
    Bench b;
    const auto c = b.add_client();
    ASSERT_TRUE(b.key("start_analyser", Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier));
    ASSERT_TRUE(b.wait([&] { return b.text("screening_title").contains("Does any of it apply"); }));
    for (const char* stop : {"mark_powered_implant", "mark_pregnancy_possible", "mark_ill"})
        ASSERT_TRUE(b.button(stop) && !b.button(stop)->isChecked()) << stop << ": none is answered beforehand";
    EXPECT_FALSE(b.button("mark_somebody_at_the_tank")) << "of another method";
    b.button("mark_metal_implant")->click();
    b.shot("screening-page");
    ASSERT_TRUE(b.key("page_done", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return b.text("screening_title").contains("as the sheet asks"); }));
    EXPECT_EQ(b.button("mark_last_meal")->text(), "Ate less than 3 h before");
    b.button("mark_last_meal")->click();
    b.button("mark_lotion")->click();
    b.shot("screening-page-2");
    ASSERT_TRUE(b.key("page_done", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return b.text("screening_title").contains("last food"); })) << "a time is asked by itself";
    b.type("screening_typed", "150 min ago");
    QTest::keyClick(b.field("screening_typed"), Qt::Key_Return);
    ASSERT_TRUE(b.wait([&] { return b.button("screening_keep") != nullptr; }))
        << b.text("screening_title").toStdString();
    EXPECT_EQ(b.text("screening_title"), "Go, with what is noted");
    ASSERT_TRUE(b.key("screening_keep", Qt::Key_Return));
    const auto kept = b.window->lab().diary->last_screening(c.id);
    ASSERT_TRUE(kept);
    const screening::Answers& answers = kept->kept.answers;
    EXPECT_TRUE(answers.at("metal_implant").yes.value());
    EXPECT_FALSE(answers.at("powered_implant").yes.value());
    EXPECT_TRUE(answers.at("lotion").yes.value());
    EXPECT_TRUE(answers.at("bladder").yes.value()) << "not marked: emptied, as the sheet asks";
    EXPECT_DOUBLE_EQ(answers.at("last_meal").minutes_ago.value(), 150);
    EXPECT_TRUE(answers.at("last_alcohol").kept) << "when it was nobody asked, and nobody invented";
    EXPECT_FALSE(answers.at("last_alcohol").never);
}

TEST(Before, AnotherDayCanBeOverriddenWithAReasonAndAName)
{
    Bench b;
    b.add_client();
    ASSERT_TRUE(b.key("start_visit", Qt::Key_Return, Qt::ControlModifier));
    ASSERT_NO_FATAL_FAILURE(b.screen({{"Ill", "yes"}}));
    EXPECT_EQ(b.text("screening_title"), "Better another day");
    ASSERT_TRUE(b.key("screening_override", Qt::Key_O));
    QTest::keyClicks(b.field("override_reason"), "no");
    QTest::keyClick(b.window->focusWidget(), Qt::Key_Return);
    EXPECT_TRUE(b.text("trouble").contains("Write why"));
    QTest::keyClicks(b.field("override_reason"), " fever today, sea trial tomorrow");
    QTest::keyClick(b.window->focusWidget(), Qt::Key_Return);
    EXPECT_TRUE(b.text("screening_title").startsWith("Go"));
    ASSERT_TRUE(b.key("screening_keep", Qt::Key_Return));
    const auto kept = b.window->lab().diary->last_screening(b.store->find_clients({})[0].id);
    ASSERT_TRUE(kept);
    EXPECT_EQ(kept->kept.verdicts.front().overridden->who, "M. Tanguy");
    EXPECT_EQ(kept->kept.verdicts.front().verdict, "another_day") << "the verdict itself stays";
    ASSERT_TRUE(b.key("screening_start", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return b.visit().stops_asked; }));
    EXPECT_NE(b.visit().note_words.back().find("sea trial"), std::string::npos);
}

TEST(Before, AnOverrideDoesNotReachAStopThatIsAnsweredAfterIt)
{
    Bench b;
    b.add_client();
    ASSERT_TRUE(b.key("start_visit", Qt::Key_Return, Qt::ControlModifier));
    ASSERT_NO_FATAL_FAILURE(b.screen({{"Ill", "yes"}}));
    ASSERT_TRUE(b.key("screening_override", Qt::Key_O));
    QTest::keyClicks(b.field("override_reason"), "sea trial tomorrow");
    QTest::keyClick(b.window->focusWidget(), Qt::Key_Return);
    ASSERT_TRUE(b.text("screening_title").startsWith("Go"));
    // back to the surgery question, and the other answer
    for (int i = 0; i < 40 && !b.text("screening_title").contains("surgery"); ++i)
        ASSERT_TRUE(b.key("screening_back", Qt::Key_Up));
    ASSERT_TRUE(b.key("answer_yes", Qt::Key_Y));
    EXPECT_EQ(b.text("screening_title"), "Not today");
    ASSERT_TRUE(b.key("screening_keep", Qt::Key_Return));
    EXPECT_FALSE(b.button("screening_start")->text().contains("water"));
    const auto kept = b.window->lab().diary->last_screening(b.store->find_clients({})[0].id);
    EXPECT_FALSE(kept->kept.verdicts.front().overridden);
}

TEST(Before, WrongClockTimesAreSaidAndNothingEnteredIsLost)
{
    Bench b;
    b.add_client();
    ASSERT_TRUE(b.key("start_visit", Qt::Key_Return, Qt::ControlModifier));
    for (int i = 0; i < 30 && !b.text("screening_title").contains("last food"); ++i)
        ASSERT_NO_FATAL_FAILURE(b.answer());
    for (const auto& [typed, said] : {std::pair{"breakfast", "is not a time"}, std::pair{"today 11:00", "lies ahead"},
             std::pair{"25:10", "is not a time"}}) {
        b.type("screening_typed", typed);
        QTest::keyClick(b.window->focusWidget(), Qt::Key_Return);
        EXPECT_TRUE(b.text("screening_trouble").contains(said)) << typed << b.text("screening_trouble").toStdString();
        EXPECT_EQ(b.field("screening_typed")->text(), typed);
    }
    b.type("screening_typed", "23:30"); // last night
    QTest::keyClick(b.window->focusWidget(), Qt::Key_Return);
    EXPECT_FALSE(b.text("screening_title").contains("last food"));
    // what follows is asked again from the same place; the answers before stay
    ASSERT_NO_FATAL_FAILURE(b.screen());
    EXPECT_EQ(b.text("screening_title"), "Go");
}

TEST(Before, MovedByKeysAndByMouseAndClashesAreSaid)
{
    Bench b;
    const auto one = b.add_client(), two = b.add_client("Gwenn", "Riou");
    const auto first = book(b, one.id, method::hydrostatic, "PG-hydrostatic", QTime(13, 0), 40),
               second = book(b, two.id, method::hydrostatic, "PG-hydrostatic", QTime(15, 0), 40);
    b.window->show_day();
    b.window->findChild<DayPage*>()->select(first.id);
    ASSERT_TRUE(b.key("day_move", Qt::Key_M));
    for (int i = 0; i < 3; ++i) ASSERT_TRUE(b.key("move_later", Qt::Key_Right));
    EXPECT_TRUE(b.text("day_moving").contains("13:15"));
    ASSERT_TRUE(b.key("move_leave", Qt::Key_Escape));
    EXPECT_EQ(b.window->lab().diary->booking(first.id)->from(), first.from()) << "left where it was";
    ASSERT_TRUE(b.key("day_move", Qt::Key_M));
    for (int i = 0; i < 18; ++i) ASSERT_TRUE(b.key("move_later", Qt::Key_Right));
    EXPECT_TRUE(b.text("day_moving").contains("make tank ready") || b.text("day_moving").contains("same time"))
        << b.text("day_moving").toStdString();
    ASSERT_TRUE(b.key("move_keep", Qt::Key_Return));
    EXPECT_EQ(b.window->lab().diary->booking(first.id)->from(), first.from() + 90);
    EXPECT_TRUE(b.text("day_watch").contains("◆")) << "the clash stays on the screen";
    EXPECT_TRUE(b.text("trouble").contains("Moved, but"));

    // dragged back with the mouse: two hours to the left
    auto* strip = b.window->findChild<DayStrip*>();
    QSignalSpy dropped(strip, &DayStrip::dropped);
    std::optional<QPoint> card;
    QSignalSpy chosen(strip, &DayStrip::chosen);
    for (int y = 60; y < strip->height() && !card; y += 20)
        for (int x = 120; x < strip->width() && !card; x += 4) {
            QTest::mousePress(strip, Qt::LeftButton, {}, QPoint(x, y));
            QTest::mouseRelease(strip, Qt::LeftButton, {}, QPoint(x, y));
            if (!chosen.isEmpty() && chosen.back().at(0).toLongLong() == first.id) card = QPoint(x, y);
        }
    ASSERT_TRUE(card);
    QTest::mousePress(strip, Qt::LeftButton, {}, *card);
    QTest::mouseMove(strip, *card - QPoint(60, 0));
    QTest::mouseMove(strip, *card - QPoint(150, 0));
    QTest::mouseRelease(strip, Qt::LeftButton, {}, *card - QPoint(150, 0));
    ASSERT_EQ(dropped.size(), 1);
    EXPECT_LT(b.window->lab().diary->booking(first.id)->from(), second.from() - 60);
    EXPECT_EQ(b.window->lab().diary->booking(first.id)->from() % 5, 0);
}

TEST(Before, TooSoonIsRefusedWithTheReason)
{
    Bench b;
    const auto c = b.add_client();
    const auto past = book(b, c.id, method::hydrostatic, "PG-hydrostatic", QTime(9, 0), 40, QDate(2026, 11, 12));
    ASSERT_TRUE(b.window->lab().diary->close(past.id, {method::hydrostatic}));
    b.window->show_clients();
    ASSERT_TRUE(b.key("book_client", Qt::Key_B, Qt::ControlModifier));
    ASSERT_TRUE(b.key("method_hydrostatic", Qt::Key_4, Qt::AltModifier | Qt::ShiftModifier));
    EXPECT_TRUE(b.text("book_said").contains("the retest interval")) << b.text("book_said").toStdString();
    EXPECT_TRUE(b.text("book_said").contains("7 January 2027")) << "eight weeks after 12 November";
    EXPECT_FALSE(b.button("book_time")->isEnabled());
    b.type("book_days", "0");
    QTest::keyClick(b.window->focusWidget(), Qt::Key_Return);
    EXPECT_TRUE(b.text("book_trouble").contains("allowed is 1 to 62"));
    b.type("book_days", "62");
    QTest::keyClick(b.window->focusWidget(), Qt::Key_Return);
    auto* times = b.window->findChild<QListWidget*>("book_times");
    ASSERT_GT(times->count(), 0);
    EXPECT_TRUE(times->item(0)->text().contains("January"));
}

TEST(Before, TodaysAnswerDecidesAboutAPregnancyTheRecordOnlyWhereNobodyAsked)
{
    for (const auto& [on_record, today] : {std::pair{true, "no"}, {true, "yes"}, {false, "yes"}, {false, "no"}}) {
        Bench b;
        auto c = b.add_client();
        if (on_record) c.facts << "pregnancy_possible";
        ASSERT_TRUE(b.store->save(c));
        b.window->show_clients();
        ASSERT_TRUE(b.key("start_visit", Qt::Key_Return, Qt::ControlModifier));
        ASSERT_NO_FATAL_FAILURE(b.screen({{"Pregnant", today}}));
        ASSERT_TRUE(b.key("screening_keep", Qt::Key_Return));
        ASSERT_TRUE(b.key("screening_start", Qt::Key_Return));
        ASSERT_TRUE(b.wait([&] { return b.visit().stops_asked; })) << b.text("screening_title").toStdString();
        EXPECT_EQ(b.visit().pregnant, QString(today) == "yes") << on_record << today;
    }
}

TEST(Before, WhatIsMeasuredElsewhereIsHeldAgainstTheLastTimeToo)
{
    Bench b;
    const auto client = b.add_client();
    ASSERT_TRUE(b.window->lab().diary->save(records::Instrument{
        0, &bench::instrument_of(method::absorptiometry), "X-ray", "X-01", "", "", "", true, 1.1, 20, 180.0}));
    const auto screen_at = [&](const QDate& day, int hour, long& booked) {
        at_clock(hour, 0, day);
        booked = book(b, client.id, method::absorptiometry, "X-01", QTime(hour, 0), 20, day).id;
        b.window->show_day();
        b.window->findChild<DayPage*>()->show_day(day);
        ASSERT_TRUE(b.key("day_go", Qt::Key_Return));
        ASSERT_NO_FATAL_FAILURE(b.screen());
    };
    long booked = 0;
    ASSERT_NO_FATAL_FAILURE(screen_at(QDate(2026, 11, 23), 9, booked));
    EXPECT_TRUE(b.text("screening_side").contains("No earlier visit")) << "there is nothing to compare with";
    ASSERT_TRUE(b.key("screening_keep", Qt::Key_Return));
    ASSERT_TRUE(b.window->lab().diary->close(booked, {method::absorptiometry})) << "on another instrument's own screen";
    ASSERT_EQ(b.window->lab().diary->bookings_of(client.id)[0].state, records::BookingState::measured);
    ASSERT_NO_FATAL_FAILURE(screen_at(QDate(2027, 3, 22), 16, booked));
    EXPECT_TRUE(b.text("screening_side")
                    .contains("Will not compare cleanly with the visit of 23 November 2026: time of day differs"))
        << b.text("screening_side").toStdString();
}

TEST(Before, DoublesAreSaidMergedArchivedAndDeleted)
{
    Bench b;
    const auto first = b.add_client();
    b.window->show_clients();
    ASSERT_TRUE(b.key("add_client", Qt::Key_N, Qt::ControlModifier));
    for (const auto& [field, text] : {std::pair{"given_name", "alienor"}, std::pair{"family_name", "QUEMENER"},
             std::pair{"birth_date", "1995-05-02"}, std::pair{"height_cm", "171"}, std::pair{"email", "a at b"}})
        b.type(field, text);
    b.window->findChild<QComboBox*>("sex")->setCurrentIndex(1);
    ASSERT_TRUE(b.key("save_client", Qt::Key_S, Qt::ControlModifier));
    EXPECT_TRUE(b.shows("a at b")) << "the e-mail is said to be wrong";
    b.type("email", "a@b.example");
    QTest::mouseClick(b.button("fact_metal_implant"), Qt::LeftButton);
    ASSERT_TRUE(b.key("save_client", Qt::Key_S, Qt::ControlModifier));
    EXPECT_TRUE(b.text("doubles").contains("May already be there")) << b.text("doubles").toStdString();
    EXPECT_EQ(b.store->count_clients({}), 1) << "warned first";
    ASSERT_TRUE(b.key("save_client", Qt::Key_S, Qt::ControlModifier));
    EXPECT_EQ(b.store->count_clients({}), 2) << "kept as another person, knowingly";

    // merged: the second into the first
    ASSERT_TRUE(b.key("more", Qt::Key_F4));
    ASSERT_TRUE(b.key("merge_client", Qt::Key_M, Qt::ControlModifier));
    b.type("search", first.number);
    ASSERT_TRUE(b.key("merge_yes", Qt::Key_Return, Qt::ControlModifier));
    ASSERT_EQ(b.store->count_clients({}), 1);
    EXPECT_TRUE(b.store->client(first.id)->facts.contains("metal_implant"));

    ASSERT_TRUE(b.key("more", Qt::Key_F4));
    ASSERT_TRUE(b.key("archive_client", Qt::Key_A, Qt::ControlModifier | Qt::ShiftModifier));
    EXPECT_EQ(b.store->count_clients({}), 0);
    QTest::mouseClick(b.button("show_archived"), Qt::LeftButton);
    b.type("search", first.number);
    ASSERT_TRUE(b.key("more", Qt::Key_F4));
    ASSERT_TRUE(b.key("export_client", Qt::Key_E, Qt::ControlModifier | Qt::ShiftModifier));
    EXPECT_EQ(QDir(b.dir.path() + "/handed-out").entryList(QDir::Dirs | QDir::NoDotAndDotDot).size(), 1);
    ASSERT_TRUE(b.key("more", Qt::Key_F4));
    ASSERT_TRUE(b.key("erase_client", Qt::Key_Delete, Qt::ControlModifier | Qt::ShiftModifier));
    ASSERT_TRUE(b.wait([&] { return b.window->findChild<QLineEdit*>("erase_number")->isVisible(); }));
    b.shot("erase");
    QTest::keyClicks(b.field("erase_number"), "999");
    QTest::keyClick(b.window->focusWidget(), Qt::Key_Return);
    EXPECT_TRUE(b.store->client(first.id)) << "the wrong number deletes nobody";
    EXPECT_TRUE(b.text("client_said").contains("is not the number")) << b.text("client_said").toStdString();
    QTest::mouseClick(b.button("erase_copies"), Qt::LeftButton);
    b.type("erase_number", first.number);
    QTest::keyClick(b.window->focusWidget(), Qt::Key_Return);
    EXPECT_FALSE(b.store->client(first.id));
    EXPECT_EQ(records::erased_count(*b.store), 1);
    EXPECT_TRUE(QDir(b.dir.path() + "/handed-out").isEmpty()) << "what was handed out goes along where it is asked for";
}

TEST(Before, AListIsImportedAfterALookAtIt)
{
    Bench b;
    QFile list(b.dir.path() + "/crew.csv");
    ASSERT_TRUE(list.open(QIODevice::WriteOnly));
    list.write("Vorname;Nachname;Geburtsdatum;Geschlecht;Gr\xF6sse;Telefon\nMa\xEBlle;Sala\xFCn;30.12.1998;w;173;0151 "
               "07\nAlan;Guillou;27.05.1959;m;1,72;\nBrieuc;Hasco\xEBt;05.10.2003;m;181;\n");
    list.close();
    b.window->show_clients();
    ASSERT_TRUE(b.key("import_list", Qt::Key_I, Qt::ControlModifier));
    b.shot("import-empty");
    auto* page = b.window->findChild<ImportPage*>();
    page->read(list.fileName());
    ASSERT_TRUE(b.wait([&] { return b.button("import_now") && b.button("import_now")->isEnabled(); }));
    EXPECT_TRUE(b.text("import_said").contains("Windows-1252, separated by semicolons"));
    EXPECT_TRUE(b.text("import_said").contains("2 can be imported, 1 cannot")) << b.text("import_said").toStdString();
    auto* errors = b.window->findChild<QTableWidget*>("import_errors");
    ASSERT_EQ(errors->rowCount(), 1);
    EXPECT_EQ(errors->item(0, 0)->text(), "3");
    EXPECT_TRUE(errors->item(0, 1)->text().contains("metres")) << errors->item(0, 1)->text().toStdString();
    EXPECT_EQ(b.store->count_clients({}), 0) << "nothing before it is asked for";
    ASSERT_TRUE(b.key("import_now", Qt::Key_Return, Qt::ControlModifier));
    ASSERT_TRUE(b.wait([&] { return b.store->count_clients({}) == 2; }));
    EXPECT_EQ(b.store->find_clients("salaun").size(), 1u);
}

TEST(Before, HouseRulesAndProtocolsAreTheLabsOwn)
{
    Bench b;
    b.add_client();
    b.window->show_rules();
    auto* box = b.window->findChild<QComboBox*>("house_conversion");
    ASSERT_TRUE(box);
    box->setFocus();
    QTest::keyClick(box, Qt::Key_Down);
    emit box->activated(box->currentIndex());
    EXPECT_EQ(b.window->lab().rules.house().at("conversion"), "brozek_1963");

    // a limit of the tank's protocol: refused when it makes no sense, kept as a new version when it does
    QTest::mouseClick(b.button("rules_hydrostatic"), Qt::LeftButton);
    auto* table = b.window->findChild<QTableWidget*>("rules_table");
    for (int i = 0; i < table->rowCount(); ++i)
        if (table->item(i, 0)->text() == "meal") table->setCurrentCell(i, 0);
    ASSERT_TRUE(b.wait([&] {
        const auto all = b.window->findChildren<QLineEdit*>("rule_limit_0");
        return !all.isEmpty() && all.back()->isVisible();
    }));
    b.type("rule_limit_0", "-3");
    ASSERT_TRUE(b.key("keep_rule", Qt::Key_S, Qt::ControlModifier));
    EXPECT_TRUE(b.text("rules_said").contains("version 2 stays")) << b.text("rules_said").toStdString();
    EXPECT_EQ(b.field("rule_limit_0")->text(), "-3") << "what was typed stays";
    b.type("rule_limit_0", "240");
    ASSERT_TRUE(b.key("keep_rule", Qt::Key_S, Qt::ControlModifier));
    EXPECT_TRUE(b.text("rules_said").contains("version 3"));

    b.window->show_clients();
    ASSERT_TRUE(b.key("start_visit", Qt::Key_Return, Qt::ControlModifier));
    ASSERT_NO_FATAL_FAILURE(b.screen({{"last food", "3 h ago"}}));
    EXPECT_TRUE(b.text("screening_body").contains("the rule is 4 h")) << b.text("screening_body").toStdString();
    ASSERT_TRUE(b.key("screening_keep", Qt::Key_Return));
    ASSERT_TRUE(b.key("screening_start", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return b.visit().stops_asked; }));
    EXPECT_EQ(bench::density_of(b.visit())->conversion, "brozek_1963") << "a new visit follows the house";
}
