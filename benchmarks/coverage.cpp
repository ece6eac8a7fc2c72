// SPDX-License-Identifier: GPL-3.0-or-later
// How often the truth lies inside the stated 95 % interval, by method: bodies of known water, mineral, protein and fat,
// the readings that instruments without a fault would give of them with the errors that are stated, and the equations'
// own error as published. docs/science/coverage.md.
#include "core/body/compartments.h"
#include "core/density/displacement.h"
#include "core/density/hydrostatic.h"
#include "core/impedance/impedance.h"
#include "core/xray/absorptiometry.h"

#include <CLI/CLI.hpp>

#include <cmath>
#include <cstdio>
#include <map>
#include <random>

using namespace fusain;

namespace {

constexpr double sure = 1.96;
// tissue densities at 36 °C, and of what fat-free mass is made in people at large: together they make the published
// spread of a mixed population, about 0.0084 kg/L of body density
constexpr double fat_density = 0.9007, water_density = 0.99371, protein_density = 1.34, bone_density = 2.982,
                 other_mineral_density = 3.317;
constexpr double water_share = 0.737, water_sd = 0.034, bone_share = 0.0561, bone_sd = 0.010, other_share = 0.0125;

struct Body {
    Sex sex;
    double age_y, height_cm, fat_kg, lean_kg, water_kg, bone_mineral_kg, density;
    double mass() const { return fat_kg + lean_kg; }
    double volume_l() const { return fat_kg / fat_density + lean_kg / density; }
};

class Draw {
public:
    explicit Draw(unsigned long seed) : random_(seed) {}
    double normal(double mean, double sd) { return std::normal_distribution<>(mean, sd)(random_); }
    double uniform(double low, double high) { return std::uniform_real_distribution<>(low, high)(random_); }
    Body body()
    {
        Body b;
        b.sex = uniform(0, 1) < 0.5 ? Sex::male : Sex::female;
        const bool man = b.sex == Sex::male;
        b.age_y = uniform(20, 60);
        b.height_cm = normal(man ? 178 : 165, 7);
        const double m2 = b.height_cm * b.height_cm / 1e4;
        b.lean_kg = m2 * normal(man ? 19 : 15.6, 1.4);
        b.fat_kg = m2 * uniform(man ? 2.5 : 4, man ? 9 : 12);
        const double water = normal(water_share, water_sd), bone = normal(bone_share, bone_sd);
        b.water_kg = water * b.lean_kg;
        b.bone_mineral_kg = bone * b.lean_kg / 1.0436; // content as a scan tells it
        const double protein = 1 - water - bone - other_share;
        b.density = 1 / (water / water_density + bone / bone_density + other_share / other_mineral_density +
                            protein / protein_density);
        return b;
    }

private:
    std::mt19937_64 random_;
};

struct Count {
    int n = 0, inside = 0;
    double u = 0, bias = 0;
    void add(const Value& told, double truth)
    {
        ++n;
        inside += std::abs(told.value - truth) <= sure * told.u;
        u += told.u;
        bias += told.value - truth;
    }
};
using Table = std::map<std::pair<std::string, std::string>, Count>;

void tell(Table& table, const char* method, const Outcome<Result>& told, const Body& b)
{
    if (!told) return;
    for (const Quantity* what : {&quantity::fat_percent, &quantity::fat_free_mass}) {
        const Value* v = told->find(*what);
        if (!v) continue;
        table[{method, what->id}].add(*v, what == &quantity::fat_percent ? 100 * b.fat_kg / b.mass() : b.lean_kg);
    }
}

void person(densitometry::Person& p, const Body& b, Draw& draw)
{
    p.sex = b.sex;
    p.age_y = b.age_y;
    p.height_cm = b.height_cm + draw.normal(0, 0.5);
    p.mass_kg = b.mass() + draw.normal(0, 0.05);
}

Outcome<Result> under_water(const Body& b, Draw& draw, hydrostatic::LungRoute route)
{
    hydrostatic::Input in;
    person(in, b, draw);
    const hydrostatic::InputErrors& u = in.errors;
    const bool man = b.sex == Sex::male;
    const double predicted =
        man ? 1.31 * b.height_cm / 100 + 0.022 * b.age_y - 1.23 : 1.81 * b.height_cm / 100 + 0.016 * b.age_y - 2.00;
    const double rv = std::clamp(draw.normal(predicted, man ? 0.41 : 0.35), 0.55, 3.4),
                 gut = draw.normal(0.1, u.gut_gas_l);
    const double temperature = 34, rho = 0.994372;
    const double true_kg = b.mass() - rho * (b.volume_l() + rv + gut);
    const double zero = draw.normal(0, u.zero_kg);
    for (int i = 0; i < 4; ++i) {
        in.trials_kg.push_back(true_kg + zero + draw.normal(0, std::hypot(u.trial_floor_kg, u.reading_kg)));
        in.trials_u_kg.push_back(u.reading_kg);
    }
    in.trial_rule = "mean_all";
    in.water_temp_c = temperature + draw.normal(0, u.water_temp_c);
    in.lung.route = route;
    if (route == hydrostatic::LungRoute::measured) in.lung.residual_volume_l = rv + draw.normal(0, 0.1);
    return hydrostatic::compute(in);
}

Outcome<Result> in_the_chamber(const Body& b, Draw& draw)
{
    displacement::Input in;
    person(in, b, draw);
    const displacement::InputErrors& u = in.errors;
    const bool man = b.sex == Sex::male;
    const double frc =
        man ? 0.0472 * b.height_cm + 0.0090 * b.age_y - 5.290 : 0.0360 * b.height_cm + 0.0031 * b.age_y - 3.182;
    const double gas = draw.normal(frc + (man ? 0.6 : 0.35), 0.44);
    const double area = 71.84 * std::pow(b.mass(), 0.425) * std::pow(b.height_cm, 0.725);
    const double surface = -4.67e-5 * area * draw.normal(1, u.surface_fraction),
                 calibration = draw.normal(0, u.calibration_l);
    for (int i = 0; i < 2; ++i)
        in.raw_volumes_l.push_back(b.volume_l() + surface - 0.40 * gas + calibration + draw.normal(0, u.single_run_l));
    return displacement::compute(in);
}

Outcome<Result> by_current(const Body& b, Draw& draw)
{
    impedance::Input in;
    in.sex = b.sex;
    in.age_y = b.age_y;
    in.height_cm = b.height_cm + draw.normal(0, 0.5);
    in.mass_kg = b.mass() + draw.normal(0, 0.05);
    // the resistance at which the equation is off by what was published of it
    const double s = b.sex == Sex::male ? 1 : 0, reactance = draw.uniform(45, 65);
    const double index =
        (b.lean_kg + draw.normal(0, 1.72) + 4.104 - 0.231 * b.mass() - 0.130 * reactance - 4.229 * s) / 0.518;
    const double resistance = b.height_cm * b.height_cm / index;
    in.whole_body = {{50, resistance * draw.normal(1, in.errors.resistance_share),
        reactance + draw.normal(0, in.errors.reactance_ohm)}};
    return impedance::compute(in);
}

Outcome<Result> by_xray(const Body& b, Draw& draw)
{
    xray::Input in;
    in.sex = b.sex;
    in.age_y = b.age_y;
    in.height_cm = b.height_cm + draw.normal(0, 0.5);
    in.mass_kg = b.mass() + draw.normal(0, 0.05);
    const xray::InputErrors& u = in.errors;
    // what the tables, and posture and water, read as fat instead of lean
    const double shift =
        draw.normal(0, u.tables_percent / 100 * b.mass()) + draw.normal(0, u.partition_kg * b.mass() / 75);
    const double bone_read = draw.normal(1, u.bone_share);
    const double share[] = {0.06, 0.05, 0.05, 0.46, 0.19, 0.19};
    for (std::size_t i = 0; i < xray::part_count; ++i) {
        const double fat = share[i] * (b.fat_kg + shift), bone = share[i] * b.bone_mineral_kg,
                     lean = share[i] * (b.lean_kg - b.bone_mineral_kg - shift);
        in.given[i] = true;
        in.regions[i] = {1000 * fat, 1000 * lean, 1000 * bone * bone_read};
    }
    return xray::compute(in);
}

Outcome<Result> together(const Body& b, Draw& draw, const char* equation)
{
    // volume of a chamber with measured lungs, water of the analyser, mineral of a scan: as the program takes them
    compartments::Input in;
    in.sex = b.sex;
    in.age_y = b.age_y;
    in.height_cm = b.height_cm + draw.normal(0, 0.5);
    in.mass_kg = b.mass() + draw.normal(0, in.errors.mass_kg);
    in.volume_l = b.volume_l() + draw.normal(0, in.errors.volume_l);
    in.errors.water_kg = b.sex == Sex::male ? 3.8 : 2.6;
    in.water_kg = b.water_kg + draw.normal(0, in.errors.water_kg);
    in.bone_kg = b.bone_mineral_kg * draw.normal(1, in.errors.bone_share);
    in.equation = equation;
    return compartments::compute(in);
}

} // namespace

