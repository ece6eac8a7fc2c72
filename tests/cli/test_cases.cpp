// SPDX-License-Identifier: GPL-3.0-or-later
// Reference cases as data: every line of tests/cases, and of the cases that the workplace keeps beside them.
#include "asked.h"
#include "cases.h"

#include "cli/series/change.h"

#include <gtest/gtest.h>

#include <sstream>

using namespace fusain;

namespace {

void run_record(const cli::Json& c)
{
    const std::string id = c["record"]["id"];
    const bool plan = c["record"].contains("method") && c["record"]["method"] == "plan";
    const double tolerance = plan ? 1e-3 : 2e-6;
    const cli::Json out = cli::compute_line(c["record"].dump(), 1);
    const cli::Json& expect = c["expect"];
    EXPECT_EQ(out["status"], expect["status"]) << id << " " << out.dump();
    if (expect.contains("results"))
        for (const auto& [key, value] : expect["results"].items()) {
            EXPECT_EQ(out["results"].contains(key), !value.is_null()) << id << " " << key;
            if (!out["results"].contains(key) || value.is_null()) continue;
            if (value.is_string())
                EXPECT_EQ(out["results"][key], value) << id << " " << key;
            else
                EXPECT_NEAR(
                    out["results"][key].get<double>(), value.get<double>(), tolerance * std::abs(value.get<double>()))
                    << id << " " << key;
        }
    else
        EXPECT_EQ(out["results"].empty(), !expect.contains("any_results")) << id;
    const auto some = [&](const char* key, const cli::Json& wanted) {
        return std::any_of(out["messages"].begin(), out["messages"].end(),
            [&](const cli::Json& m) { return m.contains(key) && m[key] == wanted; });
    };
    if (expect.contains("code")) EXPECT_TRUE(some("code", expect["code"])) << id << " " << out["messages"].dump();
    if (expect.contains("field")) EXPECT_TRUE(some("field", expect["field"])) << id << " " << out["messages"].dump();
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

void run_series(const cli::Json& c)
{
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

} // namespace

TEST(Cases, EveryCasePasses)
{
    // the fewest that each file has had; a file that is not named here counts as well
    const std::map<std::string, int> fewest = {{"absorptiometry.jsonl", 12}, {"air_displacement.jsonl", 12},
        {"hydrostatic.jsonl", 12}, {"impedance.jsonl", 12}, {"multi_compartment.jsonl", 12}, {"edges.jsonl", 13},
        {"balance.jsonl", 12}, {"callipers_and_tape.jsonl", 12}, {"change.jsonl", 12}, {"energy.jsonl", 12},
        {"impedance_segments.jsonl", 12}, {"plan.jsonl", 12}, {"precision.jsonl", 12}};
    for (const auto& folder : case_folders()) {
        const auto files = case_files(folder);
        for (const auto& [name, n] : fewest) EXPECT_TRUE(files.contains(name)) << name << " is missing in " << folder;
        for (const auto& [name, file] : files) {
            SCOPED_TRACE(file.string());
            int n = 0;
            std::ifstream in(file);
            for (std::string line; std::getline(in, line); ++n) {
                const cli::Json c = cli::Json::parse(line);
                c.contains("series") ? run_series(c) : run_record(c);
            }
            EXPECT_GE(n, fewest.contains(name) ? fewest.at(name) : 1);
        }
    }
}
