// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/printout/typed.h"

#include "core/printout/text.h"
#include "core/printout/unit.h"

#include <algorithm>
#include <cctype>
#include <charconv>
#include <cmath>
#include <map>

namespace fusain::printout {
namespace {

struct Number {
    double value = 0;
    int decimals = 0;
    std::string text, rest; ///< rest: what follows it
};

std::string trimmed(std::string_view s)
{
    const auto from = s.find_first_not_of(" \t"), to = s.find_last_not_of(" \t");
    return from == std::string_view::npos ? std::string() : std::string(s.substr(from, to - from + 1));
}

/// A number at the beginning of a text, with at most one decimal mark.
std::optional<Number> number_at(const std::string& text)
{
    std::size_t i = 0;
    std::string digits;
    if (text.substr(0, 3) == "\u2212") digits = "-", i = 3;
    if (i < text.size() && (text[i] == '-' || text[i] == '+')) digits = text[i++] == '-' ? "-" : "";
    const std::size_t sign = digits.size();
    int decimals = -1;
    for (; i < text.size(); ++i) {
        if (std::isdigit(static_cast<unsigned char>(text[i]))) {
            digits += text[i];
            if (decimals >= 0) ++decimals;
        } else if ((text[i] == '.' || text[i] == ',') && decimals < 0) {
            digits += '.';
            decimals = 0;
        } else {
            break;
        }
    }
    Number out;
    const char *from = digits.data(), *end = from + digits.size();
    if (digits.size() == sign || decimals == 0 || digits[sign] == '.' ||
        std::from_chars(from, end, out.value).ptr != end)
        return std::nullopt;
    out.decimals = std::max(0, decimals);
    out.text = trimmed(text.substr(0, i));
    out.rest = trimmed(text.substr(i));
    return out;
}

/// `11 st 4 lb`, in the field's unit.
std::optional<Number> stones(const Field& field, const Number& first)
{
    std::string rest = lower(first.rest);
    if (rest.substr(0, 2) != "st") return std::nullopt;
    const auto pounds = number_at(trimmed(std::string_view(rest).substr(2)));
    if (!pounds || !(pounds->rest.empty() || pounds->rest == "lb" || pounds->rest == "lbs")) return std::nullopt;
    const auto value = converted(14 * first.value + pounds->value, "lb", field.unit.empty() ? "kg" : field.unit);
    if (!value) return std::nullopt;
    return Number{*value, field.unit == "st" ? std::max(field.decimals, 2) : pounds->decimals,
        first.text + " st " + pounds->text + " lb", ""};
}

std::string asked(const Field& f) { return "“" + f.label + "” "; }

/// What a name is known by: any of the words, with a unit of one of the kinds (none is printed: as well).
struct Known {
    std::initializer_list<const char*> words;
    std::initializer_list<UnitKind> kinds;
    const char* quantity;
};
using K = UnitKind;
const Known known_names[] = {
    {{"fatfree", "leanbodymass", "leanmass", "ffm"}, {K::mass}, "fat_free_mass_kg"},
    {{"visceral"}, {K::mass}, "visceral_fat_kg"},
    {{"fat"}, {K::percent}, "fat_percent"},
    {{"percentfat", "percentbodyfat", "bodyfatpercent", "fatpercent"}, {K::percent}, "fat_percent"},
    {{"fat"}, {K::mass}, "fat_mass_kg"},
    {{"extracellularwaterratio", "ecwratio", "ecwtbw", "shareoutside"}, {K::percent}, "ecw_ratio"},
    {{"extracellular", "ecw"}, {K::volume, K::mass}, "extracellular_water_l"},
    {{"intracellular", "icw"}, {K::volume, K::mass}, "intracellular_water_l"},
    {{"bodywater", "tbw", "water"}, {K::volume, K::mass}, "total_body_water_l"},
    {{"bonemineral", "bmc"}, {K::mass}, "bone_mineral_content_kg"},
    {{"leansoft"}, {K::mass}, "lean_soft_tissue_kg"},
    {{"muscle"}, {K::mass}, "skeletal_muscle_kg"},
    {{"protein"}, {K::mass}, "protein_kg"},
    {{"mineral"}, {K::mass}, "mineral_kg"},
    {{"bodymassindex", "bmi"}, {K::index}, "bmi_kg_per_m2"},
    {{"phase"}, {K::angle}, "phase_angle_deg"},
    {{"reactance"}, {K::impedance}, "reactance_50khz_ohm"},
    {{"resistance"}, {K::impedance}, "resistance_50khz_ohm"},
    {{"resting", "basal", "metabolic"}, {K::energy}, "resting_kcal"},
    {{"density"}, {K::density}, "body_density_kg_per_l"},
    {{"thoracicgas"}, {K::volume}, "thoracic_gas_volume_l"},
    {{"residual"}, {K::volume}, "residual_volume_l"},
    {{"rawvolume"}, {K::volume}, "raw_volume_l"},
    {{"bodyvolume", "volume"}, {K::volume}, "body_volume_l"},
    {{"weight", "bodymass", "mass"}, {K::mass}, "mass_kg"},
};
const Known segment_names[] = {
    {{"fat"}, {K::percent}, "fat_percent"},
    {{"fat"}, {K::mass}, "fat_kg"},
    {{"bonemineral", "bmc"}, {K::mass}, "bone_mineral_content_kg"},
    {{"lean", "muscle", ""}, {K::mass}, "lean_kg"},
};

template <std::size_t n>
const char* quantity_in(const Known (&rows)[n], const std::string& name, const std::string& unit)
{
    const Unit* u = find_unit(unit);
    if (!unit.empty() && !u) return ""; // "points", "cm²"
    for (const char* mark : {"level", "score", "grade", "rating", "points", "area"})
        if (name.find(mark) != std::string::npos) return ""; // the instrument's own
    for (const Known& row : rows) {
        const bool named = std::any_of(
            row.words.begin(), row.words.end(), [&](const char* word) { return name.find(word) != std::string::npos; });
        if (named && (!u || std::count(row.kinds.begin(), row.kinds.end(), u->kind))) return row.quantity;
    }
    return "";
}

/// Words of the paper's that are no unit although they look like one.
bool is_unit(const std::string& word)
{
    return find_unit(word) || word == "cm²" || word == "cm2" || word == "kg/m²" || word == "points";
}

} // namespace

Outcome<std::optional<Value>> typed_value(const Field& f, const std::string& typed)
{
    using Out = Outcome<std::optional<Value>>;
    const std::string text = trimmed(typed);
    if (text.empty()) return std::optional<Value>();
    const auto refuse = [&](const char* code, const std::string& why) {
        return Out::refuse({code, Level::error, f.key, asked(f) + why});
    };
    auto n = number_at(text);
    if (!n) return refuse("not_a_number", "is \"" + text + "\"; allowed is a number, such as 23.4.");
    if (!n->rest.empty() && lower(n->rest) != lower(f.unit)) {
        if (const auto mass = stones(f, *n)) {
            n = *mass;
        } else if (const auto value = converted(n->value, n->rest, f.unit)) {
            n->text += ' ' + n->rest;
            // its rounding, in the field's unit
            if (n->value != 0)
                n->decimals =
                    std::max(0, static_cast<int>(std::lround(n->decimals - std::log10(std::abs(*value / n->value)))));
            n->value = *value;
        } else {
            return refuse("unit", "is \"" + text + "\"; allowed is a number" +
                                      (f.unit.empty() ? "." : " in " + f.unit + ", or with a unit of that kind."));
        }
    } else if (f.decimals >= 0 && n->decimals > f.decimals) {
        return refuse("decimals", "is \"" + text + "\", with " + std::to_string(n->decimals) +
                                      " decimals; the layout has " + std::to_string(f.decimals) + '.');
    }
    Value v;
    v.key = f.key;
    v.quantity = f.quantity;
    v.segment = f.segment;
    v.unit = f.unit;
    v.text = n->text;
    v.value = n->value;
    v.decimals = n->decimals;
    return std::optional<Value>(std::move(v));
}

Outcome<std::optional<std::pair<double, double>>> typed_limits(const Field& f, const std::string& typed)
{
    using Pair = std::optional<std::pair<double, double>>;
    const std::string text = trimmed(typed);
    if (text.empty()) return Pair();
    const auto low = number_at(text);
    std::string rest = low ? low->rest : "";
    for (const char* dash : {"\u2013", "\u2212", "-", "to", "/"})
        if (rest.rfind(dash, 0) == 0) {
            rest = trimmed(std::string_view(rest).substr(std::string_view(dash).size()));
            break;
        }
    const auto high = number_at(rest);
    if (low && high && high->rest.empty() && low->value < high->value) return Pair({low->value, high->value});
    return Outcome<Pair>::refuse({"limits", Level::error, f.key,
        asked(f) + "has the limits \"" + text + "\"; allowed are two numbers, the lower first: 50.4 - 68.2."});
}

Field named(const std::string& words)
{
    Field f;
    std::string name = trimmed(words);
    const auto open = name.rfind('('), close = name.rfind(')');
    if (open != std::string::npos && close == name.size() - 1 &&
        is_unit(trimmed(name.substr(open + 1, close - open - 1)))) {
        f.unit = trimmed(name.substr(open + 1, close - open - 1));
        name = trimmed(name.substr(0, open));
    } else if (const auto space = name.find_last_of(" ,");
               space != std::string::npos && is_unit(name.substr(space + 1))) {
        f.unit = name.substr(space + 1);
        name = trimmed(name.substr(0, space));
    }
    while (!name.empty() && (name.back() == ',' || name.back() == ':')) name.pop_back();
    f.label = trimmed(name);
    const std::string all = squashed(f.label);
    for (const char* segment : segments) {
        std::string body_part(segment);
        std::erase(body_part, '_');
        if (all.find(body_part) != std::string::npos) f.segment = segment;
    }
    f.quantity = f.segment.empty() ? quantity_in(known_names, all, f.unit) : quantity_in(segment_names, all, f.unit);
    complete(f);
    return f;
}

std::string identifies(const std::string& label)
{
    static const std::pair<const char*, std::vector<const char*>> names[] = {
        {"number", {"id", "number", "no", "client", "client number", "client no", "person no", "person", "patient id",
                       "member", "visitor", "subject"}},
        {"age_y", {"age", "years"}}, {"height_cm", {"height", "stature", "body height", "tall"}},
        {"sex", {"sex", "gender"}},
        {"at", {"date", "tested on", "test date", "date of test", "time of test", "measured", "measured on", "when"}}};
    std::string plain = lower(trimmed(label));
    while (!plain.empty() && (plain.back() == '.' || plain.back() == ':')) plain.pop_back();
    for (const auto& [id, words] : names)
        if (std::find(words.begin(), words.end(), plain) != words.end()) return id;
    return {};
}

void complete(Field& f)
{
    const Quantity* q = f.quantity.empty() ? nullptr : said_quantity(f.quantity);
    if (q && f.unit.empty()) f.unit = q->unit;
    f.key = f.quantity.empty() ? id_from(f.label) : f.quantity;
    if (!f.segment.empty()) f.key = f.segment + '_' + f.key;
}

void number_keys(Layout& layout)
{
    std::map<std::string, int> seen;
    for (Field& f : layout.fields) {
        if (f.key.empty()) f.key = "field";
        if (const int n = ++seen[f.key]; n > 1) f.key += '_' + std::to_string(n);
    }
}

std::string id_from(const std::string& title)
{
    std::string out;
    for (const char c : lower(title)) {
        const bool kept = std::isalnum(static_cast<unsigned char>(c));
        if (kept)
            out += c;
        else if (!out.empty() && out.back() != '_')
            out += '_';
    }
    while (!out.empty() && out.back() == '_') out.pop_back();
    return out.empty() ? "layout" : out;
}

} // namespace fusain::printout
