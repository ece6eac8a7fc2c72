// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/batch/record.h"

#include "cli/text/utf8.h"

#include "core/density/displacement.h"
#include "core/density/hydrostatic.h"
#include "core/impedance/impedance.h"
#include "core/base/limits.h"
#include "version.h"

#include <simdjson.h>

#include <algorithm>
#include <array>
#include <cmath>

namespace fusain::cli {
namespace {

using Value = simdjson::dom::element;
using Names = std::span<const std::string_view>;

constexpr std::string_view methods[] = {
    "hydrostatic", "air_displacement", "impedance", "absorptiometry", "multi_compartment"};
constexpr std::string_view record_fields[] = {"id", "method", "sex", "age_y", "height_cm", "mass_kg", "conversion",
    "implant", "pregnant", "hydrostatic", "air_displacement", "impedance", "absorptiometry", "multi_compartment"};
constexpr std::string_view hydrostatic_fields[] = {
    "trials_kg", "trial_rule", "water_temp_c", "salinity_g_per_l", "lung", "gut_gas_l"};
constexpr std::string_view displacement_fields[] = {"raw_volumes_l", "lung"};
constexpr std::string_view impedance_fields[] = {"segments", "whole_body", "equations", "profile", "expected_by"};
constexpr std::string_view segment_fields[] = {"right_arm", "left_arm", "trunk", "right_leg", "left_leg"};
constexpr std::string_view point_fields[] = {"f_khz", "r_ohm", "x_ohm"};
constexpr std::string_view equation_fields[] = {"fat_free_mass", "total_body_water", "skeletal_muscle", "water_spaces"};
constexpr std::string_view gas_fields[] = {"source", "thoracic_gas_volume_l", "equation"};
constexpr std::string_view lung_fields[] = {
    "source", "residual_volume_l", "vital_capacity_l", "conditions", "gas_temp_c", "barometric_mmhg", "equation"};
constexpr std::size_t most_fields = 16;
constexpr std::size_t shown_value = 60; ///< of a value that is quoted in a message

Message error(std::string code, std::string field, std::string text)
{
    return {std::move(code), Level::error, std::move(field), std::move(text)};
}

/// Letters to change, add or drop to make one word of the other.
std::size_t edits(std::string_view a, std::string_view b)
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

/// The known name that an unknown one is a near miss of, if any.
std::string_view meant_by(std::string_view name, Names known)
{
    for (std::string_view k : known) {
        const std::size_t allowed = k.size() >= 8 ? 2 : k.size() >= 4 ? 1 : 0;
        if (name.size() <= k.size() + allowed && k.size() <= name.size() + allowed && edits(name, k) <= allowed)
            return k;
    }
    return {};
}

std::string json_of(const Value& value)
{
    std::string out;
    if (std::string_view text; !value.get(text))
        append_json(out, text);
    else if (double number = 0; value.is_double() && !value.get(number))
        append_json(out, number);
    else
        out = simdjson::minify(value);
    return out;
}

std::string shown(const Value& value) { return shown_text(json_of(value), shown_value); }

/// One JSON object against the names it may have: every field is looked at once.
class Fields {
public:
    Fields(const simdjson::dom::object& object, std::string_view path, Names known, Answer& answer)
        : path_(path), known_(known), bad_(answer.messages)
    {
        std::vector<std::string_view> others;
        for (const auto [name, value] : object) {
            const auto at = std::find(known.begin(), known.end(), name);
            if (at != known.end()) {
                auto& slot = slots_[static_cast<std::size_t>(at - known.begin())];
                if (slot) twice(name);
                slot = value;
                continue;
            }
            if (std::find(others.begin(), others.end(), name) != others.end()) twice(name);
            others.push_back(name);
            const std::string field = std::string(path_) + std::string(name);
            if (const auto meant = meant_by(name, known); !meant.empty())
                bad_.push_back(error("misspelt_field", field,
                    "Unknown field " + field + "; did you mean " + std::string(path_) + std::string(meant) + "?"));
            else
                answer.extra.emplace_back(field, json_of(value));
        }
    }

    const std::optional<Value>& raw(std::string_view name) const
    {
        return slots_[static_cast<std::size_t>(std::find(known_.begin(), known_.end(), name) - known_.begin())];
    }
    bool has(std::string_view name) const { return raw(name) && !raw(name)->is_null(); }

