// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "work/lab/lab.h"

/// What the end of a visit is besides its own event, and what comes after it. No widgets.
namespace fusain::work {

/// Nothing more is measured in the visit after this event, unless it is opened again.
bool ends_visit(const bench::Event& event);

/// What goes with the event that ends a visit, in the transaction that stores it (records::Beside): the booking is
/// closed when nothing of it is left to be measured here, and a study that awaits the test takes it. Said: `in_study`,
/// `no_repeat` (why the study does not take it). Refused only where the lab cannot be written to: then the visit has
/// not ended either.
Outcome<Messages> end_visit(const std::shared_ptr<records::Store>& store, long visit_id, const bench::Event& event);

/// Why the client may not be told of the result yet (`asks_again`, with the reason); nothing when they may: what asks
/// to be measured again is given out only when somebody has answered for it by name.
[[nodiscard]] std::optional<Message> not_to_be_told(const bench::Visit& visit);

/// The next part of a booking that may be measured at a bench here, by the screening that was kept of it; nothing when
/// nothing is left, or it was not screened.
std::optional<Method> next_method(const Lab& lab, long booking_id);

/// Whom or what the technician turns to after a visit: the client's next method, else the study that goes on, else who
/// comes next on the same instrument today. Empty: nothing of it.
struct Next {
    std::optional<Method> method;
    long study = 0;
    std::optional<records::Booking> client;
    explicit operator bool() const { return method || study || client; }
};
Next after_visit(const Lab& lab, const bench::Visit& visit, long visit_id);

} // namespace fusain::work
