// SPDX-License-Identifier: GPL-3.0-or-later
// A visit in the displacement chamber as a log: order, refusals, calibrations, replay; and its recordings from the
// virtual line.
#include "bench/base/fields.h"
#include "bench/chamber/chamber_take.h"
#include "bench/visit/visit.h"
#include "virtual/chamber/chamber.h"

#include <gtest/gtest.h>

using namespace fusain;
using bench::Channel;
using bench::Json;
namespace step = bench::step;
namespace take = bench::take;
using bench::Step;
using What = bench::ChamberWhat;

namespace {

constexpr double chamber_l = 450, reference_l = 300;

struct Log {
    std::vector<bench::Event> events;
    bench::Visit visit;
    int minute = 20;

    std::string add(const std::string& kind, Json body = Json::object())
    {
        char at[32];
        std::snprintf(at, sizeof at, "2026-11-23T08:%02d:00.000Z", minute);
        bench::Event e{visit.last_seq + 1, at, "M. Tanguy", kind, body.dump()};
        const auto why = visit.apply(e);
        if (!why) events.push_back(e);
        return why ? why->code : "";
    }
    std::string reading(const char* what, double litres)
    {
        if (const auto why = add("trial_begun", {{"what", what}}); !why.empty()) return why;
        return add(
            "trial_taken", {{"ratio", (chamber_l - litres) / reference_l}, {"u_ratio", 3e-5}, {"phase_rad", 3.14159}});
    }
    std::string puffs(double litres, double merit = 0.4, double peak = 14)
    {
        if (const auto why = add("trial_begun", {{"what", "puffs"}}); !why.empty()) return why;
        const double slope = litres * 1.4 * 100925 / ((chamber_l - visit.readings().front()) * (100925 - 6277));
        return add("trial_taken", {{"slope", slope}, {"u_slope", 0.01 * slope}, {"merit", merit}, {"peak_cmh2o", peak},
                                      {"barometric_mmhg", 757.0}});
    }
    void until_chamber()
    {
        add("started", {{"method", "air_displacement"}, {"client_id", 3}, {"number", "101"}, {"name", "A. B."},
                           {"birth_date", "1996-05-02"}, {"sex", "male"}, {"height_cm", 178.0}, {"reference", 50.012}});
        add("identity", {{"cm", 178.0}});
        add("stops", {{"stop", Json::array()}, {"noted", Json::array()}});
        add("mass", {{"kg", 75.0}});
        add("prepared", {{"seen", {"cap over all hair", "told about the chamber"}}});
        add("cylinder", {{"l", 50.012}});
    }
    void until_runs()
    {
        until_chamber();
        EXPECT_EQ(reading("empty", 0), "");
        EXPECT_EQ(reading("cylinder", 50.012), "");
    }
};

} // namespace

TEST(ChamberVisit, LeadsThroughTheStepsAndGivesTheResult)
{
    Log log;
    const Step order[] = {
        step::who, step::stops, step::mass, step::prepare, step::calibrate, step::runs, step::lung_gas, step::result};
    log.until_chamber();
    EXPECT_TRUE(std::equal(log.visit.steps().begin(), log.visit.steps().end(), std::begin(order), std::end(order)));
    EXPECT_EQ(log.visit.next_step(), step::calibrate);
    EXPECT_EQ(log.reading("run", 67.9), "not_now") << "calibrate first";
    EXPECT_EQ(log.reading("cylinder", 50.012), "not_now") << "empty first";
    EXPECT_EQ(log.reading("empty", 0), "");
    EXPECT_EQ(log.reading("cylinder", 50.012), "");
    EXPECT_EQ(log.visit.next_step(), step::runs);
    EXPECT_EQ(log.reading("run", 67.90), "");
    EXPECT_FALSE(log.visit.result());
    EXPECT_TRUE(log.visit.provisional()) << "something to look at";
    EXPECT_EQ(log.reading("run", 67.96), "");
    EXPECT_EQ(log.visit.next_step(), step::lung_gas);
    EXPECT_FALSE(log.visit.result()) << "the lung gas is part of the result";
    EXPECT_EQ(log.add("lung_gas", {{"route", "predicted"}, {"equation", "mccrory_1998"}}), "");
    EXPECT_EQ(log.visit.next_step(), step::result);
    const auto r = log.visit.result();
    ASSERT_TRUE(r);
    displacement::Input by_hand;
    by_hand.sex = Sex::male;
    by_hand.age_y = log.visit.age_y();
    by_hand.height_cm = 178;
    by_hand.mass_kg = 75;
    by_hand.raw_volumes_l = {67.90, 67.96};
    EXPECT_NEAR(
        (*r)[quantity::fat_percent].value, (*displacement::compute(by_hand))[quantity::fat_percent].value, 1e-6);
    EXPECT_EQ(log.add("finished"), "");

    bench::Visit again;
    for (const auto& e : log.events) ASSERT_FALSE(again.apply(e));
    for (std::size_t k = 0; k < r->values.size(); ++k) {
        EXPECT_EQ(again.result()->values[k].value, r->values[k].value) << r->values[k].quantity->id;
        EXPECT_EQ(again.result()->values[k].u, r->values[k].u) << r->values[k].quantity->id;
    }
}

