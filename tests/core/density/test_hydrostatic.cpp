// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/density/hydrostatic.h"

#include <gtest/gtest.h>

#include <cmath>

using namespace fusain;
using hydrostatic::LungRoute;

namespace {

/// The reference check: 75 kg, 3.60 kg under water, RV 1.60 L, 34 °C.
hydrostatic::Input reference_man()
{
    hydrostatic::Input in;
    in.sex = Sex::male;
    in.age_y = 30;
    in.height_cm = 178;
    in.mass_kg = 75;
    in.trials_kg = {3.60, 3.60, 3.60};
    in.water_temp_c = 34;
    in.lung.residual_volume_l = 1.60;
    return in;
}

double fat(const hydrostatic::Input& in)
{
    const auto r = hydrostatic::compute(in);
    return r ? (*r)[quantity::fat_percent].value : NAN;
}

std::string code(const hydrostatic::Input& in)
{
    const auto r = hydrostatic::compute(in);
    return r.messages().empty() ? "" : r.messages().front().code;
}

bool says(const hydrostatic::Input& in, const std::string& wanted)
{
    const auto r = hydrostatic::compute(in);
    return std::any_of(r.messages().begin(), r.messages().end(), [&](const Message& m) { return m.code == wanted; });
}

} // namespace

TEST(Hydrostatic, CheckValuesAndSensitivities)
{
    const auto r = hydrostatic::compute(reference_man());
    ASSERT_TRUE(r);
    EXPECT_NEAR((*r)[quantity::body_density].value, 1.06984, 5e-6);
    EXPECT_NEAR((*r)[quantity::fat_percent].value, 12.69, 5e-3);
    struct Row {
        const char* what;
        void (*change)(hydrostatic::Input&);
        double expected;
    };
    const Row rows[] = {
        {"RV +0.1 L", [](hydrostatic::Input& i) { i.lung.residual_volume_l += 0.1; }, -0.66},
        {"W +0.1 kg",
            [](hydrostatic::Input& i) {
                i.trials_kg = {3.7, 3.7, 3.7};
            },
            -0.66},
        {"M +0.1 kg", [](hydrostatic::Input& i) { i.mass_kg += 0.1; }, 0.05},
        {"water +1 °C", [](hydrostatic::Input& i) { i.water_temp_c += 1; }, 0.16},
        {"gut gas +0.05 L", [](hydrostatic::Input& i) { i.gut_gas_l += 0.05; }, -0.33},
        {"salt 1 g/L", [](hydrostatic::Input& i) { i.salinity_g_per_l = 1; }, -0.33},
    };
    for (const Row& row : rows) {
        hydrostatic::Input in = reference_man();
        row.change(in);
        EXPECT_NEAR(fat(in) - fat(reference_man()), row.expected, 0.015) << row.what;
    }
}

TEST(Hydrostatic, ExactDerivativesAgreeWithCentralDifferences)
{
    std::vector<hydrostatic::Input> inputs(4, reference_man());
    inputs[1].lung = {LungRoute::vital_capacity, 0, 5.1, true, 0, 0, ""};
    inputs[2].lung = {LungRoute::vital_capacity, 0, 4.9, false, 22.5, 748, ""};
    inputs[2].trials_kg = {3.51, 3.58, 3.60, 3.59};
    inputs[3].lung = {LungRoute::age_height, 0, 0, true, 0, 0, "boren_black"};
    inputs[3].sex = Sex::female;
    inputs[3].conversion = "brozek_1963";
    for (const auto& in : inputs) {
        const auto exact = hydrostatic::compute(in);
        ASSERT_TRUE(exact) << exact.messages().front().text;
        const auto central = hydrostatic::fat_budget_central(in);
        EXPECT_NEAR(exact->budget(quantity::fat_percent).u, central.u, 1e-6 * central.u);
        ASSERT_EQ(exact->budget(quantity::fat_percent).shares.size(), central.shares.size());
        double sum = 0;
        for (std::size_t i = 0; i < central.shares.size(); ++i) {
            const auto& a = exact->budget(quantity::fat_percent).shares[i];
            const auto& b = central.shares[i];
            EXPECT_EQ(a.input.symbol, b.input.symbol);
            EXPECT_NEAR(a.sensitivity, b.sensitivity, 1e-5 * (1e-3 + std::abs(b.sensitivity))) << a.input.title;
            sum += a.fraction;
        }
        EXPECT_NEAR(sum, 1, 1e-12);
        EXPECT_NEAR(
            std::hypot((*exact)[quantity::fat_percent].u_measurement(), (*exact)[quantity::fat_percent].u_model),
            exact->budget(quantity::fat_percent).u, 1e-9);
    }
}

