// SPDX-License-Identifier: GPL-3.0-or-later
// What a body needs, what a plan takes and refuses, compartments of one day, folds, precision and change: against
// published checks, and against what must hold for any body.
#include "core/body/told.h"
#include "core/body/compartments.h"
#include "core/body/group.h"
#include "core/body/plan.h"
#include "core/body/possible.h"
#include "core/folds/skinfolds.h"
#include "core/quality/precision.h"
#include "core/telling/telling.h"
#include "core/time/change.h"
#include "core/time/repeatability.h"

#include <gtest/gtest.h>

#include <map>
#include <set>

#include <cmath>

using namespace fusain;

namespace {

energy::Body woman() { return {Sex::female, 34, 168, 26, 48}; }

plan::Input to(double fat_percent, int weeks, const energy::Body& body = woman())
{
    plan::Input in;
    in.body = body;
    in.target = fat_percent;
    in.weeks = weeks;
    return in;
}

std::string code(const Messages& m) { return m.empty() ? "" : m.back().code; }

} // namespace

TEST(Energy, EverySchoolAndACautiousDay)
{
    energy::Input in;
    in.body = {Sex::male, 30, 178, 16.2, 58.8};
    in.activity_level = 1.6;
    const auto r = energy::compute(in);
    ASSERT_TRUE(r);
    EXPECT_NEAR((*r)[quantity::resting].value, 370 + 21.6 * 58.8, 1e-9);
    EXPECT_NEAR((*r)[quantity::resting_by[0]].value, 10 * 75 + 6.25 * 178 - 150 + 5, 1e-9);
    EXPECT_NEAR((*r)[quantity::resting_by[3]].value, 25.8 * 58.8 + 4.04 * 16.2, 1e-9);
    const double daily = 1.6 * (*r)[quantity::resting].value;
    EXPECT_NEAR((*r)[quantity::deficit].value, 0.15 * daily, 1e-9);
    EXPECT_NEAR((*r)[quantity::deficit_intake].value, daily - 0.075 * daily, 1e-9) << "half of it is movement";
    EXPECT_NEAR((*r)[quantity::protein_low].value, 1.6 * 58.8, 1e-9) << "of fat-free mass, however much fat there is";
    EXPECT_NEAR((*r)[quantity::protein_high].value, 2.2 * 58.8, 1e-9);
    EXPECT_FALSE(r->find(*(std::end(quantity::resting_by) - 1))) << "Schofield's is for minors";
    in.activity_level = 2.6;
    EXPECT_EQ(energy::compute(in).messages().front().field, "energy.activity_level");
}

TEST(Energy, WhatMustNotBeSaidIsNotSaid)
{
    const energy::Body well{Sex::female, 30, 168, 20, 48};
    struct Row {
        const char* code; ///< last message; empty: none
        energy::Body body;
        energy::Facts facts;
        double activity;
        bool deficit, surplus, protein;
    };
    const Row rows[] = {
        {"", well, {}, 1.6, true, true, true},
        {"no_plan_pregnant", well, {true, false, false}, 1.6, false, false, true},
        {"no_plan_eating_disorder", well, {false, true, false}, 1.6, false, false, true},
        {"no_protein_kidney", well, {false, false, true}, 1.6, true, true, false},
        {"no_plan_low", {Sex::female, 30, 168, 10, 42}, {}, 1.6, false, true, true}, // BMI 18.4
        {"no_plan_low", {Sex::female, 30, 168, 6, 48}, {}, 1.6, false, true, true},  // 11.1 % fat
        {"no_plan_low", {Sex::female, 70, 168, 18, 44}, {}, 1.6, false, true, true}, // BMI 21.97 from 70 years
        {"", {Sex::female, 69.9, 168, 18, 44}, {}, 1.6, true, true, true},
        {"under_floor", {Sex::female, 30, 150, 18, 30}, {}, 1.25, false, true, true}, // 1 173 kcal would be left
        {"no_plan_minor", {Sex::female, 17.9, 168, 20, 48}, {}, 1.6, false, false, true},
    };
    for (const Row& row : rows) {
        const auto r = energy::compute({row.body, row.activity, "", row.facts});
        ASSERT_TRUE(r) << row.code;
        EXPECT_EQ(code(r.messages()), row.code);
        EXPECT_EQ(r->find(quantity::deficit) && r->find(quantity::deficit_intake), row.deficit) << row.code;
        EXPECT_EQ(r->find(quantity::surplus_intake) != nullptr, row.surplus) << row.code;
        EXPECT_EQ(r->find(quantity::protein_low) && r->find(quantity::protein_high), row.protein) << row.code;
    }
}

