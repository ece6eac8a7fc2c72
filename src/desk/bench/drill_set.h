// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/practice/drill.h"
#include "bench/visit/events.h"

#include <QString>

/// What a method's room is given to set a drill up in, to where the trainee takes over. It is all done in order, each
/// when the one before is stored.
namespace fusain::desk {

using Truth = std::map<std::string, double>; ///< what a stand-in says of itself: "zero_kg" → 12.31

struct DrillSet {
    const bench::DrillItem& item;
    bench::Task task;
    std::function<void(bench::Act)> act;
    std::function<void(const QString&)> direct; ///< a word to all stand-ins, at once
    /// Asks the stand-in of that name for the truth, and does this with it.
    std::function<void(const QString& stand_in, std::function<std::vector<bench::Act>(const Truth&)> then)> with_truth;
};

} // namespace fusain::desk