int main(int argc, char** argv)
{
    CLI::App options{"How often the truth lies inside the stated interval"};
    int people = 4000;
    unsigned long seed = 20261126;
    options.add_option("--people", people, "Virtual clients a method");
    options.add_option("--seed", seed, "");
    CLI11_PARSE(options, argc, argv);
    Draw draw(seed);
    Table table;
    for (int i = 0; i < people; ++i) {
        const Body b = draw.body();
        tell(table, "hydrostatic, residual volume measured", under_water(b, draw, hydrostatic::LungRoute::measured), b);
        tell(table, "hydrostatic, residual volume by age and height",
            under_water(b, draw, hydrostatic::LungRoute::age_height), b);
        tell(table, "air displacement, lung gas predicted", in_the_chamber(b, draw), b);
        tell(table, "impedance, Kyle 2001", by_current(b, draw), b);
        tell(table, "absorptiometry", by_xray(b, draw), b);
        for (const compartments::Equation& e : compartments::equations())
            tell(table, e.title, together(b, draw, e.id), b);
    }
    std::printf("%-50s %-18s %6s %8s %8s %8s\n", "method", "quantity", "n", "inside", "mean u", "bias");
    for (const auto& [key, c] : table)
        std::printf("%-50s %-18s %6d %7.1f%% %8.2f %+8.2f\n", key.first.c_str(), key.second.c_str(), c.n,
            100.0 * c.inside / c.n, c.u / c.n, c.bias / c.n);
}