TEST(Energy, MinorsAreReckonedByTheirOwnEquation)
{
    struct Row {
        Sex sex;
        double age_y, kcal; ///< of 30 kg, by hand
    };
    for (const Row& row : {Row{Sex::male, 8, 22.706 * 30 + 504.3}, Row{Sex::male, 10, 17.686 * 30 + 658.2},
             Row{Sex::female, 9.99, 20.315 * 30 + 485.9}, Row{Sex::female, 17.9, 13.384 * 30 + 692.6}}) {
        const auto r = energy::compute({{row.sex, row.age_y, 140, 5, 25}, 1.6, "", {}});
        ASSERT_TRUE(r);
        EXPECT_NEAR((*r)[quantity::resting].value, row.kcal, 1e-9);
    }
    const auto chosen = energy::compute({{Sex::male, 12, 140, 5, 25}, 1.6, energy::default_school, {}});
    EXPECT_EQ(code(chosen.messages()), "outside_group") << "an adults' equation, chosen by name";
    EXPECT_EQ(code(energy::compute({{Sex::male, 18, 178, 16, 58}, 1.6, energy::minors_school, {}}).messages()),
        "unknown_choice");
}

TEST(Plan, TheModelComesToRestWhereItShould)
{
    plan::Input in = to(30, 8);
    const double daily = in.activity_level * energy::find(energy::default_school)->kcal(in.body);
    // 24 kcal a day for good end, after years, in about a kilogram
    const auto years = plan::at_intake(in, daily + 24, 10 * 365);
    EXPECT_NEAR(years.back().mass_kg() - in.body.mass_kg(), 1, 0.25);
    const double half = years[365].mass_kg() - in.body.mass_kg(), all = years.back().mass_kg() - in.body.mass_kg();
    EXPECT_NEAR(half / all, 0.5, 0.15) << "half of it in a year";
    EXPECT_NEAR(plan::at_intake(in, daily, 400).back().mass_kg(), in.body.mass_kg(), 1e-9)
        << "nothing changes by itself";
    for (const plan::Lean& lean : plan::leans) {
        in.lean = lean.id;
        const auto days = plan::at_intake(in, daily - 400, 84);
        EXPECT_LT(days.back().fat_kg, in.body.fat_kg);
        EXPECT_EQ(days.back().fat_free_kg == in.body.fat_free_kg, lean.share_lost == 0) << lean.id;
    }
}

