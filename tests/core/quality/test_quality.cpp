// SPDX-License-Identifier: GPL-3.0-or-later
// Checks against a reference, and what a control chart says.
#include "core/quality/quality.h"

#include <gtest/gtest.h>

#include <cmath>
#include <random>

using namespace fusain;
using namespace fusain::quality;

TEST(Check, AgainstItsReference)
{
    struct Row {
        const char* name;
        Tolerance t;
        std::vector<double> readings;
        bool passed;
        const char* words;
    };
    const Row rows[] = {
        {"cylinder good", cylinder(50.012), {50.02, 50.00, 50.05, 49.98, 50.03}, true, "Passed"},
        {"cylinder mean just inside", cylinder(50.0), {50.1, 50.1, 50.1, 50.1, 50.1}, true, "Passed"},
        {"cylinder mean outside", cylinder(50.0), {50.11, 50.10, 50.11, 50.10, 50.11}, false, "either way"},
        {"cylinder spread", cylinder(50.0), {49.90, 50.10, 49.92, 50.09, 50.0}, false, "spread may be 0.075 L"},
        {"cylinder mistyped", cylinder(20.5), {50.2, 50.2, 50.2, 50.2, 50.2}, false, "Failed"},
        {"scale good", scale_mass(20), {20.00, 20.01, 19.99}, true, "0.00 kg against"},
        {"scale off", scale_mass(20), {20.06, 20.06, 20.06}, false, "Failed"},
        {"scale repeats differ", scale_mass(20), {19.97, 20.03, 20.00}, false, "repeats may differ"},
        {"resistor", resistor(500), {504, 505, 504}, true, "Passed"},
        {"resistor off", resistor(500), {506, 506, 506}, false, "Failed"},
        {"phantom", phantom(1.1, "g/cm²"), {1.1164}, true, "Passed"},
        {"phantom off", phantom(1.1, "g/cm²"), {1.1170}, false, "Failed"},
    };
    for (const Row& row : rows) {
        const auto r = check(row.t, row.readings);
        ASSERT_TRUE(r) << row.name;
        EXPECT_EQ(r->passed, row.passed) << row.name << ": " << r->words;
        EXPECT_NE(r->words.find(row.words), std::string::npos) << row.name << ": " << r->words;
    }
    EXPECT_FALSE(check(cylinder(50), std::vector<double>{50, 50, 50, 50}));
    EXPECT_FALSE(check(scale_mass(20), std::vector<double>{20, NAN, 20}));
}

namespace {

Chart chart_of(const std::function<double(int)>& shift, int n, unsigned seed)
{
    std::mt19937 random(seed);
    std::normal_distribution<double> noise(0, 0.01);
    std::vector<Point> points;
    for (int i = 0; i < n; ++i) points.push_back({"day " + std::to_string(i), 20 + noise(random) + shift(i)});
    return chart(points, "kg", 3, 0.002);
}

} // namespace

TEST(Chart, SaysWhatItShows)
{
    struct Row {
        const char* name;
        std::function<double(int)> shift;
        int n;
        Sign sign;
        const char* words;
    };
    const Row rows[] = {
        {"nothing yet", [](int) { return 0.0; }, 0, Sign::no_baseline, "No check yet"},
        {"too few", [](int) { return 0.0; }, 7, Sign::no_baseline, "from the 8th"},
        {"steady", [](int) { return 0.0; }, 60, Sign::steady, "no drift"},
        {"step after a service", [](int i) { return i < 40 ? 0.0 : 0.04; }, 55, Sign::step, "Stepped by +0.04"},
        {"slow drift down", [](int i) { return i < 25 ? 0.0 : -0.0015 * (i - 25); }, 60, Sign::drift,
            "Drifts: \u22120.0"},
        {"one point outside, now", [](int i) { return i == 44 ? 0.06 : 0.0; }, 45, Sign::outside, "outside the limits"},
        {"one point outside, long ago", [](int i) { return i == 30 ? 0.045 : 0.0; }, 60, Sign::steady,
            "outside earlier"},
    };
    for (const Row& row : rows)
        for (unsigned seed : {1u, 2u, 3u}) {
            const Chart c = chart_of(row.shift, row.n, seed);
            EXPECT_EQ(static_cast<int>(c.sign), static_cast<int>(row.sign))
                << row.name << " " << seed << ": " << c.words;
            if (seed == 1) EXPECT_NE(c.words.find(row.words), std::string::npos) << row.name << ": " << c.words;
        }
    EXPECT_NEAR(chart_of(rows[3].shift, 55, 5).at, 40, 3);
}

TEST(Chart, AFailedCheckNeverEntersTheBaselineAndSpreadsKeepTheirDigits)
{
    std::vector<Point> points;
    for (int i = 0; i < 30; ++i) points.push_back({"day", 20 + 0.004 * ((i % 3) - 1), true});
    const Chart clean = chart(points, "kg", 2, 0.0001);
    points.insert(points.begin() + 3, {{"bad", 21.5, false}, {"bad", 18.2, false}});
    const Chart with = chart(points, "kg", 2, 0.0001);
    EXPECT_EQ(with.baseline_n, clean.baseline_n);
    EXPECT_NEAR(with.mean, clean.mean, 1e-4) << "a failed check is no part of what the instrument was";
    EXPECT_NEAR(with.sd, clean.sd, 1e-4);
    EXPECT_NE(clean.words.find("± 0.0099 kg"), std::string::npos) << clean.words;
    for (Point& p : points) p.passed = false;
    EXPECT_EQ(chart(points, "kg", 2, 0.0001).sign, Sign::no_baseline);
    for (const auto& [spread, decimals, words] : {std::tuple{0.004, 2, "0.004"}, {0.0123, 2, "0.012"},
             {0.25, 2, "0.25"}, {0.2, 2, "0.20"}, {0.0, 2, "0.00"}, {0.00011, 3, "0.00011"}})
        EXPECT_EQ(spread_text(spread, decimals), words);
}

TEST(Chart, FalseAlarmsAreRareAndDriftIsFoundEarly)
{
    int alarms = 0, late = 0;
    for (unsigned seed = 10; seed < 210; ++seed) {
        alarms += chart_of([](int) { return 0.0; }, 60, seed).sign != Sign::steady;
        // one SD of the baseline in ten days: found before a single point would leave the limits for certain
        late += chart_of([](int i) { return i < 20 ? 0.0 : 0.001 * (i - 20); }, 55, seed).sign == Sign::steady;
    }
    EXPECT_LE(alarms, 24) << "of 200 steady instruments"; // a baseline of twenty is itself uncertain
    EXPECT_LE(late, 10) << "of 200 drifting ones";
}
