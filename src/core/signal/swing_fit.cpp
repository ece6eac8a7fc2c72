// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/signal/swing_fit.h"

#include "core/signal/solve.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <complex>
#include <vector>

namespace fusain::swing {
namespace {

// level, bubbles, log τb, a, b, log ω, log λ, drag, creep; then a, b, log ω, log λ of the second mode
constexpr int one_mode = 9, two_modes = 13;
constexpr int first_of_mode[] = {3, 9}, drag_at = 7, creep_at = 8;
using Vec = Eigen::Matrix<double, Eigen::Dynamic, 1, 0, two_modes, 1>;
using Mat = Eigen::Matrix<double, Eigen::Dynamic, Eigen::Dynamic, 0, two_modes, two_modes>;
using Complex = std::complex<double>;

/// What is known before a trace is seen, as a mean and a standard deviation for each parameter. The level has none.
/// Bubbles: a few tens of grams leaving over about two seconds. Swing: 0.3–1.2 Hz, decaying over some seconds, faster
/// while it is large, its frequency creeping by a percent a second. Second mode: smaller and mostly faster.
struct Prior {
    double mean, sd;
};
const std::array<Prior, two_modes> prior = {{
    {0, 0},
    {0, 0.12},
    {std::log(1.8), 0.5},
    {0, 1.5},
    {0, 1.5},
    {std::log(2 * M_PI * 0.65), 0.6},
    {std::log(0.35), 0.8},
    {0, 0.5},
    {0, 0.01},
    {0, 0.3},
    {0, 0.3},
    {std::log(2 * M_PI * 1.3), 0.7},
    {std::log(0.25), 0.6},
}};
constexpr double least_drag = -0.2, most_drag = 5, most_creep_per_s = 0.04;
constexpr double slowest_hz = 0.12, fastest_hz = 2.5, fastest_second_hz = 4.0;
// a second mode that is slow, dies at once or is as large as the swing would explain a touched wall away
constexpr double faster_than_main = 1.3, fastest_second_decay_per_s = 1.0, largest_second = 0.4, alive_at_end = 2;

Vec pack(const Fit& f)
{
    Vec p(f.second.on ? two_modes : one_mode);
    p.head<one_mode>() << f.level_kg, f.bubbles_kg, f.log_bubble_s, f.main.a_kg, f.main.b_kg, f.main.log_omega,
        f.main.log_lambda, f.main.drag, f.main.creep_per_s;
    if (f.second.on) p.tail<4>() << f.second.a_kg, f.second.b_kg, f.second.log_omega, f.second.log_lambda;
    return p;
}

void unpack(const Vec& p, Fit& f)
{
    f.level_kg = p[0];
    f.bubbles_kg = p[1];
    f.log_bubble_s = p[2];
    f.main = {true, p[3], p[4], p[5], p[6], p[drag_at], p[creep_at]};
    if (p.size() == two_modes) f.second = {true, p[9], p[10], p[11], p[12]};
}

/// The model at every bin of a window: each mode at a = 1, b = 0 and a = 0, b = 1, and e^{−t/τ}. Bins stand 40 ms apart
/// but for jitter and gaps, so that most of it is one multiplication a bin.
class Window {
public:
    explicit Window(std::span<const Bin> bins)
        : bins_(bins), t0_(bins.front().t_s), fade_(bins.size()), value_(bins.size()), spent_(bins.size())
    {
        for (auto& z : turn_) z.resize(bins.size());
    }

    std::size_t size() const { return bins_.size(); }
    double residual(std::size_t i) const { return bins_[i].kg - value_[i]; }

