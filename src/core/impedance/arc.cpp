// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/impedance/arc.h"

#include "core/base/limits.h"

#include <Eigen/Dense>
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

/// What the fit moves: R0, R∞, α, ln f_c.
struct Misfit {
    using Scalar = double;
    using InputType = Eigen::VectorXd;
    using ValueType = Eigen::VectorXd;
    using JacobianType = Eigen::MatrixXd;
    enum { InputsAtCompileTime = Eigen::Dynamic, ValuesAtCompileTime = Eigen::Dynamic };

    std::span<const Point> points;
    int inputs() const { return 4; }
    int values() const { return 2 * static_cast<int>(points.size()); }

    int operator()(const Eigen::VectorXd& p, Eigen::VectorXd& out) const
    {
        for (std::size_t i = 0; i < points.size(); ++i) {
            const Complex z = impedance_of({p[0], p[1], p[2], std::exp(p[3])}, points[i].f_khz);
            out[2 * static_cast<long>(i)] = z.real() - points[i].r_ohm;
            out[2 * static_cast<long>(i) + 1] = -z.imag() - points[i].x_ohm;
        }
        return 0;
    }

    int df(const Eigen::VectorXd& p, Eigen::MatrixXd& out) const
    {
        for (std::size_t i = 0; i < points.size(); ++i) {
            const Complex l = log_ratio(points[i].f_khz, p[3]), w = std::exp(p[2] * l), d = 1.0 / (1.0 + w);
            const double span = p[0] - p[1];
            const Complex by[] = {d, 1.0 - d, -span * d * d * w * l, span * d * d * w * p[2]};
            for (int k = 0; k < 4; ++k) {
                out(2 * static_cast<long>(i), k) = by[k].real();
                out(2 * static_cast<long>(i) + 1, k) = -by[k].imag();
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
    const Complex w = std::exp(arc.alpha * log_ratio(f_khz, std::log(arc.fc_khz)));
    return arc.rinf_ohm + (arc.r0_ohm - arc.rinf_ohm) / (1.0 + w);
}

Outcome<Arc> fit_arc(std::span<const Point> points)
{
    std::set<double> frequencies;
    for (const Point& p : points)
        if (p.f_khz > 0) frequencies.insert(p.f_khz);
    if (frequencies.size() < fewest_frequencies)
        return refuse("few_frequencies",
            "An arc needs three frequencies or more; there are " + std::to_string(frequencies.size()) + ".");
    Misfit misfit{points};
    Eigen::LevenbergMarquardt<Misfit> fit(misfit);
    fit.parameters.maxfev = 400;
    fit.parameters.ftol = fit.parameters.xtol = 1e-14;
    Eigen::VectorXd p = start_of(points);
    fit.minimize(p);
    Arc arc{p[0], p[1], p[2], std::exp(p[3])};
    const bool human = arc.r0_ohm > arc.rinf_ohm && arc.rinf_ohm > 0 && arc.alpha >= 0.2 && arc.alpha <= 1 &&
                       arc.fc_khz >= 1 && arc.fc_khz <= 1000;
    if (!human) // also when one of them is no number
        return refuse("not_an_arc", "No arc of a body goes through these points (R0 " + limits::plain(arc.r0_ohm, 1) +
                                        " Ω, R∞ " + limits::plain(arc.rinf_ohm, 1) + " Ω, α " +
                                        limits::plain(arc.alpha, 2) + ", top at " + limits::plain(arc.fc_khz, 1) +
                                        " kHz).");
    Eigen::VectorXd left(misfit.values());
    Eigen::MatrixXd slopes(misfit.values(), 4);
    misfit(p, left);
    misfit.df(p, slopes);
    arc.residual_ohm = std::sqrt(left.squaredNorm() / static_cast<double>(left.size()));
    const double variance = left.squaredNorm() / static_cast<double>(left.size() - 4);
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
