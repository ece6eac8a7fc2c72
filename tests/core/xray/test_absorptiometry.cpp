// SPDX-License-Identifier: GPL-3.0-or-later
// From regions to the whole body: sums, ratios, doubts, refusals.
#include "core/quality/judgement.h"
#include "core/xray/absorptiometry.h"

#include <gtest/gtest.h>

#include <functional>

using namespace fusain;
using namespace fusain::xray;

namespace {

Input client()
{
    Input in;
    in.sex = Sex::female;
    in.age_y = 43.3;
    in.height_cm = 157.2;
    in.mass_kg = 49.9;
    in.given.fill(true);
    in.regions = {{{616, 2464, 123}, {416, 2177, 84}, {990, 1586, 79}, {4705, 17303, 959}, {3223, 5577, 263},
        {2538, 6381, 220}, {2397, 3296, 35}, {2438, 8342, 194}}};
    return in;
}

const Message* find(const Messages& messages, const std::string& code)
{
    for (const Message& m : messages)
        if (m.code == code) return &m;
    return nullptr;
}

} // namespace

TEST(Absorptiometry, EverythingAddsUp)
{
    const Input in = client();
    const auto r = compute(in);
    ASSERT_TRUE(r) << r.messages().front().text;
    const auto of = [&](const Quantity& q) { return (*r)[q].value; };
    EXPECT_DOUBLE_EQ(of(quantity::fat_free_mass), of(quantity::lean_soft_tissue) + of(quantity::bone_mineral));
    EXPECT_NEAR(of(quantity::fat_percent),
        100 * of(quantity::fat_mass) / (of(quantity::fat_mass) + of(quantity::fat_free_mass)), 1e-12);
    EXPECT_GT(of(quantity::tissue_fat_percent), of(quantity::fat_percent)) << "of soft tissue: without bone";
    double fat = 0;
    for (std::size_t i = 0; i < part_count; ++i) fat += of(quantity::region_fat[i]);
    EXPECT_NEAR(fat, of(quantity::fat_mass), 1e-12) << "android and gynoid overlap; they are not counted again";
    EXPECT_NEAR(of(quantity::legs_asymmetry), 5.577 - 6.381, 1e-12);
    EXPECT_NEAR(of(quantity::android_gynoid), (2397.0 / (2397 + 3296)) / (2438.0 / (2438 + 8342)), 1e-12);
    EXPECT_TRUE(r.messages().empty()) << r.messages().front().text;
    EXPECT_EQ(r->ladder.size(), 4u);
}

TEST(Absorptiometry, ALineMovesTheLegAndNotTheWhole)
{
    Input in = client();
    const auto r = compute(in);
    ASSERT_TRUE(r);
    in.errors.leg_line_kg = 2;
    const auto wide = compute(in);
    EXPECT_DOUBLE_EQ((*wide)[quantity::fat_percent].u, (*r)[quantity::fat_percent].u);
    EXPECT_DOUBLE_EQ((*wide)[quantity::bone_mineral].u, (*r)[quantity::bone_mineral].u);
    EXPECT_GT((*wide)[quantity::region_lean[4]].u, 3 * (*r)[quantity::region_lean[4]].u);
    EXPECT_GT((*wide)[quantity::appendicular_lean].u, (*r)[quantity::appendicular_lean].u);
    // what the tissue table is worth stands apart: it cancels in a change
    const Value& fat = (*r)[quantity::fat_percent];
    EXPECT_NEAR(fat.u_model, 1.25, 0.01);
    EXPECT_NEAR(fat.u_measurement(), 0.6, 0.06) << "this product's default precision of percent fat";
}

