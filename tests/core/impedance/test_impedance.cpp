// SPDX-License-Identifier: GPL-3.0-or-later
// The arc of a body's impedance, and the equations that rest on it.
#include "core/impedance/impedance.h"

#include <gtest/gtest.h>

#include <algorithm>
#include <random>
#include <set>

using namespace fusain;
using namespace fusain::impedance;

namespace {

const std::vector<double> six = {5, 20, 50, 100, 250, 500};

std::vector<Point> spectrum(
    const Arc& arc, const std::vector<double>& frequencies = six, double noise = 0, unsigned seed = 1)
{
    std::mt19937 random(seed);
    std::normal_distribution<double> normal;
    std::vector<Point> out;
    for (double f : frequencies) {
        const auto z = impedance_of(arc, f);
        out.push_back({f, z.real() * (1 + noise * normal(random)), -z.imag() * (1 + 5 * noise * normal(random))});
    }
    return out;
}

/// The man of the check values: 178 cm, 75 kg, 30 y, 480 and 58 Ω.
Body<double> man() { return {Sex::male, 30, 178, 75, 480, 58}; }

} // namespace

TEST(Arc, ComesBackFromItsOwnPoints)
{
    const Arc rows[] = {{628, 432, 0.70, 45}, {330, 250, 0.62, 30}, {28, 19, 0.80, 60}, {230, 150, 0.66, 38},
        {900, 500, 0.75, 25}, {400, 395, 0.7, 40}};
    for (const Arc& truth : rows)
        for (const auto& frequencies :
            {six, std::vector<double>{5, 50, 250}, std::vector<double>{500, 5, 100, 1000, 50, 20, 250}}) {
            const auto arc = fit_arc(spectrum(truth, frequencies));
            ASSERT_TRUE(arc) << truth.r0_ohm << ": " << arc.messages().front().text;
            EXPECT_NEAR(arc->r0_ohm / truth.r0_ohm, 1, 1e-6);
            EXPECT_NEAR(arc->rinf_ohm / truth.rinf_ohm, 1, 1e-6);
            EXPECT_NEAR(arc->alpha, truth.alpha, 1e-5);
            EXPECT_NEAR(arc->fc_khz / truth.fc_khz, 1, 1e-4);
            EXPECT_LT(arc->residual_ohm, 1e-5 * truth.r0_ohm);
        }
}

TEST(Arc, OfKnownBodies)
{
    struct Row {
        std::vector<Point> points;
        double r0_ohm, rinf_ohm;
    };
    const Row rows[] = {
        {{{5, 610.5074, 29.5889}, {20, 570.8955, 57.7701}, {50, 524.8972, 65.5814}, {100, 490.6446, 58.0209},
             {250, 459.9141, 39.0843}, {500, 447.3808, 25.9919}},
            628.995044984, 431.926622427},
        {{{5, 626.4356, 31.6795}, {20, 585.4179, 59.3052}, {50, 539.3413, 68.4222}, {100, 503.3681, 63.0732},
             {250, 467.9491, 45.5436}, {500, 451.9437, 31.8284}},
            648.801946547, 429.431437007},
    };
    for (const Row& row : rows) {
        const auto arc = fit_arc(row.points);
        ASSERT_TRUE(arc);
        EXPECT_NEAR(arc->r0_ohm, row.r0_ohm, 0.05);
        EXPECT_NEAR(arc->rinf_ohm, row.rinf_ohm, 0.05);
    }
}

TEST(Arc, ItsStandardErrorsAreTrue)
{
    const Arc truth{628, 432, 0.70, 45};
    int inside = 0;
    std::vector<double> off;
    for (unsigned seed = 1; seed <= 400; ++seed) {
        const auto arc = fit_arc(spectrum(truth, six, 0.001, seed));
        ASSERT_TRUE(arc);
        off.push_back(std::abs(arc->r0_ohm / truth.r0_ohm - 1));
        off.push_back(std::abs(arc->rinf_ohm / truth.rinf_ohm - 1));
        inside += std::abs(arc->r0_ohm - truth.r0_ohm) < 2.3 * arc->u_r0_ohm;       // 95 % of Student's t at eight
        inside += std::abs(arc->rinf_ohm - truth.rinf_ohm) < 2.3 * arc->u_rinf_ohm; // degrees of freedom
    }
    std::sort(off.begin(), off.end());
    EXPECT_LT(off[off.size() * 95 / 100], 0.005) << "within 0.5 % at a noise of 0.1 %";
    EXPECT_NEAR(inside / 800.0, 0.95, 0.05);
}

