// SPDX-License-Identifier: GPL-3.0-or-later
// What repeats are worth: quantiles against printed tables, operators and instruments against hand computation.
#include "core/quality/distributions.h"
#include "core/quality/precision.h"
#include "core/quality/study.h"
#include "core/time/change.h"
#include "core/time/repeatability.h"

#include <gtest/gtest.h>

#include <cmath>
#include <random>

using namespace fusain;

TEST(Study, QuantilesAreThoseOfThePrintedTables)
{
    struct Row {
        double (*of)(double, double);
        double probability, df, value, within;
    };
    for (const Row& r : {Row{quality::chi_square_quantile, 0.05, 4, 0.710723, 1e-6},
             {quality::chi_square_quantile, 0.05, 30, 18.4927, 1e-4},
             {quality::chi_square_quantile, 0.95, 10, 18.3070, 1e-4},
             {quality::chi_square_quantile, 0.975, 1, 5.02389, 1e-5},
             {quality::student_t_quantile, 0.975, 1, 12.7062, 1e-4},
             {quality::student_t_quantile, 0.975, 2, 4.30265, 1e-5},
             {quality::student_t_quantile, 0.975, 14, 2.14479, 1e-5},
             {quality::student_t_quantile, 0.995, 30, 2.75000, 1e-5},
             {quality::student_t_quantile, 0.025, 14, -2.14479, 1e-5},
             {quality::student_t_quantile, 0.975, 1e6, 1.95996, 1e-5}})
        EXPECT_NEAR(r.of(r.probability, r.df), r.value, r.within) << r.probability << " " << r.df;
    // and as Boost.Math 1.74 has them, to every digit that counts
    const struct {
        double probability, df, chi_square, student_t;
    } library[] = {{0.005, 1, 3.9270422220515903e-05, -63.656741162871583},
        {0.025, 14, 5.6287261030397326, -2.1447866879178039}, {0.05, 1, 0.0039321400000195232, -6.3137515146750429},
        {0.05, 28, 16.927875044422496, -1.7011309342659315}, {0.5, 3, 2.3659738843753386, 0},
        {0.95, 2, 5.9914645471079799, 2.9199855803537242}, {0.95, 10, 18.307038053275143, 1.8124611228116758},
        {0.975, 1, 5.0238861873148872, 12.706204736174694}, {0.975, 4, 11.143286781877794, 2.7764451051977934},
        {0.975, 28, 44.460791836317753, 2.0484071417952445}, {0.995, 100, 140.16948944231362, 2.6258905214380177},
        {0.995, 10000, 10368.033052761462, 2.5763210466685287}};
    for (const auto& r : library) {
        EXPECT_NEAR(quality::chi_square_quantile(r.probability, r.df) / r.chi_square, 1, 1e-11)
            << r.probability << " " << r.df;
        EXPECT_NEAR(quality::student_t_quantile(r.probability, r.df), r.student_t, 1e-11 * (1 + std::abs(r.student_t)))
            << r.probability << " " << r.df;
    }
    for (const auto& [p, df] : {std::pair{0.5, 0.0}, {0.5, NAN}, {0.0, 3.0}, {1.0, 3.0}})
        EXPECT_TRUE(std::isnan(quality::chi_square_quantile(p, df)) && std::isnan(quality::student_t_quantile(p, df)))
            << p << " " << df;
    const auto between = quality::sd_limits(1, 30);
    EXPECT_NEAR(between.low, std::sqrt(30 / 46.9792), 1e-5);
    EXPECT_NEAR(between.high, std::sqrt(30 / 16.7908), 1e-5);
}

TEST(Study, FewRepeatsAreHeldAgainstTheirUpperLimit)
{
    precision::Input in{"fat_percent", {}, {}};
    for (int i = 0; i < 14; ++i) in.repeats.push_back({20.0, 21.0, 22.0});
    EXPECT_NEAR(precision::effective_degrees(in.repeats), 28, 1e-9) << "everybody alike";
    EXPECT_NEAR(precision::held_against(1, 28, 28), std::sqrt(28 / quality::chi_square_quantile(0.05, 28)), 1e-12);
    EXPECT_EQ(precision::held_against(1, 30, 12), 1) << "from 30 on the study's own";
    in.repeats.push_back({20.0, 24.0, 28.0}); // one who scatters four times as much
    const double worth = precision::effective_degrees(in.repeats);
    EXPECT_NEAR(worth, 30.0 * 30.0 / ((14 + 256) / 4.0) - 2, 1e-9);
    EXPECT_GT(precision::held_against(1, 28, worth), precision::held_against(1, 28, 28));
    EXPECT_EQ(precision::effective_degrees({{5, 5}, {6, 6}}), 2) << "all equal: as counted";
    EXPECT_EQ(precision::published_limit_percent(quantity::fat_mass), 3.0);
    EXPECT_EQ(precision::published_limit_percent(quantity::fat_percent), 2.0);
    EXPECT_FALSE(precision::published_limit_percent(quantity::phase_angle));
}

