// SPDX-License-Identifier: GPL-3.0-or-later
// Maps of known truth: what the reader makes of them, where it puts the lines, what it must not read.
#include "bench/files/scan_file.h"
#include "core/xray/scan.h"
#include "virtual/table/table.h"

#include <gtest/gtest.h>

#include <random>

using namespace fusain;
using namespace fusain::xray;

namespace {

const virt::TrueMap& truth()
{
    static const virt::TrueMap map = [] {
        virt::Body body;
        body.sex = Sex::male;
        body.height_cm = 176;
        body.fat_mass_kg = 17;
        body.fat_free_mass_kg = 60;
        return virt::lie_down(body, {}, 660, 1980, 5);
    }();
    return map;
}
Map map_of(const virt::ScanFaults& faults = {}, unsigned seed = 5)
{
    return virt::scan(truth(), virt::stand_in_table(), {}, faults, seed);
}
const Scan& scan()
{
    static const Scan s = *read(map_of(), virt::stand_in_table());
    return s;
}
void within(double got, double truth_g, double percent, double grams, const std::string& what)
{
    EXPECT_LE(std::abs(got - truth_g), std::max(percent / 100 * truth_g, grams))
        << what << ": " << got << " of " << truth_g;
}

} // namespace

TEST(Scan, TheVirtualClientLiesThereWhole)
{
    const Mass all = whole(truth().regions(truth().lines));
    EXPECT_NEAR(all.fat_g, 17000, 170);
    EXPECT_NEAR(all.lean_g + all.bmc_g, 60000, 600);
    EXPECT_NEAR(all.bmc_g, 3000, 60);
}

TEST(Scan, ReadsWhatLiesThereWholeAndByRegion)
{
    const Regions t = truth().regions(truth().lines);
    const Mass got = whole(scan().regions), all = whole(t);
    within(got.fat_g, all.fat_g, 5, 0, "fat");
    within(got.lean_g, all.lean_g, 3, 0, "lean");
    within(got.bmc_g, all.bmc_g, 4, 0, "bone");
    within(got.area_cm2, all.area_cm2, 3, 0, "area");
    const Regions by_true = regions(scan().made_of, truth().lines);
    for (std::size_t i = 0; i < region_count; ++i) {
        const std::string name = region_rows[i].id;
        // the feet of this body are all bone: their fat comes from far up the shin (docs/scan-reading.md)
        const bool leg = region_rows[i].region == Region::right_leg || region_rows[i].region == Region::left_leg;
        within(by_true[i].fat_g, t[i].fat_g, i ? leg ? 15 : 8 : 20, i ? 150 : 220, name + " fat");
        within(by_true[i].lean_g, t[i].lean_g, 5, i ? 180 : 220, name + " lean");
        within(by_true[i].bmc_g, t[i].bmc_g, 8, 15, name + " bone");
        // and by the lines the program placed
        within(scan().regions[i].fat_g + scan().regions[i].lean_g, t[i].fat_g + t[i].lean_g, 10, 0, name + " soft");
    }
}

TEST(Scan, TheHeavyAreReadInAPoorBeamAndNothingOfThemIsMetal)
{
    virt::Body body;
    body.sex = Sex::female;
    body.height_cm = 166;
    body.fat_mass_kg = 42;
    body.fat_free_mass_kg = 47;
    virt::Posture lies;
    lies.off_centre = 0.3;
    lies.flat = 0.9;
    const auto heavy = virt::lie_down(body, lies, 660, 1980, 5);
    const Table table = virt::stand_in_table();
    const auto seen = read(virt::scan(heavy, table, {2000, 1500}, {}, 11), table, nullptr, IfSpoilt::read);
    ASSERT_TRUE(seen);
    for (const Message& m : seen.messages()) EXPECT_NE(m.code, "metal") << m.text;
    const Regions t = heavy.regions(heavy.lines), got = regions(seen->made_of, heavy.lines);
    for (Region r : {Region::head, Region::right_arm, Region::left_arm}) {
        const std::size_t i = index(r);
        const bool head = r == Region::head;
        within(got[i].fat_g, t[i].fat_g, head ? 15 : 8, head ? 220 : 150, std::string(region_rows[i].id) + " fat");
        within(got[i].lean_g, t[i].lean_g, head ? 12 : 5, 180, std::string(region_rows[i].id) + " lean");
    }
    virt::ScanFaults buckle;
    buckle.metal_mm = 30;
    const auto with = read(virt::scan(heavy, table, {2000, 1500}, buckle, 11), table, nullptr, IfSpoilt::read);
    EXPECT_TRUE(std::any_of(with.messages().begin(), with.messages().end(), [](const Message& m) {
        return m.code == "metal";
    })) << "on the thickest of her";
}