TEST(ChamberVisit, WhatWasLeftOutStandsBesideTheResult)
{
    Log log;
    log.until_chamber();
    EXPECT_EQ(log.add("prepared", {{"seen", {"told about the chamber"}},
                                      {"left_out", {"hair outside the cap: % fat reads about 2.3 too low"}}}),
        "");
    EXPECT_EQ(log.add("prepared", {{"seen", Json::array()}}), "missing_field");
    log.reading("empty", 0);
    log.reading("cylinder", 50.012);
    for (double litres : {67.90, 67.96}) log.reading("run", litres);
    log.add("lung_gas", {{"route", "predicted"}, {"equation", "mccrory_1998"}});
    const auto r = log.visit.result();
    ASSERT_TRUE(r);
    ASSERT_EQ(r.messages().size(), 1u);
    EXPECT_EQ(r.messages()[0].code, "left_out");
    EXPECT_NE(r.messages()[0].text.find("hair outside the cap"), std::string::npos);
}

TEST(ChamberVisit, RunsThatDisagreeAskForAThirdAndThenForAFreshStart)
{
    Log log;
    log.until_runs();
    for (double litres : {68.0, 68.4}) EXPECT_EQ(log.reading("run", litres), "");
    EXPECT_EQ(log.visit.next_step(), step::runs);
    EXPECT_EQ(log.reading("run", 68.8), "");
    EXPECT_EQ(log.reading("run", 68.8), "not_now") << "no fourth run: the calibration is doubted";
    EXPECT_EQ(log.reading("empty", 0), "");
    EXPECT_EQ(log.visit.next_step(), step::calibrate) << "a new calibration has begun";
    EXPECT_TRUE(log.visit.readings().empty());
    EXPECT_EQ(log.reading("cylinder", 50.012), "");
    EXPECT_TRUE(log.visit.readings().empty()) << "runs of the old calibration do not count";
    for (double litres : {68.0, 68.1}) EXPECT_EQ(log.reading("run", litres), "");
    EXPECT_EQ(log.visit.next_step(), step::lung_gas);
    EXPECT_EQ(log.visit.trials.size(), 9u) << "and all of it stays in the log";
}

