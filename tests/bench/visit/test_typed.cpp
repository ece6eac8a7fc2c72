// SPDX-License-Identifier: GPL-3.0-or-later
// Both methods without an instrument on a line: what is typed, how it counts, and what is refused.
#include "bench/base/fields.h"
#include "bench/chamber/chamber.h"
#include "bench/tank/tank.h"

#include <gtest/gtest.h>

#include <cmath>

using namespace fusain;
using bench::Json;

namespace {

struct Log {
    bench::Visit visit;
    Message said; ///< of the last event that was refused

    std::string add(const char* kind, Json body = Json::object())
    {
        const auto why = visit.apply({visit.last_seq + 1, "2026-11-23T08:20:00.000Z", "M. Tanguy", kind, body.dump()});
        said = why.value_or(Message{});
        return said.code;
    }
    explicit Log(const char* method, Json house = Json::object())
    {
        add("started", {{"log", 2}, {"client_id", 3}, {"birth_date", "1995-05-02"}, {"sex", "female"},
                           {"height_cm", 171.0}, {"method", method}, {"house", std::move(house)}});
        add("identity", {{"cm", 171.0}});
        add("stops", {{"stop", Json::array()}});
        add("mass", {{"kg", 68.44}, {"source", "typed"}});
    }
};

Log at_the_tank(double zero_kg = 7.54, Json house = Json::object())
{
    Log log("hydrostatic", std::move(house));
    log.add("lungs", {{"route", "age_height"}, {"equation", "quanjer_1993"}});
    EXPECT_EQ(log.add("zero", {{"kg", zero_kg}, {"source", "typed"}}), "") << log.said.text;
    EXPECT_EQ(log.add("water", {{"c", 34.6}, {"source", "typed"}}), "");
    return log;
}

Log at_the_chamber()
{
    Log log("air_displacement");
    log.add("prepared", {{"seen", {"cap", "clothes", "dry", "talk", "button"}}});
    EXPECT_EQ(log.add("self_calibrated", {{"source", "typed"}}), "") << log.said.text;
    return log;
}

Json typed(Json body)
{
    body["source"] = "typed";
    if (!body.contains("what") && (body.contains("l") || body.contains("kg_per_l"))) body["what"] = "run";
    return body;
}

const StoryStep* step_of(const Result& r, const std::string& symbol)
{
    for (const StoryStep& s : r.story)
        if (s.symbol == symbol) return &s;
    return nullptr;
}

} // namespace

TEST(Typed, AWholeTestAtTheTank)
{
    Log log = at_the_tank();
    const double swings[][2] = {{9.70, 10.18}, {9.75, 10.17}, {9.90, 10.00}};
    for (const auto& [low, high] : swings)
        ASSERT_EQ(log.add("trial_typed", typed({{"low_kg", low}, {"high_kg", high}})), "") << log.said.text;
    ASSERT_EQ(log.add("trial_typed", typed({{"kg", 9.96}})), "") << log.said.text;
    const auto readings = log.visit.readings();
    ASSERT_EQ(readings.size(), 4u);
    EXPECT_NEAR(readings[0], 2.40, 1e-9) << "the middle of the swing, less the zero";
    EXPECT_NEAR(readings[3], 2.42, 1e-9);
    for (const auto& t : log.visit.trials) EXPECT_EQ(t.source, "typed");
    const auto r = log.visit.result();
    ASSERT_TRUE(r) << r.messages().front().text;
    EXPECT_EQ(step_of(*r, "M")->source, "typed");
    EXPECT_EQ(step_of(*r, "t_w")->source, "typed");
    EXPECT_EQ(step_of(*r, "W1")->source, "typed: middle of 9.7 kg and 10.18 kg, zero 7.54 kg");
    EXPECT_EQ(step_of(*r, "W4")->source, "typed: 9.96 kg, zero 7.54 kg");
    bool marked = false;
    for (const auto& share : r->budget(quantity::fat_percent).shares)
        if (share.input.symbol == "W_u") {
            marked = share.input.title.find("typed") != std::string_view::npos;
            // three that count: 0.05 each, the default zero and a zero read off a display
            EXPECT_NEAR(
                share.input.u, std::hypot(std::hypot(0.020, 0.05) / std::sqrt(3), 0.010, bench::typed_zero_kg), 1e-9);
        }
    EXPECT_TRUE(marked) << "the budget says what was typed";
    // the same by a line is surer, and the house may say better
    Log better = at_the_tank(7.54, {{"typed_swing_kg", "0.02"}});
    for (const auto& [low, high] : swings) better.add("trial_typed", typed({{"low_kg", low}, {"high_kg", high}}));
    EXPECT_LT((*better.visit.result())[quantity::fat_percent].u, (*r)[quantity::fat_percent].u);
    EXPECT_EQ(log.add("finished"), "");
}

