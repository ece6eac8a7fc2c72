// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/chamber_windows.h"

#include "core/robust.h"

#include <Eigen/Dense>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace fusain::chamber {

using robust::median;
using robust::spread;
namespace {

using Complex = std::complex<double>;
constexpr double pi = std::numbers::pi;
constexpr double window_periods = 6, hop = 0.25; ///< of the window
constexpr double clipped_share = 0.005;
constexpr long few_windows = 8;

Tone lock_in(std::span<const Sample> s, double middle_s, double half_s, double omega)
{
    using Matrix = Eigen::Matrix<double, 5, 5>;
    using Pair = Eigen::Matrix<double, 5, 2>;
    Matrix normal = Matrix::Zero();
    Pair right = Pair::Zero();
    const auto basis = [&](double t) {
        const double tau = (t - middle_s) / half_s;
        return Eigen::Matrix<double, 5, 1>{std::cos(omega * t), std::sin(omega * t), 1.0, tau, tau * tau};
    };
    const auto weight = [&](double t) { return 0.5 + 0.5 * std::cos(pi * (t - middle_s) / half_s); };
    double sum = 0;
    for (const Sample& x : s) {
        const auto b = basis(x.t_s);
        const double w = weight(x.t_s);
        normal += w * b * b.transpose();
        right += w * b * Eigen::RowVector2d(x.test_pa, x.reference_pa);
        sum += w;
    }
    const Pair c = normal.ldlt().solve(right);
    Tone tone{middle_s, {c(0, 0), -c(1, 0)}, {c(0, 1), -c(1, 1)}, 0, 0};
    for (const Sample& x : s) {
        const Eigen::RowVector2d fitted = basis(x.t_s).transpose() * c;
        const double w = weight(x.t_s) / sum;
        tone.rest_test += w * std::pow(x.test_pa - fitted(0), 2);
        tone.rest_reference += w * std::pow(x.reference_pa - fitted(1), 2);
    }
    tone.rest_test = std::sqrt(tone.rest_test);
    tone.rest_reference = std::sqrt(tone.rest_reference);
    return tone;
}

} // namespace

std::vector<Tone> tones_of(std::span<const Sample> s, double drive_hz)
{
    std::vector<Tone> out;
    if (s.size() < 20) return out;
    const double half = window_periods / drive_hz / 2, step = 2 * half * hop, omega = 2 * pi * drive_hz;
    for (double middle = s.front().t_s + half; middle + half <= s.back().t_s + 1e-9; middle += step) {
        const auto from = std::lower_bound(s.begin(), s.end(), middle - half, [](const Sample& x, double t) { return x.t_s < t; });
        const auto to = std::upper_bound(from, s.end(), middle + half, [](double t, const Sample& x) { return t < x.t_s; });
        if (to - from < 20) continue;
        out.push_back(lock_in({from, to}, middle, half, omega));
    }
    return out;
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
    const auto solve = [&](double hz) {
        a = design(hz);
        const Eigen::MatrixXd weighted = weights.asDiagonal() * a;
        c = (a.transpose() * weighted).ldlt().solve(weighted.transpose() * values);
        return Eigen::VectorXd(values - a * c);
    };
    Eigen::VectorXd rest;
    const int passes = n < few_windows ? 1 : 4; // a handful of windows has no outliers, only a mean
    for (int pass = 0; pass < passes; ++pass) {
        rest = solve(0);
        double chosen = 0;
        if (n >= 14) { // breathing needs a few breaths to be told from drift
            // by the bulk of the windows, not by the few that stand out: those must not be explained away
            const auto left_by = [&](const Eigen::VectorXd& r) {
                const std::vector<double> v(r.data(), r.data() + n);
                return std::pow(spread(v, median(v)), 2) * static_cast<double>(n) / static_cast<double>(std::max<long>(1, n - a.cols()));
            };
            double best = 0.6 * left_by(rest);
            const auto attempt = [&](double hz) {
                const double left = left_by(solve(hz));
                if (!(left < best)) return;
                best = left;
                chosen = hz;
            };
            for (double hz = std::max(0.1, 1.2 / length); hz <= 0.7; hz += 0.02) attempt(hz);
            if (chosen > 0)
                for (const double middle_hz = chosen; const double off : {-0.015, -0.01, -0.005, 0.005, 0.01, 0.015}) attempt(middle_hz + off);
            rest = solve(chosen);
        }
        fit.breathing = chosen != 0;
        fit.residual.assign(rest.data(), rest.data() + n);
        fit.rest = std::max(floor, spread(fit.residual, median(fit.residual)));
        if (passes > 1)
            for (long i = 0; i < n; ++i) weights(i) = std::abs(rest(i)) > 5 * fit.rest ? 0 : std::min(1.0, 2.5 * fit.rest / std::max(1e-12, std::abs(rest(i))));
    }
    if (fit.breathing) {
        const Eigen::VectorXd wave = a.rightCols(a.cols() - 2) * c.tail(a.cols() - 2);
        fit.breath = std::sqrt(2 * wave.squaredNorm() / static_cast<double>(n));
    }
    fit.level = c(0);
    fit.drift_per_s = a.cols() > 1 ? c(1) : 0;
    fit.kept = static_cast<double>((weights.array() > 0.5).count()) / static_cast<double>(n);
    // Hann windows that overlap by three quarters repeat each other: about one in 2.7 is news
    const double news = std::max(1.0, weights.sum() / 2.7 - static_cast<double>(a.cols()) + 1);
    const double scatter = std::sqrt((weights.array() * rest.array().square()).sum() / std::max(1e-9, weights.sum()));
    fit.u = std::max(scatter, floor) / std::sqrt(news);
    fit.u_drift = fit.u * std::sqrt(12.0) / length;
    return fit;
}

bool is_clipped(std::span<const Sample> s, double Sample::*pressure)
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
    // how often a sine that is only rounded would show its highest step
    const double by_rounding = std::acos(std::max(-1.0, 1 - quantum / half_range)) / pi;
    const double limit = std::max(clipped_share, 2.5 * by_rounding);
    const double top = static_cast<double>(values.end() - std::lower_bound(values.begin(), values.end(), values.back()));
    const double bottom = static_cast<double>(std::upper_bound(values.begin(), values.end(), values.front()) - values.begin());
    return std::max(top, bottom) >= 6 && std::max(top, bottom) / n > limit;
}

Calm level_of(std::span<const Sample> s, const std::vector<Tone>& tones, double omega, double Sample::*pressure, Complex Tone::*amplitude)
{
    constexpr double grid_s = 0.05, near_s = 0.15, far_s = 0.65;
    Calm out;
    const auto cells = static_cast<std::size_t>((s.back().t_s - s.front().t_s) / grid_s) + 1;
    std::vector<double> sum(cells, 0);
    std::vector<int> count(cells, 0);
    std::size_t k = 0;
    for (const Sample& x : s) {
        while (k + 1 < tones.size() && std::abs(tones[k + 1].t_s - x.t_s) <= std::abs(tones[k].t_s - x.t_s)) ++k;
        const Complex drive = tones[k].*amplitude * std::polar(1.0, omega * x.t_s);
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
