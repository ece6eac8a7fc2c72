// SPDX-License-Identifier: GPL-3.0-or-later
// Printouts as words on a page: what a layout finds there, and what it leaves to a person.
#include "core/printout/number.h"
#include "core/base/limits.h"
#include "core/printout/read.h"
#include "core/printout/taught.h"
#include "core/printout/text.h"

#include <gtest/gtest.h>

#include <cmath>

using namespace fusain;
using namespace fusain::printout;

namespace {

/// A page typed on a machine: every letter 2 mm wide, a row every 5 mm. A form feed begins the next page; "~" before a
/// word: it was read from a picture, and badly.
std::vector<Page> typed(const std::string& text, bool picture = false)
{
    std::vector<Page> out(1);
    double x = 10, y = 10;
    std::string word;
    const auto put = [&] {
        if (word.empty()) return;
        const bool badly = word[0] == '~';
        const std::string said = badly ? word.substr(1) : word;
        const double w = 2.0 * static_cast<double>(letters(word).size());
        Word one{said, {x - w, y, w - 0.4, 3}, {}, badly ? 0.3 : 1};
        one.on_paper = one.box;
        out.back().words.push_back(one);
        word.clear();
    };
    for (std::size_t i = 0; i < text.size(); ++i) {
        const char c = text[i];
        if (c == '\n' || c == '\f' || c == ' ') put();
        if (c == '\n') y += 5;
        if (c == '\f') {
            out.emplace_back();
            y = 10;
        }
        if (c == '\n' || c == '\f') {
            x = 10;
            continue;
        }
        if (c != ' ') word += c;
        if ((static_cast<unsigned char>(c) & 0xC0) != 0x80) x += 2;
    }
    put();
    for (std::size_t i = 0; i < out.size(); ++i) {
        out[i].width_mm = 210;
        out[i].height_mm = 297;
        out[i].picture = picture;
        out[i].number = i;
    }
    return out;
}

Field field(const char* key, const char* quantity, const char* label, const char* unit = "kg", int decimals = 1,
    const char* under = "", const char* segment = "")
{
    Field f;
    f.key = key;
    f.quantity = quantity;
    f.label = label;
    f.unit = unit;
    f.decimals = decimals;
    f.under = under;
    f.segment = segment;
    return f;
}

Layout layout(std::vector<Field> fields)
{
    Layout l;
    l.id = "l";
    l.method = "impedance";
    l.fields = std::move(fields);
    return l;
}

/// "fat=9.6 mass=71? number=1042 -score": what was read; "?": a person must look at it; "-": missing.
std::string told(const Outcome<Reading>& r)
{
    if (!r) return r.messages().front().code;
    std::string out;
    const auto add = [&](const std::string& text) { out += (out.empty() ? "" : " ") + text; };
    for (const Value& v : r->values) {
        std::string one = v.key + "=" + limits::plain(v.value, 3);
        if (v.low) one += "(" + limits::plain(*v.low, 3) + ".." + limits::plain(*v.high, 3) + ")";
        add(one + (r->is_doubtful(v.key) ? "?" : ""));
    }
    for (const Identity& i : r->client)
        add(i.key + "=" + (i.said.empty() ? limits::plain(i.value, 2) : i.said) +
            (r->is_doubtful("client." + i.key) ? "?" : ""));
    for (const std::string& key : r->missing) add("-" + key);
    return out;
}

bool says(const Outcome<Reading>& r, const std::string& code)
{
    return std::any_of(r.messages().begin(), r.messages().end(), [&](const Message& m) { return m.code == code; });
}

} // namespace