TEST(Hydrostatic, ConversionErrorIsThePublishedOne)
{
    EXPECT_NEAR((*hydrostatic::compute(reference_man()))[quantity::fat_percent].u_model, 3.7, 0.15);
    hydrostatic::Input group = reference_man();
    group.conversion = "wagner_heyward_2001";
    EXPECT_NEAR((*hydrostatic::compute(group))[quantity::fat_percent].u_model, 2.7, 0.15);
}

TEST(Hydrostatic, LadderAddsUpAndStoryEndsInTheResult)
{
    const auto r = hydrostatic::compute(reference_man());
    double litres = 0;
    for (const auto& rung : r->ladder)
        if (&rung != &r->ladder.back()) litres += rung.size;
    EXPECT_NEAR(litres, r->ladder.back().size, 1e-12);
    EXPECT_EQ(r->ladder.back().size, (*r)[quantity::body_volume].value);
    const auto fat_step =
        std::find_if(r->story.begin(), r->story.end(), [](const StoryStep& s) { return s.symbol == "%F"; });
    ASSERT_NE(fat_step, r->story.end());
    EXPECT_EQ(fat_step->value, (*r)[quantity::fat_percent].value);
    for (const StoryStep& s : r->story) EXPECT_FALSE(s.source.empty()) << s.title << " has no source";
}

TEST(Hydrostatic, WhatIfsAreRecomputations)
{
    hydrostatic::Input more = reference_man();
    more.lung.residual_volume_l += 0.1;
    const auto list = hydrostatic::what_ifs(reference_man());
    ASSERT_GE(list.size(), 5u);
    EXPECT_NEAR(list[0].fat_percent_change, fat(more) - fat(reference_man()), 1e-9);
    EXPECT_GT(list[1].fat_percent_change, 0) << "leftover air makes the client look fatter";
    EXPECT_LT(list[3].fat_percent_change, -15) << "a belt that was not zeroed is a large mistake";
    EXPECT_TRUE(hydrostatic::what_ifs({}).empty());
}

TEST(Hydrostatic, RefusalsNameTheField)
{
    struct Row {
        const char* what;
        void (*change)(hydrostatic::Input&);
        const char *code, *field;
    };
    const Row rows[] = {
        {"mass", [](hydrostatic::Input& i) { i.mass_kg = -3; }, "out_of_range", "mass_kg"},
        {"height in metres", [](hydrostatic::Input& i) { i.height_cm = 1.78; }, "out_of_range", "height_cm"},
        {"age NaN", [](hydrostatic::Input& i) { i.age_y = NAN; }, "out_of_range", "age_y"},
        {"water", [](hydrostatic::Input& i) { i.water_temp_c = 58; }, "out_of_range", "hydrostatic.water_temp_c"},
        {"gut gas", [](hydrostatic::Input& i) { i.gut_gas_l = -0.1; }, "out_of_range", "hydrostatic.gut_gas_l"},
        {"trial", [](hydrostatic::Input& i) { i.trials_kg[1] = NAN; }, "out_of_range", "hydrostatic.trials_kg"},
        {"RV", [](hydrostatic::Input& i) { i.lung.residual_volume_l = 3.6; }, "out_of_range",
            "hydrostatic.lung.residual_volume_l"},
        {"RV predicted",
            [](hydrostatic::Input& i) {
                i.lung = {LungRoute::vital_capacity, 0, 1.8, true, 0, 0, ""};
            },
            "out_of_range", "hydrostatic.lung.vital_capacity_l"},
        {"gas",
            [](hydrostatic::Input& i) {
                i.lung = {LungRoute::vital_capacity, 0, 4.8, false, 50, 760, ""};
            },
            "out_of_range", "hydrostatic.lung.gas_temp_c"},
        {"equation",
            [](hydrostatic::Input& i) {
                i.lung = {LungRoute::age_height, 0, 0, true, 0, 0, "nobody_2000"};
            },
            "unknown_choice", "hydrostatic.lung.equation"},
        {"rule", [](hydrostatic::Input& i) { i.trial_rule = "best"; }, "unknown_choice", "hydrostatic.trial_rule"},
        {"conversion", [](hydrostatic::Input& i) { i.conversion = "siri"; }, "unknown_choice", "conversion"},
        {"no constants", [](hydrostatic::Input& i) { i.conversion = "lohman_1989"; }, "out_of_range", "age_y"},
        {"density",
            [](hydrostatic::Input& i) {
                i.trials_kg = {-9, -9, -9};
            },
            "out_of_range", "body_density_kg_per_l"},
        {"belt not zeroed",
            [](hydrostatic::Input& i) {
                i.trials_kg = {11.3, 11.3, 11.3};
            },
            "out_of_range", "body_density_kg_per_l"},
    };
    for (const Row& row : rows) {
        hydrostatic::Input in = reference_man();
        row.change(in);
        const auto r = hydrostatic::compute(in);
        EXPECT_FALSE(r) << row.what;
        ASSERT_FALSE(r.messages().empty()) << row.what;
        EXPECT_STREQ(r.status(), "error") << row.what;
        EXPECT_EQ(r.messages().front().code, row.code) << row.what;
        EXPECT_EQ(r.messages().front().field, row.field) << row.what;
    }
}

