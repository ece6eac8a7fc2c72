// SPDX-License-Identifier: GPL-3.0-or-later
// The lab at work without a window: what is asked at arrival, what is kept of it, and the gate before a test.
#include "bench/base/fields.h"
#include "furnish.h"
#include "work/visit/gate.h"
#include "work/visit/visit_end.h"
#include "work/study/study.h"

#include <QCoreApplication>
#include <QSqlQuery>
#include <QTest>
#include <QTemporaryDir>

using namespace fusain;
using protocol::Verdict;

namespace {

struct Day {
    QTemporaryDir dir;
    std::shared_ptr<records::Store> store = *records::Store::open(dir.path() + "/lab.fusain");
    std::unique_ptr<work::Lab> lab;
    std::unique_ptr<work::Session> session;
    std::unique_ptr<work::Arrival> arrival;
    records::Client client;
    long booking = 0;

    explicit Day(Method method = method::hydrostatic, bool checked = true)
    {
        work::set_clock(QDateTime(QDate(2026, 11, 23), QTime(15, 0), QTimeZone("Europe/Paris")));
        EXPECT_FALSE(store->set_setting("zone", "Europe/Paris"));
        lab = std::make_unique<work::Lab>(store);
        work::furnish(*lab, checked);
        session = std::make_unique<work::Session>(store, QStringList());
        arrival = std::make_unique<work::Arrival>(*lab);
        client.given_name = "Aliénor";
        client.family_name = "Quéméner";
        client.birth_date = "1995-05-02";
        client.height_cm = 171;
        client.consent_on = "2026-01-10";
        client = *store->save(client);
        booking = *work::booking_for(*lab, client.id, method, "M. Tanguy");
    }
    int at(const std::string& id) const
    {
        const auto& all = arrival->questions();
        for (std::size_t i = 0; i < all.size(); ++i)
            if (all[i]->id == id) return static_cast<int>(i);
        ADD_FAILURE() << "not asked: " << id;
        return 0;
    }
    void yes_no(const std::string& id, bool yes)
    {
        screening::Answer a;
        a.yes = yes;
        EXPECT_FALSE(arrival->answer(at(id), a));
    }
    /// Answers what is open so that every rule is kept.
    void all_well()
    {
        while (const auto open = arrival->first_open()) {
            const protocol::Question& q = arrival->question(*open);
            screening::Answer a;
            if (q.ask == protocol::Ask::yes_no)
                a.yes = q.id == "somebody_at_the_tank" || q.id == "bladder";
            else if (q.ask == protocol::Ask::clock)
                a.never = true;
            else
                a.number = 0;
            EXPECT_FALSE(arrival->answer(*open, a));
        }
    }
    void screened()
    {
        ASSERT_FALSE(arrival->begin(booking));
        all_well();
        ASSERT_FALSE(arrival->keep("M. Tanguy"));
    }
    work::Gate gate(Method method = method::hydrostatic, long of = 0)
    {
        return work::begin_test(*lab, *session, *arrival, of ? of : booking, method, "M. Tanguy");
    }
};

} // namespace

TEST(Arrival, AScreeningThatWasLeftIsThereAgainAfterARestartAndOnlyThatDay)
{
    Day d;
    ASSERT_FALSE(d.arrival->begin(d.booking));
    d.yes_no("ill", true);
    screening::Answer eaten;
    eaten.minutes_ago = 60;
    ASSERT_FALSE(d.arrival->answer(d.at("last_meal"), eaten));
    const auto again = [&](int day, int hour) { // another program, later
        work::set_clock(QDateTime(QDate(2026, 11, day), QTime(hour, 0), QTimeZone("Europe/Paris")));
        d.arrival = std::make_unique<work::Arrival>(*d.lab);
        EXPECT_FALSE(d.arrival->begin(d.booking));
        return d.arrival->answers();
    };
    const screening::Answers kept = again(23, 16);
    ASSERT_TRUE(kept.count("ill") && kept.count("last_meal"));
    EXPECT_TRUE(*kept.at("ill").yes);
    EXPECT_NEAR(*kept.at("last_meal").minutes_ago, 120, 1) << "an hour has passed";
    EXPECT_FALSE(d.arrival->kept());
    EXPECT_FALSE(again(24, 9).count("ill"));
    EXPECT_FALSE(again(23, 16).count("ill")) << "of another day nothing is left in the file";

    d.yes_no("ill", true);
    d.all_well();
    ASSERT_FALSE(d.arrival->keep("M. Tanguy"));
    EXPECT_FALSE(d.lab->diary->draft(d.booking, d.lab->today())) << "kept is no draft any more";
}

