// SPDX-License-Identifier: GPL-3.0-or-later
#include "work/files/scan_export.h"

#include "bench/files/scan_file.h"

#include <QDir>
#include <QSaveFile>

namespace fusain::work {
namespace {

QByteArray table_of(const xray::Regions& regions)
{
    QByteArray out = "region,fat_g,lean_g,bmc_g,area_cm2\n";
    for (const xray::RegionRow& row : xray::region_rows) {
        const xray::Mass& m = regions[xray::index(row.region)];
        out += row.id;
        for (double v : {m.fat_g, m.lean_g, m.bmc_g, m.area_cm2}) out += ',' + QByteArray::number(v, 'f', 3);
        out += '\n';
    }
    return out;
}

} // namespace

Outcome<QString> export_scan(const QString& folder, const bench::Visit& v, long visit_id, const xray::Map& map,
    const xray::Regions& regions, const QByteArray& png)
{
    const auto refused = [](const QString& file) {
        return Outcome<QString>::refuse({"cannot_write", Level::error, "file",
            "The file " + file.toStdString() + " cannot be written. Is the disk full, or the folder read-only?"});
    };
    const QString stem =
        QStringLiteral("%1/visit%2-%3-scan").arg(folder).arg(visit_id).arg(QString::fromStdString(v.day()));
    if (!QDir().mkpath(folder)) return refused(folder);
    const auto plain = [](std::string day) {
        std::erase(day, '-');
        return day;
    };
    const std::string dicom = bench::write_scan({map, {v.subject.name, v.subject.number, plain(v.subject.birth_date),
                                                          v.subject.sex == Sex::male ? "M" : "F", plain(v.day())}});
    for (const auto& [suffix, bytes] : {std::pair{QStringLiteral(".dcm"), QByteArray::fromStdString(dicom)},
             {QStringLiteral(".csv"), table_of(regions)}, {QStringLiteral(".png"), png}}) {
        QSaveFile file(stem + suffix);
        if (!file.open(QIODevice::WriteOnly) || file.write(bytes) != bytes.size() || !file.commit())
            return refused(stem + suffix);
    }
    return stem;
}

} // namespace fusain::work
