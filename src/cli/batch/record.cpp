// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/batch/record.h"

#include "cli/batch/fields.h"

#include "core/density/displacement.h"
#include "core/density/hydrostatic.h"
#include "version.h"

namespace fusain::cli {
namespace {

constexpr std::string_view methods[] = {"hydrostatic", "air_displacement", "impedance", "absorptiometry",
    "multi_compartment", "energy", "plan", "precision", "callipers_and_tape"};
constexpr std::string_view record_fields[] = {"id", "method", "sex", "age_y", "height_cm", "mass_kg", "conversion",
    "implant", "pregnant", "kidney_disease", "eating_disorder", "hydrostatic", "air_displacement", "impedance",
    "absorptiometry", "multi_compartment", "energy", "plan", "precision", "callipers_and_tape"};
constexpr std::string_view hydrostatic_fields[] = {
    "trials_kg", "trial_rule", "water_temp_c", "salinity_g_per_l", "lung", "gut_gas_l"};
constexpr std::string_view displacement_fields[] = {"raw_volumes_l", "lung"};
constexpr std::string_view gas_fields[] = {"source", "thoracic_gas_volume_l", "equation"};
constexpr std::string_view lung_fields[] = {
    "source", "residual_volume_l", "vital_capacity_l", "conditions", "gas_temp_c", "barometric_mmhg", "equation"};
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
    return computed(answer, [&] { return hydrostatic::compute(in, detail); });
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
    return computed(answer, [&] { return displacement::compute(in, detail); });
}

/// What a record must say of the person.
enum class Who { whole, mass_by_its_parts, nobody };

/// A method that can be computed: its block, and where the readings that count are named.
struct Method {
    const char* id;
    Computed (*compute)(const Asked&, const simdjson::dom::object& block, Answer& answer, Detail detail);
    const char* used;
    bool used_in_results;
    Who who = Who::whole;
};
constexpr Method computable[] = {
    {"hydrostatic", hydrostatic_record, "trials_used", false},
    {"air_displacement", displacement_record, "runs_used", true},
    {"impedance", impedance_record, "", false},
    {"absorptiometry", absorptiometry_record, "", false},
    {"multi_compartment", compartments_record, "", false},
    {"energy", energy_record, "", false, Who::mass_by_its_parts},
    {"plan", plan_record, "", false, Who::mass_by_its_parts},
    {"precision", precision_record, "", false, Who::nobody},
    {"callipers_and_tape", callipers_record, "", false},
};

/// They count at the top and in the method's block.
void read_safety_words(
    Fields& top, const std::optional<simdjson::dom::object>& block, const Method& method, Asked& person, Answer& answer)
{
    const bool is_advice = method.who == Who::mass_by_its_parts; // energy and plan
    for (std::string_view word : safety_words) {
        bool& holds = word == "implant"          ? person.implant
                      : word == "pregnant"       ? person.facts.pregnant
                      : word == "kidney_disease" ? person.facts.kidney_disease
                                                 : person.facts.eating_disorder;
        const bool counts = is_advice || word == "implant" || word == "pregnant";
        holds = top.flag(word);
        if (!counts && top.has(word)) answer.messages.push_back(misplaced(std::string(word)));
        if (!block) continue;
        bool given = false;
        for (const auto [name, value] : *block) {
            if (name != word) continue;
            const std::string field = std::string(method.id) + '.' + std::string(word);
            bool inner = false;
            if (given)
                answer.messages.push_back(error("field_twice", field, "The field " + field + " is given twice."));
            else if (!counts)
                answer.messages.push_back(misplaced(field));
            else if (!value.is_null() && value.get(inner))
                answer.messages.push_back(
                    error("not_a_flag", field, field + " is " + shown(value) + "; true or false is needed."));
            given = true;
            holds = holds || inner;
        }
    }
}

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
        if (method != other && read.raw(other)) {
            answer.extra.emplace_back(other, json_of(*read.raw(other)));
            find_misplaced(*read.raw(other), std::string(other), answer.messages);
        }
    const auto* row =
        std::find_if(std::begin(computable), std::end(computable), [&](const Method& m) { return method == m.id; });
    if (row == std::end(computable)) return; // choice() has said what is wrong
    Asked person;
    const auto block = read.block(row->id);
    read_safety_words(read, block, *row, person, answer);
    if (row->who != Who::nobody) {
        person.sex = static_cast<Sex>(read.choice("sex", sexes));
        person.age_y = read.number("age_y");
        person.height_cm = read.number("height_cm");
        person.mass_kg =
            row->who == Who::whole ? read.number("mass_kg") : read.number("mass_kg", std::optional<double>(NAN));
    }
    person.conversion = read.text("conversion", density::default_id);
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
