// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/xray/map.h"
#include "core/xray/region.h"
#include "bench/visit/visit.h"

#include <QByteArray>
#include <QString>

namespace fusain::work {

/// The map (DICOM), the regions (CSV) and the picture (PNG) of a visit. Returned: what the three files' names begin
/// with. Refused: cannot_write, naming the file.
Outcome<QString> export_scan(const QString& folder, const bench::Visit& visit, long visit_id, const xray::Map& map,
    const xray::Regions& regions, const QByteArray& png);

} // namespace fusain::work
