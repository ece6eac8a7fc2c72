// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"
#include "report/page/page.h"

#include <QDateTime>
#include <QTimeZone>

/// What a client gets before the visit: one page with actual clock times, an entry for their calendar, and an e-mail
/// with both.
namespace fusain::report {

struct Appointment {
    struct Part {
        QString method;     ///< "air displacement"
        QString place;      ///< "Chamber, room 2"
        QDateTime from, to; ///< in the lab's zone
    };
    struct Task {
        QString when;  ///< "06:30", "22:30 the evening before"; empty: no clock time
        QString words; ///< with the clock time in it
        QString because;
        QString methods; ///< "impedance; the others ask less"
        QString part;    ///< of the sheet: "tell", "wear", empty
        std::optional<QDateTime> at;
    };
    QString uid; ///< the same for every version of one appointment
    int revision = 1;
    long booking_id = 0; ///< its files are named by it, never by a number that may change hands
    QString lab_name, lab_email, client_name, client_number, client_email, made_by;
    QString protocols; ///< "impedance 1, hydrostatic 2"
    std::vector<Part> parts;
    std::vector<Task> tasks; ///< those with a clock time first, the earliest on top
    QDateTime arrive() const { return parts.front().from.addSecs(-10 * 60); }
};

/// One page, plain words.
Document preparation_sheet(const Appointment& appointment);

/// iCalendar (RFC 5545) with the lab's time zone, the appointment and reminders: the day before, and at each clock
/// time.
QByteArray calendar_entry(const Appointment& appointment);

/// The e-mail (RFC 5322, MIME) with the sheet and the calendar entry attached.
QByteArray message(const Appointment& appointment, const QByteArray& pdf, const QByteArray& ics);

/// Writes sheet, calendar entry and e-mail into the outbox folder. Returned: path of the sheet.
/// Refusals: `file_unreachable`. Without an e-mail address no e-mail is written, and that is said as a caution.
Outcome<QString> put_into_outbox(const Appointment& appointment, const QString& folder);

} // namespace fusain::report
