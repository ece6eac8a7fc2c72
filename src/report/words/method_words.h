// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/visit/visit.h"
#include "report/page/page.h"

/// What a method says of itself on the sheets. Adding a method adds one row of these.
namespace fusain::report {

struct MethodWords {
    const char* science; ///< its page in docs/science
    /// How its readings are drawn
    struct Readings {
        const char* none_yet;
        const char* unit;                              ///< empty: a mass, in the unit of the window
        const char* small_unit;                        ///< a thousandth of it
        double half;                                   ///< the scale reaches at least as far to either side
        bool count_taken;                              ///< numbered among those taken, not among all trials
        std::vector<int> (*used)(const bench::Visit&); ///< which count
    } readings;
    /// To the client: how well the readings agree
    QString (*agreement)(const bench::Visit&, const Result&);
    QString (*how)(const bench::Visit&, const Result&); ///< to the client: what was done
    QString (*sensitivity)(const bench::Visit&);        ///< to the client: what would change it
    /// To the lab: readings, instrument
    void (*details)(Document&, const bench::Visit&, const Outcome<Result>&);
    /// The method's own, with what stands now
    std::vector<std::pair<const char*, QString>> (*choices)(const bench::Visit&);
};
const MethodWords& words_of(protocol::Method method);

MethodWords tank_words();
MethodWords chamber_words();

QString number(double value, int decimals);
/// "counts", "taken, not counted by the rule", "thrown out: …"
QString fate(const bench::Visit& visit, const bench::Trial& trial, const Outcome<Result>& result);

} // namespace fusain::report
