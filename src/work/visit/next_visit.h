// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "work/lab/lab.h"

namespace fusain::work {

/// Books the best time for a client within two weeks from a day (tomorrow at the earliest). Refusals: what the planner
/// and the diary say; `no_time` when there is none.
Outcome<records::Booking> book_next(Lab& lab, long client_id, Method method, const QDate& from, const QString& who);

} // namespace fusain::work