TEST(ChamberVisit, WhatIsRefusedAndWhy)
{
    struct Row {
        const char* what;
        std::string (*act)(Log&);
        const char* code;
    };
    const Row rows[] = {
        {"cylinder mistyped",
            [](Log& l) {
                return l.add("cylinder", {{"l", 20.5}});
            },
            "cylinder_differs"},
        {"digits changed round",
            [](Log& l) {
                return l.add("cylinder", {{"l", 51.002}});
            },
            "cylinder_differs"},
        {"cylinder in millilitres",
            [](Log& l) {
                return l.add("cylinder", {{"l", 50012.0}});
            },
            "out_of_range"},
        {"register and cylinder both wrong",
            [](Log& l) {
                l.visit.instrument_reference = 0;
                l.add("cylinder", {{"l", 20.5}});
                l.reading("empty", 0);
                return l.reading("cylinder", 50.012);
            },
            "calibration_failed"},
        {"no cylinder in the chamber",
            [](Log& l) {
                l.reading("empty", 0);
                return l.reading("cylinder", 0);
            },
            "calibration_failed"},
        {"calibrated too long ago",
            [](Log& l) {
                l.reading("empty", 0);
                l.reading("cylinder", 50.012);
                l.minute += 16;
                return l.reading("run", 68);
            },
            "calibration_stale"},
        {"gone on with an hour later",
            [](Log& l) {
                l.reading("empty", 0);
                l.reading("cylinder", 50.012);
                l.reading("run", 68);
                l.minute += 35;
                return l.reading("run", 68);
            },
            "calibration_stale"},
        {"a volume nobody has",
            [](Log& l) {
                l.reading("empty", 0);
                l.reading("cylinder", 50.012);
                return l.reading("run", 2);
            },
            "out_of_range"},
        {"trial of the tank",
            [](Log& l) {
                return l.add("trial_begun", {{"what", "weighing"}});
            },
            "not_now"},
        {"trial of nothing", [](Log& l) { return l.add("trial_begun"); }, "not_now"},
        {"a reading without a ratio",
            [](Log& l) {
                l.add("trial_begun", {{"what", "empty"}});
                return l.add("trial_taken", {{"kg", 2.4}});
            },
            "missing_field"},
        {"puffs before a run",
            [](Log& l) {
                l.reading("empty", 0);
                l.reading("cylinder", 50.012);
                return l.puffs(3.4);
            },
            "not_now"},
        {"measured gas that was not",
            [](Log& l) {
                return l.add("lung_gas", {{"route", "measured"}});
            },
            "missing_field"},
        {"a choice of the tank",
            [](Log& l) {
                return l.add("choice", {{"what", "trial_rule"}, {"to", "mean_all"}});
            },
            "unknown_choice"},
        {"a run in a visit to the tank",
            [](Log& l) {
                l = Log();
                l.add("started", {{"client_id", 3}, {"birth_date", "1996-05-02"}, {"height_cm", 178.0}});
                return l.add("trial_begun", {{"what", "run"}});
            },
            "not_now"},
        {"a method without a bench",
            [](Log& l) {
                l = Log();
                return l.add("started",
                    {{"method", "hair_length"}, {"client_id", 3}, {"birth_date", "1996-05-02"}, {"height_cm", 178.0}});
            },
            "unknown_choice"},
    };
    for (const Row& row : rows) {
        Log log;
        log.until_chamber();
        EXPECT_EQ(row.act(log), row.code) << row.what;
    }
}

TEST(ChamberVisit, MeasuredLungGasCountsWhenItsPuffsDo)
{
    Log log;
    log.until_runs();
    for (double litres : {67.90, 67.96}) log.reading("run", litres);
    EXPECT_EQ(log.puffs(3.41, 1.2), "puffs_refused");
    EXPECT_EQ(log.add("trial_thrown_out", {{"number", 5}, {"reason", "cheeks"}}), "");
    EXPECT_EQ(log.puffs(3.41, 0.5, 36), "puffs_refused");
    EXPECT_EQ(log.add("trial_thrown_out", {{"number", 6}, {"reason", "too hard"}}), "");
    EXPECT_EQ(log.puffs(3.41), "");
    ASSERT_TRUE(bench::chamber_of(log.visit).measured_gas(log.visit));
    EXPECT_NEAR(bench::chamber_of(log.visit).measured_gas(log.visit)->litres, 3.41, 0.005);
    EXPECT_EQ(log.add("lung_gas", {{"route", "measured"}, {"equation", "mccrory_1998"}}), "");
    const double measured = (*log.visit.result())[quantity::thoracic_gas_volume].value;
    EXPECT_NEAR(measured, 3.41, 0.005);
    EXPECT_EQ(log.add("choice", {{"what", "gas_route"}, {"to", "predicted"}}), "");
    EXPECT_GT((*log.visit.result())[quantity::thoracic_gas_volume].value, 3.9);
    EXPECT_EQ(log.add("choice", {{"what", "gas_route"}, {"to", "measured"}}), "");
    EXPECT_EQ((*log.visit.result())[quantity::thoracic_gas_volume].value, measured);
    EXPECT_EQ(log.visit.choices.size(), 2u);
    const auto says = [&](const char* code) {
        const auto all = log.visit.result().messages();
        return std::any_of(all.begin(), all.end(), [&](const Message& m) { return m.code == code; });
    };
    EXPECT_FALSE(says("lung_gas_lost"));
    EXPECT_FALSE(says("mass_drifted"));
    // the puffs go: the number falls back to the prediction, and says so
    EXPECT_EQ(log.add("trial_thrown_out", {{"number", 7}, {"reason", "the tube was loose"}}), "");
    EXPECT_GT((*log.visit.result())[quantity::thoracic_gas_volume].value, 3.9);
    EXPECT_TRUE(says("lung_gas_lost"));
    EXPECT_EQ(bench::chamber_of(log.visit).gas_route_used(log.visit), displacement::LungRoute::predicted);
    // weighed again after the chamber
    EXPECT_EQ(log.add("mass", {{"kg", *log.visit.mass_kg + 0.2}}), "");
    EXPECT_TRUE(says("mass_drifted"));
}