TEST(Printout, ANumberIsFoundByItsLabel)
{
    const Field mass = field("mass", "mass_kg", "Weight"), fat = field("fat", "fat_mass_kg", "Body fat mass"),
                percent = field("pct", "fat_percent", "Body fat", "%");
    Field ranged = mass;
    ranged.range = true;
    const Field arm = field("lean", "lean_kg", "Right arm", "kg", 2, "Lean", "right_arm"),
                arm_fat = field("fat", "fat_kg", "Right arm", "kg", 2, "Fat", "right_arm");
    Layout ends = layout({mass});
    ends.headings = {"Earlier values"};
    Layout comma = layout({mass}), thousands = layout({field("rest", "resting_kcal", "Rest", "kcal", 0)});
    comma.decimal = ',';
    thousands.thousands = " ";
    const struct {
        const char* what;
        Layout by;
        const char* text;
        const char* expect;
    } rows[] = {
        {"to its left", layout({mass}), "Weight        61.8 kg", "mass=61.8"},
        {"one space away, with a colon", layout({mass}), "Weight: 61.8 kg", "mass=61.8"},
        {"without a unit", layout({mass}), "Weight   61.8", "mass=61.8"},
        {"the unit beside the label", layout({mass}), "Weight (kg)   61.8", "mass=61.8"},
        {"another unit of the kind", layout({mass}), "Weight   136.2 lb", "mass=61.779"},
        {"a unit of another kind", layout({mass}), "Weight   61.8 %", "mass=61.8?"},
        {"above it", layout({mass, fat}), "Weight      Body fat mass\n\n61.8 kg      12.3 kg", "mass=61.8 fat=12.3"},
        {"a longer label is another", layout({percent, fat}), "Body fat mass   12.3 kg\nBody fat   19.9 %",
            "pct=19.9 fat=12.3"},
        {"of two numbers the one with its unit", layout({fat, field("pct", "fat_percent", "Body fat mass", "%")}),
            "Body fat mass   12.3 kg   19.9 %", "fat=12.3 pct=19.9"},
        {"limits", layout({ranged}), "Weight   61.8 kg (50.4 – 68.2)", "mass=61.8(50.4..68.2)"},
        {"limits without brackets", layout({ranged}), "Weight   61.8 kg   50.4 - 68.2", "mass=61.8(50.4..68.2)"},
        {"limits before it", layout({ranged}), "Weight   (50.4-68.2)   61.8 kg", "mass=61.8(50.4..68.2)"},
        {"limits that are not there", layout({ranged}), "Weight   61.8 kg", "mass=61.8?"},
        {"limits the wrong way round", layout({ranged}), "Weight   61.8 kg (68.2 – 50.4)", "mass=61.8(68.2..50.4)?"},
        {"sections one below the other", layout({arm, arm_fat}), "Lean\n Right arm   2.68\nFat\n Right arm   1.12",
            "lean=2.68 fat=1.12"},
        {"sections beside each other", layout({arm, arm_fat}),
            "Lean                     Fat\nRight arm   2.68 kg      Right arm   1.12 kg", "lean=2.68 fat=1.12"},
        {"where row and column cross", layout({arm, arm_fat}),
            "             Lean      Fat\nRight arm     2.68      1.12", "lean=2.68 fat=1.12"},
        {"a section goes on overleaf", layout({arm, arm_fat}), "Lean\n Right arm   2.68\nFat\f Right arm   1.12",
            "lean=2.68 fat=1.12"},
        {"a heading ends a section", ends, "Weight   61.8 kg\nEarlier values\nWeight   64.0 kg", "mass=61.8"},
        {"but not another column's", ends, "Height   166 cm      Earlier values\nWeight   61.8 kg     Weight   64.0 kg",
            "mass=61.8"},
        {"two numbers for one label", layout({mass}), "Weight   61.8 kg\nWeight   64.0 kg", "mass=61.8?"},
        {"a sentence is no row", layout({mass}), "Weight 2 kg more counts as a change\nWeight   61.8 kg", "mass=61.8"},
        {"another number of decimals", layout({mass}), "Weight   61.85 kg", "mass=61.85?"},
        {"a comma where a point is due", layout({mass}), "Weight   61,8 kg", "mass=61.8?"},
        {"a comma where it is due", comma, "Weight   61,8 kg", "mass=61.8"},
        {"groups of three", thousands, "Rest   1 396 kcal", "rest=1396"},
        {"read badly", layout({mass}), "Weight   ~61.8 kg", "mass=61.8?"},
    };
    for (const auto& row : rows) EXPECT_EQ(told(read(typed(row.text), row.by)), row.expect) << row.what;
    EXPECT_TRUE(says(read(typed("Weight   136.2 lb"), layout({mass})), "unit_converted"));
}

TEST(Printout, MisreadLettersAreForgivenWhileNothingElseIsNearer)
{
    const Layout water = layout({field("water", "total_body_water_l", "Body water", "L")}),
                 two = layout({field("lean", "lean_kg", "Trunk", "kg"), field("mark", "", "Trunx", "")});
    EXPECT_EQ(told(read(typed("Body watcr   35.3 L", true), water)), "water=35.3");
    EXPECT_EQ(told(read(typed("Body watcr   35.3 L", false), water)), "unreadable")
        << "a PDF's own text has no misread letters";
    EXPECT_EQ(told(read(typed("Body watcr   35.3 L\nBody water   36.0 L", true), water)), "water=36")
        << "the word itself stands there";
    EXPECT_EQ(told(read(typed("Trunk   4.2 kg\nTrun   7", true), two)), "lean=4.2 -mark")
        << "what is as near to another label is not guessed";
}

