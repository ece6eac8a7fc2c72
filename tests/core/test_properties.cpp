// SPDX-License-Identifier: GPL-3.0-or-later
// What must hold for any body and any choice of equations: sums that add up, directions, and uncertainties that a
// simulated laboratory finds again.
#include "core/density/displacement.h"
#include "core/density/hydrostatic.h"

#include <gtest/gtest.h>

#include <functional>
#include <random>

using namespace fusain;

namespace {

std::mt19937_64 random_engine(4711);
double between(double low, double high) { return std::uniform_real_distribution<double>(low, high)(random_engine); }
double noise(double u) { return std::normal_distribution<double>(0, u)(random_engine); }
bool coin() { return between(0, 1) < 0.5; }

template <class Rows>
std::string any_of(const Rows& rows)
{
    return rows[static_cast<std::size_t>(between(0, static_cast<double>(rows.size())))].id;
}

void make_person(densitometry::Person& p)
{
    p.sex = coin() ? Sex::male : Sex::female;
    p.age_y = between(18, 69);
    p.height_cm = between(150, 200);
    p.mass_kg = between(17, 33) * p.height_cm * p.height_cm / 1e4;
    do p.conversion = any_of(density::conversions());
    while (!density::find(p.conversion)->pair(p.sex, p.age_y));
}

double density_of_water(const hydrostatic::Input& in, double warmer_by = 0)
{
    return water::density_tanaka_2001(in.water_temp_c + warmer_by) + water::density_from_salt(in.salinity_g_per_l);
}

/// A body of known density weighed under water, as its readings would stand.
hydrostatic::Input in_the_tank()
{
    hydrostatic::Input in;
    make_person(in);
    in.water_temp_c = between(30, 36);
    in.salinity_g_per_l = coin() ? 0 : between(0, 3);
    switch (static_cast<int>(between(0, 3))) {
    case 0: in.lung.residual_volume_l = between(0.9, 2.2); break;
    case 1: in.lung = {hydrostatic::LungRoute::vital_capacity, 0, between(3.2, 5.6), coin(), 22, 755, ""}; break;
    default: in.lung = {hydrostatic::LungRoute::age_height, 0, 0, true, 0, 0, any_of(lung::equations())};
    }
    const double volume = in.mass_kg / between(1.02, 1.08), water = density_of_water(in);
    const double under = in.mass_kg - (volume + 1.5) * water;
    for (int i = 0; i < 4; ++i) in.trials_kg.push_back(std::max(0.05, under + noise(0.01)));
    return in;
}

displacement::Input in_the_chamber()
{
    displacement::Input in;
    make_person(in);
    const double raw = in.mass_kg / between(1.03, 1.07);
    in.raw_volumes_l = {raw, raw + between(-0.09, 0.09)};
    if (coin())
        in.lung = {displacement::LungRoute::measured, between(2.6, 4.2), between(0.05, 0.2), ""};
    else
        in.lung.equation = any_of(lung::gas_equations());
    return in;
}

/// What every density method promises of its result.
template <class Input>
void check_sums(const Input& in, const Result& r)
{
    using namespace quantity;
    for (const Value& q : r.values) {
        ASSERT_TRUE(std::isfinite(q.value)) << q.quantity->id;
        ASSERT_TRUE(std::isfinite(q.u) && q.u >= 0) << q.quantity->id;
    }
    const auto v = [&](const Quantity& q) { return r[q].value; };
    EXPECT_NEAR(v(fat_mass) + v(fat_free_mass), in.mass_kg, 1e-9);
    EXPECT_NEAR(v(ffmi) + v(fmi), v(bmi), 1e-9);
    EXPECT_NEAR(v(body_density) * v(body_volume), in.mass_kg, 1e-9);
    EXPECT_NEAR(v(fat_mass), in.mass_kg * v(fat_percent) / 100, 1e-9);
    EXPECT_NEAR(v(fmi) * in.height_cm * in.height_cm, 1e4 * v(fat_mass), 1e-6);
    // the budget is the whole doubt, ranked, and its two parts
    EXPECT_EQ(r.doubts.size(), 4u) << "one for every headline quantity";
    for (const Doubt& d : r.doubts) {
        double shares = 0, variance = 0, last = INFINITY;
        for (const auto& s : d.budget.shares) {
            shares += s.fraction;
            variance += s.u * s.u;
            EXPECT_LE(s.u, last);
            last = s.u;
        }
        EXPECT_NEAR(shares, 1, 1e-9) << d.quantity->id;
        EXPECT_NEAR(std::sqrt(variance), r[*d.quantity].u, 1e-9) << d.quantity->id;
        EXPECT_EQ(d.budget.value, v(*d.quantity));
    }
    EXPECT_NEAR(std::hypot(r[quantity::fat_percent].u_measurement(), r[quantity::fat_percent].u_model),
        r[quantity::fat_percent].u, 1e-9);
    // who knows fat in percent knows fat in kilograms no better than mass allows
    EXPECT_GE(r[quantity::fat_mass].u, 0.9 * in.mass_kg / 100 * r[quantity::fat_percent].u - 0.05);
    // the ladder begins and ends at what it says
    double at = 0;
    for (const auto& rung : r.ladder) {
        if (rung.total && &rung != &r.ladder.front()) EXPECT_NEAR(rung.size, at, 1e-9) << rung.title;
        at = rung.total ? rung.size : at + rung.size;
    }
    EXPECT_NEAR(r.ladder.back().size, v(body_volume), 1e-9);
    const auto told = std::find_if(r.story.begin(), r.story.end(), [](const StoryStep& s) { return s.symbol == "%F"; });
    ASSERT_NE(told, r.story.end());
    EXPECT_EQ(told->value, v(fat_percent));
}

/// Standard deviation of % fat when the laboratory is simulated: every input of the budget drawn anew.
template <class Again>
double simulated_u(Again again, int n = 4000)
{
    double mean = 0, squares = 0;
    for (int i = 1; i <= n; ++i) {
        const double x = again(), step = x - mean;
        mean += step / i;
        squares += step * (x - mean);
    }
    return std::sqrt(squares / (n - 1));
}

} // namespace