TEST(Study, AnOperatorWhoReadsHighIsNamedAndOneWhoScattersIsNotCalledHigh)
{
    std::mt19937_64 random(5);
    std::normal_distribution<double> noise;
    std::vector<study::Repeat> repeats;
    for (int person = 0; person < 12; ++person)
        for (int k = 0; k < 2; ++k) {
            repeats.push_back({person, "A", 20.0 + person + 0.2 * noise(random)});
            repeats.push_back({person, "B", 20.8 + person + 0.2 * noise(random)});
        }
    auto rows = study::operators(repeats);
    ASSERT_EQ(rows.size(), 2u);
    EXPECT_NEAR(*rows[1].offset, 0.8, 0.2);
    EXPECT_NEAR(*rows[0].offset, -*rows[1].offset, 1e-12);
    EXPECT_TRUE(rows[0].differs && rows[1].differs);
    EXPECT_EQ(rows[0].in_common, 12);
    EXPECT_EQ(rows[0].degrees_of_freedom, 12);
    EXPECT_NEAR(*rows[0].rms_sd, 0.2, 0.08);
    rows = study::operators(std::vector<study::Repeat>{{1, "A", 10}, {1, "A", 11}, {2, "A", 20}, {2, "A", 24}});
    EXPECT_NEAR(*rows[0].rms_cv_percent, 100 * std::sqrt((0.5 / (10.5 * 10.5) + 8 / (22.0 * 22)) / 2), 1e-9);
    // by hand: two people, differences 1 and 3: mean 2, SD √2, half width 12.7062·√2/√2
    rows = study::operators(std::vector<study::Repeat>{{1, "A", 10}, {1, "B", 11}, {2, "A", 20}, {2, "B", 23}});
    EXPECT_NEAR(*rows[1].offset, 2, 1e-12);
    EXPECT_NEAR(rows[1].offset_within, 12.7062, 1e-4);
    EXPECT_FALSE(rows[1].differs) << "two people cannot tell";
    EXPECT_FALSE(rows[0].rms_sd) << "nobody was measured twice by one of them";
    EXPECT_FALSE(study::operators(std::vector<study::Repeat>{{1, "A", 10}, {2, "B", 11}})[0].offset);
}

TEST(Study, OneWhoseRepeatsLieFarApartIsPointedAtAndUsuallyNobodyIs)
{
    std::mt19937_64 random(7);
    std::normal_distribution<double> noise;
    int called = 0;
    for (int run = 0; run < 400; ++run) {
        std::vector<std::vector<double>> people(15);
        for (auto& p : people) p = {noise(random), noise(random), noise(random)};
        called += !study::far_apart(people).empty();
    }
    EXPECT_LT(called, 400 * 0.035) << "at 1 %";
    std::vector<std::vector<double>> people(15);
    for (auto& p : people) p = {noise(random), noise(random), noise(random)};
    people[4][1] += 12;
    EXPECT_EQ(study::far_apart(people), std::vector<std::size_t>{4});
}

