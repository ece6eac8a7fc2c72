// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/xray/likeness.h"
#include "records/store/store.h"

/// What is known of a client's X-ray scans in this lab.
namespace fusain::work {

/// The client's last scan with lines before this visit.
struct LastScan {
    QString day; ///< ISO date
    xray::Lines lines;
    xray::Frame frame;
};
std::optional<LastScan> last_scan(const records::Store& store, const bench::Visit& visit, long visit_id);

/// Beams begun in the twelve months before a moment, and their dose as far as it is known.
struct Exposure {
    int scans = 0;
    double dose_usv = 0;
};
Exposure exposure(const records::Store& store, long client_id, const QDateTime& before);

} // namespace fusain::work
