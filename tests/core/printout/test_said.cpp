// SPDX-License-Identifier: GPL-3.0-or-later
// What an instrument shows finished: typed, taught on paper, held against itself, and told.
#include "core/base/limits.h"
#include "core/printout/said.h"
#include "core/printout/taught.h"
#include "core/printout/typed.h"

#include <gtest/gtest.h>

#include <cmath>

using namespace fusain;
using namespace fusain::printout;

namespace {

printout::Value value(const char* quantity, const char* text, const char* unit = "kg", const char* segment = "")
{
    Field f;
    f.key = std::string(segment) + quantity;
    f.label = f.key;
    f.quantity = quantity;
    f.unit = unit;
    f.segment = segment;
    return **typed_value(f, text);
}

Reading reading(std::vector<printout::Value> values)
{
    Reading r;
    r.values = std::move(values);
    return r;
}

Said said(const Reading& r, Method method = method::impedance)
{
    Said s{method};
    s.sex = Sex::female;
    s.age_y = 31;
    s.height_cm = 171;
    s.mass_kg = 68.4;
    s.mass_from = "printout";
    s.printed = &r;
    s.u_fat_percent = 3.5;
    s.how = "typed";
    return s;
}

std::string misfits(const Reading& r)
{
    std::string out;
    for (const Sum& s : broken(r)) out += (out.empty() ? "" : "; ") + s.text.substr(0, s.text.find(':'));
    return out;
}

/// Words in rows: "Weight ....... 68.4 kg" with spaces of 2 mm a letter.
Page page(std::initializer_list<const char*> rows)
{
    Page p;
    p.width_mm = 210;
    p.height_mm = 297;
    double y = 20;
    for (const char* row : rows) {
        const std::string text = row;
        for (std::size_t i = 0; i < text.size();) {
            const std::size_t end = std::min(text.find(' ', i), text.size());
            if (end > i) {
                Word w;
                w.text = text.substr(i, end - i);
                w.box = w.on_paper = {10 + 2.0 * static_cast<double>(i), y, 2.0 * static_cast<double>(end - i), 3};
                p.words.push_back(w);
            }
            i = end + 1;
        }
        y += 7;
    }
    return p;
}

} // namespace

TEST(Said, WhatIsTypedIsANumberOfItsField)
{
    const struct {
        const char *unit, *text, *expect;
        int decimals;
    } rows[] = {{"kg", "68.4", "68.4 (1)", 1}, {"kg", " 68,4 ", "68.4 (1)", 1}, {"kg", "68", "68 (0)", 1},
        {"kg", "68.45", "decimals", 1}, {"kg", "68.45", "68.45 (2)", -1}, {"kg", "68.4 kg", "68.4 (1)", 1},
        {"kg", "150.8 lb", "68.402 (1)", 1}, {"kg", "2310 g", "2.31 (3)", 1}, {"kg", "10 st 11 lb", "68.492 (0)", 1},
        {"st", "10 st 11", "10.786 (2)", 2}, {"kg", "68.4 %", "unit", 1}, {"kg", "sixty", "not_a_number", 1},
        {"kg", "6.8.4", "unit", 1}, {"", "-1.2", "-1.2 (1)", 1}, {"", "−1,2", "-1.2 (1)", 1},
        {"kg", "68.", "not_a_number", 1}, {"kg", ".5", "not_a_number", 1}, {"kg", "", "nothing", 1}};
    for (const auto& row : rows) {
        Field f;
        f.key = f.label = "x";
        f.unit = row.unit;
        f.decimals = row.decimals;
        const auto v = typed_value(f, row.text);
        EXPECT_EQ(!v                ? v.messages().front().code
                  : !v->has_value() ? "nothing"
                                    : limits::plain((*v)->value, 3) + " (" + std::to_string((*v)->decimals) + ")",
            row.expect)
            << row.text;
        if (!v) { EXPECT_EQ(v.messages().front().field, "x"); }
    }
    for (const auto& [text, low] : {std::pair{"50.4 - 68.2", 50.4}, {"50,4–68,2", 50.4}, {"50.4 to 68.2", 50.4},
             {"68.2 - 50.4", NAN}, {"50.4", NAN}, {"a - b", NAN}}) {
        const auto limits = typed_limits({}, text);
        EXPECT_EQ(limits && limits->has_value(), !std::isnan(low)) << text;
        if (limits && limits->has_value()) { EXPECT_EQ((*limits)->first, low); }
    }
}

