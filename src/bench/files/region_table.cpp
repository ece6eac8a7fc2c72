// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/files/region_table.h"

#include "bench/files/cells.h"
#include "core/base/csv.h"
#include "core/xray/region.h"

#include <algorithm>
#include <set>
#include <sstream>
#include <stdexcept>

namespace fusain::bench {
namespace {

constexpr std::size_t most_bytes = 1 << 20, most_rows = 200, most_columns = 200;
constexpr const char *skip = "skip", *unit_key = "(the unit of the masses)";
using Cells = std::vector<std::vector<std::string>>;

/// What a heading says, as far as it is understood.
struct Said {
    std::string region, tissue, unit;
    bool known = false; ///< also when it is known to be of no interest
};

std::set<std::string> words_of(const std::string& cell)
{
    std::set<std::string> out;
    std::string word;
    for (char c : cell + " ") {
        if (std::isalnum(static_cast<unsigned char>(c)) || c == '%') {
            word += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
            continue;
        }
        if (!word.empty()) out.insert(word);
        word.clear();
    }
    return out;
}

bool any(const std::set<std::string>& words, std::initializer_list<const char*> of)
{
    for (const char* w : of)
        if (words.count(w)) return true;
    return false;
}

Said understand(const std::string& cell, const LearntWords& learnt)
{
    Said out;
    const std::string text = trimmed(cell);
    if (const auto at = learnt.find(text); at != learnt.end()) {
        const std::string& m = at->second;
        const auto rest = m.substr(m.find(':') + 1);
        out.known = true;
        if (m.starts_with("region:")) out.region = rest;
        if (m.starts_with("tissue:")) out.tissue = rest;
        return out;
    }
    const auto w = words_of(text);
    if (any(w, {"%", "percent", "pct", "bmd", "area", "density", "score", "ratio", "index", "bmi"})) {
        out.known = true; // follows from the masses
        return out;
    }
    const bool right = any(w, {"right", "r", "rt"}), left = any(w, {"left", "l", "lt"});
    const auto sided = [&](const char* one, const char* both) {
        return right ? std::string("right_") + one : left ? std::string("left_") + one : std::string(both);
    };
    const bool head = any(w, {"head", "skull"});
    if (any(w, {"trunk", "torso"}))
        out.region = head && !any(w, {"without", "no", "excl", "less", "minus"}) ? "trunk_with_head" : "trunk";
    else if (head)
        out.region = "head";
    else if (any(w, {"arm", "arms"}))
        out.region = sided("arm", "arms");
    else if (any(w, {"leg", "legs"}))
        out.region = sided("leg", "legs");
    else if (any(w, {"android", "waist"}))
        out.region = "android";
    else if (any(w, {"gynoid", "hips", "hip"}))
        out.region = "gynoid";
    else if (any(w, {"total", "whole", "sum", "subtotal"}) && !any(w, {"mass"}))
        out.region = any(w, {"subtotal"}) ? "" : "total";
    if (any(w, {"visceral", "vat"}))
        out.tissue = "visceral";
    else if (any(w, {"bmc", "bone", "mineral"}))
        out.tissue = "bmc";
    else if (any(w, {"lean"}))
        out.tissue = "lean";
    else if (any(w, {"fat"}))
        out.tissue = "fat";
    out.unit = any(w, {"kg"}) ? "kg" : any(w, {"g", "gram", "grams"}) ? "g" : "";
    out.known = !out.region.empty() || !out.tissue.empty() ||
                any(w, {"mass", "subtotal", "region", "name", "id", "date"}) || text.empty() || !out.unit.empty();
    return out;
}

using Tissues = std::map<std::string, double>;

/// A share of the masses, without what is no tissue of a region's own.
Tissues shared(const Tissues& grams, double share)
{
    Tissues out;
    for (const auto& [tissue, g] : grams)
        if (tissue != "visceral") out[tissue] = share * g;
    return out;
}

xray::Mass mass_of(const Tissues& grams, double share)
{
    const auto of = [&](const char* tissue) { return grams.count(tissue) ? share * grams.at(tissue) : 0; };
    return {of("fat"), of("lean"), of("bmc")};
}

struct Found {
    std::map<std::string, Tissues> grams; ///< by region, then by tissue
    std::set<std::string> unknown;
    bool unit_said = true;
};

Message bad_file(const std::string& file, const std::string& text)
{
    return {"bad_file", Level::error, "file", file + ": " + text};
}

/// The table as regions in rows: a heading with tissues, a first column of regions.
Cells turned(const Cells& cells)
{
    Cells out(cells.front().size());
    for (std::size_t r = 0; r < cells.size(); ++r)
        for (std::size_t c = 0; c < out.size(); ++c) out[c].push_back(c < cells[r].size() ? cells[r][c] : "");
    return out;
}

int count(const std::vector<std::string>& cells, const LearntWords& learnt, std::string Said::*what)
{
    int n = 0;
    for (const std::string& c : cells) n += !(understand(c, learnt).*what).empty();
    return n;
}

/// Whether a line in the file is a heading above all: tells one from a title over the table.
bool holds_numbers(const std::vector<std::string>& row, char separator)
{
    for (std::size_t i = 1; i < row.size(); ++i)
        if (number_of(row[i], separator)) return true;
    return false;
}

} // namespace

const std::vector<Meaning>& meanings()
{
    static const std::vector<Meaning> rows = {{skip, "nothing that is needed"}, {"region:head", "head"},
        {"region:trunk", "trunk, without the head"}, {"region:trunk_with_head", "trunk, with the head"},
        {"region:right_arm", "right arm"}, {"region:left_arm", "left arm"}, {"region:arms", "both arms"},
        {"region:right_leg", "right leg"}, {"region:left_leg", "left leg"}, {"region:legs", "both legs"},
        {"region:android", "android band (waist)"}, {"region:gynoid", "gynoid band (hips)"},
        {"region:total", "the whole body"}, {"tissue:fat", "fat"}, {"tissue:lean", "lean soft tissue"},
        {"tissue:bmc", "bone mineral"}, {"tissue:visceral", "visceral fat"}, {"unit:g", "grams"},
        {"unit:kg", "kilograms"}};
    return rows;
}

Outcome<RegionTable> read_region_table(const std::string& text, const std::string& file, const LearntWords& learnt)
{
    using Refused = Outcome<RegionTable>;
    if (text.size() > most_bytes)
        return Refused::refuse(bad_file(file, "larger than 1 MiB; a table of regions is not."));
    std::string body = text.starts_with("\xEF\xBB\xBF") ? text.substr(3) : text;
    if (body.find('\0') != std::string::npos)
        return Refused::refuse(bad_file(file, "not a text; a table of regions is CSV."));
    const char separator = csv::guess_separator(body);
    Cells cells;
    std::vector<long> lines;
    try {
        std::istringstream in(body);
        long line = 0;
        while (auto row = csv::read_row(in, line, separator)) {
            const bool empty = std::all_of(row->begin(), row->end(), [](const auto& c) { return trimmed(c).empty(); });
            if (empty || trimmed(row->front()).starts_with("#")) continue;
            cells.push_back(*row);
            lines.push_back(line);
            if (cells.size() > most_rows || row->size() > most_columns)
                return Refused::refuse(bad_file(file, "more than 200 lines or columns; a table of regions has fewer."));
        }
    } catch (const std::runtime_error& e) {
        return Refused::refuse(bad_file(file, e.what()));
    }
    while (cells.size() > 1 && !holds_numbers(cells[0], separator) && !holds_numbers(cells[1], separator)) {
        cells.erase(cells.begin()); // a title over the heading
        lines.erase(lines.begin());
    }
    if (cells.size() < 2)
        return Refused::refuse(bad_file(file, "no table; a heading and lines of numbers under it are needed."));

    Found found;
    const auto put = [&](const Said& a, const Said& b, const std::string& cell, long line,
                         const std::string& column) -> std::optional<Message> {
        const std::string region = !a.region.empty() ? a.region : b.region,
                          tissue = !a.tissue.empty() ? a.tissue : b.tissue;
        const bool visceral = tissue == "visceral";
        if ((region.empty() && !visceral) || tissue.empty() || trimmed(cell).empty()) return std::nullopt;
        const auto value = number_of(cell, separator);
        if (!value || *value < 0)
            return bad_file(file, "line " + std::to_string(line) + ", " + column + ": \"" + cell +
                                      "\" is no mass; allowed is a number of 0 and more.");
        std::string unit = !a.unit.empty() ? a.unit : b.unit;
        if (unit.empty())
            if (const auto at = learnt.find(unit_key); at != learnt.end()) unit = at->second == "unit:kg" ? "kg" : "g";
        found.unit_said = found.unit_said && !unit.empty();
        found.grams[visceral ? "android" : region][tissue] = *value * (unit == "kg" ? 1000 : 1);
        return std::nullopt;
    };
    const auto ask = [&](const std::string& cell) {
        const Said s = understand(cell, learnt);
        if (!s.known) found.unknown.insert(trimmed(cell));
        return s;
    };

    // regions and tissues in one heading, and one line of numbers
    int both = 0;
    for (const std::string& c : cells[0]) {
        const Said s = understand(c, learnt);
        both += !s.region.empty() && !s.tissue.empty();
    }
    if (both >= 6 && cells.size() == 2) {
        for (std::size_t c = 0; c < cells[0].size() && c < cells[1].size(); ++c) {
            const Said s = ask(cells[0][c]);
            if (auto wrong = put(s, {}, cells[1][c], lines[1], cells[0][c])) return Refused::refuse(*wrong);
        }
    } else {
        std::vector<std::string> first;
        for (const auto& row : cells) first.push_back(row.front());
        const bool regions_down = count(first, learnt, &Said::region) >= count(cells[0], learnt, &Said::region);
        const Cells t = regions_down ? cells : turned(cells);
        std::vector<Said> heads;
        for (std::size_t c = 0; c < t[0].size(); ++c) heads.push_back(c == 0 ? Said{} : ask(t[0][c]));
        for (std::size_t r = 1; r < t.size(); ++r) {
            const Said who = ask(t[r][0]);
            for (std::size_t c = 1; c < t[r].size() && c < heads.size(); ++c)
                if (auto wrong =
                        put(who, heads[c], t[r][c], lines[regions_down ? r : c], regions_down ? t[0][c] : t[r][0]))
                    return Refused::refuse(*wrong);
        }
    }

    RegionTable out;
    out.unknown.assign(found.unknown.begin(), found.unknown.end());
    if (!found.unit_said) out.unknown.push_back(unit_key);
    if (!out.unknown.empty()) return out;
    RegionMasses& masses = out.masses.emplace();
    std::map<std::string, Tissues> regions;
    bool with_head = false;
    for (const auto& [region, m] : found.grams) {
        if (region == "total") {
            masses.total = mass_of(m, 1);
        } else if (region == "arms" || region == "legs") {
            const std::string one = region.substr(0, 3);
            if (found.grams.count("right_" + one)) continue; // both ways are there
            masses.sides_told_apart = false;
            regions["right_" + one] = regions["left_" + one] = shared(m, 0.5);
        } else if (region == "trunk_with_head") {
            if (found.grams.count("trunk")) continue;
            with_head = true;
            regions["trunk"] = shared(m, 1);
        } else if (Tissues t = shared(m, 1); !t.empty()) {
            regions[region] = t;
        }
    }
    masses.trunk_has_head = with_head;
    if (const auto a = found.grams.find("android"); a != found.grams.end() && a->second.count("visceral"))
        masses.own_visceral_g = a->second.at("visceral");
    std::string missing;
    for (std::size_t i = 0; i < xray::part_count; ++i) {
        if (with_head && xray::region_rows[i].region == xray::Region::head) continue;
        for (const auto& [tissue, words] :
            {std::pair{"fat", "fat"}, {"lean", "lean soft tissue"}, {"bmc", "bone mineral"}})
            if (!regions[xray::region_rows[i].id].count(tissue))
                missing += (missing.empty() ? "" : ", ") + std::string(xray::region_rows[i].title) + ": " + words;
    }
    if (!missing.empty())
        return Refused::refuse({"region_missing", Level::error, "absorptiometry.regions",
            file + " lacks " + missing +
                ". Needed are fat, lean soft tissue and bone mineral of head, trunk, arms and "
                "legs."});
    for (const xray::RegionRow& row : xray::region_rows) {
        const auto at = regions.find(row.id);
        const bool whole = at != regions.end() && at->second.size() == 3;
        if (at == regions.end() || (!whole && xray::index(row.region) >= xray::part_count))
            continue; // bands: whole only
        if (at->second.empty()) continue;
        masses.regions[xray::index(row.region)] = mass_of(at->second, 1);
        masses.given[xray::index(row.region)] = true;
    }
    return out;
}

} // namespace fusain::bench
