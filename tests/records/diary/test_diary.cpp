// SPDX-License-Identifier: GPL-3.0-or-later
// The diary: clock times, hours, bookings in two windows, screenings, checks, the lab's own rules.
#include "bench/base/fields.h"
#include "../lab.h"
#include "bench/files/protocol_file.h"
#include "records/diary/checks.h"
#include "records/base/clock.h"
#include "records/diary/rulebook.h"

using namespace fusain;
using namespace fusain::records;

namespace {

const QTimeZone paris("Europe/Paris");
QDateTime at(const char* iso)
{
    return QDateTime(
        QDate::fromString(QString(iso).left(10), Qt::ISODate), QTime::fromString(QString(iso).mid(11), "HH:mm"), paris);
}

/// A lab with a chamber and two on its staff, and one client.
struct Room : Lab {
    std::shared_ptr<Store> store = open();
    Diary diary{store};
    Client client;
    Instrument chamber;
    Room()
    {
        EXPECT_FALSE(store->set_setting("zone", "Europe/Paris"));
        client.given_name = "Gwenn";
        client.family_name = "Riou";
        client.birth_date = "1992-03-08";
        client.height_cm = 168;
        client = *store->save(client);
        chamber = *diary.save(Instrument{
            0, &bench::instrument_of(method::air_displacement), "Chamber", "C-1", "", "", "", true, 50.012, 10, {}});
        for (const char* name : {"M. Tanguy", "A. Le Goff"})
            EXPECT_TRUE(diary.save(StaffMember{0, name, false, {}, true}));
    }
    Booking at_minute(schedule::Minute from) const
    {
        Booking b;
        b.client_id = client.id;
        b.made_by = "M. Tanguy";
        b.parts.push_back({0, client.id, method::air_displacement, "C-1", {from, from + 10}});
        return b;
    }
};

std::string read(const std::string& name)
{
    QFile f(QString::fromStdString(std::string(TEST_SOURCE_DIR) + "/data/" + name));
    EXPECT_TRUE(f.open(QIODevice::ReadOnly)) << name;
    return f.readAll().toStdString();
}

Rulebook rulebook(std::shared_ptr<Store> store)
{
    protocol::Book b;
    b.questions = *bench::read_questions(read("protocols/questions.json"), "questions.json");
    for (Method m : all_methods())
        b.protocols.push_back(
            *bench::read_protocol(read(std::string("protocols/") + m->word + ".json"), "shipped", b.questions));
    return Rulebook(store, b, *bench::read_house_rules(read("house_rules.json"), "house_rules.json"));
}

} // namespace

TEST(Clock, WhatAClientSays)
{
    struct Row {
        const char *now, *text, *means; ///< means: local time, or the code of the refusal
    };
    const Row rows[] = {
        {"2026-11-23 08:00", "06:30", "2026-11-23 06:30"},
        {"2026-11-23 08:00", "6.30", "2026-11-23 06:30"},
        {"2026-11-23 08:00", "0630", "2026-11-23 06:30"},
        {"2026-11-23 08:00", "6", "2026-11-23 06:00"},
        {"2026-11-23 08:00", "22:30", "2026-11-22 22:30"}, // over midnight
        {"2026-11-23 00:10", "23:50", "2026-11-22 23:50"},
        {"2026-11-23 08:00", "yesterday 7:00", "2026-11-22 07:00"},
        {"2026-11-23 08:00", "y 22:00", "2026-11-22 22:00"},
        {"2026-11-23 08:00", "2026-11-20 12:00", "2026-11-20 12:00"},
        {"2026-11-23 08:00", "90 min ago", "2026-11-23 06:30"},
        {"2026-11-23 08:00", "2 h ago", "2026-11-23 06:00"},
        {"2026-11-23 08:00", "22:00 yesterday", "2026-11-22 22:00"},
        {"2026-11-23 08:00", "last night 10", "2026-11-22 22:00"},
        {"2026-11-23 08:00", "10:30 last night", "2026-11-22 22:30"},
        {"2026-11-23 08:00", "last night 12", "2026-11-23 00:00"},
        {"2026-11-23 08:00", "last night 2:15", "2026-11-23 02:15"},
        {"2026-11-23 08:00", "this morning 6", "2026-11-23 06:00"},
        {"2026-11-23 08:00", "last night", "not_a_time"},
        {"2026-11-23 08:00", "1,5 h ago", "2026-11-23 06:30"},
        {"2026-11-23 08:00", "2 days", "2026-11-21 08:00"},
        {"2026-11-23 08:00", "today 09:00", "in_the_future"},
        {"2026-11-23 08:00", "breakfast", "not_a_time"},
        {"2026-11-23 08:00", "25:00", "not_a_time"},
        {"2026-11-23 08:00", "", "not_a_time"},
        // summer time ends at 03:00 on 25 October 2026: 3 hours before 05:00 is 03:00, and 01:00 was five hours ago
        {"2026-10-25 05:00", "3 h ago", "2026-10-25 02:00"},
        {"2026-10-25 05:00", "01:00", "2026-10-25 01:00"},
        // summer time begins at 02:00 on 29 March 2026: 02:30 does not exist
        {"2026-03-29 08:00", "02:30", "2026-03-29 03:00"},
    };
    for (const Row& row : rows) {
        const auto r = read_clock(row.text, at(row.now));
        EXPECT_EQ(r ? r->toString("yyyy-MM-dd HH:mm") : QString::fromStdString(r.messages().front().code), row.means)
            << row.now << " " << row.text;
    }
    EXPECT_EQ(read_clock("01:00", at("2026-10-25 05:00"))->secsTo(at("2026-10-25 05:00")), 5 * 3600)
        << "the clock went back an hour in between";
    EXPECT_EQ(minute_of(at("2026-03-29 08:00")) - minute_of(at("2026-03-28 20:00")), 11 * 60) << "a short night";
    EXPECT_TRUE(says_never(" Never "));
    EXPECT_FALSE(says_never("06:30"));
}

