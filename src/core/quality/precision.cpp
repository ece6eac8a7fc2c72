// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/quality/precision.h"

#include "core/base/limits.h"

#include <cmath>
#include <numeric>

namespace fusain::precision {
namespace {

/// Regularised lower incomplete gamma: a series below a + 1, a continued fraction above.
double gamma_share(double a, double x)
{
    if (!(x > 0)) return 0;
    const double front = std::exp(-x + a * std::log(x) - std::lgamma(a));
    if (x < a + 1) {
        double term = 1 / a, sum = term;
        for (double n = a + 1; std::abs(term) > 1e-16 * std::abs(sum); n += 1) sum += term *= x / n;
        return front * sum;
    }
    constexpr double tiny = 1e-300;
    double b = x + 1 - a, c = 1 / tiny, d = 1 / b, h = d;
    for (int i = 1; i < 10000; ++i) {
        const double an = -i * (i - a);
        b += 2;
        d = 1 / (std::abs(an * d + b) < tiny ? tiny : an * d + b);
        c = std::abs(b + an / c) < tiny ? tiny : b + an / c;
        h *= d * c;
        if (std::abs(d * c - 1) < 1e-15) break;
    }
    return 1 - front * h;
}

} // namespace

double chi_square_quantile(double probability, double df)
{
    double low = 0, high = std::max(10.0, 20 * df);
    for (int i = 0; i < 200; ++i) {
        const double mid = (low + high) / 2;
        (gamma_share(df / 2, mid / 2) < probability ? low : high) = mid;
    }
    return (low + high) / 2;
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
    put(quantity::rms_sd_upper, sd * std::sqrt(df / chi_square_quantile(0.05, df)));
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
