// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"

#include <optional>
#include <string>
#include <vector>

/// A quantity over time: what changed, what is only noise, and what cannot be compared.
namespace fusain::change {

struct Point {
    double at_min = 0; ///< local clock time, minutes from any fixed midnight
    double value = 0;
    std::string method, instrument, equations;
    bool prepared = true;
};

struct Series {
    double rms_sd = 0; ///< of repeats, in the quantity's unit
    double hours_apart_allowed = 2;
    std::vector<Point> points; ///< in time order
};

enum class Verdict { not_comparable, within_noise, rise, fall, too_few };
const char* word(Verdict verdict);

struct Step {
    int from = 0, to = 0;
    std::optional<double> change; ///< later less earlier; nothing across methods
    std::vector<const char*> why; ///< not comparable: method, instrument, equations, hour, preparation
    Verdict verdict = Verdict::within_noise;
    bool comparable() const { return why.empty(); }
};

struct Trend {
    std::optional<double> per_week, u_per_week;
    int n = 0;
    Verdict verdict = Verdict::too_few;
};

struct Changes {
    double lsc = 0;
    std::vector<Step> steps;
    std::optional<Step> since_first; ///< nothing with one point
    Trend trend;
};

/// Change from point to point, since the first, and as a trend.
///
/// Given:    points in time order; precision of repeats; how far apart clock times may lie, over midnight too
/// Returned: each step, first to last, and the straight line through the last point and those comparable with it (least
///           squares, u = rms_sd/√Σ(t − t̄)²); a change counts from the least significant change on, 2.77·rms_sd
/// Refused:  error: out_of_range naming `rms_sd`, `hours_apart_allowed` or `points`
Outcome<Changes> compare(const Series& series);
/// One pair by itself.
Step step(const Series& series, int from, int to);

} // namespace fusain::change