TEST(Hydrostatic, CautionsStillGiveTheResult)
{
    struct Row {
        const char* code;
        void (*change)(hydrostatic::Input&);
    };
    const Row rows[] = {
        {"still_improving",
            [](hydrostatic::Input& i) {
                i.trials_kg = {3.55, 3.56, 3.60};
            }},
        {"negative_under_water",
            [](hydrostatic::Input& i) {
                i.trials_kg = {-0.5, -0.5, -0.5};
            }},
        {"outside_group", [](hydrostatic::Input& i) { i.age_y = 66; }},
        {"outside_group", [](hydrostatic::Input& i) { i.conversion = "ortiz_1992"; }},
        {"vital_capacity_unusual",
            [](hydrostatic::Input& i) {
                i.lung = {LungRoute::vital_capacity, 0, 2.6, true, 0, 0, ""};
            }},
        {"under_minimum",
            [](hydrostatic::Input& i) {
                i.trials_kg = {5.0, 5.0, 5.0};
            }},
        {"fat_unusual",
            [](hydrostatic::Input& i) {
                i.trials_kg = {5.3, 5.3, 5.3};
            }},
        {"density_unusual",
            [](hydrostatic::Input& i) {
                i.trials_kg = {-3.4, -3.4, -3.4};
            }},
        {"low_reserve",
            [](hydrostatic::Input& i) {
                i.mass_kg = 55;
                i.trials_kg = {3.0, 3.0, 3.0};
            }},
        {"trials_scatter",
            [](hydrostatic::Input& i) {
                i.trial_rule = "last_three_mean";
                i.trials_kg = {3.60, 2.60, 3.10};
            }},
        {"trials_scatter",
            [](hydrostatic::Input& i) {
                i.trial_rule = "behnke_wilmore_1974";
                i.trials_kg = {3.60, 3.60, 3.20};
            }},
        {"trials_scatter",
            [](hydrostatic::Input& i) {
                i.trial_rule = "mean_all";
                i.trials_kg = {3.60, 3.49};
            }},
    };
    for (const Row& row : rows) {
        hydrostatic::Input in = reference_man();
        row.change(in);
        EXPECT_TRUE(hydrostatic::compute(in)) << row.code << ": " << code(in);
        EXPECT_TRUE(says(in, row.code)) << row.code;
    }
    EXPECT_TRUE(hydrostatic::compute(reference_man()).messages().empty());
    hydrostatic::Input agreeing = reference_man();
    for (const char* rule : {"last_three_mean", "behnke_wilmore_1974", "mean_all"}) {
        agreeing.trial_rule = rule;
        agreeing.trials_kg = {3.60, 3.60, 3.50}; // 100 g, not a hair more in binary
        EXPECT_FALSE(says(agreeing, "trials_scatter")) << rule;
    }
}

TEST(Hydrostatic, ScatterFloorReadingsAndZeroMakeTheDoubtOfTheTrials)
{
    const auto u = [](auto change) {
        hydrostatic::Input in = reference_man();
        change(in);
        return (*hydrostatic::compute(in))[quantity::underwater_mass].u;
    };
    const hydrostatic::InputErrors e;
    const double zero = e.zero_kg, least = std::hypot(e.trial_floor_kg, e.reading_kg);
    // three equal trials are no proof of anything: the floor and the readings' own error stay
    EXPECT_NEAR(u([](auto&) {}), std::hypot(least / std::sqrt(3.0), zero), 1e-12);
    EXPECT_NEAR(u([](auto&) {}), 0.0163, 2e-4) << "the floor itself, 20 g from trial to trial";
    // all good trials scatter, not only the three that were chosen for agreeing; three of them count
    const std::vector<double> kg = {3.40, 3.60, 3.62, 3.64};
    double mean = 0, squares = 0;
    for (double k : kg) mean += k / 4;
    for (double k : kg) squares += (k - mean) * (k - mean);
    EXPECT_NEAR(
        u([&](auto& i) { i.trials_kg = kg; }), std::hypot(std::sqrt(squares / 3) / std::sqrt(3.0), zero), 1e-12);
    // readings that say their own error, and the zero's
    EXPECT_NEAR(u([](auto& i) {
        i.trials_u_kg = {0.05, 0.05, 0.05};
    }),
        std::hypot(std::hypot(e.trial_floor_kg, 0.05) / std::sqrt(3.0), zero), 1e-12);
    EXPECT_NEAR(u([](auto& i) { i.zero_sd_kg = 0.03; }), std::hypot(least / std::sqrt(3.0), zero, 0.03), 1e-12);
    EXPECT_NEAR(u([](auto& i) {
        i.trial_rule = "mean_all";
        i.trials_kg = {3.60};
    }),
        std::hypot(std::hypot(e.single_trial_kg, e.reading_kg), zero), 1e-12);
    // height's doubt reaches the indexes
    const auto r = hydrostatic::compute(reference_man());
    EXPECT_NEAR(
        (*r)[quantity::bmi].u, (*r)[quantity::bmi].value * std::hypot(2 * e.height_cm / 178, e.mass_kg / 75), 1e-4);
    EXPECT_NEAR((*r)[quantity::bmi].u, 0.13, 0.01);
}

