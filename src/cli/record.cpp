// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/record.h"

#include "core/displacement.h"
#include "core/hydrostatic.h"
#include "core/limits.h"
#include "version.h"

#include <algorithm>
#include <cmath>
#include <set>

namespace fusain::cli {
namespace {

constexpr const char* methods[] = {"hydrostatic", "air_displacement", "impedance", "absorptiometry", "multi_compartment"};
constexpr const char* common_fields[] = {"id", "method", "sex", "age_y", "height_cm", "mass_kg", "conversion", "implant", "pregnant"};
constexpr const char* hydrostatic_fields[] = {"trials_kg", "trial_rule", "water_temp_c", "salinity_g_per_l", "lung", "gut_gas_l"};
constexpr const char* displacement_fields[] = {"raw_volumes_l", "lung"};
constexpr const char* gas_fields[] = {"source", "thoracic_gas_volume_l", "equation"};
constexpr const char* lung_fields[] = {"source", "residual_volume_l", "vital_capacity_l", "conditions", "gas_temp_c", "barometric_mmhg", "equation"};

Message error(std::string code, std::string field, std::string text)
{
    return {std::move(code), Level::error, std::move(field), std::move(text)};
}

/// Letters to change, add or drop to make one word of the other.
std::size_t edits(const std::string& a, const std::string& b)
{
    std::vector<std::size_t> row(b.size() + 1);
    for (std::size_t j = 0; j <= b.size(); ++j) row[j] = j;
    for (std::size_t i = 1; i <= a.size(); ++i) {
        std::size_t diagonal = row[0];
        row[0] = i;
        for (std::size_t j = 1; j <= b.size(); ++j) {
            const std::size_t keep = row[j];
            row[j] = std::min({row[j] + 1, row[j - 1] + 1, diagonal + (a[i - 1] != b[j - 1])});
            diagonal = keep;
        }
    }
    return row[b.size()];
}

/// Reads typed fields out of one JSON object and remembers what was wrong.
class Reader {
public:
    Reader(const Json& object, std::string path, Messages& bad) : object_(object), path_(std::move(path)), bad_(bad) {}

    std::string field(const std::string& name) const { return path_ + name; }

    double number(const char* name, std::optional<double> otherwise = std::nullopt)
    {
        if (!has(name)) {
            if (otherwise) return *otherwise;
            missing(name);
            return NAN;
        }
        return as_number(object_[name], name);
    }

    std::vector<double> numbers(const char* name)
    {
        std::vector<double> out;
        if (!has(name)) {
            missing(name);
            return out;
        }
        const Json& list = object_[name];
        if (!list.is_array()) {
            bad_.push_back(error("not_a_list", field(name), field(name) + " is " + list.dump() + "; a list of numbers is needed."));
            return out;
        }
        for (const Json& item : list) out.push_back(as_number(item, name));
        return out;
    }

    std::string text(const char* name, std::optional<std::string> otherwise = std::nullopt)
    {
        if (!has(name)) {
            if (otherwise) return *otherwise;
            missing(name);
            return {};
        }
        if (object_[name].is_string()) return object_[name].get<std::string>();
        bad_.push_back(error("not_a_text", field(name), field(name) + " is " + object_[name].dump() + "; a text is needed."));
        return {};
    }

    /// One of a list of words, as its position; the first when something is wrong.
    std::size_t choice(const char* name, std::initializer_list<const char*> allowed)
    {
        const std::string given = text(name);
        std::size_t i = 0;
        std::string list;
        for (const char* word : allowed) {
            if (given == word) return i;
            list += (i++ ? ", " : "") + std::string(word);
        }
        if (has(name) && object_[name].is_string())
            bad_.push_back(error("unknown_choice", field(name), field(name) + " is \"" + given + "\"; allowed is one of " + list + "."));
        return 0;
    }

    bool has(const char* name) const { return object_.contains(name) && !object_[name].is_null(); }

    /// Every other field: a near miss of a known name is an error, the rest is handed back as extra.
    template <class Known>
    void others(const Known& known, Json& extra)
    {
        for (const auto& [name, value] : object_.items()) {
            bool is_known = false;
            const char* meant = nullptr;
            for (const char* k : known) {
                is_known = is_known || name == k;
                const std::size_t length = std::string(k).size();
                if (name != k && edits(name, k) <= (length >= 8 ? 2 : length >= 4 ? 1 : 0)) meant = k;
            }
            if (is_known) continue;
            if (meant) bad_.push_back(error("misspelt_field", field(name), "Unknown field " + field(name) + "; did you mean " + field(meant) + "?"));
            else extra[field(name)] = value;
        }
    }

private:
    double as_number(const Json& value, const char* name)
    {
        if (value.is_number()) return value.get<double>();
        bad_.push_back(error("not_a_number", field(name), field(name) + " is " + value.dump() + "; a number is needed."));
        return NAN;
    }

