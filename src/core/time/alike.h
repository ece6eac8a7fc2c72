// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/before/screening.h"

#include <optional>
#include <string>
#include <vector>

/// Whether two tests can be compared: decided here, for the screening, the sheet and the change over time.
namespace fusain::alike {

/// Under what circumstances something was measured. What is empty, or 0, was not noted, and differs from nothing.
struct Test {
    std::string method, instrument, equations;
    double minute_of_day = 0;
    bool prepared = true;
    std::optional<std::string> not_kept{}; ///< rules of preparation that were not kept, in order; nothing: not noted
    double height_cm = 0, mass_kg = 0;
};

inline constexpr double same_hour_min = 120; ///< clock times up to so far apart are the same time of day

/// How the two are looked at.
struct By {
    double minutes_apart = same_hour_min;
    bool height = false;            ///< what is compared is reckoned with the height
    bool instruments_agree = false; ///< the two were held against each other, and agree
};
/// What cannot be overlooked between two tests, in this order: method, instrument, equations, hour (over midnight too),
/// preparation, height, unit (one mass is the other in pounds). Empty: they compare.
std::vector<const char*> differences(const Test& one, const Test& other, const By& by);

/// One condition beside the last visit's.
struct Likeness {
    std::string what;
    bool same = true;
    std::string words;
    bool told = true; ///< false: one of the two did not note it, so it cannot be compared by it
};
struct Comparability {
    bool comparable = true; ///< no difference that spoils a comparison
    std::vector<Likeness> rows;
    std::string sentence;
};

/// Before the test the words look ahead, at the result they say what was.
enum class Tense { planned, measured };
/// Given:    the conditions of the last test and of this one, by one method; of an instrument after a repair its name
///           since then
/// Returned: every condition in words, and whether the two compare: percent fat, by `differences`
Comparability compare(const screening::Conditions& last, const screening::Conditions& now, const By& by = {},
    Tense tense = Tense::planned);

} // namespace fusain::alike
