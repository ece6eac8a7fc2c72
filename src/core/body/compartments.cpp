// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/body/compartments.h"

#include "core/base/limits.h"
#include "core/body/balance.h"
#include "core/body/possible.h"
#include "core/quality/judgement.h"

namespace fusain::compartments {
namespace {

constexpr double mineral_of_bone = 1.0436, all_mineral = 1.2741; ///< of bone mineral content
/// What is still assumed, % fat: everybody's share of water (it spreads by 3 % of fat-free mass), of mineral, of
/// neither
constexpr double water_assumed = 4.7, mineral_assumed = 1.0, little_assumed = 0.8;

/// %F/100 = c1/D + c2·W/M + c3·m + c4, as fat mass: c1·V + c2·W + c3·1.2741·BMC + c4·M.
constexpr Equation rows[] = {
    {"siri_3c_water", "Siri 1961, with water", "Siri 1961, in: Techniques for measuring body composition",
        "that everybody's fat-free mass holds the same share of water", true, false, 2.118, -0.780, 0, -1.354,
        mineral_assumed},
    {"lohman_3c_mineral", "Lohman 1986, with mineral", "Exerc Sport Sci Rev 14:325–357",
        "that everybody's fat-free mass holds the same share of mineral", false, true, 6.386, 0, 3.961 * all_mineral,
        -6.090, water_assumed},
    {"selinger_1977", "Selinger 1977", "thesis, University of California, Berkeley",
        "both shares, of water and of mineral", true, true, 2.747, -0.714, 1.146 * all_mineral, -2.0503,
        little_assumed},
    {"fuller_1992", "Fuller 1992", "Clin Sci 82:687–693", "both shares, of water and of mineral", true, true, 2.747,
        -0.710, 1.460, -2.050, little_assumed},
    {"withers_1998", "Withers 1998", "J Appl Physiol 85:238–245", "both shares, of water and of mineral", true, true,
        2.513, -0.739, 0.947 * mineral_of_bone, -1.790, little_assumed},
    {"wang_2002", "Wang 2002", "Am J Clin Nutr 76:968–974", "both shares, of water and of mineral", true, true, 2.748,
        -0.699, 1.129 * mineral_of_bone, -2.051, little_assumed},
};

enum Slot : std::size_t { mass, volume, water, bone, height, model };

Messages check(const Input& in, const Equation* e)
{
    Messages bad;
    const auto held = [&](const char* field, double value) {
        if (auto m = limits::check(field, value)) bad.push_back(*m);
    };
    held("age_y", in.age_y);
    held("height_cm", in.height_cm);
    held("mass_kg", in.mass_kg);
    held("multi_compartment.body_volume_l", in.volume_l);
    if (!e) {
        std::string allowed;
        for (const Equation& row : rows) allowed += (allowed.empty() ? "" : ", ") + std::string(row.id);
        bad.push_back({"unknown_choice", Level::error, "multi_compartment.equation",
            "multi_compartment.equation is \"" + in.equation + "\"; allowed is one of " + allowed + "."});
    }
    const auto optional = [&](const char* field, const std::optional<double>& value, bool needed, const char* words) {
        if (value)
            held(field, *value);
        else if (needed)
            bad.push_back({"missing_field", Level::error, field,
                std::string("Field ") + field + " is missing; " + e->title + " takes " + words + "."});
    };
    optional("multi_compartment.total_body_water_kg", in.water_kg, e && e->needs_water, "total body water");
    optional("multi_compartment.bone_mineral_content_kg", in.bone_kg, e && e->needs_bone, "bone mineral content");
    return bad;
}

const std::vector<const Quantity*>& places()
{
    using namespace quantity;
    static const std::vector<const Quantity*> all = {&fat_percent, &fat_mass, &fat_free_mass, &bmi, &ffmi, &fmi};
    return all;
}

template <class T>
std::vector<T> chain(const Equation& e, const std::vector<T>& x)
{
    const T fat = T(e.volume) * x[volume] + T(e.water) * x[water] + T(e.bone) * x[bone] + T(e.mass) * x[mass] +
                  x[model] * x[mass] / T(100.0);
    const T lean = x[mass] - fat, m2 = x[height] * x[height] / T(1e4);
    return {T(100.0) * fat / x[mass], fat, lean, x[mass] / m2, lean / m2, fat / m2};
}

} // namespace

std::span<const Equation> equations() { return rows; }

const Equation* find(std::string_view id)
{
    for (const Equation& e : rows)
        if (id == e.id) return &e;
    return nullptr;
}

Outcome<Result> compute(const Input& in, Detail detail)
{
    const Equation* e = find(in.equation);
    if (Messages bad = check(in, e); !bad.empty()) return Outcome<Result>::refuse(std::move(bad));
    const InputErrors& u = in.errors;
    const double bone_kg = in.bone_kg.value_or(0);
    const std::vector<uncertainty::Input> x = {{"M", "body mass", "kg", in.mass_kg, u.mass_kg},
        {"V", "body volume", "L", in.volume_l, u.volume_l},
        {"TBW", "total body water", "kg", in.water_kg.value_or(0), e->needs_water ? u.water_kg : 0},
        {"BMC", "bone mineral", "kg", bone_kg, e->needs_bone ? u.bone_share * bone_kg : 0},
        {"H", "height", "cm", in.height_cm, u.height_cm},
        {"δE", "what the equation assumes", "%", 0, e->model_percent, true}};
    Result r;
    propagate(
        r, [&](const auto& inputs) { return chain(*e, inputs); }, places(), x, detail);
    if (auto why = possible::not_a_body(r, in.water_kg)) return Outcome<Result>::refuse(std::move(*why));
    balance::add(r, in.sex, in.age_y);
    Messages messages = judgement::judge_composition(
        in.sex, in.age_y, r[quantity::fat_percent].value, r[quantity::ffmi].value, r[quantity::fmi].value);
    if (detail == Detail::whole) {
        using Kind = StoryStep::Kind;
        const auto add = [&](Kind kind, const char* symbol, const char* title, double value, const char* unit,
                             int decimals, double sd, std::string from) {
            r.story.push_back({kind, symbol, title, value, unit, decimals, sd, std::move(from)});
        };
        add(Kind::input, "M", "Body mass", in.mass_kg, "kg", 2, u.mass_kg, "scale");
        add(Kind::input, "V", "Body volume", in.volume_l, "L", 3, u.volume_l, "a density method of the day");
        if (in.water_kg) add(Kind::input, "TBW", "Total body water", *in.water_kg, "kg", 2, u.water_kg, "the same day");
        if (in.bone_kg)
            add(Kind::input, "BMC", "Bone mineral content", bone_kg, "kg", 3, u.bone_share * bone_kg, "the same day");
        add(Kind::result, "FM", "Fat mass", r[quantity::fat_mass].value, "kg", 2, r[quantity::fat_mass].u, e->source);
        add(Kind::result, "%F", "Percent fat", r[quantity::fat_percent].value, "%", 1, r[quantity::fat_percent].u,
            "100·FM/M");
    }
    return {std::move(r), std::move(messages)};
}

} // namespace fusain::compartments