TEST(Clock, WordsForTheSheet)
{
    const QDate visit(2026, 3, 30);
    EXPECT_EQ(clock_words(at("2026-03-30 06:30"), visit), "06:30");
    EXPECT_EQ(clock_words(at("2026-03-29 22:30"), visit), "22:30 the evening before");
    EXPECT_EQ(clock_words(at("2026-03-29 09:30"), visit), "09:30 the day before");
    EXPECT_EQ(clock_words(at("2026-03-27 09:30"), visit), "Friday 09:30");
}

TEST(Clock, Hours)
{
    const QDate monday(2026, 11, 23);
    const auto two = opening({"07:00-12:00 13:00-17:00"}, monday, monday, paris);
    ASSERT_TRUE(two);
    EXPECT_EQ(two->size(), 2u);
    EXPECT_EQ((*two)[0].length(), 300);
    for (const char* bad : {"7-12", "12:00-07:00", "07:00-25:00", "morning", "07:00-12:00 x"}) {
        const auto r = opening({bad}, monday, monday, paris);
        ASSERT_FALSE(r) << bad;
        EXPECT_NE(r.messages().front().text.find("Monday"), std::string::npos);
    }
    const auto short_day =
        opening({"", "", "", "", "", "", "01:00-09:00"}, QDate(2026, 3, 29), QDate(2026, 3, 29), paris);
    EXPECT_EQ(short_day->front().length(), 7 * 60);
}

TEST(Diary, BookingsInTwoWindowsDoNotClash)
{
    Room r;
    Diary other{*Store::open(r.file())}; // a second window on the same lab
    const auto nine = minute_of(at("2026-11-23 09:00"));
    const auto first = r.diary.book(r.at_minute(nine));
    ASSERT_TRUE(first);
    auto second = r.at_minute(nine + 5);
    const auto clash = other.book(second);
    ASSERT_FALSE(clash);
    EXPECT_EQ(clash.messages().front().code, "conflict");
    EXPECT_EQ(r.diary.day(QDate(2026, 11, 23)).size(), 1u) << "nothing was stored";
    const auto knowingly = other.book(second, true);
    ASSERT_TRUE(knowingly);
    EXPECT_EQ(knowingly.messages().front().level, Level::caution);

    // both windows move the same visit: the second is told
    auto mine = *r.diary.booking(first->id), theirs = *other.booking(first->id);
    mine.parts[0].at = {nine + 60, nine + 70};
    theirs.parts[0].at = {nine + 120, nine + 130};
    ASSERT_TRUE(r.diary.change(mine, true));
    EXPECT_EQ(other.change(theirs, true).messages().front().code, "changed_elsewhere");
    EXPECT_EQ(r.diary.booking(first->id)->from(), nine + 60);

    ASSERT_FALSE(r.diary.set_state(first->id, BookingState::cancelled));
    EXPECT_EQ(r.diary.day(QDate(2026, 11, 23)).size(), 1u);
    EXPECT_EQ(r.diary.bookings_of(r.client.id).size(), 2u);
}

TEST(Diary, ADayEndsAtMidnightOfTheLab)
{
    Room r;
    ASSERT_FALSE(r.diary.set_hours({"00:00-23:59", "00:00-23:59", "", "", "", "", "00:00-23:59"}));
    for (const char* when : {"2026-10-25 00:05", "2026-10-25 23:45", "2026-10-26 00:05"})
        ASSERT_TRUE(r.diary.book(r.at_minute(minute_of(at(when))), true)) << when;
    EXPECT_EQ(r.diary.day(QDate(2026, 10, 25)).size(), 2u) << "a day of 25 hours";
    EXPECT_EQ(r.diary.day(QDate(2026, 10, 26)).size(), 1u);
    EXPECT_EQ(r.diary.midnight(QDate(2026, 10, 26)) - r.diary.midnight(QDate(2026, 10, 25)), 25 * 60);
    EXPECT_TRUE(r.diary.set_hours({"nonsense"}));
}