TEST(Said, ANameSaysWhatItProbablyIs)
{
    const struct {
        const char *name, *label, *unit, *quantity, *segment;
    } rows[] = {{"Weight (kg)", "Weight", "kg", "mass_kg", ""}, {"Body fat (%)", "Body fat", "%", "fat_percent", ""},
        {"Fat mass kg", "Fat mass", "kg", "fat_mass_kg", ""},
        {"Fat-free mass, kg", "Fat-free mass", "kg", "fat_free_mass_kg", ""}, {"Fat", "Fat", "%", "fat_percent", ""},
        {"Body water (kg)", "Body water", "kg", "total_body_water_l", ""},
        {"Extracellular water (L)", "Extracellular water", "L", "extracellular_water_l", ""},
        {"Visceral fat area (cm²)", "Visceral fat area", "cm²", "", ""},
        {"Visceral fat (kg)", "Visceral fat", "kg", "visceral_fat_kg", ""},
        {"Visceral level", "Visceral level", "", "", ""},
        {"Phase angle (°)", "Phase angle", "°", "phase_angle_deg", ""},
        {"Resting energy (kcal)", "Resting energy", "kcal", "resting_kcal", ""},
        {"Right arm, lean (kg)", "Right arm, lean", "kg", "lean_kg", "right_arm"},
        {"Trunk, fat (%)", "Trunk, fat", "%", "fat_percent", "trunk"}, {"Score", "Score", "", "", ""},
        {"Skeletal muscle (lb)", "Skeletal muscle", "lb", "skeletal_muscle_kg", ""}};
    for (const auto& row : rows) {
        const Field f = named(row.name);
        EXPECT_EQ(f.label, row.label) << row.name;
        EXPECT_EQ(f.unit, row.unit) << row.name;
        EXPECT_EQ(f.quantity, row.quantity) << row.name;
        EXPECT_EQ(f.segment, row.segment) << row.name;
    }
    Layout l;
    l.id = l.title = "l";
    l.method = "impedance";
    for (const char* name : {"Right arm, lean (kg)", "Fat (%)", "Fat (%)"}) l.fields.push_back(named(name));
    number_keys(l);
    EXPECT_EQ(l.fields[1].key, "fat_percent");
    EXPECT_EQ(l.fields[2].key, "fat_percent_2");
}

TEST(Said, AClickOnAValueFindsItsName)
{
    const Marks marks;
    const struct {
        const char *what, *number;
        Page paper;
        const char *label, *unit, *quantity, *under;
        int decimals;
        bool range;
    } rows[] = {
        {"to its left", "68.4", page({"Weight      68.4 kg"}), "Weight", "kg", "mass_kg", "", 1, false},
        {"behind leaders", "27.6", page({"Body fat .............. 27.6 %"}), "Body fat", "%", "fat_percent", "", 1,
            false},
        {"with its limits", "68.4", page({"Weight: 68.4 kg (50.1 - 70.2)"}), "Weight", "kg", "mass_kg", "", 1, true},
        {"not another column's", "18.9", page({"Weight 68.4 kg      Fat mass 18.9 kg"}), "Fat mass", "kg",
            "fat_mass_kg", "", 1, false},
        {"above it", "1396", page({"Resting energy", "1396 kcal"}), "Resting energy", "kcal", "resting_kcal", "", 0,
            false},
        {"under a heading", "2.16", page({"Fat by segment", "Right arm   2.16 kg", "Left arm   2.11 kg"}), "Right arm",
            "kg", "fat_kg", "Fat by segment", 2, false},
    };
    for (const auto& row : rows) {
        std::size_t at = 0;
        while (row.paper.words[at].text != row.number) ++at;
        const auto f = taught(row.paper, at, marks);
        ASSERT_TRUE(f) << row.what << ": " << f.messages().front().text;
        EXPECT_EQ(f->label, row.label) << row.what;
        EXPECT_EQ(f->unit, row.unit) << row.what;
        EXPECT_EQ(f->decimals, row.decimals) << row.what;
        EXPECT_EQ(f->range, row.range) << row.what;
        EXPECT_EQ(f->quantity, row.quantity) << row.what;
        if (*row.under) { EXPECT_EQ(f->under, row.under) << row.what; }
    }
    const Page p = page({"Weight 68.4 kg"});
    EXPECT_EQ(taught(p, 0, marks).messages().front().code, "not_a_number");
    EXPECT_EQ(word_at(p, p.words[1].box.middle_x(), p.words[1].box.middle_y()), 1u);
    EXPECT_FALSE(word_at(p, 200, 200));
    EXPECT_EQ(decimal_of({page({"Weight 68,4 kg", "3.1 12,2"})}), ',');
}

