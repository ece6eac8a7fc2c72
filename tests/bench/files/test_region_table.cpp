// SPDX-License-Identifier: GPL-3.0-or-later
// Tables of regions in the layouts that labs have, a lab's bone reference, and the picture line with spoilt bytes.
#include "bench/files/bone_reference.h"
#include "bench/files/region_table.h"
#include "bench/channels/line.h"
#include "bench/channels/picture.h"

#include <gtest/gtest.h>

#include <random>

using namespace fusain;
using namespace fusain::bench;

namespace {

const char* down =
    "Region;Fat (g);Lean (g);BMC (g);% Fat\n"
    "Head;700;3300;500,5;15\nRight arm;900;3500;240;19\nLeft arm;880;3400;235;19\nTrunk;7500;26800;900;21\n"
    "Right leg;3100;12200;660;19\nLeft leg;3000;12000;650;19\nAndroid;1200;4000;60;22\nTotal;16080;61200;3185,5;20\n";

} // namespace

using xray::Region;

const xray::Mass& of(const RegionTable& table, Region region) { return table.masses->regions[xray::index(region)]; }

TEST(RegionTable, EveryLayoutGivesTheSameRegions)
{
    const char* across = "tissue,Head,R Arm,L Arm,Trunk,R Leg,L Leg\nFat kg,0.7,0.9,0.88,7.5,3.1,3.0\n"
                         "Lean kg,3.3,3.5,3.4,26.8,12.2,12.0\nBMC kg,0.5005,0.24,0.235,0.9,0.66,0.65\n";
    const char* one_row =
        "head fat g,head lean g,head bmc g,right arm fat g,right arm lean g,right arm bmc g,left arm fat g,"
        "left arm lean g,left arm bmc g,trunk fat g,trunk lean g,trunk bmc g,right leg fat g,right leg lean "
        "g,right leg bmc g,left leg fat g,left leg lean g,left leg bmc g\n"
        "700,3300,500.5,900,3500,240,880,3400,235,7500,26800,900,3100,12200,660,3000,12000,650\n";
    const std::string titled = std::string("\xEF\xBB\xBFScan of somebody\n") + down;
    for (const std::string& text : {std::string(down), std::string(across), std::string(one_row), titled}) {
        const auto t = read_region_table(text, "a.csv", {});
        ASSERT_TRUE(t) << t.messages().front().text << "\n" << text;
        ASSERT_TRUE(t->unknown.empty()) << t->unknown.front();
        EXPECT_NEAR(of(*t, Region::head).bmc_g, 500.5, 1e-9);
        EXPECT_NEAR(of(*t, Region::left_arm).lean_g, 3400, 1e-9);
        EXPECT_NEAR(of(*t, Region::trunk).fat_g, 7500, 1e-9);
        EXPECT_NEAR(of(*t, Region::right_leg).lean_g, 12200, 1e-9);
    }
    EXPECT_NEAR(read_region_table(down, "a.csv", {})->masses->total->fat_g, 16080, 1e-9);
    EXPECT_FALSE(read_region_table(down, "a.csv", {})->masses->given[xray::index(Region::gynoid)]);
}

TEST(RegionTable, SumsAndHeadsAreSaid)
{
    const auto merged = read_region_table("region,fat g,lean g,bmc g\nhead,700,3300,500\narms,1800,7000,480\n"
                                          "trunk,7500,26800,900\nlegs,6200,24400,1320\n",
        "a.csv", {});
    ASSERT_TRUE(merged);
    EXPECT_FALSE(merged->masses->sides_told_apart);
    EXPECT_EQ(of(*merged, Region::left_leg).lean_g, 12200.0);
    const auto folded =
        read_region_table("region,fat g,lean g,bmc g\nright arm,900,3500,240\nleft arm,900,3500,240\n"
                          "trunk with head,8200,30100,1400\nright leg,3100,12200,660\nleft leg,3100,12200,660\n",
            "a.csv", {});
    ASSERT_TRUE(folded) << folded.messages().front().text;
    EXPECT_TRUE(folded->masses->trunk_has_head);
    EXPECT_FALSE(folded->masses->given[xray::index(Region::head)]);
}

TEST(RegionTable, AsksOnceAndRemembers)
{
    const std::string text =
        "part,adipose,lean g,bmc g\nhead,700,3300,500\nright arm,900,3500,240\nleft arm,900,3500,240\n"
        "rump,7500,26800,900\nright leg,3100,12200,660\nleft leg,3100,12200,660\n";
    const auto asks = read_region_table(text, "a.csv", {});
    ASSERT_TRUE(asks);
    EXPECT_EQ(asks->unknown, (std::vector<std::string>{"adipose", "rump"}));
    EXPECT_FALSE(asks->masses) << "half understood is not taken";
    LearntWords words = {{"adipose", "tissue:fat"}, {"rump", "region:trunk"}};
    const auto unit = read_region_table(text, "a.csv", words);
    ASSERT_EQ(unit->unknown.size(), 1u) << "adipose says no unit";
    words[unit->unknown.front()] = "unit:g";
    const auto read = read_region_table(text, "b.csv", words);
    ASSERT_TRUE(read->unknown.empty());
    EXPECT_EQ(of(*read, Region::trunk).fat_g, 7500.0);
}

