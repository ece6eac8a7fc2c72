// SPDX-License-Identifier: GPL-3.0-or-later
#include "records/base/clock.h"

#include <QLocale>
#include <QRegularExpression>

#include <cmath>

namespace fusain::records {

QDateTime local_of(schedule::Minute minute, const QTimeZone& zone)
{
    return QDateTime::fromSecsSinceEpoch(minute * 60, zone);
}
schedule::Minute minute_of(const QDateTime& at)
{
    return static_cast<schedule::Minute>(std::floor(static_cast<double>(at.toSecsSinceEpoch()) / 60));
}

schedule::Minute minute_at(const QDate& day, const QTime& time, const QTimeZone& zone)
{
    QDateTime at(day, time, zone);
    if (!at.isValid() || at.time() != time) { // the hour that summer time skips: the first moment after the gap
        QDateTime before(day, time.addSecs(-7200), zone);
        const auto jump = zone.nextTransition(before.toUTC());
        if (jump.atUtc.isValid()) at = jump.atUtc;
    }
    return minute_of(at);
}

bool says_never(const QString& text)
{
    const QString t = text.trimmed().toLower();
    return t == "never" || t == "no" || t == "none" || t == "long ago" || t == "not" || t == "-";
}

Outcome<QDateTime> read_clock(const QString& text, const QDateTime& now)
{
    using Result = Outcome<QDateTime>;
    QString t = text.trimmed().toLower();
    const auto not_a_time = [&] {
        return Result::refuse({"not_a_time", Level::error, "clock",
            "\"" + text.toStdString() +
                "\" is not a time. Write 06:30, yesterday 22:00, last night 10, 90 min ago, a date and a time, or "
                "never."});
    };
    static const QRegularExpression ago(
        QStringLiteral("^(\\d+(?:[.,]\\d+)?)\\s*(h|hours?|min|minutes?|days?|d)(?:\\s+ago)?$"));
    if (const auto m = ago.match(t); m.hasMatch()) {
        const double n = m.captured(1).replace(',', '.').toDouble();
        const QString unit = m.captured(2);
        const double minutes = unit.startsWith('h') ? 60 * n : unit.startsWith('d') ? 1440 * n : n;
        if (minutes > 10 * 365 * 1440.0) return not_a_time();
        return now.addSecs(-static_cast<qint64>(60 * minutes));
    }
    // the day may stand behind the time; "last night 10" is ten in the evening, "last night 2" this morning at two
    static const QRegularExpression day_behind(QStringLiteral("^(.+?)\\s+(today|yesterday|last night|this morning)$"));
    if (const auto behind = day_behind.match(t); behind.hasMatch()) t = behind.captured(2) + ' ' + behind.captured(1);
    static const QRegularExpression night(QStringLiteral("^last night\\s+(\\d{1,2})(.*)$"));
    if (const auto m = night.match(t); m.hasMatch()) {
        const int hour = m.captured(1).toInt();
        t = hour <= 4    ? QStringLiteral("today %1%2").arg(hour).arg(m.captured(2))
            : hour == 12 ? QStringLiteral("today 0%1").arg(m.captured(2))
            : hour < 12  ? QStringLiteral("yesterday %1%2").arg(hour + 12).arg(m.captured(2))
                         : QStringLiteral("yesterday %1%2").arg(hour).arg(m.captured(2));
    }
    if (t.startsWith(QStringLiteral("this morning "))) t.replace(0, 12, QStringLiteral("today"));
    static const QRegularExpression clock(
        QStringLiteral("^(?:(today|yesterday|y|(\\d{4}-\\d{2}-\\d{2}))\\s+)?(\\d{1,2})(?:[:.h ]?(\\d{2}))?$"));
    const auto m = clock.match(t);
    if (!m.hasMatch()) return not_a_time();
    const QTime time(m.captured(3).toInt(), m.captured(4).isEmpty() ? 0 : m.captured(4).toInt());
    if (!time.isValid()) return not_a_time();
    const QString day = m.captured(1);
    QDate date = now.date();
    if (day == "yesterday" || day == "y")
        date = date.addDays(-1);
    else if (!m.captured(2).isEmpty())
        date = QDate::fromString(m.captured(2), Qt::ISODate);
    if (!date.isValid()) return not_a_time();
    QDateTime at = local_of(minute_at(date, time, now.timeZone()), now.timeZone());
    if (day.isEmpty() && at > now) at = local_of(minute_at(date.addDays(-1), time, now.timeZone()), now.timeZone());
    if (at > now)
        return Result::refuse({"in_the_future", Level::error, "clock",
            "\"" + text.toStdString() + "\" lies ahead; it is now " +
                now.toString(QStringLiteral("HH:mm")).toStdString() + "."});
    return at;
}

QString clock_words(const QDateTime& at, const QDate& visit_day)
{
    const QString time = at.toString(QStringLiteral("HH:mm"));
    const qint64 days = at.date().daysTo(visit_day);
    if (days <= 0) return time;
    const QLocale english(QLocale::English);
    if (days == 1)
        return time +
               (at.time() >= QTime(17, 0) ? QStringLiteral(" the evening before") : QStringLiteral(" the day before"));
    return english.toString(at.date(), QStringLiteral("dddd")) + ' ' + time +
           (days > 6 ? english.toString(at.date(), QStringLiteral(" d MMMM")).prepend(',') : QString());
}

Outcome<std::vector<schedule::Span>> opening(
    const QStringList& week, const QDate& from, const QDate& to, const QTimeZone& zone)
{
    using Result = Outcome<std::vector<schedule::Span>>;
    constexpr const char* names[] = {"Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"};
    static const QRegularExpression span(QStringLiteral("(\\d{1,2}):(\\d{2})\\s*[-–]\\s*(\\d{1,2}):(\\d{2})"));
    static const QRegularExpression nothing(QStringLiteral("^[\\s,;]*$"));
    std::vector<std::pair<QTime, QTime>> by_day[7];
    for (int d = 0; d < week.size() && d < 7; ++d) {
        bool good = nothing.match(QString(week[d]).remove(span)).hasMatch();
        for (auto m = span.globalMatch(week[d]); m.hasNext();) {
            const auto found = m.next();
            const QTime a(found.captured(1).toInt(), found.captured(2).toInt()),
                b(found.captured(3).toInt(), found.captured(4).toInt());
            good &= a.isValid() && b.isValid() && a < b;
            by_day[d].push_back({a, b});
        }
        if (!good)
            return Result::refuse({"bad_hours", Level::error, names[d],
                std::string(names[d]) + ": \"" + week[d].toStdString() +
                    "\" is not a span of hours. Write 07:00-12:00 13:00-17:00, or nothing when closed."});
    }
    std::vector<schedule::Span> out;
    for (QDate day = from; day <= to; day = day.addDays(1))
        for (const auto& [a, b] : by_day[day.dayOfWeek() - 1])
            out.push_back({minute_at(day, a, zone), minute_at(day, b, zone)});
    return out;
}

QDate date_of(const std::string& iso) { return QDate::fromString(QString::fromStdString(iso), Qt::ISODate); }

QString date_words(const std::string& iso)
{
    return QLocale(QLocale::English, QLocale::UnitedKingdom)
        .toString(QDate::fromString(QString::fromStdString(iso).left(10), Qt::ISODate), QStringLiteral("d MMMM yyyy"));
}
QString date_words(const QDate& day) { return date_words(day.toString(Qt::ISODate).toStdString()); }

} // namespace fusain::records