TEST(Properties, SumsAddUpForAnyBodyAndAnyChoice)
{
    int given = 0;
    for (int i = 0; i < 400; ++i) {
        const auto tank = in_the_tank();
        if (const auto r = hydrostatic::compute(tank)) {
            check_sums(tank, *r);
            ++given;
        }
        const auto chamber = in_the_chamber();
        if (const auto r = displacement::compute(chamber)) {
            check_sums(chamber, *r);
            ++given;
        }
        if (HasFatalFailure()) return;
    }
    EXPECT_GT(given, 700) << "the bodies are plausible: hardly any is refused";
}

TEST(Properties, EveryInputPushesTheWayItMust)
{
    using hydrostatic::compute;
    struct Row {
        const char* what;
        std::function<void(hydrostatic::Input&)> change;
        int fat; ///< +1: more, −1: less
    };
    const Row tank[] = {
        {"heavier under water",
            [](auto& in) {
                for (double& kg : in.trials_kg) kg += 0.1;
            },
            -1},
        {"warmer water, which carries less", [](auto& in) { in.water_temp_c += 1; }, +1},
        {"saltier water, which carries more", [](auto& in) { in.salinity_g_per_l += 1; }, -1},
        {"more gut gas", [](auto& in) { in.gut_gas_l += 0.05; }, -1},
    };
    struct ChamberRow {
        const char* what;
        std::function<void(displacement::Input&)> change;
        int fat;
    };
    const ChamberRow chamber[] = {
        {"a larger volume",
            [](auto& in) {
                for (double& l : in.raw_volumes_l) l += 0.1;
            },
            +1},
        {"more mass in the same volume", [](auto& in) { in.mass_kg += 0.2; }, -1},
        {"more gas in the lungs",
            [](auto& in) {
                in.lung = {displacement::LungRoute::measured, 4.0, 0.1, ""};
            },
            +1},
    };
    for (int i = 0; i < 100; ++i) {
        auto in = in_the_tank();
        const auto before = compute(in);
        if (!before) continue;
        for (const Row& row : tank) {
            auto other = in;
            row.change(other);
            if (const auto after = compute(other))
                EXPECT_GT(row.fat * ((*after)[quantity::fat_percent].value - (*before)[quantity::fat_percent].value), 0)
                    << row.what;
        }
        auto air = in_the_chamber();
        air.lung = {displacement::LungRoute::measured, 3.0, 0.1, ""};
        const auto was = displacement::compute(air);
        if (!was) continue;
        for (const ChamberRow& row : chamber) {
            auto other = air;
            row.change(other);
            if (const auto after = displacement::compute(other))
                EXPECT_GT(row.fat * ((*after)[quantity::fat_percent].value - (*was)[quantity::fat_percent].value), 0)
                    << row.what;
        }
    }
}