TEST(Said, WhatMustFitDoesWithinRounding)
{
    const printout::Value mass = value("mass_kg", "68.4"), arm = value("lean_kg", "2.1", "kg", "right_arm");
    const auto five = [](const char* each, const char* trunk, bool head = false) {
        std::vector<printout::Value> out;
        for (const char* s : {"right_arm", "left_arm", "right_leg", "left_leg"})
            out.push_back(value("lean_kg", each, "kg", s));
        out.push_back(value("lean_kg", trunk, "kg", "trunk"));
        if (head) out.push_back(value("lean_kg", "3.0", "kg", "head"));
        return out;
    };
    const auto with = [](std::vector<printout::Value> more, std::vector<printout::Value> all) {
        all.insert(all.end(), more.begin(), more.end());
        return reading(std::move(all));
    };
    const struct {
        Reading r;
        const char* expect;
    } rows[] = {
        {reading({mass, value("fat_mass_kg", "18.9"), value("fat_free_mass_kg", "49.5")}), ""},
        {reading({mass, value("fat_mass_kg", "18.9"), value("fat_free_mass_kg", "49")}), ""}, // a tenth left out
        {reading({mass, value("fat_mass_kg", "19.8"), value("fat_free_mass_kg", "49.5")}),
            "Fat and fat-free mass do not make the mass"},
        {with(five("6.0", "21.0"), {value("fat_free_mass_kg", "49.5")}), ""}, // hands, feet and head are the rest
        {with(five("9.0", "21.0"), {value("fat_free_mass_kg", "49.5")}), "The segments, lean, are more than the whole"},
        {with(five("6.0", "21.0", true), {value("lean_soft_tissue_kg", "48.0")}), ""},
        {with(five("6.0", "21.0", true), {value("lean_soft_tissue_kg", "46.0")}),
            "The segments, lean, do not make the whole"},
        {reading({mass, value("body_volume_l", "65.10", "L"), value("body_density_kg_per_l", "1.0507", "kg/L")}), ""},
        {reading({mass, value("body_volume_l", "65.10", "L"), value("body_density_kg_per_l", "1.0570", "kg/L")}),
            "Body density does not fit"},
    };
    for (const auto& row : rows) EXPECT_EQ(misfits(row.r), row.expect) << row.r.values.size();
}

TEST(Said, TheOneThatIsWrongIsNamed)
{
    const auto suspect = [](const char* mass, const char* fat, const char* lean, const char* percent) {
        std::string out;
        for (const Suspect& s : suspects(reading({value("mass_kg", mass), value("fat_mass_kg", fat),
                 value("fat_free_mass_kg", lean), value("fat_percent", percent, "%")})))
            out += (out.empty() ? "" : ", ") + s.key + ' ' + limits::plain(s.would, 1);
        return out;
    };
    EXPECT_EQ(suspect("68.4", "18.9", "49.5", "27.6"), "");
    EXPECT_EQ(suspect("68.4", "19.8", "49.5", "27.6"), "fat_mass_kg 18.9") << "two digits exchanged";
    EXPECT_EQ(suspect("86.4", "18.9", "49.5", "27.6"), "mass_kg 68.4");
    EXPECT_EQ(suspect("68.4", "18.9", "45.9", "27.6"), "fat_free_mass_kg 49.5");
    EXPECT_EQ(suspect("68.4", "19.8", "45.9", "27.6"), "") << "two are wrong: which, the paper says";
}

TEST(Said, ItIsToldAsItIsPrinted)
{
    const Reading r =
        reading({value("mass_kg", "68.4"), value("fat_percent", "27.6", "%"), value("ecw_ratio", "38.2", "%"),
            value("lean_kg", "2310", "g", "right_arm"), value("", "7", ""), value("total_body_water_l", "36.2", "kg")});
    const auto told = compute(said(r));
    ASSERT_TRUE(told) << told.messages().front().text;
    EXPECT_EQ((*told)[quantity::fat_percent].value, 27.6);
    EXPECT_NEAR((*told)[quantity::fat_percent].u, 3.5, 1e-9);
    EXPECT_NEAR((*told)[quantity::fat_mass].value, 0.276 * 68.4, 1e-9) << "follows by sums";
    EXPECT_NEAR((*told)[quantity::ecw_ratio].value, 0.382, 1e-12) << "printed as percent";
    EXPECT_NEAR((*told)[quantity::segment_lean[0]].value, 2.31, 1e-12) << "in the quantity's unit";
    EXPECT_EQ((*told)[quantity::total_body_water].value, 36.2) << "a kilogram of water is a litre";
    bool own = false;
    for (const StoryStep& s : told->story) own = own || s.source.find("not published to us") != std::string::npos;
    EXPECT_TRUE(own);
    EXPECT_EQ(ways(said(r)).size(), 1u);

    const Reading nothing = reading({value("mass_kg", "68.4"), value("skeletal_muscle_kg", "25.1")});
    EXPECT_EQ(compute(said(nothing)).messages().front().code, "missing_field");
    EXPECT_TRUE(ways(said(nothing)).empty());
    // the instrument was told another height: its index is not taken for ours
    const Reading tall =
        reading({value("mass_kg", "68.4"), value("fat_percent", "27.6", "%"), value("bmi_kg_per_m2", "26.1", "kg/m²")});
    const auto by_record = compute(said(tall));
    ASSERT_TRUE(by_record);
    EXPECT_NEAR((*by_record)[quantity::bmi].value, 68.4 / 1.71 / 1.71, 1e-9);
    EXPECT_EQ(by_record.messages().back().code, "sum_differs");
    const Reading off =
        reading({value("mass_kg", "68.4"), value("fat_percent", "27.6", "%"), value("fat_mass_kg", "19.2")});
    EXPECT_EQ(compute(said(off)).messages().back().code, "sum_differs");
    const Reading far =
        reading({value("mass_kg", "68.4"), value("fat_percent", "27.6", "%"), value("fat_mass_kg", "29.2")});
    EXPECT_EQ(compute(said(far)).messages().front().code, "contradiction");
}

