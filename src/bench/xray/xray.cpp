// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/xray/xray.h"

#include "bench/files/tissue_table.h"
#include "bench/visit/kinds.h"
#include "core/base/limits.h"

#include <algorithm>
#include <cmath>

namespace fusain::bench {

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

void XrayState::begin(const event::Started& started, const std::string& body)
{
    std::string trunk = "without_head";
    take_rule(started.house, "trunk_head", trunk, [](const std::string&) { return true; });
    trunk_with_head = trunk == "with_head";
    table_id = started.profile;
    if (const auto own = read<event::XrayStarted>(body)) static_cast<event::XrayStarted&>(*this) = *own;
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

std::optional<Message> XrayState::refuse_trial(const Visit& v, const event::TrialBegun&, const Stamp& e) const
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

std::optional<Message> XrayState::take_reading(const Visit& v, const Trial& running, const Event& event)
{
    const auto e = read<event::MapTaken>(event.body);
    if (!e) return e.messages().front();
    if (!e->has_map) return Message{"missing_field", Level::error, "absorptiometry", "A scan comes with its map."};
    if (auto m = refuse_before(v)) return m;
    take(running, *e);
    return std::nullopt;
}

std::optional<Message> XrayState::take_typed(const Visit& v, const Trial& trial, const Event& event)
{
    if (auto m = refuse_before(v)) return m;
    const auto e = read<event::ScanTyped>(event.body);
    if (!e) return e.messages().front();
    xray::Input in = person(v);
    in.regions = e->regions;
    in.given = e->given;
    in.trunk_has_head = e->trunk_has_head;
    in.visceral_fat_g = e->own_visceral_g;
    const auto computed = xray::compute(in, Detail::numbers);
    if (!computed) return computed.messages().front();
    take(trial, *e);
    return std::nullopt;
}

void XrayState::take(const Trial& trial, const ScanTaken& scan)
{
    ScanTaken& kept = taken_[trial.number] = scan;
    if (kept.half != xray::Half::none) kept.sides_told_apart = false;
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

void XrayState::take_lines(const Visit& v, const event::Lines& e, const Stamp& stamp)
{
    LinesSeen seen{e, 0, stamp.who, stamp.at_utc};
    standing(v, &seen.trial);
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
