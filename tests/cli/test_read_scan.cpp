// SPDX-License-Identifier: GPL-3.0-or-later
// `fusain-cli read scan`: the answer's shape, what is refused, and maps by another writer.
#include "cases.h"

#include "bench/files/scan_file.h"
#include "cli/traces/read.h"
#include "virtual/table/table.h"

#include "bench/base/json.h"

#include <gtest/gtest.h>

#include <sstream>

using namespace fusain;
using Json = nlohmann::json;

namespace {

constexpr const char* table = R"({"id":"t","mu_cm2_per_g":{"low":{"fat":0.2312,"lean":0.2744,"bone":1.015},)"
                              R"("high":{"fat":0.1905,"lean":0.1978,"bone":0.356}},"field_mm":[660,1980]})";

Json ask(const std::string& map, const std::string& profile = table, const std::string& lines = {})
{
    std::istringstream m(map), p(profile), l(lines);
    std::ostringstream out;
    const bool good = cli::read_scan(m, p, lines.empty() ? nullptr : &l, out);
    const Json answer = Json::parse(out.str());
    EXPECT_EQ(good, answer["status"] != "error");
    return answer;
}

std::string map_of(const virt::ScanFaults& faults = {})
{
    virt::Body body;
    body.height_cm = 168;
    return bench::write_scan(
        {virt::scan(virt::lie_down(body, {}, 660, 1980, 5), virt::stand_in_table(), {}, faults, 3), {}});
}

} // namespace

TEST(ReadScan, AnswersWithLinesRegionsAndTotal)
{
    const std::string map = map_of();
    const Json own = ask(map);
    ASSERT_EQ(own["status"], "ok") << own.dump();
    EXPECT_EQ(own["lines_by"], "program");
    double fat = 0;
    for (const char* id : {"head", "right_arm", "left_arm", "trunk", "right_leg", "left_leg"})
        fat += own["regions"][id]["fat_g"].get<double>();
    EXPECT_NEAR(fat, own["total"]["fat_g"].get<double>(), 1e-6);
    EXPECT_TRUE(own["regions"].contains("android"));
    // the lines it placed, given back, cut the same
    const Json again = ask(map, table, own["lines"].dump());
    EXPECT_EQ(again["lines_by"], "given");
    EXPECT_NEAR(again["regions"]["trunk"]["lean_g"].get<double>(), own["regions"]["trunk"]["lean_g"].get<double>(), 20)
        << "lines are told to a tenth of a millimetre";
    EXPECT_NEAR(again["total"]["bmc_g"].get<double>(), own["total"]["bmc_g"].get<double>(), 1e-6)
        << "who drew the lines does not move the whole";
}

TEST(ReadScan, SaysWhatIsWrongWithWhichFile)
{
    const std::string map = map_of();
    EXPECT_EQ(ask("no map")["messages"][0]["code"], "not_dicom");
    EXPECT_EQ(ask(map, "{}")["messages"][0]["field"], "profile.mu_cm2_per_g.low.fat");
    EXPECT_EQ(ask(map, table, "[1]")["messages"][0]["code"], "not_json");
    EXPECT_EQ(ask(map, table, R"({"neck":300})")["messages"][0]["field"], "lines.pelvis");
    virt::ScanFaults moved;
    moved.motion_mm = 12;
    const Json answer = ask(map_of(moved));
    EXPECT_EQ(answer["status"], "repeat");
    EXPECT_FALSE(answer.contains("regions")) << "no numbers of a client who moved";
}

TEST(ReadScan, MapsByAnotherWriter)
{
    for (const auto& folder : case_folders()) {
        const auto file = [&](const std::string& name) { return contents(folder / "scan" / name); };
        const Json truth = Json::parse(file("truth.json"));
        for (const char* which : {"a", "b"}) {
            const Json& t = truth[which];
            for (const bool given : {true, false}) {
                const std::string lines = !given                      ? std::string()
                                          : std::string(which) == "a" ? file("LINES.json")
                                                                      : t["lines"].dump();
                const Json got = ask(file(std::string(which) + ".dcm"), file("TABLE.json"), lines);
                ASSERT_EQ(got["status"], "ok") << got.dump();
                const auto off = [&](const Json& a, const Json& b, const char* what, double percent, double grams) {
                    const double is = a[what], should = b[what];
                    EXPECT_LE(std::abs(is - should), std::max(percent / 100 * should, grams))
                        << which << " " << given << " " << what << " " << is << " of " << should;
                };
                off(got["total"], t["total"], "fat_g", 5, 0);
                off(got["total"], t["total"], "lean_g", 3, 0);
                off(got["total"], t["total"], "bmc_g", 4, 0);
                for (const auto& [id, should] : t["regions"].items()) {
                    const Json& is = got["regions"][id];
                    const bool head = id == "head", band = id == "android" || id == "gynoid";
                    if (given) {
                        off(is, should, "fat_g", head ? 20 : band ? 6 : 8, head ? 220 : band ? 80 : 150);
                        off(is, should, "lean_g", head ? 20 : band ? 6 : 5, head ? 220 : band ? 80 : 180);
                        off(is, should, "bmc_g", band ? 10 : 8, 15);
                    } else if (!band) {
                        const double soft = should["fat_g"].get<double>() + should["lean_g"].get<double>();
                        EXPECT_NEAR(is["fat_g"].get<double>() + is["lean_g"].get<double>(), soft, 0.10 * soft) << id;
                    }
                }
            }
        }
    }
}
