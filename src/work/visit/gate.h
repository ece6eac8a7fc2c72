// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "work/visit/arrival.h"
#include "work/visit/session.h"

/// The only way to a test: a booking, a screening that allows it, instruments that are ready.
namespace fusain::work {

/// What became of the wish to begin a test.
struct Gate {
    std::optional<Message> why_not;
    long instrument = 0;             ///< that is not ready, to be shown
    long begun = 0;                  ///< the visit was begun before: it is to be taken up again
    std::optional<Message> beside{}; ///< it began, and this went wrong beside it
    bool open() const { return !why_not && !begun; }
};

/// The booking for whoever stands here: today's with this method, else one that is made now on the first instrument of
/// the kind, best one that is ready. Where a study awaits the client: on the study's instrument, and never too soon.
/// Refusals: `no_instrument`, `instrument_gone` (the study's), and what the diary says. A caution comes along with it.
Outcome<long> booking_for(Lab& lab, long client_id, Method method, const QString& who);

/// Begins the visit of a part of a booking. Refusals: `unknown_booking`, `not_screened`, `instrument_gone`,
/// `instrument_not_ready`, `not_practised`, and what the session says.
Gate begin_test(Lab& lab, Session& session, const Arrival& arrival, long booking_id, Method method, const QString& who);

} // namespace fusain::work