TEST(Arrival, ARepeatOfAStudyAsksOnlyWhatMayStopIt)
{
    Day d(method::impedance);
    d.screened();
    const std::size_t all = d.arrival->questions().size();
    work::Design design;
    design.method = method::impedance;
    design.instrument = "PG-impedance";
    design.operators = QStringList{"M. Tanguy"};
    const long study = *work::begin_study(*d.lab, design, "M. Tanguy");
    struct Row {
        int minute;
        bool awaited;
        bool stands;
    };
    for (const Row& row : {Row{20, false, false}, Row{20, true, true}, Row{60 * 4 + 30, true, false}}) {
        work::set_clock(
            QDateTime(QDate(2026, 11, 23), QTime(15, 0).addSecs(60 * row.minute), QTimeZone("Europe/Paris")));
        ASSERT_FALSE(d.lab->diary->close(d.booking, {}).messages().size());
        if (row.awaited) ASSERT_FALSE(work::await_repeat(*d.lab, study, d.client.id, true, "M. Tanguy"));
        const long repeat = *work::booking_for(*d.lab, d.client.id, method::impedance, "M. Tanguy");
        work::Arrival second(*d.lab);
        ASSERT_FALSE(second.begin(repeat));
        EXPECT_EQ(second.answered_at().isValid(), row.stands) << row.minute;
        ASSERT_TRUE(second.first_open()) << "nobody is waved through";
        EXPECT_EQ(second.question(*second.first_open()).id, "powered_implant");
        EXPECT_EQ(second.known().size() >= all / 3, row.stands) << second.known().size() << " of " << all;
        ASSERT_FALSE(d.lab->diary->set_state(repeat, records::BookingState::cancelled));
    }
}

TEST(Gate, NothingGoesPastIt)
{
    struct Row {
        const char *name, *code;
        std::function<work::Gate(Day&)> wish;
        bool ready = true;
    };
    const Row rows[] = {
        {"no such booking", "unknown_booking", [](Day& d) { return d.gate(method::hydrostatic, 999); }},
        {"a method that is not booked", "unknown_booking", [](Day& d) { return d.gate(method::air_displacement); }},
        {"answers that were not kept", "not_screened",
            [](Day& d) {
                d.arrival->ask_again();
                return d.gate();
            }},
        {"a level at the practice bench that nobody has reached", "not_practised",
            [](Day& d) {
                EXPECT_FALSE(d.lab->rules.choose("practice_level", "1", "M. Tanguy"));
                return d.gate();
            }},
        {"screened for another booking", "not_screened",
            [](Day& d) {
                const long other = *work::booking_for(*d.lab, d.client.id, method::air_displacement, "M. Tanguy");
                return d.gate(method::air_displacement, other);
            }},
        {"the verdict is no", "not_screened",
            [](Day& d) {
                d.arrival->ask_again();
                d.yes_no("seizure_or_fainting", true);
                d.all_well();
                EXPECT_FALSE(d.arrival->keep("M. Tanguy"));
                return d.gate();
            }},
        {"a scale that was not checked", "instrument_not_ready", [](Day& d) { return d.gate(); }, false},
    };
    for (const Row& row : rows) {
        Day d(method::hydrostatic, row.ready);
        ASSERT_NO_FATAL_FAILURE(d.screened());
        const work::Gate gate = row.wish(d);
        ASSERT_TRUE(gate.why_not) << row.name;
        EXPECT_EQ(gate.why_not->code, row.code) << row.name;
        EXPECT_FALSE(gate.open()) << row.name;
        EXPECT_EQ(gate.instrument != 0, std::string(row.code) == "instrument_not_ready") << row.name;
        EXPECT_FALSE(d.session->is_open()) << row.name;
        EXPECT_FALSE(d.store->open_visit()) << row.name << ": nothing was begun";
    }
}

