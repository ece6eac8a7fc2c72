// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/impedance/arc.h"

#include "core/base/limits.h"

#include <Eigen/LU>
#include <unsupported/Eigen/NonLinearOptimization>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <set>

namespace fusain::impedance {
namespace {

using Complex = std::complex<double>;

/// (jω/ω_c)^α, and its logarithm over α.
Complex log_ratio(double f_khz, double log_fc) { return {std::log(f_khz) - log_fc, std::numbers::pi / 2}; }

constexpr double us_per_ns = 1e-3, rad_per_khz_us = 2 * std::numbers::pi * 1e-3; ///< ω·T of 1 kHz and 1 µs
constexpr double asks_for_delay = 25, longest_cable_ns = 100;

/// What the fit moves: R0, R∞, α, ln f_c, and with `delay` the delay in µs.
struct Misfit {
    using Scalar = double;
    using InputType = Eigen::VectorXd;
    using ValueType = Eigen::VectorXd;
    using JacobianType = Eigen::MatrixXd;
    enum { InputsAtCompileTime = Eigen::Dynamic, ValuesAtCompileTime = Eigen::Dynamic };

    std::span<const Point> points;
    bool delay = false;
    int inputs() const { return delay ? 5 : 4; }
    int values() const { return 2 * static_cast<int>(points.size()); }

    Arc arc(const Eigen::VectorXd& p) const { return {p[0], p[1], p[2], std::exp(p[3]), delay ? p[4] / us_per_ns : 0}; }

    int operator()(const Eigen::VectorXd& p, Eigen::VectorXd& out) const
    {
        for (std::size_t i = 0; i < points.size(); ++i) {
            const Complex z = impedance_of(arc(p), points[i].f_khz);
            out[2 * static_cast<long>(i)] = z.real() - points[i].r_ohm;
            out[2 * static_cast<long>(i) + 1] = -z.imag() - points[i].x_ohm;
        }
        return 0;
    }