TEST(Typed, WhatIsRefusedAtTheTankAndTheRestStays)
{
    const struct {
        const char* what;
        double zero_kg;
        Json body;
        const char *code, *words;
    } rows[] = {
        {"24.1 for 2.41", 0, {{"kg", 24.1}}, "out_of_range", "Was 2.41 kg meant?"},
        {"99.6 for 9.96", 7.54, {{"kg", 99.6}}, "out_of_range", "Was 9.96 kg meant?"},
        {"swapped", 7.54, {{"low_kg", 10.2}, {"high_kg", 9.7}}, "swapped", "swapped"},
        {"a digit too many", 7.54, {{"low_kg", 9.7}, {"high_kg", 12.1}}, "out_of_range", "swings by 2.4 kg"},
        {"grams", 7.54, {{"kg", 9960}}, "out_of_range", "9960 kg less the zero"},
        {"only the lowest", 7.54, {{"low_kg", 9.7}}, "missing_field", "lowest and the highest"},
        {"a word", 7.54, {{"kg", "ten"}}, "bad_event", "The field \"kg\" is \"ten\""},
        {"nobody says how it came", 7.54, {{"kg", 9.96}, {"source", "line"}}, "unknown_choice", "typed"},
        {"a file without a name", 7.54, {{"kg", 9.96}, {"source", "file"}}, "missing_field", "name of the file"},
        {"a file nobody can check", 7.54, {{"kg", 9.96}, {"source", "file"}, {"file", "t.csv"}, {"sha256", "12ab"}},
            "bad_digest", "64 hexadecimal"},
        {"of the chamber", 7.54, {{"kg", 9.96}, {"what", "run"}}, "not_now", "hydrostatic weighing"},
    };
    for (const auto& row : rows) {
        Log log = at_the_tank(row.zero_kg);
        log.add("trial_typed", typed({{"kg", row.zero_kg + 2.40}}));
        Json body = row.body.contains("source") ? row.body : typed(row.body);
        EXPECT_EQ(log.add("trial_typed", body), row.code) << row.what << ": " << log.said.text;
        EXPECT_NE(log.said.text.find(row.words), std::string::npos) << row.what << ": " << log.said.text;
        EXPECT_EQ(log.visit.readings().size(), 1u) << row.what;
    }
    Log before("hydrostatic");
    EXPECT_EQ(before.add("trial_typed", typed({{"kg", 9.96}})), "not_now") << "zero and water come first";
    EXPECT_EQ(before.add("zero", {{"kg", 7540}, {"source", "typed"}}), "out_of_range");
    EXPECT_NE(before.said.text.find("grams"), std::string::npos) << before.said.text;
}

