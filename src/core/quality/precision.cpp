// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/quality/precision.h"

#include "core/base/limits.h"
#include "core/quality/distributions.h"
#include "core/quality/quality.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace fusain::precision {
namespace {

struct Limit {
    const Quantity* of;
    double percent;
};
constexpr Limit published[] = {{&quantity::fat_mass, 3}, {&quantity::fat_percent, 2}, {&quantity::fat_free_mass, 2},
    {&quantity::lean_soft_tissue, 2}};

} // namespace

std::optional<double> published_limit_percent(const Quantity& q)
{
    for (const Limit& l : published)
        if (l.of == &q) return l.percent;
    return std::nullopt;
}

double effective_degrees(const std::vector<std::vector<double>>& repeats)
{
    double variances = 0, squares = 0, counted = 0;
    for (const auto& person : repeats) {
        const quality::Spread own = quality::spread(person);
        const double variance = own.sd * own.sd, free = own.n - 1;
        if (own.n < 2) continue;
        variances += variance;
        squares += variance * variance / (free + 2);
        counted += free;
    }
    if (!(squares > 0)) return counted;
    return std::clamp(variances * variances / squares - 2, 1.0, std::max(1.0, counted));
}

double held_against(double rms_sd, double degrees, double effective)
{
    return degrees < enough_degrees ? rms_sd * std::sqrt(effective / quality::chi_square_quantile(0.05, effective))
                                    : rms_sd;
}

Outcome<Result> compute(const Input& in)
{
    Messages bad;
    if (in.quantity.empty())
        bad.push_back({"missing_field", Level::error, "precision.quantity", "Field precision.quantity is missing."});
    if (in.repeats.empty())
        bad.push_back(
            {"missing_field", Level::error, "precision.repeats", "There is nobody with repeats; one list a person."});
    for (std::size_t i = 0; i < in.repeats.size(); ++i) {
        if (in.repeats[i].size() < 2)
            bad.push_back({"out_of_range", Level::error, "precision.repeats",
                "Person " + std::to_string(i + 1) + " has " + std::to_string(in.repeats[i].size()) +
                    " value; two or more are needed to tell how well they agree."});
        for (double v : in.repeats[i])
            if (!std::isfinite(v))
                bad.push_back({"out_of_range", Level::error, "precision.repeats",
                    "A value of person " + std::to_string(i + 1) + " is " + limits::plain(v) +
                        "; a number is needed."});
    }
    if (in.limit_percent)
        if (const auto m = limits::check("precision.limit_percent", *in.limit_percent)) bad.push_back(*m);
    if (!bad.empty()) return Outcome<Result>::refuse(std::move(bad));

    double variances = 0, relative = 0, df = 0;
    bool has_mean = true;
    for (const auto& person : in.repeats) {
        const double n = static_cast<double>(person.size()),
                     mean = std::accumulate(person.begin(), person.end(), 0.0) / n;
        double squares = 0;
        for (double v : person) squares += (v - mean) * (v - mean);
        const double variance = squares / (n - 1);
        variances += variance;
        has_mean = has_mean && mean != 0;
        if (has_mean) relative += variance / (mean * mean);
        df += n - 1;
    }
    const double people = static_cast<double>(in.repeats.size()), sd = std::sqrt(variances / people),
                 cv = 100 * std::sqrt(relative / people);
    Result r;
    const auto put = [&](const Quantity& q, double v) { r.values.push_back({&q, v, 0, 0}); };
    put(quantity::rms_sd, sd);
    if (has_mean) put(quantity::rms_cv, cv);
    put(quantity::lsc, change_factor * sd);
    put(quantity::degrees_of_freedom, df);
    put(quantity::rms_sd_upper, sd * std::sqrt(df / quality::chi_square_quantile(0.05, df)));
    Messages messages;
    if (df < enough_degrees)
        messages.push_back({"few_repeats", Level::caution, "precision.repeats",
            "These repeats have " + limits::plain(df, 0) +
                " degrees of freedom; from 30 on (15 people × 3, 30 × 2) they say "
                "well what this lab can do."});
    if (in.limit_percent && has_mean && cv > *in.limit_percent)
        messages.push_back({"precision_over_limit", Level::caution, "precision.repeats",
            "The repeats scatter by " + limits::plain(cv, 2) + " %; the limit is " +
                limits::plain(*in.limit_percent, 2) + " %."});
    return {std::move(r), std::move(messages)};
}

} // namespace fusain::precision