namespace {

/// The virtual chamber on its line, as the link hears it.
struct Line {
    explicit Line(std::uint64_t seed) : chamber(seed) {}
    virt::Chamber chamber;
    bench::LineDecoder decoder;
    bench::ChamberTake take;
    double t_s = 0;

    void listen(double seconds)
    {
        for (const double until = t_s + seconds; t_s < until;) {
            const std::string bytes = chamber.advance_to(t_s += 0.05);
            std::vector<bench::Reading> readings;
            decoder.feed({bytes.data(), bytes.size()}, readings);
            for (const bench::Reading& r : readings) take.feed(r);
        }
    }
    chamber::State record(const char* direction, What what, const chamber::Options& options = {})
    {
        if (*direction) chamber.direct(direction);
        listen(6);
        EXPECT_FALSE(take.now().door_open) << direction;
        take.begin(what, options);
        listen(bench::chamber_run_s + 0.5);
        const chamber::State state = take.now().state;
        EXPECT_TRUE(take.now().complete || state.fault != chamber::Fault::none);
        take.end();
        return state;
    }
};

} // namespace

TEST(ChamberLine, AWholeTestOverTheLineFindsTheTruth)
{
    for (std::uint64_t seed = 1; seed <= 3; ++seed) {
        Line line(seed);
        line.chamber.direct("client sex=male age=30 height=178 fat=14 ffm=62 frc=3.2");
        const auto c = chamber::calibrate(line.record("chamber_empty", What::empty),
            line.record("chamber_cylinder", What::cylinder), virt::chamber_cylinder_l);
        ASSERT_TRUE(c);
        const auto run = line.record("chamber_client", What::run, chamber::options_of(*c));
        ASSERT_EQ(run.fault, chamber::Fault::none) << chamber::row(run.fault).code;
        const auto r = chamber::reading_of(*run.ratio, *c);
        EXPECT_NEAR(r.volume_l, line.chamber.body().raw_volume_l(), 3 * r.u_l);
        const auto rows = line.take.rows();
        EXPECT_EQ(rows.columns, bench::chamber_columns);
        EXPECT_NEAR(static_cast<double>(rows.size()), 80 * bench::chamber_run_s, 5) << "and every row of it is kept";

        // puffs against the shut valve
        line.chamber.direct("tube");
        line.listen(1);
        line.take.begin(What::puffs, chamber::options_of(*c));
        line.listen(4);
        line.chamber.direct("valve");
        line.listen(6);
        EXPECT_TRUE(line.take.now().complete);
        EXPECT_EQ(line.take.now().puffs.complaint, "");
        EXPECT_NEAR(lung::boyle_gas_l(line.take.now().puffs.slope, c->a_l - r.volume_l, 100900.0),
            line.chamber.air().valve_closed_lungs_l(), 0.12);
    }
}