TEST(Study, InstrumentsAgreeAreShiftedOrCannotBeTold)
{
    using study::Agreement;
    struct Row {
        const char* what;
        std::vector<double> apart;
        double lsc;
        Agreement verdict;
    };
    for (const Row& r : {Row{"alike", {0.1, -0.2, 0.0, 0.2, -0.1, 0.1, 0.0, -0.1}, 2.5, Agreement::agree},
             {"a small shift is none", {0.4, 0.3, 0.5, 0.4, 0.4, 0.35, 0.45, 0.4}, 2.5, Agreement::agree},
             {"shifted", {1.9, 2.1, 2.0, 2.2, 1.8, 2.0, 2.1, 1.9}, 2.5, Agreement::shifted},
             {"noisy and few", {3.0, 1.5, -2.0, -1.0}, 2.5, Agreement::cannot_tell},
             {"alike, but what counts is not known", {0.1, -0.2, 0.0, 0.2, -0.1}, 0, Agreement::cannot_tell},
             {"to the digit", {0, 0, 0, 0}, 2.5, Agreement::agree}}) {
        std::vector<study::Pair> pairs;
        // the order of the values has nothing to do with the differences
        const double at[] = {20, 34, 25, 31, 22, 29, 27, 24};
        for (std::size_t i = 0; i < r.apart.size(); ++i) pairs.push_back({at[i], at[i] + r.apart[i]});
        const auto c = study::compare(pairs, r.lsc);
        ASSERT_TRUE(c) << r.what;
        EXPECT_EQ(c->verdict, r.verdict) << r.what << " " << study::word(c->verdict);
    }
    // grows with the value: 10 % more at every value, centred
    std::vector<study::Pair> pairs;
    for (double v : {10.0, 15.0, 20.0, 25.0, 30.0, 35.0, 40.0}) pairs.push_back({v, v + 0.1 * (v - 25)});
    const auto c = study::compare(pairs, 2.5);
    EXPECT_TRUE(c->grows);
    EXPECT_EQ(c->verdict, Agreement::shifted);
    EXPECT_NEAR(c->shift, 0, 1e-12);
    EXPECT_EQ(study::compare(std::vector<study::Pair>{{1, 2}, {2, 3}}, 1).messages().front().code, "too_few_pairs");
    EXPECT_EQ(
        study::compare(std::vector<study::Pair>{{1, 2}, {2, NAN}, {3, 4}}, 1).messages().front().code, "out_of_range");
    // by hand: differences 1, 2, 3: mean 2, SD 1, limits 2 ± 1.96, half width 4.30265/√3
    const auto hand = study::compare(std::vector<study::Pair>{{10, 11}, {20, 22}, {5, 8}}, 1);
    EXPECT_NEAR(hand->low, 0.04, 1e-3);
    EXPECT_NEAR(hand->shift_within, 4.30265 / std::sqrt(3.0), 1e-4);
    EXPECT_NEAR(hand->lsc, 2 + 4.30265 * std::sqrt(4.0 / 3), 1e-4);
}

TEST(Change, AVerdictKeepsWhatWasKnownThenAndABridgeCountsFromItsDayOn)
{
    change::Series s;
    s.rms_sd = 0.5; // as it is known now
    const auto at = [](double day, double value, const char* instrument) {
        return change::Point{1440 * day + 480, value, "hydrostatic", instrument, "siri_1961", true};
    };
    s.points = {at(1, 20, "A"), at(40, 22, "A"), at(80, 24, "A"), at(120, 26, "B"), at(160, 28, "B")};
    s.points[1].rms_sd = 1.0; // then it was not known so well
    EXPECT_EQ(change::step(s, 0, 1).verdict, change::Verdict::within_noise);
    EXPECT_NEAR(change::step(s, 0, 1).lsc, 2.77, 1e-12);
    EXPECT_EQ(change::step(s, 1, 2).verdict, change::Verdict::rise) << "the later of the two decides";
    EXPECT_EQ(change::step(s, 2, 1).lsc, change::step(s, 1, 2).lsc) << "whichever way it is looked at";
    EXPECT_STREQ(change::step(s, 2, 3).why.front(), "instrument");
    s.bridges = {{"B", "A", 3.0, 1440 * 130}};
    EXPECT_FALSE(change::step(s, 2, 3).comparable()) << "said before the two were held against each other";
    EXPECT_TRUE(change::step(s, 2, 4).comparable());
    EXPECT_NEAR(change::step(s, 2, 4).lsc, 3.0, 1e-12);
    EXPECT_EQ(change::step(s, 2, 4).verdict, change::Verdict::rise);
    s.bridges.insert(s.bridges.begin(), {"A", "B", 0, 1440 * 150});
    EXPECT_FALSE(change::step(s, 2, 4).comparable()) << "a newer one says otherwise";
}

