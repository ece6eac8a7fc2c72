// SPDX-License-Identifier: GPL-3.0-or-later
// Every equation against published check values, and every table for what a row must have.
#include "core/time/compare.h"
#include "core/density/density.h"
#include "core/air_and_water/gas.h"
#include "core/base/limits.h"
#include "core/air_and_water/lung.h"
#include "core/body/reference.h"
#include "core/density/trials.h"
#include "core/base/units.h"
#include "core/air_and_water/water.h"

#include <gtest/gtest.h>

#include <cmath>
#include <set>

using namespace fusain;

TEST(Water, DensityAtTabulatedTemperatures)
{
    const double rows[][2] = {{20, 0.998207}, {30, 0.995649}, {34, 0.994372}, {37, 0.993329}};
    for (const auto& [c, kg_per_l] : rows) EXPECT_NEAR(water::density_tanaka_2001(c), kg_per_l, 5e-7) << c << " °C";
    EXPECT_NEAR(water::density_from_salt(10.0), 0.007, 1e-12);
}

TEST(Gas, RoomToBodyConditionsAt760)
{
    const double rows[][2] = {{20, 1.1018}, {22, 1.0910}, {25, 1.0743}, {37, 1.0000}};
    for (const auto& [c, factor] : rows) EXPECT_NEAR(gas::atps_to_btps(c, 760.0), factor, 6e-5) << c << " °C";
}

TEST(Lung, EquationsByHand)
{
    struct Row {
        const char* id;
        double male, female; // 178 cm, 30 y
    };
    const Row rows[] = {{"quanjer_1993", 1.31 * 1.78 + 0.66 - 1.23, 1.81 * 1.78 + 0.48 - 2.00},
        {"goldman_becklake_1959", 0.027 * 178 + 0.51 - 3.447, 0.032 * 178 + 0.27 - 3.900},
        {"boren_black", 0.019 * 178 + 0.345 - 2.24, 0.023 * 178 + 0.63 - 2.978},
        {"crapo_1982", 0.0216 * 178 + 0.621 - 2.840, 0.0197 * 178 + 0.603 - 2.421}};
    ASSERT_EQ(std::size(rows), lung::equations().size()) << "an equation has no hand-computed row here";
    for (const Row& r : rows) {
        const lung::Equation* e = lung::find(r.id);
        ASSERT_TRUE(e) << r.id;
        EXPECT_NEAR(e->predict(Sex::male, 178, 30), r.male, 1e-12) << r.id;
        EXPECT_NEAR(e->predict(Sex::female, 178, 30), r.female, 1e-12) << r.id;
        EXPECT_NEAR(e->predict_grad(Sex::male, 178.0, 30.0).v, r.male, 1e-12) << r.id;
    }
    // the inch form of Goldman & Becklake is the same equation
    EXPECT_NEAR(0.06858 / units::cm_per_in, 0.027, 1e-9);
    EXPECT_NEAR(0.08128 / units::cm_per_in, 0.032, 1e-9);
    EXPECT_DOUBLE_EQ(lung::wilmore_1969_rv(Sex::male, 5.0), 1.2);
    EXPECT_DOUBLE_EQ(lung::wilmore_1969_rv(Sex::female, 5.0), 1.4);
    ASSERT_EQ(lung::gas_equations().size(), 1u) << "a gas equation has no hand-computed row here";
    EXPECT_NEAR(lung::find_gas("mccrory_1998")->predict(Sex::male, 178, 30), 0.0472 * 178 + 0.27 - 5.290 + 0.6, 1e-12);
    EXPECT_NEAR(lung::find_gas("mccrory_1998")->predict_grad(Sex::female, 178.0, 30.0).v,
        0.0360 * 178 + 0.093 - 3.182 + 0.35, 1e-12);
    EXPECT_NEAR(lung::crapo_1981_fvc(Sex::female, 170, 30), 0.0491 * 170 - 0.648 - 3.590, 1e-12);
}

TEST(Density, PairsBelongToRealTissues)
{
    const std::set<std::string> outside_by_design = {"brozek_1963", "schutte_1984"};
    for (const auto& conversion : density::conversions())
        for (const auto& band : conversion.bands)
            for (const density::Pair& p : {band.male, band.female}) {
                EXPECT_GE(p.c1 / p.c2, 1.05) << conversion.id;
                EXPECT_LE(p.c1 / p.c2, 1.12) << conversion.id;
                const double fat = p.c1 / (1 + p.c2);
                const bool ok = fat >= 0.898 && fat <= 0.903;
                EXPECT_EQ(ok, outside_by_design.count(conversion.id) == 0) << conversion.id << " fat density " << fat;
            }
}