TEST(Plan, ArrivesWhereItSaidAndRefusesWhatIsNotSafe)
{
    const plan::Input in = to(33, 20);
    const auto r = plan::compute(in);
    ASSERT_TRUE(r && r.messages().empty()) << code(r.messages());
    const double fat = (*r)[quantity::arrive_fat].value, lean = (*r)[quantity::arrive_fat_free].value;
    EXPECT_NEAR(100 * fat / (fat + lean), 33, 1e-6);
    EXPECT_NEAR((*r)[quantity::target_mass].value, 48 / 0.67, 1e-9);
    EXPECT_LT((*r)[quantity::pace].value, 0);
    EXPECT_GT((*r)[quantity::static_intake].value, 0);
    EXPECT_LE((*r)[quantity::earliest_weeks].value, 20);
    const int earliest = static_cast<int>((*r)[quantity::earliest_weeks].value);
    EXPECT_TRUE(plan::compute(to(33, earliest)).messages().empty()) << "the earliest is safe";
    EXPECT_FALSE(plan::compute(to(33, earliest - 1)).messages().empty()) << "and nothing sooner";

    struct Row {
        const char* code;
        plan::Input in;
    };
    plan::Input minor = to(33, 20), pregnant = to(33, 20), quick = to(33, 3);
    quick.activity_level = 2.3;
    quick.lean = "kept";
    minor.body.age_y = 17.9;
    pregnant.facts.pregnant = true;
    for (const Row& row : {Row{"no_plan_minor", minor}, Row{"no_plan_pregnant", pregnant},
             Row{"target_under_healthy", to(20.9, 100)}, Row{"too_fast", quick}}) {
        const auto refused = plan::compute(row.in);
        EXPECT_EQ(code(refused.messages()), row.code);
        EXPECT_EQ(std::string(refused.status()), "refused");
        EXPECT_TRUE(!refused || !refused->find(quantity::intake)) << "never an intake with " << row.code;
    }
    plan::Input strong = to(20.9, 100);
    strong.body.fat_free_kg = 60;
    EXPECT_NEAR((*plan::compute(strong))[quantity::nearest_fat_percent].value, 21, 1e-12);
    EXPECT_EQ(code(plan::compute(to(21, 100)).messages()), "arrival_too_low") << "the edge itself may be too low";
    EXPECT_EQ((*plan::compute(to(20.9, 100)))[quantity::nearest_fat_percent].value,
        (*plan::compute(to(21, 100)))[quantity::nearest_fat_percent].value);
    EXPECT_NE(code(plan::compute(to(21, 100)).messages()), "target_under_healthy") << "its very edge is allowed";
    plan::Input still = to(31, 10);
    still.activity_level = 1.3; // a day hardly over rest
    EXPECT_EQ(code(plan::compute(still).messages()), "under_resting");
    plan::Input old = to(33, 30);
    old.body.age_y = 86;
    EXPECT_EQ(plan::compute(old).messages().front().code, "range_extended");
    plan::Input gain = to(36.5, 30);
    gain.body.fat_kg = 24;
    ASSERT_TRUE(plan::compute(gain).messages().empty()) << code(plan::compute(gain).messages());
    EXPECT_GT((*plan::compute(gain))[quantity::pace].value, 0);
    gain.weeks = 2;
    EXPECT_EQ(code(plan::compute(gain).messages()), "too_fast");
}

