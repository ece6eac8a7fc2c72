// SPDX-License-Identifier: GPL-3.0-or-later
// The visit as a log: order, refusals, replay.
#include "bench/base/fields.h"
#include "bench/tank/tank.h"

#include <gtest/gtest.h>

#include <cmath>
#include <tuple>

using namespace fusain;
using bench::Json;
namespace step = bench::step;
using bench::Step;
using bench::Visit;

namespace {

struct Log {
    std::vector<bench::Event> events;
    Visit visit;

    std::string add(const std::string& kind, Json body = Json::object())
    {
        bench::Event e{visit.last_seq + 1, "2026-11-23T08:20:00.000Z", "M. Tanguy", kind, body.dump()};
        const auto why = visit.apply(e);
        if (!why) events.push_back(e);
        return why ? why->code : "";
    }
    void until_water()
    {
        start();
        add("identity", {{"cm", 171.0}});
        add("stops", {{"stop", Json::array()}, {"noted", {"feels_cold"}}});
        add("mass", {{"kg", 68.44}});
        for (double l : {3.71, 3.68, 3.75}) add("blow", {{"l", l}});
        add("lungs", {{"route", "vital_capacity"}, {"equation", "quanjer_1993"}, {"gas_temp_c", 22.4},
                         {"barometric_mmhg", 757.0}});
        add("zero", {{"kg", 7.54}, {"sd_kg", 0.004}});
        add("water", {{"c", 34.6}});
    }
    void start()
    {
        Json body = {{"client_id", 3}, {"number", "101"}, {"name", "A. B."}, {"birth_date", "1995-05-02"},
            {"sex", "female"}, {"height_cm", 171.0}};
        body.update(more);
        add("started", body);
    }
    Json more = Json::object(); ///< what the visit is begun with besides
    void trial(double kg)
    {
        add("trial_begun");
        add("trial_taken", {{"kg", kg}, {"u_kg", 0.004}});
    }
};

} // namespace

TEST(Visit, LeadsThroughTheStepsInOrder)
{
    Log log;
    log.start();
    const Step order[] = {step::who, step::stops, step::mass, step::lungs, step::zero, step::water, step::trials};
    EXPECT_EQ(log.visit.next_step(), order[0]);
    EXPECT_EQ(log.add("trial_begun"), "not_now");
    log = Log();
    log.until_water();
    EXPECT_EQ(log.visit.next_step(), step::trials);
    for (double kg : {2.40, 2.43, 2.44}) log.trial(kg);
    EXPECT_EQ(log.visit.next_step(), step::result);
    EXPECT_EQ(log.add("finished"), "");
    EXPECT_TRUE(log.visit.finished);
    EXPECT_NEAR(*bench::tank_of(log.visit).best_blow_l(), 3.75, 1e-12);
    EXPECT_EQ(log.visit.notes, std::vector<std::string>{"feels_cold"});
}

TEST(Visit, RefusesWhatIsImpossibleAndKeepsTheRest)
{
    Log log;
    EXPECT_EQ(log.add("mass", {{"kg", 70}}), "not_now");
    log.start();
    struct Row {
        const char* kind;
        Json body;
        const char* code;
    };
    const Row rows[] = {
        {"started", {{"client_id", 1}}, "not_now"},
        {"identity", {{"cm", 1.71}}, "out_of_range"},
        {"mass", {{"kg", 0}}, "out_of_range"},
        {"mass", {{"kg", "68"}}, "missing_field"},
        {"blow", {{"l", 47.0}}, "out_of_range"},
        {"blow_thrown_out", {{"number", 1}}, "not_now"},
        {"lungs", {{"route", "vital_capacity"}}, "too_few_blows"},
        {"lungs", {{"route", "measured"}, {"rv_l", 9}}, "out_of_range"},
        {"lungs", {{"route", "guess"}}, "unknown_choice"},
        {"water", {{"c", 94}}, "out_of_range"},
        {"trial_taken", {{"kg", 2.4}}, "not_now"},
        {"trial_thrown_out", {{"number", 1}, {"reason", "x"}}, "not_now"},
        {"choice", {{"what", "conversion"}, {"to", "siri"}}, "unknown_choice"},
        {"choice", {{"what", 7}, {"to", "siri_1961"}}, "bad_event"},
        {"finished", Json::object(), "not_now"},
        {"levitated", {}, "unknown_event"},
    };
    for (const Row& row : rows) {
        const long before = log.visit.last_seq;
        EXPECT_EQ(log.add(row.kind, row.body), row.code) << row.kind << " " << row.body.dump();
        EXPECT_EQ(log.visit.last_seq, before);
    }
    bench::Event gap{9, "", "", "remark", "{}"};
    EXPECT_EQ(log.visit.apply(gap)->code, "log_gap");
}

