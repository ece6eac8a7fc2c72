// SPDX-License-Identifier: GPL-3.0-or-later
// Marks of a drill, by hand.
#include "core/practice/cost.h"
#include "core/practice/marking.h"

#include <gtest/gtest.h>

#include <cmath>
#include <random>

using namespace fusain::practice;

TEST(Marking, NumbersAgainstTheirTruth)
{
    EXPECT_EQ(mark(std::span<const Reading>()).n, 0);
    // errors +0.1, +0.3, +0.2; the third is the first again
    const std::vector<Reading> r = {{2.1, 2.0, 2.02, -1, 10}, {3.3, 3.0, 2.99, -1, 20}, {2.2, 2.0, {}, 0, 30}};
    const NumberMark m = mark(r);
    EXPECT_EQ(m.n, 3);
    EXPECT_NEAR(m.bias, 0.2, 1e-12);
    EXPECT_NEAR(m.spread, 0.1, 1e-12);
    EXPECT_NEAR(m.rms, std::sqrt(0.14 / 3), 1e-12);
    EXPECT_NEAR(m.worst, 0.3, 1e-12);
    EXPECT_NEAR(m.bias_within, 4.30265 * 0.1 / std::sqrt(3.0), 1e-5);
    EXPECT_FALSE(m.biased()) << "0.2 ± 0.25";
    EXPECT_NEAR(*m.own_precision, 0.1 / std::sqrt(2.0), 1e-12);
    EXPECT_NEAR(*m.reader_rms, std::sqrt((0.0004 + 0.0001) / 2), 1e-12);
    EXPECT_NEAR(m.seconds, 20, 1e-12);
    EXPECT_TRUE(mark(std::vector<Reading>{{1.2, 1, {}, -1, 0}, {2.21, 2, {}, -1, 0}, {3.19, 3, {}, -1, 0}}).biased());
    EXPECT_FALSE(mark(std::vector<Reading>{{1.2, 1, {}, -1, 0}}).biased()) << "one alone tells no bias";
    EXPECT_LT(mark(std::vector<Reading>{{0.5, 1, {}, -1, 0}, {2.1, 2, {}, -1, 0}}).worst, 0) << "with its sign";
}

TEST(Marking, CallsAreRightMissedWronglyMadeOrMistaken)
{
    struct Row {
        Call call;
        Called how;
    };
    std::vector<Call> all;
    for (const Row& row : {Row{{"leak", "leak", 4}, Called::right}, {{"none", "none", 4}, Called::right},
             {{"none", "leak", 4}, Called::missed}, {{"leak", "none", 4}, Called::wrongly},
             {{"cough", "leak", 4}, Called::mistaken}}) {
        EXPECT_EQ(called(row.call), row.how) << row.call.given << " " << row.call.truth;
        all.push_back(row.call);
    }
    const CallMark m = mark(all);
    EXPECT_EQ((std::vector{m.n, m.right, m.missed, m.wrongly, m.mistaken}), (std::vector{5, 2, 1, 1, 1}));
    EXPECT_NEAR(m.share(), 0.4, 1e-12);
}

TEST(Marking, APassAsksForWhatItNamesAndNothingElse)
{
    NumberMark good, bad;
    good.n = bad.n = 3;
    good.rms = 0.05, good.bias = -0.02;
    bad.rms = 0.06, bad.bias = -0.2;
    CallMark eight;
    eight.n = 10, eight.right = 8;
    EXPECT_TRUE(passed({0.05, {}, {}}, good, {}));
    EXPECT_FALSE(passed({0.05, {}, {}}, bad, {}));
    EXPECT_TRUE(passed({{}, 0.1, {}}, good, {})) << "to either side";
    EXPECT_FALSE(passed({{}, 0.1, {}}, bad, {}));
    EXPECT_TRUE(passed({{}, {}, 0.8}, {}, eight));
    EXPECT_FALSE(passed({{}, {}, 0.81}, {}, eight));
    EXPECT_FALSE(passed({0.05, {}, 0.8}, good, {})) << "both are asked for";
    EXPECT_FALSE(passed({}, {}, {})) << "nothing was answered";
}

TEST(Marking, ProgressIsHeldAgainstWhatRunsScatterByThemselves)
{
    using Says = Progress::Says;
    struct Row {
        std::vector<double> runs;
        Says says;
    };
    for (const Row& row :
        {Row{{}, Says::too_few}, {{5, 4, 5, 4, 1}, Says::too_few}, {{5, 4, 5, 4, 5, 4.5}, Says::as_before},
            {{5, 4, 5, 4, 5, 1}, Says::better}, {{5, 4, 5, 4, 5, 9}, Says::worse},
            {{5, 5, 5, 5, 5, 5}, Says::as_before}, {{9, 8.5, 8, 7.5, 7, 3}, Says::better}})
        EXPECT_EQ(progress(row.runs).says, row.says)
            << row.runs.size() << " " << (row.runs.empty() ? 0 : row.runs.back());
    const Progress p = progress(std::vector<double>{5, 4, 5, 1});
    EXPECT_NEAR(p.mean, 14.0 / 3, 1e-12) << "of the runs before";
    // by simulation: what five unchanged runs foretell of a sixth; under 5 % called, and not far under
    std::mt19937_64 random(7);
    std::normal_distribution<> by_chance;
    int called = 0;
    constexpr int times = 20000;
    for (int i = 0; i < times; ++i) {
        std::vector<double> runs(6);
        for (double& one : runs) one = 5 + by_chance(random);
        const Says says = progress(runs).says;
        called += says == Says::better || says == Says::worse;
    }
    EXPECT_NEAR(100.0 * called / times, 4.6, 0.7);
}

TEST(Cost, OfABodyWhoseFatIsKnown)
{
    // 12 kg of fat, 66 kg of the rest: volume 12/0.9007 + 66/1.1, and what a perfect load cell shows of it
    const double volume = 12 / 0.9007 + 60, fat = 100 * 12.0 / 78;
    EXPECT_NEAR(fat_percent_of_volume(78, volume), fat, 0.1) << "Siri's constants are rounded";
    const double water = 0.9938; // 35 °C nearly
    const double kg = 78 - water * (volume + 1.4 + 0.1);
    EXPECT_NEAR(fat_percent_under_water(78, kg, 35.7, 1.4), fat, 0.1);
    EXPECT_NEAR(
        fat_percent_under_water(78, kg - 0.1, 35.7, 1.4) - fat_percent_under_water(78, kg, 35.7, 1.4), 0.64, 0.03)
        << "a hundred grams too light read as fat";
    using fusain::xray::Polyline;
    EXPECT_NEAR(apart_mm(Polyline{{10, 0}, {10, 100}}, Polyline{{14, 20}, {14, 60}}), 4, 1e-12);
    EXPECT_NEAR(apart_mm(Polyline{{10, 0}, {10, 100}}, Polyline{{6, 0}, {14, 100}}), 2, 0.06) << "on both sides of it";
    EXPECT_EQ(apart_mm(Polyline{{10, 0}, {10, 50}}, Polyline{{10, 60}, {10, 90}}), 0) << "no height in common";
}