// A foot is bone all over but for its tip, which is coat from every side.
TEST(Scan, TheCoatOfAFootIsNotThatOfItsTip)
{
    virt::Body body;
    body.sex = Sex::male;
    body.height_cm = 176;
    body.fat_mass_kg = 12;
    body.fat_free_mass_kg = 60;
    const auto lean = virt::lie_down(body, {}, 660, 1980, 5);
    const Table table = virt::stand_in_table();
    const auto seen = read(virt::scan(lean, table, {}, {}, 11), table);
    ASSERT_TRUE(seen);
    const Regions got = regions(seen->made_of, lean.lines), t = lean.regions(lean.lines);
    for (Region r : {Region::right_leg, Region::left_leg})
        within(got[index(r)].fat_g, t[index(r)].fat_g, 4, 0, std::string(region_rows[index(r)].id) + " fat");
}

// Ribs of a very thick trunk are under the noise of a few pixels; what is missed of them is taken for lean.
TEST(Scan, ThinBoneUnderAThickTrunkIsLookedForWider)
{
    virt::Body body;
    body.sex = Sex::male;
    body.height_cm = 176;
    body.fat_mass_kg = 54;
    body.fat_free_mass_kg = 66;
    const auto heavy = virt::lie_down(body, {}, 660, 1980, 5);
    const Table table = virt::stand_in_table();
    const auto seen = read(virt::scan(heavy, table, {2000, 1500}, {}, 11), table, nullptr, IfSpoilt::read);
    ASSERT_TRUE(seen);
    const std::size_t trunk = index(Region::trunk);
    const auto got = regions(seen->made_of, heavy.lines)[trunk], t = heavy.regions(heavy.lines)[trunk];
    within(got.fat_g, t.fat_g, 5, 0, "trunk fat");
    within(got.lean_g, t.lean_g, 3, 0, "trunk lean");
    within(got.bmc_g, t.bmc_g, 8, 0, "trunk bone");
}

TEST(Scan, MetalIsWhatNoBoneCanBe)
{
    // the skull's base with the jaw before it: five grams of bone and more over each other, in few photons
    auto skull = truth();
    skull.bone.block(52, 60, 4, 10) += 3.5;
    const Table table = virt::stand_in_table();
    const auto says = [&](const virt::TrueMap& body, const virt::Beam& beam) {
        const auto r = read(virt::scan(body, table, beam, {}, 3), table, nullptr, IfSpoilt::read);
        return std::any_of(
            r.messages().begin(), r.messages().end(), [](const Message& m) { return m.code == "metal"; });
    };
    EXPECT_FALSE(says(skull, {750, 750}));
    auto knee = truth();
    knee.bone.block(280, 54, 4, 4) += 8; // as a plate of a few millimetres reads
    EXPECT_TRUE(says(knee, {}));
}

TEST(Scan, ALimbThatIsNearlyAllBoneIsSaid)
{
    const auto says = [](double fat_kg, double ffm_kg) {
        virt::Body body;
        body.height_cm = 175;
        body.fat_mass_kg = fat_kg;
        body.fat_free_mass_kg = ffm_kg;
        const auto r = read(virt::scan(virt::lie_down(body, {}, 660, 1980, 5), virt::stand_in_table(), {}, {}, 7),
            virt::stand_in_table());
        EXPECT_TRUE(r);
        return std::count_if(r.messages().begin(), r.messages().end(),
            [](const Message& m) { return m.code == "little_soft" && m.field.ends_with("_arm"); });
    };
    EXPECT_EQ(says(7, 44), 2) << "thin arms: nothing but bone and rim";
    EXPECT_EQ(says(20, 55), 0);
}

TEST(Scan, ADraggedLineMovesNumbersSmoothlyAndNothingIsLost)
{
    Lines lines = scan().lines;
    std::vector<double> steps;
    const Mass before = whole(regions(scan().made_of, lines));
    double last = regions(scan().made_of, lines)[index(Region::right_arm)].lean_g;
    for (int i = 0; i < 12; ++i) {
        for (Spot& s : lines.right_arm) s.x_mm += 0.5;
        const Regions now = regions(scan().made_of, lines);
        const double arm = now[index(Region::right_arm)].lean_g;
        EXPECT_GE(arm, last - 1) << "half a millimetre towards the trunk";
        steps.push_back(arm - last);
        last = arm;
        EXPECT_NEAR(whole(now).total_g(), before.total_g(), 1e-6) << "the regions add up to the total";
    }
    for (std::size_t i = 1; i < steps.size(); ++i)
        EXPECT_NEAR(steps[i], steps[i - 1], 0.15 * std::abs(steps[i - 1]) + 1) << "no jumps from pixel to pixel";
}

