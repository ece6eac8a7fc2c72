// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "report/sheets/given.h"

/// The end of a day: one list for the lab, a sheet for everybody who was measured.
namespace fusain::report {

struct DayEnd {
    QString list; ///< file of the lab's list
    int people = 0, sheets = 0, unchanged = 0;
    struct Left {
        QString client, why;
    };
    std::vector<Left> left; ///< who got no sheet, and why
};
/// How many people were measured on a day.
/// What is done with the lab's instruments before it is left: "Tank 1: drain the tank, or cover it".
QStringList closing_words(const work::Lab& lab);
std::vector<long> people_of(const work::Lab& lab, const QDate& day);
/// Sheets that asked to be measured again are left until somebody gives them out by name. `go_on` is asked before each
/// person; false stops: what was made stays. Refusals: `nobody` (none was measured that day), `cancelled`,
/// `file_unreachable`.
Outcome<DayEnd> end_of_day(work::Lab& lab, const QDate& day, const QString& who,
    const std::function<bool(int done, int of, const QString& name)>& go_on);

} // namespace fusain::report
