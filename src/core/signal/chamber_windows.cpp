// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/signal/chamber_windows.h"

#include "core/signal/robust.h"
#include "core/signal/solve.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace fusain::chamber {

using robust::median;
using robust::spread;
namespace {

using Complex = std::complex<double>;
using std::numbers::pi;
constexpr double window_hop = 0.1875; ///< of the window
constexpr double hann_news = 0.675;   ///< of a window: windows that begin so far apart tell nothing of each other
constexpr double told_apart = 0.45;   ///< of the sample rate: a harmonic above is not asked for
constexpr double most_off = 0.05;     ///< of the drive's frequency from its nominal
constexpr double clipped_share = 0.005, clipped_over_next = 4, crest_times = 1.3, crest_rad = 0.01;
constexpr long few_windows = 8;

/// cos and sin of the drive at every sample.
struct Drive {
    double hz = 0;
    int harmonics = 1; ///< that the sample rate can tell from each other
    std::vector<Complex> turn;
};

Drive drive_at(std::span<const Sample> s, double hz)
{
    Drive d;
    d.hz = hz;
    const double rate_hz = static_cast<double>(s.size() - 1) / std::max(1e-9, s.back().t_s - s.front().t_s);
    while (d.harmonics < most_harmonics && (d.harmonics + 1) * hz < told_apart * rate_hz) ++d.harmonics;
    d.turn.reserve(s.size());
    for (const Sample& x : s) d.turn.push_back(std::polar(1.0, 2 * pi * hz * x.t_s));
    return d;
}

/// Least squares under a Hann weight: the drive with its harmonics, level, slope and bend.
template <int Harmonics>
Tone lock_in(std::span<const Sample> s, const Complex* turn, double middle_s, double half_s)
{
    constexpr int columns = 2 * Harmonics + 3;
    using Row = Eigen::Matrix<double, columns, 1>;
    using Square = Eigen::Matrix<double, columns, columns>;
    using Pair = Eigen::Matrix<double, columns, 2>;
    const auto basis = [&](std::size_t i) {
        Row b;
        Complex z = turn[i];
        for (int k = 0; k < Harmonics; ++k, z *= turn[i]) {
            b(2 * k) = z.real();
            b(2 * k + 1) = z.imag();
        }
        const double tau = (s[i].t_s - middle_s) / half_s;
        b(2 * Harmonics) = 1;
        b(2 * Harmonics + 1) = tau;
        b(2 * Harmonics + 2) = tau * tau;
        return b;
    };
    const auto weight = [&](std::size_t i) { return 0.5 + 0.5 * std::cos(pi * (s[i].t_s - middle_s) / half_s); };
    Square normal = Square::Zero();
    Pair right = Pair::Zero();
    double sum = 0;
    for (std::size_t i = 0; i < s.size(); ++i) {
        const Row b = basis(i);
        const double w = weight(i);
        normal.template selfadjointView<Eigen::Lower>().rankUpdate(b, w);
        right += (w * b) * Eigen::RowVector2d(s[i].test_pa, s[i].reference_pa);
        sum += w;
    }
    normal = normal.template selfadjointView<Eigen::Lower>();
    const Pair c = solve::symmetric_columns(normal, right);
    Tone tone;
    tone.t_s = middle_s;
    for (int k = 0; k < Harmonics; ++k) {
        tone.test[static_cast<std::size_t>(k)] = {c(2 * k, 0), -c(2 * k + 1, 0)};
        tone.reference[static_cast<std::size_t>(k)] = {c(2 * k, 1), -c(2 * k + 1, 1)};
    }
    tone.mean_test = c(2 * Harmonics, 0);
    tone.mean_reference = c(2 * Harmonics, 1);
    double common = 0;
    for (std::size_t i = 0; i < s.size(); ++i) {
        const Eigen::RowVector2d fitted = basis(i).transpose() * c;
        const double w = weight(i) / sum, rest_test = s[i].test_pa - fitted(0),
                     rest_reference = s[i].reference_pa - fitted(1);
        tone.rest_test += w * rest_test * rest_test;
        common += w * rest_test * rest_reference;
    }
    tone.rest_test = std::sqrt(tone.rest_test);
    tone.rest_common = std::sqrt(std::max(0.0, common));
    return tone;
}

std::vector<Tone> windows(std::span<const Sample> s, const Drive& drive, double nominal_hz, double hop)
{
    std::vector<Tone> out;
    const double half = window_s(nominal_hz) / 2, step = 2 * half * hop;
    for (double middle = s.front().t_s + half; middle + half <= s.back().t_s + 1e-9; middle += step) {
        const auto from =
            std::lower_bound(s.begin(), s.end(), middle - half, [](const Sample& x, double t) { return x.t_s < t; });
        const auto to =
            std::upper_bound(from, s.end(), middle + half, [](double t, const Sample& x) { return t < x.t_s; });
        if (to - from < 20) continue;
        const Complex* turn = drive.turn.data() + (from - s.begin());
        const std::span<const Sample> part{from, to};
        out.push_back(drive.harmonics >= 3   ? lock_in<3>(part, turn, middle, half)
                      : drive.harmonics == 2 ? lock_in<2>(part, turn, middle, half)
                                             : lock_in<1>(part, turn, middle, half));
    }
    return out;
}

} // namespace