TEST(Said, WhatCanBeComputedFromItStandsBeside)
{
    const Reading current = reading({value("fat_percent", "27.6", "%"), value("resistance_50khz_ohm", "512", "Ω"),
        value("reactance_50khz_ohm", "61", "Ω")});
    auto s = said(current);
    ASSERT_GE(ways(s).size(), 3u);
    EXPECT_EQ(ways(s).front().id, as_printed);
    s.told_by = "kyle_2001";
    const auto kyle = compute(s);
    ASSERT_TRUE(kyle);
    // −4.104 + 0.518·171²/512 + 0.231·68.4 + 0.130·61
    EXPECT_NEAR(
        (*kyle)[quantity::fat_free_mass].value, -4.104 + 0.518 * 171 * 171 / 512 + 0.231 * 68.4 + 0.130 * 61, 1e-9);
    s.told_by = "siri_1961";
    EXPECT_EQ(compute(s).messages().front().code, "unknown_choice");
    const Reading raw_only = reading({current.values[1], current.values[2]});
    EXPECT_EQ(ways(said(raw_only)).front().id, "kyle_2001") << "the usual one where no fat is printed";

    const auto chamber = [](const char* percent, const char* volume) {
        return reading({value("fat_percent", percent, "%"), value("body_density_kg_per_l", "1.0400", "kg/L"),
            value("body_volume_l", volume, "L"), value("raw_volume_l", "63.65", "L"),
            value("thoracic_gas_volume_l", "3.200", "L")});
    };
    const Reading good = chamber("26.0", "65.77"), off = chamber("35.0", "65.77"), misread = chamber("26.0", "66.77");
    const auto air = [&](const Reading& r) { return compute(said(r, method::air_displacement)); };
    ASSERT_TRUE(air(good));
    const auto gap = [](const Outcome<Result>& r) {
        return std::count_if(
            r.messages().begin(), r.messages().end(), [](const Message& m) { return m.code == "gap"; });
    };
    EXPECT_EQ(gap(air(good)), 0) << "Siri makes 25.96 % of 1.0400";
    EXPECT_EQ(gap(air(off)), 1);
    EXPECT_EQ(gap(air(misread)), 1) << "volume from raw volume, skin and lung gas";
}

TEST(Said, WhoThePaperSpeaksOf)
{
    const auto client = [](const char* key, const char* words, double number = 0) {
        Identity i;
        i.key = key;
        i.said = words;
        i.value = number;
        i.step = 1;
        Reading r;
        r.client = {i};
        return r;
    };
    const Who who{"1042", "2026-11-30", Sex::female, 31.9, 171, 172.4};
    const struct {
        Reading r;
        bool fits;
    } rows[] = {{client("number", "1042"), true}, {client("number", "1043"), false},
        {client("at", "2026-11-30T07:12"), true}, {client("at", "2026-11-29T07:12"), false},
        {client("sex", "female"), true}, {client("sex", "male"), false}, {client("age_y", "", 31), true},
        {client("age_y", "", 32), true}, {client("age_y", "", 34), false}, {client("height_cm", "", 171), true},
        {client("height_cm", "", 174), true}, // of the record
        {client("height_cm", "", 177), false}};
    for (const auto& row : rows)
        EXPECT_EQ(of_another(row.r, who).empty(), row.fits) << row.r.client[0].key << ' ' << row.r.client[0].value;
}
