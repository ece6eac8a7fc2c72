// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/batch/record.h"

#include "cli/batch/block.h"
#include "version.h"

namespace fusain::cli {
namespace {

/// Of the record itself: what is said of anybody, then the blocks.
const std::vector<std::string_view>& record_fields()
{
    static const std::vector<std::string_view> all = [] {
        std::vector<std::string_view> out = {"id", "method", "sex", "age_y", "height_cm", "mass_kg", "conversion",
            "implant", "pregnant", "kidney_disease", "eating_disorder"};
        out.insert(out.end(), block_names().begin(), block_names().end());
        return out;
    }();
    return all;
}

/// They count at the top and in the method's block.
void read_safety_words(Fields& top, const std::optional<simdjson::dom::object>& block, const RecordBlock& method,
    Asked& person, Answer& answer)
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
    Fields read(object, "", record_fields(), answer);
    if (read.raw("id")) answer.id = json_of(*read.raw("id"));
    if (read.raw("method")) answer.method = json_of(*read.raw("method"));
    std::string_view method;
    if (read.has("method") && read.raw("method")->get(method)) method = {}; // choice() says what is wrong
    read.choice("method", block_names());
    for (std::string_view other : block_names())
        if (method != other && read.raw(other)) {
            answer.extra.emplace_back(other, json_of(*read.raw(other)));
            find_misplaced(*read.raw(other), std::string(other), answer.messages);
        }
    const auto row =
        std::find_if(blocks().begin(), blocks().end(), [&](const RecordBlock& b) { return method == b.id; });
    if (row == blocks().end()) return; // choice() has said what is wrong
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