    void missing(const char* name) { bad_.push_back(error("missing_field", field(name), "Field " + field(name) + " is missing.")); }

    const Json& object_;
    std::string path_;
    Messages& bad_;
};

const Json* object_at(const Json& parent, const char* name, const std::string& path, Messages& bad)
{
    if (!parent.contains(name)) bad.push_back(error("missing_field", path, "Block " + path + " is missing."));
    else if (!parent[name].is_object()) bad.push_back(error("not_a_block", path, path + " is " + parent[name].dump() + "; a block of fields is needed."));
    else return &parent[name];
    return nullptr;
}

hydrostatic::Lung read_lung(const Json& block, Messages& bad, Json& extra)
{
    using hydrostatic::LungRoute;
    hydrostatic::Lung lung;
    Reader read(block, "hydrostatic.lung.", bad);
    const std::size_t before = bad.size();
    lung.route = static_cast<LungRoute>(read.choice("source", {"measured", "vital_capacity", "age_height"}));
    if (bad.size() == before) {
        switch (lung.route) {
        case LungRoute::measured: lung.residual_volume_l = read.number("residual_volume_l"); break;
        case LungRoute::vital_capacity:
            lung.vital_capacity_l = read.number("vital_capacity_l");
            lung.body_conditions = read.choice("conditions", {"BTPS", "ATPS"}) == 0;
            if (!lung.body_conditions) {
                lung.gas_temp_c = read.number("gas_temp_c");
                lung.barometric_mmhg = read.number("barometric_mmhg");
            }
            break;
        case LungRoute::age_height: lung.equation = read.text("equation"); break;
        }
    }
    read.others(lung_fields, extra);
    return lung;
}

Outcome<densitometry::Result> hydrostatic_record(const densitometry::Person& person, const Json& block, Messages& bad, Json& extra)
{
    hydrostatic::Input in;
    static_cast<densitometry::Person&>(in) = person;
    Reader read(block, "hydrostatic.", bad);
    in.trials_kg = read.numbers("trials_kg");
    in.trial_rule = read.text("trial_rule", trials::default_id);
    in.water_temp_c = read.number("water_temp_c");
    in.salinity_g_per_l = read.number("salinity_g_per_l", 0);
    in.gut_gas_l = read.number("gut_gas_l", in.gut_gas_l);
    if (const Json* lung = object_at(block, "lung", "hydrostatic.lung", bad)) in.lung = read_lung(*lung, bad, extra);
    read.others(hydrostatic_fields, extra);
    return bad.empty() ? hydrostatic::compute(in) : Outcome<densitometry::Result>::refuse(bad);
}

Outcome<densitometry::Result> displacement_record(const densitometry::Person& person, const Json& block, Messages& bad, Json& extra)
{
    displacement::Input in;
    static_cast<densitometry::Person&>(in) = person;
    Reader read(block, "air_displacement.", bad);
    in.raw_volumes_l = read.numbers("raw_volumes_l");
    if (const Json* lung = object_at(block, "lung", "air_displacement.lung", bad)) {
        Reader inner(*lung, "air_displacement.lung.", bad);
        const std::size_t before = bad.size();
        in.lung.route = static_cast<displacement::LungRoute>(inner.choice("source", {"measured", "predicted"}));
        if (bad.size() == before) {
            if (in.lung.route == displacement::LungRoute::measured) in.lung.thoracic_gas_volume_l = inner.number("thoracic_gas_volume_l");
            else in.lung.equation = inner.text("equation", lung::default_gas_id);
        }
        inner.others(gas_fields, extra);
    }
    read.others(displacement_fields, extra);
    return bad.empty() ? displacement::compute(in) : Outcome<densitometry::Result>::refuse(bad);
}

/// A method that can be computed: its block, and the name of the list of readings that count.
struct Method {
    const char* id;
    Outcome<densitometry::Result> (*compute)(const densitometry::Person&, const Json& block, Messages& bad, Json& extra);
    const char* used;
};
constexpr Method computable[] = {
    {"hydrostatic", hydrostatic_record, "trials_used"},
    {"air_displacement", displacement_record, "runs_used"},
};

Json messages_json(const Messages& messages)
{
    constexpr const char* levels[] = {"caution", "repeat", "refused", "error"};
    Json out = Json::array();
    for (const Message& m : messages) {
        Json row = {{"code", m.code}, {"level", levels[static_cast<int>(m.level)]}};
        if (!m.field.empty()) row["field"] = m.field;
        row["text"] = m.text;
        out.push_back(row);
    }
    return out;
}

Json engine() { return {{"name", "fusain"}, {"version", FUSAIN_VERSION}}; }

Json result_json(const Json& record, const Messages& messages, const densitometry::Result* result, const char* used, const Json& extra)
{
    Json out;
    const bool object = record.is_object();
    out["id"] = object && record.contains("id") ? record["id"] : Json();
    out["method"] = object && record.contains("method") ? record["method"] : Json();
    out["status"] = status_word(messages);
    out["messages"] = messages_json(messages);
    out["results"] = Json::object();
    out["uncertainty"] = Json::object();
    if (result) {
        for (std::size_t k = 0; k < result->quantities.size(); ++k) {
            const char* name = result->quantities[k].id;
            out["results"][name] = result->value[k];
            if (result->u[k] > 0) out["uncertainty"][name] = result->u[k];
        }
        out["uncertainty"]["fat_percent_measurement"] = result->fat_u_measurement;
        out["uncertainty"]["fat_percent_conversion"] = result->fat_u_conversion;
        out[used] = result->used;
    }
    out["engine"] = engine();
    if (!extra.empty()) out["extra"] = extra;
    return out;
}

Json story_json(const Story& story)
{
    Json out = Json::array();
    for (const StoryStep& s : story) {
        Json row = {{"kind", word(s.kind)}, {"symbol", s.symbol}, {"title", s.title}, {"value", s.value}, {"unit", s.unit}};
        if (s.u > 0) row["u"] = s.u;
        row["source"] = s.source;
        out.push_back(row);
    }
    return out;
}

} // namespace

Json compute_record(const Json& record)
{
    Messages bad;
    Json extra = Json::object();
    if (!record.is_object()) return error_result(Json(), "not_a_record", "", "A record must be a JSON object.");

    Reader read(record, "", bad);
    std::vector<const char*> known(std::begin(common_fields), std::end(common_fields));
    known.insert(known.end(), std::begin(methods), std::end(methods));
    read.others(known, extra);
    const std::string method = record.contains("method") && record["method"].is_string() ? record["method"].get<std::string>() : "";
    read.choice("method", {"hydrostatic", "air_displacement", "impedance", "absorptiometry", "multi_compartment"});
    for (const char* other : methods)
        if (method != other && record.contains(other)) extra[other] = record[other];
    const auto* row = std::find_if(std::begin(computable), std::end(computable), [&](const Method& m) { return method == m.id; });
    if (row == std::end(computable)) {
        if (!method.empty() && bad.empty())
            bad.push_back(error("method_not_available", "method", "Method " + method + " cannot be computed by this version (" FUSAIN_VERSION "); hydrostatic and air_displacement can."));
        return result_json(record, bad, nullptr, "", extra);
    }
    densitometry::Person person;
    person.sex = static_cast<Sex>(read.choice("sex", {"female", "male"}));
    person.age_y = read.number("age_y");
    person.height_cm = read.number("height_cm");
    person.mass_kg = read.number("mass_kg");
    person.conversion = read.text("conversion", density::default_id);
    const Json* block = object_at(record, row->id, row->id, bad);
    if (!block) return result_json(record, bad, nullptr, "", extra);
    const auto outcome = row->compute(person, *block, bad, extra);
    Json out = result_json(record, outcome.messages(), outcome ? &*outcome : nullptr, row->used, extra);
    if (outcome) out["story"] = story_json(outcome->story);
    return out;
}

Json compute_line(const std::string& line, long line_number)
{
    std::vector<std::set<std::string>> seen;
    std::string twice;
    const auto watch = [&](int, Json::parse_event_t event, Json& parsed) {
        if (event == Json::parse_event_t::object_start) seen.emplace_back();
        else if (event == Json::parse_event_t::object_end) seen.pop_back();
        else if (event == Json::parse_event_t::key && !seen.back().insert(parsed.get<std::string>()).second) twice = parsed.get<std::string>();
        return true;
    };
    try {
        const Json record = Json::parse(line, watch);
        if (!twice.empty())
            return error_result(record.is_object() && record.contains("id") ? record["id"] : Json(), "field_twice", twice,
                                "Line " + std::to_string(line_number) + " gives the field " + twice + " twice.");
        return compute_record(record);
    } catch (const Json::exception& e) {
        return error_result(Json(), "not_json", "", "Line " + std::to_string(line_number) + " is not a JSON object: " + e.what());
    }
}

Json error_result(const Json& id, const std::string& code, const std::string& field, const std::string& text)
{
    Json out = result_json(Json::object(), {error(code, field, text)}, nullptr, "", Json::object());
    out["id"] = id;
    return out;
}

} // namespace fusain::cli