TEST(Gate, OpensOnceAndTheLogKnowsUnderWhatRules)
{
    Day d;
    ASSERT_NO_FATAL_FAILURE(d.screened());
    ASSERT_TRUE(d.gate().open());
    const bench::Visit& v = d.session->visit();
    EXPECT_EQ(v.booking_id, d.booking);
    EXPECT_EQ(v.instrument, "PG-hydrostatic");
    EXPECT_EQ(v.house, d.lab->rules.house());
    EXPECT_EQ(v.protocol_used, "hydrostatic_default 2");
    EXPECT_TRUE(v.stops_asked);
    EXPECT_EQ(d.lab->diary->booking(d.booking)->visits.front(), d.session->visit_id());
    const work::Gate again = d.gate();
    EXPECT_EQ(again.begun, d.session->visit_id()) << "taken up again, not begun twice";
    EXPECT_FALSE(again.open());
    EXPECT_EQ(d.store->visits_of(d.client.id).size(), 1u);
}

TEST(Gate, NoTestBeginsInALabWhoseLogsAreDamaged)
{
    Day d;
    ASSERT_NO_FATAL_FAILURE(d.screened());
    QSqlQuery q(d.store->database());
    ASSERT_TRUE(q.exec("INSERT INTO visit (client_id, method, started_at, technician, finished) SELECT id, "
                       "'hydrostatic', '2026-01-01', 'M. Tanguy', 1 FROM client"));
    ASSERT_TRUE(q.exec("INSERT INTO visit_event VALUES (1, 1, '2026-01-01', 'M. Tanguy', 'started', '{\"kg\": 6')"));
    q.finish();
    d.session = std::make_unique<work::Session>(d.store, QStringList());
    std::string said;
    QObject::connect(d.session.get(), &work::Session::refused, [&](const Message& why) { said = why.code; });
    EXPECT_TRUE(QTest::qWaitFor([&] { return !said.empty(); }, 20000)) << "the inspection has a thread of its own";
    EXPECT_EQ(said, "lab_damaged");
    const work::Gate gate = d.gate();
    ASSERT_TRUE(gate.why_not);
    EXPECT_EQ(gate.why_not->code, "lab_damaged");
    EXPECT_FALSE(d.session->is_open());
}

TEST(Gate, WhoWalksInGetsTheBookingOfTodayOrAnInstrumentThatIsReady)
{
    Day d(method::hydrostatic, false);
    EXPECT_EQ(*work::booking_for(*d.lab, d.client.id, method::hydrostatic, "M. Tanguy"), d.booking);
    const auto& row = bench::instrument_of(method::air_displacement);
    const auto second = d.lab->diary->save(records::Instrument{0, &bench::instrument_of(method::air_displacement),
        "The second one", "A-2", "", "", "", true, virt::chamber_cylinder_l, row.duration_min, {}});
    ASSERT_TRUE(second);
    work::pass_check(*d.lab, *second);
    const auto chamber = work::booking_for(*d.lab, d.client.id, method::air_displacement, "M. Tanguy");
    ASSERT_TRUE(chamber);
    EXPECT_EQ(d.lab->diary->booking(*chamber)->parts.front().instrument, "A-2") << "not the one that was not checked";
    work::set_clock(QDateTime(QDate(2026, 11, 23), QTime(22, 30), QTimeZone("Europe/Paris")));
    const auto late = work::booking_for(*d.lab, d.client.id, method::impedance, "M. Tanguy");
    ASSERT_TRUE(late);
    EXPECT_TRUE(late.messages().empty()) << "who stands here needs no opening hours: " << late.messages().front().text;
    work::set_clock(QDateTime(QDate(2026, 11, 23), QTime(15, 0), QTimeZone("Europe/Paris")));
    for (records::Instrument i : d.lab->diary->instruments())
        if (i.kind == &bench::instrument_of(method::absorptiometry)) {
            i.in_use = false;
            ASSERT_TRUE(d.lab->diary->save(i));
        }
    const auto none = work::booking_for(*d.lab, d.client.id, method::absorptiometry, "M. Tanguy");
    ASSERT_FALSE(none);
    EXPECT_EQ(none.messages().front().code, "no_instrument");
}