TEST(Scan, WhatMustNotBeReadIsSaid)
{
    struct Case {
        const char* code;
        Level level;
        virt::ScanFaults faults;
    };
    std::vector<Case> cases(5, {"motion", Level::repeat, {}});
    cases[0].faults.motion_mm = 10;
    cases[1].faults.motion_mm = -14;
    cases[1].faults.motion_at = 0.3;
    cases[1].faults.back_at = 0.7;
    cases[2] = {"off_field", Level::repeat, {}};
    cases[2].faults.shifted_mm = -110;
    cases[3] = {"frames_swapped", Level::error, {}};
    cases[3].faults.frames_swapped = true;
    cases[4].faults.motion_mm = 25;
    for (const Case& c : cases) {
        const auto r = read(map_of(c.faults), virt::stand_in_table());
        ASSERT_FALSE(r) << c.code;
        EXPECT_EQ(r.messages().front().code, c.code) << r.messages().front().text;
        EXPECT_EQ(r.messages().front().level, c.level);
    }
    for (unsigned seed = 1; seed < 6; ++seed) EXPECT_TRUE(read(map_of({}, seed), virt::stand_in_table())) << seed;
    // a strip 8 mm wide and 100 m long: an absurd spacing, refused and no crash
    Map strip;
    strip.dx_mm = 0.5;
    strip.dy_mm = 25;
    strip.low = Image::Constant(4000, 16, 2.744);
    strip.high = Image::Constant(4000, 16, 1.978);
    EXPECT_FALSE(read(strip, virt::stand_in_table()));
    for (Image* i : {&strip.low, &strip.high}) i->leftCols(2) = i->rightCols(2) = 0;
    for (Image* i : {&strip.low, &strip.high}) i->topRows(9) = i->bottomRows(9) = 0;
    EXPECT_FALSE(read(strip, virt::stand_in_table())) << "and away from its edges";
    Map empty = map_of();
    empty.low *= 0.001;
    empty.high *= 0.001;
    EXPECT_EQ(read(empty, virt::stand_in_table()).messages().front().code, "no_body");
}

TEST(Scan, LinesThatAreNoneAreNamed)
{
    struct Case {
        const char *code, *field;
        void (*spoil)(Lines&);
    };
    const Case cases[] = {{"lines_cross", "lines.pelvis", [](Lines& l) { std::swap(l.pelvis_mm, l.neck_mm); }},
        {"lines_cross", "lines.right_arm", [](Lines& l) { std::swap(l.right_arm, l.left_arm); }},
        {"lines_order", "lines.between_legs",
            [](Lines& l) { std::reverse(l.between_legs.begin(), l.between_legs.end()); }},
        {"missing_field", "lines.left_leg", [](Lines& l) { l.left_leg.resize(1); }},
        {"out_of_range", "lines.neck", [](Lines& l) { l.neck_mm = -3; }},
        {"out_of_range", "lines.pelvis", [](Lines& l) { l.pelvis_mm = NAN; }}};
    for (const Case& c : cases) {
        Lines lines = scan().lines;
        c.spoil(lines);
        const Messages bad = check(lines, 660, 1980);
        ASSERT_FALSE(bad.empty()) << c.field;
        EXPECT_EQ(bad.front().code, c.code) << c.field;
        EXPECT_EQ(bad.front().field, c.field);
    }
    EXPECT_TRUE(check(scan().lines, 660, 1980).empty());
}

TEST(Scan, AFileComesBackAsItWent)
{
    const bench::ScanFile out{map_of(), {"Quéméner^Aliénor", "101", "19950502", "F", "20261123"}};
    const std::string bytes = bench::write_scan(out);
    const auto in = bench::read_scan(bytes, "a.dcm");
    ASSERT_TRUE(in) << in.messages().front().text;
    EXPECT_EQ(in->of.id, "101");
    EXPECT_EQ(in->of.birth_date, "19950502");
    EXPECT_EQ(in->map.dx_mm, 5);
    EXPECT_LE((in->map.low - out.map.low).abs().maxCoeff(), 0.000101);
    EXPECT_LE((in->map.high - out.map.high).abs().maxCoeff(), 0.000101);
    const auto lines = bench::read_lines(bench::write_lines(scan().lines), "lines");
    ASSERT_TRUE(lines);
    EXPECT_NEAR(lines->left_leg[1].y_mm, scan().lines.left_leg[1].y_mm, 0.051);
}

