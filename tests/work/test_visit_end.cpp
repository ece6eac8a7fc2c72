// SPDX-License-Identifier: GPL-3.0-or-later
// The end of a visit is one act: the event, what is told from then on, the booking, the study; all of it or nothing.
#include "bench/base/fields.h"
#include "at_the_end.h"
#include "records/base/text.h"
#include "work/visit/session.h"
#include "work/visit/visit_end.h"

#include <QSqlQuery>
#include <QtTest/QTest>

using namespace fusain;
using records::BookingState;

namespace {

struct Ending : work::AtTheEnd {
    work::Session session;
    QStringList refused, said, stored;

    explicit Ending(
        std::vector<Method> parts = {method::impedance, method::hydrostatic}, const char* operators = "M. Tanguy")
        : AtTheEnd(std::move(parts), operators), session(store, QStringList())
    {
        QObject::connect(&session, &work::Session::refused, [&](const Message& m) { refused << q(m.code); });
        QObject::connect(&session, &work::Session::ended, [&](const Messages& all) {
            for (const Message& m : all) said << q(m.code);
        });
        QObject::connect(&session, &work::Session::stored, [&](const bench::Event& e) { stored << q(e.kind); });
        EXPECT_FALSE(session.resume(visit, "M. Tanguy"));
    }
    bool wait(const std::function<bool()>& until) { return QTest::qWaitFor(until, 60000); }
};

} // namespace

TEST(VisitEnd, IsOneActAndWhatRestsOnItComesAfter)
{
    Ending v;
    v.screened({{method::impedance, "go"}, {method::hydrostatic, "noted"}});
    bool measured_on_disk = false;
    v.session.finish([&] { measured_on_disk = v.store->visit(v.visit)->measured() && v.store->snapshot(v.visit); });
    v.session.finish(); // a second key in between is no second end
    EXPECT_FALSE(measured_on_disk);
    ASSERT_TRUE(v.wait([&] { return measured_on_disk; }));
    EXPECT_EQ(v.stored, QStringList{"finished"});
    EXPECT_EQ(v.said, QStringList{"in_study"});
    EXPECT_EQ(v.repeats(), 1u);
    EXPECT_EQ(v.state(), BookingState::booked) << "the tank is still to come";
    EXPECT_EQ(work::next_method(*v.lab, v.booking), method::hydrostatic);
    EXPECT_EQ(work::after_visit(*v.lab, v.session.visit(), v.visit).method, method::hydrostatic);

    const long under_water = v.begun(method::hydrostatic);
    EXPECT_FALSE(work::next_method(*v.lab, v.booking));
    ASSERT_FALSE(v.session.resume(under_water, "M. Tanguy"));
    bool done = false;
    v.session.finish([&] { done = true; });
    ASSERT_TRUE(v.wait([&] { return done || !v.refused.isEmpty(); }));
    EXPECT_EQ(v.state(), BookingState::measured);
    EXPECT_EQ(v.repeats(), 1u) << "the study is of the analyser";
}

TEST(VisitEnd, WhatCannotBeStoredWholeIsNotStoredAtAll)
{
    for (const char* table : {"booking", "study_event", "snapshot"}) {
        Ending v({method::impedance});
        v.screened({{method::impedance, "go"}});
        QSqlQuery q(v.store->database());
        ASSERT_TRUE(q.exec(
            QString("CREATE TRIGGER broken BEFORE %2 ON %1 BEGIN SELECT RAISE(ABORT, 'broken'); END")
                .arg(QString::fromLatin1(table), QString::fromLatin1(table) == "booking" ? "UPDATE" : "INSERT")));
        bool went_on = false;
        v.session.finish([&] { went_on = true; });
        ASSERT_TRUE(v.wait([&] { return !v.refused.isEmpty(); })) << table;
        EXPECT_FALSE(v.session.has_unwritten()) << table;
        EXPECT_FALSE(went_on) << table;
        EXPECT_FALSE(v.store->replay(v.visit)->finished) << table;
        EXPECT_FALSE(v.store->visit(v.visit)->finished) << table;
        EXPECT_FALSE(v.store->snapshot(v.visit)) << table;
        EXPECT_EQ(v.state(), BookingState::booked) << table;
        EXPECT_EQ(v.repeats(), 0u) << table;
        ASSERT_TRUE(q.exec("DROP TRIGGER broken"));
        v.session.finish([&] { went_on = true; });
        ASSERT_TRUE(v.wait([&] { return went_on; })) << table;
        EXPECT_EQ(v.state(), BookingState::measured) << table;
        EXPECT_EQ(v.repeats(), 1u) << table;
    }
}