TEST(Arrival, WhatIsTypedIsReadOrNamed)
{
    Day d;
    ASSERT_FALSE(d.arrival->begin(d.booking));
    struct Row {
        const char *text, *code;
        double minutes = -1;
        bool never = false;
    };
    const Row rows[] = {{"13:30", "", 90}, {"90 min ago", "", 90}, {"y 22:00", "", 17 * 60}, {"never", "", -1, true},
        {"half past", "not_a_time"}, {"", "not_a_time"}, {"25:10", "not_a_time"}};
    for (const Row& row : rows) {
        const auto read = d.arrival->read(d.at("last_meal"), row.text);
        EXPECT_EQ(read ? "" : read.messages().front().code, row.code) << row.text;
        if (!read) continue;
        EXPECT_EQ(read->never, row.never) << row.text;
        EXPECT_NEAR(read->minutes_ago.value_or(-1), row.minutes, 0.1) << row.text;
    }
    EXPECT_EQ(d.arrival->begin(999)->code, "unknown_booking");
}

TEST(Arrival, AnOverrideNeedsANameAReasonAndNeverPassesAStop)
{
    Day d;
    ASSERT_FALSE(d.arrival->begin(d.booking));
    d.yes_no("ill", true);
    d.all_well();
    const auto verdict = [&]() -> const screening::MethodVerdict& { return d.arrival->verdicts().front(); };
    EXPECT_EQ(verdict().verdict, Verdict::another_day);
    EXPECT_FALSE(d.arrival->next_on_the_bench());
    EXPECT_EQ(d.arrival->not_going(), std::vector<Method>{method::hydrostatic});
    EXPECT_EQ(d.arrival->go_all_the_same("M. Tanguy", "ok")->field, "override_reason");
    EXPECT_FALSE(d.arrival->overridden(method::hydrostatic));
    ASSERT_FALSE(d.arrival->go_all_the_same("M. Tanguy", "only a cold, the doctor agrees"));
    EXPECT_TRUE(d.arrival->may_go(verdict()));
    EXPECT_EQ(d.arrival->next_on_the_bench(), method::hydrostatic);
    d.yes_no("fear_of_water", true);
    EXPECT_FALSE(d.arrival->may_go(verdict())) << "the reason was given for other answers";
    ASSERT_FALSE(d.arrival->go_all_the_same("M. Tanguy", "only a cold, the doctor agrees"));
    d.yes_no("recent_surgery", true);
    ASSERT_FALSE(d.arrival->go_all_the_same("M. Tanguy", "only a cold, the doctor agrees"));
    EXPECT_FALSE(d.arrival->may_go(verdict())) << "a stop has no way around";
    d.yes_no("recent_surgery", false);
    ASSERT_FALSE(d.arrival->go_all_the_same("M. Tanguy", "only a cold, the doctor agrees"));

    ASSERT_FALSE(d.arrival->keep("M. Tanguy"));
    EXPECT_EQ(d.lab->diary->booking(d.booking)->state, records::BookingState::arrived);
    EXPECT_EQ(work::next_method(*d.lab, d.booking), method::hydrostatic);
    EXPECT_FALSE(work::next_method(*d.lab, d.booking + 1)) << "that one was not screened";
    const bench::event::Stops stops = d.arrival->stops_event(method::hydrostatic);
    EXPECT_TRUE(stops.stop.empty());
    EXPECT_EQ(stops.outside.at("illness"), "another_day");
    EXPECT_NE(stops.words.back().find("only a cold, the doctor agrees (M. Tanguy)"), std::string::npos);

    work::Arrival later(*d.lab);
    ASSERT_FALSE(later.begin(d.booking));
    EXPECT_TRUE(later.kept()) << "what was kept is taken up";
    EXPECT_EQ(later.overridden(method::hydrostatic)->reason, "only a cold, the doctor agrees");
    EXPECT_EQ(later.next_on_the_bench(), method::hydrostatic);

    // begun, and the computer went out: it is gone on with, not closed as "turned away"
    const auto client = d.lab->store->client(d.lab->diary->booking(d.booking)->client_id);
    const bench::Json started = {{"log", 3}, {"client_id", client->id}, {"number", client->number.toStdString()},
        {"name", client->full_name().toStdString()}, {"birth_date", client->birth_date.toStdString()},
        {"sex", word(client->sex)}, {"height_cm", client->height_cm}, {"method", "hydrostatic"}, {"instrument", ""},
        {"zone", "Europe/Paris"}};
    const auto visit = d.lab->store->begin_visit(client->id, "hydrostatic",
        {1, d.lab->now().toUTC().toString(Qt::ISODateWithMs).toStdString(), "M. Tanguy", "started", started.dump()});
    ASSERT_TRUE(visit) << visit.messages().front().text;
    ASSERT_FALSE(d.lab->diary->set_visit(d.booking, method::hydrostatic, *visit));
    work::Arrival after(*d.lab);
    ASSERT_FALSE(after.begin(d.booking));
    EXPECT_FALSE(after.next_on_the_bench());
    EXPECT_EQ(after.unfinished_on_the_bench(), method::hydrostatic);
}

