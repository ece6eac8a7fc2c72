// SPDX-License-Identifier: GPL-3.0-or-later
// Reference cases as data: every line of tests/cases, and of the shared cases where the workplace has them.
#include "asked.h"

#include "cli/series/change.h"

#include <gtest/gtest.h>

#include <filesystem>
#include <fstream>
#include <sstream>

using namespace fusain;

namespace {

int run_file(const std::filesystem::path& file, double tolerance = 2e-6)
{
    std::ifstream in(file);
    int n = 0;
    for (std::string line; std::getline(in, line);) {
        const cli::Json c = cli::Json::parse(line);
        const std::string method = c["record"]["method"];
        ++n;
        const std::string id = c["record"]["id"];
        const cli::Json out = cli::compute_line(c["record"].dump(), n);
        const cli::Json& expect = c["expect"];
        EXPECT_EQ(out["status"], expect["status"]) << id << " " << out.dump();
        if (expect.contains("results"))
            for (const auto& [key, value] : expect["results"].items()) {
                EXPECT_EQ(out["results"].contains(key), !value.is_null()) << id << " " << key;
                if (!out["results"].contains(key) || value.is_null()) continue;
                if (value.is_string())
                    EXPECT_EQ(out["results"][key], value) << id << " " << key;
                else
                    EXPECT_NEAR(out["results"][key].get<double>(), value.get<double>(),
                        tolerance * std::abs(value.get<double>()))
                        << id << " " << key;
            }
        else
            EXPECT_EQ(out["results"].empty(), !expect.contains("any_results")) << id;
        const auto some = [&](const char* key, const cli::Json& wanted) {
            return std::any_of(out["messages"].begin(), out["messages"].end(),
                [&](const cli::Json& m) { return m.contains(key) && m[key] == wanted; });
        };
        if (expect.contains("code")) EXPECT_TRUE(some("code", expect["code"])) << id << " " << out["messages"].dump();
        if (expect.contains("field"))
            EXPECT_TRUE(some("field", expect["field"])) << id << " " << out["messages"].dump();
    }
    return n;
}

void same(const cli::Json& is, const cli::Json& wanted, const std::string& where)
{
    if (wanted.is_object())
        for (const auto& [key, value] : wanted.items()) {
            if (!is.contains(key)) {
                ADD_FAILURE() << where << '.' << key << " is missing";
                continue;
            }
            same(is[key], value, where + '.' + key);
        }
    else if (wanted.is_array() && is.is_array() && is.size() == wanted.size())
        for (std::size_t i = 0; i < wanted.size(); ++i) same(is[i], wanted[i], where + '.' + std::to_string(i));
    else if (wanted.is_number_float() && is.is_number())
        EXPECT_NEAR(is.get<double>(), wanted.get<double>(), std::max(1e-9, 2e-6 * std::abs(wanted.get<double>())))
            << where;
    else
        EXPECT_EQ(is, wanted) << where;
}

int run_changes(const std::filesystem::path& file)
{
    std::ifstream in(file);
    int n = 0;
    for (std::string line; std::getline(in, line); ++n) {
        const cli::Json c = cli::Json::parse(line);
        std::istringstream asked(c["series"].dump());
        std::ostringstream answered;
        const bool good = cli::change(asked, answered);
        const cli::Json out = cli::Json::parse(answered.str());
        cli::Json expect = c["expect"];
        EXPECT_EQ(good, expect["status"] == "ok") << answered.str();
        if (expect.contains("field")) {
            EXPECT_TRUE(std::any_of(out["messages"].begin(), out["messages"].end(), [&](const cli::Json& m) {
                return m.value("field", "") == expect["field"];
            })) << answered.str();
            expect.erase("field");
        }
        same(out, expect, c["series"]["id"]);
    }
    return n;
}

} // namespace

TEST(Cases, OwnCasesPass)
{
    EXPECT_GE(run_file(std::filesystem::path(OWN_CASES) / "hydrostatic.jsonl"), 12);
    EXPECT_GE(run_file(std::filesystem::path(OWN_CASES) / "hydrostatic_edges.jsonl"), 7);
    EXPECT_GE(run_file(std::filesystem::path(OWN_CASES) / "air_displacement.jsonl"), 12);
    EXPECT_GE(run_file(std::filesystem::path(OWN_CASES) / "air_displacement_edges.jsonl"), 8);
    EXPECT_GE(run_file(std::filesystem::path(OWN_CASES) / "impedance.jsonl"), 12);
    EXPECT_GE(run_file(std::filesystem::path(OWN_CASES) / "impedance_edges.jsonl"), 16);
    EXPECT_GE(run_file(std::filesystem::path(OWN_CASES) / "segments.jsonl"), 8);
    EXPECT_GE(run_file(std::filesystem::path(OWN_CASES) / "absorptiometry.jsonl"), 20);
}

#ifdef SHARED_CASES // the workplace has them beside the project; elsewhere the own copies above stand for them
TEST(Cases, SharedCasesPass)
{
    int n = 0;
    for (const auto& entry : std::filesystem::directory_iterator(SHARED_CASES))
        if (entry.path().extension() == ".jsonl") n += run_file(entry.path());
    const std::filesystem::path later = std::filesystem::path(SHARED_CASES) / "v2";
    for (const char* file :
        {"impedance_segments.jsonl", "balance.jsonl", "energy.jsonl", "precision.jsonl", "callipers_and_tape.jsonl"})
        n += run_file(later / file);
    n += run_file(later / "plan.jsonl", 1e-3);
    EXPECT_GE(n, 144);
    EXPECT_GE(run_changes(later / "change.jsonl"), 12);
}
#endif