TEST(Properties, ASimulatedLaboratoryFindsTheDoubtAgainUnderWater)
{
    for (int body = 0; body < 6; ++body) {
        auto in = in_the_tank();
        in.lung = {};
        in.lung.residual_volume_l = between(1.0, 1.8);
        const auto r = hydrostatic::compute(in);
        if (!r) continue;
        const auto conversion = densitometry::conversion_input(in);
        const auto pair = *density::find(in.conversion)->pair(in.sex, in.age_y);
        const double under = (*r)[quantity::underwater_mass].value, u_under = (*r)[quantity::underwater_mass].u;
        const double sd = simulated_u([&] {
            const double mass = in.mass_kg + noise(in.errors.mass_kg);
            const double water = density_of_water(in, noise(in.errors.water_temp_c));
            const double volume = hydrostatic::body_volume_l(mass, under + noise(u_under), water,
                in.lung.residual_volume_l + noise(lung::measured_error_l), in.gut_gas_l + noise(in.errors.gut_gas_l));
            return density::percent_fat(mass / volume + noise(conversion.u), pair);
        });
        EXPECT_NEAR(sd, (*r)[quantity::fat_percent].u, 0.06 * sd) << in.conversion;
    }
}

TEST(Properties, ASimulatedLaboratoryFindsTheDoubtAgainInTheChamber)
{
    for (int body = 0; body < 6; ++body) {
        auto in = in_the_chamber();
        in.lung = {displacement::LungRoute::measured, between(2.8, 3.8), 0.12, ""};
        const auto r = displacement::compute(in);
        if (!r) continue;
        const auto conversion = densitometry::conversion_input(in);
        const auto pair = *density::find(in.conversion)->pair(in.sex, in.age_y);
        const double raw = (*r)[quantity::raw_volume].value, u_raw = (*r)[quantity::raw_volume].u;
        const double sd = simulated_u([&] {
            const double mass = in.mass_kg + noise(in.errors.mass_kg);
            const double area = displacement::du_bois_1916_cm2(mass, in.height_cm + noise(in.errors.height_cm));
            const double artifact =
                displacement::surface_area_artifact_l(area) * (1 + noise(in.errors.surface_fraction));
            const double volume = displacement::body_volume_l(
                raw + noise(u_raw), artifact, in.lung.thoracic_gas_volume_l + noise(in.lung.u_l));
            return density::percent_fat(mass / volume + noise(conversion.u), pair);
        });
        EXPECT_NEAR(sd, (*r)[quantity::fat_percent].u, 0.06 * sd) << in.conversion;
    }
}

TEST(Properties, TheUncertaintyOfTheTrialsIsTheScatterOfManyLaboratories)
{
    // true readings that scatter by more than the floor: the mean of those that count lies within its own u as often as
    // it should
    constexpr double truth = 3.0, scatter = 0.045;
    int within = 0, n = 0;
    for (int lab = 0; lab < 600; ++lab) {
        hydrostatic::Input in;
        in.sex = Sex::male;
        in.age_y = 30;
        in.height_cm = 178;
        in.mass_kg = 75;
        in.water_temp_c = 34;
        in.lung.residual_volume_l = 1.6;
        in.trial_rule = "last_three_mean"; // a rule that does not choose the heaviest
        const double zero = noise(in.errors.zero_kg);
        for (int i = 0; i < 6; ++i) in.trials_kg.push_back(truth + zero + noise(scatter));
        const auto r = hydrostatic::compute(in);
        if (!r) continue;
        ++n;
        within += std::abs((*r)[quantity::underwater_mass].value - truth) < 2 * (*r)[quantity::underwater_mass].u;
    }
    ASSERT_GT(n, 500);
    EXPECT_GT(within, 0.90 * n);
    EXPECT_LT(within, 0.995 * n) << "a doubt that is never passed is too large";
}