TEST(Plan, NobodyIsLedIntoABodyThatIsTooLow)
{
    const auto plan_for = [](Sex sex, double age_y, double height_cm, double fat, double lean, double target, int weeks,
                              double activity = 1.6, const char* lean_school = "forbes", const char* school = "") {
        plan::Input in;
        in.body = {sex, age_y, height_cm, fat, lean};
        in.target = target;
        in.weeks = weeks;
        in.activity_level = activity;
        in.lean = lean_school;
        in.school = school;
        return in;
    };
    struct Row {
        const char* code;
        plan::Input in;
    };
    const Row rows[] = {
        {"arrival_too_low", plan_for(Sex::female, 30, 165, 15.5, 36.2, 21, 60)}, // would arrive at BMI 13.4
        {"no_plan_low", plan_for(Sex::male, 85, 170, 15, 47.4, 18, 40)},         // from BMI 21.6
        {"no_plan_low", plan_for(Sex::female, 30, 170, 10, 43.4, 18, 30)},       // begun at BMI 18.48
        {"no_plan_low", plan_for(Sex::male, 30, 178, 3.9, 75, 4.5, 30)},         // begun at 4.9 %
        {"arrival_too_low", plan_for(Sex::male, 30, 178, 25, 54, 25, 30)},       // fat-free index would pass 16.7
        {"not_reached", plan_for(Sex::female, 40, 148, 18, 27, 38, 60, 1.25)},   // the day needs less than the floor
        {"under_floor", plan_for(Sex::female, 48.8, 144.7, 17.45, 34.08, 30, 13, 1.53, "kept", "mifflin_1990")},
    };
    for (const Row& row : rows) {
        const auto r = plan::compute(row.in);
        EXPECT_EQ(code(r.messages()), row.code);
        EXPECT_FALSE(r && r->find(quantity::intake)) << row.code;
        if (std::string(row.code) == "no_plan_low") {
            EXPECT_TRUE(r && r->values.empty());
            continue;
        }
        // where it sends somebody is safe itself, if anything is
        plan::Input nearest = row.in;
        nearest.target = (*r)[quantity::nearest_fat_percent].value + 0.05;
        nearest.weeks = 156;
        if (nearest.target < row.in.body.fat_percent())
            EXPECT_TRUE(plan::compute(nearest).status() == std::string_view("ok")) << row.code << ' ' << nearest.target;
    }
    const auto there = plan::compute(plan_for(Sex::female, 30, 165, 26, 44, 33, 40));
    ASSERT_TRUE(there && there->find(quantity::intake)) << code(there.messages());
    const double h2 = 1.65 * 1.65, fat = (*there)[quantity::arrive_fat].value,
                 lean = (*there)[quantity::arrive_fat_free].value;
    EXPECT_NEAR((*there)[quantity::arrive_bmi].value, (fat + lean) / h2, 1e-9);
    EXPECT_NEAR((*there)[quantity::arrive_ffmi].value, lean / h2, 1e-9);
    EXPECT_GE((*there)[quantity::intake].value, (*there)[quantity::floor_intake].value);
    EXPECT_NEAR((*there)[quantity::floor_intake].value, 370 + 21.6 * 44, 1e-9) << "resting, where that is more";
}

TEST(Plan, TrainingBuildsMoreThanNoTraining)
{
    plan::Input gain;
    gain.body = {Sex::male, 30, 180, 12, 58};
    std::map<std::string, double> built;
    for (const plan::Lean& lean : plan::leans) {
        gain.lean = lean.id;
        built[lean.id] = plan::at_intake(gain, 3200, 84).back().fat_free_kg - gain.body.fat_free_kg;
    }
    EXPECT_GT(built["half_forbes"], 1.5 * built["forbes"]) << "twice of what Forbes gives, of a little less fat";
    EXPECT_GT(built["forbes"], 0);
    EXPECT_EQ(built["kept"], 0);
}

TEST(Possible, NumbersThatNoBodyHasAreNoResult)
{
    struct Row {
        double percent, lean, water;
        const char* code;
    };
    for (const Row& row : {Row{0, 60, 0, ""}, Row{-0.1, 60, 0, "not_a_body"}, Row{75, 60, 0, ""},
             Row{75.1, 60, 0, "not_a_body"}, Row{NAN, 60, 0, "not_a_body"}, Row{20, 60, 43.8, ""},
             Row{20, 60, 35.9, "not_a_body"}, Row{20, 60, 51.1, "not_a_body"}}) {
        Result r;
        r.values = {{&quantity::fat_percent, row.percent, 0, 0}, {&quantity::fat_free_mass, row.lean, 0, 0}};
        const auto why = possible::not_a_body(r, row.water > 0 ? std::optional(row.water) : std::nullopt);
        EXPECT_EQ(why ? why->code : "", row.code) << row.percent << ' ' << row.water;
    }
}