TEST(Diary, OnlyTheMeasuredAreTestedAndTheRetestRuleStandsOnEveryWayIn)
{
    Room r;
    const QDate first(2026, 9, 1);
    const auto on = [&](int days) { return r.at_minute(minute_at(first.addDays(days), QTime(9, 0), r.diary.zone())); };
    const auto method = on(0).parts[0].method;
    const int house_days = schedule::retest(method, {}).from_days;
    const auto booked = r.diary.book(on(0));
    ASSERT_TRUE(booked);
    // turned away: nothing was measured, so nothing is waited for
    EXPECT_EQ(*r.diary.close(booked->id, {}), BookingState::turned_away);
    EXPECT_TRUE(r.diary.past(r.client.id).empty());
    const auto again = r.diary.book(on(1));
    ASSERT_TRUE(again) << again.messages().front().text;
    EXPECT_EQ(*r.diary.close(again->id, {method}), BookingState::measured);
    ASSERT_EQ(r.diary.past(r.client.id).size(), 1u);
    EXPECT_EQ(r.diary.past(r.client.id)[0].day, first.addDays(1));

    struct Row {
        int days;
        bool knowingly, walk_in, stored;
        const char* code;
    };
    const Row rows[] = {
        {14, false, false, false, "never_so_soon"}, // 13 days after
        {14, true, false, false, "never_so_soon"},  // nobody plans that
        {14, true, true, true, "never_so_soon"},    // but who stands here may be measured again
        {15, false, false, false, "too_soon"},
        {house_days, false, false, false, "too_soon"}, // one day short
        {house_days, true, false, true, "too_soon"},
        {house_days + 1, false, false, true, nullptr},
    };
    for (const Row& row : rows) {
        auto b = on(row.days);
        b.walk_in = row.walk_in;
        const auto stored = r.diary.book(b, row.knowingly);
        EXPECT_EQ(bool(stored), row.stored) << row.days << (stored ? "" : stored.messages().front().text);
        const auto& messages = stored.messages();
        EXPECT_EQ(std::any_of(messages.begin(), messages.end(),
                      [&](const Message& m) { return row.code && m.code == row.code; }),
            row.code != nullptr)
            << row.days;
        if (stored) ASSERT_FALSE(r.diary.set_state(stored->id, BookingState::cancelled));
    }
    // the time that was kept for a test that is over is free for who stands here
    auto stands = on(1);
    stands.walk_in = true;
    const auto at_once = r.diary.book(stands, true);
    ASSERT_TRUE(at_once);
    for (const Message& m : at_once.messages()) EXPECT_NE(m.code, "conflict") << m.text;
    ASSERT_FALSE(r.diary.set_state(at_once->id, BookingState::cancelled));
    // moving is a way in too
    const auto far = r.diary.book(on(house_days + 20));
    ASSERT_TRUE(far);
    auto moved = *far;
    moved.parts[0].at = on(10).parts[0].at;
    EXPECT_EQ(r.diary.change(moved, true).messages().front().code, "never_so_soon");
    EXPECT_EQ(r.diary.booking(far->id)->from(), far->from()) << "it stays where it was";
}

TEST(Diary, InstrumentsAreCheckedAndFeedThePlanner)
{
    Room r;
    struct Row {
        std::function<void(Instrument&)> change;
        const char* field;
    };
    const Row rows[] = {
        {[](auto& i) { i.name = " "; }, "name"},
        {[](auto& i) { i.serial = ""; }, "serial"},
        {[](auto& i) { i.serial = "C-1"; }, "serial"},
        {[](auto& i) { i.calibration_due = "next May"; }, "calibration_due"},
        {[](auto& i) { i.reference = 500; }, "reference"},
        {[](auto& i) { i.duration_min = 0; }, "duration_min"},
        {[](auto& i) { i.rated_mass_kg = 20; }, "rated_mass_kg"},
    };
    for (const Row& row : rows) {
        Instrument i{0, &bench::instrument_of(method::air_displacement), "Second", "C-2", "", "", "", true, 50, 10, {}};
        row.change(i);
        const auto stored = r.diary.save(i);
        ASSERT_FALSE(stored) << row.field;
        EXPECT_EQ(stored.messages().front().field, row.field);
    }
    EXPECT_EQ(r.diary.instruments().size(), 1u);
    ASSERT_TRUE(r.diary.book(r.at_minute(minute_of(at("2026-11-23 09:00")))));
    const auto lab = r.diary.lab(QDate(2026, 11, 23), QDate(2026, 11, 24));
    ASSERT_EQ(lab.instruments.size(), 1u);
    EXPECT_EQ(lab.instruments[0].open.size(), 2u);
    EXPECT_EQ(lab.tests.size(), 1u);
    EXPECT_EQ(lab.staff.size(), 2u);
    EXPECT_TRUE(schedule::conflicts(lab).empty());
    r.chamber.in_use = false;
    ASSERT_TRUE(r.diary.save(r.chamber));
    EXPECT_EQ(schedule::conflicts(r.diary.lab(QDate(2026, 11, 23), QDate(2026, 11, 23))).size(), 1u)
        << "a booked instrument that went out of use is said";
}

