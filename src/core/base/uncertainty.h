// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/dual.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <string_view>
#include <vector>

/// First-order propagation of standard uncertainties: u² = Σ (∂f/∂x)²·u(x)², inputs independent.
namespace fusain::uncertainty {

inline constexpr std::size_t max_inputs = 12;
using Grad = Dual<max_inputs>;

/// One input of a model as propagation sees it.
struct Input {
    std::string_view symbol; ///< e.g. "RV"; names are literals, so that a record costs no allocation for them
    std::string_view title;  ///< e.g. "residual volume"
    std::string_view unit;
    double value = 0;
    double u = 0;          ///< standard uncertainty, same unit
    bool of_model = false; ///< the error of an equation in people like these: in a change it mostly cancels
};

/// What one input contributes to the uncertainty of a result.
struct Share {
    Input input;
    double sensitivity = 0; ///< ∂result/∂input
    double u = 0;           ///< |sensitivity|·u(input), in the unit of the result
    double fraction = 0;    ///< of the variance, 0 to 1
};

struct Budget {
    double value = 0;
    double u = 0;
    std::vector<Share> shares; ///< largest first
};

inline Budget combine(double value, const std::vector<Input>& inputs, const std::vector<double>& slopes)
{
    Budget budget{value, 0, {}};
    double variance = 0;
    for (std::size_t i = 0; i < inputs.size(); ++i) {
        const double part = std::abs(slopes[i]) * inputs[i].u;
        budget.shares.push_back({inputs[i], slopes[i], part, 0});
        variance += part * part;
    }
    for (Share& share : budget.shares) share.fraction = variance > 0 ? share.u * share.u / variance : 0;
    std::stable_sort(
        budget.shares.begin(), budget.shares.end(), [](const Share& a, const Share& b) { return a.u > b.u; });
    budget.u = std::sqrt(variance);
    return budget;
}

/// Standard uncertainty of one derived value.
inline double u_of(const Grad& y, const std::vector<Input>& inputs)
{
    double variance = 0;
    for (std::size_t i = 0; i < inputs.size(); ++i) variance += y.d[i] * y.d[i] * inputs[i].u * inputs[i].u;
    return std::sqrt(variance);
}

/// Exact derivatives: `model` is called once with dual numbers.
template <class Model>
Budget propagate_exact(const Model& model, const std::vector<Input>& inputs)
{
    std::vector<Grad> x;
    for (std::size_t i = 0; i < inputs.size(); ++i) x.push_back(Grad::variable(inputs[i].value, i));
    const Grad y = model(x);
    return combine(y.v, inputs, {y.d.begin(), y.d.begin() + static_cast<long>(inputs.size())});
}

/// Central differences: the independent check of the exact derivatives.
template <class Model>
Budget propagate_central(const Model& model, const std::vector<Input>& inputs)
{
    std::vector<double> x;
    for (const Input& input : inputs) x.push_back(input.value);
    std::vector<double> slopes;
    for (std::size_t i = 0; i < x.size(); ++i) {
        const double at = x[i], step = 1e-5 * std::max(1.0, std::abs(at));
        x[i] = at + step;
        const double up = model(x);
        x[i] = at - step;
        const double down = model(x);
        x[i] = at;
        slopes.push_back((up - down) / (2 * step));
    }
    return combine(model(x), inputs, slopes);
}

} // namespace fusain::uncertainty
