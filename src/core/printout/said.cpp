// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/printout/said.h"

#include "core/base/limits.h"
#include "core/body/told.h"
#include "core/density/displacement.h"
#include "core/impedance/impedance.h"
#include "core/printout/unit.h"

#include <algorithm>
#include <cmath>

namespace fusain::printout {
namespace {

constexpr double height_apart_cm = 1.5, age_apart_y = 1.0;
constexpr double index_apart = 0.6;     ///< a height rounded to centimetres, a mass to half a kilogram
constexpr double volume_apart_l = 0.15; ///< by which two runs of a chamber may differ
constexpr double percent_apart = 0.5;   ///< over what rounding explains, between a conversion and the printed percent

std::map<const Quantity*, const Value*> known(const Said& s)
{
    std::map<const Quantity*, const Value*> out;
    for (const Value& v : s.printed->values)
        if (const Quantity* q = known_as(s.method, v.quantity, v.segment))
            if (in_unit_of(*q, v)) out.emplace(q, &v);
    return out;
}

std::optional<double> printed(const Said& s, const Quantity& q)
{
    const auto all = known(s);
    const auto at = all.find(&q);
    return at == all.end() ? std::nullopt : in_unit_of(q, *at->second);
}

bool tells_fat(const Said& s)
{
    return printed(s, quantity::fat_percent) || printed(s, quantity::fat_mass) || printed(s, quantity::fat_free_mass);
}

bool has_current(const Said& s)
{
    return s.method->reads == Reads::current && printed(s, quantity::resistance) && printed(s, quantity::reactance);
}

/// Body density, printed or from the printed volume.
std::optional<double> density_of(const Said& s)
{
    if (s.method->reads != Reads::density) return std::nullopt;
    if (const auto d = printed(s, quantity::body_density)) return d;
    const auto v = printed(s, quantity::body_volume);
    return v && *v > 0 ? std::optional(s.mass_kg / *v) : std::nullopt;
}

std::string source(const Said& s, const Quantity& q)
{
    const Value& v = *known(s).at(&q);
    const auto label = s.labels.find(v.key);
    return "printed as “" + (label == s.labels.end() ? v.key : label->second) + "” " + v.text +
           (v.unit.empty() ? "" : " " + v.unit) + ", " + s.how;
}

Outcome<Result> by_current(const Said& s, const std::string& equation, Detail detail)
{
    impedance::Input in;
    in.sex = s.sex;
    in.age_y = s.age_y;
    in.height_cm = s.height_cm;
    in.mass_kg = s.mass_kg;
    in.mass_from = s.mass_from;
    in.whole_body = {{impedance::equations_khz, *printed(s, quantity::resistance), *printed(s, quantity::reactance)}};
    in.equations = impedance::usual_choice(s.age_y);
    in.equations.fat_free_mass = equation;
    if (s.age_y < impedance::adult_y) in.expected_by = impedance::ExpectedBy::nobody;
    return impedance::compute(in, detail);
}

Outcome<Result> by_density(const Said& s, const std::string& conversion, Detail detail)
{
    displacement::Input in;
    in.sex = s.sex;
    in.age_y = s.age_y;
    in.height_cm = s.height_cm;
    in.mass_kg = s.mass_kg;
    in.mass_from = s.mass_from;
    in.conversion = conversion;
    in.raw_volumes_l = {s.mass_kg / *density_of(s)};
    in.runs_from = {
        printed(s, quantity::body_density) ? source(s, quantity::body_density) : source(s, quantity::body_volume)};
    in.surface_corrected = in.lungs_corrected = in.mean_of_runs = true;
    return displacement::compute(in, detail);
}

Outcome<Result> ours(const Said& s, const std::string& id, Detail detail)
{
    const bool current = has_current(s) && impedance::find(impedance::Predicts::fat_free_mass, id);
    if (!current && !(density_of(s) && density::find(id)))
        return Outcome<Result>::refuse(
            {"unknown_choice", Level::error, "told_by", "\"" + id + "\" is no way to tell what this printout says."});
    auto computed = current ? by_current(s, id, detail) : by_density(s, id, detail);
    if (!computed || computed->find(quantity::fat_percent)) return computed;
    return Outcome<Result>::refuse(
        {"no_equation", Level::repeat, "told_by", "This equation says nothing of fat at this age."});
}

Outcome<Result> own(const Said& s, Detail detail)
{
    told::Input in{s.sex, s.age_y, s.height_cm, s.mass_kg, {}, s.u_fat_percent, s.how, true};
    for (const auto& [q, v] : known(s)) in.given[q] = *in_unit_of(*q, *v);
    // reckoned with another height: kept under their printed names, and the record's height counts
    std::optional<Message> other_height;
    const double index = s.mass_kg / (s.height_cm * s.height_cm / 1e4);
    if (const auto at = in.given.find(&quantity::bmi);
        at != in.given.end() && std::abs(at->second - index) > index_apart) {
        other_height = Message{"sum_differs", Level::caution, quantity::bmi.id,
            "The body mass index is printed as " + limits::plain(at->second, 1) + " kg/m²; " +
                limits::plain(s.mass_kg, 1) + " kg and " + limits::plain(s.height_cm, 1) + " cm make " +
                limits::plain(index, 1) + " kg/m². Was the instrument told another height?"};
        for (const Quantity* q : {&quantity::bmi, &quantity::ffmi, &quantity::fmi}) in.given.erase(q);
    }
    auto computed = told::compute(in, detail);
    if (!computed) return computed;
    Messages messages = computed.messages();
    if (other_height) messages.push_back(*other_height);
    Result r = std::move(computed).take();
    for (StoryStep& step : r.story)
        for (const auto& [q, v] : known(s))
            if (step.kind == StoryStep::Kind::input && step.title == q->title)
                step.source = source(s, *q) + "; the instrument's own equations, not published to us";
    return {std::move(r), messages};
}

/// Half of the last printed decimal, in the quantity's unit.
double rounding(const Said& s, const Quantity& q)
{
    Value step = *known(s).at(&q);
    step.value = std::pow(10.0, -step.decimals) / 2;
    return in_unit_of(q, step).value_or(0);
}

/// Where density is printed, percent fat follows from it by one of the published conversions, or it was misread.
std::optional<Message> far_from_all(const Said& s)
{
    const auto percent = printed(s, quantity::fat_percent);
    if (!percent || !density_of(s)) return std::nullopt;
    const Gap* nearest = nullptr;
    const std::vector<Gap> all = gaps(s);
    for (const Gap& g : all)
        if (g.of == &quantity::fat_percent && !g.outside_group &&
            (!nearest || std::abs(g.ours - *percent) < std::abs(nearest->ours - *percent)))
            nearest = &g;
    const double allowed = percent_apart + rounding(s, quantity::fat_percent);
    if (!nearest || std::abs(nearest->ours - *percent) <= allowed) return std::nullopt;
    return Message{"gap", Level::caution, "fat_percent",
        "Percent fat is printed as " + limits::plain(*percent, 1) + " %; from the printed density the nearest way, " +
            nearest->by + ", makes it " + limits::plain(nearest->ours, 1) + " %. Is one of them misread?"};
}

} // namespace

const Quantity* known_as(Method method, std::string_view quantity, std::string_view segment)
{
    std::string id(quantity);
    if (!segment.empty()) {
        const bool scan = method->reads == Reads::picture;
        if (id == "fat_mass_kg") id = "fat_kg";
        if (id == "lean_soft_tissue_kg" && scan) id = "lean_kg";
        if (id == "bone_mineral_content_kg") id = "bmc_kg";
        id = (scan ? "regions." : "segments.") + std::string(segment) + '.' + id;
    } else if (id == "fat_kg") {
        id = quantity::fat_mass.id;
    } else if (id == "lean_kg" && method->reads == Reads::picture) {
        id = quantity::lean_soft_tissue.id;
    }
    const Quantity* q = find_quantity(id);
    return q == &quantity::body_mass ? nullptr : q; // a result is of a mass, it does not hold one
}

std::optional<double> in_unit_of(const Quantity& q, const Value& v)
{
    const bool percent = v.unit == "%" && q.kind == UnitKind::share;
    if (percent) return v.value / 100;
    if (v.unit.empty() || !*q.unit) return v.value;
    if (const auto value = converted(v.value, v.unit, q.unit)) return value;
    return find_unit(v.unit) && find_unit(q.unit) ? std::nullopt : std::optional(v.value); // "cm²", "points"
}

std::vector<Way> ways(const Said& s)
{
    std::vector<Way> out;
    if (tells_fat(s)) out.push_back({as_printed, "As printed, by the instrument's own equations"});
    if (has_current(s))
        for (const impedance::Equation& e : impedance::equations())
            if (e.what == impedance::Predicts::fat_free_mass && ours(s, e.id, Detail::numbers))
                out.push_back({e.id, std::string(e.title) + ", from the printed resistance"});
    if (density_of(s))
        for (const density::Conversion& c : density::conversions())
            if (ours(s, c.id, Detail::numbers))
                out.push_back({c.id, std::string(c.title) + ", from the printed density"});
    const std::string usual = has_current(s) ? impedance::usual_choice(s.age_y).fat_free_mass
                              : s.age_y < 18 ? density::children_id
                                             : density::default_id;
    if (!tells_fat(s)) std::stable_partition(out.begin(), out.end(), [&](const Way& w) { return w.id == usual; });
    return out;
}

std::vector<Gap> gaps(const Said& s)
{
    std::vector<Gap> out;
    const double percent = printed(s, quantity::fat_percent).value_or(NAN);
    for (const Way& w : ways(s)) {
        if (w.id == as_printed) continue;
        const auto computed = ours(s, w.id, Detail::numbers);
        const bool outside = std::any_of(computed.messages().begin(), computed.messages().end(),
            [](const Message& m) { return m.code == "outside_group"; });
        out.push_back({&quantity::fat_percent, percent, (*computed)[quantity::fat_percent].value,
            w.title.substr(0, w.title.find(", from")), 0, outside});
    }
    const auto raw = printed(s, quantity::raw_volume), gas = printed(s, quantity::thoracic_gas_volume),
               volume = printed(s, quantity::body_volume);
    if (raw && gas && volume) {
        const double artifact =
            displacement::surface_area_artifact_l(displacement::du_bois_1916_cm2(s.mass_kg, s.height_cm));
        out.push_back({&quantity::body_volume, *volume, displacement::body_volume_l(*raw, artifact, *gas),
            "raw volume, skin and lung gas", volume_apart_l});
    }
    return out;
}

Outcome<Result> compute(const Said& s, Detail detail)
{
    if (s.told_by == as_printed && !tells_fat(s))
        return Outcome<Result>::refuse({"missing_field", Level::error, "fat_percent",
            "Percent fat, fat mass or fat-free mass is needed, or what they can be computed from: resistance and "
            "reactance, or body density. None of them is printed."});
    auto computed = s.told_by == as_printed ? own(s, detail) : ours(s, s.told_by, detail);
    if (!computed) return computed;
    Messages messages = computed.messages();
    for (const Sum& sum : broken(*s.printed))
        messages.push_back({"sum_differs", Level::caution, sum.members.front(), sum.text});
    if (const auto far = far_from_all(s)) messages.push_back(*far);
    for (const Gap& g : gaps(s))
        if (g.allowed > 0 && std::abs(g.printed - g.ours) > g.allowed)
            messages.push_back({"gap", Level::caution, g.of->id,
                std::string(g.of->title) + " is printed as " + limits::plain(g.printed, 3) + ' ' + g.of->unit + "; " +
                    g.by + " make it " + limits::plain(g.ours, 3) + ' ' + g.of->unit + ". Is one of them misread?"});
    return {std::move(computed).take(), std::move(messages)};
}

Messages of_another(const Reading& printed, const Who& who)
{
    Messages out;
    const auto say = [&](const Identity& i, const std::string& text) {
        out.push_back({"of_another", Level::caution, "client." + i.key, text});
    };
    for (const Identity& i : printed.client) {
        if (i.key == "number" && i.said != who.number)
            say(i, "The printout is of number " + i.said + "; this client is number " + who.number + '.');
        if (i.key == "at" && i.said.substr(0, 10) != who.day)
            say(i, "The printout is of " + i.said.substr(0, 10) + "; this visit is of " + who.day + '.');
        if (i.key == "sex" && i.said != word(who.sex))
            say(i, "The printout says " + i.said + "; the record says " + std::string(word(who.sex)) + '.');
        if (i.key == "age_y" && std::abs(i.value - std::floor(who.age_y)) > age_apart_y + i.step / 2)
            say(i, "The printout says " + limits::plain(i.value, 0) + " years; the record makes it " +
                       limits::plain(std::floor(who.age_y), 0) + '.');
        const double apart = std::min(std::abs(i.value - who.height_cm), std::abs(i.value - who.record_cm));
        if (i.key == "height_cm" && apart > height_apart_cm + i.step / 2)
            say(i, "The printout was made with a height of " + limits::plain(i.value, 1) + " cm; measured today: " +
                       limits::plain(who.height_cm, 1) + " cm. Its numbers rest on that height.");
    }
    return out;
}

} // namespace fusain::printout