TEST(Diary, ScreeningsAreKeptAsAnswered)
{
    Room r;
    screening::Answers answers;
    answers["last_meal"].minutes_ago = 70;
    answers["last_alcohol"].never = true;
    answers["ill"].yes = false;
    answers["scans"].number = 2;
    answers["last_caffeine"].kept = true;
    ScreeningKept said;
    said.answers = answers;
    const auto kept = r.diary.keep({0, r.client.id, 0, "2026-11-20T08:00:00.000Z", "M. Tanguy", said});
    ASSERT_TRUE(kept);
    const auto back = r.diary.screening_before(r.client.id, QDate(2026, 11, 23));
    ASSERT_TRUE(back);
    const screening::Answers& a = back->kept.answers;
    EXPECT_DOUBLE_EQ(a.at("last_meal").minutes_ago.value(), 70);
    EXPECT_TRUE(a.at("last_alcohol").never);
    EXPECT_FALSE(a.at("ill").yes.value());
    EXPECT_DOUBLE_EQ(a.at("scans").number.value(), 2);
    EXPECT_TRUE(a.at("last_caffeine").kept);
    EXPECT_FALSE(r.diary.screening_before(r.client.id, QDate(2026, 11, 20)));
    EXPECT_FALSE(sql(r.file(), {"UPDATE screening SET body = '{}'"})) << "final";
}

TEST(Checks, AGuidedCheckSurvivesARestartAndDecidesReadiness)
{
    Room r;
    auto diary = std::make_shared<Diary>(r.store);
    Checks checks(diary);
    const QDateTime now = at("2026-11-23 07:00");
    EXPECT_FALSE(checks.ready(r.chamber, now).ready);
    const auto run_check = [&](const QDateTime& begin, const std::vector<double>& readings) {
        long seq = 1;
        QDateTime t = begin.toUTC();
        const auto id = checks.begin(r.chamber, "M. Tanguy", t.toString(Qt::ISODateWithMs));
        EXPECT_TRUE(id);
        const auto add = [&](const char* kind, bench::Json body) {
            t = t.addSecs(20);
            const auto why = checks.append(
                *id, {++seq, t.toString(Qt::ISODateWithMs).toStdString(), "M. Tanguy", kind, body.dump()});
            EXPECT_FALSE(why) << why->text;
        };
        add("done", {{"step", "room"}});
        add("done", {{"step", "empty"}});
        for (double v : readings) add("reading", {{"step", "cylinder"}, {"value", v}});
        return *id;
    };
    // begun, then the program is closed after two readings
    run_check(now, {50.01, 50.02});
    const auto open = checks.open_run(r.chamber.id, now.addSecs(600));
    ASSERT_TRUE(open);
    const auto again = checks.replay(open->id);
    ASSERT_TRUE(again);
    EXPECT_EQ(again->readings("cylinder").size(), 2u);
    EXPECT_EQ(again->reference(), 50.012);
    EXPECT_TRUE(QString::fromStdString(checks.ready(r.chamber, now.addSecs(600)).words).contains("not finished"));
    const auto wrong =
        checks.append(open->id, {again->last_seq + 1, now.toUTC().toString(Qt::ISODateWithMs).toStdString(), "x",
                                    "done", bench::written(bench::checking::Done{"room"})});
    ASSERT_TRUE(wrong) << "steps keep their order";

    run_check(now.addSecs(3600), {50.01, 50.02, 50.0, 50.03, 50.01});
    EXPECT_TRUE(checks.ready(r.chamber, now.addSecs(7200)).ready) << checks.ready(r.chamber, now.addSecs(7200)).words;
    EXPECT_FALSE(checks.ready(r.chamber, now.addDays(1)).ready) << "yesterday's check does not count today";
    const long failed = run_check(now.addSecs(9000), {50.4, 50.4, 50.4, 50.4, 50.4});
    EXPECT_TRUE(QString::fromStdString(checks.ready(r.chamber, now.addSecs(9999)).words).contains("failed"));
    ASSERT_FALSE(checks.remark(failed, "M. Tanguy", "door seal changed"));
    EXPECT_EQ(checks.remarks(failed), QStringList{"door seal changed (M. Tanguy)"});
    ASSERT_TRUE(checks.replay(failed));
    // a check that is given up says nothing about the instrument
    run_check(now.addSecs(9500), {50.01, 50.02, 50.0, 50.03, 50.01});
    run_check(now.addSecs(9600), {50.01});
    const auto left = checks.open_run(r.chamber.id, now.addSecs(9700));
    ASSERT_TRUE(left);
    ASSERT_FALSE(checks.append(left->id,
        {checks.replay(left->id)->last_seq + 1, now.addSecs(9700).toUTC().toString(Qt::ISODateWithMs).toStdString(),
            "x", "finished", bench::written(bench::checking::Finished{true})}));
    EXPECT_TRUE(checks.ready(r.chamber, now.addSecs(9999)).ready) << checks.ready(r.chamber, now.addSecs(9999)).words;
    Instrument due = r.chamber;
    due.calibration_due = "2026-11-22";
    EXPECT_TRUE(QString::fromStdString(checks.ready(due, now.addSecs(7200)).words).contains("was due"));
    EXPECT_EQ(checks.points(r.chamber).size(), 3u) << "only finished checks are on the chart";
}