TEST(Typed, WhereAReadingCameFromIsKept)
{
    Log log = at_the_tank();
    EXPECT_EQ(log.add("trial_typed",
                  {{"kg", 9.96}, {"source", "file"}, {"file", "trial.csv"}, {"sha256", std::string(64, 'a')}}),
        "")
        << log.said.text;
    EXPECT_EQ(log.visit.trials.back().source, "file");
    EXPECT_EQ(log.visit.trials.back().file, "trial.csv");

    const std::pair<Json, const char*> blows[] = {
        {{{"l", 3.9}}, "spirometer"}, {{{"l", 4.1}, {"source", "typed"}}, "typed"}};
    for (const auto& [best, from] : blows) {
        Log lungs = at_the_tank();
        for (double l : {3.7, 3.72}) lungs.add("blow", {{"l", l}, {"source", "typed"}});
        ASSERT_EQ(lungs.add("blow", best), "");
        ASSERT_EQ(
            lungs.add("lungs", {{"route", "vital_capacity"}, {"gas_temp_c", 22.0}, {"barometric_mmhg", 757.0}}), "")
            << lungs.said.text;
        for (double kg : {9.94, 9.95, 9.96}) lungs.add("trial_typed", typed({{"kg", kg}}));
        const auto r = lungs.visit.result();
        ASSERT_TRUE(r) << r.messages().front().text;
        EXPECT_EQ(step_of(*r, "VC")->source, from) << "of the blow that counts";
    }
}

TEST(Typed, AWholeTestInAChamberThatMeasuresByItself)
{
    Log log = at_the_chamber();
    EXPECT_EQ(log.visit.next_step(), bench::step::runs);
    ASSERT_EQ(log.add("trial_typed", typed({{"l", 64.30}})), "") << log.said.text;
    ASSERT_EQ(log.add("trial_typed", typed({{"l", 64.80}})), "");
    EXPECT_FALSE(log.visit.done(bench::step::runs)) << "the rule of agreement holds for typed runs too";
    ASSERT_EQ(log.add("trial_typed", typed({{"l", 64.36}})), "");
    EXPECT_EQ(log.visit.next_step(), bench::step::lung_gas);
    ASSERT_EQ(log.add("lung_gas", {{"route", "measured"}, {"l", 3.2}, {"source", "typed"}}), "") << log.said.text;
    const auto r = log.visit.result();
    ASSERT_TRUE(r) << r.messages().front().text;
    EXPECT_NEAR((*r)[quantity::raw_volume].value, 64.33, 1e-9);
    EXPECT_EQ((*r)[quantity::thoracic_gas_volume].value, 3.2);
    EXPECT_EQ(step_of(*r, "V_TG")->source, "typed: measured elsewhere");
    EXPECT_EQ(step_of(*r, "V1")->source, "typed: the chamber's own volume");
    // the same person by a line
    displacement::Input same;
    static_cast<densitometry::Person&>(same) = {Sex::female, log.visit.age_y(), 171, 68.44};
    same.raw_volumes_l = {64.30, 64.36};
    same.lung = {displacement::LungRoute::measured, 3.2, lung::measured_gas_error_l, lung::default_gas_id};
    EXPECT_EQ((*displacement::compute(same))[quantity::fat_percent].value, (*r)[quantity::fat_percent].value);
}

