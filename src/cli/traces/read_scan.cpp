// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/traces/read.h"

#include "bench/files/scan_file.h"
#include "cli/traces/told.h"
#include "core/xray/scan.h"

namespace fusain::cli {
namespace {

using Json = nlohmann::ordered_json;

Json json_of(const xray::Mass& m)
{
    return {{"fat_g", m.fat_g}, {"lean_g", m.lean_g}, {"bmc_g", m.bmc_g}, {"area_cm2", m.area_cm2}};
}

Outcome<xray::Scan> scan_of(std::istream& map, std::istream& table, std::istream* lines)
{
    using Refused = Outcome<xray::Scan>;
    const auto tissue = bench::read_tissue_table(all_of(table), "the table");
    if (!tissue) return Refused::refuse(tissue.messages());
    const auto file = bench::read_scan(all_of(map), "the scan");
    if (!file) return Refused::refuse(file.messages());
    if (!lines) return xray::read(file->map, *tissue);
    const auto given = bench::read_lines(all_of(*lines), "the lines");
    if (!given) return Refused::refuse(given.messages());
    return xray::read(file->map, *tissue, &*given);
}

} // namespace

bool read_scan(std::istream& map, std::istream& table, std::istream* lines, std::ostream& out)
{
    const auto scan = scan_of(map, table, lines);
    Json result = {{"status", scan.status()}};
    if (scan) {
        result["lines"] = Json::parse(bench::write_lines(scan->lines));
        result["lines_by"] = scan->lines_given ? "given" : "program";
        for (const xray::RegionRow& row : xray::region_rows)
            result["regions"][row.id] = json_of(scan->regions[xray::index(row.region)]);
        result["total"] = json_of(xray::whole(scan->regions));
    }
    return tell(std::move(result), scan.messages(), out);
}

} // namespace fusain::cli
