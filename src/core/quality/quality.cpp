// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/quality/quality.h"

#include "core/base/limits.h"

#include <algorithm>
#include <cmath>

namespace fusain::quality {
namespace {

std::string fixed(double v, int decimals)
{
    char text[64];
    std::snprintf(text, sizeof text, "%.*f", decimals, std::abs(v) < 0.5 * std::pow(10, -decimals) ? 0.0 : v);
    std::string out = text;
    if (out.front() == '-') out = "\u2212" + out.substr(1);
    return out;
}

std::string with_sign(double v, int decimals) { return (v > 0 ? "+" : "") + fixed(v, decimals); }

/// How many decimals a spread needs.
int spread_decimals(double v, int decimals)
{
    constexpr int most_more = 4;
    int more = 0;
    while (more < most_more && std::abs(v) > 0 && std::abs(v) * std::pow(10, decimals + more) < 10) ++more;
    return decimals + more;
}

/// Residual sum of squares of values[from…] about: one step at `at` (two means), or a straight line.
double step_rss(std::span<const double> v, std::size_t at)
{
    double rss = 0;
    for (const auto part : {v.subspan(0, at), v.subspan(at)}) {
        double mean = 0;
        for (double x : part) mean += x / static_cast<double>(part.size());
        for (double x : part) rss += (x - mean) * (x - mean);
    }
    return rss;
}

/// A level that holds until `at` and then climbs in a straight line.
double ramp_rss(std::span<const double> v, std::size_t at)
{
    // least squares of y = a + b·max(0, i − at + 1)
    const double n = static_cast<double>(v.size());
    double st = 0, sy = 0, stt = 0, sty = 0, syy = 0;
    for (std::size_t i = 0; i < v.size(); ++i) {
        const double t = i < at ? 0 : static_cast<double>(i - at + 1);
        st += t;
        sy += v[i];
        stt += t * t;
        sty += t * v[i];
        syy += v[i] * v[i];
    }
    const double ctt = stt - st * st / n, cty = sty - st * sy / n, cyy = syy - sy * sy / n;
    return ctt > 0 ? cyy - cty * cty / ctt : cyy;
}

} // namespace

std::string spread_text(double v, int decimals)
{
    const std::string text = fixed(v, spread_decimals(v, decimals));
    // trailing zeros beyond what the quantity shows say nothing
    const std::size_t point = text.find('.');
    std::size_t end = text.size();
    while (point != std::string::npos && end > point + 1 + static_cast<std::size_t>(decimals) && text[end - 1] == '0')
        --end;
    if (end == point + 1) --end; // "12." is 12
    return text.substr(0, end);
}

Spread spread(std::span<const double> r)
{
    Spread s;
    s.n = static_cast<int>(r.size());
    if (r.empty()) return s;
    for (double x : r) s.mean += x / s.n;
    for (double x : r) s.sd += (x - s.mean) * (x - s.mean);
    s.sd = s.n > 1 ? std::sqrt(s.sd / (s.n - 1)) : 0;
    const auto [low, high] = std::minmax_element(r.begin(), r.end());
    s.range = *high - *low;
    return s;
}

Tolerance cylinder(double volume_l) { return {volume_l, 5, 0.100, 0.075, std::nullopt, "L", "the cylinder", 3}; }
Tolerance scale_mass(double mass_kg) { return {mass_kg, 3, 0.05, std::nullopt, 0.05, "kg", "the certified mass", 2}; }
Tolerance resistor(double ohm)
{
    return {ohm, 3, 0.01 * ohm, std::nullopt, 0.01 * ohm, "Ω", "the reference resistor", 1};
}
Tolerance reactance(double ohm) { return {ohm, 3, 1.0, std::nullopt, 1.0, "Ω", "the network's reactance", 1}; }
Tolerance phantom(double value, const std::string& unit)
{
    return {value, 1, 0.015 * value, std::nullopt, std::nullopt, unit, "the phantom", 4};
}

Outcome<CheckResult> check(const Tolerance& t, std::span<const double> readings)
{
    if (static_cast<int>(readings.size()) < t.readings)
        return Outcome<CheckResult>::refuse({"too_few_readings", Level::repeat, "readings",
            std::to_string(t.readings) + " readings are needed; " + std::to_string(readings.size()) + " taken."});
    if (std::any_of(readings.begin(), readings.end(), [](double x) { return !std::isfinite(x); }))
        return Outcome<CheckResult>::refuse({"out_of_range", Level::error, "readings", "A reading is not a number."});
    CheckResult r;
    r.of = spread(readings);
    const double off = r.of.mean - t.reference;
    constexpr double slack = 1e-9; // 50.1 − 50.0 is a little over 0.1
    std::string why;
    const auto add = [&](const std::string& text) { why += (why.empty() ? "" : "; ") + text; };
    if (t.mean_within && std::abs(off) > *t.mean_within + slack)
        add("allowed is " + fixed(*t.mean_within, t.decimals) + " either way");
    if (t.sd_at_most && r.of.sd > *t.sd_at_most + slack)
        add("the spread may be " + fixed(*t.sd_at_most, t.decimals) + ' ' + t.unit + " at most");
    if (t.range_at_most && r.of.range > *t.range_at_most + slack)
        add("the repeats may differ by " + fixed(*t.range_at_most, t.decimals) + ' ' + t.unit + " at most");
    r.passed = why.empty();
    const std::string of = r.of.n == 1 ? "Reading " : "Mean of " + std::to_string(r.of.n) + ": ";
    r.words = of + fixed(r.of.mean, t.decimals) + ' ' + t.unit + ", " + with_sign(off, t.decimals) + ' ' + t.unit +
              " against " + t.quantity +
              (r.of.n > 1 ? ", spread (SD) " + spread_text(r.of.sd, t.decimals) + ' ' + t.unit : "") + ". " +
              (r.passed ? "Passed." : "Failed: " + why + ".");
    return r;
}

Chart chart(std::span<const Point> points, const std::string& unit, int decimals, double least_sd)
{
    Chart c;
    std::vector<double> v;
    for (const Point& p : points) v.push_back(p.value);
    const int n = static_cast<int>(v.size());
    if (n < baseline_least) {
        c.words = n == 0 ? "No check yet."
                         : std::to_string(n) + (n == 1 ? " check" : " checks") + " so far; limits stand from the " +
                               std::to_string(baseline_least) + "th.";
        return c;
    }
    std::vector<double> good;
    for (const Point& p : points)
        if (p.passed && static_cast<int>(good.size()) < baseline_most) good.push_back(p.value);
    c.baseline_n = static_cast<int>(good.size());
    if (c.baseline_n < baseline_least) {
        c.words = std::to_string(n) + " checks so far, " + std::to_string(c.baseline_n) +
                  " of them passed; limits stand from the " + std::to_string(baseline_least) + "th that passes.";
        return c;
    }
    const Spread base = spread(good);
    c.mean = base.mean;
    c.sd = std::max(base.sd, least_sd);
    c.low = c.mean - 3 * c.sd;
    c.high = c.mean + 3 * c.sd;
    double up = 0, down = 0;
    int first_alarm = -1, rise = 0, fall = 0, since = -1;
    bool alarm_up = false;
    const double slack = cusum_slack + 1 / std::sqrt(c.baseline_n); // the baseline's own mean is uncertain by that much
    for (int i = 0; i < n; ++i) {
        // one wild point is the limits' business, not the sum's
        const double z = std::clamp((v[static_cast<std::size_t>(i)] - c.mean) / c.sd, -3.0, 3.0);
        if (up == 0) rise = i;
        if (down == 0) fall = i;
        up = std::max(0.0, up + z - slack);
        down = std::max(0.0, down - z - slack);
        c.cusum_up.push_back(up);
        c.cusum_down.push_back(down);
        if (up > cusum_alarm || down > cusum_alarm) {
            if (first_alarm < 0) {
                first_alarm = i;
                alarm_up = up > cusum_alarm;
                since = alarm_up ? rise : fall;
            }
        } else if (first_alarm >= 0 && up < 1 && down < 1) {
            first_alarm = -1; // came back and stayed: history, not the state of today
        }
    }
    const auto day = [&](int i) { return points[static_cast<std::size_t>(i)].day; };
    const double last = v.back();
    c.last_outside = last < c.low || last > c.high;
    if (first_alarm >= 0) {
        // a step or a slope? whichever leaves less unexplained
        double best_step = INFINITY, best_ramp = INFINITY;
        int step_at = since, ramp_at = since;
        for (int at = 2; at < n - 1; ++at) {
            const double s = step_rss(v, static_cast<std::size_t>(at)), r = ramp_rss(v, static_cast<std::size_t>(at));
            if (s < best_step) {
                best_step = s;
                step_at = at;
            }
            if (r < best_ramp) {
                best_ramp = r;
                ramp_at = at;
            }
        }
        const bool is_step = best_step <= best_ramp;
        c.at = is_step ? step_at : ramp_at;
        c.sign = is_step ? Sign::step : Sign::drift;
        const Spread after = spread(std::span(v).subspan(static_cast<std::size_t>(c.at)));
        c.size = is_step ? after.mean - spread(std::span(v).first(static_cast<std::size_t>(c.at))).mean : last - c.mean;
        c.words = (is_step ? "Stepped by " : "Drifts: ") + with_sign(c.size, decimals) + ' ' + unit + " since " +
                  day(c.at) +
                  (is_step ? ". What was done to it that day?"
                           : ". Not noise any more: have it looked at before it leaves the limits.");
        if (c.last_outside) c.words += " The last check is outside the limits.";
        return c;
    }
    if (c.last_outside) {
        c.sign = Sign::outside;
        c.at = n - 1;
        c.size = last - c.mean;
        c.words = "The last check (" + day(n - 1) + ") is outside the limits by " +
                  fixed(last > c.high ? last - c.high : c.low - last, decimals) + ' ' + unit +
                  ". Repeat it; if it stays, stop using the instrument.";
        return c;
    }
    const auto outside = std::count_if(v.begin(), v.end(), [&](double x) { return x < c.low || x > c.high; });
    c.sign = Sign::steady;
    c.words =
        "Steady: " + fixed(c.mean, decimals) + " ± " + spread_text(3 * c.sd, decimals) + ' ' + unit + " over " +
        std::to_string(n) + " checks, no drift" +
        (outside ? "; " + std::to_string(outside) + " single point" + (outside == 1 ? "" : "s") + " outside earlier"
                 : "") +
        ".";
    return c;
}

} // namespace fusain::quality