    void at(const Vec& p)
    {
        const double tau = std::exp(p[2]);
        run(-1 / tau, bins_.front().t_s, [&](std::size_t i, Complex z) { fade_[i] = z.real(); });
        modes_ = p.size() == two_modes ? 2 : 1;
        for (int m = 0; m < modes_; ++m) {
            const int k = first_of_mode[m];
            auto& turn = turn_[static_cast<std::size_t>(m)];
            run({-std::exp(p[k + 3]), std::exp(p[k + 2])}, 0, [&](std::size_t i, Complex z) { turn[i] = z; });
        }
        const double half_creep = 0.5 * p[creep_at] * std::exp(p[first_of_mode[0] + 2]);
        for (std::size_t i = 0; i < bins_.size(); ++i) {
            const double since = bins_[i].t_s - t0_, turned = half_creep * since * since;
            spent_[i] = 1 - std::sqrt(std::norm(turn_[0][i]));
            // sine and cosine of a few degrees to the fourth order: their rounding is far below a gram
            const Complex creep{1 - turned * turned * (0.5 - turned * turned / 24), turned * (1 - turned * turned / 6)};
            turn_[0][i] = times(turn_[0][i], std::abs(turned) < 0.2 ? creep : std::polar(1.0, turned)) /
                          (1 + p[drag_at] * spent_[i]);
        }
        for (std::size_t i = 0; i < bins_.size(); ++i) {
            double v = p[0] - p[1] * fade_[i];
            for (int m = 0; m < modes_; ++m) v += swing(p, m, i);
            value_[i] = v;
        }
    }

    /// J'WJ and J'Wr at the parameters of the last at().
    void normal(const Vec& p, const std::vector<double>& weight, Mat& normal, Vec& right) const
    {
        if (modes_ == 2)
            accumulate<two_modes>(p, weight, normal, right);
        else
            accumulate<one_mode>(p, weight, normal, right);
    }

private:
    template <int K>
    void accumulate(const Vec& p, const std::vector<double>& weight, Mat& normal, Vec& right) const
    {
        constexpr int modes = K == two_modes ? 2 : 1;
        const double tau = std::exp(p[2]);
        double omega[modes], lambda[modes], g[K], product[K] = {}, square[K][K] = {};
        for (int m = 0; m < modes; ++m) {
            omega[m] = std::exp(p[first_of_mode[m] + 2]);
            lambda[m] = std::exp(p[first_of_mode[m] + 3]);
        }
        for (std::size_t i = 0; i < bins_.size(); ++i) {
            const double since = bins_[i].t_s - t0_, w = weight[i], r = w * residual(i);
            g[0] = 1;
            g[1] = -fade_[i];
            g[2] = -p[1] * fade_[i] * bins_[i].t_s / tau;
            for (int m = 0; m < modes; ++m) {
                const int k = first_of_mode[m];
                const Complex z = turn_[static_cast<std::size_t>(m)][i];
                g[k] = z.real();
                g[k + 1] = z.imag();
                g[k + 2] = (p[k + 1] * z.real() - p[k] * z.imag()) * omega[m] * since;
                g[k + 3] = -(p[k] * z.real() + p[k + 1] * z.imag()) * lambda[m] * since;
                if (m > 0) continue;
                const double left = 1 / (1 + p[drag_at] * spent_[i]), value = p[k] * z.real() + p[k + 1] * z.imag();
                g[k + 2] *= 1 + 0.5 * p[creep_at] * since;
                g[creep_at] = (p[k + 1] * z.real() - p[k] * z.imag()) * 0.5 * omega[0] * since * since;
                g[drag_at] = -value * spent_[i] * left;
                g[k + 3] *= 1 + p[drag_at] * (1 - spent_[i]) * left;
            }
            for (int j = 0; j < K; ++j) {
                product[j] += g[j] * r;
                const double wg = w * g[j];
                for (int k = 0; k <= j; ++k) square[j][k] += wg * g[k];
            }
        }
        normal.resize(K, K);
        right.resize(K);
        for (int j = 0; j < K; ++j) {
            right[j] = product[j];
            for (int k = 0; k <= j; ++k) normal(j, k) = normal(k, j) = square[j][k];
        }
    }

    /// Without the care for infinities that a product of std::complex takes.
    static Complex times(Complex a, Complex b)
    {
        return {a.real() * b.real() - a.imag() * b.imag(), a.real() * b.imag() + a.imag() * b.real()};
    }

    double swing(const Vec& p, int m, std::size_t i) const
    {
        const int k = first_of_mode[m];
        const Complex z = turn_[static_cast<std::size_t>(m)][i];
        return p[k] * z.real() + p[k + 1] * z.imag();
    }