double drive_of(std::span<const Sample> s, double nominal_hz)
{
    double hz = nominal_hz;
    if (s.size() < 20) return hz;
    for (int round = 0; round < 2; ++round) {
        // the quiet reference chamber: how fast its phase runs away from the frequency that was taken for the drive's
        const auto tones = windows(s, drive_at(s, hz), nominal_hz, 2 * window_hop);
        if (tones.size() < 3) return nominal_hz;
        double st = 0, sp = 0, stt = 0, stp = 0, phase = 0, last = std::arg(tones.front().reference[0]);
        for (const Tone& tone : tones) {
            const double now = std::arg(tone.reference[0]), t = tone.t_s - tones.front().t_s;
            phase += std::remainder(now - last, 2 * pi);
            last = now;
            st += t;
            sp += phase;
            stt += t * t;
            stp += t * phase;
        }
        const double n = static_cast<double>(tones.size()), slope = (n * stp - st * sp) / (n * stt - st * st);
        hz += slope / (2 * pi);
        if (!(std::abs(hz - nominal_hz) <= most_off * nominal_hz)) return nominal_hz;
    }
    return hz;
}

std::vector<Tone> tones_of(std::span<const Sample> s, double drive_hz, double nominal_hz)
{
    if (s.size() < 20) return {};
    return windows(s, drive_at(s, drive_hz), nominal_hz, window_hop);
}

Fit robust_fit(const std::vector<double>& t, const std::vector<double>& y, double floor)
{
    Fit fit;
    const long n = static_cast<long>(y.size());
    const double middle = (t.front() + t.back()) / 2, length = std::max(1e-9, t.back() - t.front());
    Eigen::VectorXd values = Eigen::Map<const Eigen::VectorXd>(y.data(), n), weights = Eigen::VectorXd::Ones(n);
    // level and drift; with a frequency, a breath of it with its octave
    const auto design = [&](double hz) {
        const long columns = hz == 0 ? 2 : n >= 24 ? 6 : 4;
        Eigen::MatrixXd a(n, std::min(columns, std::max<long>(1, n - 1)));
        for (long i = 0; i < n; ++i) {
            const double tau = t[static_cast<std::size_t>(i)] - middle, w = 2 * pi * hz * tau;
            const double row[] = {1, tau, std::cos(w), std::sin(w), std::cos(2 * w), std::sin(2 * w)};
            for (long k = 0; k < a.cols(); ++k) a(i, k) = row[k];
        }
        return a;
    };
    Eigen::MatrixXd a;
    Eigen::VectorXd c;
    const auto fitted = [&](double hz) {
        a = design(hz);
        c = solve::symmetric(solve::normal_of(a, weights), a.transpose() * weights.cwiseProduct(values));
        return Eigen::VectorXd(values - a * c);
    };
    Eigen::VectorXd rest;
    const int passes = n < few_windows ? 1 : 4; // a handful of windows has no outliers, only a mean
    for (int pass = 0; pass < passes; ++pass) {
        rest = fitted(0);
        double chosen = 0;
        if (n >= 14) { // breathing needs a few breaths to be told from drift
            // by the bulk of the windows, not by the few that stand out: those must not be explained away
            const auto left_by = [&](const Eigen::VectorXd& r) {
                const std::vector<double> v(r.data(), r.data() + n);
                return std::pow(spread(v, median(v)), 2) * static_cast<double>(n) /
                       static_cast<double>(std::max<long>(1, n - a.cols()));
            };
            double best = 0.6 * left_by(rest);
            const auto attempt = [&](double hz) {
                const double left = left_by(fitted(hz));
                if (!(left < best)) return;
                best = left;
                chosen = hz;
            };
            for (double hz = std::max(0.1, 1.2 / length); hz <= 0.7; hz += 0.02) attempt(hz);
            if (chosen > 0)
                for (const double middle_hz = chosen; const double off : {-0.015, -0.01, -0.005, 0.005, 0.01, 0.015})
                    attempt(middle_hz + off);
            rest = fitted(chosen);
        }
        fit.breathing = chosen != 0;
        fit.residual.assign(rest.data(), rest.data() + n);
        fit.rest = std::max(floor, spread(fit.residual, median(fit.residual)));
        if (passes > 1)
            for (long i = 0; i < n; ++i)
                weights(i) = std::abs(rest(i)) > 5 * fit.rest
                                 ? 0
                                 : std::min(1.0, 2.5 * fit.rest / std::max(1e-12, std::abs(rest(i))));
    }
    if (fit.breathing) {
        const Eigen::VectorXd wave = a.rightCols(a.cols() - 2) * c.tail(a.cols() - 2);
        fit.breath = std::sqrt(2 * wave.squaredNorm() / static_cast<double>(n));
    }
    fit.level = c(0);
    fit.drift_per_s = a.cols() > 1 ? c(1) : 0;
    fit.kept = static_cast<double>((weights.array() > 0.5).count()) / static_cast<double>(n);
    const double news = std::max(1.0, weights.sum() * window_hop / hann_news - static_cast<double>(a.cols()) + 1);
    const double scatter = std::sqrt((weights.array() * rest.array().square()).sum() / std::max(1e-9, weights.sum()));
    fit.u = std::max(scatter, floor) / std::sqrt(news);
    fit.u_drift = fit.u * std::sqrt(12.0) / length;
    return fit;
}

