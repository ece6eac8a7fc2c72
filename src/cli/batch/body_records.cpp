// SPDX-License-Identifier: GPL-3.0-or-later
// Records that measure nothing: what a body needs, what a plan takes, how repeats agree, compartments of one day, folds
// and girths.
#include "cli/batch/block.h"

#include "core/body/compartments.h"
#include "core/body/plan.h"
#include "core/folds/skinfolds.h"
#include "core/quality/precision.h"

namespace fusain::cli {
namespace {

constexpr double mass_apart_kg = 0.1;
constexpr std::string_view energy_fields[] = {"fat_mass_kg", "fat_free_mass_kg", "activity_level", "school"};
constexpr std::string_view plan_fields[] = {
    "fat_mass_kg", "fat_free_mass_kg", "activity_level", "school", "range", "target", "weeks", "lean"};
constexpr std::string_view target_fields[] = {"fat_percent", "mass_kg", "fat_mass_kg"};
constexpr std::string_view precision_fields[] = {"quantity", "repeats", "limit_percent"};
constexpr std::string_view compartment_fields[] = {
    "body_volume_l", "total_body_water_kg", "bone_mineral_content_kg", "equation"};
constexpr std::string_view calliper_fields[] = {"skinfolds_mm", "equation", "girths_cm"};
constexpr std::string_view fold_fields[] = {
    "chest", "midaxillary", "triceps", "subscapular", "abdomen", "suprailiac", "thigh"};
constexpr std::string_view girth_fields[] = {"neck", "chest", "waist", "hips", "right_upper_arm", "left_upper_arm",
    "right_thigh", "left_thigh", "right_calf", "left_calf"};

energy::Body body_of(const Asked& asked, Fields& read, const char* prefix, Answer& answer)
{
    energy::Body b{asked.sex, asked.age_y, asked.height_cm, 0, 0};
    const std::size_t before = answer.messages.size();
    b.fat_kg = read.number("fat_mass_kg");
    b.fat_free_kg = read.number("fat_free_mass_kg");
    if (answer.messages.size() == before && !std::isnan(asked.mass_kg) &&
        !(std::abs(asked.mass_kg - b.mass_kg()) <= mass_apart_kg + 1e-9))
        answer.messages.push_back(error("mass_mismatch", "mass_kg",
            "mass_kg is " + limits::plain(asked.mass_kg, 2) + " kg, " + prefix +
                ".fat_mass_kg and .fat_free_mass_kg make " + limits::plain(b.mass_kg(), 2) +
                " kg; they may be 0.1 kg apart."));
    return b;
}

std::map<std::string, double> numbers_of(
    const simdjson::dom::object& block, const std::string& path, Names names, Answer& answer)
{
    std::map<std::string, double> out;
    Fields read(block, path, names, answer);
    for (std::string_view name : names)
        if (read.has(name)) out[std::string(name)] = read.number(name);
    return out;
}

Computed energy_record(const Asked& asked, const simdjson::dom::object& block, Answer& answer, Detail)
{
    energy::Input in;
    Fields read(block, "energy.", energy_fields, answer);
    in.body = body_of(asked, read, "energy", answer);
    in.activity_level = read.number("activity_level");
    in.school = read.text("school", "");
    in.facts = asked.facts;
    return computed(answer, [&] { return energy::compute(in); });
}

Computed plan_record(const Asked& asked, const simdjson::dom::object& block, Answer& answer, Detail)
{
    plan::Input in;
    Fields read(block, "plan.", plan_fields, answer);
    in.body = body_of(asked, read, "plan", answer);
    in.activity_level = read.number("activity_level");
    in.school = read.text("school", "");
    in.facts = asked.facts;
    in.range = read.text("range", in.range);
    in.lean = read.text("lean", in.lean);
    if (const double weeks = read.number("weeks"); !std::isnan(weeks)) {
        if (weeks != std::floor(weeks) || std::abs(weeks) > 1e6)
            answer.messages.push_back(error("out_of_range", "plan.weeks",
                "plan.weeks is " + limits::plain(weeks) + "; whole weeks from 1 to 156 are needed."));
        else
            in.weeks = static_cast<int>(weeks);
    }
    if (const auto target = read.block("target")) {
        Fields aims(*target, "plan.target.", target_fields, answer);
        int given = 0;
        for (std::size_t i = 0; i < std::size(target_fields); ++i)
            if (aims.has(target_fields[i])) {
                ++given;
                in.aim = static_cast<plan::Aim>(i);
                in.target = aims.number(target_fields[i]);
            }
        if (given != 1)
            answer.messages.push_back(error("unknown_choice", "plan.target",
                "plan.target names " + std::to_string(given) +
                    " aims; exactly one of fat_percent, mass_kg, fat_mass_kg is needed."));
    }
    return computed(answer, [&] { return plan::compute(in); });
}

Computed precision_record(const Asked&, const simdjson::dom::object& block, Answer& answer, Detail)
{
    precision::Input in;
    Fields read(block, "precision.", precision_fields, answer);
    in.quantity = read.text("quantity");
    in.repeats = read.lists("repeats");
    if (read.has("limit_percent")) in.limit_percent = read.number("limit_percent");
    return computed(answer, [&] { return precision::compute(in); });
}

Computed compartments_record(const Asked& asked, const simdjson::dom::object& block, Answer& answer, Detail detail)
{
    compartments::Input in;
    in.sex = asked.sex;
    in.age_y = asked.age_y;
    in.height_cm = asked.height_cm;
    in.mass_kg = asked.mass_kg;
    Fields read(block, "multi_compartment.", compartment_fields, answer);
    in.volume_l = read.number("body_volume_l");
    if (read.has("total_body_water_kg")) in.water_kg = read.number("total_body_water_kg");
    if (read.has("bone_mineral_content_kg")) in.bone_kg = read.number("bone_mineral_content_kg");
    in.equation = read.text("equation", compartments::default_id);
    return computed(answer, [&] { return compartments::compute(in, detail); });
}

Computed callipers_record(const Asked& asked, const simdjson::dom::object& block, Answer& answer, Detail detail)
{
    skinfolds::Input in;
    static_cast<densitometry::Person&>(in) = asked;
    Fields read(block, "callipers_and_tape.", calliper_fields, answer);
    if (read.has("skinfolds_mm"))
        if (const auto folds = read.block("skinfolds_mm"))
            in.skinfolds_mm = numbers_of(*folds, "callipers_and_tape.skinfolds_mm.", fold_fields, answer);
    if (read.has("girths_cm"))
        if (const auto girths = read.block("girths_cm"))
            in.girths_cm = numbers_of(*girths, "callipers_and_tape.girths_cm.", girth_fields, answer);
    in.equation = read.text("equation", "");
    return computed(answer, [&] { return skinfolds::compute(in, detail); });
}

} // namespace

std::vector<RecordBlock> joined_blocks()
{
    return {{"multi_compartment", compartments_record}, {"energy", energy_record, "", false, Who::mass_by_its_parts},
        {"plan", plan_record, "", false, Who::mass_by_its_parts},
        {"precision", precision_record, "", false, Who::nobody}, {"callipers_and_tape", callipers_record}};
}

} // namespace fusain::cli
