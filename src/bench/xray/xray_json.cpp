// SPDX-License-Identifier: GPL-3.0-or-later
// What the log keeps of a scan: regions, lines, the map as a recording.
#include "bench/files/scan_file.h"
#include "bench/xray/xray.h"
#include "core/xray/visceral.h"

namespace fusain::bench {
namespace {

constexpr xray::String limb_strings[] = {
    xray::String::right_arm, xray::String::left_arm, xray::String::right_leg, xray::String::left_leg};

} // namespace

const char* word(xray::Half half)
{
    return half == xray::Half::right ? "right" : half == xray::Half::left ? "left" : "";
}

Json json_of(const xray::Mass& m)
{
    Json out = {{"fat_g", m.fat_g}, {"lean_g", m.lean_g}, {"bmc_g", m.bmc_g}};
    if (m.area_cm2 > 0) out["area_cm2"] = m.area_cm2;
    return out;
}

Json json_of(const xray::Regions& regions, const std::array<bool, xray::region_count>& given)
{
    Json out = Json::object();
    for (std::size_t i = 0; i < xray::region_count; ++i)
        if (given[i]) out[xray::region_rows[i].id] = json_of(regions[i]);
    return out;
}

/// To the last digit, which `write_lines` leaves out: numbers hang on it.
Json json_of(const xray::Lines& lines)
{
    Json out = {{"neck", lines.neck_mm}, {"pelvis", lines.pelvis_mm}};
    for (const xray::LineRow& row : xray::line_rows)
        for (const xray::Spot& s : lines.*row.line) out[row.id].push_back({s.x_mm, s.y_mm});
    return out;
}

std::optional<xray::Lines> lines_from(const Json& j)
{
    const auto lines = read_lines(j.dump(), "the lines");
    return lines ? std::optional(*lines) : std::nullopt;
}

Json json_of(const xray::Scan& scan, const Messages& found, const xray::Table& table, xray::Half half,
    Eigen::Index scanned_columns)
{
    std::array<bool, xray::region_count> all;
    all.fill(true);
    const xray::Composition& c = scan.made_of;
    const xray::Frame frame = xray::frame_of(c.area, scan.lines, c.dx_mm, c.dy_mm);
    Json out = {{"regions", json_of(scan.regions, all)}, {"lines", json_of(scan.lines)},
        {"map", {{"rows", c.fat.rows()}, {"columns", c.fat.cols()}, {"scanned_columns", scanned_columns},
                    {"dx_mm", c.dx_mm}, {"dy_mm", c.dy_mm}}},
        {"table", table.id}, {"photons_kg", scan.photons_kg},
        {"frame", {{"crown_mm", frame.crown_mm}, {"soles_mm", frame.soles_mm}, {"middle_mm", frame.middle_mm}}}};
    // of all pixels, whatever the lines: the regions must add up to it
    out["total"] =
        json_of(xray::Mass{c.fat.sum() * c.pixel_cm2(), c.lean.sum() * c.pixel_cm2(), c.bone.sum() * c.pixel_cm2()});
    if (half != xray::Half::none) out["half"] = word(half);
    if (scan.visceral)
        out["visceral"] = {
            {"mass_g", scan.visceral->mass_g}, {"u_g", scan.visceral->u_g}, {"area_cm2", scan.visceral->area_cm2}};
    Json said = Json::array();
    for (const Message& m : found) said.push_back({{"code", m.code}, {"field", m.field}, {"words", m.text}});
    out["found"] = said;
    return out;
}

Signal signal_of(const xray::Map& map)
{
    Signal out{map_columns, {}};
    out.values.reserve(static_cast<std::size_t>(4 * map.low.size()));
    for (Eigen::Index r = 0; r < map.rows(); ++r)
        for (Eigen::Index c = 0; c < map.columns(); ++c)
            out.add({static_cast<double>(r), static_cast<double>(c), map.low(r, c), map.high(r, c)});
    return out;
}

std::optional<xray::Map> map_from(const Signal& s, const ScanTaken& of)
{
    if (!of.has_map || s.columns != map_columns) return std::nullopt;
    xray::Map out;
    out.dx_mm = of.dx_mm;
    out.dy_mm = of.dy_mm;
    out.low = out.high = xray::Image::Zero(of.rows, of.scanned_columns);
    if (s.size() != static_cast<std::size_t>(out.low.size())) return std::nullopt;
    for (std::size_t i = 0; i < s.size(); ++i) {
        const auto r = static_cast<Eigen::Index>(s.at(i, 0)), c = static_cast<Eigen::Index>(s.at(i, 1));
        if (r < 0 || c < 0 || r >= out.rows() || c >= out.columns()) return std::nullopt;
        out.low(r, c) = s.at(i, 2);
        out.high(r, c) = s.at(i, 3);
    }
    return out;
}

/// What one millimetre of the limbs' lines is worth in lean, and how the lines lie beside last time's: the body of
/// `lines`.
Json json_of_lines(const xray::Composition& scan, const xray::Lines& lines, const std::string& by,
    const std::optional<xray::Lines>& last_carried)
{
    std::array<bool, xray::region_count> all;
    all.fill(true);
    Json out = {{"lines", json_of(lines)}, {"regions", json_of(xray::regions(scan, lines), all)}, {"by", by}};
    if (const auto v = xray::visceral_fat(scan, lines))
        out["visceral"] = {{"mass_g", v->mass_g}, {"u_g", v->u_g}, {"area_cm2", v->area_cm2}};
    double per_mm[std::size(limb_strings)];
    for (std::size_t i = 0; i < std::size(limb_strings); ++i)
        per_mm[i] = std::abs(xray::per_mm(scan, lines, limb_strings[i]).lean_g) / 1000;
    out["lean_kg_per_mm"] = {
        {"arms", per_mm[0] + per_mm[1]}, {"legs", per_mm[2] + per_mm[3]}, {"one_leg", (per_mm[2] + per_mm[3]) / 2}};
    if (last_carried) {
        Json apart = Json::array();
        for (const xray::Apart& a : xray::apart(scan, lines, *last_carried))
            apart.push_back({{"string", xray::row(a.string).id}, {"mm", a.mm}, {"grams", a.grams}});
        out["from_last"] = apart;
    }
    return out;
}

} // namespace fusain::bench