TEST(Checks, AnXrayTableThatHasJumpedIsUsedAgainAfterAServiceOnly)
{
    Room r;
    auto diary = std::make_shared<Diary>(r.store);
    Checks checks(diary);
    const Instrument table = *diary->save(
        Instrument{0, &bench::instrument_of(method::absorptiometry), "X-ray", "X-1", "", "", "", true, 1.1, 15, 180.0});
    QDateTime day = at("2026-09-01 06:40");
    const auto scan = [&](double value) {
        day = day.addDays(1);
        const QString t = day.toUTC().toString(Qt::ISODateWithMs);
        const auto id = checks.begin(table, "M. Tanguy", t);
        long seq = 1;
        for (const char* step : {"licence", "clear"})
            EXPECT_FALSE(
                checks.append(*id, {++seq, t.toStdString(), "x", "done", bench::written(bench::checking::Done{step})}));
        EXPECT_FALSE(checks.append(
            *id, {++seq, t.toStdString(), "x", "reading", bench::written(bench::checking::Reading{"phantom", value})}));
    };
    for (int i = 0; i < 20; ++i) scan(1.1 + (i % 2 ? 0.002 : -0.002));
    EXPECT_TRUE(checks.ready(table, day).ready) << checks.ready(table, day).words;
    for (int i = 0; i < 4; ++i) scan(1.112); // within 1.5 % of the phantom, outside the table's own limits
    EXPECT_FALSE(checks.ready(table, day).ready);
    EXPECT_EQ(checks.new_baseline(table, "M. Tanguy", " ", day.addSecs(60)).messages().front().field, "reason");
    const auto served = checks.new_baseline(table, "M. Tanguy", "tube changed by the maker", day.addSecs(60));
    ASSERT_TRUE(served);
    EXPECT_TRUE(checks.ready(*diary->instrument(table.id), day).ready);
    EXPECT_TRUE(checks.remarks(checks.history(table.id, 1)[0].id).join("").contains("tube changed"));
    scan(1.112);
    EXPECT_EQ(checks.points(*diary->instrument(table.id)).size(), 1u) << "the chart begins anew";
    EXPECT_EQ(checks.history(table.id).size(), 25u) << "nothing is lost of the history";
    EXPECT_TRUE(checks.ready(*diary->instrument(table.id), day).ready);
}

TEST(Checks, TheChartSeesTheWholeSeriesSinceItsBaseline)
{
    Room r;
    Instrument scale;
    scale.kind = &bench::scale_kind();
    scale.name = "Scale";
    scale.serial = "S-77";
    scale.reference = 20;
    scale.duration_min = 1;
    const auto stored = r.diary.save(scale);
    ASSERT_TRUE(stored) << stored.messages().front().text;
    // steady for a month, failed twice, then 0.02 kg more for 240 days: the newest 200 alone would look steady
    QStringList rows;
    for (int i = 0; i < 270; ++i) {
        const bool failed = i == 5 || i == 9;
        const double kg = failed ? 21.0 : (i < 30 ? 20.0 : 20.02) + 0.002 * (i % 3 - 1);
        rows << QStringLiteral("(%1, '%2T07:00:00.000Z', 'M. Tanguy', '%2T07:05:00.000Z', %3, %4)")
                    .arg(stored->id)
                    .arg(QDate(2025, 1, 1).addDays(i).toString(Qt::ISODate))
                    .arg(failed ? 0 : 1)
                    .arg(kg);
    }
    ASSERT_TRUE(
        sql(r.file(), {"INSERT INTO check_run (instrument_id, started_at, who, finished_at, passed, value) VALUES " +
                          rows.join(", ")}));
    Checks checks(std::make_shared<Diary>(r.diary));
    const auto chart = checks.chart(*stored);
    EXPECT_EQ(checks.points(*stored).size(), 270u);
    EXPECT_NEAR(chart.mean, 20.0, 0.002) << "the baseline is the first month, without its failed checks";
    EXPECT_EQ(static_cast<int>(chart.sign), static_cast<int>(quality::Sign::step)) << chart.words;
}