TEST(VisitEnd, WithoutAResultTheBookingIsClosedAsWhatItBecame)
{
    struct Row {
        const char* kind;
        bench::Json body;
        const char* tank; ///< what the screening says of the second part
        BookingState state;
    };
    const Row rows[] = {
        {"given_up", {{"reason", "the client had to leave"}}, "no", BookingState::stopped},
        {"given_up", {{"reason", "the client had to leave"}}, "another_day", BookingState::stopped},
        {"given_up", {{"reason", "the client had to leave"}}, "go", BookingState::booked},
        {"remark", {{"text", "no end"}}, "no", BookingState::booked},
    };
    for (const Row& row : rows) {
        Ending v;
        v.screened({{method::impedance, "go"}, {method::hydrostatic, row.tank}});
        v.session.act({row.kind, row.body.dump()});
        ASSERT_TRUE(v.wait([&] { return !v.stored.isEmpty() || !v.refused.isEmpty(); }));
        EXPECT_EQ(v.stored, QStringList{row.kind}) << row.tank;
        EXPECT_EQ(v.state(), row.state) << row.kind << " " << row.tank;
        EXPECT_EQ(v.repeats(), 0u) << row.tank;
    }
}

TEST(VisitEnd, AStudyThatDoesNotTakeItSaysWhyAndTheVisitEndsAllTheSame)
{
    Ending v({method::impedance}, "B. Le Goff"); // whom the study counts; M. Tanguy measured
    bool done = false;
    v.session.finish([&] { done = true; });
    ASSERT_TRUE(v.wait([&] { return done || !v.refused.isEmpty(); }));
    EXPECT_EQ(v.said, QStringList{"no_repeat"});
    EXPECT_EQ(v.repeats(), 0u);
    EXPECT_TRUE(v.store->visit(v.visit)->measured());
    EXPECT_EQ(v.state(), BookingState::measured);
}

TEST(VisitEnd, TheNextClientIsTodaysNextOnTheSameInstrument)
{
    Ending v({method::impedance});
    records::Client other = v.client;
    other.id = 0;
    other.number.clear();
    other.family_name = "Morvan";
    other = *v.store->save(other);
    records::Client third = other;
    third.id = 0;
    third.number.clear();
    third.family_name = "Riou";
    third = *v.store->save(third);
    const auto book = [&](Method m, int in_minutes, const records::Client& who) {
        records::Booking b;
        b.client_id = who.id;
        b.made_by = "M. Tanguy";
        const schedule::Minute at = records::minute_of(v.lab->now()) + in_minutes;
        b.parts.push_back({0, who.id, m, std::string("PG-") + m->word, {at, at + 20}});
        return v.lab->diary->book(b, true)->id;
    };
    ASSERT_FALSE(work::give_up(*v.lab, v.study, "not this week", "M. Tanguy"));
    book(method::hydrostatic, 40, other);
    EXPECT_FALSE(work::after_visit(*v.lab, v.session.visit(), v.visit)) << "on another instrument";
    const long next = book(method::impedance, 90, other);
    ASSERT_TRUE(work::after_visit(*v.lab, v.session.visit(), v.visit).client);
    EXPECT_EQ(work::after_visit(*v.lab, v.session.visit(), v.visit).client->id, next);
    work::set_clock(QDateTime(QDate(2026, 11, 24), QTime(9, 0), QTimeZone("Europe/Paris")));
    book(method::impedance, 30, third);
    EXPECT_FALSE(work::after_visit(*v.lab, v.session.visit(), v.visit)) << "it was yesterday's";
}
