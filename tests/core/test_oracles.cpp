// SPDX-License-Identifier: GPL-3.0-or-later
// The rules that choose, written a second time, plainly and in whole grams and millilitres, and held against the first
// on thousands of tables.
#include "core/density/displacement.h"
#include "core/quality/quality.h"
#include "core/body/reference.h"
#include "core/density/trials.h"

#include <gtest/gtest.h>

#include <cmath>
#include <map>
#include <random>
#include <set>

using namespace fusain;

namespace {

std::mt19937 dice(20261125);
int between(int low, int high) { return std::uniform_int_distribution<int>(low, high)(dice); }

std::vector<int> table(int most, int low, int high)
{
    std::vector<int> out(static_cast<std::size_t>(between(0, most)));
    for (int& x : out) x = between(low, high);
    return out;
}

std::vector<double> scaled(const std::vector<int>& whole, double unit)
{
    std::vector<double> out;
    for (int x : whole) out.push_back(x * unit);
    return out;
}

std::string shown(const std::vector<int>& whole)
{
    std::string out;
    for (int x : whole) out += std::to_string(x) + " ";
    return out;
}

/// Trials in grams, heaviest first, with the place each was taken at; equal ones in the order taken.
std::vector<std::pair<int, int>> by_weight(const std::vector<int>& g)
{
    std::vector<std::pair<int, int>> out;
    for (std::size_t i = 0; i < g.size(); ++i) out.emplace_back(-g[i], static_cast<int>(i));
    std::sort(out.begin(), out.end());
    for (auto& p : out) p.first = -p.first;
    return out;
}

} // namespace

TEST(Oracles, TheThreeHeaviestWithin100Grams)
{
    int chosen = 0, refused = 0;
    for (int n = 0; n < 4000; ++n) {
        const auto g = table(10, 2000, between(0, 1) ? 2300 : 2900);
        // the definition: of all triples within 100 g, the one whose lightest is heaviest; by weight they are
        // neighbours
        std::optional<std::set<int>> best;
        const auto heavy = by_weight(g);
        for (std::size_t i = 0; i + 2 < heavy.size() && !best; ++i)
            if (heavy[i].first - heavy[i + 2].first <= 100)
                best = std::set<int>{heavy[i].second, heavy[i + 1].second, heavy[i + 2].second};
        const auto kg = scaled(g, 0.001);
        const auto got = trials::best_three_within_100g(kg);
        ASSERT_EQ(bool(got), best.has_value()) << shown(g);
        if (!got) {
            EXPECT_EQ(got.messages().front().code, g.size() < 3 ? "too_few_trials" : "trials_disagree") << shown(g);
            ++refused;
            continue;
        }
        ++chosen;
        EXPECT_EQ(std::set<int>(got->used.begin(), got->used.end()), *best) << shown(g);
        int sum = 0, low = 99999, high = 0;
        for (int i : *best) {
            sum += g[static_cast<std::size_t>(i)];
            low = std::min(low, g[static_cast<std::size_t>(i)]);
            high = std::max(high, g[static_cast<std::size_t>(i)]);
        }
        EXPECT_NEAR(got->underwater_mass_kg, sum / 3000.0, 1e-12) << shown(g);
        EXPECT_NEAR(got->spread_kg, (high - low) / 1000.0, 1e-12);
        EXPECT_TRUE(got.messages().empty()) << "they agree: nothing to caution of";
    }
    EXPECT_GT(chosen, 1000);
    EXPECT_GT(refused, 500);
}

TEST(Oracles, TheHighestSeenTwice)
{
    std::map<std::string, int> ways;
    for (int n = 0; n < 4000; ++n) {
        auto g = table(9, 200, 212);
        for (int& x : g) x *= 10; // whole hundredths of a kilogram
        std::map<int, int, std::greater<>> seen;
        for (int x : g) ++seen[x];
        std::optional<int> value;
        const char* way = "none";
        auto at = seen.begin();
        for (int rank = 0; rank < 2 && at != seen.end() && !value; ++rank, ++at)
            if (at->second > 1) {
                value = at->first;
                way = rank ? "the second" : "the highest";
            }
        if (!value && seen.size() >= 3) {
            value = std::next(seen.begin(), 2)->first;
            way = "the third";
        }
        ++ways[way];
        const auto got = trials::behnke_wilmore_1974(scaled(g, 0.001));
        ASSERT_EQ(bool(got), value.has_value()) << shown(g);
        if (!got) continue;
        EXPECT_NEAR(got->underwater_mass_kg, *value / 1000.0, 1e-9) << shown(g);
        EXPECT_EQ(static_cast<int>(got->used.size()), seen[*value]) << shown(g);
        for (int i : got->used) EXPECT_EQ(g[static_cast<std::size_t>(i)], *value);
        // agreement is claimed of the highest three only when they agree
        const auto heavy = by_weight(g);
        const int apart = heavy.front().first - heavy[std::min<std::size_t>(2, heavy.size() - 1)].first;
        EXPECT_EQ(std::any_of(got.messages().begin(), got.messages().end(),
                      [](const Message& m) { return m.code == "trials_scatter"; }),
            apart > 100)
            << shown(g);
    }
    for (const char* way : {"the highest", "the second", "the third", "none"}) EXPECT_GT(ways[way], 100) << way;
}