TEST(Typed, WhatTheChamberHasCorrectedForIsNotCorrectedAgain)
{
    Log raw = at_the_chamber();
    for (double l : {64.30, 64.36}) raw.add("trial_typed", typed({{"l", l}}));
    raw.add("lung_gas", {{"route", "predicted"}, {"equation", "mccrory_1998"}});
    const auto whole = raw.visit.result();
    ASSERT_TRUE(whole);
    const double volume = (*whole)[quantity::body_volume].value, mass = 68.44;
    const Json all = {"surface", "lung_gas"};
    const struct {
        const char* what;
        std::vector<Json> typed;
        bool gas_first; ///< the lung gas has still to be known
    } rows[] = {
        {"body volume, the chamber's mean", {{{"l", volume}, {"corrected", all}, {"mean", true}}}, false},
        {"body density", {{{"kg_per_l", mass / volume}, {"corrected", all}, {"mean", true}}}, false},
        {"two runs, both corrected",
            {{{"l", volume - 0.02}, {"corrected", all}}, {{"l", volume + 0.02}, {"corrected", all}}}, false},
        {"only the skin",
            {{{"l", 64.33 - (*whole)[quantity::surface_area_artifact].value}, {"corrected", {"surface"}},
                {"mean", true}}},
            true},
    };
    for (const auto& row : rows) {
        Log log = at_the_chamber();
        for (const Json& body : row.typed)
            ASSERT_EQ(log.add("trial_typed", typed(body)), "") << row.what << log.said.text;
        EXPECT_EQ(log.visit.next_step() == bench::step::lung_gas, row.gas_first) << row.what;
        if (row.gas_first) log.add("lung_gas", {{"route", "predicted"}, {"equation", "mccrory_1998"}});
        const auto r = log.visit.result();
        ASSERT_TRUE(r) << row.what << r.messages().front().text;
        EXPECT_NEAR((*r)[quantity::body_volume].value, volume, 1e-9) << row.what;
        EXPECT_NEAR((*r)[quantity::fat_percent].value, (*whole)[quantity::fat_percent].value, 1e-7) << row.what;
        // what is not known here is no less doubtful for being done elsewhere
        EXPECT_GE((*r)[quantity::fat_percent].u, 0.95 * (*whole)[quantity::fat_percent].u) << row.what;
        bool told = false;
        for (const Message& m : r.messages()) told |= m.code == "agreement_unknown";
        EXPECT_EQ(told, row.typed.front().contains("mean")) << row.what;
    }
}

TEST(Typed, WhatIsRefusedInTheChamberAndTheRestStays)
{
    const Json all = {"surface", "lung_gas"};
    const struct {
        const char* what;
        Json body;
        const char *code, *words;
    } rows[] = {
        {"millilitres", {{"l", 64300}}, "out_of_range", "millilitres"},
        {"a digit", {{"l", 46.30}}, "out_of_range", "density of 1.478"},
        {"another density", {{"kg_per_l", 10.53}}, "out_of_range", "10.53"},
        {"nothing", {{"what", "run"}}, "missing_field", "missing"},
        {"corrected unlike the first", {{"l", 64.36}, {"corrected", all}}, "corrected_differs", "other things"},
        {"a mean beside a run", {{"l", 64.36}, {"mean", true}}, "not_now", "by itself"},
        {"the cylinder", {{"l", 50.0}, {"what", "cylinder"}}, "not_now", "own"},
    };
    for (const auto& row : rows) {
        Log log = at_the_chamber();
        log.add("trial_typed", typed({{"l", 64.30}}));
        EXPECT_EQ(log.add("trial_typed", typed(row.body)), row.code) << row.what << ": " << log.said.text;
        EXPECT_NE(log.said.text.find(row.words), std::string::npos) << row.what << ": " << log.said.text;
        EXPECT_EQ(log.visit.readings().size(), 1u) << row.what;
    }
    Log before("air_displacement");
    before.add("prepared", {{"seen", {"cap", "clothes", "dry", "talk", "button"}}});
    EXPECT_EQ(before.add("trial_typed", typed({{"l", 64.30}})), "not_now") << "whose calibration?";
    Log mixed = at_the_chamber();
    mixed.add("trial_typed", typed({{"l", 64.30}}));
    EXPECT_EQ(mixed.add("trial_begun", {{"what", "run"}}), "not_now") << "no run of a line beside typed ones";
    EXPECT_EQ(mixed.add("lung_gas", {{"route", "measured"}}), "missing_field") << "nobody has puffed";
    EXPECT_EQ(mixed.add("trial_begun", {{"what", "empty"}}), "");
    EXPECT_EQ(mixed.add("trial_taken", {{"ratio", 1.5}, {"u_ratio", 3e-5}, {"phase_rad", 3.14159}}), "");
    EXPECT_FALSE(mixed.visit.done(bench::step::calibrate)) << "calibrated here from now on";
    EXPECT_TRUE(mixed.visit.readings().empty()) << "what was typed before does not count with it";
    Log again = at_the_chamber();
    again.add("trial_typed", typed({{"l", 64.30}}));
    again.add("self_calibrated");
    EXPECT_TRUE(again.visit.readings().empty()) << "runs count since the newest calibration";
}
