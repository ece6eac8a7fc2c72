// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/words/phrases.h"

#include "core/before/schedule.h"
#include "records/base/clock.h"
#include "records/base/text.h"

#include <cmath>

namespace fusain::report {

QString number(double v, int decimals) { return QString::number(v, 'f', decimals).replace('-', QChar(0x2212)); }

QString likely_range(double value, double u)
{
    return QStringLiteral("likely between %1 and %2 %")
        .arg(number(std::max(0.0, std::floor(value - u)), 0), number(std::ceil(value + u), 0));
}

QString day_words(const QString& utc, const QTimeZone& zone)
{
    const QDateTime at = QDateTime::fromString(utc, Qt::ISODateWithMs).toTimeZone(zone);
    return records::date_words(at.date());
}

QString time_words(const std::string& iso_utc, const std::string& zone)
{
    const QDateTime at = QDateTime::fromString(q(iso_utc), Qt::ISODateWithMs);
    return (zone.empty() ? at.toLocalTime() : at.toTimeZone(QTimeZone(QByteArray::fromStdString(zone))))
        .toString(QStringLiteral("HH:mm"));
}

QString next_dates(Method method, const std::string& visit_day, const protocol::HouseRules& house)
{
    const auto interval = schedule::retest(method, house);
    const QDate day = QDate::fromString(q(visit_day).left(10), Qt::ISODate);
    return QStringLiteral("between %1 and %2")
        .arg(records::date_words(day.addDays(interval.from_days)), records::date_words(day.addDays(interval.to_days)));
}

} // namespace fusain::report