TEST(Oracles, RunsThatAgree)
{
    int first_two = 0, closest = 0, none = 0;
    for (int n = 0; n < 4000; ++n) {
        const int body = between(20000, 180000);
        const auto ml = table(3, body, body + between(50, 700));
        // 150 mL, or 0.2 % of their mean where that is more
        const auto agree = [&](std::size_t i, std::size_t k) {
            return 1000 * std::abs(ml[i] - ml[k]) <= std::max(150000, ml[i] + ml[k]);
        };
        std::optional<std::pair<std::size_t, std::size_t>> pair;
        if (ml.size() >= 2 && agree(0, 1))
            pair = {0, 1};
        else
            for (std::size_t i = 0; i < ml.size(); ++i)
                for (std::size_t k = i + 1; k < ml.size(); ++k)
                    if (agree(i, k) &&
                        (!pair || std::abs(ml[i] - ml[k]) < std::abs(ml[pair->first] - ml[pair->second])))
                        pair = {i, k};
        const auto got = displacement::agree(scaled(ml, 0.001));
        ASSERT_EQ(bool(got), pair.has_value()) << shown(ml);
        if (!got) {
            ++none;
            continue;
        }
        (pair->first == 0 && pair->second == 1 ? first_two : closest)++;
        EXPECT_EQ(got->used, (std::vector<int>{static_cast<int>(pair->first), static_cast<int>(pair->second)}))
            << shown(ml);
        EXPECT_NEAR(got->raw_volume_l, (ml[pair->first] + ml[pair->second]) / 2000.0, 1e-9);
        EXPECT_NEAR(got->spread_l, std::abs(ml[pair->first] - ml[pair->second]) / 1000.0, 1e-9);
    }
    EXPECT_GT(first_two, 300);
    EXPECT_GT(closest, 150);
    EXPECT_GT(none, 300);
}

TEST(Oracles, WhatTheTechnicianIsToldIsTrue)
{
    for (int n = 0; n < 3000; ++n) {
        const auto g = table(12, 2000, between(0, 1) ? 2150 : 2800);
        const auto kg = scaled(g, 0.001);
        for (const trials::Rule& rule : trials::rules()) {
            const auto advice = trials::advise(kg, rule);
            const auto result = rule.select(kg);
            const bool scatter = result && result->spread_kg > 0.100 + 1e-9;
            EXPECT_FALSE(advice.sentence.empty());
            if (g.size() < 3) EXPECT_EQ(advice.next, trials::Next::more_needed) << shown(g);
            if (g.size() >= 10) EXPECT_EQ(advice.next, trials::Next::limit_reached) << shown(g);
            if (advice.next == trials::Next::enough) {
                EXPECT_TRUE(result) << rule.id << ": " << shown(g);
                EXPECT_FALSE(scatter) << rule.id << ": enough is said of what does not agree: " << shown(g);
                EXPECT_FALSE(trials::still_improving(kg)) << shown(g);
            }
            if (scatter) EXPECT_EQ(advice.sentence.find("enough"), std::string::npos) << rule.id << ": " << shown(g);
        }
        const auto heavy = by_weight(g);
        const bool last_is_heaviest = g.size() >= 3 && heavy.front().second == static_cast<int>(g.size()) - 1 &&
                                      heavy[0].first > heavy[1].first + 20;
        EXPECT_EQ(trials::still_improving(kg), last_is_heaviest) << shown(g);
    }
}

TEST(Oracles, APlaceInARangeIsCountedFromItsOwnEdges)
{
    const reference::Row rows[] = {{Sex::female, 20, 40, 21, 33, "women of 20 to 39"},
        {Sex::female, 40, 60, 23, 34, "women of 40 to 59"}, {Sex::male, 20, 40, 8, 20, "men of 20 to 39"}};
    const reference::RangeSet set{"s", "S", "a source", rows};
    using Where = reference::Place::Where;
    struct Row {
        Sex sex;
        double age, fat;
        std::optional<Where> where;
    };
    for (const Row& row : {Row{Sex::female, 20, 20.99, Where::below}, Row{Sex::female, 20, 21, Where::lower_edge},
             Row{Sex::female, 39.99, 23.3, Where::lower_edge}, Row{Sex::female, 39.99, 23.5, Where::middle},
             Row{Sex::female, 40, 23.5, Where::lower_edge}, Row{Sex::female, 30, 30.5, Where::middle},
             Row{Sex::female, 30, 30.7, Where::upper_edge}, Row{Sex::female, 30, 33, Where::upper_edge},
             Row{Sex::female, 30, 33.01, Where::above}, Row{Sex::male, 25, 21, Where::above},
             Row{Sex::male, 45, 21, std::nullopt}, Row{Sex::female, 19.99, 25, std::nullopt}}) {
        const auto place = reference::place(set, row.sex, row.age, row.fat);
        ASSERT_EQ(place.has_value(), row.where.has_value()) << row.age << " " << row.fat;
        if (place) EXPECT_EQ(place->where, *row.where) << row.age << " " << row.fat << ": " << place->sentence;
    }
}

TEST(Oracles, SpreadsKeepTheDigitsThatMatter)
{
    for (int n = 0; n < 2000; ++n) {
        const double spread = std::pow(10, between(-30, 10) / 10.0); // from a gram up
        const int decimals = between(0, 4);
        const std::string text = quality::spread_text(spread, decimals);
        const double back = std::stod(text);
        EXPECT_NEAR(back, spread, std::max(0.05 * spread, 0.5 * std::pow(10, -decimals - 8)))
            << text << " for " << spread;
        EXPECT_GT(back, 0) << "a spread is never shown as none";
        EXPECT_NE(text.back(), '.') << text;
    }
}
