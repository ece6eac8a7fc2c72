// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/quality/study.h"

#include "core/quality/distributions.h"
#include "core/quality/precision.h"
#include "core/quality/quality.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

namespace fusain::study {
namespace {

constexpr double sure = 0.95, rare = 0.01, normal_95 = 1.959963985;
constexpr int fewest_pairs = 3;

double mean_of(std::span<const double> v) { return quality::spread(v).mean; }

/// Half width of the limits of a mean, `of` means looked at together.
double half_width(std::span<const double> v, double of)
{
    const double n = static_cast<double>(v.size());
    return quality::student_t_quantile(1 - (1 - sure) / 2 / of, n - 1) * quality::spread(v).sd / std::sqrt(n);
}

/// The value that an F of these degrees of freedom passes with a small probability, by Paulson's approximation.
double f_quantile(double probability, double d1, double d2)
{
    double low = 0, high = 1e6;
    const auto share = [&](double f) { // regularised: F to a normal score (Paulson 1942)
        const double c = std::cbrt(f), a = 2 / (9 * d1), b = 2 / (9 * d2);
        const double z = ((1 - b) * c - (1 - a)) / std::sqrt(b * c * c + a);
        return 0.5 * std::erfc(-z / std::sqrt(2.0));
    };
    for (int i = 0; i < 200; ++i) {
        const double mid = (low + high) / 2;
        (share(mid) < probability ? low : high) = mid;
    }
    return (low + high) / 2;
}

} // namespace

std::vector<Operator> operators(std::span<const Repeat> repeats)
{
    std::vector<Operator> out;
    std::map<std::string, std::map<int, std::vector<double>>> by; // operator → person → values
    for (const Repeat& r : repeats) {
        if (by.find(r.who) == by.end()) out.push_back({r.who, 0, {}, {}, 0, {}, 0, 0, false});
        by[r.who][r.person].push_back(r.value);
    }
    for (Operator& o : out) {
        precision::Input own{"repeats", {}, {}};
        std::vector<double> apart;
        for (const auto& [person, values] : by[o.name]) {
            o.values += static_cast<int>(values.size());
            if (values.size() > 1) own.repeats.push_back(values);
            std::vector<double> others;
            for (const auto& [name, people] : by)
                if (const auto at = people.find(person); name != o.name && at != people.end())
                    others.push_back(mean_of(at->second));
            if (!others.empty()) apart.push_back(mean_of(values) - mean_of(others));
        }
        if (const auto told = own.repeats.empty() ? Outcome<Result>::refuse(Messages{}) : precision::compute(own)) {
            o.rms_sd = (*told)[quantity::rms_sd].value;
            if (const Value* cv = told->find(quantity::rms_cv)) o.rms_cv_percent = cv->value;
            o.degrees_of_freedom = static_cast<int>((*told)[quantity::degrees_of_freedom].value);
        }
        o.in_common = static_cast<int>(apart.size());
        if (apart.size() < 2) continue;
        o.offset = mean_of(apart);
        o.offset_within = half_width(apart, out.size() > 2 ? static_cast<double>(out.size()) : 1);
        o.differs = std::abs(*o.offset) > o.offset_within;
    }
    return out;
}

std::vector<std::size_t> far_apart(std::span<const std::vector<double>> repeats)
{
    std::vector<std::size_t> out;
    double sum = 0, values = 0, people = 0;
    for (const auto& person : repeats)
        if (person.size() > 1) {
            const double sd = quality::spread(person).sd;
            sum += sd * sd;
            values += static_cast<double>(person.size());
            ++people;
        }
    if (people < 3 || !(sum > 0)) return out;
    const double free = values / people - 1, f = f_quantile(1 - rare / people, free, (people - 1) * free),
                 allowed = f / (f + people - 1);
    for (std::size_t i = 0; i < repeats.size(); ++i) {
        if (repeats[i].size() < 2) continue;
        const double sd = quality::spread(repeats[i]).sd;
        if (sd * sd / sum > allowed) out.push_back(i);
    }
    return out;
}

const char* word(Agreement v)
{
    constexpr const char* words[] = {"agree", "shifted", "cannot_tell"};
    return words[static_cast<int>(v)];
}

Outcome<Comparison> compare(std::span<const Pair> pairs, double lsc)
{
    Messages bad;
    if (pairs.size() < fewest_pairs)
        bad.push_back({"too_few_pairs", Level::error, "pairs",
            "There are " + std::to_string(pairs.size()) + " people on both; three or more are needed."});
    std::vector<double> apart;
    double x_sum = 0;
    for (const Pair& p : pairs) {
        if (!std::isfinite(p.first) || !std::isfinite(p.second))
            bad.push_back({"out_of_range", Level::error, "pairs", "A value is no number."});
        apart.push_back(p.second - p.first);
        x_sum += (p.first + p.second) / 2;
    }
    if (!(lsc >= 0)) bad.push_back({"out_of_range", Level::error, "lsc", "The least significant change is no number."});
    if (!bad.empty()) return Outcome<Comparison>::refuse(std::move(bad));

    Comparison c;
    c.n = static_cast<int>(apart.size());
    const double n = c.n, x_mean = x_sum / n, t = quality::student_t_quantile(1 - (1 - sure) / 2, n - 1);
    c.shift = mean_of(apart);
    c.sd = quality::spread(apart).sd;
    c.shift_within = half_width(apart, 1);
    c.low = c.shift - normal_95 * c.sd;
    c.high = c.shift + normal_95 * c.sd;
    c.limit_within = t * c.sd * std::sqrt(1 / n + normal_95 * normal_95 / (2 * (n - 1)));
    double xx = 0, xy = 0;
    for (std::size_t i = 0; i < apart.size(); ++i) {
        const double x = (pairs[i].first + pairs[i].second) / 2 - x_mean;
        xx += x * x;
        xy += x * (apart[i] - c.shift);
    }
    if (xx > 0) {
        double rest = 0, widest = 0;
        c.slope = xy / xx;
        for (std::size_t i = 0; i < apart.size(); ++i) {
            const double e = apart[i] - c.shift - *c.slope * ((pairs[i].first + pairs[i].second) / 2 - x_mean);
            rest += e * e;
            widest = std::max(widest, std::abs((pairs[i].first + pairs[i].second) / 2 - x_mean));
        }
        c.slope_within = quality::student_t_quantile(1 - (1 - sure) / 2, n - 2) * std::sqrt(rest / (n - 2) / xx);
        c.grows = std::abs(*c.slope) > c.slope_within && std::abs(*c.slope) * widest > lsc / 2;
    }
    c.lsc = std::abs(c.shift) + t * c.sd * std::sqrt(1 + 1 / n);
    const bool inside = std::abs(c.shift) + c.shift_within <= lsc / 2,
               apart_from_nought = std::abs(c.shift) > c.shift_within;
    c.verdict = inside && !c.grows             ? Agreement::agree
                : apart_from_nought || c.grows ? Agreement::shifted
                                               : Agreement::cannot_tell;
    return c;
}

} // namespace fusain::study
