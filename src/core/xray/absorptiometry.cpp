// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/xray/absorptiometry.h"

#include "core/base/limits.h"
#include "core/body/balance.h"
#include "core/body/possible.h"
#include "core/quality/judgement.h"

#include <algorithm>
#include <cmath>
#include <tuple>

namespace fusain::xray {
namespace {

constexpr double reference_kg = 75;  ///< the body that the default errors are of
constexpr double sum_share = 0.005;  ///< regions and total are rounded, no more. This lab's rule
constexpr double apart_share = 0.03; ///< table and scale; over it something was not scanned. This lab's rule

constexpr double part_slack_g = 20; ///< by which a part may pass its whole: rounding
/// Where the bands lie, in heights of the android band (lines.h): from neck to fork about six, legs about eight
constexpr double band_of_height = 0.055, trunk_heights = 6, gynoid_heights = 2;

enum Slot : std::size_t {
    height,
    partition,
    bone,
    right_arm,
    left_arm,
    right_leg,
    left_leg,
    neck,
    tables,
    photons,
    band_line,
    half
};

std::string path_of(std::size_t region) { return std::string("absorptiometry.regions.") + region_rows[region].id; }

bool has_bands(const Input& in) { return in.given[index(Region::android)] && in.given[index(Region::gynoid)]; }

Messages check(const Input& in)
{
    Messages bad;
    for (const auto& [field, value] :
        {std::pair{"age_y", in.age_y}, {"height_cm", in.height_cm}, {"mass_kg", in.mass_kg}})
        if (const auto m = limits::check(field, value)) bad.push_back(*m);
    for (std::size_t i = 0; i < region_count; ++i) {
        if (!in.given[i]) {
            if (i < part_count && !(in.trunk_has_head && i == index(Region::head)))
                bad.push_back({"missing_field", Level::error, path_of(i),
                    std::string("The ") + region_rows[i].title + " is missing; the six regions make up the body."});
            continue;
        }
        const Mass& m = in.regions[i];
        for (const auto& [field, value] : {std::pair{"fat_g", m.fat_g}, {"lean_g", m.lean_g}, {"bmc_g", m.bmc_g}})
            if (auto wrong = limits::check(std::string("absorptiometry.") + field, value)) {
                wrong->field = path_of(i) + '.' + field;
                bad.push_back(*wrong);
            }
        if (bad.empty() && !(m.fat_g + m.lean_g > 0))
            bad.push_back({"out_of_range", Level::error, path_of(i),
                std::string("The ") + region_rows[i].title + " holds nothing; allowed is more than 0 g."});
    }
    if (in.bone_reference && !(in.bone_reference->mean_kg > 0 && in.bone_reference->sd_kg > 0))
        bad.push_back({"out_of_range", Level::error, "bone_reference",
            "The reference for bone mineral has a mean of " + limits::plain(in.bone_reference->mean_kg, 3) +
                " kg and an SD of " + limits::plain(in.bone_reference->sd_kg, 3) + " kg; allowed is more than 0."});
    if (in.visceral_fat_g)
        if (const auto m = limits::check("absorptiometry.visceral_fat_g", *in.visceral_fat_g)) bad.push_back(*m);
    return bad;
}

/// Quantities in the order of the chain.
std::vector<const Quantity*> places(const Input& in)
{
    using namespace quantity;
    std::vector<const Quantity*> all = {&fat_percent, &tissue_fat_percent, &fat_mass, &fat_free_mass, &lean_soft_tissue,
        &bone_mineral, &appendicular_lean, &almi, &bmi, &ffmi, &fmi};
    if (in.sides_told_apart) all.insert(all.end(), {&arms_asymmetry, &legs_asymmetry});
    for (std::size_t i = 0; i < region_count; ++i)
        if (in.given[i])
            for (const Quantity* q : {&region_fat_percent[i], &region_lean[i], &region_fat[i], &region_bone[i]})
                all.push_back(q);
    if (has_bands(in)) all.push_back(&android_gynoid);
    return all;
}

std::vector<uncertainty::Input> uncertain_inputs(const Input& in)
{
    const double size = whole(in.regions).total_g() / 1000 / reference_kg;
    const InputErrors& e = in.errors;
    return {{"H", "height", "cm", in.height_cm, e.height_cm},
        {"δP", in.errors.photons_kg > 0 ? "posture and water" : "photons, posture, water", "kg", 0,
            e.partition_kg * size},
        {"δB", "bone mineral", "", 0, e.bone_share}, {"δRA", "line of the right arm", "kg", 0, e.arm_line_kg * size},
        {"δLA", "line of the left arm", "kg", 0, e.arm_line_kg * size},
        {"δRL", "line of the right leg", "kg", 0, e.leg_line_kg * size},
        {"δLL", "line of the left leg", "kg", 0, e.leg_line_kg * size},
        {"δN", "line of the neck", "kg", 0, in.trunk_has_head ? 0 : e.neck_line_kg * size},
        {"δT", "tissue table", "%", 0, e.tables_percent, true}, {"δγ", "photons counted", "kg", 0, e.photons_kg},
        {"δW", "line of the pelvis, for both bands", "mm", 0, has_bands(in) ? e.band_line_mm : 0},
        {"δH", "the half that was not scanned", "", 0, in.mirrored ? e.half_share / 2 : 0}};
}

/// The whole computation, once. What is read as fat instead of lean comes from each region by its share of the soft
/// tissue; what a line shifts is of the trunk's own make.
template <class T>
std::vector<T> chain(const Input& in, const std::vector<T>& x)
{
    const Mass body = whole(in.regions);
    const double soft_g = body.fat_g + body.lean_g;
    struct Part {
        T fat, lean, bone;
    };
    std::array<Part, region_count> part;
    const T shift = x[partition] + x[photons] + T(body.total_g() / 1e5) * x[tables]; // kg of fat for lean
    for (std::size_t i = 0; i < region_count; ++i) {
        const Mass& m = in.regions[i];
        const T moved = T((m.fat_g + m.lean_g) / soft_g) * shift;
        part[i] = {T(m.fat_g / 1000) * (T(1.0) - x[half]) + moved, T(m.lean_g / 1000) * (T(1.0) + x[half]) - moved,
            T(m.bmc_g / 1000) * (T(1.0) + x[bone])};
    }
    const Mass& trunk = in.regions[index(Region::trunk)];
    const double fat_share = trunk.fat_g / trunk.total_g(), lean_share = trunk.lean_g / trunk.total_g(),
                 bone_share = trunk.bmc_g / trunk.total_g();
    const auto give = [&](Region to, const T& kg) {
        for (const auto& [region, sign] : {std::pair{to, 1.0}, {Region::trunk, -1.0}}) {
            Part& p = part[index(region)];
            p.fat = p.fat + T(sign * fat_share) * kg;
            p.lean = p.lean + T(sign * lean_share) * kg;
            p.bone = p.bone + T(sign * bone_share) * kg;
        }
    };
    give(Region::right_arm, x[right_arm]);
    give(Region::left_arm, x[left_arm]);
    give(Region::right_leg, x[right_leg]);
    give(Region::left_leg, x[left_leg]);
    give(Region::head, x[neck]);
    if (has_bands(in)) { // a lower pelvis: hips come into the waist's band, thighs into the hips'
        const Mass &waist = in.regions[index(Region::android)], &hips = in.regions[index(Region::gynoid)];
        const auto move_line = [&](Region band, double Mass::*grams, T Part::*kg) {
            const double of_trunk = trunk.*grams / trunk_heights, of_waist = waist.*grams,
                         of_hips = hips.*grams / gynoid_heights;
            const double enters_less_leaves =
                band == Region::android ? of_hips - of_trunk : of_hips - (of_waist + of_hips) / 2;
            Part& p = part[index(band)];
            p.*kg = p.*kg + T(enters_less_leaves / 1000 / (10 * band_of_height * in.height_cm)) * x[band_line];
        };
        for (Region band : {Region::android, Region::gynoid}) {
            move_line(band, &Mass::fat_g, &Part::fat);
            move_line(band, &Mass::lean_g, &Part::lean);
            move_line(band, &Mass::bmc_g, &Part::bone);
        }
    }

    Part all{T(0.0), T(0.0), T(0.0)};
    for (std::size_t i = 0; i < part_count; ++i)
        all = {all.fat + part[i].fat, all.lean + part[i].lean, all.bone + part[i].bone};
    const auto lean_of = [&](Region r) { return part[index(r)].lean; };
    const auto percent = [](const Part& p) { return T(100.0) * p.fat / (p.fat + p.lean + p.bone); };
    const auto tissue_percent = [](const Part& p) { return T(100.0) * p.fat / (p.fat + p.lean); };
    const T m2 = x[height] * x[height] / T(1e4), ffm = all.lean + all.bone,
            limbs = lean_of(Region::right_arm) + lean_of(Region::left_arm) + lean_of(Region::right_leg) +
                    lean_of(Region::left_leg);
    std::vector<T> v = {percent(all), tissue_percent(all), all.fat, ffm, all.lean, all.bone, limbs, limbs / m2,
        T(in.mass_kg) / m2, ffm / m2, all.fat / m2};
    if (in.sides_told_apart)
        v.insert(v.end(), {lean_of(Region::right_arm) - lean_of(Region::left_arm),
                              lean_of(Region::right_leg) - lean_of(Region::left_leg)});
    for (std::size_t i = 0; i < region_count; ++i)
        if (in.given[i]) v.insert(v.end(), {percent(part[i]), part[i].lean, part[i].fat, part[i].bone});
    if (has_bands(in))
        v.push_back(tissue_percent(part[index(Region::android)]) / tissue_percent(part[index(Region::gynoid)]));
    return v;
}

void add_cautions(const Input& in, const Result& r, Messages& out)
{
    const auto say = [&](const char* code, const char* field, std::string text) {
        out.push_back({code, Level::caution, field, std::move(text)});
    };
    const Mass sum = whole(in.regions);
    if (in.total)
        for (const auto& [name, regions, total] : {std::tuple{"fat", sum.fat_g, in.total->fat_g},
                 {"lean", sum.lean_g, in.total->lean_g}, {"bone mineral", sum.bmc_g, in.total->bmc_g}})
            if (!(std::abs(regions - total) <= sum_share * total + 1))
                say("sum_differs", "absorptiometry.regions",
                    std::string("The regions hold ") + limits::plain(regions, 0) + " g of " + name +
                        ", the total says " + limits::plain(total, 0) +
                        " g: a region is missing, counted twice or misread.");
    const auto within = [&](const char* part, double part_g, const char* of, double whole_g, const char* what) {
        if (part_g > whole_g + part_slack_g)
            say("part_over_whole", "absorptiometry.regions",
                std::string("The ") + part + " holds " + limits::plain(part_g, 0) + " g of " + what + ", the " + of +
                    " around it only " + limits::plain(whole_g, 0) + " g: look at both again.");
    };
    const auto fat = [](const Mass& m) { return m.fat_g; };
    const auto lean = [](const Mass& m) { return m.lean_g; };
    const Mass body_trunk = in.regions[index(Region::trunk)], waist = in.regions[index(Region::android)],
               hips = in.regions[index(Region::gynoid)];
    Mass hips_and_legs = body_trunk;
    for (Region leg : {Region::right_leg, Region::left_leg}) hips_and_legs += in.regions[index(leg)];
    for (const auto& [what, grams] : {std::pair{"fat", +fat}, {"lean", +lean}}) {
        if (in.given[index(Region::android)]) within("android band", grams(waist), "trunk", grams(body_trunk), what);
        if (in.given[index(Region::gynoid)])
            within("gynoid band", grams(hips), "trunk and legs", grams(hips_and_legs), what);
    }
    if (const Value* inside = r.find(quantity::visceral_fat)) {
        const bool banded = in.given[index(Region::android)];
        within("room around the organs", 1000 * inside->value, banded ? "android band" : "trunk",
            fat(banded ? waist : body_trunk), "fat");
    }
    if (const Value* z = r.find(quantity::bone_z); z && z->value <= below_expected_z)
        say("bone_low", "absorptiometry.bone_mineral",
            "Bone mineral: Z-score " + limits::plain(z->value, 1) +
                ", below the expected range for age. Take the report to a physician.");
    const double scanned = sum.total_g() / 1000;
    if (!(std::abs(scanned - in.mass_kg) <= apart_share * in.mass_kg))
        say("mass_apart", "mass_kg",
            "The scan adds up to " + limits::plain(scanned, 1) + " kg, the scale says " + limits::plain(in.mass_kg, 1) +
                " kg: over 3 % apart. Was all of the body in the field, and is it the right person?");
    for (Message& m : judgement::judge_composition(
             in.sex, in.age_y, r[quantity::fat_percent].value, r[quantity::ffmi].value, r[quantity::fmi].value))
        out.push_back(std::move(m));
}

std::vector<Rung> build_ladder(const Result& r)
{
    const auto rung = [&](const char* title, const char* detail, const Quantity& q, Tissue tissue, bool total) {
        return Rung{title, detail, r[q].value, r[q].u, total, true, tissue};
    };
    const double scanned = r[quantity::fat_mass].value + r[quantity::fat_free_mass].value;
    return {rung("lean soft tissue", "muscle, organs, water", quantity::lean_soft_tissue, Tissue::lean, true),
        rung("bone mineral", "without its marrow", quantity::bone_mineral, Tissue::mineral, false),
        rung("fat", "of the whole body", quantity::fat_mass, Tissue::fat, false),
        {"what was scanned", "", scanned, 0, true, true}};
}

void tell_story(const Input& in, Result& r)
{
    using Kind = StoryStep::Kind;
    const auto add = [&](Kind kind, const char* symbol, std::string title, double value, const char* unit, int decimals,
                         double u, std::string source) {
        r.story.push_back({kind, symbol, std::move(title), value, unit, decimals, u, std::move(source)});
    };
    const auto tell = [&](Kind kind, const char* symbol, const Quantity& q, std::string source) {
        add(kind, symbol, q.title, r[q].value, q.unit, q.decimals, r[q].u, std::move(source));
    };
    add(Kind::input, "M", "Body mass on the scale", in.mass_kg, "kg", 2, 0, "for the body mass index alone");
    add(Kind::input, "H", "Height", in.height_cm, "cm", 1, in.errors.height_cm, "measured");
    for (std::size_t i = 0; i < region_count; ++i) {
        if (!in.given[i]) continue;
        const std::string name = std::string(region_rows[i].title) + (i < part_count ? "" : ", overlapping");
        const Mass& m = in.regions[i];
        add(Kind::input, "F", name + ": fat", m.fat_g, "g", 0, 1000 * r[quantity::region_fat[i]].u, in.from);
        add(Kind::input, "L", name + ": lean soft tissue", m.lean_g, "g", 0, 1000 * r[quantity::region_lean[i]].u,
            in.from);
        add(Kind::input, "B", name + ": bone mineral", m.bmc_g, "g", 1, 1000 * r[quantity::region_bone[i]].u, in.from);
    }
    tell(Kind::result, "FM", quantity::fat_mass, "sum of the six regions");
    tell(Kind::result, "LST", quantity::lean_soft_tissue, "sum of the six regions");
    tell(Kind::result, "BMC", quantity::bone_mineral, "sum of the six regions");
    tell(Kind::result, "FFM", quantity::fat_free_mass, "LST + BMC");
    tell(Kind::result, "%F", quantity::fat_percent, "100·FM/(FM + LST + BMC)");
    tell(Kind::result, "%F soft", quantity::tissue_fat_percent, "100·FM/(FM + LST)");
    tell(Kind::result, "ALM", quantity::appendicular_lean, "lean soft tissue of arms and legs");
    tell(Kind::result, "ALMI", quantity::almi, "ALM/h²");
    if (r.find(quantity::android_gynoid))
        tell(Kind::result, "A/G", quantity::android_gynoid, "percent fat of the soft tissue, waist over hips");
    if (r.find(quantity::visceral_fat))
        tell(Kind::result, "VF", quantity::visceral_fat,
            in.visceral ? "android band: fat beyond an oval coat; this program's model" : in.from);
    if (r.find(quantity::visceral_area))
        tell(Kind::result, "VFA", quantity::visceral_area, "VF/0.94/height of the band");
    if (in.bone_reference) {
        add(Kind::input, "μB", "Bone mineral expected", in.bone_reference->mean_kg, "kg", 3, in.bone_reference->sd_kg,
            in.bone_reference->source);
        tell(Kind::result, "Z", quantity::bone_z, "(BMC − μB)/SD");
    }
    tell(Kind::result, "BMI", quantity::bmi, "M/h²");
    tell(Kind::result, "FFMI", quantity::ffmi, "FFM/h²");
    tell(Kind::result, "FMI", quantity::fmi, "FM/h²");
}

} // namespace

Outcome<Result> compute(const Input& in, Detail detail)
{
    if (in.pregnant)
        return Outcome<Result>::refuse({"pregnant", Level::refused, "pregnant",
            "Nobody who may be pregnant is scanned with X-rays. There is no way around it."});
    if (Messages bad = check(in); !bad.empty()) return Outcome<Result>::refuse(std::move(bad));
    Result r;
    const auto where = places(in);
    propagate(
        r, [&](const auto& inputs) { return chain(in, inputs); }, where, uncertain_inputs(in), detail);
    if (in.visceral_fat_g) r.values.push_back({&quantity::visceral_fat, *in.visceral_fat_g / 1000, 0, 0});
    if (in.visceral) {
        const double kg = in.visceral->u_g / 1000;
        r.values.push_back({&quantity::visceral_fat, in.visceral->mass_g / 1000, kg, kg});
        if (const double area = in.visceral->area_cm2; area > 0) {
            const double u = area * in.visceral->u_g / std::max(1.0, in.visceral->mass_g);
            r.values.push_back({&quantity::visceral_area, area, u, u});
        }
    }
    if (const auto& b = in.bone_reference) {
        const Value& bmc = r[quantity::bone_mineral];
        r.values.push_back({&quantity::bone_z, (bmc.value - b->mean_kg) / b->sd_kg, bmc.u / b->sd_kg, 0});
    }
    if (auto why = possible::not_a_body(r)) return Outcome<Result>::refuse(std::move(*why));
    balance::add(r, in.sex, in.age_y);
    Messages messages;
    add_cautions(in, r, messages);
    if (detail == Detail::numbers) return {std::move(r), std::move(messages)};
    r.ladder = build_ladder(r);
    tell_story(in, r);
    return {std::move(r), std::move(messages)};
}

std::vector<WhatIf> what_ifs(const Input& in, const LinesWorth& per_mm)
{
    constexpr double litre_g = 994, buckle_bmc_g = 45, hips_mm = 10, lines_mm = 5;
    const auto now = compute(in, Detail::numbers);
    if (!now) return {};
    std::vector<WhatIf> out;
    const auto changed = [&](const Input& other, const Quantity& q) {
        const auto then = compute(other, Detail::numbers);
        return then ? (*then)[q].value - (*now)[q].value : 0.0;
    };
    Input other = in;
    other.regions[index(Region::trunk)].lean_g += litre_g;
    other.mass_kg += litre_g / 1000;
    out.push_back({"1 L of water drunk before", changed(other, quantity::fat_percent)});
    other = in;
    other.regions[index(Region::trunk)].bmc_g += buckle_bmc_g;
    out.push_back({"a belt buckle left on", changed(other, quantity::fat_percent), true, &quantity::bone_mineral,
        changed(other, quantity::bone_mineral)});
    if (per_mm.legs_kg + per_mm.arms_kg > 0) {
        out.push_back(
            {"the legs' lines 5 mm higher", 0, true, &quantity::appendicular_lean, lines_mm * per_mm.legs_kg});
        out.push_back(
            {"the arms' lines 5 mm further in", 0, true, &quantity::appendicular_lean, lines_mm * per_mm.arms_kg});
        if (in.sides_told_apart)
            out.push_back({"hips rotated, one 10 mm out: right less left", 0, true, &quantity::legs_asymmetry,
                hips_mm * per_mm.one_leg_kg});
    }
    return out;
}

const FatBand& fat_band(Sex sex, double fmi)
{
    const FatBand* at = fat_bands;
    for (const FatBand& b : fat_bands)
        if (fmi >= (sex == Sex::male ? b.men : b.women)) at = &b;
    return *at;
}

} // namespace fusain::xray
