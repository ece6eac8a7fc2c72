// SPDX-License-Identifier: GPL-3.0-or-later
// The events of X-ray absorptiometry, as the log stores them.
#include "bench/xray/xray_events.h"

#include "bench/base/fields.h"
#include "bench/files/scan_file.h"
#include "core/xray/visceral.h"

#include <algorithm>

namespace fusain::bench {
namespace {

constexpr xray::String limb_strings[] = {
    xray::String::right_arm, xray::String::left_arm, xray::String::right_leg, xray::String::left_leg};

const Message no_regions{"missing_field", Level::error, "absorptiometry.regions",
    "A scan holds what each region is made of: fat, lean soft tissue and bone mineral."},
    no_lines{
        "missing_field", Level::error, "lines", "Lines come with what they cut: seven lines and the regions by them."};

Message not_positive(const char* key)
{
    return {"out_of_range", Level::error, key, std::string("The reference's ") + key + " must be more than 0 kg."};
}

std::string half_word(xray::Half half) { return bench::word(half); }

std::optional<Message> half_of(const std::string& said, xray::Half& half)
{
    for (xray::Half h : {xray::Half::none, xray::Half::right, xray::Half::left})
        if (said == bench::word(h)) {
            half = h;
            return std::nullopt;
        }
    return Message{"unknown_choice", Level::error, "half",
        "\"" + said + "\" is no half; allowed are right, left, or nothing for the whole body."};
}

/// To the last digit, which `write_lines` leaves out: numbers hang on it.
Json json_of(const xray::Lines& lines)
{
    Json out = {{"neck", lines.neck_mm}, {"pelvis", lines.pelvis_mm}};
    for (const xray::LineRow& row : xray::line_rows)
        for (const xray::Spot& s : lines.*row.line) out[row.id].push_back({s.x_mm, s.y_mm});
    return out;
}

bool lines_from(const Json& j, xray::Lines& lines)
{
    const auto at = j.find("lines");
    if (at == j.end()) return false;
    const auto read = read_lines(at->dump(), "the lines");
    if (read) lines = *read;
    return bool(read);
}

Json json_of(const xray::Regions& regions, const std::array<bool, xray::region_count>& given)
{
    Json out = Json::object();
    for (std::size_t i = 0; i < xray::region_count; ++i)
        if (given[i]) out[xray::region_rows[i].id] = Fields<xray::Mass>::all().to_json(regions[i]);
    return out;
}

bool regions_from(const Json& j, xray::Regions& regions, std::array<bool, xray::region_count>& given)
{
    const auto at = j.find("regions");
    if (at == j.end() || !at->is_object() || at->empty()) return false;
    given.fill(false);
    for (const auto& [id, mass] : at->items()) {
        const auto r = std::find_if(std::begin(xray::region_rows), std::end(xray::region_rows),
            [&, name = id](const auto& row) { return name == row.id; });
        if (r == std::end(xray::region_rows) || !mass.is_object()) return false;
        if (Fields<xray::Mass>::all().from_json(mass, regions[xray::index(r->region)])) return false;
        given[xray::index(r->region)] = true;
    }
    return true;
}

std::array<bool, xray::region_count> every()
{
    std::array<bool, xray::region_count> out;
    out.fill(true);
    return out;
}

const Fields<RegionMasses>::Row regions_row = {
    [](const RegionMasses& e, Json& j) { j["regions"] = json_of(e.regions, e.given); },
    [](const Json& j, RegionMasses& e) {
        return regions_from(j, e.regions, e.given) ? std::nullopt : std::optional(no_regions);
    }};

/// Where there is a map: its size, and the lines that were placed on it.
const Fields<ScanTaken>::Row map_row = {[](const ScanTaken& e, Json& j) {
                                            if (!e.has_map) return;
                                            j["map"] = {{"rows", e.rows}, {"columns", e.columns},
                                                {"scanned_columns", e.scanned_columns}, {"dx_mm", e.dx_mm},
                                                {"dy_mm", e.dy_mm}};
                                            j["lines"] = json_of(e.lines);
                                        },
    [](const Json& j, ScanTaken& e) -> std::optional<Message> {
        const auto map = j.find("map");
        if (map == j.end()) return std::nullopt;
        if (!map->is_object() || !lines_from(j, e.lines)) return no_regions;
        e.has_map = true;
        e.rows = map->value("rows", 0);
        e.columns = map->value("columns", 0);
        e.scanned_columns = map->value("scanned_columns", 0);
        e.dx_mm = map->value("dx_mm", 0.0);
        e.dy_mm = map->value("dy_mm", 0.0);
        return std::nullopt;
    }};

/// What was found while reading a map: cautions, all of them.
const Fields<ScanTaken>::Row found_row = {
    [](const ScanTaken& e, Json& j) {
        for (const Message& m : e.found)
            j["found"].push_back({{"code", m.code}, {"field", m.field}, {"words", m.text}});
    },
    [](const Json& j, ScanTaken& e) -> std::optional<Message> {
        if (const auto found = j.find("found"); found != j.end())
            for (const Json& f : *found)
                e.found.push_back({f.value("code", ""), Level::caution, f.value("field", ""), f.value("words", "")});
        return std::nullopt;
    }};

const Fields<LinesGiven>::Row lines_row = {[](const LinesGiven& e, Json& j) {
                                               j["lines"] = json_of(e.lines);
                                               j["regions"] = json_of(e.regions, every());
                                           },
    [](const Json& j, LinesGiven& e) -> std::optional<Message> {
        std::array<bool, xray::region_count> given{};
        if (!lines_from(j, e.lines) || !regions_from(j, e.regions, given)) return no_lines;
        return std::nullopt;
    }};

} // namespace

const char* word(xray::Half half)
{
    return half == xray::Half::right ? "right" : half == xray::Half::left ? "left" : "";
}

FUSAIN_FIELDS(xray::Mass,
    always("fat_g", &E::fat_g).always("lean_g", &E::lean_g).always("bmc_g", &E::bmc_g).field("area_cm2", &E::area_cm2))
FUSAIN_FIELDS(xray::Visceral, always("mass_g", &E::mass_g).always("u_g", &E::u_g).always("area_cm2", &E::area_cm2))
FUSAIN_FIELDS(
    xray::Frame, always("crown_mm", &E::crown_mm).always("soles_mm", &E::soles_mm).always("middle_mm", &E::middle_mm))
FUSAIN_FIELDS(
    xray::LinesWorth, always("arms", &E::arms_kg).always("legs", &E::legs_kg).always("one_leg", &E::one_leg_kg))
FUSAIN_FIELDS(LinesGiven::FromLast, always("string", &E::string).always("mm", &E::mm).always("grams", &E::grams))
FUSAIN_FIELDS(
    xray::BoneReference, always("mean_kg", &E::mean_kg).always("sd_kg", &E::sd_kg).always("source", &E::source))
FUSAIN_FIELDS(RegionMasses, other(regions_row)
                                .field("trunk_has_head", &E::trunk_has_head)
                                .field("sides_told_apart", &E::sides_told_apart)
                                .field("total", &E::total)
                                .field("visceral_fat_g", &E::own_visceral_g))
FUSAIN_FIELDS(ScanTaken, with<RegionMasses>()
                             .other(map_row)
                             .field("table", &E::table)
                             .word("half", &E::half, half_word, half_of)
                             .field("frame", &E::frame)
                             .field("photons_kg", &E::photons_kg)
                             .field("visceral", &E::visceral)
                             .other(found_row)
                             .field("of_another", &E::of_another))
FUSAIN_FIELDS(LinesGiven, other(lines_row)
                              .field("visceral", &E::visceral)
                              .always("lean_kg_per_mm", &E::worth)
                              .field("by", &E::by)
                              .field("from_last", &E::from_last))

FUSAIN_LOGGED(event::XrayStarted, field("licensed", &E::licensed)
                                      .field("rated_mass_kg", &E::rated_mass_kg)
                                      .field("dose_usv", &E::dose_usv)
                                      .field("scans_before", &E::scans_before)
                                      .field("dose_before_usv", &E::dose_before_usv)
                                      .field("phantom", &E::phantom)
                                      .field("bone_reference", &E::bone_reference))
FUSAIN_LOGGED(event::Lying,
    needed("seen", &E::seen, {"missing_field", Level::error, "seen", "Say what was seen to before the beam."})
        .always("left_out", &E::left_out)
        .word("half", &E::half, half_word, half_of))
FUSAIN_LOGGED(event::BoneReference, positive("mean_kg", &E::mean_kg, not_positive("mean_kg"))
                                        .positive("sd_kg", &E::sd_kg, not_positive("sd_kg"))
                                        .always("source", &E::source))
FUSAIN_LOGGED(event::MapTaken, with<event::TrialTaken>().with<ScanTaken>().field("dose_usv", &E::dose_usv))
FUSAIN_LOGGED(event::ScanTyped, with<event::TrialTyped>().with<ScanTaken>())
FUSAIN_LOGGED(event::Lines, with<LinesGiven>())

ScanTaken scan_taken(const xray::Scan& scan, const Messages& found, const xray::Table& table, xray::Half half,
    Eigen::Index scanned_columns)
{
    const xray::Composition& c = scan.made_of;
    ScanTaken out;
    out.regions = scan.regions;
    out.given.fill(true);
    // of all pixels, whatever the lines: the regions must add up to it
    out.total = xray::Mass{c.fat.sum() * c.pixel_cm2(), c.lean.sum() * c.pixel_cm2(), c.bone.sum() * c.pixel_cm2()};
    out.has_map = true;
    out.rows = static_cast<int>(c.fat.rows());
    out.columns = static_cast<int>(c.fat.cols());
    out.scanned_columns = static_cast<int>(scanned_columns);
    out.dx_mm = c.dx_mm;
    out.dy_mm = c.dy_mm;
    out.table = table.id;
    out.half = half;
    out.lines = scan.lines;
    out.frame = xray::frame_of(c.area, scan.lines, c.dx_mm, c.dy_mm);
    out.photons_kg = scan.photons_kg;
    out.visceral = scan.visceral;
    out.found = found;
    return out;
}

event::Lines event::lines_of(const xray::Composition& scan, const xray::Lines& lines, const std::string& by,
    const std::optional<xray::Lines>& last_carried)
{
    event::Lines out;
    out.lines = lines;
    out.regions = xray::regions(scan, lines);
    out.by = by;
    out.visceral = xray::visceral_fat(scan, lines);
    double per_mm[std::size(limb_strings)];
    for (std::size_t i = 0; i < std::size(limb_strings); ++i)
        per_mm[i] = std::abs(xray::per_mm(scan, lines, limb_strings[i]).lean_g) / 1000;
    out.worth = {per_mm[0] + per_mm[1], per_mm[2] + per_mm[3], (per_mm[2] + per_mm[3]) / 2};
    if (last_carried)
        for (const xray::Apart& a : xray::apart(scan, lines, *last_carried))
            out.from_last.push_back({xray::row(a.string).id, a.mm, a.grams});
    return out;
}

} // namespace fusain::bench