TEST(Skinfolds, PastTheParabolasTurnNothingIsRead)
{
    skinfolds::Input in;
    in.sex = Sex::female;
    in.age_y = 30;
    in.height_cm = 165;
    in.mass_kg = 110;
    in.equation = "jackson_pollock_ward_1980_3";
    in.skinfolds_mm = {{"triceps", 71}, {"suprailiac", 72}, {"thigh", 72.8}}; // 215.8 of 215.85 mm
    EXPECT_TRUE(skinfolds::compute(in));
    in.skinfolds_mm["thigh"] = 73;
    const auto thick = skinfolds::compute(in);
    EXPECT_EQ(code(thick.messages()), "out_of_range");
    EXPECT_EQ(thick.messages().back().field, "callipers_and_tape.skinfolds_mm");
    in.mass_kg = 60;
    in.skinfolds_mm = {{"triceps", 1.4}, {"suprailiac", 1.2}, {"thigh", 2.1}};
    const auto small = skinfolds::compute(in);
    ASSERT_TRUE(small);
    std::set<std::string> codes;
    for (const Message& m : small.messages()) codes.insert(m.code);
    EXPECT_TRUE(codes.count("folds_in_centimetres") && codes.count("under_minimum"));
}

TEST(Compartments, OnePersonByEveryEquation)
{
    compartments::Input in;
    in.sex = Sex::male;
    in.age_y = 30;
    in.height_cm = 178;
    in.mass_kg = 75;
    in.volume_l = 75 / 1.062;
    in.water_kg = 45.5;
    in.bone_kg = 2.95;
    for (const auto& [id, percent] :
        {std::pair{"siri_3c_water", 16.7}, {"fuller_1992", 16.3}, {"withers_1998", 16.7}, {"wang_2002", 15.9}}) {
        in.equation = id;
        const auto r = compartments::compute(in);
        ASSERT_TRUE(r);
        EXPECT_NEAR((*r)[quantity::fat_percent].value, percent, 0.06) << id;
        EXPECT_GT((*r)[quantity::fat_percent].u, 0.8) << id;
        EXPECT_NEAR((*r)[quantity::fat_mass].value + (*r)[quantity::fat_free_mass].value, 75, 1e-9);
    }
    in.equation = "lohman_3c_mineral";
    in.water_kg.reset();
    EXPECT_TRUE(compartments::compute(in)) << "it takes no water";
    in.equation = "wang_2002";
    EXPECT_EQ(compartments::compute(in).messages().front().field, "multi_compartment.total_body_water_kg");
}

TEST(Skinfolds, SitesOfTheEquationAndNothingElse)
{
    skinfolds::Input in;
    in.sex = Sex::male;
    in.age_y = 30;
    in.height_cm = 178;
    in.mass_kg = 75;
    in.skinfolds_mm = {{"chest", 9}, {"abdomen", 18}, {"thigh", 14}, {"triceps", 60}};
    in.girths_cm = {{"waist", 84}, {"hips", 98}};
    in.equation = "jackson_pollock_1978_3";
    const auto r = skinfolds::compute(in);
    ASSERT_TRUE(r);
    EXPECT_NEAR((*r)[quantity::skinfold_sum].value, 41, 1e-12);
    EXPECT_NEAR((*r)[quantity::body_density].value, 1.10938 - 8.267e-4 * 41 + 1.6e-6 * 41 * 41 - 2.574e-4 * 30, 1e-12);
    EXPECT_GT((*r)[quantity::fat_percent].u, 3) << "the equation's own error";
    EXPECT_NEAR((*r)[quantity::waist_hip].value, 84.0 / 98, 1e-12);
    in.sex = Sex::female;
    EXPECT_EQ(skinfolds::compute(in).messages().front().code, "outside_group");
    in.skinfolds_mm.erase("thigh");
    EXPECT_EQ(skinfolds::compute(in).messages().front().field, "callipers_and_tape.skinfolds_mm.thigh");
    in.skinfolds_mm.clear();
    EXPECT_FALSE(skinfolds::compute(in)->find(quantity::fat_percent)) << "girths alone say nothing of fat";
}