TEST(Visit, AStopIsAStop)
{
    Log log;
    log.start();
    log.add("stops", {{"stop", {"recent_surgery"}}, {"noted", Json::array()}});
    EXPECT_TRUE(log.visit.stopped());
    for (const char* kind : {"mass", "trial_begun", "stops", "finished", "choice"})
        EXPECT_EQ(log.add(kind, {{"kg", 70}, {"stop", Json::array()}}), "not_now") << kind;
}

TEST(Visit, ThrownOutAndBrokenTrialsNeverCount)
{
    Log log;
    log.until_water();
    for (double kg : {2.40, 2.43, 2.44}) log.trial(kg);
    log.add("trial_begun");
    EXPECT_EQ(log.add("trial_begun"), "not_now");
    EXPECT_EQ(log.add("trial_broken", {{"reason", "the line was lost"}}), "");
    EXPECT_EQ(log.add("trial_thrown_out", {{"number", 2}}), "missing_field") << "a reason is asked for";
    EXPECT_EQ(log.add("trial_thrown_out", {{"number", 2}, {"reason", "moved"}}), "");
    EXPECT_EQ(log.visit.reading_numbers(), (std::vector<int>{1, 3}));
    EXPECT_EQ(log.visit.result().messages().front().code, "too_few_trials");
}

TEST(Visit, ChoicesMoveTheNumberAndAreKept)
{
    Log log;
    log.until_water();
    for (double kg : {2.40, 2.43, 2.44}) log.trial(kg);
    const double siri = (*log.visit.result())[quantity::fat_percent].value;
    EXPECT_EQ(log.add("choice", {{"what", "conversion"}, {"to", "brozek_1963"}}), "");
    EXPECT_NE((*log.visit.result())[quantity::fat_percent].value, siri);
    ASSERT_EQ(log.visit.choices.size(), 1u);
    EXPECT_EQ(log.visit.choices[0].from, "siri_1961");
    EXPECT_EQ(log.visit.choices[0].who, "M. Tanguy");
    log.add("choice", {{"what", "lung_route"}, {"to", "age_height"}});
    log.add("choice", {{"what", "lung_equation"}, {"to", "crapo_1982"}});
    EXPECT_NEAR((*log.visit.result())[quantity::residual_volume].value,
        lung::crapo_1982_rv<double>(Sex::female, 171, log.visit.age_y()), 1e-12);
}

TEST(Visit, TheResidualVolumeIsToldBeforeItIsChosenAndStaysWhatItWas)
{
    using hydrostatic::LungRoute;
    Log log;
    log.until_water();
    const double by_age = lung::quanjer_1993_rv<double>(Sex::female, 171, log.visit.age_y());
    const struct {
        bench::event::Lungs by;
        std::optional<double> litres, u_l;
    } rows[] = {
        // 3.75 L at 22.4 °C and 757 mmHg are 4.086 L in the body, of which 0.28
        {{LungRoute::vital_capacity, "", 22.4, 757.0, {}}, 1.144, 0.35},
        {{LungRoute::vital_capacity, "", {}, 757.0, {}}, {}, {}},
        {{LungRoute::vital_capacity, "", 22.4, {}, 1.2}, {}, {}},
        {{LungRoute::measured, "", 22.4, 757.0, 1.31}, 1.31, 0.10},
        {{LungRoute::measured, "", 22.4, 757.0, {}}, {}, {}},
        {{LungRoute::age_height, "quanjer_1993", {}, {}, {}}, by_age, 0.35},
        {{LungRoute::age_height, "nobody_1900", {}, {}, {}}, {}, {}},
    };
    for (const auto& row : rows) {
        const auto rv = bench::residual_volume(log.visit, row.by);
        EXPECT_EQ(rv.has_value(), row.litres.has_value()) << hydrostatic::id(*row.by.route);
        if (!rv) continue;
        EXPECT_NEAR(rv->litres, *row.litres, 0.002);
        EXPECT_NEAR(rv->u_l, *row.u_l, 1e-12);
        Log again; // what was told is what the result rests on
        again.until_water();
        ASSERT_EQ(again.add("lungs", Json::parse(bench::written(row.by))), "");
        for (double kg : {2.40, 2.43, 2.44}) again.trial(kg);
        EXPECT_NEAR((*again.visit.result())[quantity::residual_volume].value, rv->litres, 1e-12);
    }
}

