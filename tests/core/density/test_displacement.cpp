// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/density/displacement.h"

#include <gtest/gtest.h>

using namespace fusain;
using displacement::LungRoute;

namespace {

/// The reference man: 75 kg, 178 cm, 30 y; a raw volume that gives a plausible density.
displacement::Input reference_man()
{
    displacement::Input in;
    in.sex = Sex::male;
    in.age_y = 30;
    in.height_cm = 178;
    in.mass_kg = 75;
    in.raw_volumes_l = {67.90, 67.96};
    return in;
}

double fat(const displacement::Input& in)
{
    const auto r = displacement::compute(in);
    return r ? (*r)[quantity::fat_percent].value : NAN;
}

} // namespace

TEST(Displacement, CheckValuesAndSensitivities)
{
    EXPECT_NEAR(displacement::du_bois_1916_cm2(75.0, 178.0), 19267, 0.5);
    const auto r = displacement::compute(reference_man());
    ASSERT_TRUE(r);
    EXPECT_NEAR((*r)[quantity::surface_area_artifact].value, -0.900, 5e-4);
    EXPECT_NEAR((*r)[quantity::thoracic_gas_volume].value, 3.98, 5e-3);
    EXPECT_NEAR((*r)[quantity::body_volume].value, 67.93 + 0.900 + 0.4 * 3.9816, 5e-4);
    struct Row {
        const char* what;
        void (*change)(displacement::Input&);
        double expected, within;
    };
    const Row rows[] = {
        {"lung gas +0.1 L",
            [](displacement::Input& i) {
                i.lung = {LungRoute::measured,
                    lung::find_gas("mccrory_1998")->predict(i.sex, i.height_cm, i.age_y) + 0.1, 0.1, ""};
            },
            0.26, 0.005},
        {"raw volume +0.1 L",
            [](displacement::Input& i) {
                for (double& v : i.raw_volumes_l) v += 0.1;
            },
            0.66, 0.01},
        {"another conversion", [](displacement::Input& i) { i.conversion = "brozek_1963"; },
            100 * (4.570 / 1.0650 - 4.142) - 100 * (4.95 / 1.0650 - 4.50), 0.02},
    };
    for (const Row& row : rows) {
        displacement::Input in = reference_man();
        row.change(in);
        EXPECT_NEAR(fat(in) - fat(reference_man()), row.expected, row.within) << row.what;
    }
    // 5 % of the surface term, the cap, and both corrections left out, as published
    const auto what_ifs = displacement::what_ifs(reference_man());
    EXPECT_NEAR(what_ifs[1].fat_percent_change, 0.30, 0.01);
    EXPECT_NEAR(what_ifs[0].fat_percent_change, 3 * 0.264, 0.01);
    const double without = 100 * (4.95 / (75 / 67.93) - 4.50);
    EXPECT_NEAR(without - fat(reference_man()), -16.4, 0.5);
}

TEST(Displacement, RunsThatAgree)
{
    struct Row {
        std::vector<double> runs;
        std::vector<int> used; ///< empty: none
        const char* code;
    };
    const Row rows[] = {
        {{}, {}, "too_few_runs"},
        {{70}, {}, "too_few_runs"},
        {{70.000, 70.150}, {0, 1}, ""},
        {{70.000, 70.151}, {}, "runs_disagree"},
        {{90.000, 90.180}, {0, 1}, ""},       // 0.2 % of 90 L
        {{100.0, 100.2, 100.15}, {0, 1}, ""}, // the first two agree: the third is not looked at, though it is closer
        {{70.0, 70.4, 70.45}, {1, 2}, ""},
        {{70.0, 70.4, 70.1}, {0, 2}, ""},
        {{70.0, 70.2, 70.1}, {0, 2}, ""}, // a tie: the earlier pair
        {{70.0, 71.0, 72.1}, {}, "runs_disagree"},
        {{70.0, 71.0, 72.1, 72.0}, {2, 3}, ""},
    };
    for (const Row& row : rows) {
        const auto chosen = displacement::agree(row.runs);
        EXPECT_EQ(bool(chosen), !row.used.empty()) << ::testing::PrintToString(row.runs);
        if (chosen)
            EXPECT_EQ(chosen->used, row.used) << ::testing::PrintToString(row.runs);
        else
            EXPECT_EQ(chosen.messages().front().code, row.code);
    }
    using displacement::Next;
    EXPECT_EQ(displacement::advise(std::vector<double>{70.0}).next, Next::another_run);
    EXPECT_EQ(displacement::advise(std::vector<double>{70.0, 70.1}).next, Next::enough);
    EXPECT_EQ(displacement::advise(std::vector<double>{70.0, 71.0}).next, Next::another_run);
    EXPECT_EQ(displacement::advise(std::vector<double>{70.0, 71.0, 72.1}).next, Next::start_over);
}