TEST(Change, ATrendTakesInTheShiftBetweenInstrumentsAndEachPointsOwnNoise)
{
    change::Series s;
    s.rms_sd = 0.5;
    const auto at = [](double week, double value, const char* instrument) {
        return change::Point{7 * 1440 * week + 480, value, "hydrostatic", instrument, "siri_1961", true};
    };
    s.points = {at(0, 30, "A"), at(4, 29, "A"), at(8, 27.5, "B"), at(12, 26.5, "B")}; // −0.25 a week, B reads 0.5 low
    s.bridges = {{"A", "B", 3.0, 0, -0.5, 0.1}};
    const auto told = change::compare(s);
    ASSERT_TRUE(told) << told.messages().front().text;
    const change::Trend& t = told->trend;
    EXPECT_EQ(t.n, 4);
    EXPECT_NEAR(*t.per_week, -0.25, 1e-12) << "−0.3 without the shift";
    const double noise = 0.5 / std::sqrt(80.0),
                 shift = 0.1 * 8 / 80; // the two on A lie 8 weeks before the middle, together
    EXPECT_NEAR(*t.u_per_week, std::hypot(noise, shift), 1e-12);
    EXPECT_NEAR(t.value_at(s.points.back().at_min), 26.5, 1e-9) << "by the last one's instrument";
    EXPECT_NEAR(t.u_at(t.middle_min), std::hypot(0.25, 0.05), 1e-12) << "the line is not sure in its middle either";
    EXPECT_GT(t.u_at(s.points.front().at_min), t.u_at(t.middle_min));
    s.bridges = {{"B", "A", 3.0, 0, 0.5, 0.1}}; // told the other way round
    EXPECT_NEAR(*change::compare(s)->trend.per_week, -0.25, 1e-12);
    s.bridges = {{"A", "B", 3.0, 0}};
    s.points[0].rms_sd = 2.0; // that was not known so well
    EXPECT_NEAR(*change::compare(s)->trend.u_per_week, std::sqrt(36 * 4.0 + (4 + 4 + 36) * 0.25) / 80, 1e-12);
}

TEST(Repeatability, AStudyWithinHoursHoldsBetweenDaysWithTheDaysOwn)
{
    const change::Measured on{220, 178, 0, 50};
    struct Row {
        const Quantity* of;
        double study_sd, placing, day;
    };
    const double m2 = 1.78 * 1.78;
    for (const Row& row : {Row{&quantity::fat_percent, 0.5, 0.5, 1.0},
             {&quantity::fat_mass, 0.4, std::hypot(1.1, 0.025), std::hypot(2.2, 0.225)}, // grows with the body
             {&quantity::ffmi, 0.1, std::hypot(1.1, 0.025) / m2, std::hypot(2.2, 0.225) / m2},
             {&quantity::region_lean[3], 0.2, 0.8, 0}, // parts grow with the body too
             {&quantity::bone_mineral, 0.03, 0.03, 0}}) {
        const auto known = change::of_study(*row.of, "impedance", on, {row.study_sd, 0.5, 55, "a study"});
        EXPECT_NEAR(known.placing_sd, row.placing, 1e-9) << row.of->id;
        EXPECT_NEAR(known.day_sd, row.day, 1e-9) << row.of->id;
        EXPECT_NEAR(known.rms_sd, std::hypot(row.placing, row.day), 1e-12) << row.of->id;
        EXPECT_FALSE(known.by_default);
    }
    // repeats that lay days apart hold all of it
    for (const auto& [of, sd] :
        {std::pair{&quantity::fat_percent, 0.9}, {&quantity::fat_mass, std::hypot(1.98, 0.225)}}) {
        const auto known = change::of_study(*of, "impedance", on, {0.9, 0.9, 55, "a study", true});
        EXPECT_NEAR(known.rms_sd, sd, 1e-9) << of->id;
        EXPECT_EQ(known.day_sd, 0) << of->id;
    }
    // a part by its share of all that is not fat; resistance and phase by this lab's rule
    const change::Measured part{80, 178, 20, 25};
    EXPECT_NEAR(change::between_days(quantity::region_lean[3], "absorptiometry", part),
        20.0 / 60 * std::hypot(0.48, 0.75 * 0.45), 1e-9);
    EXPECT_NEAR(change::between_days(quantity::resistance, "impedance", part), 0.3, 1e-12);
    EXPECT_EQ(change::between_days(quantity::legs_asymmetry, "absorptiometry", part), 0);
    EXPECT_NEAR(change::between_days(quantity::body_density, "hydrostatic", {80, 178, 1.05, 25}),
        0.009 * 1.05 * 1.05 / 4.95, 1e-9);
}
