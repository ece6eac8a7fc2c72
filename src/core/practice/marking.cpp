// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/practice/marking.h"

#include "core/quality/distributions.h"
#include "core/quality/quality.h"

#include <cmath>

namespace fusain::practice {
namespace {

constexpr double sure = 0.975, range_to_sd = 1.128;
constexpr double degrees_of_range = 0.85; ///< what a moving range knows of a scatter, by simulation
constexpr std::size_t fewest_runs = 6;

double rms_of(std::span<const double> v)
{
    double sum = 0;
    for (double x : v) sum += x * x;
    return std::sqrt(sum / static_cast<double>(v.size()));
}

} // namespace

NumberMark mark(std::span<const Reading> readings)
{
    NumberMark m;
    if (readings.empty()) return m;
    std::vector<double> errors, reader;
    double pairs = 0, squares = 0;
    for (const Reading& r : readings) {
        errors.push_back(r.given - r.truth);
        if (r.reader) reader.push_back(*r.reader - r.truth);
        if (std::abs(errors.back()) > std::abs(m.worst)) m.worst = errors.back();
        m.seconds += r.seconds / static_cast<double>(readings.size());
        if (r.same_as < 0 || r.same_as >= static_cast<int>(readings.size())) continue;
        const Reading& other = readings[static_cast<std::size_t>(r.same_as)];
        const double apart = (r.given - r.truth) - (other.given - other.truth);
        squares += apart * apart / 2;
        ++pairs;
    }
    const quality::Spread of = quality::spread(errors);
    m.n = of.n;
    m.bias = of.mean;
    m.spread = of.sd;
    m.rms = rms_of(errors);
    if (m.n > 1)
        m.bias_within = quality::student_t_quantile(0.975, m.n - 1) * of.sd / std::sqrt(static_cast<double>(m.n));
    if (pairs > 0) m.own_precision = std::sqrt(squares / pairs);
    if (!reader.empty()) m.reader_rms = rms_of(reader);
    return m;
}

Called called(const Call& c)
{
    if (c.given == c.truth) return Called::right;
    if (c.given == none) return Called::missed;
    return c.truth == none ? Called::wrongly : Called::mistaken;
}

CallMark mark(std::span<const Call> calls)
{
    CallMark m;
    for (const Call& c : calls) {
        ++m.n;
        const Called how = called(c);
        m.right += how == Called::right;
        m.missed += how == Called::missed;
        m.wrongly += how == Called::wrongly;
        m.mistaken += how == Called::mistaken;
        m.seconds += c.seconds / static_cast<double>(calls.size());
    }
    return m;
}

bool passed(const Pass& pass, const NumberMark& numbers, const CallMark& calls)
{
    if (!numbers.n && !calls.n) return false;
    if (pass.rms && !(numbers.n && numbers.rms <= *pass.rms)) return false;
    if (pass.bias && !(numbers.n && std::abs(numbers.bias) <= *pass.bias)) return false;
    return !pass.share || (calls.n && calls.share() >= *pass.share - 1e-12);
}

Progress progress(std::span<const double> runs)
{
    Progress p;
    p.n = static_cast<int>(runs.size());
    if (runs.empty()) return p;
    const auto before = runs.first(runs.size() - (runs.size() > 1 ? 1 : 0));
    p.mean = quality::spread(before).mean;
    double ranges = 0;
    for (std::size_t i = 1; i < before.size(); ++i) ranges += std::abs(before[i] - before[i - 1]);
    const double sd = before.size() > 1 ? ranges / static_cast<double>(before.size() - 1) / range_to_sd : 0;
    if (before.size() < 2) {
        p.low = p.high = p.mean;
        return p;
    }
    const double n = static_cast<double>(before.size()),
                 within = quality::student_t_quantile(sure, degrees_of_range * (n - 1)) * std::sqrt(1 + 1 / n) * sd;
    p.low = p.mean - within;
    p.high = p.mean + within;
    if (runs.size() < fewest_runs) return p;
    p.says = runs.back() < p.low    ? Progress::Says::better
             : runs.back() > p.high ? Progress::Says::worse
                                    : Progress::Says::as_before;
    return p;
}

} // namespace fusain::practice