TEST(Displacement, ExactDerivativesMatchCentralDifferencesAndTheLadderAddsUp)
{
    for (const auto route : {LungRoute::measured, LungRoute::predicted}) {
        displacement::Input in = reference_man();
        in.lung.route = route;
        in.lung.thoracic_gas_volume_l = 3.41;
        const auto r = displacement::compute(in);
        ASSERT_TRUE(r);
        const auto central = displacement::fat_budget_central(in);
        EXPECT_NEAR(r->budget(quantity::fat_percent).u, central.u, 1e-6 * central.u);
        double sum = 0;
        for (std::size_t i = 0; i + 1 < r->ladder.size(); ++i) sum += r->ladder[i].size;
        EXPECT_NEAR(sum, r->ladder.back().size, 1e-12);
        EXPECT_EQ(r->ladder.back().size, (*r)[quantity::body_volume].value);
        EXPECT_NEAR((*r)[quantity::fat_mass].value + (*r)[quantity::fat_free_mass].value, 75, 1e-12);
        EXPECT_FALSE(r->story.empty());
    }
    // a measured lung gas is worth having: the doubt shrinks
    displacement::Input measured = reference_man();
    measured.lung = {LungRoute::measured, 3.98, 0.12, ""};
    EXPECT_LT((*displacement::compute(measured))[quantity::fat_percent].u_measurement(),
        (*displacement::compute(reference_man()))[quantity::fat_percent].u_measurement());
}

TEST(Displacement, TwoRunsThatAgreeByChanceAreStillUncertain)
{
    displacement::Input in = reference_man();
    in.raw_volumes_l = {67.9, 67.9};
    const auto u = [&] { return (*displacement::compute(in))[quantity::raw_volume].u; };
    EXPECT_NEAR(u(), std::hypot(in.errors.single_run_l / std::sqrt(2.0), in.errors.calibration_l), 1e-12)
        << "equal runs: the floor stays";
    in.errors.calibration_l = 0.2;
    EXPECT_NEAR(u(), std::hypot(in.errors.single_run_l / std::sqrt(2.0), 0.2), 1e-12) << "the calibration's own";
    in.errors.calibration_l = 0.02;
    in.raw_volumes_l = {67.9, 68.04};
    EXPECT_NEAR(u(), std::hypot(0.07, 0.02), 1e-9) << "their own scatter, when it is larger";
}

TEST(Displacement, DoubtsAreSaidAndTheResultIsStillGiven)
{
    struct Row {
        const char* code;
        void (*change)(displacement::Input&);
    };
    const Row rows[] = {
        {"outside_group",
            [](displacement::Input& i) {
                i.age_y = 12;
                i.height_cm = 150;
                i.mass_kg = 60;
                i.raw_volumes_l = {55, 55};
            }},
        {"lung_gas_unusual",
            [](displacement::Input& i) {
                i.lung = {LungRoute::measured, 1.2, 0.1, ""};
            }},
        {"density_unusual",
            [](displacement::Input& i) {
                i.raw_volumes_l = {76.0, 76.0};
            }},
        {"under_minimum",
            [](displacement::Input& i) {
                i.raw_volumes_l = {66.4, 66.4};
            }},
        {"fat_unusual",
            [](displacement::Input& i) {
                i.raw_volumes_l = {76.0, 76.0};
            }},
    };
    for (const Row& row : rows) {
        displacement::Input in = reference_man();
        row.change(in);
        const auto r = displacement::compute(in);
        EXPECT_TRUE(r) << row.code;
        EXPECT_TRUE(std::any_of(r.messages().begin(), r.messages().end(), [&](const Message& m) {
            return m.code == row.code;
        })) << row.code;
    }
    EXPECT_TRUE(displacement::compute(reference_man()).messages().empty());
}