TEST(Scan, SpacingIsRowsThenColumns)
{
    bench::ScanFile out;
    out.map.dx_mm = 3;
    out.map.dy_mm = 4.5;
    out.map.low = out.map.high = Image::Zero(20, 30);
    const auto in = bench::read_scan(bench::write_scan(out), "a.dcm");
    ASSERT_TRUE(in);
    EXPECT_EQ(in->map.dx_mm, 3);
    EXPECT_EQ(in->map.dy_mm, 4.5);
    EXPECT_EQ(in->map.rows(), 20);
}

TEST(Scan, FewPhotonsDoNotBiasTheWhole)
{
    // a third of the usual beam: behind a pelvis a handful of photons is left
    const virt::Beam weak{1900, 1400};
    const Table table = virt::stand_in_table();
    const auto shape = shape_of(virt::scan(truth(), table, weak, {}, 9), table);
    ASSERT_TRUE(shape);
    const double bone_reads = -15.757; // fat a gram of bone reads as, by this table
    const double should = (truth().fat + bone_reads * truth().bone).sum(),
                 is = (shape->fat * as_image(shape->body)).sum();
    EXPECT_NEAR(is, should, 0.012 * truth().fat.sum()) << "1/2N is taken out";
}

TEST(Scan, AFileThatIsNoMapIsRefusedByTag)
{
    const std::string good = bench::write_scan({map_of(), {}});
    const auto code = [](const std::string& bytes) {
        const auto r = bench::read_scan(bytes, "a.dcm");
        return r ? std::string("read") : r.messages().front().code + " " + r.messages().front().text;
    };
    const auto patched = [&](const std::string& from, const std::string& to) {
        std::string bytes = good;
        const auto at = bytes.find(from);
        EXPECT_NE(at, std::string::npos);
        return bytes.replace(at, to.size(), to);
    };
    using namespace std::string_literals;
    struct Case {
        std::string bytes;
        const char *code, *names;
    };
    const Case cases[] = {{"not a file", "not_dicom", "a.dcm"}, {good.substr(0, 300), "", ""},
        {good.substr(0, good.size() - 4000), "cut_short", "PixelData (7fe0,0010)"},
        {patched("\x28\x00\x00\x01US\x02\x00\x10\x00"s, "\x28\x00\x00\x01US\x02\x00\x08\x00"s), "wrong_tag",
            "BitsAllocated (0028,0100) is 8"},
        {patched("\x28\x00\x03\x01US\x02\x00\x00\x00"s, "\x28\x00\x03\x01US\x02\x00\x01\x00"s), "wrong_tag",
            "PixelRepresentation (0028,0103) is 1"},
        {patched("\x28\x00\x30\x00"s, "\x28\x00\x31\x00"s), "missing_tag", "PixelSpacing (0028,0030)"},
        {patched("\x28\x00\x08\x00IS\x02\x00"s + "2 "s, "\x28\x00\x08\x00IS\x02\x00"s + "3 "s), "wrong_tag",
            "NumberOfFrames (0028,0008) is 3"},
        {patched("LOW\\HIGH", "HIGH\\LOW"), "frames_swapped", "FrameLabelVector"},
        {patched("1.2.840.10008.1.2.1\0"s, "1.2.840.10008.1.2.5\0"s), "compressed", "RLE"}};
    for (const Case& c : cases) {
        const std::string said = code(c.bytes);
        EXPECT_NE(said, "read") << c.code;
        EXPECT_EQ(said.find(c.code), 0u) << said;
        EXPECT_NE(said.find(c.names), std::string::npos) << said;
    }
}

TEST(Scan, ATableThatTellsNothingApartIsRefused)
{
    const char* good = R"({"id":"t","mu_cm2_per_g":{"low":{"fat":0.2312,"lean":0.2744,"bone":1.015},)"
                       R"("high":{"fat":0.1905,"lean":0.1978,"bone":0.356}},"field_mm":[660,1980]})";
    ASSERT_TRUE(bench::read_tissue_table(good, "t.json"));
    EXPECT_TRUE(bench::read_tissue_table(std::string(good).replace(6, 3, "123"), "t.json")) << "an id that is a number";
    for (const auto& [from, to, field] :
        {std::tuple{"0.2312", "0.3312", "profile.mu_cm2_per_g"}, {"0.2744", "-0.2744", "profile.mu_cm2_per_g.low.lean"},
            {"\"bone\":0.356", "\"bine\":0.356", "profile.mu_cm2_per_g.high.bone"},
            {"[660,1980]", "[660]", "profile.field_mm"}}) {
        std::string text = good;
        text.replace(text.find(from), std::string(from).size(), to);
        const auto r = bench::read_tissue_table(text, "t.json");
        ASSERT_FALSE(r) << field;
        EXPECT_EQ(r.messages().front().field, field);
    }
}
