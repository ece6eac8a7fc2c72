// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/xray/xray.h"

#include "bench/files/tissue_table.h"
#include "bench/visit/kinds.h"
#include "core/base/limits.h"

#include <algorithm>
#include <cmath>

namespace fusain::bench {
namespace {

double number_in(const Json& j, const char* key)
{
    const auto at = j.find(key);
    return at != j.end() && at->is_number() ? at->get<double>() : 0;
}

xray::Mass mass_from(const Json& j)
{
    return {number_in(j, "fat_g"), number_in(j, "lean_g"), number_in(j, "bmc_g"), number_in(j, "area_cm2")};
}

std::optional<xray::Visceral> visceral_from(const Json& body)
{
    const auto at = body.find("visceral");
    if (at == body.end() || !at->is_object()) return std::nullopt;
    return xray::Visceral{number_in(*at, "mass_g"), number_in(*at, "u_g"), number_in(*at, "area_cm2")};
}

bool regions_from(const Json& body, xray::Regions& regions, std::array<bool, xray::region_count>& given)
{
    const auto at = body.find("regions");
    if (at == body.end() || !at->is_object() || at->empty()) return false;
    given.fill(false);
    for (const auto& [id, mass] : at->items()) {
        const auto r = std::find_if(std::begin(xray::region_rows), std::end(xray::region_rows),
            [&, name = id](const auto& row) { return name == row.id; });
        if (r == std::end(xray::region_rows) || !mass.is_object()) return false;
        regions[xray::index(r->region)] = mass_from(mass);
        given[xray::index(r->region)] = true;
    }
    return true;
}

/// What a body holds of a scan; nothing when it cannot be read.
std::optional<ScanTaken> scan_from(const Json& b)
{
    ScanTaken out;
    if (!regions_from(b, out.regions, out.given)) return std::nullopt;
    out.trunk_has_head = b.value("trunk_has_head", false);
    out.sides_told_apart = b.value("sides_told_apart", true);
    if (b.contains("total")) out.total = mass_from(b["total"]);
    if (b.contains("visceral_fat_g")) out.own_visceral_g = number_in(b, "visceral_fat_g");
    out.of_another = b.value("of_another", std::vector<std::string>{});
    const auto map = b.find("map");
    if (map == b.end()) return out;
    const auto lines = b.contains("lines") ? lines_from(b["lines"]) : std::nullopt;
    if (!lines || !map->is_object()) return std::nullopt;
    out.has_map = true;
    out.lines = *lines;
    out.rows = static_cast<int>(number_in(*map, "rows"));
    out.columns = static_cast<int>(number_in(*map, "columns"));
    out.scanned_columns = static_cast<int>(number_in(*map, "scanned_columns"));
    out.dx_mm = number_in(*map, "dx_mm");
    out.dy_mm = number_in(*map, "dy_mm");
    out.table = b.value("table", "");
    const std::string half = b.value("half", "");
    out.half = half == "right" ? xray::Half::right : half == "left" ? xray::Half::left : xray::Half::none;
    if (out.half != xray::Half::none) out.sides_told_apart = false;
    const Json frame = b.value("frame", Json::object());
    out.frame = {number_in(frame, "crown_mm"), number_in(frame, "soles_mm"), number_in(frame, "middle_mm")};
    out.photons_kg = number_in(b, "photons_kg");
    out.visceral = visceral_from(b);
    for (const Json& f : b.value("found", Json::array()))
        out.found.push_back({f.value("code", ""), Level::caution, f.value("field", ""), f.value("words", "")});
    return out;
}

Message unreadable()
{
    return {"missing_field", Level::error, "absorptiometry.regions",
        "A scan holds what each region is made of: fat, lean soft tissue and bone mineral."};
}

} // namespace

void XrayState::begin(const protocol::HouseRules& house, const Json& started)
{
    std::string trunk = "without_head";
    take_rule(house, "trunk_head", trunk, [](const std::string&) { return true; });
    trunk_with_head = trunk == "with_head";
    table_id = started.value("profile", "");
    licensed = started.value("licensed", std::vector<std::string>{});
    rated_mass_kg = number_in(started, "rated_mass_kg");
    scans_before = started.value("scans_before", 0);
    dose_before_usv = number_in(started, "dose_before_usv");
    dose_usv = number_in(started, "dose_usv");
    phantom = started.value("phantom", "");
    if (const Json b = started.value("bone_reference", Json()); b.is_object())
        bone_reference = xray::BoneReference{number_in(b, "mean_kg"), number_in(b, "sd_kg"), b.value("source", "")};
}

/// What forbids the beam, whoever asks.
std::optional<Message> XrayState::refuse_before(const Visit& v) const
{
    if (v.pregnant)
        return Message{"pregnant", Level::refused, "pregnant",
            "Nobody who may be pregnant is scanned with X-rays. There is no way around it."};
    if (rated_mass_kg > 0 && v.mass_kg.value_or(0) > rated_mass_kg)
        return Message{"over_rated", Level::refused, "mass_kg",
            "The table is rated for " + limits::plain(rated_mass_kg, 0) + " kg; the client weighs " +
                limits::plain(*v.mass_kg, 1) + " kg. It may fail: no scan on it."};
    return needs_steps_before(v, step::scan, "Before the beam");
}

std::optional<Message> XrayState::refuse_trial(const Visit& v, const Event& e) const
{
    if (auto m = refuse_before(v)) return m;
    if (table_id.empty() || !shipped_table(table_id))
        return Message{"no_tissue_table", Level::error, "profile",
            "The register names no tissue table for this instrument" +
                (table_id.empty() ? std::string() : " that is known here (\"" + table_id + "\")") + "; there is: " +
                shipped_table_ids() + ". Without it a map cannot be read; type the table's own regions."};
    if (std::find(licensed.begin(), licensed.end(), e.who) == licensed.end())
        return Message{"not_licensed", Level::refused, "who",
            (e.who.empty() ? "Nobody is named" : e.who + " holds no X-ray licence") +
                " in this lab's register; only who is licensed starts the beam. Local rules decide who may."};
    return std::nullopt;
}

std::optional<Message> XrayState::refuse_reading(const Visit& v, const Trial&, const Event& e) const
{
    const auto scan = scan_from(e.body);
    if (!scan || !scan->has_map) return unreadable();
    return refuse_before(v);
}

void XrayState::take_reading(const Trial& running, const Event& e) { taken_[running.number] = *scan_from(e.body); }

std::optional<Message> XrayState::refuse_typed(const Visit& v, const TakeRow&, const Event& e) const
{
    if (auto m = refuse_before(v)) return m;
    const auto scan = scan_from(e.body);
    if (!scan) return unreadable();
    xray::Input in = person(v);
    in.regions = scan->regions;
    in.given = scan->given;
    in.trunk_has_head = scan->trunk_has_head;
    in.visceral_fat_g = scan->own_visceral_g;
    const auto computed = xray::compute(in, Detail::numbers);
    return computed ? std::nullopt : std::optional(computed.messages().front());
}

void XrayState::take_typed(const Visit&, const Trial& trial, const Event& e)
{
    taken_[trial.number] = *scan_from(e.body);
}

const ScanTaken* XrayState::standing(const Visit& v, int* trial) const
{
    for (auto t = v.trials.rbegin(); t != v.trials.rend(); ++t) {
        const auto at = taken_.find(t->number);
        if (t->status != Trial::Status::taken || at == taken_.end()) continue;
        if (trial) *trial = t->number;
        return &at->second;
    }
    return nullptr;
}

const LinesSeen* XrayState::lines(const Visit& v) const
{
    int trial = 0;
    return standing(v, &trial) && seen_ && seen_->trial == trial ? &*seen_ : nullptr;
}

void XrayState::take_lines(const Visit& v, const Event& e)
{
    LinesSeen seen;
    standing(v, &seen.trial);
    seen.lines = *lines_from(e.body["lines"]);
    std::array<bool, xray::region_count> given{};
    regions_from(e.body, seen.regions, given);
    seen.visceral = visceral_from(e.body);
    const Json worth = e.body.value("lean_kg_per_mm", Json::object());
    seen.worth = {number_in(worth, "arms"), number_in(worth, "legs"), number_in(worth, "one_leg")};
    seen.by = e.body.value("by", "");
    seen.who = e.who;
    seen.at_utc = e.at_utc;
    for (const Json& f : e.body.value("from_last", Json::array()))
        seen.from_last.push_back({f.value("string", ""), number_in(f, "mm"), number_in(f, "grams")});
    seen_ = std::move(seen);
}

bool XrayState::lines_done(const Visit& v) const
{
    const ScanTaken* s = standing(v);
    return s && (!s->has_map || lines(v));
}

int XrayState::beams(const Visit& v) const
{
    return static_cast<int>(
        std::count_if(v.trials.begin(), v.trials.end(), [](const Trial& t) { return t.source == "line"; }));
}

std::optional<double> XrayState::value(const Visit&, const Trial& t) const
{
    const auto at = taken_.find(t.number);
    if (at == taken_.end()) return std::nullopt;
    return xray::whole(at->second.regions).total_g() / 1000;
}

xray::Input XrayState::person(const Visit& v) const
{
    xray::Input in;
    in.sex = v.subject.sex;
    in.age_y = v.age_y();
    in.height_cm = v.height_cm();
    in.mass_kg = v.mass_kg.value_or(0);
    in.pregnant = v.pregnant;
    in.bone_reference = bone_reference;
    return in;
}

std::optional<xray::Input> XrayState::input(const Visit& v) const
{
    int number = 0;
    const ScanTaken* s = standing(v, &number);
    if (!v.mass_kg || !s) return std::nullopt;
    xray::Input in = person(v);
    const LinesSeen* by = lines(v);
    in.regions = by ? by->regions : s->regions;
    in.given = s->given;
    in.trunk_has_head = s->trunk_has_head;
    in.sides_told_apart = s->sides_told_apart;
    in.mirrored = s->half != xray::Half::none;
    in.total = s->total;
    in.visceral_fat_g = s->own_visceral_g;
    in.visceral = by ? by->visceral : s->visceral;
    in.errors.photons_kg = s->photons_kg;
    const Trial& t = v.trial(number);
    in.from = s->has_map            ? "regions of the map, lines as drawn"
              : t.source == "typed" ? "regions, typed off the table's own screen"
                                    : "regions in " + t.file;
    return in;
}

Outcome<Result> XrayState::result(const Visit& v) const
{
    const auto in = input(v);
    if (!in) return no_result("Nothing has been scanned yet.");
    if (!lines_done(v)) return no_result("Nobody has looked at the lines yet.");
    auto computed = xray::compute(*in);
    if (!computed) return computed;
    Messages messages = computed.messages();
    const auto say = [&](const char* code, const char* field, std::string text) {
        messages.push_back({code, Level::caution, field, std::move(text)});
    };
    const ScanTaken& s = *standing(v);
    std::string hidden; // limbs, in one sentence
    for (const Message& m : s.found) {
        if (m.code != "little_soft") {
            messages.push_back(m);
            continue;
        }
        for (const xray::RegionRow& r : xray::region_rows)
            if (m.field.ends_with(r.id)) hidden += (hidden.empty() ? "" : ", ") + std::string(r.title);
    }
    if (!hidden.empty())
        say("little_soft", "absorptiometry.regions",
            "Hardly a place shows its fat by itself, nearly all lies over bone or beside it: " + hidden +
                ". Fat there may be far off, and lean the other way.");
    if (s.half != xray::Half::none)
        say("half_body", "absorptiometry.regions",
            std::string("Only the ") + word(s.half) +
                " half lay in the field; the other is its mirror. Nothing is said of right against left, and every "
                "mass carries the difference of the two sides as doubt.");
    else if (!s.sides_told_apart)
        say("sides_merged", "absorptiometry.regions",
            "The table gives arms and legs as sums; halves stand for both sides, so right and left are not told "
            "apart.");
    if (s.trunk_has_head)
        say("head_in_trunk", "absorptiometry.regions.trunk",
            "This table's trunk holds the head: its trunk is not to be compared with one that does not.");
    for (const std::string& words : s.of_another)
        say("of_another", "absorptiometry", "The file said otherwise, and it was taken all the same: " + words + ".");
    for (const std::string& words : left_out) say("left_out", "", "Done all the same: " + words + ".");
    if (const LinesSeen* by = lines(v)) {
        std::string far;
        for (const auto& f : by->from_last)
            if (std::abs(f.mm) > xray::same_rule_mm)
                for (const xray::StringRow& r : xray::string_rows)
                    if (f.string == r.id)
                        far += (far.empty() ? "" : ", ") + std::string(r.title) + " by " +
                               limits::plain(std::abs(f.mm), 0) + " mm (" + limits::plain(f.grams, 0) + " g)";
        if (!far.empty())
            say("lines_apart", "lines",
                "The lines do not follow last time's rule: " + far +
                    ". What regions changed by is in part where the lines lie.");
    }
    return Outcome<Result>(std::move(computed).take(), std::move(messages));
}

std::vector<WhatIf> XrayState::what_ifs(const Visit& v) const
{
    const auto in = input(v);
    const LinesSeen* by = lines(v);
    return in ? xray::what_ifs(*in, by ? by->worth : xray::LinesWorth{}) : std::vector<WhatIf>{};
}

std::string XrayState::schools(const Visit&) const { return trunk_with_head ? "with_head" : "without_head"; }

} // namespace fusain::bench