    double number(std::string_view name, std::optional<double> otherwise = std::nullopt)
    {
        if (has(name)) return as_number(*raw(name), name);
        if (!otherwise) missing(name);
        return otherwise.value_or(NAN);
    }

    std::vector<double> numbers(std::string_view name)
    {
        std::vector<double> out;
        simdjson::dom::array list;
        if (!has(name))
            missing(name);
        else if (raw(name)->get(list))
            bad_.push_back(error("not_a_list", field(name),
                field(name) + " is " + shown(*raw(name)) + "; a list of numbers is needed."));
        else
            for (const Value& item : list) out.push_back(as_number(item, name));
        return out;
    }

    std::string text(std::string_view name, std::optional<std::string_view> otherwise = std::nullopt)
    {
        std::string_view out = otherwise.value_or("");
        if (has(name)) {
            if (raw(name)->get(out))
                bad_.push_back(
                    error("not_a_text", field(name), field(name) + " is " + shown(*raw(name)) + "; a text is needed."));
        } else if (!otherwise) {
            missing(name);
        }
        return std::string(out);
    }

    bool flag(std::string_view name)
    {
        bool out = false;
        if (has(name) && raw(name)->get(out))
            bad_.push_back(error(
                "not_a_flag", field(name), field(name) + " is " + shown(*raw(name)) + "; true or false is needed."));
        return out;
    }

    /// A list of blocks, each handed on with its place.
    template <class Take>
    void blocks(std::string_view name, const Take& take)
    {
        simdjson::dom::array list;
        if (raw(name)->get(list)) {
            bad_.push_back(error(
                "not_a_list", field(name), field(name) + " is " + shown(*raw(name)) + "; a list of blocks is needed."));
            return;
        }
        for (const Value& item : list) {
            simdjson::dom::object inner;
            if (item.get(inner))
                bad_.push_back(error("not_a_block", field(name),
                    field(name) + " holds " + shown(item) + "; a block of fields is needed."));
            else
                take(inner, field(name) + '.');
        }
    }

    /// One of a list of words, as its position; the first when something is wrong.
    std::size_t choice(std::string_view name, Names allowed)
    {
        std::string_view given;
        if (!has(name)) {
            missing(name);
            return 0;
        }
        if (raw(name)->get(given)) {
            text(name); // says what is wrong
            return 0;
        }
        const auto at = std::find(allowed.begin(), allowed.end(), given);
        if (at != allowed.end()) return static_cast<std::size_t>(at - allowed.begin());
        std::string list;
        for (std::string_view word : allowed) list += (list.empty() ? "" : ", ") + std::string(word);
        bad_.push_back(error("unknown_choice", field(name),
            field(name) + " is \"" + std::string(given) + "\"; allowed is one of " + list + "."));
        return 0;
    }

    std::optional<simdjson::dom::object> block(std::string_view name)
    {
        simdjson::dom::object out;
        if (!raw(name))
            bad_.push_back(error("missing_field", field(name), "Block " + field(name) + " is missing."));
        else if (raw(name)->get(out))
            bad_.push_back(error("not_a_block", field(name),
                field(name) + " is " + shown(*raw(name)) + "; a block of fields is needed."));
        else
            return out;
        return std::nullopt;
    }

private:
    std::string field(std::string_view name) const { return std::string(path_) + std::string(name); }
    double as_number(const Value& value, std::string_view name)
    {
        double out = NAN;
        if (value.is_bool() || value.get(out))
            bad_.push_back(
                error("not_a_number", field(name), field(name) + " is " + shown(value) + "; a number is needed."));
        return out;
    }
    void missing(std::string_view name)
    {
        bad_.push_back(error("missing_field", field(name), "Field " + field(name) + " is missing."));
    }
    void twice(std::string_view name)
    {
        bad_.push_back(error("field_twice", std::string(path_) + std::string(name),
            "The field " + std::string(path_) + std::string(name) + " is given twice."));
    }