TEST(Density, ConstantsOfEachBand)
{
    struct Row {
        const char* id;
        Sex sex;
        double age, c1, c2;
    };
    const Row rows[] = {
        {"siri_1961", Sex::male, 30, 4.95, 4.50},
        {"brozek_1963", Sex::female, 30, 4.570, 4.142},
        {"schutte_1984", Sex::male, 20, 4.374, 3.928},
        {"wagner_heyward_2001", Sex::male, 30, 4.858, 4.394},
        {"ortiz_1992", Sex::female, 30, 4.83, 4.37},
        {"lohman_1989", Sex::male, 7, 5.38, 4.97},
        {"lohman_1989", Sex::male, 8.99, 5.38, 4.97},
        {"lohman_1989", Sex::male, 9, 5.30, 4.89},
        {"lohman_1989", Sex::female, 12, 5.25, 4.84},
        {"lohman_1989", Sex::female, 14.5, 5.12, 4.69},
        {"lohman_1989", Sex::female, 16, 5.07, 4.64},
        {"lohman_1989", Sex::male, 18.9, 4.98, 4.53},
        {"heyward_wagner_2004_older", Sex::male, 70, 4.97, 4.52},
        {"heyward_wagner_2004_older", Sex::female, 70, 5.02, 4.57},
        {"heyward_wagner_2004_american_indian", Sex::female, 30, 4.81, 4.34},
        {"heyward_wagner_2004_hispanic", Sex::female, 30, 4.87, 4.41},
        {"heyward_wagner_2004_japanese", Sex::male, 30, 4.97, 4.52},
        {"heyward_wagner_2004_japanese", Sex::female, 30, 4.76, 4.28},
        {"heyward_wagner_2004_endurance", Sex::male, 30, 5.03, 4.59},
        {"heyward_wagner_2004_endurance", Sex::female, 30, 4.95, 4.50},
        {"heyward_wagner_2004_resistance", Sex::male, 30, 5.21, 4.78},
        {"heyward_wagner_2004_resistance", Sex::female, 30, 4.97, 4.52},
    };
    std::set<std::string> covered;
    for (const Row& r : rows) {
        const auto* c = density::find(r.id);
        ASSERT_TRUE(c) << r.id;
        const auto* p = c->pair(r.sex, r.age);
        ASSERT_TRUE(p) << r.id << " at " << r.age;
        EXPECT_DOUBLE_EQ(p->c1, r.c1) << r.id << " at " << r.age;
        EXPECT_DOUBLE_EQ(p->c2, r.c2) << r.id << " at " << r.age;
        covered.insert(r.id);
    }
    for (const auto& c : density::conversions()) EXPECT_TRUE(covered.count(c.id)) << c.id << " has no row here";
    EXPECT_FALSE(density::find("lohman_1989")->pair(Sex::male, 19));
    EXPECT_FALSE(density::find("siri_1961")->covers(Sex::male, 65));
    EXPECT_FALSE(density::find("ortiz_1992")->covers(Sex::male, 30));
}

template <class Rows>
void complete(const Rows& rows, const char* table)
{
    std::set<std::string> ids;
    for (const auto& row : rows) {
        EXPECT_TRUE(ids.insert(row.id).second) << table << ": duplicate id " << row.id;
        EXPECT_TRUE(row.title && *row.title) << table << ": " << row.id << " has no title";
        EXPECT_TRUE(row.source && *row.source) << table << ": " << row.id << " has no source";
    }
}