TEST(Trials, EachRuleOnTheSameTables)
{
    struct Row {
        const char* rule;
        std::vector<double> kg;
        double expected; // NaN: refused
        const char* code;
    };
    const Row rows[] = {
        {"best_three_within_100g", {2.31, 2.42, 2.45, 2.44}, (2.42 + 2.45 + 2.44) / 3, ""},
        {"best_three_within_100g", {2.35, 2.40, 2.45}, 2.40, ""}, // exactly 100 g, not a hair more in binary
        {"best_three_within_100g", {2.349, 2.40, 2.45}, NAN, "trials_disagree"},
        {"best_three_within_100g", {3.0, 2.45, 2.44, 2.43}, 2.44, ""}, // a heavy stray is passed over
        {"best_three_within_100g", {2.4, 2.4}, NAN, "too_few_trials"},
        {"best_three_within_100g", {}, NAN, "too_few_trials"},
        {"behnke_wilmore_1974", {3.43, 3.44, 3.44}, 3.44, ""},
        {"behnke_wilmore_1974", {3.27, 3.35, 3.43, 3.43, 3.44}, 3.43, ""},
        {"behnke_wilmore_1974", {3.27, 3.35, 3.43, 3.44}, 3.35, ""},
        {"behnke_wilmore_1974", {3.431, 3.4349}, 3.43, ""}, // the same once rounded
        {"behnke_wilmore_1974", {3.40, 3.44}, NAN, "trials_disagree"},
        {"behnke_wilmore_1974", {}, NAN, "too_few_trials"},
        {"last_three_mean", {9, 1, 2, 3}, 2, ""},
        {"last_three_mean", {1, 2}, NAN, "too_few_trials"},
        {"mean_all", {1, 2, 3, 6}, 3, ""},
        {"mean_all", {}, NAN, "too_few_trials"},
    };
    for (const Row& row : rows) {
        const auto s = trials::find(row.rule)->select(row.kg);
        EXPECT_EQ(bool(s), !std::isnan(row.expected)) << row.rule << " of " << row.kg.size();
        if (s)
            EXPECT_NEAR(s->underwater_mass_kg, row.expected, 1e-12) << row.rule;
        else
            EXPECT_EQ(s.messages().front().code, row.code) << row.rule;
    }
    const auto used = trials::best_three_within_100g(std::vector<double>{2.31, 2.42, 2.45, 2.44})->used;
    EXPECT_EQ(used, (std::vector<int>{1, 2, 3}));
}

TEST(Trials, Advice)
{
    const auto& rule = *trials::find(trials::default_id);
    using trials::Next;
    const std::pair<std::vector<double>, Next> rows[] = {
        {{}, Next::more_needed},
        {{2.4, 2.4}, Next::more_needed},
        {{2.1, 2.3, 2.5}, Next::more_needed},
        {{2.40, 2.41, 2.44}, Next::one_more_would_tell},
        {{2.42, 2.44, 2.43}, Next::enough},
        {{1, 2, 3, 4, 5, 6, 7, 8, 9, 10}, Next::limit_reached},
    };
    const auto scattered = trials::advise(std::vector<double>{3.60, 2.60, 3.10}, *trials::find("last_three_mean"));
    EXPECT_EQ(scattered.next, Next::one_more_would_tell) << "1000 g apart is not enough";
    EXPECT_EQ(scattered.sentence.find("enough"), std::string::npos) << scattered.sentence;
    for (const auto& [kg, next] : rows) {
        EXPECT_EQ(trials::advise(kg, rule).next, next) << kg.size();
        EXPECT_FALSE(trials::advise(kg, rule).sentence.empty());
    }
}
