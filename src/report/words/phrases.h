// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/before/protocol.h"

#include <QString>
#include <QTimeZone>

/// Phrases that sheets, talk and screens have in common.
namespace fusain::report {

/// With a minus as long as the plus.
QString number(double value, int decimals);
/// "likely between 18 and 25 %": one standard uncertainty to either side, rounded outward.
QString likely_range(double value, double u);
/// The earliest and latest date to come again by the house rules for the method, ISO in, words out.
QString next_dates(Method method, const std::string& visit_day, const protocol::HouseRules& house = {});

/// The day of a moment in the lab's zone: "24 November 2026".
QString day_words(const QString& utc, const QTimeZone& zone);
/// Of the zone, when it is named; else of this machine.
QString time_words(const std::string& iso_utc, const std::string& zone = {});

} // namespace fusain::report
