// SPDX-License-Identifier: GPL-3.0-or-later
// Input as it comes from the wild, or from somebody who means harm: each is said, nothing is lost, nothing is
// destroyed, nothing crashes.
#include "cli/traces/read.h"
#include "bench/files/utf8.h"
#include "core/base/csv.h"
#include "virtual/chamber/chamber_air.h"

#include <gtest/gtest.h>

#include "bench/base/json.h"
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

#include <cstdio>
#include <filesystem>
#include <fstream>
#include <functional>
#include <sstream>

using namespace fusain;
namespace fs = std::filesystem;
using Json = nlohmann::json;

namespace {

struct Ran {
    int code;
    std::string out, said; ///< standard output, standard error
};

std::string content(const fs::path& file)
{
    std::ifstream in(file, std::ios::binary);
    return {std::istreambuf_iterator<char>(in), {}};
}

/// A folder of its own; gone afterwards.
class Place {
public:
    Place()
    {
        char name[] = "/tmp/fusain-hostile-XXXXXX";
        path = mkdtemp(name);
    }
    ~Place() { fs::remove_all(path); }
    std::string file(const std::string& name, const std::string& bytes) const
    {
        std::ofstream(path / name, std::ios::binary) << bytes;
        return (path / name).string();
    }
    Ran run(const std::string& arguments) const
    {
        const std::string out = (path / "stdout").string(), err = (path / "stderr").string();
        const int status =
            std::system((std::string(TEST_BIN_DIR) + "/fusain-cli " + arguments + " >" + out + " 2>" + err).c_str());
        return {WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status), content(out), content(err)};
    }
    fs::path path;
};

const std::string columns =
    "id,method,sex,age_y,height_cm,mass_kg,hydrostatic.trials_kg,hydrostatic.water_temp_c,hydrostatic.lung.source,"
    "hydrostatic.lung.residual_volume_l,site\n";
std::string row(const std::string& id, const std::string& age = "30", const std::string& site = "north")
{
    return id + ",hydrostatic,male," + age + ",178,75,3.60;3.60;3.60,34,measured,1.6," + site + "\n";
}

} // namespace

TEST(Hostile, FilesThatAreNotWhatTheyShouldBe)
{
    const std::string deep(70000, '['), dots = "a" + std::string(20000, '.') + "b";
    struct Case {
        const char* name;
        std::string file, bytes;
        int code;
        std::string says; ///< on either output
    };
    const Case cases[] = {
        {"Latin-1 in an unknown column", "r.csv", columns + row("A") + row("B", "30", "C\xF4te") + row("C"), 2,
            "Line 3, column site"},
        {"a half as an age, UTF-8", "r.csv", columns + row("A", "31½"), 2, "age_y is \\\"31½\\\""},
        {"a half as an age, Latin-1", "r.csv", columns + row("A", "31\xBD"), 2, "Line 2, column age_y"},
        {"Latin-1 in JSON", "r.jsonl", "{\"id\":\"C\xF4te\"}\n", 2, "not UTF-8 from byte 9"},
        {"UTF-16 CSV", "r.csv", std::string("\xFF\xFEi\0d\0", 6), 1, "UTF-16"},
        {"a header that is not UTF-8", "r.csv",
            "id,Gr\xF6\xDF"
            "e\n1,2\n",
            1, "column 2 of the header is not UTF-8"},
        {"JSON nested 70 000 deep", "r.jsonl", "{\"id\":" + deep + "\n", 2, "not_json"},
        {"a heading of 20 000 points", "r.csv", dots + "\n1\n", 1, "points"},
        {"a doubled column", "r.csv", "id,mass_kg,sex,mass_kg\n1,75,male,57\n", 1, "mass_kg stands there twice"},
        {"a nameless column", "r.csv", "id,,sex\n1,2,male\n", 1, "column 2 of the header has no name"},
        {"two stray quotes", "r.csv",
            columns + row("A", "30", "\"north") + row("B") + row("C") + row("D", "30", "\"south") + row("E"), 2,
            "text after a closing quote"},
        {"a quote in mid-cell", "r.csv", columns + row("A", "30", "5\"6") + row("B", "30", "x\"") + row("C"), 2,
            "line 2, cell 11: a quote in mid-cell"},
        {"a quote that never closes", "r.csv", columns + row("A", "30", "\"north"), 2, "never closed"},
        {"an empty file", "r.csv", "", 1, "no header"},
        {"zero bytes", "r.csv", std::string("id\0,x\n1,2\n", 10), 2, ""},
    };
    for (const Case& c : cases) {
        const Place place;
        const Ran ran = place.run("compute " + place.file(c.file, c.bytes) + " --output-format jsonl");
        EXPECT_EQ(ran.code, c.code) << c.name << ": " << ran.out << ran.said;
        EXPECT_NE((ran.out + ran.said).find(c.says), std::string::npos) << c.name << ": " << ran.out << ran.said;
        EXPECT_EQ(first_bad_byte(ran.out + ran.said), 0u) << c.name << ": what is said is UTF-8";
    }
}