    /// e^{rate·(t − t0 + from)} at every bin.
    template <class Put>
    void run(Complex rate, double from, const Put& put) const
    {
        constexpr double usual_s = 0.040, small_s = 0.012, even_s = 1e-7;
        constexpr std::size_t anew = 64; // bins after which rounding is swept out
        const Complex step = std::exp(rate * usual_s);
        Complex z = std::exp(rate * from);
        put(0, z);
        for (std::size_t i = 1; i < bins_.size(); ++i) {
            const double off = bins_[i].t_s - bins_[i - 1].t_s - usual_s;
            if (std::abs(off) > small_s || i % anew == 0) {
                z = std::exp(rate * (bins_[i].t_s - t0_ + from));
            } else {
                z = times(z, step);
                if (std::abs(off) > even_s) {
                    const Complex e = rate * off;
                    z = times(z, 1.0 + times(e, 1.0 + times(e, 0.5 + times(e, 1 / 6.0 + e / 24.0))));
                }
            }
            put(i, z);
        }
    }

    std::span<const Bin> bins_;
    double t0_;
    int modes_ = 1;
    std::vector<double> fade_, value_;
    std::vector<double> spent_; ///< 1 − e^{−λs} of the swing
    std::array<std::vector<Complex>, 2> turn_;
};

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
    const Eigen::Vector3d solved = solve::symmetric(normal, right);
    p.resize(one_mode);
    p << solved[0], 0.02, prior[2].mean, solved[1], solved[2], std::log(omega), std::log(lambda), 0, 0;
    return yy - solved.dot(right);
}

struct Solved {
    Vec p;
    double cost = INFINITY; // penalised, in units of the noise variance
    double scale = 0;
    Mat covariance; // for unit inflation
    double inflation = 1;
};

void keep_in_range(Vec& q)
{
    q[2] = std::clamp(q[2], std::log(0.2), std::log(60.0));
    q[5] = std::clamp(q[5], std::log(2 * M_PI * slowest_hz), std::log(2 * M_PI * fastest_hz));
    q[6] = std::clamp(q[6], std::log(0.02), std::log(4.0));
    q[drag_at] = std::clamp(q[drag_at], least_drag, most_drag);
    q[creep_at] = std::clamp(q[creep_at], -most_creep_per_s, most_creep_per_s);
    if (q.size() != two_modes) return;
    q[11] = std::clamp(q[11], q[5] + std::log(faster_than_main), std::log(2 * M_PI * fastest_second_hz));
    q[12] = std::clamp(q[12], std::log(0.02), std::log(fastest_second_decay_per_s));
}

/// Variance inflation for residuals that hang together: 1 + 2Σρ over the first positive run of lags.
double inflation_of(const Window& window, double scale)
{
    std::vector<double> r;
    for (std::size_t i = 0; i < window.size(); ++i)
        r.push_back(std::clamp(window.residual(i), -2.5 * scale, 2.5 * scale));
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

/// Levenberg–Marquardt on Huber-weighted residuals plus the prior.
Solved solved_from(Window& window, Vec p, double noise_floor_kg, bool warm = false)
{
    const std::size_t n = window.size();
    std::vector<double> weight(n, 1.0), sorted(n);
    double scale = noise_floor_kg;

    const auto rescale = [&] {
        for (std::size_t i = 0; i < n; ++i) sorted[i] = std::abs(window.residual(i));
        std::nth_element(sorted.begin(), sorted.begin() + static_cast<long>(n / 2), sorted.end());
        scale = std::max(noise_floor_kg, 1.4826 * sorted[n / 2]);
        for (std::size_t i = 0; i < n; ++i) {
            const double z = std::abs(window.residual(i)) / scale;
            weight[i] = z <= 2.5 ? 1.0 : 2.5 / z;
        }
    };
    // The first round trusts the noise floor and every sample, so that clear data win over what was expected
    // beforehand.
    const auto cost_of = [&](const Vec& q) {
        double sum = 0;
        for (std::size_t i = 0; i < n; ++i) sum += weight[i] * window.residual(i) * window.residual(i);
        sum /= scale * scale;
        for (int k = 1; k < q.size(); ++k)
            sum +=
                std::pow((q[k] - prior[static_cast<std::size_t>(k)].mean) / prior[static_cast<std::size_t>(k)].sd, 2);
        return sum;
    };
    Mat normal;
    Vec right;
    const auto normal_at = [&] {
        window.normal(p, weight, normal, right);
        normal /= scale * scale;
        right /= scale * scale;
        for (int k = 1; k < p.size(); ++k) {
            const Prior& q = prior[static_cast<std::size_t>(k)];
            normal(k, k) += 1 / (q.sd * q.sd);
            right[k] += (q.mean - p[k]) / (q.sd * q.sd);
        }
    };

    window.at(p);
    for (int round = warm ? 1 : 0; round < 3; ++round) {
        if (round > 0) rescale();
        double cost = cost_of(p), damping = 1e-3;
        for (int step = 0; step < 12; ++step) {
            normal_at();
            bool better = false;
            double gained = 0;
            for (int attempt = 0; attempt < 6 && !better; ++attempt) {
                Mat damped = normal;
                damped.diagonal() *= 1 + damping;
                Vec q = p + solve::symmetric(damped, right);
                keep_in_range(q);
                window.at(q);
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
            if (!better) window.at(p);
            if (!better || gained < 1e-4 * (1 + cost)) break;
        }
    }
    rescale();
    normal_at();
    Solved out{p, cost_of(p), scale, solve::inverse(normal), 1};
    out.inflation = inflation_of(window, scale);
    return out;
}

/// Where what one mode leaves swings most, as a start for a second mode; nothing when there is no such place.
std::optional<Vec> second_start(std::span<const Bin> bins, const Window& window, const Solved& one)
{
    const double t0 = bins.front().t_s, length = bins.back().t_s - t0, main_hz = std::exp(one.p[5]) / (2 * M_PI),
                 lambda = std::exp(one.p[6]);
    double most = 0;
    Vec best;
    for (double hz = std::max(faster_than_main * main_hz, 0.9 / length); hz < fastest_second_hz; hz *= 1.06) {
        Eigen::Matrix2d normal = Eigen::Matrix2d::Identity() * 1e-9;
        Eigen::Vector2d right = Eigen::Vector2d::Zero();
        for (std::size_t i = 0; i < bins.size(); ++i) {
            const double since = bins[i].t_s - t0;
            const Complex z = std::polar(std::exp(-lambda * since), 2 * M_PI * hz * since);
            const Eigen::Vector2d row(z.real(), z.imag());
            normal += row * row.transpose();
            right += row * window.residual(i);
        }
        const Eigen::Vector2d solved = solve::symmetric(normal, right);
        if (const double gained = solved.dot(right); gained > most) {
            most = gained;
            best.resize(two_modes);
            best << one.p, solved[0], solved[1], std::log(2 * M_PI * hz),
                std::min(one.p[6], std::log(0.5 * fastest_second_decay_per_s));
        }
    }
    if (best.size() == 0) return std::nullopt;
    return best;
}

/// The same motion seen from a later window start: amplitudes faded and turned on.
void shift(Vec& p, double seconds)
{
    for (int m = 0; m < (p.size() == two_modes ? 2 : 1); ++m) {
        const int k = first_of_mode[m];
        const double omega = std::exp(p[k + 2]), fade = std::exp(-std::exp(p[k + 3]) * seconds),
                     c = std::cos(omega * seconds), s = std::sin(omega * seconds);
        const double a = p[k], b = p[k + 1];
        p[k] = fade * (a * c + b * s);
        p[k + 1] = fade * (b * c - a * s);
    }
    const double spent = 1 - std::exp(-std::exp(p[6]) * seconds), left = 1 / (1 + p[drag_at] * spent);
    p[3] *= left;
    p[4] *= left;
    p[drag_at] *= (1 - spent) * left;
}

/// Whether what was fitted is a second mode: smaller than the swing, and still there at the end of the window. A
/// transient is none: a wall that was touched must not be explained away by one.
bool is_mode(const Vec& p, double length_s, double noise_floor_kg)
{
    const double second = std::hypot(p[9], p[10]);
    return second < largest_second * std::hypot(p[3], p[4]) &&
           second * std::exp(-std::exp(p[12]) * length_s) > alive_at_end * noise_floor_kg;
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
                const Eigen::Vector3d row(
                    1, envelope * std::cos(2 * M_PI * hz * since), envelope * std::sin(2 * M_PI * hz * since));
                normal += row * row.transpose();
                right += row * y;
                yy += y * y;
            }
            const Eigen::Matrix3d inverse = solve::inverse(normal);
            const Eigen::Vector3d p = inverse * right;
            const double rest = std::max(0.0, yy - p.dot(right));
            tried.push_back(
                {rest, p[0] + later.level_kg, std::sqrt(rest / (n - 3) * inverse(0, 0)), std::hypot(p[1], p[2])});
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

double Mode::at(double since_s) const
{
    const double angle = std::exp(log_omega) * since_s * (1 + 0.5 * creep_per_s * since_s);
    return fade(since_s) * (a_kg * std::cos(angle) + b_kg * std::sin(angle));
}
double Mode::envelope(double since_s) const { return on ? std::hypot(a_kg, b_kg) * fade(since_s) : 0; }
double Mode::fade(double since_s) const
{
    const double free = std::exp(-std::exp(log_lambda) * since_s);
    return free / std::max(0.1, 1 + drag * (1 - free));
}

double Fit::at(double t_s) const
{
    return level_kg - rise_after(t_s) + main.at(t_s - start_s) + (second.on ? second.at(t_s - start_s) : 0);
}
double Fit::envelope(double t_s) const { return main.envelope(t_s - start_s) + second.envelope(t_s - start_s); }
double Fit::rise_after(double t_s) const { return bubbles_kg * std::exp(-t_s / std::exp(log_bubble_s)); }

std::optional<Fit> fit(std::span<const Bin> bins, double noise_floor_kg, const Fit* warm)
{
    if (bins.size() < 14) return std::nullopt;
    constexpr double well_explained = 1.4, second_must_gain = 0.75, periods_for_second = 1.6, search_every_s = 0.5;
    Window window(bins);
    Solved best;
    if (warm) {
        Vec p = pack(*warm);
        shift(p, bins.front().t_s - warm->start_s);
        best = solved_from(window, p, noise_floor_kg, true);
        if (best.p.size() == two_modes &&
            (!best.p.allFinite() || !is_mode(best.p, bins.back().t_s - bins.front().t_s, noise_floor_kg)))
            best = solved_from(window, p.head(one_mode), noise_floor_kg);
    }
    const double end_s = bins.back().t_s;
    const bool search = !warm || end_s - warm->searched_s > search_every_s;
    if (!warm || (search && best.scale > 2 * noise_floor_kg)) {
        struct Start {
            double rest;
            Vec p;
        };
        std::vector<Start> starts;
        for (double hz : {0.28, 0.38, 0.5, 0.64, 0.8, 1.0, 1.25})
            for (double lambda : {0.2, 0.7}) {
                Vec p;
                const double rest = start_at(bins, hz, lambda, p);
                starts.push_back({rest, p});
            }
        std::sort(starts.begin(), starts.end(), [](const Start& a, const Start& b) { return a.rest < b.rest; });
        for (std::size_t i = 0; i < 2; ++i) {
            const Solved tried = solved_from(window, starts[i].p, noise_floor_kg);
            if (tried.scale < best.scale || !std::isfinite(best.cost)) best = tried;
        }
    }
    if (search && best.p.allFinite() && best.p.size() == one_mode && best.scale > well_explained * noise_floor_kg &&
        (bins.back().t_s - bins.front().t_s) * std::exp(best.p[5]) / (2 * M_PI) > periods_for_second) {
        window.at(best.p);
        if (const auto p = second_start(bins, window, best)) {
            const Solved tried = solved_from(window, *p, noise_floor_kg);
            if (tried.p.allFinite() && tried.scale < second_must_gain * best.scale &&
                is_mode(tried.p, bins.back().t_s - bins.front().t_s, noise_floor_kg))
                best = tried;
        }
    }
    if (best.p.size() == 0 || !best.p.allFinite()) return std::nullopt;
    Fit out;
    out.start_s = bins.front().t_s;
    out.end_s = bins.back().t_s;
    unpack(best.p, out);
    out.residual_kg = best.scale;
    out.searched_s = search ? end_s : warm->searched_s;
    out.inflation = best.inflation;
    const double variance = best.covariance(0, 0) * out.inflation;
    if (!(variance > 0)) return std::nullopt;
    out.u_level_kg = std::sqrt(variance);
    return out;
}

} // namespace fusain::swing
