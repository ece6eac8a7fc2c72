// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"
#include "core/base/result.h"

#include <span>

namespace fusain {

/// What stands in the places of a chain.
using Places = std::span<const Quantity* const>;

/// Values of a chain with their exact derivatives as uncertainties and, for the whole, a budget for every headline
/// quantity. `chain(const std::vector<T>&)` gives all quantities of `places`, with T = double and T = Grad.
template <class Chain>
void propagate(Result& r, const Chain& chain, Places places, const std::vector<uncertainty::Input>& x, Detail detail)
{
    std::vector<uncertainty::Grad> variables;
    variables.reserve(x.size());
    for (std::size_t i = 0; i < x.size(); ++i) variables.push_back(uncertainty::Grad::variable(x[i].value, i));
    const std::vector<uncertainty::Grad> derived = chain(variables);
    r.values.reserve(derived.size());
    for (std::size_t k = 0; k < derived.size(); ++k) { // a dual number's value is what the same text gives with double
        const uncertainty::Grad& g = derived[k];
        double model = 0;
        for (std::size_t i = 0; i < x.size(); ++i)
            if (x[i].of_model) model += (g.d[i] * x[i].u) * (g.d[i] * x[i].u);
        r.values.push_back({places[k], g.v, uncertainty::u_of(g, x), std::sqrt(model)});
        if (detail == Detail::whole && places[k]->headline)
            r.doubts.push_back(
                {places[k], uncertainty::combine(g.v, x, {g.d.begin(), g.d.begin() + static_cast<long>(x.size())})});
    }
}

} // namespace fusain