TEST(Hostile, WhatIsRightBesideItIsStillAnswered)
{
    const Place place;
    const auto lines = [&](const std::string& bytes) {
        std::vector<Json> out;
        std::istringstream in(place.run("compute " + place.file("r.csv", bytes) + " --output-format jsonl").out);
        for (std::string line; std::getline(in, line);) out.push_back(Json::parse(line));
        return out;
    };
    const auto mixed = lines(columns + row("A") + row("B", "30", "C\xF4te") + row("C"));
    ASSERT_EQ(mixed.size(), 3u);
    EXPECT_EQ(mixed[0]["status"], "ok");
    EXPECT_EQ(mixed[1]["status"], "error");
    EXPECT_EQ(mixed[1]["id"], "B");
    EXPECT_EQ(mixed[2]["status"], "ok") << "the ones after it too";
    // lines may end in LF, CR LF or CR
    for (const char* end : {"\n", "\r\n", "\r"}) {
        std::string text = columns + row("A") + row("B");
        for (std::size_t at = 0; (at = text.find('\n', at)) != std::string::npos; at += std::string(end).size())
            text.replace(at, 1, end);
        const auto out = lines(text);
        ASSERT_EQ(out.size(), 2u) << "CR is " << (end[0] == '\r');
        EXPECT_EQ(out[1]["id"], "B");
        EXPECT_EQ(out[1]["status"], "ok");
    }
}

TEST(Hostile, NothingThatStandsThereIsDestroyed)
{
    const Place place;
    const std::string good = place.file("good.csv", columns + row("A"));
    // the input as the output, also by another name
    fs::create_symlink("good.csv", place.path / "link.csv");
    for (const char* name : {"good.csv", "link.csv"}) {
        const Ran ran = place.run("compute " + good + " -o " + (place.path / name).string());
        EXPECT_EQ(ran.code, 1) << name;
        EXPECT_NE(ran.said.find("is the input"), std::string::npos) << ran.said;
        EXPECT_EQ(content(good), columns + row("A")) << name;
    }
    // an output of yesterday survives an input that is none
    const std::string old = place.file("results.jsonl", "yesterday\n");
    for (const std::string& bad :
        {place.file("twice.csv", "id,id\n"), place.path.string(), (place.path / "nowhere.csv").string()}) {
        EXPECT_EQ(place.run("compute " + bad + " -o " + old).code, 1) << bad;
        EXPECT_EQ(content(old), "yesterday\n") << bad;
    }
    EXPECT_EQ(place.run("compute " + good + " --output-format jsonl -o " + old).code, 0);
    EXPECT_EQ(Json::parse(content(old))["id"], "A") << "and is replaced by one that is";
    EXPECT_FALSE(fs::exists(old + ".part"));
    // a link stays a link, and what it points to is the result
    fs::create_symlink("results.jsonl", place.path / "latest");
    EXPECT_EQ(place.run("compute " + good + " --output-format jsonl -o " + (place.path / "latest").string()).code, 0);
    EXPECT_TRUE(fs::is_symlink(place.path / "latest"));
    EXPECT_EQ(Json::parse(content(old))["id"], "A");
    EXPECT_EQ(fs::status(old).permissions() & (fs::perms::group_all | fs::perms::others_all), fs::perms::none);
    // a folder, a full device
    EXPECT_NE(place.run("compute " + place.path.string()).said.find("is a folder"), std::string::npos);
    EXPECT_EQ(place.run("read swing " + place.path.string()).code, 1);
    EXPECT_EQ(place.run("compute " + good + " -o /dev/full").code, 1);
    std::string trace = "t_s,mass_kg\n";
    for (int i = 0; i < 900; ++i) trace += std::to_string(i * 0.01) + ",2.31\n";
    const std::string swing = place.file("trace.csv", trace);
    EXPECT_EQ(
        std::system(
            (std::string(TEST_BIN_DIR) + "/fusain-cli read swing " + swing + " >/dev/full 2>/dev/null").c_str()) >>
            8,
        1);
    EXPECT_EQ(place.run("compute " + good + " -o " + (place.path / "no/such/folder.csv").string()).code, 1);
}

