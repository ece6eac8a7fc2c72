// SPDX-License-Identifier: GPL-3.0-or-later
#include "work/reading/reading.h"

#include "core/body/safe.h"
#include "core/quality/judgement.h"

#include <algorithm>

namespace fusain::work {
namespace {

/// Whatever was weighed, held against the newest.
std::vector<judgement::LastVisit> weighings(const History& h)
{
    std::vector<judgement::LastVisit> out;
    const auto& all = h.all();
    if (all.empty()) return out;
    for (const Measurement& m : all)
        if (m.mass_kg > 0 && !m.future)
            out.push_back({m.mass_kg, static_cast<double>(m.at.secsTo(all.back().at)) / 86400});
    return out;
}

} // namespace

QString no_plan(const History& h)
{
    if (h.age_today() < safe::adult_y)
        return QStringLiteral("%1 is under 18: how somebody grows is looked at, nothing about weight is planned.")
            .arg(h.client().given_name);
    if (h.facts().eating_disorder)
        return QStringLiteral(
            "By a note in the record nothing about weight is planned for %1, and nothing about losing "
            "is said. The clinician who treats %1 is the one to ask.")
            .arg(h.client().given_name);
    if (h.facts().pregnant)
        return QStringLiteral("%1 is, or may be, pregnant: nothing about weight is planned. A midwife or physician is "
                              "the one to ask.")
            .arg(h.client().given_name);
    if (const Measurement* newest = h.newest())
        for (const Measurement* one : h.on(newest->day))
            for (const Message& m : one->messages)
                if (judgement::forbids_plan(m)) return QString::fromStdString(m.text);
    if (const auto pace = judgement::judge_pace(weighings(h))) return QString::fromStdString(pace->text);
    return {};
}

Reading read(const History& h, QDate day, const std::string& range, long lead)
{
    Reading r;
    r.history = &h;
    r.range = range;
    if (!day.isValid() && h.newest()) day = h.newest()->day;
    if (!day.isValid() && !h.days().empty()) day = h.days().back();
    r.day = day;
    r.today = h.on(day);
    const auto methods = h.methods();
    for (const std::string& method : methods) {
        if (r.main || method == by_tape) continue;
        for (const Measurement* m : r.today) // a later one of the day wins
            if (m->method == method && m->result.find(quantity::fat_percent)) r.main = m;
    }
    for (const Measurement* m : r.today)
        if (lead && m->visit_id == lead && m->result.find(quantity::fat_percent)) r.main = m;
    if (r.main)
        for (const Measurement& m : h.all()) {
            if (&m == r.main) break;
            if (m.method != r.main->method || m.future || !m.result.find(quantity::fat_percent)) continue;
            if (!r.first) r.first = &m;
            r.before = &m;
        }
    if (h.entries().days) r.days = *h.entries().days;
    if (r.main) {
        const Measurement& m = *r.main;
        r.energy_in = {
            {m.sex, m.age_y, m.height_cm, m.result[quantity::fat_mass].value, m.result[quantity::fat_free_mass].value},
            r.days.activity_level, r.days.school, h.facts()};
        // who must not lose is told nothing of energy either, by anybody: no slide, no line on a sheet
        if (const auto told = energy::compute(r.energy_in);
            told && no_plan(h).isEmpty() && !safe::why_no_loss(r.energy_in.body))
            r.energy = *told;
    }
    r.plan = h.entries().running();
    if (r.plan) r.plan_stops = no_plan(h);
    return r;
}

std::vector<OnTheWay> on_the_way(const History& h, const Plan& p)
{
    std::vector<OnTheWay> out;
    const auto series = h.series(quantity::fat_percent, p.method);
    if (!series || !series->repeatability) return out;
    const QDate start = QDate::fromString(p.day, Qt::ISODate);
    int from = -1;
    for (std::size_t i = 0; i < series->points.size(); ++i)
        if (series->points[i]->day <= start) from = static_cast<int>(i);
    if (from < 0) return out;
    const double start_percent = 100 * p.input.body.fat_kg / p.input.body.mass_kg();
    for (std::size_t i = static_cast<std::size_t>(from) + 1; i < series->points.size(); ++i) {
        const Measurement& m = *series->points[i];
        const int days = static_cast<int>(start.daysTo(m.day));
        const plan::Day there = plan::at_intake(p.input, p.intake_kcal, days).back();
        const double planned = 100 * there.fat_kg / there.mass_kg();
        OnTheWay one{&m, planned, {}, series->step(from, static_cast<int>(i)).lsc,
            series->step(from, static_cast<int>(i)).comparable()};
        one.progress =
            plan::progress(planned - start_percent, m.result[quantity::fat_percent].value - start_percent, one.lsc);
        out.push_back(one);
    }
    return out;
}

} // namespace fusain::work