    int df(const Eigen::VectorXd& p, Eigen::MatrixXd& out) const
    {
        for (std::size_t i = 0; i < points.size(); ++i) {
            const Complex l = log_ratio(points[i].f_khz, p[3]), w = std::exp(p[2] * l), d = 1.0 / (1.0 + w);
            const double span = p[0] - p[1], omega = rad_per_khz_us * points[i].f_khz;
            const Complex turn = delay ? std::exp(Complex(0, -omega * p[4])) : Complex(1),
                          z = p[1] + span * d; // before the cables
            const Complex by[] = {d, 1.0 - d, -span * d * d * w * l, span * d * d * w * p[2], Complex(0, -omega) * z};
            for (int k = 0; k < inputs(); ++k) {
                out(2 * static_cast<long>(i), k) = (turn * by[k]).real();
                out(2 * static_cast<long>(i) + 1, k) = -(turn * by[k]).imag();
            }
        }
        return 0;
    }
};

/// Never fails on a human spectrum: a little beyond what was seen, the top where the reactance is largest.
Eigen::VectorXd start_of(std::span<const Point> points)
{
    const auto [low, high] = std::minmax_element(
        points.begin(), points.end(), [](const Point& a, const Point& b) { return a.r_ohm < b.r_ohm; });
    const auto top = std::max_element(
        points.begin(), points.end(), [](const Point& a, const Point& b) { return a.x_ohm < b.x_ohm; });
    const double span = std::max(high->r_ohm - low->r_ohm, 0.01 * high->r_ohm);
    Eigen::VectorXd p(4);
    p << high->r_ohm + 0.1 * span, std::max(low->r_ohm - 0.1 * span, 0.5 * low->r_ohm), 0.75, std::log(top->f_khz);
    return p;
}

Outcome<Arc> refuse(const char* code, const std::string& text)
{
    return Outcome<Arc>::refuse({code, Level::error, "impedance", text});
}

} // namespace

Complex impedance_of(const Arc& arc, double f_khz)
{
    const Complex w = std::exp(arc.alpha * log_ratio(f_khz, std::log(arc.fc_khz))),
                  z = arc.rinf_ohm + (arc.r0_ohm - arc.rinf_ohm) / (1.0 + w);
    return arc.delay_ns == 0 ? z : z * std::exp(Complex(0, -rad_per_khz_us * f_khz * arc.delay_ns * us_per_ns));
}

namespace {

bool human(const Arc& a) // not when one of them is no number
{
    return a.r0_ohm > a.rinf_ohm && a.rinf_ohm > 0 && a.alpha >= 0.2 && a.alpha <= 1 && a.fc_khz >= 1 &&
           a.fc_khz <= 1000 && std::abs(a.delay_ns) <= longest_cable_ns;
}

/// The best arc from there on, with what it leaves.
struct Fitted {
    Arc arc;
    Eigen::VectorXd at;
    double left = 0; ///< sum of squares, Ω²
};
Fitted fit_from(Misfit& misfit, Eigen::VectorXd p)
{
    Eigen::LevenbergMarquardt<Misfit> fit(misfit);
    fit.parameters.maxfev = 400;
    fit.parameters.ftol = fit.parameters.xtol = 1e-11;
    fit.minimize(p);
    Eigen::VectorXd left(misfit.values());
    misfit(p, left);
    return {misfit.arc(p), p, left.squaredNorm()};
}

} // namespace

Outcome<Arc> fit_arc(std::span<const Point> points)
{
    std::set<double> frequencies;
    for (const Point& p : points)
        if (p.f_khz > 0) frequencies.insert(p.f_khz);
    if (frequencies.size() < fewest_frequencies)
        return refuse("few_frequencies",
            "An arc needs three frequencies or more; there are " + std::to_string(frequencies.size()) + ".");
    Misfit misfit{points};
    Fitted best = fit_from(misfit, start_of(points));
    if (frequencies.size() >= fewest_for_delay) {
        Misfit cables{points, true};
        Eigen::VectorXd start(5);
        start << best.at, 0.0;
        const Fitted with = fit_from(cables, start);
        const double freedom = cables.values() - cables.inputs();
        if (human(with.arc) && best.left - with.left > asks_for_delay * with.left / freedom) {
            best = with;
            misfit = cables;
        }
    }
    Arc& arc = best.arc;
    if (!human(arc))
        return refuse("not_an_arc", "No arc of a body goes through these points (R0 " + limits::plain(arc.r0_ohm, 1) +
                                        " Ω, R∞ " + limits::plain(arc.rinf_ohm, 1) + " Ω, α " +
                                        limits::plain(arc.alpha, 2) + ", top at " + limits::plain(arc.fc_khz, 1) +
                                        " kHz).");
    Eigen::MatrixXd slopes(misfit.values(), misfit.inputs());
    misfit.df(best.at, slopes);
    arc.residual_ohm = std::sqrt(best.left / misfit.values());
    const double variance = best.left / std::max(1, misfit.values() - misfit.inputs());
    const Eigen::MatrixXd covariance = variance * (slopes.transpose() * slopes).inverse();
    arc.u_r0_ohm = std::sqrt(covariance(0, 0));
    arc.u_rinf_ohm = std::sqrt(covariance(1, 1));
    return arc;
}

std::vector<Point> in_series(std::span<const std::vector<Point>> segments)
{
    std::vector<Point> out;
    if (segments.empty()) return out;
    for (Point sum : segments.front()) {
        const bool everywhere = std::all_of(segments.begin() + 1, segments.end(), [&](const std::vector<Point>& s) {
            const auto same = std::find_if(s.begin(), s.end(), [&](const Point& p) { return p.f_khz == sum.f_khz; });
            if (same == s.end()) return false;
            sum.r_ohm += same->r_ohm;
            sum.x_ohm += same->x_ohm;
            return true;
        });
        if (everywhere) out.push_back(sum);
    }
    return out;
}

} // namespace fusain::impedance
