// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/quality/distributions.h"

#include <algorithm>
#include <cmath>

namespace fusain::quality {
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

/// Regularised incomplete beta, by its continued fraction from the side where it converges.
double beta_share(double a, double b, double x)
{
    if (!(x > 0)) return 0;
    if (!(x < 1)) return 1;
    if (x > (a + 1) / (a + b + 2)) return 1 - beta_share(b, a, 1 - x);
    constexpr double tiny = 1e-300;
    const double front =
        std::exp(std::lgamma(a + b) - std::lgamma(a) - std::lgamma(b) + a * std::log(x) + b * std::log1p(-x)) / a;
    const auto kept = [](double v) { return std::abs(v) < tiny ? tiny : v; };
    double c = 1, d = 1 / kept(1 - (a + b) * x / (a + 1)), h = d;
    for (int m = 1; m < 10000; ++m) {
        double last = 1;
        for (const double step : {m * (b - m) * x / ((a + 2 * m - 1) * (a + 2 * m)),
                 -(a + m) * (a + b + m) * x / ((a + 2 * m) * (a + 2 * m + 1))}) {
            d = 1 / kept(1 + step * d);
            c = kept(1 + step / c);
            h *= last = d * c;
        }
        if (std::abs(last - 1) < 1e-15) break;
    }
    return front * h;
}

bool asked_well(double probability, double df) { return probability > 0 && probability < 1 && df > 0; }

template <class F>
double where(F share, double probability, double low, double high)
{
    for (int i = 0; i < 200; ++i) {
        const double mid = (low + high) / 2;
        (share(mid) < probability ? low : high) = mid;
    }
    return (low + high) / 2;
}

} // namespace

double chi_square_quantile(double probability, double df)
{
    if (!asked_well(probability, df)) return NAN;
    return where([&](double v) { return gamma_share(df / 2, v / 2); }, probability, 0, std::max(100.0, 20 * df));
}

double student_t_quantile(double probability, double df)
{
    if (!asked_well(probability, df)) return NAN;
    if (probability < 0.5) return -student_t_quantile(1 - probability, df);
    double high = 2;
    const auto share = [&](double t) { return 1 - beta_share(df / 2, 0.5, df / (df + t * t)) / 2; };
    while (share(high) < probability && high < 1e12) high *= 2;
    return where(share, probability, 0, high);
}

Between sd_limits(double sd, double df, double probability)
{
    const double side = (1 - probability) / 2;
    return {sd * std::sqrt(df / chi_square_quantile(1 - side, df)), sd * std::sqrt(df / chi_square_quantile(side, df))};
}

} // namespace fusain::quality