TEST(RegionTable, BadOnesAreNamed)
{
    struct Row {
        std::string text, code, words;
    };
    std::string wrong = down;
    wrong.replace(wrong.find("3400"), 4, "many");
    for (const Row& r : {Row{"", "bad_file", "no table"}, Row{std::string("\0\1\2", 3), "bad_file", "not a text"},
             Row{wrong, "bad_file", "line 4"},
             Row{"region;fat g;lean g;bmc g\nhead;1;2;3\n", "region_missing", "trunk: fat"},
             Row{std::string(2 << 20, 'x'), "bad_file", "1 MiB"}, Row{"a,\"b\nc", "bad_file", ""}}) {
        const auto t = read_region_table(r.text, "t.csv", {});
        ASSERT_FALSE(t) << r.words;
        EXPECT_EQ(t.messages().front().code, r.code);
        EXPECT_NE(t.messages().front().text.find(r.words), std::string::npos) << t.messages().front().text;
    }
}

TEST(BoneReference, BetweenAgesAndNowhereElse)
{
    const std::string text =
        "sex,age_y,mean_kg,sd_kg,source\nfemale,20,2.2,0.28,Lab study\nfemale,40,2.4,0.32,Lab study\n"
        "male,30,2.9,0.4,Lab study\n";
    const auto rows = read_bone_reference(text, "bone.csv");
    ASSERT_TRUE(rows) << rows.messages().front().text;
    const auto at = bone_reference(*rows, Sex::female, 30);
    ASSERT_TRUE(at);
    EXPECT_NEAR(at->mean_kg, 2.3, 1e-12);
    EXPECT_NEAR(at->sd_kg, 0.30, 1e-12);
    EXPECT_FALSE(bone_reference(*rows, Sex::female, 41));
    EXPECT_FALSE(bone_reference(*rows, Sex::female, 19));
    EXPECT_FALSE(bone_reference(*rows, Sex::male, 31));
    for (const char* bad : {"", "sex,age,mean,sd,source\n", "sex,age_y,mean_kg,sd_kg,source\nwoman,20,2.2,0.3,Lab\n",
             "sex,age_y,mean_kg,sd_kg,source\nfemale,20,2200,0.3,Lab\n",
             "sex,age_y,mean_kg,sd_kg,source\nfemale,20,2.2,0.3,\n",
             "sex,age_y,mean_kg,sd_kg,source\nfemale,20,2.2,0.3,Lab\nfemale,18,2.2,0.3,Lab\n"})
        EXPECT_FALSE(read_bone_reference(bad, "bone.csv")) << bad;
}

TEST(PictureLine, GoesThereAndBack)
{
    PictureWord begun;
    begun.kind = PictureWord::Kind::begun;
    begun.scan = 7;
    begun.rows = 396;
    begun.columns = 132;
    begun.dx_mm = begun.dy_mm = 5;
    begun.dose_usv = 4;
    begun.table = "stand_in_table_1";
    PictureWord row;
    row.kind = PictureWord::Kind::row;
    row.scan = 7;
    row.row = 12;
    row.low = {0, 1.2345, 99};
    row.high = {0.5, 0.0002, 1};
    PictureDecoder d;
    std::vector<PictureWord> out;
    std::string rest;
    const std::string bytes = encode(begun) + "LC 1 2 3\n" + encode(row);
    for (char c : bytes) d.feed({&c, 1}, out, rest); // byte by byte
    ASSERT_EQ(out.size(), 2u);
    EXPECT_EQ(rest, "LC 1 2 3\n");
    EXPECT_EQ(out[0].table, "stand_in_table_1");
    EXPECT_EQ(out[0].columns, 132);
    EXPECT_NEAR(out[1].low[1], 1.2345, picture_slope);
    EXPECT_NEAR(out[1].low[2], 65535 * picture_slope, 1e-9) << "what cannot be told is told as the most";
    EXPECT_EQ(d.bad_lines(), 0u);
}

TEST(PictureLine, SpoiltBytesNeverBecomeARow)
{
    std::mt19937_64 random(3);
    PictureWord row;
    row.kind = PictureWord::Kind::row;
    row.scan = 1;
    for (int i = 0; i < 40; ++i) {
        row.low.push_back(0.01 * i);
        row.high.push_back(0.02 * i);
    }
    int good = 0;
    for (int run = 0; run < 4000; ++run) {
        row.row = run % 400;
        std::string bytes = encode(row);
        const bool spoil = run % 2;
        if (spoil) bytes[random() % (bytes.size() - 1)] ^= static_cast<char>(1 + random() % 255);
        if (run % 7 == 0) bytes.insert(0, std::string(random() % 50, static_cast<char>(random())) + '\n');
        PictureDecoder d;
        std::vector<PictureWord> out;
        std::string rest;
        d.feed(bytes, out, rest);
        for (const PictureWord& w : out)
            if (w.kind == PictureWord::Kind::row) {
                EXPECT_FALSE(spoil) << bytes;
                EXPECT_EQ(w.low.size(), 40u);
                ++good;
            }
    }
    EXPECT_EQ(good, 2000);
    // lines that pass the sum and say what cannot be
    for (const char* words : {"@B 1 0 100 5 5 4 t", "@B 1 100 100 0 5 4 t", "@R 1 -1 00000000 00000000",
             "@R 1 1 0000 000", "@R 1 1 00g0 0000", "@X 1", "@B 1 9999999 9 5 5 4 t", "@R 1 1", "@E 1"}) {
        char sum[8];
        std::snprintf(sum, sizeof sum, "*%04X\n", crc16(words));
        PictureDecoder d;
        std::vector<PictureWord> out;
        std::string rest;
        d.feed(std::string(words) + sum, out, rest);
        EXPECT_TRUE(out.empty()) << words;
        EXPECT_EQ(d.bad_lines(), 1u) << words;
    }
    // a line without an end does not fill the memory
    PictureDecoder d;
    std::vector<PictureWord> out;
    std::string rest;
    d.feed(std::string(1 << 20, 'a'), out, rest);
    d.feed("\n" + encode(PictureWord{}), out, rest);
    EXPECT_EQ(out.size(), 1u);
}