TEST(Checks, ATimerGoesOnWhileTheProgramIsClosed)
{
    bench::CheckRun tank(bench::instrument_of(method::hydrostatic));
    ASSERT_FALSE(tank.apply({1, "2026-11-23T04:00:00.000Z", "x", "started", "{}"}));
    ASSERT_FALSE(
        tank.apply({2, "2026-11-23T04:10:00.000Z", "x", "done", bench::written(bench::checking::Done{"clean"})}));
    const double began = bench::seconds_of("2026-11-23T04:10:00.000Z");
    EXPECT_DOUBLE_EQ(tank.seconds_left(began + 60), 14 * 60);
    const auto early =
        tank.apply({3, "2026-11-23T04:20:00.000Z", "x", "done", bench::written(bench::checking::Done{"act"})});
    ASSERT_TRUE(early);
    EXPECT_NE(early->text.find("5 min are left"), std::string::npos) << early->text;
    ASSERT_FALSE(
        tank.apply({3, "2026-11-23T04:25:00.000Z", "x", "done", bench::written(bench::checking::Done{"act"})}));
    for (const char* step : {"rinse", "tap", "fill", "overflow", "chair"})
        ASSERT_FALSE(tank.apply(
            {tank.last_seq + 1, "2026-11-23T07:25:00.000Z", "x", "done", bench::written(bench::checking::Done{step})}))
            << step;
    EXPECT_TRUE(tank.apply({tank.last_seq + 1, "2026-11-23T07:25:00.000Z", "x", "done",
        bench::written(bench::checking::Done{"temperature"})}))
        << "a temperature is read, not confirmed";
    EXPECT_TRUE(tank.apply({tank.last_seq + 1, "2026-11-23T07:25:00.000Z", "x", "reading",
        R"({"step": "temperature", "value": "warm"})"}));
    ASSERT_FALSE(tank.apply({tank.last_seq + 1, "2026-11-23T07:25:00.000Z", "x", "reading",
        bench::written(bench::checking::Reading{"temperature", 34.6})}));
    ASSERT_FALSE(tank.apply({tank.last_seq + 1, "2026-11-23T07:26:00.000Z", "x", "reading",
        bench::written(bench::checking::Reading{"zero", 7.54})}));
    ASSERT_TRUE(tank.result());
    EXPECT_TRUE(tank.result()->passed);
    EXPECT_EQ(tank.result()->words, "Water 34.6 °C, zero with chair and belt 7.540 kg. Ready.");
}

TEST(Rulebook, TheLabsOwnVersionsStand)
{
    Room r;
    Rulebook rules = rulebook(r.store);
    EXPECT_EQ(rules.house().at("caffeine"), "keep_habit");
    ASSERT_FALSE(rules.choose("caffeine", "none_24h", "M. Tanguy"));
    EXPECT_EQ(rules.house().at("caffeine"), "none_24h");
    EXPECT_EQ(rules.house_version(), 1);
    EXPECT_TRUE(rules.choose("caffeine", "espresso", "M. Tanguy"));
    EXPECT_TRUE(rules.choose("tea", "none", "M. Tanguy"));

    protocol::Protocol p = *rules.book().protocol(method::impedance);
    const int shipped = p.version;
    const auto meal = std::find_if(p.rules.begin(), p.rules.end(), [](const auto& x) { return x.id == "meal"; });
    meal->levels[0].limit = 240;
    ASSERT_TRUE(rules.keep(p, "M. Tanguy"));
    EXPECT_EQ(rules.book().protocol(method::impedance)->version, shipped + 1);
    meal->levels[0].limit = 60; // milder than the next: refused, the last good one stays
    EXPECT_FALSE(rules.keep(p, "M. Tanguy"));
    EXPECT_EQ(rules.book().protocol(method::impedance)->version, shipped + 1);
    protocol::Protocol without = *rules.book().protocol(method::impedance);
    std::erase_if(without.rules, [](const auto& x) { return x.id == "powered_implant"; });
    EXPECT_EQ(rules.keep(without, "M. Tanguy").messages().front().code, "stop_missing")
        << "a lab cannot do away with a stop";
    EXPECT_EQ(rules.protocol(method::impedance, shipped)->rules.size(), p.rules.size())
        << "what an old visit was made under is still there";

    const QString path = r.dir.path() + "/mine.json";
    QFile f(path);
    ASSERT_TRUE(f.open(QIODevice::WriteOnly));
    std::string text = bench::write_protocol(*rules.book().protocol(method::impedance));
    text.replace(text.find("\"limit\": 240"), 12, "\"limit\": \"x\"");
    f.write(text.c_str());
    f.close();
    const auto refused = rules.take_file(path, "M. Tanguy");
    ASSERT_FALSE(refused);
    EXPECT_NE(refused.messages().front().text.find("mine.json, line"), std::string::npos)
        << refused.messages().front().text;
    EXPECT_EQ(rules.book().protocol(method::impedance)->version, shipped + 1);
    EXPECT_FALSE(sql(r.file(), {"UPDATE rulebook SET body = ''"}));
}

