// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <array>
#include <cmath>
#include <cstddef>

namespace fusain {

/// Forward-mode automatic differentiation: a value with its exact partial derivatives with respect to N inputs.
/// Equations are templates on their scalar, so that one text gives the number and its derivatives.
template <std::size_t N>
struct Dual {
    double v = 0;
    std::array<double, N> d{};

    Dual() = default;
    Dual(double value) : v(value) {}
    static Dual variable(double value, std::size_t index)
    {
        Dual x(value);
        x.d[index] = 1;
        return x;
    }

    /// Chain rule: f(v) with f'(v) = slope.
    Dual chain(double value, double slope) const
    {
        Dual out(value);
        for (std::size_t i = 0; i < N; ++i) out.d[i] = slope * d[i];
        return out;
    }

    friend Dual operator-(const Dual& a) { return a.chain(-a.v, -1); }
    friend Dual operator+(const Dual& a, const Dual& b) { return merge(a, b, a.v + b.v, 1, 1); }
    friend Dual operator-(const Dual& a, const Dual& b) { return merge(a, b, a.v - b.v, 1, -1); }
    friend Dual operator*(const Dual& a, const Dual& b) { return merge(a, b, a.v * b.v, b.v, a.v); }
    friend Dual operator/(const Dual& a, const Dual& b) { return merge(a, b, a.v / b.v, 1 / b.v, -a.v / (b.v * b.v)); }
    friend Dual exp(const Dual& a)
    {
        const double e = std::exp(a.v);
        return a.chain(e, e);
    }

    friend Dual sqrt(const Dual& a)
    {
        const double root = std::sqrt(a.v);
        return a.chain(root, 0.5 / root);
    }
    friend Dual pow(const Dual& a, double power)
    {
        const double p = std::pow(a.v, power);
        return a.chain(p, power * p / a.v);
    }
    friend Dual atan(const Dual& a) { return a.chain(std::atan(a.v), 1 / (1 + a.v * a.v)); }
    friend Dual log(const Dual& a) { return a.chain(std::log(a.v), 1 / a.v); }

private:
    static Dual merge(const Dual& a, const Dual& b, double value, double da, double db)
    {
        Dual out(value);
        for (std::size_t i = 0; i < N; ++i) out.d[i] = da * a.d[i] + db * b.d[i];
        return out;
    }
};

} // namespace fusain
