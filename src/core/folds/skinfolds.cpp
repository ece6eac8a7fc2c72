// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/folds/skinfolds.h"

#include "core/base/limits.h"
#include "core/body/balance.h"
#include "core/body/possible.h"
#include "core/quality/judgement.h"

#include <algorithm>
#include <cmath>

namespace fusain::skinfolds {
namespace {

constexpr const char* seven[] = {"chest", "midaxillary", "triceps", "subscapular", "abdomen", "suprailiac", "thigh"};
constexpr const char* three_men[] = {"chest", "abdomen", "thigh"};
constexpr const char* three_women[] = {"triceps", "suprailiac", "thigh"};
constexpr const char* all_girths[] = {"neck", "chest", "waist", "hips", "right_upper_arm", "left_upper_arm",
    "right_thigh", "left_thigh", "right_calf", "left_calf"};
constexpr const char *br_j_nutr = "Br J Nutr 40:497–504", *med_sci = "Med Sci Sports Exerc 12:175–182";

constexpr Equation rows[] = {
    {"jackson_pollock_1978_7", "Jackson & Pollock 1978, seven sites", br_j_nutr, "men of 18 to 61 years", Sex::male, 18,
        61, seven, 1.112, -4.3499e-4, 5.5e-7, -2.8826e-4},
    {"jackson_pollock_1978_3", "Jackson & Pollock 1978, three sites", br_j_nutr, "men of 18 to 61 years", Sex::male, 18,
        61, three_men, 1.10938, -8.267e-4, 1.6e-6, -2.574e-4},
    {"jackson_pollock_ward_1980_7", "Jackson, Pollock & Ward 1980, seven sites", med_sci, "women of 18 to 55 years",
        Sex::female, 18, 55, seven, 1.097, -4.6971e-4, 5.6e-7, -1.2828e-4},
    {"jackson_pollock_ward_1980_3", "Jackson, Pollock & Ward 1980, three sites", med_sci, "women of 18 to 55 years",
        Sex::female, 18, 55, three_women, 1.0994921, -9.929e-4, 2.3e-6, -1.392e-4},
};
constexpr double centimetres_under_mm = 4; ///< hardly anybody has every fold under it
constexpr double fold_share = 0.05;        ///< within one measurer
constexpr double fold_apart_mm = 1, fold_apart_share = 0.05, girth_apart_cm = 1;
constexpr double girth_error_cm = 0.36, height_error_cm = 0.5; ///< a girth repeats within 1 cm

Settled settle(std::span<const double> repeats, double apart_least, double apart_share)
{
    if (repeats.empty()) return {};
    std::vector<double> sorted(repeats.begin(), repeats.end());
    std::sort(sorted.begin(), sorted.end());
    const std::size_t n = sorted.size();
    const double mean = (sorted.front() + sorted.back()) / 2;
    if (n == 1) return {mean, Repeats::one};
    if (n > 2) return {n % 2 ? sorted[n / 2] : (sorted[n / 2 - 1] + sorted[n / 2]) / 2, Repeats::agree};
    const bool agree = sorted[1] - sorted[0] <= std::max(apart_least, apart_share * mean) + 1e-9;
    return {mean, agree ? Repeats::agree : Repeats::third_needed};
}

enum Slot : std::size_t { mass, height, folds, equation, conversion };

double sum_of(const Equation& e, const Input& in)
{
    double sum = 0;
    for (const char* site : e.sites) sum += in.skinfolds_mm.at(site);
    return sum;
}

Messages check(const Input& in, const Equation* e)
{
    Messages bad = densitometry::check(in);
    const auto held = [&](const char* limit, const std::map<std::string, double>& values,
                          std::span<const char* const> known) {
        for (const auto& [site, value] : values) {
            const std::string field = std::string(limit) + '.' + site;
            if (std::find(known.begin(), known.end(), site) == known.end()) continue; // kept as it came
            if (auto m = limits::check(limit, value)) {
                m->field = field;
                bad.push_back(*m);
            }
        }
    };
    held("callipers_and_tape.skinfolds_mm", in.skinfolds_mm, seven);
    held("callipers_and_tape.girths_cm", in.girths_cm, all_girths);
    if (in.skinfolds_mm.empty() && in.girths_cm.empty())
        bad.push_back({"missing_field", Level::error, "callipers_and_tape.skinfolds_mm",
            "There are neither skinfolds nor girths; one of them is needed."});
    if (in.skinfolds_mm.empty()) return bad;
    if (!e)
        bad.push_back(in.equation.empty()
                          ? Message{"missing_field", Level::error, "callipers_and_tape.equation",
                                "Skinfolds need an equation: " + densitometry::ids_of(equations()) + "."}
                          : densitometry::unknown_choice(
                                "callipers_and_tape.equation", in.equation, densitometry::ids_of(equations())));
    else
        for (const char* site : e->sites)
            if (!in.skinfolds_mm.count(site))
                bad.push_back({"missing_field", Level::error, std::string("callipers_and_tape.skinfolds_mm.") + site,
                    std::string("The skinfold of the ") + site + " is missing; " + e->title + " takes it."});
    if (e && bad.empty())
        if (const double sum = sum_of(*e, in), most = e->largest_sum_mm(); sum > most)
            bad.push_back({"out_of_range", Level::error, "callipers_and_tape.skinfolds_mm",
                "The folds of callipers_and_tape.skinfolds_mm come to " + limits::plain(sum, 1) +
                    " mm; allowed is up to " + limits::plain(most, 1) + " mm, where " + e->title +
                    " turns: thicker folds would read as less fat."});
    return bad;
}

} // namespace

std::span<const Equation> equations() { return rows; }
const Equation* find(std::string_view id)
{
    for (const Equation& e : rows)
        if (id == e.id) return &e;
    return nullptr;
}
std::span<const char* const> sites() { return seven; }
std::span<const char* const> girths() { return all_girths; }

Settled settle_fold(std::span<const double> mm) { return settle(mm, fold_apart_mm, fold_apart_share); }
Settled settle_girth(std::span<const double> cm) { return settle(cm, girth_apart_cm, 0); }

Outcome<Result> compute(const Input& in, Detail detail)
{
    const Equation* e = find(in.equation);
    if (Messages bad = check(in, e); !bad.empty()) return Outcome<Result>::refuse(std::move(bad));
    Result r;
    Messages messages;
    if (!in.skinfolds_mm.empty()) {
        const double sum = sum_of(*e, in);
        const std::vector<uncertainty::Input> x = {{"M", "body mass", "kg", in.mass_kg, 0.05},
            {"H", "height", "cm", in.height_cm, height_error_cm}, {"S", "skinfolds", "mm", sum, fold_share * sum},
            {"δE", "the equation of folds", "kg/L", 0, error_kg_per_l, true}, densitometry::conversion_input(in)};
        static const std::vector<const Quantity*> places = {&quantity::skinfold_sum, &quantity::body_density,
            &quantity::fat_percent, &quantity::fat_mass, &quantity::fat_free_mass, &quantity::bmi, &quantity::ffmi,
            &quantity::fmi};
        const density::Pair pair = *density::find(in.conversion)->pair(in.sex, in.age_y);
        const auto chain = [&](const auto& v) {
            using T = std::decay_t<decltype(v[0])>;
            const T s = v[folds];
            const T d = T(e->c0) + T(e->c1) * s + T(e->c2) * s * s + T(e->c3 * in.age_y) + v[equation];
            const T percent = density::percent_fat(d + v[conversion], pair), fat = v[mass] * percent / T(100.0),
                    lean = v[mass] - fat, m2 = v[height] * v[height] / T(1e4);
            return std::vector<T>{s, d, percent, fat, lean, v[mass] / m2, lean / m2, fat / m2};
        };
        propagate(r, chain, places, x, detail);
        const double density = r[quantity::body_density].value;
        if (auto wrong = limits::check("body_density_kg_per_l", density)) return Outcome<Result>::refuse(*wrong);
        if (in.sex != e->sex || in.age_y < e->age_from_y || in.age_y > e->age_to_y)
            messages.push_back({"outside_group", Level::caution, "callipers_and_tape.equation",
                std::string("The client is outside the group ") + e->title + " was made on (" + e->made_on + ")."});
        if (auto why = possible::not_a_body(r)) return Outcome<Result>::refuse(std::move(*why));
        if (std::all_of(e->sites.begin(), e->sites.end(),
                [&](const char* site) { return in.skinfolds_mm.at(site) < centimetres_under_mm; }))
            messages.push_back({"folds_in_centimetres", Level::caution, "callipers_and_tape.skinfolds_mm",
                "Every fold is under 4 mm, as hardly anybody has it: were they written down in centimetres?"});
        if (!(density >= 0.98 && density <= 1.10))
            messages.push_back({"density_unusual", Level::caution, "",
                "Body density is outside 0.98 to 1.10 kg/L: measure again before using it."});
        for (Message& m : judgement::judge_composition(
                 in.sex, in.age_y, r[quantity::fat_percent].value, r[quantity::ffmi].value, r[quantity::fmi].value))
            messages.push_back(std::move(m));
        balance::add(r, in.sex, in.age_y);
    }
    const auto girth = [&](const char* name) {
        const auto at = in.girths_cm.find(name);
        return at == in.girths_cm.end() ? 0 : at->second;
    };
    const auto add_ratio = [&](const Quantity& q, double over, double under, double u_under) {
        r.values.push_back({&q, over / under, over / under * std::hypot(girth_error_cm / over, u_under / under), 0});
    };
    if (girth("waist") > 0 && girth("hips") > 0)
        add_ratio(quantity::waist_hip, girth("waist"), girth("hips"), girth_error_cm);
    if (girth("waist") > 0) add_ratio(quantity::waist_height, girth("waist"), in.height_cm, height_error_cm);
    return {std::move(r), std::move(messages)};
}

} // namespace fusain::skinfolds