TEST(Diary, ACrewIsBookedWholeOrNotAtAll)
{
    Room room;
    Client other = room.client;
    other.id = 0;
    other.number.clear();
    other.given_name = "Malo";
    other.birth_date = "1989-05-27";
    other = *room.store->save(other);
    const schedule::Minute eight = minute_of(at("2026-11-26 08:00"));
    Booking first = room.at_minute(eight), second = room.at_minute(eight + 5); // the same chamber five minutes later
    second.client_id = second.parts[0].client = other.id;
    const auto clash = room.diary.book_all({first, second});
    ASSERT_FALSE(clash);
    EXPECT_EQ(clash.messages().front().code, "conflict");
    EXPECT_TRUE(room.diary.day(QDate(2026, 11, 26)).empty()) << "nobody";
    second.parts[0].at = {eight + 15, eight + 25}; // the chamber is calibrated in between
    const auto all = room.diary.book_all({first, second});
    ASSERT_TRUE(all) << all.messages().front().text;
    EXPECT_EQ(room.diary.day(QDate(2026, 11, 26)).size(), 2u);
    EXPECT_GT((*all)[1].id, (*all)[0].id);
    EXPECT_EQ(room.store->roles(), QStringList());
    other.role = "deckhand";
    ASSERT_TRUE(room.store->save(other));
    EXPECT_EQ(room.store->roles(), QStringList{"deckhand"});
    EXPECT_EQ(room.store->clients_of_role("deckhand").front().id, other.id);
}

TEST(Checks, AReferenceNetworkChecksThePhaseToo)
{
    Room room;
    Instrument analyser{
        0, &bench::instrument_of(method::impedance), "Analyser", "B-1", "of_nobody", "", "", true, 500, 5, {}};
    EXPECT_EQ(room.diary.save(analyser).messages().front().code, "unknown_choice") << "no such profile";
    analyser.profile = "stand_in_1";
    analyser.reference_x = 600;
    EXPECT_EQ(room.diary.save(analyser).messages().front().field, "reference_x");
    analyser.reference_x = 60;
    const auto kept = room.diary.save(analyser);
    ASSERT_TRUE(kept);
    EXPECT_EQ(room.diary.instrument(kept->id)->reference_x, 60);
    for (const auto& [x_ohm, passes] : {std::pair{60.4, true}, {62.5, false}, {0.0, true}}) {
        bench::CheckRun run(*kept->kind, kept->reference);
        long seq = 0;
        const auto add = [&](const char* kind, bench::Json body) {
            const bench::Event e{++seq, "2026-11-26T06:00:00.000Z", "M. Tanguy", kind, body.dump()};
            if (kind == std::string("done") && run.seconds_left(bench::seconds_of(e.at_utc)) > 0)
                run.step_since_s -= 1000; // the wait is over
            ASSERT_FALSE(run.apply(e)) << kind;
        };
        add("started", {{"reference", 500.0}, {"reference_x", x_ohm > 0 ? 60.0 : 0.0}});
        while (!run.all_done()) {
            const auto& step = run.steps()[static_cast<std::size_t>(run.next())];
            bench::Json body = {{"step", step.id}};
            const bool reads = step.kind == bench::CheckStep::Kind::read;
            if (reads) body["value"] = 500.4;
            // one channel alone is off
            if (reads && x_ohm > 0) body["x"] = step.id == std::string("left_leg") ? x_ohm : 60.1;
            add(reads ? "reading" : "done", body);
        }
        const auto result = run.result();
        ASSERT_TRUE(result);
        EXPECT_EQ(result->passed, passes) << x_ohm << ": " << result->words;
    }
}