TEST(Plan, BandNextVisitAndProgress)
{
    const plan::Input in = to(33, 20);
    const double intake = (*plan::compute(in))[quantity::intake].value;
    const auto band = plan::band(in, intake, 140);
    const auto way = plan::at_intake(in, intake, 140);
    for (const std::size_t day : {std::size_t{1}, std::size_t{70}, std::size_t{140}}) {
        const double percent = 100 * way[day].fat_kg / way[day].mass_kg();
        EXPECT_LT(band.low[day], percent);
        EXPECT_GT(band.high[day], percent);
    }
    const double rest = energy::find(energy::default_school)->kcal(in.body);
    EXPECT_NEAR(plan::need_error_kcal(in), std::hypot(in.activity_level * energy::residual_sd_kcal, 0.15 * rest), 1e-9)
        << "of rest, and of a level guessed from words";
    EXPECT_NEAR(plan::mass_if_only_fat(in.body, 33), 48 / 0.67, 1e-9);
    const auto week = plan::first_seen_week(in, intake, 1.5);
    ASSERT_TRUE(week);
    const auto moved = [&](int w) {
        const auto& d = way[static_cast<std::size_t>(7 * w)];
        return 100 * in.body.fat_kg / in.body.mass_kg() - 100 * d.fat_kg / d.mass_kg();
    };
    EXPECT_GE(moved(*week), 1.5);
    EXPECT_LT(moved(*week - 1), 1.5) << "and nothing sooner";
    EXPECT_FALSE(
        plan::first_seen_week(in, in.activity_level * energy::find(energy::default_school)->kcal(in.body), 1.5));
    const double strict = plan::strictest_intake(in);
    EXPECT_LT(strict, intake);
    EXPECT_NEAR(in.body.mass_kg() - plan::at_intake(in, strict, 7).back().mass_kg(), 0.01 * in.body.mass_kg(), 0.3)
        << "as fast as is allowed, or as rest allows";
    using enum plan::Progress;
    struct Row {
        double planned, measured, lsc;
        plan::Progress progress;
    };
    for (const Row& r : {Row{-1, -0.5, 2.5, not_yet}, Row{-4, -3, 2.5, on_the_way}, Row{-4, -7, 2.5, ahead},
             Row{-4, -1, 2.5, behind}, Row{4, 7, 2.5, ahead}, Row{4, 1, 2.5, behind}, Row{-1, 3, 2.5, behind}})
        EXPECT_EQ(plan::progress(r.planned, r.measured, r.lsc), r.progress) << r.planned << " " << r.measured;
}

TEST(Group, FromTwentyPeopleAndThoseAlikeCountHalf)
{
    std::vector<double> people;
    for (int i = 0; i < 19; ++i) people.push_back(i);
    EXPECT_FALSE(group::standing(people, 5));
    people.push_back(NAN);
    EXPECT_FALSE(group::standing(people, 5)) << "what is not a number is nobody";
    people.push_back(19);
    ASSERT_TRUE(group::standing(people, 5));
    EXPECT_EQ(group::standing(people, 5)->n, 20);
    EXPECT_NEAR(group::standing(people, 5)->percentile, 100 * 5.5 / 20, 1e-12);
    EXPECT_EQ(group::standing(people, 100)->percentile, 100);
    EXPECT_FALSE(group::standing(people, NAN));
}

