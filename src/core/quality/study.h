// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"

#include <optional>
#include <span>
#include <string>
#include <vector>

/// Who measured, and what that is worth: a precision study by operator.
namespace fusain::study {

/// One repeat of one person.
struct Repeat {
    int person = 0; ///< any number, the same for the same person
    std::string who;
    double value = 0;
};

/// What one operator's repeats say.
struct Operator {
    std::string name;
    int values = 0;
    /// Of people whom this operator measured twice and more; nothing without one
    std::optional<double> rms_sd;
    std::optional<double> rms_cv_percent; ///< the same, to be held against a published limit
    int degrees_of_freedom = 0;
    /// Mean of this operator less the mean of the others on the same people, with the half width of its 95 % limits;
    /// nothing with fewer than two people in common
    std::optional<double> offset;
    double offset_within = 0;
    int in_common = 0; ///< people whom another operator measured too
    bool differs = false;
};

/// Operators beside each other, in the order in which they come first.
///
/// Given:    repeats of all people, outliers taken out
/// Returned: a row an operator; an offset counts as a difference when its limits leave out nought. With more than two
///           operators the limits are as much wider as there are more of them (Bonferroni)
/// Source:   paired differences, Student's t; ISCD 2019 asks for each operator's own precision
std::vector<Operator> operators(std::span<const Repeat> repeats);

/// People whose repeats scatter far more than the others': to be looked at, never taken out by itself.
///
/// Given:    one list a person
/// Returned: places of people whose variance holds more of the sum of all than Cochran's criterion allows at 1 %
/// Source:   Cochran 1941, Annals of Eugenics 11:47–52; the F form, for the mean number of repeats
std::vector<std::size_t> far_apart(std::span<const std::vector<double>> repeats);

/// Two ways of measuring the same people.
struct Pair {
    double first = 0, second = 0;
};
enum class Agreement { agree, shifted, cannot_tell };
struct Comparison {
    int n = 0;
    double shift = 0, shift_within = 0; ///< second less first, mean, and half width of its 95 % limits
    double sd = 0;                      ///< of the differences
    double low = 0, high = 0;           ///< limits of agreement: 95 % of differences lie between
    double limit_within = 0;            ///< half width of the 95 % limits of each of them
    /// How the difference grows with the value, per unit, and its half width; nothing where all values are alike
    std::optional<double> slope;
    double slope_within = 0;
    double lsc = 0; ///< the change between one measurement on each that is more than shift and noise
    Agreement verdict = Agreement::cannot_tell;
    bool grows = false; ///< the slope is none of chance, and moves the ends of these people by half a change
};

/// Do two instruments measure the same?
///
/// Given:    pairs, three or more; `lsc`: the least significant change on either (0: unknown, then nothing agrees)
/// Returned: shift, limits of agreement, slope; `agree` when the shift's 95 % limits lie within half the least
///           significant change, `shifted` when they leave out nought and do not, else `cannot_tell`; a
///           difference that grows with the value never agrees. `lsc`: the size of the shift + t·SD·√(1 + 1/n)
/// Source:   Bland & Altman 1986, Lancet 327:307–310; the half: this lab's rule
/// Refused:  error: out_of_range (not a number), too_few_pairs
Outcome<Comparison> compare(std::span<const Pair> pairs, double lsc);
const char* word(Agreement verdict);

} // namespace fusain::study
