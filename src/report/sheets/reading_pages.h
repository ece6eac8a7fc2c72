// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "report/page/page.h"
#include "report/reading/talk.h"

/// What the sheets say beyond the one test: the day's other methods, what changed, the plan, what was agreed.
namespace fusain::report {

/// For the client's first page: the other methods of the day, side by side, and what they give together.
void add_same_day(Document& document, const work::Reading& reading);
/// Whether there is something for a second page: a test before, a plan, or something agreed.
bool has_course(const TalkAbout& about);
/// For the client's second page: change, plan, what was agreed, the next date.
void add_course(Document& document, const TalkAbout& about);
/// For the lab's: the day's methods and what they give together, every change with its verdict, energy by every school,
/// folds and girths, plan.
void add_lab_reading(Document& document, const TalkAbout& about);

} // namespace fusain::report
