// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <optional>
#include <span>
#include <string>
#include <vector>

/// What a drill has shown of somebody: against a truth that was hidden. Pure, no clock.
namespace fusain::practice {

/// A number that was read, and what it truly was.
struct Reading {
    double given = 0, truth = 0;
    std::optional<double> reader; ///< what the program's own reader made of it
    int same_as = -1;             ///< place of another reading of the same hidden thing; −1: of none
    double seconds = 0;
};
struct NumberMark {
    int n = 0;
    double bias = 0, bias_within = 0;    ///< mean error, half width of its 95 % limits (0 with one reading)
    double spread = 0;                   ///< SD of the errors
    double rms = 0, worst = 0;           ///< root of the mean square error; largest error, with its sign
    std::optional<double> own_precision; ///< RMS-SD of what was read twice without its being said
    std::optional<double> reader_rms;    ///< of the program's reader on the same
    double seconds = 0;                  ///< mean
    /// The error lies to one side, more than chance makes it
    bool biased() const { return n > 1 && (bias > bias_within || -bias > bias_within); }
};
/// Given: readings. Returned: what they say; n = 0 where there are none.
NumberMark mark(std::span<const Reading> readings);

/// A decision, and what was right. The word "none" means that nothing is wrong, or that nothing is to be done.
inline constexpr const char* none = "none";
struct Call {
    std::string given, truth;
    double seconds = 0;
};
enum class Called {
    right,
    missed,
    wrongly,
    mistaken
}; ///< missed: said none; wrongly: there was none; mistaken: another
Called called(const Call& call);
struct CallMark {
    int n = 0, right = 0, missed = 0, wrongly = 0, mistaken = 0;
    double seconds = 0; ///< mean
    double share() const { return n ? static_cast<double>(right) / n : 0; }
};
CallMark mark(std::span<const Call> calls);

/// What must be reached for a drill to count as passed; what is not set is not asked.
struct Pass {
    std::optional<double> rms, bias, share;
};
bool passed(const Pass& pass, const NumberMark& numbers, const CallMark& calls);

/// Somebody's runs of one drill over weeks, each by one number that is better when smaller.
struct Progress {
    int n = 0;
    double mean = 0, low = 0, high = 0; ///< between them lies the next run in 95 of 100, where nothing has changed
    enum class Says { too_few, as_before, better, worse } says = Says::too_few;
};
/// Given:    one number a run, oldest first
/// Returned: whether the last run lies outside of what the ones before foretell (Student's t, 0.85·(n − 1) degrees, for
///           one more); their SD from the mean moving range (/1.128), so that a steady gain is not taken for scatter.
///           Six runs and more: where nothing changed 5 in 100 are called better or worse
/// Source:   individual values and moving range, Shewhart 1931
Progress progress(std::span<const double> runs);

} // namespace fusain::practice