TEST(ChamberLine, FaultsEndInAClearState)
{
    struct Row {
        const char *direction, *fault_or_broken;
    };
    const Row rows[] = {{"fault door_leaks on", "leak"}, {"fault client_coughs on", "moved"},
        {"fault client_moves on", "moved"}, {"fault room_door on", "pressure_step"},
        {"fault draught on", "pressure_step"}, {"fault clipped on", "clipped"}, {"release", "the door was opened"},
        {"fault dropouts on", ""}, {"fault garbage on", ""}};
    for (const Row& row : rows) {
        Line line(4);
        line.chamber.direct("client sex=female age=31 height=171 fat=14.6 ffm=53.8");
        const auto c = chamber::calibrate(line.record("chamber_empty", What::empty),
            line.record("chamber_cylinder", What::cylinder), virt::chamber_cylinder_l);
        ASSERT_TRUE(c);
        line.chamber.direct("chamber_client");
        line.listen(6);
        const std::string direction = row.direction;
        const bool from_the_start =
            direction == "fault clipped on" || direction == "fault door_leaks on"; // how the run began
        if (from_the_start) line.chamber.direct(row.direction);
        line.take.begin(What::run, chamber::options_of(*c));
        line.listen(5);
        if (!from_the_start) line.chamber.direct(row.direction);
        line.listen(bench::chamber_run_s);
        const std::string found =
            line.take.broken().empty() ? chamber::row(line.take.now().state.fault).code : line.take.broken();
        EXPECT_EQ(found, row.fault_or_broken) << row.direction;
    }
    EXPECT_TRUE(virt::Chamber(1).direct("fault sleepiness on").starts_with("error"));
    EXPECT_TRUE(virt::Chamber(1).direct("sing").starts_with("error"));
}

TEST(ChamberLine, TheTwoPressuresOfAMomentBelongTogether)
{
    bench::ChamberTake take;
    const auto say = [&](Channel c, double t, double value) { take.feed({c, 0, t, value, true, false}); };
    EXPECT_TRUE(take.now().door_open) << "until the switch says otherwise";
    say(Channel::door, 0, 0);
    EXPECT_FALSE(take.now().door_open);
    take.begin(What::run, {});
    say(Channel::test_pressure, 1.000, 10);
    say(Channel::reference_pressure, 1.000, -12);
    say(Channel::reference_pressure, 1.0125, -13); // its partner was lost
    say(Channel::test_pressure, 1.025, 11);        // and this one's comes for another moment
    say(Channel::reference_pressure, 1.0375, -14);
    say(Channel::test_pressure, 1.05, 12);
    say(Channel::reference_pressure, 1.05, -15);
    const bench::Signal rows = take.rows();
    ASSERT_EQ(rows.size(), 2u);
    EXPECT_EQ(rows.at(0, 0), 0) << "time begins with the first sample";
    EXPECT_NEAR(rows.at(1, 0), 0.05, 1e-12);
    EXPECT_EQ(rows.at(1, 1), 12);
    EXPECT_EQ(rows.at(1, 2), -15);
    EXPECT_TRUE(take.rows().empty()) << "handed over once";
    EXPECT_EQ(take.broken(), "");

    for (const double t : {1.6, 0.2}) { // a hole; a clock that runs backwards
        take.begin(What::run, {});
        for (const double at : {1.0, t}) {
            say(Channel::test_pressure, at, 10);
            say(Channel::reference_pressure, at, -12);
        }
        EXPECT_EQ(take.broken(), "the signal had a gap") << t;
    }
    take.lost(Channel::reference_pressure, bench::Loss::silent);
    EXPECT_TRUE(take.now().door_open && !take.now().connected);
}

TEST(ChamberVisit, ACalibrationDatedInTheFutureProvesNothing)
{
    Log log;
    log.until_runs();
    EXPECT_EQ(log.add("trial_begun", {{"what", "run"}}), "") << "right after it";
    log.add("trial_broken", {{"number", static_cast<int>(log.visit.trials.size())}, {"reason", "the door was opened"}});
    log.minute -= 19; // the clock was set back
    EXPECT_EQ(log.add("trial_begun", {{"what", "run"}}), "calibration_stale");
}
