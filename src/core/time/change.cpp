// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/time/change.h"

#include "core/base/limits.h"
#include "core/quality/precision.h"
#include "core/time/alike.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace fusain::change {
namespace {

constexpr double week_min = 7 * 1440, sure = 1.96;
constexpr int fewest = 3;

alike::Test test_of(const Point& p)
{
    return {p.method, p.instrument, p.equations, p.at_min, p.prepared, p.not_kept, p.height_cm, p.mass_kg};
}

Verdict verdict_of(double change, double limit)
{
    return std::abs(change) >= limit ? change > 0 ? Verdict::rise : Verdict::fall : Verdict::within_noise;
}

const Bridge* bridge(const Series& s, const Point& a, const Point& b)
{
    for (const Bridge& over : s.bridges)
        if (std::max(a.at_min, b.at_min) >= over.from_min &&
            ((over.one == a.instrument && over.other == b.instrument) ||
                (over.one == b.instrument && over.other == a.instrument)))
            return &over;
    return nullptr;
}

/// A point as the last one's instrument would have it.
struct OnLine {
    double t_weeks, value, sd;
    const Bridge* over; ///< null: the same instrument
};

/// The straight line through the last point and those that can be compared with it.
Trend trend_of(const Series& s)
{
    const int last = static_cast<int>(s.points.size()) - 1;
    const Point& newest = s.points.back();
    std::vector<OnLine> line;
    for (int i = 0; i <= last; ++i) {
        const Point& p = s.points[static_cast<std::size_t>(i)];
        if (i < last && !step(s, i, last).comparable()) continue;
        const Bridge* over = p.instrument == newest.instrument ? nullptr : bridge(s, p, newest);
        const double to_newest = !over ? 0 : over->other == newest.instrument ? over->shift : -over->shift;
        line.push_back({p.at_min / week_min, p.value + to_newest, p.rms_sd > 0 ? p.rms_sd : s.rms_sd, over});
    }
    Trend out;
    out.n = static_cast<int>(line.size());
    const double n = static_cast<double>(line.size());
    double t_mean = 0;
    for (const OnLine& p : line) {
        t_mean += p.t_weeks / n;
        out.middle += p.value / n;
    }
    out.from_min = line.front().t_weeks * week_min;
    out.middle_min = t_mean * week_min;
    if (out.n < fewest) return out;
    double tt = 0, tv = 0, slope2 = 0, middle2 = 0;
    std::map<const Bridge*, std::pair<double, double>> moved; // by each bridge: how slope and middle move with it
    for (const OnLine& p : line) {
        const double t = p.t_weeks - t_mean;
        tt += t * t;
        tv += t * (p.value - out.middle);
        slope2 += t * t * p.sd * p.sd;
        middle2 += p.sd * p.sd / n / n;
        if (p.over) moved[p.over].first += t, moved[p.over].second += 1 / n;
    }
    slope2 /= tt * tt;
    for (const auto& [over, by] : moved) {
        slope2 += std::pow(by.first / tt * over->u_shift, 2);
        middle2 += std::pow(by.second * over->u_shift, 2);
    }
    out.per_week = tv / tt;
    out.u_per_week = std::sqrt(slope2);
    out.u_middle = std::sqrt(middle2);
    out.verdict = verdict_of(*out.per_week, sure * *out.u_per_week);
    return out;
}

Messages check(const Series& s)
{
    Messages bad;
    const auto say = [&](const char* field, std::string text) {
        bad.push_back({"out_of_range", Level::error, field, std::move(text)});
    };
    if (!(s.rms_sd > 0)) say("rms_sd", "precision.rms_sd is " + limits::plain(s.rms_sd) + "; allowed is more than 0.");
    if (!(s.hours_apart_allowed >= 0 && s.hours_apart_allowed <= 12))
        say("hours_apart_allowed",
            "hours_apart_allowed is " + limits::plain(s.hours_apart_allowed) + "; allowed is 0 to 12 h.");
    if (s.points.empty()) say("points", "There are no points; one or more are needed.");
    for (std::size_t i = 1; i < s.points.size(); ++i)
        if (!(s.points[i].at_min > s.points[i - 1].at_min))
            say("points", "Point " + std::to_string(i + 1) +
                              " does not come after the one before; points stand in time "
                              "order, each time once.");
    return bad;
}

} // namespace

const char* word(Verdict v)
{
    constexpr const char* words[] = {"not_comparable", "within_noise", "rise", "fall", "too_few"};
    return words[static_cast<int>(v)];
}

Step step(const Series& s, int from, int to)
{
    const Point &a = s.points[static_cast<std::size_t>(from)], &b = s.points[static_cast<std::size_t>(to)];
    Step out;
    out.from = from;
    out.to = to;
    const double own = s.points[static_cast<std::size_t>(std::max(from, to))].rms_sd;
    out.lsc = precision::change_factor * (own > 0 ? own : s.rms_sd);
    const Bridge* over = a.instrument == b.instrument ? nullptr : bridge(s, a, b);
    if (over) out.lsc = std::max(out.lsc, over->lsc);
    out.why =
        alike::differences(test_of(a), test_of(b), {60 * s.hours_apart_allowed, s.by_height, over && over->lsc > 0});
    if (a.method == b.method) out.change = b.value - a.value;
    out.verdict = out.comparable() ? verdict_of(*out.change, out.lsc) : Verdict::not_comparable;
    return out;
}

Outcome<Changes> compare(const Series& s)
{
    if (Messages bad = check(s); !bad.empty()) return Outcome<Changes>::refuse(std::move(bad));
    Changes out;
    out.lsc = precision::change_factor * s.rms_sd;
    const int last = static_cast<int>(s.points.size()) - 1;
    for (int i = 1; i <= last; ++i) out.steps.push_back(step(s, i - 1, i));
    if (last > 0) out.since_first = step(s, 0, last);
    out.trend = trend_of(s);
    return out;
}

double Trend::value_at(double min) const { return middle + per_week.value_or(0) * (min - middle_min) / week_min; }
double Trend::u_at(double min) const
{
    return std::hypot(u_middle, u_per_week.value_or(0) * (min - middle_min) / week_min);
}

Moved moved(double fat_then, double lean_then, double fat_now, double lean_now, double fat_lsc, double lean_lsc)
{
    const double fat = fat_now - fat_then, lean = lean_now - lean_then;
    return {fat + lean, fat, lean, fat_lsc, lean_lsc};
}

} // namespace fusain::change