TEST(Arc, WhatIsNoneIsRefused)
{
    const Arc arc{628, 432, 0.70, 45};
    std::vector<Point> backwards = spectrum(arc), swapped = spectrum(arc), twice = spectrum(arc, {50, 50, 50, 50}),
                       nothing = spectrum(arc);
    for (std::size_t i = 0; i < 3; ++i) std::swap(backwards[i].r_ohm, backwards[5 - i].r_ohm);
    for (Point& p : swapped) std::swap(p.r_ohm, p.x_ohm);
    for (Point& p : nothing) p.r_ohm = NAN;
    struct Row {
        const char* what;
        std::vector<Point> points;
        const char* code;
    };
    for (const Row& row : {Row{"one frequency", spectrum(arc, {50}), "few_frequencies"},
             {"two", spectrum(arc, {5, 50}), "few_frequencies"}, {"the same four times", twice, "few_frequencies"},
             {"rising with frequency", backwards, "not_an_arc"}, {"R and X swapped", swapped, "not_an_arc"},
             {"no numbers", nothing, "not_an_arc"}}) {
        const auto none = fit_arc(row.points);
        ASSERT_FALSE(none) << row.what;
        EXPECT_EQ(none.messages().front().code, row.code) << row.what;
    }
}

TEST(Arc, SegmentsInSeriesAddUpWhereAllHaveTheFrequency)
{
    const std::vector<Point> arm = {{5, 350, 15}, {50, 300, 35}}, trunk = {{50, 24, 3}, {5, 28, 1}, {100, 22, 2}};
    const std::vector<std::vector<Point>> both{arm, trunk};
    const auto sum = in_series(both);
    ASSERT_EQ(sum.size(), 2u);
    EXPECT_EQ(sum[0].r_ohm, 378);
    EXPECT_EQ(sum[1].x_ohm, 38);
    EXPECT_TRUE(in_series({}).empty());
}

TEST(ImpedanceEquations, CheckValues)
{
    struct Row {
        Predicts what;
        const char* id;
        double male, female; ///< of this body
    };
    const Row rows[] = {
        {Predicts::fat_free_mass, "kyle_2001", 59.18, 54.95},
        {Predicts::fat_free_mass, "sun_2003", 59.21, 56.69},
        {Predicts::fat_free_mass, "houtkooper_1992", 60.33, 60.33},
        {Predicts::total_body_water, "sun_2003", 44.04, 41.93},
        {Predicts::total_body_water, "kushner_schoeller_1986", 45.26, 41.41},
        {Predicts::total_body_water, "lukaski_bolonchuk_1988", 40.54, 37.64},
        {Predicts::skeletal_muscle, "janssen_2000", 33.27, 29.44},
        {Predicts::appendicular_muscle, "kyle_2003", 25.45, 23.54},
        {Predicts::appendicular_muscle, "sergi_2015", 23.24, 21.86},
    };
    std::set<std::pair<Predicts, std::string>> seen;
    for (const Row& row : rows) {
        const Equation* e = find(row.what, row.id);
        ASSERT_TRUE(e) << row.id;
        Body<double> b = man();
        EXPECT_NEAR(e->predict(b), row.male, 0.006) << row.id;
        b.sex = Sex::female;
        EXPECT_NEAR(e->predict(b), row.female, 0.006) << row.id;
        EXPECT_TRUE(seen.insert({row.what, row.id}).second) << "twice: " << row.id;
    }
    EXPECT_EQ(seen.size(), equations().size()) << "every row has its check values";
    EXPECT_FALSE(find(Predicts::skeletal_muscle, "kyle_2001"));
}

TEST(ImpedanceEquations, WaterSpaces)
{
    const Arc arc{600, 400, 0.7, 40};
    EXPECT_NEAR(arc.ri_ohm(), 1200, 1e-9);
    const auto moissl = moissl_2006(man(), arc.r0_ohm, arc.ri_ohm());
    EXPECT_NEAR(moissl.outside, 17.6, 0.05);
    EXPECT_NEAR(moissl.inside, 25.0, 0.05);
    for (const Sex sex : {Sex::male, Sex::female}) {
        Body<double> b = man();
        b.sex = sex;
        const auto first = de_lorenzo_1997(b, arc.r0_ohm, arc.ri_ohm());
        const double x = first.inside / first.outside, k = sex == Sex::male ? 3.82 : 3.40;
        EXPECT_NEAR(std::pow(1 + x, 2.5), 1800.0 / 1200 * (1 + k * x), 1e-9) << "the equation holds";
        EXPECT_GT(x, 0.5) << "the root of a body, not x = 0 or less";
        EXPECT_NE(first.outside, moissl.outside) << "two generations, never mixed";
    }
}

