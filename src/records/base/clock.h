// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"
#include "core/before/schedule.h"

#include <QDateTime>
#include <QTimeZone>

/// Clock times of the lab's zone, and minutes since 1970 UTC, in which the diary reckons. Midnight and summer time are
/// settled here and nowhere else.
namespace fusain::records {

QDateTime local_of(schedule::Minute minute, const QTimeZone& zone);
schedule::Minute minute_of(const QDateTime& at);
/// A clock time on a day of the lab; a time that summer time skips is moved to the first one that exists.
schedule::Minute minute_at(const QDate& day, const QTime& time, const QTimeZone& zone);

/// What a client says of when something was: "06:30", "6.30", "0630", "6", "yesterday 22:00", "y 22:00", "2026-03-01
/// 12:00", "3 h ago", "90 min ago". A bare clock time is the last one that has been. Refusals: `not_a_time`,
/// `in_the_future`.
Outcome<QDateTime> read_clock(const QString& text, const QDateTime& now);
/// True for "never", "no", "none", "long ago".
bool says_never(const QString& text);

/// "06:30", "22:30 the evening before", "Tuesday 14:00": a moment as seen from the day of the visit.
QString clock_words(const QDateTime& at, const QDate& visit_day);

/// "2 November 2026"
QDate date_of(const std::string& iso); ///< "2026-11-23"; invalid where it is none
QString date_words(const std::string& iso);
QString date_words(const QDate& day);

/// Weekly hours as text a day: "07:00-12:00 13:00-17:00"; empty: closed. Index 0 is Monday.
/// Refusals: `bad_hours` with the day.
Outcome<std::vector<schedule::Span>> opening(
    const QStringList& week, const QDate& from, const QDate& to, const QTimeZone& zone);

} // namespace fusain::records