TEST(Repeatability, EveryMethodAndWhatFollowsFromIt)
{
    const change::Measured on{80, 178, 25, 25};
    struct Row {
        const char* method;
        const Quantity* of;
        double sd;
    };
    for (const Row& r : {Row{"absorptiometry", &quantity::fat_percent, 0.6}, {"impedance", &quantity::fat_percent, 1.0},
             {"hydrostatic", &quantity::fat_mass, std::hypot(0.72, 0.25 * 0.45)},
             {"absorptiometry", &quantity::lean_soft_tissue, std::hypot(0.48, 0.75 * 0.45)},
             {"air_displacement", &quantity::fat_free_mass, std::hypot(0.72, 0.75 * 0.45)},
             {"hydrostatic", &quantity::ffmi, std::hypot(0.72, 0.75 * 0.45) / 3.1684},
             {"impedance", &quantity::body_mass, 0.45}, {"callipers_and_tape", &quantity::skinfold_sum, 1.25},
             {"callipers_and_tape", &quantity::girths[0], 1 / 2.77}})
        EXPECT_NEAR(change::repeatability(*r.of, r.method, on)->rms_sd, r.sd, 1e-9) << r.method << r.of->id;
    const change::Measured heavy{220, 178, 110, 50}; // a fixed 0.7 kg called half of all repeats a change
    EXPECT_NEAR(
        change::repeatability(quantity::fat_free_mass, "impedance", heavy)->rms_sd, std::hypot(2.2, 0.225), 1e-9);
    EXPECT_FALSE(change::repeatability(quantity::phase_angle, "impedance", on)) << "nothing known, no verdict";
    EXPECT_FALSE(change::repeatability(quantity::fat_percent, "callipers_and_tape", on));
}

TEST(Precision, EachPersonCountsOnce)
{
    precision::Input in{"fat_percent", {{20, 21}, {30, 30, 33}}, 2.0};
    const auto r = precision::compute(in);
    ASSERT_TRUE(r);
    EXPECT_NEAR((*r)[quantity::rms_sd].value, std::sqrt((0.5 + 3) / 2), 1e-12) << "each person counts once";
    EXPECT_NEAR((*r)[quantity::lsc].value, 2.77 * std::sqrt(1.75), 1e-12);
    EXPECT_EQ((*r)[quantity::degrees_of_freedom].value, 3);
    EXPECT_EQ(r.messages().size(), 2u) << "few, and over the limit";
    in.repeats = {{20, 21}, {30}};
    EXPECT_EQ(precision::compute(in).messages().front().field, "precision.repeats");
}

TEST(Change, NoiseComparableAndOverMidnight)
{
    change::Series s;
    s.rms_sd = 0.5;
    const auto point = [](double day, double hour, double value) {
        return change::Point{1440 * day + 60 * hour, value, "hydrostatic", "T1", "siri_1961", true};
    };
    s.points = {point(0, 23.5, 25), point(30, 0.5, 23.4), point(60, 23.5, 22.5), point(90, 0.25, 21.6)};
    auto c = change::compare(s);
    ASSERT_TRUE(c);
    EXPECT_TRUE(c->steps[0].comparable()) << "an hour over midnight";
    EXPECT_EQ(c->steps[0].verdict, change::Verdict::fall);
    EXPECT_EQ(c->steps[1].verdict, change::Verdict::within_noise);
    EXPECT_EQ(c->trend.n, 4);
    EXPECT_EQ(c->trend.verdict, change::Verdict::fall);
    s.points[3].equations = "brozek_1963";
    s.points[3].prepared = false;
    s.points[2].method = "impedance";
    c = change::compare(s);
    EXPECT_FALSE(c->steps[1].change) << "never across methods";
    ASSERT_EQ(c->since_first->why.size(), 2u);
    EXPECT_STREQ(c->since_first->why[0], "equations");
    EXPECT_STREQ(c->since_first->why[1], "preparation");
    EXPECT_EQ(c->since_first->verdict, change::Verdict::not_comparable);
    EXPECT_EQ(c->trend.verdict, change::Verdict::too_few);
    s.points[1].at_min = s.points[0].at_min;
    EXPECT_EQ(change::compare(s).messages().front().field, "points");
}

