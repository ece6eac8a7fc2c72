// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/batch/block.h"

#include "core/xray/absorptiometry.h"

namespace fusain::cli {
namespace {

constexpr std::string_view block_fields[] = {"regions", "visceral_fat_g", "total"};
constexpr std::string_view region_fields[] = {
    "head", "right_arm", "left_arm", "trunk", "right_leg", "left_leg", "android", "gynoid"};
constexpr std::string_view mass_fields[] = {"fat_g", "lean_g", "bmc_g", "area_cm2"};

xray::Mass read_mass(const simdjson::dom::object& block, const std::string& path, Answer& answer)
{
    Fields read(block, path, mass_fields, answer);
    return {read.number("fat_g"), read.number("lean_g"), read.number("bmc_g"), read.number("area_cm2", 0)};
}

Computed absorptiometry_record(const Asked& asked, const simdjson::dom::object& block, Answer& answer, Detail detail)
{
    xray::Input in;
    in.sex = asked.sex;
    in.age_y = asked.age_y;
    in.height_cm = asked.height_cm;
    in.mass_kg = asked.mass_kg;
    in.pregnant = asked.facts.pregnant;
    Fields read(block, "absorptiometry.", block_fields, answer);
    if (const auto regions = read.block("regions")) {
        Fields inner(*regions, "absorptiometry.regions.", region_fields, answer);
        for (const xray::RegionRow& row : xray::region_rows)
            if (inner.has(row.id))
                if (const auto one = inner.block(row.id)) {
                    in.given[xray::index(row.region)] = true;
                    in.regions[xray::index(row.region)] =
                        read_mass(*one, std::string("absorptiometry.regions.") + row.id + '.', answer);
                }
    }
    if (read.has("visceral_fat_g")) in.visceral_fat_g = read.number("visceral_fat_g");
    if (read.has("total"))
        if (const auto total = read.block("total")) in.total = read_mass(*total, "absorptiometry.total.", answer);
    return computed(answer, [&] { return xray::compute(in, detail); });
}

} // namespace

RecordBlock xray_block() { return {"absorptiometry", absorptiometry_record}; }

} // namespace fusain::cli
