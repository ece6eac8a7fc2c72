// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "work/study/study.h"
#include "work/study/study_events.h"
#include "records/diary/group_log.h"
#include "records/base/clock.h"
#include "records/base/text.h"

/// What the files of this room share.
namespace fusain::work::studying {

inline constexpr int fewest_people = 2;

inline Message say(const char* code, const char* field, const QString& text)
{
    return {code, Level::error, field, text.toStdString()};
}

inline QString equations_of(const records::Snapshot& s)
{
    return q(s.conditions.equations + (s.conditions.lung.empty() ? "" : "; " + s.conditions.lung));
}

template <class E>
bool is(const records::GroupEvent& e)
{
    return e.kind == QLatin1String(E::kind);
}

/// When the visit began, by the lab's clock.
inline QDateTime began(const Lab& lab, const records::Snapshot& s)
{
    const QDate day = records::date_of(s.day);
    return QDateTime(day, QTime(0, 0), lab.diary->zone()).addSecs(static_cast<qint64>(60 * s.conditions.minute_of_day));
}

inline int side_of(const Design& d, const records::Snapshot& s)
{
    if (d.kind == StudyKind::instruments) return q(s.conditions.instrument) == d.second;
    if (d.kind == StudyKind::repair) return records::date_of(s.day) >= d.repaired_on;
    return 0;
}

} // namespace fusain::work::studying