bool is_clipped(std::span<const Sample> s, double Sample::*pressure, double drive_hz)
{
    std::vector<double> values;
    for (const Sample& x : s) values.push_back(x.*pressure);
    std::sort(values.begin(), values.end());
    double quantum = INFINITY;
    for (std::size_t i = 1; i < values.size(); ++i)
        if (values[i] > values[i - 1]) quantum = std::min(quantum, values[i] - values[i - 1]);
    const double half_range = (values.back() - values.front()) / 2;
    if (!(half_range > 0) || !std::isfinite(quantum)) return true; // a sensor that says one thing only
    const double n = static_cast<double>(values.size());
    // a swing that is only rounded fills its highest step up to 2.4 times as often as the one below; a cut one piles up
    // there
    const auto piled_up = [&](double end, double inwards) {
        long at_end = 0, next = 0;
        Complex phases = 0;
        for (const Sample& x : s) {
            const double steps = inwards * (x.*pressure - end) / quantum;
            if (steps < 0.5) {
                ++at_end;
                phases += std::polar(1.0, 2 * pi * drive_hz * x.t_s);
            }
            next += steps >= 0.5 && steps < 1.5;
        }
        if (at_end < 6 || static_cast<double>(at_end) <=
                              std::max(clipped_share * n, clipped_over_next * static_cast<double>(std::max(1L, next))))
            return false;
        // samples that always fall on the same few phases of the drive pile up too, but close to its crest
        const double spread = std::sqrt(std::max(0.0, 2 - 2 * std::abs(phases) / static_cast<double>(at_end)));
        const double rounded = std::acos(std::max(-1.0, 1 - 1.5 * quantum / half_range)) / std::sqrt(3.0);
        return spread > crest_times * rounded + crest_rad;
    };
    return piled_up(values.back(), -1) || piled_up(values.front(), 1);
}

Calm level_of(std::span<const Sample> s, const std::vector<Tone>& tones, double drive_hz, double Sample::*pressure,
    Amplitudes Tone::*amplitude)
{
    constexpr double grid_s = 0.05, near_s = 0.15, far_s = 0.65;
    Calm out;
    const auto cells = static_cast<std::size_t>((s.back().t_s - s.front().t_s) / grid_s) + 1;
    std::vector<double> sum(cells, 0);
    std::vector<int> count(cells, 0);
    std::size_t k = 0;
    for (const Sample& x : s) {
        while (k + 1 < tones.size() && std::abs(tones[k + 1].t_s - x.t_s) <= std::abs(tones[k].t_s - x.t_s)) ++k;
        const Complex turn = std::polar(1.0, 2 * pi * drive_hz * x.t_s);
        Complex drive = 0, z = turn;
        for (const Complex& a : tones[k].*amplitude) {
            drive += a * z;
            z *= turn;
        }
        const auto cell = std::min(cells - 1, static_cast<std::size_t>((x.t_s - s.front().t_s) / grid_s));
        sum[cell] += x.*pressure - drive.real();
        ++count[cell];
    }
    for (std::size_t i = 0; i < cells; ++i) {
        if (!count[i]) continue;
        out.t.push_back(s.front().t_s + (static_cast<double>(i) + 0.5) * grid_s);
        out.value.push_back(sum[i] / count[i]);
    }
    const auto from = static_cast<std::size_t>(far_s / grid_s), gap = static_cast<std::size_t>(near_s / grid_s);
    out.jump.assign(out.t.size(), 0);
    for (std::size_t i = from; i + from < out.t.size(); ++i) {
        double before = 0, after = 0;
        for (std::size_t d = gap; d < from; ++d) {
            before += out.value[i - d];
            after += out.value[i + d];
        }
        out.jump[i] = (after - before) / static_cast<double>(from - gap);
    }
    return out;
}

} // namespace fusain::chamber