TEST(Absorptiometry, WhatCannotBeIsNamed)
{
    struct Case {
        const char *why, *code, *field;
        Level level;
        void (*spoil)(Input&);
    };
    const Case cases[] = {
        {"pregnant", "pregnant", "pregnant", Level::refused, [](Input& i) { i.pregnant = true; }},
        {"a region is missing", "missing_field", "absorptiometry.regions.left_leg", Level::error,
            [](Input& i) { i.given[5] = false; }},
        {"kilograms for grams below nothing", "out_of_range", "absorptiometry.regions.trunk.fat_g", Level::error,
            [](Input& i) { i.regions[3].fat_g = -1; }},
        {"an empty region", "out_of_range", "absorptiometry.regions.head", Level::error,
            [](Input& i) { i.regions[0] = {}; }},
        {"no height", "out_of_range", "height_cm", Level::error, [](Input& i) { i.height_cm = 0; }},
        {"not a number", "out_of_range", "absorptiometry.regions.head.bmc_g", Level::error,
            [](Input& i) { i.regions[0].bmc_g = NAN; }},
        {"the total says otherwise", "sum_differs", "absorptiometry.regions", Level::caution,
            [](Input& i) {
                i.total = whole(i.regions);
                i.total->lean_g += 400;
            }},
        {"another body on the scale", "mass_apart", "mass_kg", Level::caution, [](Input& i) { i.mass_kg = 55; }},
    };
    for (const Case& c : cases) {
        Input in = client();
        c.spoil(in);
        const auto r = compute(in);
        const Message* m = find(r.messages(), c.code);
        ASSERT_TRUE(m) << c.why;
        EXPECT_EQ(m->field, c.field) << c.why;
        EXPECT_EQ(m->level, c.level) << c.why;
        EXPECT_EQ(static_cast<bool>(r), c.level == Level::caution) << c.why;
        if (r) EXPECT_TRUE(judgement::asks_again(*m)) << c.why << ": not given out before somebody has acknowledged it";
    }
    Input exact = client();
    exact.total = whole(exact.regions);
    EXPECT_FALSE(find(compute(exact).messages(), "sum_differs"));
    Input no_bands = client();
    no_bands.given[6] = false;
    EXPECT_FALSE(compute(no_bands)->find(quantity::android_gynoid)) << "left out, not guessed";
}

TEST(Absorptiometry, BandsAndThresholdsAreThePublishedOnes)
{
    EXPECT_STREQ(fat_band(Sex::male, 3.0).title, "normal");
    EXPECT_STREQ(fat_band(Sex::male, 2.99).title, "mild deficit");
    EXPECT_STREQ(fat_band(Sex::female, 9.0).title, "excess");
    EXPECT_STREQ(fat_band(Sex::female, 21.5).title, "obesity class III");
    for (const LowLean& row : low_lean_rows) EXPECT_GT(row.men, row.women) << row.id;
}

TEST(Absorptiometry, BandsCarryTheirLineAndAMirrorTheUnseenHalf)
{
    Input in = client();
    const auto r = compute(in);
    in.errors.band_line_mm = 20;
    const auto wide = compute(in);
    in.errors.band_line_mm = 0;
    const auto sure = compute(in);
    const auto of_the_line = [&](const Outcome<Result>& with_line) {
        return std::sqrt(
            std::pow((*with_line)[quantity::android_gynoid].u, 2) - std::pow((*sure)[quantity::android_gynoid].u, 2));
    };
    EXPECT_GT(of_the_line(r), 0.01);
    EXPECT_NEAR(of_the_line(wide), 4 * of_the_line(r), 1e-9);
    EXPECT_GT((*wide)[quantity::region_lean[6]].u, (*r)[quantity::region_lean[6]].u);
    EXPECT_EQ((*wide)[quantity::fat_percent].u, (*r)[quantity::fat_percent].u) << "the whole has no bands";
    in = client();
    in.sides_told_apart = false;
    const double whole = (*compute(in))[quantity::lean_soft_tissue].u;
    in.mirrored = true;
    const auto half = compute(in);
    const double lean = (*half)[quantity::lean_soft_tissue].value;
    EXPECT_NEAR((*half)[quantity::lean_soft_tissue].u, std::hypot(whole, 0.01 * lean), 1e-9) << "2 % between halves";
    const auto& shares = half->budget(quantity::lean_soft_tissue).shares;
    EXPECT_TRUE(std::any_of(shares.begin(), shares.end(),
        [](const uncertainty::Share& s) { return s.input.symbol == "δH" && s.fraction > 0.1; }));
}

TEST(Absorptiometry, APartIsNeverMoreThanItsWhole)
{
    struct Row {
        const char* part; ///< empty: nothing is said
        std::function<void(Input&)> change;
    };
    const auto grams = [](Region r, double fat_g) { return [=](Input& in) { in.regions[index(r)].fat_g = fat_g; }; };
    for (const Row& row : {Row{"", [](Input&) {}}, {"android band", grams(Region::android, 4730)},
             {"", grams(Region::android, 4720)}, {"gynoid band", grams(Region::gynoid, 10500)},
             {"room around the organs", [](Input& in) { in.visceral_fat_g = 2450; }},
             {"", [](Input& in) { in.visceral_fat_g = 2400; }}}) {
        Input in = client();
        row.change(in);
        const auto r = compute(in);
        ASSERT_TRUE(r);
        const Message* said = find(r.messages(), "part_over_whole");
        EXPECT_EQ(said != nullptr, *row.part != 0) << row.part;
        if (said) EXPECT_NE(said->text.find(row.part), std::string::npos) << said->text;
    }
}
