// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/printout/read.h"

#include "core/base/limits.h"
#include "core/printout/unit.h"

#include <cmath>

namespace fusain::printout {
namespace {

constexpr double hair = 1e-9;

/// A number that takes part in a sum, in the unit of the sum.
struct Term {
    std::string key, text;
    double value = 0, step = 0; ///< step: of the last printed decimal
};

/// Of the whole body, or of a segment.
std::optional<Term> term(
    const Reading& r, std::string_view quantity, std::string_view unit, std::string_view segment = "")
{
    for (const Value& v : r.values) {
        if (v.quantity != quantity || v.segment != segment) continue;
        const double factor = v.unit.empty() ? 1 : converted(1, v.unit, unit).value_or(1);
        return Term{v.key, v.text, v.value * factor, std::pow(10.0, -v.decimals) * factor};
    }
    return std::nullopt;
}

/// A number that follows from others: `weights` says how it changes with each of them.
Sum follows(const std::string& words, double is, const Term& should, const std::vector<Term>& from,
    const std::vector<double>& weights, int decimals)
{
    Sum out;
    out.off = std::abs(is - should.value);
    for (std::size_t i = 0; i < from.size(); ++i) {
        out.members.push_back(from[i].key);
        out.steps.push_back(std::abs(weights[i]) * from[i].step);
        out.allowed += out.steps.back() / 2;
    }
    out.members.push_back(should.key);
    out.steps.push_back(should.step);
    out.allowed += should.step / 2;
    out.allowed = out.allowed * 1.001 + hair;
    out.text = words + " " + limits::plain(is, decimals) + ", not " + should.text + " (rounding allows " +
               limits::plain(out.allowed, 3) + ").";
    return out;
}

/// The parts of a whole.
void parts(const Reading& r, std::vector<Sum>& out, const std::string& words, const char* whole,
    std::initializer_list<const char*> of, const char* unit)
{
    const auto should = term(r, whole, unit);
    if (!should) return;
    std::vector<Term> from;
    double is = 0;
    std::string text;
    for (const char* id : of) {
        auto t = term(r, id, unit);
        if (!t) return;
        is += t->value;
        text += (text.empty() ? "" : " + ") + t->text;
        from.push_back(std::move(*t));
    }
    out.push_back(follows(words + ": " + text + " is", is, *should, from, std::vector<double>(from.size(), 1), 3));
}

/// Arms, trunk and legs are a part of the whole; with the head they `make` it, where both are of the same stuff.
void regions(
    const Reading& r, std::vector<Sum>& out, const char* of, const char* whole, const std::string& words, bool make)
{
    const auto should = term(r, whole, "kg"), head = term(r, of, "kg", "head");
    if (!should) return;
    std::vector<Term> from;
    for (const char* segment : {"right_arm", "left_arm", "trunk", "right_leg", "left_leg"}) {
        auto t = term(r, of, "kg", segment);
        if (!t) return;
        from.push_back(std::move(*t));
    }
    if (head) from.push_back(*head);
    double is = 0;
    for (const Term& t : from) is += t.value;
    const bool equal = head && make;
    Sum sum = follows(words + (equal ? " do not make the whole: they are" : " are more than the whole: they are"), is,
        *should, from, std::vector<double>(from.size(), 1), 3);
    if (!equal) sum.off = std::max(0.0, is - should->value);
    out.push_back(std::move(sum));
}

} // namespace

std::vector<Sum> sums(const Reading& r)
{
    std::vector<Sum> out;
    parts(r, out, "Fat and fat-free mass do not make the mass", "mass_kg", {"fat_mass_kg", "fat_free_mass_kg"}, "kg");
    parts(r, out, "Water, protein and mineral do not make the fat-free mass", "fat_free_mass_kg",
        {"total_body_water_l", "protein_kg", "mineral_kg"}, "kg");
    parts(r, out, "The water inside and outside the cells does not make all the water", "total_body_water_l",
        {"intracellular_water_l", "extracellular_water_l"}, "L");
    const auto mass = term(r, "mass_kg", "kg"), fat = term(r, "fat_mass_kg", "kg"),
               lean = term(r, "fat_free_mass_kg", "kg"), percent = term(r, "fat_percent", "%"),
               index = term(r, "bmi_kg_per_m2", "kg/m²");
    if (!mass || !(mass->value > 0)) return out;
    const double m = mass->value;
    if (percent && fat) {
        const double is = 100 * fat->value / m;
        out.push_back(follows("Percent fat does not fit: " + fat->text + " of " + mass->text + " is", is, *percent,
            {*fat, *mass}, {100 / m, is / m}, 2));
    } else if (percent && lean) {
        const double is = 100 * (1 - lean->value / m);
        out.push_back(follows("Percent fat does not fit: without " + lean->text + " of " + mass->text + " it is", is,
            *percent, {*lean, *mass}, {100 / m, (100 - is) / m}, 2));
    }
    if (const Identity* height = r.identity("height_cm"); height && index && height->value > 0) {
        const double metres = height->value / 100, is = m / (metres * metres);
        out.push_back(
            follows("The body mass index does not fit: " + mass->text + " at a height of " + height->text + " is", is,
                *index, {*mass, {"client.height_cm", height->text, height->value, height->step}},
                {1 / (metres * metres), 2 * is / height->value}, 2));
    }
    return out;
}

std::vector<Sum> wholes(const Reading& r)
{
    std::vector<Sum> out;
    regions(r, out, "fat_kg", "fat_mass_kg", "The segments, fat,", true);
    regions(r, out, "lean_kg", "lean_soft_tissue_kg", "The segments, lean,", true);
    regions(r, out, "lean_kg", "fat_free_mass_kg", "The segments, lean,", false);
    regions(r, out, "bone_mineral_content_kg", "bone_mineral_content_kg", "The segments, bone mineral,", true);
    const auto mass = term(r, "mass_kg", "kg"), volume = term(r, "body_volume_l", "L"),
               density = term(r, "body_density_kg_per_l", "kg/L");
    if (!mass || !volume || !density || !(volume->value > 0)) return out;
    const double is = mass->value / volume->value;
    out.push_back(follows("Body density does not fit: " + mass->text + " in " + volume->text + " is", is, *density,
        {*mass, *volume}, {1 / volume->value, is / volume->value}, 4));
    return out;
}

std::vector<Sum> broken(const Reading& reading)
{
    std::vector<Sum> out = sums(reading), beside = wholes(reading);
    out.insert(out.end(), std::make_move_iterator(beside.begin()), std::make_move_iterator(beside.end()));
    std::erase_if(out, [](const Sum& sum) { return sum.fits(); });
    return out;
}

std::vector<Suspect> suspects(const Reading& r)
{
    std::vector<Suspect> out;
    const std::vector<Sum> wrong = broken(r);
    if (wrong.empty()) return out;
    for (std::size_t m = 0; m < wrong.front().members.size(); ++m) { // it is a part of every one of them
        const std::string& key = wrong.front().members[m];
        const double step = wrong.front().steps[m];
        for (std::size_t i = 0; i < r.values.size(); ++i) {
            if (r.values[i].key != key || !(step > 0)) continue;
            const double last = std::pow(10.0, -r.values[i].decimals),
                         change = std::round(wrong.front().off / step) * last;
            for (const double by : {change, -change}) {
                Reading other = r;
                other.values[i].value += by;
                if (other.values[i].value > 0 && broken(other).empty()) out.push_back({key, other.values[i].value});
            }
        }
    }
    return out;
}

} // namespace fusain::printout