TEST(Visit, ReplayIsBitForBit)
{
    Log log;
    log.until_water();
    for (double kg : {2.4012345678901234, 2.43, 2.44}) log.trial(kg);
    Visit again;
    for (const bench::Event& e : log.events) {
        bench::Event through_text = e;
        through_text.body = Json::parse(e.body).dump();
        ASSERT_FALSE(again.apply(through_text));
    }
    const auto a = log.visit.result(), b = again.result();
    ASSERT_TRUE(a && b);
    for (std::size_t k = 0; k < a->values.size(); ++k) {
        EXPECT_EQ(a->values[k].value, b->values[k].value);
        EXPECT_EQ(a->values[k].u, b->values[k].u);
    }
}

TEST(Visit, AgeCountsFromBirthdayToBirthday)
{
    EXPECT_DOUBLE_EQ(bench::age_between("1995-05-02", "2026-05-02"), 31);
    EXPECT_NEAR(bench::age_between("1995-05-02", "2026-05-01"), 31, 0.003);
    EXPECT_LT(bench::age_between("1995-05-02", "2026-05-01"), 31);
    EXPECT_DOUBLE_EQ(bench::age_between("2000-02-29", "2023-03-01"), 23);
    EXPECT_LT(bench::age_between("2000-02-29", "2023-02-28"), 23);
    EXPECT_TRUE(std::isnan(bench::age_between("", "2023-02-28")));
    EXPECT_TRUE(std::isnan(bench::age_between("2001-13-41", "2023-02-28")));
}

TEST(Visit, IsNotFinishedWithANumberNoBodyHasButOlderOnesStayReadable)
{
    for (const int version : {1, 2, 3}) {
        Log log;
        log.more = {{"log", version}};
        log.until_water();
        for (double kg : {5.80, 5.81, 5.82}) log.trial(kg);
        ASSERT_EQ(log.visit.result().messages().front().code, "not_a_body");
        EXPECT_EQ(log.add("finished"), version < 3 ? "" : "not_a_body");
    }
}

TEST(Visit, AFinishedVisitStandsUntilItIsOpenedAgain)
{
    Log log;
    log.more = {{"log", 2}};
    log.until_water();
    for (double kg : {2.42, 2.44, 2.43}) log.trial(kg);
    EXPECT_EQ(log.add("reopened", {{"reason", "too early"}}), "not_now");
    EXPECT_EQ(log.add("finished"), "");
    const std::pair<const char*, Json> refused[] = {
        {"mass", {{"kg", 70.0}}},
        {"identity", {{"cm", 172.0}}},
        {"trial_begun", Json::object()},
        {"trial_thrown_out", {{"number", 1}, {"reason", "air"}}},
        {"blow", {{"l", 4.0}}},
        {"zero", {{"kg", 7.0}}},
        {"water", {{"c", 33.0}}},
        {"stops", {{"stop", {"ill"}}}},
        {"given_up", {{"reason", "went home"}}},
        {"finished", Json::object()},
    };
    const double fat = (*log.visit.result())[quantity::fat_percent].value;
    for (const auto& [kind, body] : refused) EXPECT_EQ(log.add(kind, body), "not_now") << kind;
    EXPECT_EQ((*log.visit.result())[quantity::fat_percent].value, fat);
    EXPECT_EQ(log.add("remark", {{"text", "called back"}}), "");
    EXPECT_EQ(log.add("choice", {{"what", "conversion"}, {"to", "brozek_1963"}}), "")
        << "a choice is kept with its name, also later";
    EXPECT_EQ(log.add("reopened", {{"reason", "no"}}), "missing_field");
    EXPECT_EQ(log.add("reopened", {{"reason", "trial 2 was air"}}), "");
    EXPECT_FALSE(log.visit.finished);
    EXPECT_EQ(log.visit.reopenings.front().who, "M. Tanguy");
    EXPECT_EQ(log.add("trial_thrown_out", {{"number", 2}, {"reason", "air"}}), "");
    log.trial(2.45);
    EXPECT_EQ(log.add("finished"), "");
    // logs from before this rule still replay
    Log old;
    old.until_water();
    for (double kg : {2.42, 2.44, 2.43}) old.trial(kg);
    old.add("finished");
    EXPECT_EQ(old.add("trial_thrown_out", {{"number", 1}, {"reason", "air"}}), "");
}

