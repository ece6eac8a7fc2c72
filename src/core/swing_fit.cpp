// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/swing_fit.h"

#include <Eigen/Dense>

#include <algorithm>
#include <array>
#include <cmath>
#include <vector>

namespace fusain::swing {
namespace {

constexpr int parameters = 7; // level, bubbles, log τb, a, b, log ω, log λ
using Vec = Eigen::Matrix<double, parameters, 1>;
using Mat = Eigen::Matrix<double, parameters, parameters>;

/// What is known before a trace is seen, as a mean and a standard deviation for each parameter. The level has none.
/// Bubbles: a few tens of grams leaving over about two seconds. Swing: 0.3–1.2 Hz, decaying over some seconds.
struct Prior {
    double mean, sd;
};
const std::array<Prior, parameters> prior = {{
    {0, 0},
    {0, 0.12},
    {std::log(1.8), 0.5},
    {0, 1.5},
    {0, 1.5},
    {std::log(2 * M_PI * 0.65), 0.6},
    {std::log(0.35), 0.8},
}};

Vec pack(const Fit& f) { return (Vec() << f.level_kg, f.bubbles_kg, f.log_bubble_s, f.a_kg, f.b_kg, f.log_omega, f.log_lambda).finished(); }

void unpack(const Vec& p, Fit& f)
{
    f.level_kg = p[0];
    f.bubbles_kg = p[1];
    f.log_bubble_s = p[2];
    f.a_kg = p[3];
    f.b_kg = p[4];
    f.log_omega = p[5];
    f.log_lambda = p[6];
}

double model(const Vec& p, double t0, double t, Vec* gradient)
{
    const double since = t - t0;
    const double tau = std::exp(p[2]), omega = std::exp(p[5]), lambda = std::exp(p[6]);
    const double fade = std::exp(-t / tau);
    const double envelope = std::exp(-lambda * since);
    const double c = std::cos(omega * since), s = std::sin(omega * since);
    const double swing = envelope * (p[3] * c + p[4] * s);
    if (gradient) {
        (*gradient)[0] = 1;
        (*gradient)[1] = -fade;
        (*gradient)[2] = -p[1] * fade * t / tau;
        (*gradient)[3] = envelope * c;
        (*gradient)[4] = envelope * s;
        (*gradient)[5] = envelope * (p[4] * c - p[3] * s) * omega * since;
        (*gradient)[6] = -swing * lambda * since;
    }
    return p[0] - p[1] * fade + swing;
}

/// Linear least squares in level, a, b for a fixed frequency and decay: a start for the full fit.
double start_at(std::span<const Bin> bins, double hz, double lambda, Vec& p)
{
    Eigen::Matrix3d normal = Eigen::Matrix3d::Identity() * 1e-9;
    Eigen::Vector3d right = Eigen::Vector3d::Zero();
    const double t0 = bins.front().t_s, omega = 2 * M_PI * hz;
    double yy = 0;
    for (const Bin& bin : bins) {
        const double since = bin.t_s - t0, envelope = std::exp(-lambda * since);
        const Eigen::Vector3d row(1, envelope * std::cos(omega * since), envelope * std::sin(omega * since));
        normal += row * row.transpose();
        right += row * bin.kg;
        yy += bin.kg * bin.kg;
    }
    const Eigen::Vector3d solved = normal.ldlt().solve(right);
    p << solved[0], 0.02, prior[2].mean, solved[1], solved[2], std::log(omega), std::log(lambda);
    return yy - solved.dot(right);
}

struct Solved {
    Vec p;
    double cost = INFINITY; // penalised, in units of the noise variance
    double scale = 0;
    Mat covariance; // for unit inflation
};

/// Levenberg–Marquardt on Huber-weighted residuals plus the prior.
Solved solve(std::span<const Bin> bins, Vec p, double noise_floor_kg)
{
    const double t0 = bins.front().t_s;
    const std::size_t n = bins.size();
    std::vector<double> residual(n), weight(n, 1.0), sorted(n);
    double scale = noise_floor_kg;

    const auto rescale = [&] {
        for (std::size_t i = 0; i < n; ++i) {
            residual[i] = bins[i].kg - model(p, t0, bins[i].t_s, nullptr);
            sorted[i] = std::abs(residual[i]);
        }
        std::nth_element(sorted.begin(), sorted.begin() + static_cast<long>(n / 2), sorted.end());
        scale = std::max(noise_floor_kg, 1.4826 * sorted[n / 2]);
        for (std::size_t i = 0; i < n; ++i) {
            const double z = std::abs(residual[i]) / scale;
            weight[i] = z <= 2.5 ? 1.0 : 2.5 / z;
        }
    };
    // The first round trusts the noise floor and every sample, so that clear data win over what was expected beforehand.
    const auto cost_of = [&](const Vec& q) {
        double sum = 0;
        for (std::size_t i = 0; i < n; ++i) sum += weight[i] * std::pow((bins[i].kg - model(q, t0, bins[i].t_s, nullptr)) / scale, 2);
        for (int k = 1; k < parameters; ++k) sum += std::pow((q[k] - prior[static_cast<std::size_t>(k)].mean) / prior[static_cast<std::size_t>(k)].sd, 2);
        return sum;
    };
    const auto normal_of = [&](Mat& normal, Vec* right) {
        normal.setZero();
        if (right) right->setZero();
        Vec gradient;
        for (std::size_t i = 0; i < n; ++i) {
            const double r = bins[i].kg - model(p, t0, bins[i].t_s, &gradient);
            const double w = weight[i] / (scale * scale);
            normal.selfadjointView<Eigen::Lower>().rankUpdate(gradient, w);
            if (right) *right += gradient * (w * r);
        }
        normal = normal.selfadjointView<Eigen::Lower>();
        for (int k = 1; k < parameters; ++k) {
            const Prior& q = prior[static_cast<std::size_t>(k)];
            normal(k, k) += 1 / (q.sd * q.sd);
            if (right) (*right)[k] += (q.mean - p[k]) / (q.sd * q.sd);
        }
    };

    Mat normal;
    Vec right;
    for (int round = 0; round < 3; ++round) {
        if (round > 0) rescale();
        double cost = cost_of(p), damping = 1e-3;
        for (int step = 0; step < 12; ++step) {
            normal_of(normal, &right);
            bool better = false;
            double gained = 0;
            for (int attempt = 0; attempt < 6 && !better; ++attempt) {
                Mat damped = normal;
                damped.diagonal() *= 1 + damping;
                Vec q = p + damped.ldlt().solve(right);
                q[2] = std::clamp(q[2], std::log(0.2), std::log(60.0));
                q[5] = std::clamp(q[5], std::log(2 * M_PI * 0.12), std::log(2 * M_PI * 2.5));
                q[6] = std::clamp(q[6], std::log(0.02), std::log(4.0));
                const double next = cost_of(q);
                if (next < cost) {
                    gained = cost - next;
                    p = q;
                    cost = next;
                    damping = std::max(damping / 5, 1e-9);
                    better = true;
                } else {
                    damping *= 8;
                }
            }
            if (!better || gained < 1e-4 * (1 + cost)) break;
        }
    }
    rescale();
    normal_of(normal, nullptr);
    return {p, cost_of(p), scale, normal.ldlt().solve(Mat::Identity())};
}

/// Variance inflation for residuals that hang together: 1 + 2Σρ over the first positive run of lags.
double inflation_of(std::span<const Bin> bins, const Vec& p, double scale)
{
    const double t0 = bins.front().t_s;
    std::vector<double> r;
    for (const Bin& bin : bins) r.push_back(std::clamp(bin.kg - model(p, t0, bin.t_s, nullptr), -2.5 * scale, 2.5 * scale));
    double zero = 0;
    for (double x : r) zero += x * x;
    if (zero <= 0) return 1;
    double sum = 1;
    for (std::size_t lag = 1; lag < std::min<std::size_t>(r.size() / 3, 25); ++lag) {
        double c = 0;
        for (std::size_t i = lag; i < r.size(); ++i) c += r[i] * r[i - lag];
        const double rho = c / zero;
        if (rho <= 0.05) break;
        sum += 2 * rho;
    }
    return sum;
}

} // namespace

std::optional<EarlyLevel> early_level(std::span<const Bin> bins, const Fit& later)
{
    struct Tried {
        double rest, level, u, amplitude;
    };
    if (bins.size() < 14) return std::nullopt;
    const double t0 = bins.front().t_s, length = bins.back().t_s - t0;
    const double n = static_cast<double>(bins.size());
    std::vector<Tried> tried;
    Tried best{INFINITY, 0, 0, 0};
    for (double hz = 0.28; hz < 1.35; hz *= 1.09) {
        if (hz * length < 0.5) continue;
        for (double lambda : {0.08, 0.2, 0.5, 1.2}) {
            Eigen::Matrix3d normal = Eigen::Matrix3d::Zero();
            Eigen::Vector3d right = Eigen::Vector3d::Zero();
            double yy = 0;
            for (const Bin& bin : bins) {
                const double since = bin.t_s - t0, envelope = std::exp(-lambda * since);
                const double y = bin.kg + later.rise_after(bin.t_s) - later.level_kg;
                const Eigen::Vector3d row(1, envelope * std::cos(2 * M_PI * hz * since), envelope * std::sin(2 * M_PI * hz * since));
                normal += row * row.transpose();
                right += row * y;
                yy += y * y;
            }
            const Eigen::Matrix3d inverse = normal.inverse();
            const Eigen::Vector3d p = inverse * right;
            const double rest = std::max(0.0, yy - p.dot(right));
            tried.push_back({rest, p[0] + later.level_kg, std::sqrt(rest / (n - 3) * inverse(0, 0)), std::hypot(p[1], p[2])});
            if (rest < best.rest) best = tried.back();
        }
    }
    if (tried.empty()) return std::nullopt;
    EarlyLevel out{best.level, best.level, std::sqrt(best.rest / (n - 3)), best.amplitude};
    const double limit = best.rest * (1 + 9 / (n - 3)) + n * std::pow(0.004 + 0.01 * best.amplitude, 2);
    for (const Tried& t : tried) {
        if (t.rest > limit) continue;
        out.low_kg = std::min(out.low_kg, t.level - 2 * t.u);
        out.high_kg = std::max(out.high_kg, t.level + 2 * t.u);
    }
    return out;
}

double Fit::at(double t_s) const { return model(pack(*this), start_s, t_s, nullptr); }

double Fit::envelope(double t_s) const { return std::hypot(a_kg, b_kg) * std::exp(-std::exp(log_lambda) * (t_s - start_s)); }

double Fit::rise_after(double t_s) const { return bubbles_kg * std::exp(-t_s / std::exp(log_bubble_s)); }

std::optional<Fit> fit(std::span<const Bin> bins, double noise_floor_kg, const Fit* warm)
{
    if (bins.size() < 14) return std::nullopt;
    Solved best;
    Vec p;
    if (warm) {
        p = pack(*warm);
        // the earlier fit's phase belongs to its own window start
        const double shift = bins.front().t_s - warm->start_s, omega = std::exp(p[5]);
        const double fade = std::exp(-std::exp(p[6]) * shift), c = std::cos(omega * shift), s = std::sin(omega * shift);
        const double a = p[3], b = p[4];
        p[3] = fade * (a * c + b * s);
        p[4] = fade * (b * c - a * s);
        best = solve(bins, p, noise_floor_kg);
    }
    if (!warm || best.scale > 2 * noise_floor_kg) {
        struct Start {
            double rest;
            Vec p;
        };
        std::vector<Start> starts;
        for (double hz : {0.28, 0.38, 0.5, 0.64, 0.8, 1.0, 1.25})
            for (double lambda : {0.2, 0.7}) {
                const double rest = start_at(bins, hz, lambda, p);
                starts.push_back({rest, p});
            }
        std::sort(starts.begin(), starts.end(), [](const Start& a, const Start& b) { return a.rest < b.rest; });
        for (std::size_t i = 0; i < 2; ++i) {
            const Solved tried = solve(bins, starts[i].p, noise_floor_kg);
            if (tried.scale < best.scale || !std::isfinite(best.cost)) best = tried;
        }
    }
    if (!best.p.allFinite()) return std::nullopt;
    Fit out;
    out.start_s = bins.front().t_s;
    out.end_s = bins.back().t_s;
    unpack(best.p, out);
    out.residual_kg = best.scale;
    out.inflation = inflation_of(bins, best.p, best.scale);
    const double variance = best.covariance(0, 0) * out.inflation;
    if (!(variance > 0)) return std::nullopt;
    out.u_level_kg = std::sqrt(variance);
    return out;
}

} // namespace fusain::swing
