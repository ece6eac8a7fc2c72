// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "report/sheets/appointment.h"
#include "work/lab/lab.h"

/// From a booking in the diary to what its client gets.
namespace fusain::report {

/// Everything for the client's sheet, with the clock times of this booking.
Appointment appointment(const work::Lab& lab, const records::Booking& booking, const QString& who);
/// Writes sheet, calendar entry and e-mail into the lab's outbox and notes it.
Outcome<QString> send_sheet(work::Lab& lab, const records::Booking& booking, const QString& who);
QString outbox(const work::Lab& lab);

} // namespace fusain::report