TEST(Printout, WhoIsOnThePaper)
{
    Layout l = layout({field("mass", "mass_kg", "Weight")});
    l.client = {"ID", "Tested on", "Height", "Age", "Sex"};
    const std::string weight = "Weight   61.8 kg\n";
    const struct {
        const char* text;
        const char* expect;
    } rows[] = {
        {"ID   1042\nTested on   2026-11-30 08:12\nHeight   166 cm\nAge   31\nSex   Female",
            "mass=61.8 number=1042 at=2026-11-30T08:12 height_cm=166 age_y=31 sex=female"},
        {"Operator ID   77", "mass=61.8"},
        {"Operator ID   77\nID: A-1042", "mass=61.8 number=A-1042"},
        {"ID   1042\fID   1042", "mass=61.8 number=1042"},
        {"ID   1042\fID   1043", "mass=61.8 number=1042?"},
        {"Height   1.66 m\nSex   M", "mass=61.8 height_cm=166 sex=male"},
        {"Height   5 ft 6 in", "mass=61.8 height_cm=167.64"},
        {"Tested on   30 Nov 2026, 8:12 PM", "mass=61.8 at=2026-11-30T20:12"},
        {"Tested on   03/04/2026", "mass=61.8 at=2026-04-03?"},
        {"Tested on   31/04/2026", "mass=61.8"},
    };
    for (const auto& row : rows) EXPECT_EQ(told(read(typed(weight + row.text), l)), row.expect) << row.text;
    EXPECT_TRUE(says(read(typed(weight + "ID   1042\fID   1043"), l), "two_clients"));
    // what stands on the page of another client may be another's
    EXPECT_EQ(told(read(typed("ID   1042\fID   1043\n" + weight), l)), "mass=61.8? number=1042?");
}

TEST(Printout, DatesAsPapersPrintThem)
{
    const struct {
        const char* text;
        DateOrder order;
        const char* expect;
    } rows[] = {{"2026-05-14 07:27", DateOrder::unknown, "2026-05-14T07:27"},
        {"14.05.2026", DateOrder::unknown, "2026-05-14"},
        {"05/14/2026 12:05 AM", DateOrder::unknown, "2026-05-14T00:05"},
        {"05.06.2026", DateOrder::unknown, "2026-06-05?"}, {"05.06.2026", DateOrder::dmy, "2026-06-05"},
        {"05.06.2026", DateOrder::mdy, "2026-05-06"}, {"05.05.2026", DateOrder::unknown, "2026-05-05"},
        {"May 14, 2026 7:05 pm", DateOrder::unknown, "2026-05-14T19:05"},
        {"14 September 2026", DateOrder::unknown, "2026-09-14"}, {"26-05-14", DateOrder::ymd, "2026-05-14"},
        {"29.02.2027", DateOrder::dmy, ""}, {"14.05.2026", DateOrder::mdy, "2026-05-14?"},
        {"room 12", DateOrder::unknown, ""}};
    for (const auto& row : rows) {
        const auto m = moment_in(row.text, row.order);
        EXPECT_EQ(m ? m->at + (m->two_ways ? "?" : "") : "", row.expect) << row.text;
    }
}

TEST(Printout, WhatMustFitNamesItsMembers)
{
    Layout l = layout({field("mass", "mass_kg", "Weight"), field("fat", "fat_mass_kg", "Fat"),
        field("ffm", "fat_free_mass_kg", "Lean"), field("pct", "fat_percent", "Share", "%"),
        field("water", "total_body_water_l", "Water", "L"), field("in", "intracellular_water_l", "Inside", "L"),
        field("out", "extracellular_water_l", "Outside", "L"), field("protein", "protein_kg", "Protein", "kg", 2),
        field("mineral", "mineral_kg", "Mineral", "kg", 2), field("bmi", "bmi_kg_per_m2", "Index", "")});
    l.client.height_cm = "Height";
    const std::string right =
        "Weight  71.0\nFat  9.6\nLean  61.4\nShare  13.5\nWater  45.0\nInside  27.6\nOutside  17.4\n"
        "Protein  12.12\nMineral  4.35\nIndex  19.9\nHeight  189 cm";
    const struct {
        const char *was, *is;
        std::vector<std::string> doubtful;
    } rows[] = {{"", "", {}}, // 45.0 + 12.12 + 4.35 is 61.47: rounding allows that
        {"71.0", "77.0", {"mass", "fat", "ffm", "pct", "bmi", "client.height_cm"}},
        {"13.5", "18.5", {"mass", "fat", "pct"}}, {"27.6", "21.6", {"water", "in", "out"}},
        {"4.35", "4.85", {"ffm", "water", "protein", "mineral"}}, {"19.9", "19.0", {"mass", "bmi", "client.height_cm"}},
        {"189", "169", {"mass", "bmi", "client.height_cm"}}};
    for (const auto& row : rows) {
        std::string text = right;
        if (*row.was) text.replace(text.find(row.was), std::string(row.was).size(), row.is);
        const auto r = read(typed(text), l);
        ASSERT_TRUE(r);
        EXPECT_EQ(r->doubtful, row.doubtful) << row.was << " became " << row.is;
        EXPECT_EQ(says(r, "sum"), !row.doubtful.empty());
    }
    // A number that was not read surely is borne out by a sum; not where it stands a last decimal off.
    const auto unsure = [&](const char* is) {
        std::string text = right;
        text.replace(text.find("27.6"), 4, is);
        return read(typed(text, true), l)->is_doubtful("in");
    };
    EXPECT_FALSE(unsure("~27.6"));
    EXPECT_TRUE(unsure("~27.7")) << "within rounding, and yet not the number that stands there";
}

