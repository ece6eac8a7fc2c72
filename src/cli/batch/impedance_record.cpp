// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/files/profile_file.h"
#include "cli/batch/block.h"
#include "core/impedance/impedance.h"

namespace fusain::cli {
namespace {

constexpr std::string_view impedance_fields[] = {"segments", "whole_body", "equations", "profile", "expected_by"};
constexpr std::string_view segment_fields[] = {"right_arm", "left_arm", "trunk", "right_leg", "left_leg"};
constexpr std::string_view point_fields[] = {"f_khz", "r_ohm", "x_ohm"};
constexpr std::string_view equation_fields[] = {"fat_free_mass", "total_body_water", "skeletal_muscle", "water_spaces"};

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

void read_parts(Fields& read, const std::string& prefix, impedance::ProfileFields& out, Answer& answer,
    std::span<const std::string_view> numbers)
{
    const auto take = [&](Fields& from, const std::string& name, std::string_view number) {
        if (from.has(number)) out.numbers[name] = from.number(number);
    };
    for (const impedance::SegmentRow& s : impedance::segment_rows) {
        if (numbers.empty()) {
            take(read, prefix + s.id, s.id);
        } else if (read.has(s.id)) {
            if (const auto part = read.block(s.id)) {
                const std::string path = "impedance.profile." + prefix + s.id + '.';
                Fields inner(*part, path, numbers, answer);
                for (std::string_view n : numbers) take(inner, prefix + s.id + '.' + std::string(n), n);
            }
        }
    }
}

/// As it stands in a record, or in a file of its own.
std::shared_ptr<const impedance::Profile> read_profile(const simdjson::dom::object& block, Answer& answer)
{
    static constexpr std::string_view fields[] = {"kind", "id", "title", "segments", "rest_share_of_fat_free_mass",
        "rest_mass_share", "expected_share_of_fat_free_mass", "calibrated_on", "source"},
                                      part_fields[] = {"length_per_height", "a_kg", "b_kg_ohm_per_cm2", "u_kg",
                                          "mass_share"},
                                      sexes[] = {"male", "female"};
    impedance::ProfileFields out;
    Fields read(block, "impedance.profile.", fields, answer);
    for (const char* text : impedance::profile_texts) out.texts[text] = read.text(text, "");
    for (const char* number : {"rest_share_of_fat_free_mass", "rest_mass_share"})
        if (read.has(number)) out.numbers[number] = read.number(number);
    if (read.has("segments"))
        if (const auto segments = read.block("segments")) {
            Fields inner(*segments, "impedance.profile.segments.", segment_fields, answer);
            read_parts(inner, "segments.", out, answer, part_fields);
        }
    if (read.has("expected_share_of_fat_free_mass"))
        if (const auto by_sex = read.block("expected_share_of_fat_free_mass")) {
            Fields of(*by_sex, "impedance.profile.expected_share_of_fat_free_mass.", sexes, answer);
            for (std::string_view sex : sexes)
                if (of.has(sex))
                    if (const auto shares = of.block(sex)) {
                        const std::string prefix = "expected_share_of_fat_free_mass." + std::string(sex) + '.';
                        const std::string path = "impedance.profile." + prefix;
                        Fields inner(*shares, path, segment_fields, answer);
                        read_parts(inner, prefix, out, answer, {});
                    }
        }
    if (!answer.messages.empty()) return nullptr;
    const auto profile = impedance::profile_from(out, "impedance.profile.");
    if (profile) return std::make_shared<const impedance::Profile>(*profile);
    for (const Message& m : profile.messages()) answer.messages.push_back(m);
    return nullptr;
}

/// By the id of one that ships, or as an object.
std::shared_ptr<const impedance::Profile> profile_of(Fields& read, Answer& answer)
{
    std::string_view id;
    if (read.raw("profile")->get(id)) {
        const auto block = read.block("profile");
        return block ? read_profile(*block, answer) : nullptr;
    }
    if (auto shipped = bench::shipped_profile(id)) return shipped;
    answer.messages.push_back(error("unknown_choice", "impedance.profile",
        "impedance.profile is \"" + std::string(id) + "\"; allowed is one of " + bench::shipped_profile_ids() +
            ", or a profile as an object."));
    return nullptr;
}

Computed impedance_record(const Asked& asked, const simdjson::dom::object& block, Answer& answer, Detail detail)
{
    impedance::Input in;
    in.sex = asked.sex;
    in.age_y = asked.age_y;
    in.height_cm = asked.height_cm;
    in.mass_kg = asked.mass_kg;
    in.implant = asked.implant;
    if (in.age_y < impedance::youngest_y) in.equations = impedance::usual_choice(in.age_y);
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
    static constexpr std::string_view schools[] = {"height", "mass"};
    if (read.has("expected_by"))
        in.expected_by =
            read.choice("expected_by", schools) == 1 ? impedance::ExpectedBy::mass : impedance::ExpectedBy::height;
    if (read.has("profile")) in.profile = profile_of(read, answer);
    return computed(answer, [&] { return impedance::compute(in, detail); });
}

} // namespace

RecordBlock analyser_block() { return {"impedance", impedance_record}; }

} // namespace fusain::cli