TEST(Impedance, TheBudgetIsTheDerivativeAndTheSumIsTheBody)
{
    Input in;
    in.sex = Sex::male;
    in.age_y = 30;
    in.height_cm = 178;
    in.mass_kg = 75;
    in.whole_body = spectrum({590, 390, 0.7, 40});
    for (const WaterSpaces& spaces : water_space_rows) {
        in.equations.water_spaces = spaces.id;
        const auto r = compute(in);
        ASSERT_TRUE(r) << r.messages().front().text;
        const auto exact = r->budget(quantity::fat_percent), central = fat_budget_central(in);
        EXPECT_NEAR(exact.u, central.u, 1e-6 * central.u);
        ASSERT_EQ(exact.shares.size(), central.shares.size());
        EXPECT_EQ(exact.shares.front().input.symbol, "δFFM") << "the equation's own error leads";
        EXPECT_GT((*r)[quantity::fat_percent].u_model, (*r)[quantity::fat_percent].u_measurement());
        EXPECT_GT((*r)[quantity::extracellular_water].u, 0);
        double sum = 0;
        for (std::size_t i = 0; i + 1 < r->ladder.size(); ++i) sum += r->ladder[i].size;
        EXPECT_NEAR(sum, 75, 1e-9) << "water, the rest and fat are the body";
        EXPECT_EQ(r->ladder.back().size, 75);
    }
    in.implant = true;
    EXPECT_EQ(compute(in).messages().front().level, Level::refused);
}

namespace {

Input with(double age_y, double height_cm, double mass_kg, Sex sex = Sex::male)
{
    Input in;
    in.sex = sex;
    in.age_y = age_y;
    in.height_cm = height_cm;
    in.mass_kg = mass_kg;
    in.whole_body = spectrum({590, 390, 0.7, 40});
    return in;
}

bool says(const Outcome<Result>& r, const char* code, const char* part = "")
{
    return std::any_of(r.messages().begin(), r.messages().end(),
        [&](const Message& m) { return m.code == code && m.text.find(part) != std::string::npos; });
}

} // namespace

TEST(Impedance, EveryEquationHasAnErrorOrTheWidestOfItsKind)
{
    for (const Equation& e : equations())
        for (const Sex sex : {Sex::male, Sex::female}) {
            const Error error = error_in(e, sex, 25);
            EXPECT_GT(error.u, 0) << e.id;
            EXPECT_EQ(error.known, e.error(sex).has_value()) << e.id;
        }
    EXPECT_EQ(error_in(*find(Predicts::fat_free_mass, "houtkooper_1992"), Sex::male, 15).u, 2.1)
        << "children are light";
    Input in = with(30, 178, 75);
    const double known = (*compute(in))[quantity::total_body_water].u_model;
    EXPECT_EQ(known, 3.8) << "Sun 2003, men";
    in.equations.total_body_water = "kushner_schoeller_1986";
    const auto r = compute(in);
    EXPECT_EQ((*r)[quantity::total_body_water].u_model, 3.8) << "not nothing";
    EXPECT_TRUE(says(r, "error_unknown"));
    const auto& shares = r->budget(quantity::total_body_water).shares;
    EXPECT_NE(shares.front().input.title.find("error unknown"), std::string_view::npos) << shares.front().input.title;
}

TEST(Impedance, OutsideItsGroupAnEquationIsWorthLess)
{
    const Equation& kyle = *find(Predicts::fat_free_mass, "kyle_2001");
    struct Row {
        double bmi, kg;
    };
    for (const Row& row : {Row{17, 1.72}, {33.8, 1.72}, {40, 1.72 * 1.4005}, {13, 1.72 * 1.7101}})
        EXPECT_NEAR(error_in(kyle, Sex::male, row.bmi).u, row.kg, 1e-3) << row.bmi;
    const auto heavy = with(40, 180, 220), edge = with(40, 180, 109), inside = with(40, 180, 75);
    const auto percent = [](const Input& in) { return (*compute(in))[quantity::fat_percent].u_model; };
    EXPECT_GT(percent(heavy), percent(edge)) << "in percent too it grows";
    EXPECT_GT(percent(heavy), percent(inside));
    EXPECT_TRUE(says(compute(with(40, 180, 111)), "outside_group", "Kyle")) << "BMI 34.3";
    Input thin = with(40, 180, 54);
    thin.whole_body = spectrum({780, 560, 0.7, 40});
    EXPECT_TRUE(says(compute(thin), "outside_group", "Kyle")) << "BMI 16.7";
    thin.mass_kg = 56;
    EXPECT_FALSE(says(compute(thin), "outside_group", "Kyle")) << "BMI 17.3";
    EXPECT_FALSE(says(compute(edge), "outside_group", "Kyle")) << "BMI 33.6";
    EXPECT_TRUE(says(compute(with(16, 170, 60)), "outside_group", "as in adults")) << "water spaces of adults";
}