TEST(Printout, AnotherPaperIsUnreadable)
{
    Field mark = field("mark", "", "Mark", "", 0);
    mark.optional = true;
    const Layout l = layout({field("mass", "mass_kg", "Weight"), field("fat", "fat_mass_kg", "Fat"),
        field("ffm", "fat_free_mass_kg", "Lean"), mark});
    EXPECT_EQ(told(read(typed("Weight  71.0\nMark  7"), l)), "unreadable");
    EXPECT_EQ(told(read(typed("Weight  71.0\nFat  9.6"), l)), "mass=71 fat=9.6 -ffm -mark");
    EXPECT_EQ(told(read({}, l)), "unreadable");
}

TEST(Printout, ALayoutsFaultsHaveTheirPath)
{
    Layout l =
        layout({field("a", "mass_kg", "Weight"), field("a", "fat", "Fat"), field("c", "fat_percent", "Share", "kg"),
            field("d", "lean_kg", "Arm", "kg", 1, "", "elbow"), field("e", "", ""), field("f", "", "Weight")});
    l.method = "guess";
    std::vector<std::string> paths;
    for (const Message& m : faults(l)) paths.push_back(m.field);
    EXPECT_EQ(paths, (std::vector<std::string>{"method", "fields[1].key", "fields[1].quantity", "fields[2].unit",
                         "fields[3].segment", "fields[4].label", "fields[5].label"}));
    EXPECT_TRUE(faults(layout({field("a", "total_body_water_l", "Water", "kg")})).empty()) << "instruments weigh water";
}

TEST(Printout, WhatIsPointedAtIsFoundOut)
{
    const auto page = typed("Member     1089      Test date    Dec 1, 2026 8:12 PM\n"
                            "Sex: Female     Age    31\n"
                            "Phase angle 50 kHz      4.5 deg\n"
                            "Weight 68.4 kg     Fat 18.0 kg\n"
                            "Gender male Water 36.2 L\n")
                          .front();
    const auto pointed = [&](const char* text) {
        for (std::size_t i = 0; i < page.words.size(); ++i)
            if (page.words[i].text == text) {
                const auto f = taught(page, i, {'.', ""});
                return f ? f->label + " | " + (f->key.rfind("client.", 0) == 0 ? f->key : f->quantity)
                         : f.messages().front().code;
            }
        return std::string("not there");
    };
    EXPECT_EQ(pointed("1089"), "Member | client.number");
    for (const char* any : {"Dec", "1,", "2026", "8:12", "PM"}) EXPECT_EQ(pointed(any), "Test date | client.at") << any;
    EXPECT_EQ(pointed("Female"), "Sex | client.sex");
    EXPECT_EQ(pointed("31"), "Age | client.age_y");
    EXPECT_EQ(pointed("4.5"), "Phase angle 50 kHz | phase_angle_deg");
    EXPECT_EQ(pointed("68.4"), "Weight | mass_kg");
    EXPECT_EQ(pointed("18.0"), "Fat | fat_mass_kg") << "another number's unit is no part of a name";
    EXPECT_EQ(pointed("male"), "Gender | client.sex");
    EXPECT_NE(pointed("36.2"), "Gender | client.sex") << "what stands close behind a sex is no sex";
    EXPECT_EQ(pointed("angle"), "not_a_number");
}