    std::string_view path_;
    Names known_;
    Messages& bad_;
    std::array<std::optional<Value>, most_fields> slots_{};
};

hydrostatic::Lung read_lung(const simdjson::dom::object& block, Answer& answer)
{
    using hydrostatic::LungRoute;
    static constexpr std::string_view sources[] = {"measured", "vital_capacity", "age_height"},
                                      conditions[] = {"BTPS", "ATPS"};
    hydrostatic::Lung lung;
    Fields read(block, "hydrostatic.lung.", lung_fields, answer);
    const std::size_t before = answer.messages.size();
    lung.route = static_cast<LungRoute>(read.choice("source", sources));
    if (answer.messages.size() != before) return lung;
    switch (lung.route) {
    case LungRoute::measured: lung.residual_volume_l = read.number("residual_volume_l"); break;
    case LungRoute::vital_capacity:
        lung.vital_capacity_l = read.number("vital_capacity_l");
        lung.body_conditions = read.choice("conditions", conditions) == 0;
        if (!lung.body_conditions) {
            lung.gas_temp_c = read.number("gas_temp_c");
            lung.barometric_mmhg = read.number("barometric_mmhg");
        }
        break;
    case LungRoute::age_height: lung.equation = read.text("equation"); break;
    }
    return lung;
}

using Computed = Outcome<Result>;

/// Who, and what forbids a method by itself.
struct Asked : densitometry::Person {
    bool implant = false;
};

Computed hydrostatic_record(const Asked& person, const simdjson::dom::object& block, Answer& answer, Detail detail)
{
    hydrostatic::Input in;
    static_cast<densitometry::Person&>(in) = person;
    Fields read(block, "hydrostatic.", hydrostatic_fields, answer);
    in.trials_kg = read.numbers("trials_kg");
    in.trial_rule = read.text("trial_rule", trials::default_id);
    in.water_temp_c = read.number("water_temp_c");
    in.salinity_g_per_l = read.number("salinity_g_per_l", 0);
    in.gut_gas_l = read.number("gut_gas_l", in.gut_gas_l);
    if (const auto lung = read.block("lung")) in.lung = read_lung(*lung, answer);
    return answer.messages.empty() ? hydrostatic::compute(in, detail) : Computed::refuse(answer.messages);
}

Computed displacement_record(const Asked& person, const simdjson::dom::object& block, Answer& answer, Detail detail)
{
    static constexpr std::string_view sources[] = {"measured", "predicted"};
    displacement::Input in;
    static_cast<densitometry::Person&>(in) = person;
    Fields read(block, "air_displacement.", displacement_fields, answer);
    in.raw_volumes_l = read.numbers("raw_volumes_l");
    if (const auto lung = read.block("lung")) {
        Fields inner(*lung, "air_displacement.lung.", gas_fields, answer);
        const std::size_t before = answer.messages.size();
        in.lung.route = static_cast<displacement::LungRoute>(inner.choice("source", sources));
        if (answer.messages.size() == before) {
            if (in.lung.route == displacement::LungRoute::measured)
                in.lung.thoracic_gas_volume_l = inner.number("thoracic_gas_volume_l");
            else
                in.lung.equation = inner.text("equation", lung::default_gas_id);
        }
    }
    return answer.messages.empty() ? displacement::compute(in, detail) : Computed::refuse(answer.messages);
}

std::vector<impedance::Point> read_points(Fields& read, std::string_view name, Answer& answer)
{
    std::vector<impedance::Point> out;
    if (!read.has(name)) return out;
    read.blocks(name, [&](const simdjson::dom::object& block, const std::string& path) {
        Fields point(block, path, point_fields, answer);
        out.push_back({point.number("f_khz"), point.number("r_ohm"), point.number("x_ohm")});
    });
    return out;
}

Computed impedance_record(const Asked& asked, const simdjson::dom::object& block, Answer& answer, Detail detail)
{
    impedance::Input in;
    in.sex = asked.sex;
    in.age_y = asked.age_y;
    in.height_cm = asked.height_cm;
    in.mass_kg = asked.mass_kg;
    in.implant = asked.implant;
    Fields read(block, "impedance.", impedance_fields, answer);
    in.whole_body = read_points(read, "whole_body", answer);
    if (read.has("segments"))
        if (const auto segments = read.block("segments")) {
            Fields inner(*segments, "impedance.segments.", segment_fields, answer);
            for (std::size_t i = 0; i < impedance::segment_count; ++i)
                in.segments[i] = read_points(inner, impedance::segment_rows[i].id, answer);
        }
    if (read.has("equations"))
        if (const auto chosen = read.block("equations")) {
            Fields inner(*chosen, "impedance.equations.", equation_fields, answer);
            for (const auto& [name, id] : {std::pair{"fat_free_mass", &in.equations.fat_free_mass},
                     {"total_body_water", &in.equations.total_body_water},
                     {"skeletal_muscle", &in.equations.skeletal_muscle}, {"water_spaces", &in.equations.water_spaces}})
                *id = inner.text(name, *id);
        }
    if (!answer.messages.empty()) return Computed::refuse(answer.messages);
    Computed out = impedance::compute(in, detail);
    if (!out || !read.has("profile")) return out;
    Messages messages = out.messages();
    messages.push_back({"segments_not_computed", Level::caution, "impedance.profile",
        "This version (" FUSAIN_VERSION ") does not compute segments from a profile; the whole body is given."});
    return {std::move(out).take(), std::move(messages)};
}

/// A method that can be computed: its block, and where the readings that count are named.
struct Method {
    const char* id;
    Computed (*compute)(const Asked&, const simdjson::dom::object& block, Answer& answer, Detail detail);
    const char* used;
    bool used_in_results;
};
constexpr Method computable[] = {
    {"hydrostatic", hydrostatic_record, "trials_used", false},
    {"air_displacement", displacement_record, "runs_used", true},
    {"impedance", impedance_record, "", false},
};

void compute_object(const simdjson::dom::object& object, Answer& answer, Detail detail)
{
    static constexpr std::string_view sexes[] = {"female", "male"};
    Fields read(object, "", record_fields, answer);
    if (read.raw("id")) answer.id = json_of(*read.raw("id"));
    if (read.raw("method")) answer.method = json_of(*read.raw("method"));
    std::string_view method;
    if (read.has("method") && read.raw("method")->get(method)) method = {}; // choice() says what is wrong
    read.choice("method", methods);
    for (std::string_view other : methods)
        if (method != other && read.raw(other)) answer.extra.emplace_back(other, json_of(*read.raw(other)));
    const auto* row =
        std::find_if(std::begin(computable), std::end(computable), [&](const Method& m) { return method == m.id; });
    if (row == std::end(computable)) {
        if (!method.empty() && answer.messages.empty())
            answer.messages.push_back(error("method_not_available", "method",
                "Method " + std::string(method) +
                    " cannot be computed by this version (" FUSAIN_VERSION
                    "); hydrostatic, air_displacement and impedance can."));
        return;
    }
    Asked person;
    person.implant = read.flag("implant");
    person.sex = static_cast<Sex>(read.choice("sex", sexes));
    person.age_y = read.number("age_y");
    person.height_cm = read.number("height_cm");
    person.mass_kg = read.number("mass_kg");
    person.conversion = read.text("conversion", density::default_id);
    const auto block = read.block(row->id);
    if (!block) return;
    Computed outcome = row->compute(person, *block, answer, detail);
    answer.messages = outcome.messages();
    answer.used = row->used;
    answer.used_in_results = row->used_in_results;
    if (outcome) answer.result = std::move(outcome).take();
}

} // namespace

struct Computer::Work {
    simdjson::dom::parser parser;
    Answer answer;
};

Computer::Computer(Detail detail) : work_(std::make_unique<Work>()), detail_(detail) {}
Computer::~Computer() = default;

const Answer& Computer::compute(std::string_view json, long line_number)
{
    Answer& answer = work_->answer;
    answer = Answer();
    const std::string line = "Line " + std::to_string(line_number);
    Value value;
    simdjson::dom::object object;
    if (const auto wrong = work_->parser.parse(json.data(), json.size()).get(value)) {
        if (wrong == simdjson::UTF8_ERROR)
            answer.messages.push_back(error("not_utf8", "",
                line + " is not UTF-8 from byte " + std::to_string(first_bad_byte(json)) +
                    " on. Save the file as UTF-8."));
        else
            answer.messages.push_back(
                error("not_json", "", line + " is not a JSON object: " + simdjson::error_message(wrong)));
    } else if (value.get(object)) {
        answer.messages.push_back(error("not_a_record", "", line + ": a record must be a JSON object."));
    } else {
        compute_object(object, answer, detail_);
    }
    return answer;
}

Answer error_answer(std::string code, std::string text)
{
    Answer answer;
    answer.messages.push_back(error(std::move(code), "", std::move(text)));
    return answer;
}

} // namespace fusain::cli
