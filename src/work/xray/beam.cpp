// SPDX-License-Identifier: GPL-3.0-or-later
#include "work/xray/beam.h"

#include "bench/files/bone_reference.h"
#include "bench/files/tissue_table.h"
#include "bench/xray/xray_events.h"
#include "work/xray/last_scan.h"

namespace fusain::work {

QStringList licensed_people(const Lab& lab)
{
    QStringList out;
    for (const records::StaffMember& m : lab.diary->staff())
        if (m.active && m.xray_licence) out << m.name;
    return out;
}

std::string begun_by_beam(Lab& lab, const records::Client& client, const records::Instrument& table)
{
    if (table.kind->method != method::absorptiometry) return "{}";
    const auto shipped = bench::shipped_table(table.profile.toStdString());
    const Exposure before = exposure(*lab.store, client.id, lab.now());
    bench::event::XrayStarted out;
    for (const QString& name : licensed_people(lab)) out.licensed.push_back(name.toStdString());
    out.rated_mass_kg = table.rated_mass_kg.value_or(0);
    out.scans_before = before.scans;
    out.dose_before_usv = before.dose_usv;
    if (shipped) out.dose_usv = shipped->dose_usv;
    for (const records::CheckRow& c : lab.checks.history(table.id, 1))
        out.phantom = QStringLiteral("%1 g/cm², checked by %2 at %3, %4")
                          .arg(c.value, 0, 'f', 4)
                          .arg(c.who,
                              QDateTime::fromString(c.finished_at, Qt::ISODateWithMs)
                                  .toTimeZone(lab.diary->zone())
                                  .toString(QStringLiteral("yyyy-MM-dd HH:mm")),
                              c.passed ? QStringLiteral("within its limits") : QStringLiteral("not within its limits"))
                          .toStdString();
    const auto rows = bench::read_bone_reference(
        lab.store->setting(QStringLiteral("bone_reference")).toStdString(), "the lab's bone reference");
    const double age =
        bench::age_between(client.birth_date.toStdString(), lab.today().toString(Qt::ISODate).toStdString());
    if (rows) out.bone_reference = bench::bone_reference(*rows, client.sex, age);
    return bench::written(out);
}

} // namespace fusain::work
