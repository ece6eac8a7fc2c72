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
    std::optional<std::string> not_kept{}; ///< rules of preparation that were not kept, in order; nothing: not noted
    double height_cm = 0, mass_kg = 0;     ///< where they are known: what cannot be one body is not compared
    double rms_sd = 0;                     ///< of repeats as it was known then; 0: as the series has it
};

/// Two instruments that were held against each other, the newest first.
struct Bridge {
    std::string one, other;
    double lsc = 0;                ///< a change between them counts from here on; 0: they do not agree
    double from_min = 0;           ///< for points from then on: what was said before stays said
    double shift = 0, u_shift = 0; ///< the other less the one, on the same people
};

struct Series {
    double rms_sd = 0; ///< of repeats, in the quantity's unit
    double hours_apart_allowed = 2;
    bool by_height = false;    ///< the quantity is reckoned with the height
    std::vector<Point> points; ///< in time order
    std::vector<Bridge> bridges{};
};

enum class Verdict { not_comparable, within_noise, rise, fall, too_few };
const char* word(Verdict verdict);

struct Step {
    int from = 0, to = 0;
    std::optional<double> change; ///< later less earlier; nothing across methods
    /// Not comparable: method, instrument, equations, hour, preparation; height (more than 1.5 cm apart, for what is
    /// reckoned with it), unit (one mass is the other in pounds)
    std::vector<const char*> why;
    Verdict verdict = Verdict::within_noise;
    double lsc = 0; ///< what the change was held against: what was known of repeats at the later of the two
    bool comparable() const { return why.empty(); }
};

struct Trend {
    std::optional<double> per_week, u_per_week;
    int n = 0;
    Verdict verdict = Verdict::too_few;
    double from_min = 0, middle_min = 0; ///< of its points
    double middle = 0, u_middle = 0;     ///< the line's value there, by the last point's instrument
    double value_at(double min) const;
    double u_at(double min) const; ///< of the line
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
///           squares, u = rms_sd/√Σ(t − t̄)², each point with what was known of repeats when it was measured; points of
///           another instrument that agrees are moved by the shift between the two, with its doubt); a change counts
///           from the least significant change on, 2.77·rms_sd
/// Refused:  error: out_of_range naming `rms_sd`, `hours_apart_allowed` or `points`
Outcome<Changes> compare(const Series& series);
/// One pair by itself.
Step step(const Series& series, int from, int to);

/// Where the mass went between two comparable tests of one method.
struct Moved {
    double mass_kg = 0, fat_kg = 0, fat_free_kg = 0;
    double fat_band_kg = 0, fat_free_band_kg = 0; ///< within which a change cannot be told from noise
    /// Fat-free mass was kept: the 95 % interval of its change lies above −1 kg (this lab's rule). Else it cannot be
    /// told.
    bool kept() const { return fat_free_kg - fat_free_band_kg > -1; }
};
/// Given:    fat and fat-free mass of both tests; the least significant change of each
/// Returned: later less earlier
Moved moved(double fat_then_kg, double fat_free_then_kg, double fat_now_kg, double fat_free_now_kg, double fat_lsc_kg,
    double fat_free_lsc_kg);

} // namespace fusain::change
