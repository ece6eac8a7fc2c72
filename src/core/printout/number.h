// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

/// Numbers, limits and dates as papers print them.
namespace fusain::printout {

enum class DateOrder;

/// How numbers stand on the paper.
struct Marks {
    char decimal = '.';
    std::string thousands;
};

/// A number, as it stands there.
struct Printed {
    double value = 0;
    int decimals = 0;
    std::string text;        ///< what stands there, without its unit
    bool other_mark = false; ///< a comma where the layout says a point, or the reverse
    bool letters = false;    ///< a letter was taken for a digit
};

/// A number that is the whole of `word`, which may end in a unit, a footnote's sign or a punctuation mark; `unit` is
/// what is left of it. Nothing: it is no number.
std::optional<Printed> number_in(std::string_view word, const Marks& marks, std::string& unit);

/// What stands in a row to the right of a label.
struct Item {
    enum class Kind { number, limits, unit, mark, word };
    Kind kind = Kind::word;
    Printed number, high;        ///< of a number; of limits: from `number` to `high`
    std::string unit;            ///< glued to a number, or the unit itself
    std::size_t first = 0, last; ///< words
    bool broken = false;         ///< limits that begin and cannot be read
    std::optional<Printed>
        misread; ///< limits in one word, "75-9", that may be a number the point of which was taken for a dash
};

/// The row's words, in order; `close[i]`: word i + 1 follows word i at the distance of a thousands' mark.
std::vector<Item> items_of(const std::vector<std::string>& words, const std::vector<bool>& close, const Marks& marks);

/// `YYYY-MM-DD` or `YYYY-MM-DDTHH:MM`, of a date and a time of day that stand in `text`.
struct Moment {
    std::string at;
    bool two_ways = false; ///< day and month could be exchanged, or the year is not sure
};
/// Months are read in English and as numbers. Nothing: no date that exists.
std::optional<Moment> moment_in(std::string_view text, DateOrder order);

/// "5 ft 7 in", "5'7\"" in cm.
std::optional<double> feet_and_inches_cm(std::string_view text);

} // namespace fusain::printout
