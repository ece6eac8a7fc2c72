// SPDX-License-Identifier: GPL-3.0-or-later
// When a result says "measure again" or "see a clinician": every limit from both sides.
#include "core/quality/judgement.h"

#include <limits>

#include <gtest/gtest.h>

using namespace fusain;
using judgement::LastVisit;

TEST(Judgement, WaterOutsideTheCellsWithSwellingOnly)
{
    EXPECT_FALSE(judgement::judge_water(0.48, false));
    EXPECT_FALSE(judgement::judge_water(0.45, true));
    const auto said = judgement::judge_water(0.46, true);
    ASSERT_TRUE(said);
    EXPECT_NE(said->text.find("physician"), std::string::npos);
    EXPECT_TRUE(judgement::forbids_plan(*said));
    EXPECT_FALSE(judgement::judge_water(std::numeric_limits<double>::quiet_NaN(), true));
}

TEST(Judgement, TheSamePersonTheSameMass)
{
    struct Row {
        double now, then, days;
        const char* code; ///< empty: nothing to say
    };
    const Row rows[] = {
        {72.0, 70.0, 13, "mass_differs"},                                                // 2.5 % of 70 is 1.75 kg
        {71.75, 70.0, 13, ""}, {71.76, 70.0, 13, "mass_differs"}, {102.0, 100.0, 3, ""}, // 2 kg, and less than 2.5 %
        {102.1, 100.0, 3, "mass_differs"}, {97.9, 100.0, 0, "mass_differs"}, {97.9, 100.0, 13.9, "mass_differs"},
        {97.9, 100.0, 14, "fast_fall"},                       // 1.05 kg a week
        {98.1, 100.0, 14, ""}, {78.3, 80.0, 14, "fast_fall"}, // 0.85 kg a week is over 1 % of 80 kg
        {78.5, 80.0, 14, ""}, {85.0, 80.0, 21, ""},           // a gain is no fall
        {70.0, 0, 3, ""}, {70.0, 80.0, -1, ""},               // a clock that was set back says nothing
    };
    for (const Row& row : rows) {
        const auto m = judgement::judge_mass(row.now, LastVisit{row.then, row.days});
        EXPECT_EQ(m ? m->code : "", row.code) << row.now << " after " << row.then << ", " << row.days << " days";
    }
    EXPECT_FALSE(judgement::judge_mass(70, std::nullopt));
    struct Pace {
        std::vector<LastVisit> weighings;
        bool fast;
    };
    for (const Pace& p : {Pace{{{80, 13}, {74, 0}}, true}, Pace{{{80, 13}, {78.2, 0}}, false}, // 1.6 kg may, and a day
             Pace{{{70, 14}, {68.1, 0}}, true}, Pace{{{70, 14}, {68.2, 0}}, false},            // 1.4 kg, and a day
             Pace{{{100, 49}, {98, 42}, {96, 35}, {93, 28}, {91, 21}, {89, 14}, {86, 7}, {84, 0}}, true},
             Pace{{{100, 56}, {93, 0}}, false}, Pace{{{100, 57}, {80, 0}}, false}, // no window is longer
             Pace{{{100, 84}, {90, 56}, {90, 0}}, true}, Pace{{{100, 90}, {90, 57}, {90, 0}}, false}, // long ago
             Pace{{{84, 30}, {100, 0}}, false}, Pace{{{100, -3}, {80, 0}}, false}}) {
        const auto m = judgement::judge_pace(p.weighings);
        EXPECT_EQ(m && m->code == "fast_fall", p.fast) << p.weighings.front().mass_kg << ' ' << p.weighings.size();
    }
    EXPECT_FALSE(judgement::judge_height(172.5, 171, 30));
    EXPECT_EQ(judgement::judge_height(172.6, 171, 30)->code, "height_differs");
    EXPECT_EQ(judgement::judge_height(169.4, 171, 18)->field, "height_cm");
    EXPECT_FALSE(judgement::judge_height(175, 171, 17.9)) << "who grows may differ";
    EXPECT_FALSE(judgement::judge_drift(70.00, 70.10));
    EXPECT_EQ(judgement::judge_drift(70.00, 69.89)->code, "mass_drifted");
}

TEST(Judgement, BuildsAndReserves)
{
    EXPECT_TRUE(judgement::low_reserve(Sex::male, 30, 16.6, 1.7));
    EXPECT_FALSE(judgement::low_reserve(Sex::male, 30, 16.7, 1.7));
    EXPECT_FALSE(judgement::low_reserve(Sex::male, 30, 16.6, 1.8));
    EXPECT_FALSE(judgement::low_reserve(Sex::male, 17, 15, 1)) << "adults only";
    EXPECT_TRUE(judgement::low_reserve(Sex::female, 30, 14.5, 3.8));
    const auto build = [](Sex sex, double age, double fat, double ffmi, double bmi) {
        const char* b = judgement::unusual_build(sex, age, fat, ffmi, bmi);
        return std::string(b ? b : "");
    };
    EXPECT_EQ(build(Sex::male, 30, 5.9, 20, 22), "very lean");
    EXPECT_EQ(build(Sex::male, 30, 6.1, 20, 22), "");
    EXPECT_EQ(build(Sex::female, 30, 13.9, 16, 20), "very lean");
    EXPECT_EQ(build(Sex::female, 30, 20, 19.9, 25), "very muscular");
    EXPECT_EQ(build(Sex::male, 30, 20, 22.9, 28), "very muscular");
    EXPECT_EQ(build(Sex::male, 30, 40, 22, 40), "very obese");
    EXPECT_EQ(build(Sex::male, 17, 4, 25, 45), "") << "children have constants of their own";
    for (const judgement::Caution& c : judgement::cautions()) {
        EXPECT_EQ(judgement::asks_again({c.code, Level::caution, "", ""}), c.measure_again);
        EXPECT_EQ(judgement::forbids_plan({c.code, Level::caution, "", ""}), c.no_plan);
    }
    EXPECT_FALSE(judgement::asks_again({"nobody_knows_this", Level::caution, "", ""}));
}
