// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/before/screening.h"

/// What the client does before the visit, merged over the methods booked: of two rules on one matter the stricter
/// counts. Times are minutes before the first measurement of the visit; the edge turns them into clock times of the
/// lab's zone.
namespace fusain::preparation {

struct Line {
    std::string topic;
    /// The deadline, before the start of the visit; may be negative. Nothing: no clock time
    std::optional<double> before_visit_min;
    std::string words;           ///< `{time}` stands for the clock time
    std::vector<Method> methods; ///< that ask for it; the first is the one whose rule counts
    std::string reason, source;
    std::string part; ///< of the sheet, as in the rule
};

/// `parts`: starts_in_min counts from the start of the visit. Lines with a clock time first, the earliest on top.
std::vector<Line> prepare(const protocol::Book& book, const protocol::HouseRules& house,
    const screening::Person& person, std::span<const screening::Part> parts);

} // namespace fusain::preparation