TEST(Impedance, TwoWaysToTheWaterAreHeldAgainstEachOther)
{
    Input in = with(30, 178, 75);
    in.whole_body = spectrum({590, 430, 0.7, 40});
    const auto apart = [](const Result& r) {
        const double by_arc = r[quantity::extracellular_water].value + r[quantity::intracellular_water].value,
                     by_equation = r[quantity::total_body_water].value;
        return std::abs(by_equation - by_arc) / std::min(by_equation, by_arc);
    };
    for (double mass : {60, 75, 95, 140, 200}) {
        in.mass_kg = mass;
        const auto r = compute(in);
        ASSERT_TRUE(r) << mass << r.messages().front().text;
        EXPECT_EQ(says(r, "waters_differ"), apart(*r) > 0.10) << mass << ": " << apart(*r);
    }
    EXPECT_GT(apart(*compute(in)), 0.10) << "a row of either kind";
    const auto r = compute(with(30, 178, 75));
    EXPECT_GT((*r)[quantity::extracellular_water].u_model, 1.39);
    EXPECT_GT((*r)[quantity::intracellular_water].u_model, 1.99);
    // contact moves both ends of the arc together, so that it leaves their ratio, and the share, alone
    Input loose = with(30, 178, 75);
    loose.errors.resistance_share *= 10;
    const auto l = compute(loose);
    EXPECT_GT((*l)[quantity::r0].u, 5 * (*r)[quantity::r0].u);
    EXPECT_NEAR((*l)[quantity::ecw_ratio].u_measurement(), (*r)[quantity::ecw_ratio].u_measurement(), 1e-4);
}

TEST(Impedance, NobodyBeginsWithAnEquationMadeOnOthers)
{
    struct Row {
        double age_y;
        const char *lean, *water, *muscle;
    };
    for (const Row& row : {Row{8, "none", "none", "none"}, {9.99, "none", "none", "none"},
             {10, "houtkooper_1992", "none", "none"}, {12, "houtkooper_1992", "sun_2003", "none"},
             {17.9, "houtkooper_1992", "sun_2003", "none"}, {18, "kyle_2001", "sun_2003", "janssen_2000"}}) {
        const Choice c = usual_choice(row.age_y);
        EXPECT_EQ(c.fat_free_mass, row.lean) << row.age_y;
        EXPECT_EQ(c.total_body_water, row.water) << row.age_y;
        EXPECT_EQ(c.skeletal_muscle, row.muscle) << row.age_y;
    }
    Input boy = with(8, 130, 30);
    boy.whole_body = spectrum({780, 560, 0.7, 40});
    boy.equations = usual_choice(8);
    const auto nothing = compute(boy);
    ASSERT_TRUE(nothing);
    EXPECT_TRUE(says(nothing, "no_equation", "8 years"));
    for (const Quantity* q : {&quantity::fat_percent, &quantity::ffmi, &quantity::total_body_water,
             &quantity::skeletal_muscle, &quantity::balance_lean})
        EXPECT_FALSE(nothing->find(*q)) << q->id;
    for (const Quantity* q : {&quantity::resistance, &quantity::phase_angle, &quantity::r0, &quantity::bmi})
        EXPECT_TRUE(nothing->find(*q)) << "what was measured stands: " << q->id;
    EXPECT_TRUE(what_ifs(boy).empty());
    boy.equations.fat_free_mass = "houtkooper_1992";
    const auto chosen = compute(boy);
    ASSERT_TRUE(chosen) << chosen.messages().front().text;
    EXPECT_TRUE(chosen->find(quantity::fat_percent));
    EXPECT_TRUE(says(chosen, "outside_group", "Houtkooper"));
}
