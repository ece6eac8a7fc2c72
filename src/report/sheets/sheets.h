// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/visit/visit.h"
#include "report/page/page.h"
#include "report/words/phrases.h"

/// The two sheets of a visit. Both are made from the replayed log alone, so that they read the same for ever.
namespace fusain::report {

struct TalkAbout; // reading/talk.h

/// Plain words, for the client to keep: the day on one page; with `about` the day's other methods stand on it too, and
/// on a second page how it goes and what comes next, when there is something of it.
Document client_sheet(const bench::Visit& visit, const QString& lab_name, const QString& comparability = {},
    const TalkAbout* about = nullptr);

/// For a client who is told without numbers: that the test was made and is kept, what to watch, what was agreed, when
/// to come again. The lab's sheet says everything.
Document quiet_sheet(const bench::Visit& visit, const QString& lab_name, const TalkAbout& about);

/// Everything, for the lab.
Document lab_sheet(const bench::Visit& visit, const QString& lab_name, const QString& comparability = {});

} // namespace fusain::report
