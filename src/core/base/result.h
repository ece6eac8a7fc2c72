// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/quantity.h"
#include "core/base/story.h"
#include "core/base/uncertainty.h"

#include <cmath>
#include <stdexcept>
#include <string>
#include <vector>

namespace fusain {

/// A quantity of a result, with its standard uncertainty; the error of the model (what a conversion or an equation is
/// worth in people like these) stands apart: in a change it mostly cancels.
struct Value {
    const Quantity* quantity = nullptr;
    double value = 0;
    double u = 0;       ///< measurement and model
    double u_model = 0; ///< of the model alone
    double u_measurement() const { return std::sqrt(std::max(0.0, u * u - u_model * u_model)); }
};

/// What a body is made of, as colours tell it apart.
enum class Tissue { none, lean, fat, water, mineral };

/// One step of a ladder. `size` is signed; totals stand for themselves. The unit is litres but for what is weighed.
struct Rung {
    std::string title;
    std::string detail;
    double size = 0;
    double u = 0;
    bool total = false;
    bool weighed = false;         ///< in kilograms
    Tissue tissue = Tissue::none; ///< in a ladder that begins with one, the steps are a sum from nothing
    int decimals = 2;             ///< that mean something
};

/// A change of one input and what it would do to this client's percent fat, or to another quantity.
struct WhatIf {
    std::string title;
    double fat_percent_change = 0;
    bool is_mistake = false;      ///< true: a mistake to avoid, false: a doubt or a choice
    const Quantity* of = nullptr; ///< what it moves where that is not percent fat
    double change = 0;            ///< of that, in its unit
};

/// Where the doubt in one quantity comes from.
struct Doubt {
    const Quantity* quantity = nullptr;
    uncertainty::Budget budget; ///< model included
};

/// What every method gives.
struct Result {
    std::vector<Value> values;
    std::vector<int> used;     ///< readings that count, 0-based, in the order given
    double spread = 0;         ///< largest minus smallest of those, in the reading's unit
    std::vector<Doubt> doubts; ///< of the headline quantities
    std::string balance;       ///< of muscle and fat, a word (core/body/balance.h); empty: none for the person
    std::vector<Rung> ladder;
    Story story;

    const Value* find(const Quantity& q) const
    {
        for (const Value& v : values)
            if (v.quantity == &q) return &v;
        return nullptr;
    }
    /// Of a quantity that the result has: asking for another is a mistake of the programmer.
    const Value& operator[](const Quantity& q) const
    {
        if (const Value* v = find(q)) return *v;
        throw std::out_of_range(std::string("this result has no ") + q.id);
    }
    /// Empty when nobody asked for the whole.
    const uncertainty::Budget& budget(const Quantity& q) const
    {
        static const uncertainty::Budget none;
        for (const Doubt& d : doubts)
            if (d.quantity == &q) return d.budget;
        return none;
    }
};

} // namespace fusain