TEST(Arrival, TodaysAnswerOnPregnancyDecidesTheRecordOnlyWhereNobodyAsked)
{
    for (const bool today : {false, true}) {
        Day d;
        d.client.facts << "pregnancy_possible";
        ASSERT_TRUE(d.store->save(d.client));
        ASSERT_FALSE(d.arrival->begin(d.booking));
        EXPECT_EQ(d.arrival->stops_event(method::hydrostatic).pregnant, true) << "the record, while nobody asked";
        d.yes_no("pregnancy_possible", today);
        EXPECT_EQ(d.arrival->stops_event(method::hydrostatic).pregnant, today);
    }
}

TEST(Arrival, AskingAgainKnowsWhatSeldomChangesAndNothingElse)
{
    Day d;
    ASSERT_NO_FATAL_FAILURE(d.screened());
    work::Arrival later(*d.lab); // another window takes up what was kept
    ASSERT_FALSE(later.begin(d.booking));
    EXPECT_TRUE(later.known().empty());
    later.ask_again();
    EXPECT_FALSE(later.kept());
    EXPECT_FALSE(later.known().empty());
    EXPECT_EQ(later.known().size(), later.answers().size());
    for (const std::string& id : later.known()) EXPECT_TRUE(later.answers().count(id)) << id;
    EXPECT_FALSE(later.known().count("seizure_or_fainting")) << "a stop is asked afresh every time";
    ASSERT_TRUE(later.first_open());
}

TEST(Arrival, ClosesByWhatBecameOfTheClient)
{
    Day d;
    ASSERT_FALSE(d.arrival->begin(d.booking));
    d.yes_no("recent_surgery", true);
    d.all_well();
    ASSERT_FALSE(d.arrival->keep("M. Tanguy"));
    ASSERT_FALSE(d.arrival->close());
    EXPECT_EQ(d.lab->diary->booking(d.booking)->state, records::BookingState::turned_away);
}

int main(int argc, char** argv)
{
    ::testing::InitGoogleTest(&argc, argv);
    QCoreApplication app(argc, argv);
    return RUN_ALL_TESTS();
}
