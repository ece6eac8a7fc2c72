// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/impedance/segments.h"

#include "core/base/limits.h"
#include "core/base/propagate.h"
#include "core/body/reference.h"
#include "core/quality/judgement.h"

#include <algorithm>
#include <cmath>

namespace fusain::impedance {
namespace {

constexpr double scale_low = 0.80, scale_high = 1.25;
constexpr std::size_t first_r = 4, first_error = first_r + segment_count, inputs = first_error + segment_count;
using Grad = Dual<inputs>;

/// Expected lean of the whole body, from which each segment takes its share; nothing where there is no reference.
std::optional<Grad> expected_whole(const SegmentsInput& in, const Grad& mass_kg, const Grad& height_cm)
{
    if (in.by == ExpectedBy::nobody) return std::nullopt;
    if (in.by == ExpectedBy::height) {
        const judgement::IndexRange& r = judgement::index_range(in.sex);
        return Grad((r.ffmi_low + r.ffmi_high) / 2) * height_cm * height_cm / Grad(1e4);
    }
    const reference::Row* row = reference::find("gallagher_2000")->row(in.sex, in.age_y);
    if (!row) return std::nullopt;
    return mass_kg * Grad(1 - row->middle() / 100);
}

constexpr GapRule rules[] = {
    {"ten_percent", "10 %, or 0.45 and 0.9 kg", 0.45, 0.9, 0.10},
    {"five_percent", "5 % of the larger side", 0, 0, 0.05},
    {"half_kg", "0.45 kg (1 lb)", 0.45, 0.45, 0},
    {"one_kg", "0.9 kg (2 lb)", 0.9, 0.9, 0},
};

} // namespace

Outcome<std::vector<Value>> segments(const SegmentsInput& in, const Profile& profile)
{
    std::vector<uncertainty::Input> x = {{"M", "body mass", "kg", in.mass_kg, in.u_mass_kg},
        {"H", "height", "cm", in.height_cm, in.u_height_cm},
        {"FFM", "fat-free mass", "kg", in.fat_free_mass_kg, in.u_measured_kg},
        {"δFFM", "equation for fat-free mass", "kg", 0, in.u_equation_kg, true}};
    for (std::size_t i = 0; i < segment_count; ++i)
        x.push_back({"R", segment_rows[i].title, "Ω", in.r50_ohm[i], in.u_r50_ohm[i]});
    for (std::size_t i = 0; i < segment_count; ++i)
        x.push_back({"δL", segment_rows[i].title, "kg", 0, profile.parts[i].u_kg, true});
    std::vector<Grad> g;
    for (std::size_t i = 0; i < inputs; ++i) g.push_back(Grad::variable(x[i].value, i));
    const Grad &mass = g[0], &height = g[1];
    const Grad whole = g[2] + g[3];

    std::array<Grad, segment_count> raw, lean;
    Grad sum(0.0);
    for (std::size_t i = 0; i < segment_count; ++i) {
        const Profile::Part& part = profile.parts[i];
        const Grad length = Grad(part.length_per_height) * height;
        raw[i] = Grad(part.a_kg) + Grad(part.b_kg_ohm_per_cm2) * length * length / g[first_r + i];
        sum = sum + raw[i];
    }
    const Grad scale = whole * Grad(1 - profile.rest_share_of_fat_free_mass) / sum;
    std::vector<Value> out;
    const auto put = [&](const Quantity& q, const Grad& value) {
        double all = 0, model = 0;
        for (std::size_t i = 0; i < inputs; ++i) {
            const double part = value.d[i] * x[i].u;
            all += part * part;
            if (x[i].of_model) model += part * part;
        }
        out.push_back({&q, value.v, std::sqrt(all), std::sqrt(model)});
    };
    Messages cautions;
    const auto negative = [&](const std::string& field, const char* title, double fat_kg) {
        if (fat_kg < 0)
            cautions.push_back({"profile_fits_badly", Level::caution, field,
                std::string("The ") + title + " (" + field + ") would hold " + limits::plain(fat_kg, 2) +
                    " kg of fat: profile \"" + profile.id + "\" does not fit this body."});
    };
    const auto expected = expected_whole(in, mass, height);
    for (std::size_t i = 0; i < segment_count; ++i) {
        lean[i] = scale * raw[i] + g[first_error + i];
        const Grad fat = Grad(profile.parts[i].mass_share) * mass - lean[i];
        put(quantity::segment_lean[i], lean[i]);
        put(quantity::segment_fat[i], fat);
        if (expected)
            put(quantity::segment_expected[i], Grad(100.0) * lean[i] / (Grad(profile.expected(in.sex)[i]) * *expected));
        negative(segment_rows[i].id, segment_rows[i].title, fat.v);
    }
    const Grad rest = whole * Grad(profile.rest_share_of_fat_free_mass),
               rest_fat = Grad(profile.rest_mass_share) * mass - rest;
    put(quantity::segment_scale, scale);
    put(quantity::rest_lean, rest);
    put(quantity::rest_fat, rest_fat);
    negative("rest", "rest (head, hands and feet)", rest_fat.v);
    const auto side = [&](const Sides& s) { return lean[index(s.right)] - lean[index(s.left)]; };
    put(quantity::arms_asymmetry, side(pairs_of_sides[0]));
    put(quantity::legs_asymmetry, side(pairs_of_sides[1]));
    if (!(scale.v >= scale_low && scale.v <= scale_high))
        cautions.push_back({"profile_fits_badly", Level::caution, "segments.scale",
            "The segments have to be scaled by " + limits::plain(scale.v, 3) +
                " (segments.scale) to make the whole "
                "body; allowed is 0.80 to 1.25. Is profile \"" +
                profile.id + "\" of this instrument?"});
    return {std::move(out), std::move(cautions)};
}

std::span<const GapRule> gap_rules() { return rules; }

const GapRule* find_gap_rule(std::string_view id)
{
    for (const GapRule& r : rules)
        if (id == r.id) return &r;
    return nullptr;
}

std::vector<SideGap> side_gaps(const Result& r, const GapRule& rule)
{
    using Verdict = SideGap::Verdict;
    std::vector<SideGap> out;
    for (const auto& [quantity, sides, kg] : {std::tuple{&quantity::arms_asymmetry, pairs_of_sides[0], rule.arms_kg},
             {&quantity::legs_asymmetry, pairs_of_sides[1], rule.legs_kg}}) {
        const Value* gap = r.find(*quantity);
        if (!gap) continue;
        const double larger = std::max(
            r[quantity::segment_lean[index(sides.right)]].value, r[quantity::segment_lean[index(sides.left)]].value);
        const double by_share = rule.share > 0 ? rule.share * larger : INFINITY, by_kg = kg > 0 ? kg : INFINITY;
        SideGap g{sides.title, gap->value, 2 * gap->u_measurement(), std::min(by_share, by_kg), Verdict::small};
        const double size = std::abs(g.right_less_left_kg);
        g.verdict = size <= g.noise_kg ? Verdict::within_noise : size < g.limit_kg ? Verdict::small : Verdict::flagged;
        out.push_back(g);
    }
    return out;
}

} // namespace fusain::impedance
