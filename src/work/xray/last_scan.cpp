// SPDX-License-Identifier: GPL-3.0-or-later
#include "work/xray/last_scan.h"

#include "bench/printed/printed.h"
#include "bench/xray/xray.h"

#include <QDateTime>

namespace fusain::work {

std::optional<LastScan> last_scan(const records::Store& store, const bench::Visit& visit, long visit_id)
{
    for (const records::VisitRow& row : store.visits_of(visit.subject.client_id)) { // newest first
        if (row.id == visit_id || row.method != QString::fromLatin1(visit.method->word) || !row.measured() ||
            row.started_at.toStdString() >= visit.started_at)
            continue;
        const auto before = store.replay(row.id);
        const bench::XrayState* own = before ? bench::xray_if(*before) : nullptr;
        const bench::ScanTaken* scan = own ? own->standing(*before) : nullptr;
        if (!scan || !scan->has_map) continue;
        const bench::LinesSeen* seen = own->lines(*before);
        return LastScan{QString::fromStdString(before->day()), seen ? seen->lines : scan->lines, scan->frame};
    }
    return std::nullopt;
}

Exposure exposure(const records::Store& store, long client_id, const QDateTime& before)
{
    Exposure out;
    const QString from = before.toUTC().addYears(-1).toString(Qt::ISODateWithMs),
                  to = before.toUTC().toString(Qt::ISODateWithMs);
    for (const records::VisitRow& row : store.visits_of(client_id)) {
        if (row.method != QString::fromLatin1(method::absorptiometry.word) || row.started_at < from ||
            row.started_at >= to)
            continue;
        double dose = 0;
        bool printed = false;
        for (const bench::Event& e : store.events(row.id)) {
            if (e.kind == bench::event::Started::kind)
                if (const auto began = bench::read<bench::event::XrayStarted>(e.body)) dose = began->dose_usv;
            const bool printout = e.kind == bench::event::Printout::kind;
            if (e.kind != bench::event::TrialBegun::kind && !printout) continue;
            if (printout && std::exchange(printed, true)) continue; // read again, not scanned again
            ++out.scans;
            out.dose_usv += dose;
        }
    }
    return out;
}

} // namespace fusain::work
