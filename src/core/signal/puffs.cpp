// SPDX-License-Identifier: GPL-3.0-or-later
// Puffs against a shut valve: what they say of the gas in the chest, and whether they may be believed.
#include "core/signal/chamber.h"
#include "core/signal/chamber_windows.h"
#include "core/base/limits.h"
#include "core/signal/robust.h"
#include "core/signal/solve.h"

#include <cmath>
#include <numbers>

namespace fusain::chamber {

using robust::quantile;
namespace {
using std::numbers::pi;
constexpr std::size_t dense_samples = 16; ///< in one period of the drive
} // namespace

std::vector<PuffSample> without_drive(std::span<const PuffSample> s, double drive_hz)
{
    std::vector<PuffSample> out;
    const double half = 0.5 / drive_hz;
    std::size_t from = 0, to = 0;
    for (const PuffSample& x : s) {
        if (x.t_s - half < s.front().t_s || x.t_s + half > s.back().t_s) continue;
        while (s[from].t_s < x.t_s - half) ++from;
        to = std::max(to, from);
        while (to < s.size() && s[to].t_s <= x.t_s + half) ++to;
        // level and slope, the drive and, where the samples are dense enough, two of its harmonics
        const long columns = to - from >= dense_samples ? 8 : 4;
        Eigen::Matrix<double, 8, 8> normal = Eigen::Matrix<double, 8, 8>::Zero();
        Eigen::Matrix<double, 8, 2> right = Eigen::Matrix<double, 8, 2>::Zero();
        for (std::size_t i = from; i < to; ++i) {
            const double w = 2 * pi * drive_hz * s[i].t_s;
            Eigen::Matrix<double, 8, 1> b;
            b << 1, s[i].t_s - x.t_s, std::cos(w), std::sin(w), std::cos(2 * w), std::sin(2 * w), std::cos(3 * w),
                std::sin(3 * w);
            normal += b * b.transpose();
            right += b * Eigen::RowVector2d(s[i].test_pa, s[i].airway_pa);
        }
        const Eigen::MatrixXd c =
            solve::symmetric_columns(normal.topLeftCorner(columns, columns), right.topRows(columns));
        out.push_back({x.t_s, c(0, 0), c(0, 1)});
    }
    return out;
}

Puffs read_puffs(std::span<const PuffSample> s, double nominal_hz)
{
    Puffs out;
    out.complaint = "Puff gently three times.";
    if (s.size() < 30) return out;
    std::vector<Sample> both; // the test chamber alone swings loudly enough to tell the drive's frequency
    for (const PuffSample& x : s) both.push_back({x.t_s, x.test_pa, x.test_pa, false});
    const double drive_hz = drive_of(both, nominal_hz);
    std::vector<double> test, airway;
    for (const PuffSample& x : without_drive(s, drive_hz)) {
        test.push_back(x.test_pa);
        airway.push_back(x.airway_pa);
    }
    const auto n = static_cast<long>(test.size());
    if (n < 20) return out;
    for (const PuffSample& x : s)
        out.peak_cmh2o = std::max(out.peak_cmh2o, std::abs(x.airway_pa) / pa_per_cmh2o); // as it was, not smoothed
    // puffs: the airway pressure goes over half its peak and back under a fifth
    const double top = quantile(airway, 0.98), low = quantile(airway, 0.05);
    bool up = false;
    for (double p : airway) {
        if (!up && p - low > 0.5 * (top - low) && top - low > 1.5 * pa_per_cmh2o) {
            up = true;
            ++out.count;
        }
        if (up && p - low < 0.25 * (top - low)) up = false;
    }
    out.enough = out.count >= 3;
    // chamber = level + drift − slope·airway
    Eigen::MatrixXd a(n, 3);
    for (long i = 0; i < n; ++i)
        a.row(i) << 1, static_cast<double>(i) / static_cast<double>(n) - 0.5, airway[static_cast<std::size_t>(i)];
    const Eigen::VectorXd y = Eigen::Map<const Eigen::VectorXd>(test.data(), n);
    const Eigen::Matrix3d inverse = solve::inverse(solve::normal_of(a, Eigen::VectorXd::Ones(n)));
    const Eigen::Vector3d c = inverse * (a.transpose() * y);
    const Eigen::VectorXd rest = y - a * c;
    const double rms = std::sqrt(rest.squaredNorm() / static_cast<double>(n));
    Eigen::VectorXd moved = c(2) * a.col(2);
    moved.array() -= moved.mean();
    const double swing = std::sqrt(moved.squaredNorm() / static_cast<double>(n));
    out.slope = -c(2);
    // neighbours share most of a period: about one value in eight periods' worth of samples is news
    const double news = std::max(4.0, (s.back().t_s - s.front().t_s) * drive_hz);
    out.u_slope = rms * std::sqrt(std::max(0.0, inverse(2, 2)) * static_cast<double>(n) / news);
    out.merit = swing > 0 ? rms / (0.05 * swing) : INFINITY;
    if (out.peak_cmh2o >= airway_limit_cmh2o)
        out.complaint = "Too hard (" + limits::plain(out.peak_cmh2o, 0) +
                        " cmH₂O; under 35). Again, as gently as fogging a mirror.";
    else if (!out.enough)
        out.complaint =
            out.count == 0 ? "Puff gently three times." : "Another puff: " + std::to_string(out.count) + " of 3.";
    else if (!(out.slope > 0) || !(out.merit < merit_limit))
        out.complaint = "Chamber and airway do not move alike (merit " + limits::plain(std::min(out.merit, 99.0), 2) +
                        "; under 1.0). Lips tight, cheeks held, throat open; again.";
    else
        out.complaint.clear();
    return out;
}

} // namespace fusain::chamber