TEST(Visit, WhatAsksForANewMeasurementIsAcknowledgedByName)
{
    Log log;
    log.more = {{"log", 2}, {"last", {{"mass_kg", 75.0}, {"days", 5.0}}}};
    log.until_water();
    for (double kg : {2.42, 2.44, 2.43}) log.trial(kg);
    const auto open = log.visit.to_acknowledge();
    ASSERT_EQ(open.size(), 1u);
    EXPECT_EQ(open[0].code, "mass_differs") << "68.44 kg five days after 75 kg, typed or weighed";
    EXPECT_EQ(log.add("acknowledged", {{"codes", Json::array()}}), "missing_field");
    EXPECT_EQ(log.add("acknowledged", {{"codes", {"mass_differs"}}}), "");
    EXPECT_TRUE(log.visit.to_acknowledge().empty());
    EXPECT_EQ(log.visit.acknowledgements.front().who, "M. Tanguy");
    // what comes to light later is asked for again
    log.add("identity", {{"cm", 174.0}});
    ASSERT_EQ(log.visit.to_acknowledge().size(), 1u);
    EXPECT_EQ(log.visit.to_acknowledge()[0].code, "height_differs");
    log.add("acknowledged", {{"codes", {"height_differs"}}});
    log.add("finished");
    log.add("reopened", {{"reason", "weighed again"}});
    EXPECT_EQ(log.visit.to_acknowledge().size(), 2u) << "a visit that is open again is looked at again";
}

TEST(Visit, AgeIsCountedByTheLabsClock)
{
    // her 18th birthday in Auckland, 09:20: in UTC it is still the evening before
    Log log;
    log.more = {{"log", 2}, {"birth_date", "2008-11-24"}, {"zone", "Pacific/Auckland"}, {"local", "2026-11-24T09:20"}};
    log.start();
    EXPECT_DOUBLE_EQ(log.visit.age_y(), 18);
    Log old;
    old.more = {{"birth_date", "2008-11-24"}};
    old.start();
    EXPECT_LT(old.visit.age_y(), 18) << "visits from before keep the age they were computed with";
}

TEST(Visit, AChildsConversionIsKeptInTheLog)
{
    Log log;
    log.more = {{"birth_date", "2014-11-01"}, {"conversion", "lohman_1989"}};
    log.until_water();
    for (double kg : {1.42, 1.44, 1.43}) log.trial(kg);
    EXPECT_EQ(bench::density_of(log.visit)->conversion, "lohman_1989");
    log.add("choice", {{"what", "conversion"}, {"to", "siri_1961"}});
    const auto messages = log.visit.result().messages();
    EXPECT_TRUE(std::any_of(messages.begin(), messages.end(),
        [](const Message& m) { return m.code == "outside_group" && m.field == "conversion"; }));
}

TEST(Visit, ABrokenTrialIsTheOneThatRuns)
{
    Log log;
    log.until_water();
    log.add("trial_begun");
    EXPECT_EQ(log.add("trial_broken", {{"number", 2}, {"reason", "late word of another"}}), "not_now");
    EXPECT_EQ(log.add("trial_broken", {{"number", 1}, {"reason", "the signal had a gap"}}), "");
}

TEST(Visit, AgeIsWhatTheCalendarSays)
{
    // counted day by day: years are birthdays passed, the rest a share of the year to the next one
    const auto leap = [](int y) { return (y % 4 == 0 && y % 100 != 0) || y % 400 == 0; };
    const auto days_in = [&](int y, int m) {
        constexpr int days[] = {31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31};
        return days[m - 1] + (m == 2 && leap(y));
    };
    const auto iso = [](int y, int m, int d) {
        char text[16];
        std::snprintf(text, sizeof text, "%04d-%02d-%02d", y, m, d);
        return std::string(text);
    };
    for (const auto& [year, month, day] :
        {std::tuple{1992, 2, 29}, {1995, 5, 2}, {2000, 12, 31}, {1999, 1, 1}, {1996, 3, 1}}) {
        int y = year, m = month, d = day, birthdays = 0, since = 0;
        std::vector<std::pair<std::string, std::pair<int, int>>> walked; // date, birthdays so far, days since the last
        for (int n = 0; n < 366 * 9; ++n) {
            walked.push_back({iso(y, m, d), {birthdays, since}});
            if (++d > days_in(y, m)) {
                d = 1;
                if (++m > 12) {
                    m = 1;
                    ++y;
                }
            }
            ++since;
            // who was born on 29 February has the birthday on 1 March in common years
            const bool today = (m == month && d == day) || (month == 2 && day == 29 && !leap(y) && m == 3 && d == 1);
            if (today) {
                ++birthdays;
                since = 0;
            }
        }
        double last = -1;
        for (const auto& [date, age] : walked) {
            const double years = bench::age_between(iso(year, month, day), date);
            EXPECT_EQ(static_cast<int>(years), age.first) << date;
            EXPECT_GE(years - age.first, age.second / 367.0) << date;
            EXPECT_LE(years - age.first, age.second / 364.0) << date;
            EXPECT_GT(years, last) << date << ": a day makes nobody younger";
            last = years;
        }
    }
    for (const char* nonsense : {"", "1995", "1995-13-01", "1995-02-30", "yesterday"})
        EXPECT_TRUE(std::isnan(bench::age_between(nonsense, "2026-11-23"))) << nonsense;
}