TEST(Compare, MethodsStandBesideEachOtherAndAreNeverJoined)
{
    struct Row {
        Method first, second;
        double a, b, difference;
        bool usual;
    };
    // the same pair, asked the other way
    const Row rows[] = {{method::air_displacement, method::hydrostatic, 22.4, 21.8, 0.6, true},
        {method::hydrostatic, method::air_displacement, 21.8, 22.4, 0.6, true},
        {method::air_displacement, method::hydrostatic, 20, 25, -5, false},
        {method::absorptiometry, method::impedance, 30, 23, -7, false},
        {method::air_displacement, method::hydrostatic, 20, 24, -4, true}};
    for (const Row& r : rows) {
        const auto beside = compare::beside(r.first, r.a, r.second, r.b);
        ASSERT_TRUE(beside);
        EXPECT_NEAR(beside->difference, r.difference, 1e-9);
        EXPECT_EQ(beside->usual, r.usual) << beside->sentence;
        EXPECT_NE(beside->sentence.find(r.usual ? "so they agree" : "look at both again"), std::string::npos);
    }
    EXPECT_FALSE(compare::beside(method::impedance, 20, method::hydrostatic, 20))
        << "no known difference: nothing is said";
    for (const auto& d : compare::differences()) EXPECT_TRUE(d.low < d.high && *d.source);
}

TEST(Tables, RowsAreComplete)
{
    complete(density::conversions(), "conversions");
    complete(lung::equations(), "lung equations");
    complete(lung::gas_equations(), "lung gas equations");
    complete(trials::rules(), "trial rules");
    EXPECT_TRUE(density::find(density::default_id));
    EXPECT_TRUE(trials::find(trials::default_id));
}

TEST(Limits, NameFieldValueAndRange)
{
    struct Row {
        const char* field;
        double value;
        bool allowed;
        const char* hint;
    };
    const Row rows[] = {
        {"mass_kg", 0, false, ""},
        {"mass_kg", 0.001, true, ""},
        {"mass_kg", NAN, false, "not a number"},
        {"mass_kg", INFINITY, false, ""},
        {"height_cm", 1.78, false, "metres"},
        {"height_cm", 50, true, ""},
        {"height_cm", 260.1, false, ""},
        {"age_y", 3, true, ""},
        {"age_y", 2.99, false, ""},
        {"hydrostatic.water_temp_c", 94.3, false, "°F"},
        {"hydrostatic.water_temp_c", 10, true, ""},
        {"hydrostatic.lung.barometric_mmhg", 1013, false, "hPa"},
        {"hydrostatic.lung.vital_capacity_l", 4800, false, "millilitres"},
        {"hydrostatic.trials_kg", 2430, false, "grams"},
        {"body_density_kg_per_l", 1.121, false, ""},
    };
    for (const Row& r : rows) {
        const auto m = limits::check(r.field, r.value);
        EXPECT_EQ(!m, r.allowed) << r.field << " " << r.value;
        if (!m) continue;
        EXPECT_EQ(m->field, r.field);
        EXPECT_NE(m->text.find(r.field), std::string::npos) << m->text;
        EXPECT_NE(m->text.find(limits::plain(limits::of(r.field).high)), std::string::npos) << m->text;
        EXPECT_NE(m->text.find(r.hint), std::string::npos) << m->text;
    }
}

TEST(Units, ThereAndBack)
{
    EXPECT_DOUBLE_EQ(units::lb_to_kg(150), 68.0388555);
    EXPECT_DOUBLE_EQ(units::in_to_cm(70), 177.8);
    EXPECT_NEAR(units::f_to_c(94.28), 34.6, 1e-12);
    for (double v : {0.1, 34.6, 171.0, 250.0}) {
        EXPECT_NEAR(units::lb_to_kg(units::kg_to_lb(v)), v, 1e-12);
        EXPECT_NEAR(units::in_to_cm(units::cm_to_in(v)), v, 1e-12);
        EXPECT_NEAR(units::f_to_c(units::c_to_f(v)), v, 1e-12);
    }
}

TEST(Reference, PlaceInRange)
{
    const reference::Row only[] = {{Sex::female, 20, 40, 21, 33, "women of 20 to 39"}};
    const reference::RangeSet set{"x", "X", "source", only};
    using Where = reference::Place::Where;
    const std::pair<double, Where> rows[] = {{20.9, Where::below}, {21, Where::lower_edge}, {27, Where::middle},
        {32.9, Where::upper_edge}, {33.1, Where::above}};
    for (const auto& [fat, where] : rows) EXPECT_EQ(reference::place(set, Sex::female, 39.9, fat)->where, where) << fat;
    EXPECT_FALSE(reference::place(set, Sex::female, 40, 25));
    EXPECT_FALSE(reference::place(set, Sex::male, 30, 25));
}