TEST(Told, WhatContradictsItselfIsNamedAndTheRestCarriesADoubt)
{
    told::Input in;
    in.sex = Sex::male;
    in.age_y = 30;
    in.height_cm = 178;
    in.mass_kg = 75;
    in.u_fat_percent = 3.5;
    in.from = "march.csv, line 2";
    in.given = {{&quantity::fat_percent, 20}, {&quantity::total_body_water, 43}, {&quantity::bone_mineral, 3}};
    const auto r = told::compute(in);
    ASSERT_TRUE(r) << r.messages().front().text;
    EXPECT_NEAR((*r)[quantity::total_body_water].u, 2.15, 1e-12);
    EXPECT_NEAR((*r)[quantity::bone_mineral].u, 0.09, 1e-12);
    EXPECT_TRUE(std::any_of(r->story.begin(), r->story.end(),
        [](const StoryStep& s) { return s.source == "told: march.csv, line 2; its doubt is assumed"; }));
    struct Row {
        const Quantity* of;
        double value;
        const char* words; ///< empty: nothing is wrong with it
    };
    const auto with = [&](std::initializer_list<std::pair<const Quantity*, double>> more) {
        told::Input other = in;
        for (const auto& [q, value] : more) other.given[q] = value;
        const auto told = told::compute(other);
        return told ? std::string() : told.messages().front().text;
    };
    EXPECT_NE(
        with({{&quantity::bmi, 20}}).find("Body mass index 20 kg/m²; 75 kg and 178 cm make 23.67"), std::string::npos);
    EXPECT_EQ(with({{&quantity::bmi, 23.7}}), "");
    EXPECT_NE(with({{&quantity::intracellular_water, 27}, {&quantity::extracellular_water, 17}}).find("make 44 L"),
        std::string::npos);
    EXPECT_EQ(with({{&quantity::intracellular_water, 27}, {&quantity::extracellular_water, 16.3}}), "");
    EXPECT_NE(with({{&quantity::fat_mass, 15}, {&quantity::visceral_fat, 15.5}}).find("more than what it is a part of"),
        std::string::npos);
}

TEST(Telling, WhoIsToldNothingAboutWeightAndWhatOthersMayAimAt)
{
    using telling::Aim, telling::Reserve;
    using Where = reference::Place::Where;
    const Messages none, water{{"water_and_swelling", Level::caution, "", "swollen"}},
        noise{{"noted_before", Level::caution, "", "a cold"}};
    const energy::Body usual = woman(), lean{Sex::female, 34, 168, 5, 50}, girl{Sex::female, 17.9, 168, 5, 50},
                       thin{Sex::female, 34, 168, 8, 38};
    const struct {
        const char* what;
        energy::Body body;
        bool expecting;
        const Messages* messages;
        Reserve why;
    } rows[] = {
        {"anybody", usual, false, &none, Reserve::none},
        {"a note that forbids nothing", usual, false, &noise, Reserve::none},
        {"a swelling", usual, false, &water, Reserve::caution},
        {"expecting comes before a swelling", usual, true, &water, Reserve::expecting},
        {"growing comes before everything", girl, true, &water, Reserve::growing},
        {"at the least", lean, false, &none, Reserve::at_minimum},
        {"a swelling is not answered with eating more", lean, false, &water, Reserve::caution},
    };
    for (const auto& row : rows) {
        const auto r = telling::reserved(row.body, row.expecting, *row.messages);
        EXPECT_EQ(r.why, row.why) << row.what;
        EXPECT_EQ(r.caution != nullptr, row.why == Reserve::caution) << row.what;
    }
    const auto at = [](Where where) { return reference::Place{{}, where, ""}; };
    EXPECT_EQ(telling::aim(usual, std::nullopt, false), Aim::none);
    EXPECT_EQ(telling::aim(usual, at(Where::middle), true), Aim::keep_it);
    EXPECT_EQ(telling::aim(usual, at(Where::upper_edge), false), Aim::keep_it);
    EXPECT_EQ(telling::aim(usual, at(Where::above), false), Aim::come_closer);
    EXPECT_EQ(telling::aim(usual, at(Where::above), true), Aim::none) << "a note in the record";
    EXPECT_EQ(telling::aim(thin, at(Where::above), false), Aim::none) << "loss would take this body under the least";
    EXPECT_EQ(telling::aim(usual, at(Where::below), true), Aim::eat_enough);
}
