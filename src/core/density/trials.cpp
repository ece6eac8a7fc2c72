// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/density/trials.h"

#include "core/base/limits.h"

#include <cmath>
#include <numeric>

namespace fusain::trials {
namespace {

constexpr double slack_kg = 1e-9; // 2.45 − 2.35 is not 0.1 in binary
constexpr double improving_kg = 0.020;

Message repeat(const char* code, std::string text)
{
    return {code, Level::repeat, "hydrostatic.trials_kg", std::move(text)};
}

Message too_few(std::size_t have, int need)
{
    return repeat("too_few_trials", "Only " + std::to_string(have) + (have == 1 ? " trial" : " trials") +
                                        "; this rule needs at least " + std::to_string(need) + ". Take more.");
}

Selection average(std::span<const double> trials_kg, std::vector<int> used)
{
    std::sort(used.begin(), used.end());
    double sum = 0, low = INFINITY, high = -INFINITY;
    for (int i : used) {
        const double kg = trials_kg[static_cast<std::size_t>(i)];
        sum += kg;
        low = std::min(low, kg);
        high = std::max(high, kg);
    }
    return {sum / static_cast<double>(used.size()), std::move(used), high - low};
}

/// An average of trials that do not agree is given, but never called agreement.
Outcome<Selection> with_scatter(Selection s, const char* which, Messages cautions = {})
{
    if (s.spread_kg > agreement_kg + slack_kg)
        cautions.push_back({"trials_scatter", Level::caution, "hydrostatic.trials_kg",
            std::string(which) + " lie " + limits::plain(s.spread_kg, 3) +
                " kg apart; up to 0.100 kg counts as agreement. Take more trials, or measure again."});
    return {std::move(s), std::move(cautions)};
}

std::vector<int> all_positions(std::size_t n)
{
    std::vector<int> order(n);
    std::iota(order.begin(), order.end(), 0);
    return order;
}

} // namespace

Outcome<Selection> best_three_within_100g(std::span<const double> trials_kg)
{
    if (trials_kg.size() < 3) return Outcome<Selection>::refuse(too_few(trials_kg.size(), 3));
    std::vector<int> order = all_positions(trials_kg.size());
    const auto kg = [&](int i) { return trials_kg[static_cast<std::size_t>(i)]; };
    std::stable_sort(order.begin(), order.end(), [&](int a, int b) { return kg(a) > kg(b); });
    for (std::size_t i = 0; i + 2 < order.size(); ++i)
        if (kg(order[i]) - kg(order[i + 2]) <= agreement_kg + slack_kg)
            return average(trials_kg, {order[i], order[i + 1], order[i + 2]});
    return Outcome<Selection>::refuse(repeat("trials_disagree", "No three trials lie within 0.100 kg. Take more."));
}

Outcome<Selection> behnke_wilmore_1974(std::span<const double> trials_kg)
{
    if (trials_kg.empty()) return Outcome<Selection>::refuse(too_few(0, 1));
    std::vector<double> rounded;
    for (double kg : trials_kg) rounded.push_back(std::round(kg * 100) / 100);
    std::vector<double> distinct = rounded;
    std::sort(distinct.rbegin(), distinct.rend());
    distinct.erase(std::unique(distinct.begin(), distinct.end()), distinct.end());
    std::vector<double> heavy(trials_kg.begin(), trials_kg.end());
    std::sort(heavy.rbegin(), heavy.rend());
    const double spread_kg = heavy.front() - heavy[std::min<std::size_t>(3, heavy.size()) - 1];
    const auto take = [&](double value) {
        std::vector<int> used;
        for (std::size_t i = 0; i < rounded.size(); ++i)
            if (rounded[i] == value) used.push_back(static_cast<int>(i));
        return with_scatter({value, used, spread_kg}, "The highest three trials");
    };
    for (std::size_t rank = 0; rank < std::min<std::size_t>(2, distinct.size()); ++rank)
        if (std::count(rounded.begin(), rounded.end(), distinct[rank]) > 1) return take(distinct[rank]);
    if (distinct.size() >= 3) return take(distinct[2]);
    return Outcome<Selection>::refuse(
        repeat("trials_disagree", "No value was seen twice and fewer than three differ. Take more."));
}

Outcome<Selection> last_three_mean(std::span<const double> trials_kg)
{
    const std::size_t n = trials_kg.size();
    if (n < 3) return Outcome<Selection>::refuse(too_few(n, 3));
    const int last = static_cast<int>(n) - 1;
    return with_scatter(average(trials_kg, {last - 2, last - 1, last}), "The last three trials");
}

Outcome<Selection> mean_all(std::span<const double> trials_kg)
{
    if (trials_kg.empty()) return Outcome<Selection>::refuse(too_few(0, 1));
    Messages cautions;
    if (trials_kg.size() < 3)
        cautions.push_back({"few_trials", Level::caution, "hydrostatic.trials_kg",
            "Fewer than three trials: their agreement cannot be judged."});
    return with_scatter(average(trials_kg, all_positions(trials_kg.size())), "The trials", std::move(cautions));
}

namespace {
constexpr Rule rows[] = {
    {"best_three_within_100g", "three heaviest within 100 g", best_three_within_100g, "common practice"},
    {"behnke_wilmore_1974", "highest seen twice", behnke_wilmore_1974, "Behnke & Wilmore 1974"},
    {"last_three_mean", "mean of the last three", last_three_mean, "Katch 1968, Res Q 39:993–999"},
    {"mean_all", "mean of all", mean_all, "simple average"},
};
} // namespace

std::span<const Rule> rules() { return rows; }

const Rule* find(std::string_view id)
{
    for (const Rule& row : rows)
        if (id == row.id) return &row;
    return nullptr;
}

bool still_improving(std::span<const double> trials_kg)
{
    if (trials_kg.size() < 3) return false;
    const double earlier = *std::max_element(trials_kg.begin(), trials_kg.end() - 1);
    return trials_kg.back() > earlier + improving_kg;
}

Advice advise(std::span<const double> trials_kg, const Rule& rule)
{
    const int n = static_cast<int>(trials_kg.size());
    const Outcome<Selection> chosen = rule.select(trials_kg);
    if (!chosen || n < 3) {
        if (n >= usual_limit)
            return {
                Next::limit_reached, "Ten trials and they still disagree: stop, warm up, and try again another day."};
        if (n < 3)
            return {Next::more_needed, n == 0   ? "At least three trials are needed."
                                       : n == 1 ? "Two more at least."
                                                : "One more at least."};
        return {Next::more_needed, chosen.messages().front().text};
    }
    if (n >= usual_limit)
        return {Next::limit_reached, chosen->spread_kg > agreement_kg + slack_kg
                                         ? "Ten trials, the usual limit, and those that count lie " +
                                               limits::plain(chosen->spread_kg * 1000, 0) +
                                               " g apart: a number to look at, not to build on."
                                         : "Ten trials: the usual limit. Take the result."};
    if (still_improving(trials_kg))
        return {Next::one_more_would_tell, "The last was the heaviest: still improving. Take one more."};
    const std::string apart = limits::plain(chosen->spread_kg * 1000, 0) + " g";
    if (chosen->spread_kg > agreement_kg + slack_kg)
        return {Next::one_more_would_tell,
            "Those that count lie " + apart + " apart; up to 100 g is agreement. Take one more."};
    const std::size_t counted = chosen->used.size();
    return {Next::enough, std::to_string(counted) +
                              (counted == 1 ? " trial counts; the highest three lie " : " trials count, ") + apart +
                              " apart. That is enough."};
}

} // namespace fusain::trials