TEST(Checks, OneOfTheStaffIsMeasuredDaily)
{
    Room r;
    r.chamber.check_by = "person";
    r.chamber = *r.diary.save(r.chamber);
    Checks checks(std::make_shared<Diary>(r.diary));
    QDateTime day = at("2026-11-02 07:00");
    const auto measure = [&](const char* who, double percent, double mass) {
        const auto iso = [&] { return day.toUTC().toString(Qt::ISODateWithMs); };
        const auto id = checks.begin(r.chamber, "M. Tanguy", iso());
        EXPECT_TRUE(id);
        const auto add = [&](const char* kind, bench::Json body) {
            return checks.append(*id, {static_cast<long>(checks.events(*id).size()) + 1, iso().toStdString(),
                                          "M. Tanguy", kind, body.dump()});
        };
        EXPECT_FALSE(add("done", {{"step", "room"}}));
        EXPECT_EQ(add("done", {{"step", "person"}})->field, "person") << "without a name it is nobody's";
        EXPECT_FALSE(add("done", {{"step", "person"}, {"person", who}}));
        EXPECT_EQ(add("done", {{"step", "percent"}})->code, "not_now");
        EXPECT_FALSE(add("reading", {{"step", "percent"}, {"value", percent}, {"source", "typed"}}));
        EXPECT_FALSE(add("reading", {{"step", "mass"}, {"value", mass}, {"source", "typed"}}));
        EXPECT_FALSE(add("done", {{"step", "resistance"}})) << "it does not show it";
        const auto ready = checks.ready(r.chamber, day.addSecs(60));
        day = day.addDays(1);
        return ready.ready;
    };
    EXPECT_FALSE(checks.ready(r.chamber, day).ready);
    for (double percent : {21.0, 21.4, 21.2}) EXPECT_TRUE(measure("M. Tanguy", percent, 70.2));
    EXPECT_TRUE(measure("A. Le Goff", 28.9, 61.0)) << "another body, another usual";
    EXPECT_TRUE(measure("M. Tanguy", 22.9, 70.9)) << "1.7 % over the usual 21.2";
    EXPECT_FALSE(measure("M. Tanguy", 24.5, 70.2)) << "over two percent";
    EXPECT_FALSE(measure("M. Tanguy", 21.2, 73.2)) << "three kilograms";
    const auto usual = checks.usual(r.chamber);
    EXPECT_EQ(usual.at("M. Tanguy").count, 4) << "what failed is not usual";
    EXPECT_NEAR(usual.at("M. Tanguy").percent, (21.0 + 21.4 + 21.2 + 22.9) / 4, 1e-9);
    EXPECT_NEAR(checks.points(r.chamber)[4].value, 22.9 - 21.2, 1e-9) << "one chart for both: over what is usual";
    const auto other = checks.new_baseline(r.chamber, "M. Tanguy", "electrodes changed", day.addDays(-1));
    ASSERT_TRUE(other);
    EXPECT_TRUE(checks.usual(*other).empty());
}

TEST(Checks, WhatTheLabCanDoAndWhatAMissedOneDoes)
{
    using bench::InstrumentKind;
    const bench::LastCheck today{true, true, 0}, days_ago{true, true, 3};
    const struct {
        const char* what;
        const InstrumentKind* kind;
        const char* by;
        std::optional<bench::LastCheck> last;
        bench::CheckRule rule;
        bool ready, caution;
    } rows[] = {
        {"checked today", &bench::instrument_of(method::impedance), "", today, {}, true, false},
        {"three days ago", &bench::instrument_of(method::impedance), "person", days_ago, {}, false, false},
        {"once a week is enough", &bench::instrument_of(method::impedance), "person", days_ago, {7, true}, true, false},
        {"missed, and told with it", &bench::instrument_of(method::impedance), "person", days_ago, {1, false}, true,
            true},
        {"never, and told with it", &bench::instrument_of(method::impedance), "self_test", {}, {7, false}, true, true},
        {"nobody checks it", &bench::instrument_of(method::impedance), "none", {}, {}, true, true},
        {"a beam is never unchecked", &bench::instrument_of(method::absorptiometry), "", days_ago, {7, false}, false,
            false},
        {"nor is a tank", &bench::instrument_of(method::hydrostatic), "", days_ago, {7, false}, false, false},
    };
    for (const auto& row : rows) {
        const auto is = bench::readiness({row.kind, row.by, true, "", "2026-11-30"}, row.last, {}, row.rule);
        EXPECT_EQ(is.ready, row.ready) << row.what << ": " << is.words;
        EXPECT_EQ(!is.caution.empty(), row.caution) << row.what;
    }
    for (const auto& [kind, way, fits] : {std::tuple{&bench::instrument_of(method::hydrostatic), "self_test", false},
             {&bench::instrument_of(method::absorptiometry), "self_test", true},
             {&bench::instrument_of(method::absorptiometry), "person", false},
             {&bench::instrument_of(method::absorptiometry), "none", false},
             {&bench::instrument_of(method::impedance), "person", true}, {&bench::scale_kind(), "none", true},
             {&bench::instrument_of(method::impedance), "prayer", false}})
        EXPECT_EQ(bench::check_fits(*kind, way), fits) << way;
    Room r;
    r.chamber.check_by = "prayer";
    EXPECT_EQ(r.diary.save(r.chamber).messages().front().field, "check_by");
    r.chamber.check_by = "self_test";
    EXPECT_EQ(r.diary.instrument(r.diary.save(r.chamber)->id)->check_by, "self_test");
    r.chamber.layout = "at_the_door";
    EXPECT_EQ(r.diary.instrument(r.diary.save(r.chamber)->id)->layout, "at_the_door");
}