TEST(Hostile, NoFormulaReachesASpreadsheet)
{
    for (const auto& [cell, written] : {std::pair{"=1+1", "'=1+1"}, {"+SUM(A1)", "'+SUM(A1)"}, {"-2+3", "'-2+3"},
             {"@x", "'@x"}, {"\tx", "'\tx"}, {"-2.5", "-2.5"}, {"+3", "+3"}, {"A=1", "A=1"}, {"", ""}, {"-", "'-"}})
        EXPECT_EQ(csv::without_formula(cell), written) << cell;
    const Place place;
    const Ran ran = place.run("compute " + place.file("r.csv", columns + row("=HYPERLINK(1)")));
    EXPECT_NE(ran.out.find("\n'=HYPERLINK(1),"), std::string::npos) << ran.out;
}

TEST(Hostile, TextsAreCutBetweenCharacters)
{
    EXPECT_EQ(shown_text("short"), "short");
    EXPECT_EQ(shown_text("C\xF4te"), "C\xEF\xBF\xBDte");
    for (std::size_t most = 4; most < 20; ++most) {
        const std::string cut = shown_text("ééééééééééééééééé", most);
        EXPECT_EQ(first_bad_byte(cut), 0u) << most;
        EXPECT_LE(cut.size(), most + 3);
    }
    for (const auto& [text, at] :
        {std::pair{"plain", 0u}, {"é", 0u}, {"a\xE9", 2u}, {"\xC0\x80", 1u}, {"ab\xE2\x82", 3u}})
        EXPECT_EQ(first_bad_byte(text), at) << text;
}

TEST(Hostile, SignalsThatCannotBe)
{
    const auto swing = [](const std::string& bytes) {
        std::istringstream in(bytes);
        std::ostringstream out;
        cli::read_swing(in, out);
        return Json::parse(out.str());
    };
    std::string heavy = "t_s,mass_kg\n", net = heavy;
    for (int i = 0; i < 900; ++i) {
        heavy += std::to_string(i * 0.01) + ",1000002\n";
        net += std::to_string(i * 0.01) + ",150\n"; // the load cell could, a person under water cannot
    }
    EXPECT_EQ(swing(heavy)["messages"][0]["code"], "out_of_range");
    EXPECT_NE(swing(heavy)["messages"][0]["text"].get<std::string>().find("Line 2, column mass_kg"), std::string::npos);
    EXPECT_EQ(swing(net)["status"], "error");
    EXPECT_EQ(swing(std::string("\xFF\xFEt\0_\0s\0", 8))["messages"][0]["code"], "not_utf8");
    EXPECT_EQ(swing("t_s,mass_kg\n0,1\n0.01,\xBD\n")["messages"][0]["code"], "not_a_number");

    // one file's pressures in another unit
    const auto csv = [&](double inside_l, double scale) {
        virt::ChamberAir air({}, 5);
        air.set_cylinder(inside_l);
        std::ostringstream out;
        out.precision(12);
        out << "t_s,p_test_pa,p_reference_pa,door\n";
        for (const auto& s : virt::record(air, 0, 25, 80))
            out << s.t_s << ',' << scale * s.test_pa << ',' << scale * s.reference_pa << ",0\n";
        return out.str();
    };
    const auto chamber = [&](double run_scale, double run_l) {
        std::istringstream run(csv(run_l, run_scale)), empty(csv(0, 1)), cylinder(csv(50.012, 1));
        std::ostringstream out;
        cli::read_chamber(run, empty, cylinder, 50.012, 3, out);
        return Json::parse(out.str());
    };
    EXPECT_EQ(chamber(1, 60)["status"], "ok") << chamber(1, 60).dump();
    for (double scale : {0.001, 0.00750062, 1000.0}) {
        const auto said = chamber(scale, 60);
        EXPECT_NE(said["status"], "ok") << scale << said.dump();
        EXPECT_FALSE(said.contains("raw_volume_l")) << scale;
    }
    const auto too_large = chamber(1, 420);
    EXPECT_NE(too_large["status"], "ok") << too_large.dump();
}
