// SPDX-License-Identifier: GPL-3.0-or-later
#include "work/study/in_force.h"

#include "work/study/parts.h"

#include "records/base/clock.h"
#include "records/diary/group_log.h"

#include <algorithm>

namespace fusain::work {

using namespace studying;
namespace {

constexpr double sure = 1.96;

/// "PG-1 since 2026-11-20"
std::string after_repair(const std::string& serial, const QDate& day)
{
    return serial + " since " + day.toString(Qt::ISODate).toStdString();
}

} // namespace

double series_minutes(const QDateTime& at)
{
    return static_cast<double>(at.date().toJulianDay()) * 1440 + at.time().msecsSinceStartOfDay() / 60000.0;
}

InForce::InForce(const records::Store& store, const QTimeZone& zone)
{
    const auto events = records::events_of(store, records::study_log());
    std::map<long, in_study::Begun> begun;
    std::map<long, bool> given_up;
    for (const auto& e : events) {
        if (is<in_study::Begun>(e)) begun[e.group] = bench::said<in_study::Begun>(e.body);
        if (is<in_study::GivenUp>(e)) given_up[e.group] = true;
    }
    for (const auto& [id, e] : begun)
        if (e.what == word(StudyKind::repair) && !given_up[id])
            breaks_.push_back({e.instrument, records::date_of(e.repaired_on), records::date_of(e.local.substr(0, 10))});
    std::sort(breaks_.begin(), breaks_.end(), [](const Break& a, const Break& b) { return a.on < b.on; });
    for (const auto& e : events) {
        const auto at = begun.find(e.group);
        if (!is<in_study::Closed>(e) || at == begun.end()) continue;
        const in_study::Begun& design = at->second;
        const auto closed = bench::said<in_study::Closed>(e.body);
        const std::string &what = design.what, &method = design.method, &instrument = design.instrument;
        QDateTime from = QDateTime::fromString(QString::fromStdString(closed.local), Qt::ISODate);
        from = QDateTime(from.date(), from.time(), zone);
        if (const bool days = what == word(StudyKind::days); days || what == word(StudyKind::repeats)) {
            Rule rule{method, instrument, from, {}, {}, days};
            double df = 0;
            for (const auto& [id, told] : closed.results)
                if (const Quantity* of = find_quantity(id); of && told.repeats) {
                    rule.sd[of] = told.repeats->held_against;
                    df = told.repeats->degrees_of_freedom;
                }
            rule.source =
                QStringLiteral("this lab's own study%1 of %2, %3 degrees of freedom%4")
                    .arg(days ? QStringLiteral(" over days") : QString())
                    .arg(records::date_words(from.date()))
                    .arg(df, 0, 'f', 0)
                    .arg(df < precision::enough_degrees ? QStringLiteral(": its upper 95 % limit") : QString())
                    .toStdString();
            rules_.push_back(std::move(rule));
            continue;
        }
        Pair pair{method, instrument, design.second, from, {}};
        if (what == word(StudyKind::repair)) {
            const QDate day = records::date_of(design.repaired_on);
            pair.one = this->instrument(instrument, day.addDays(-1));
            pair.other = this->instrument(instrument, day);
        }
        for (const auto& [id, told] : closed.results)
            if (const Quantity* of = find_quantity(id);
                of && told.beside && told.beside->verdict == study::word(study::Agreement::agree))
                pair.agreed[of] = {told.beside->lsc, told.beside->shift, told.beside->shift_within};
        pairs_.push_back(std::move(pair));
    }
}

bool InForce::agree(const std::string& method, const std::string& one, const std::string& other) const
{
    for (const change::Bridge& b : bridges(quantity::fat_percent, method)) // the newest first
        if ((b.one == one && b.other == other) || (b.one == other && b.other == one)) return b.lsc > 0;
    return false;
}

InForce InForce::until(const QDate& day) const
{
    InForce out = *this;
    std::erase_if(out.rules_, [&](const Rule& r) { return r.from.date() > day; });
    std::erase_if(out.pairs_, [&](const Pair& p) { return p.from.date() > day; });
    std::erase_if(out.breaks_, [&](const Break& b) { return b.told_on > day; });
    return out;
}

std::optional<change::Repeatability> InForce::repeatability(const Quantity& q, const std::string& method,
    const std::string& instrument, const QDateTime& at, const change::Measured& on) const
{
    for (auto rule = rules_.rbegin(); rule != rules_.rend(); ++rule) {
        if (rule->method != method || rule->instrument != instrument || rule->from > at) continue;
        const auto sd = rule->sd.find(&q);
        const auto of = [&](const Quantity& other) {
            const auto found = rule->sd.find(&other);
            return found == rule->sd.end() ? 0 : found->second;
        };
        const double percent = of(quantity::fat_percent), fat_kg = of(quantity::fat_mass);
        if (sd != rule->sd.end() && sd->second > 0) // what its people weigh follows from fat in both units
            return change::of_study(q, method, on,
                {sd->second, percent, percent > 0 ? 100 * fat_kg / percent : 0, rule->source, rule->over_days});
    }
    return change::repeatability(q, method, on);
}

std::string InForce::instrument(const std::string& serial, const QDate& day) const
{
    std::string out = serial;
    for (const Break& b : breaks_)
        if (b.instrument == serial && b.on <= day) out = after_repair(serial, b.on);
    return out;
}

std::vector<change::Bridge> InForce::bridges(const Quantity& q, const std::string& method) const
{
    std::vector<change::Bridge> out;
    for (auto pair = pairs_.rbegin(); pair != pairs_.rend(); ++pair) { // the newest of a pair is found first
        if (pair->method != method) continue;
        const auto agreed = pair->agreed.find(&q);
        const Pair::Agreed a = agreed == pair->agreed.end() ? Pair::Agreed() : agreed->second;
        out.push_back({pair->one, pair->other, a.lsc, series_minutes(pair->from), a.shift, a.shift_within / sure});
    }
    return out;
}

} // namespace fusain::work
