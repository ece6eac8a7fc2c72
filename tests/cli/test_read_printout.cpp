// SPDX-License-Identifier: GPL-3.0-or-later
// `fusain-cli read printout`: the answer's shape, what is refused, and printouts by another hand.
#include "cases.h"

#include "cli/traces/read.h"

#include "bench/base/json.h"

#include <gtest/gtest.h>

#include <sstream>

using namespace fusain;
using Json = nlohmann::json;

namespace {

Json ask(const std::string& file, const std::string& layout)
{
    std::istringstream f(file), l(layout);
    std::ostringstream out;
    const bool good = cli::read_printout(f, l, out);
    const Json answer = Json::parse(out.str());
    EXPECT_EQ(good, answer["status"] != "error");
    return answer;
}

bool holds(const Json& list, const std::string& key) { return std::find(list.begin(), list.end(), key) != list.end(); }

/// Two boxes that are the same place.
bool overlap(const Json& a, const Json& b)
{
    return std::max(a[0].get<double>(), b[0].get<double>()) <
               std::min(a[0].get<double>() + a[2].get<double>(), b[0].get<double>() + b[2].get<double>()) &&
           std::max(a[1].get<double>(), b[1].get<double>()) <
               std::min(a[1].get<double>() + a[3].get<double>(), b[1].get<double>() + b[3].get<double>());
}

} // namespace

TEST(ReadPrintout, SamplesByAnotherHand)
{
    for (const auto& folder : case_folders()) {
        const auto samples = folder / "v3" / "printouts";
        const Json truth = Json::parse(contents(samples / "truth.json"));
        int read = 0;
        for (const Json& file : truth["files"]) {
            SCOPED_TRACE(file["file"].get<std::string>());
            const Json r = ask(contents(samples / file["file"]), contents(samples / file["layout"]));
            ASSERT_EQ(r["status"], file["status"]) << r.dump();
            EXPECT_EQ(r["missing"], file["missing"]);
            const bool text = file["kind"] == "text";
            std::map<std::string, Json> values;
            for (const Json& v : r["values"]) values[v["key"]] = v;
            int doubted = 0;
            for (const auto& [key, should] : file["values"].items()) {
                ASSERT_TRUE(values.contains(key)) << key;
                const Json& v = values[key];
                const bool right =
                    std::abs(v["value"].get<double>() - should["value"].get<double>()) <= should["tol"].get<double>() &&
                    v["low"] == should["low"] && v["high"] == should["high"];
                EXPECT_TRUE(right || (!text && holds(r["doubtful"], key))) << key << " " << v.dump();
                if (right) EXPECT_EQ(v["text"], should["text"]);
                EXPECT_TRUE(overlap(v["box"], should["box"])) << key;
                doubted += holds(r["doubtful"], key);
            }
            EXPECT_LE(doubted, text ? 0 : 3);
            for (const auto& [key, should] : file["client"].items()) EXPECT_EQ(r["client"][key], should) << key;
            ++read;
        }
        EXPECT_GE(read, 6);
    }
}

TEST(ReadPrintout, WhatCannotBeReadIsSaid)
{
    const std::filesystem::path samples = std::filesystem::path(OWN_CASES) / "v3" / "printouts";
    const std::string layout = contents(samples / "layouts/plain_list.json"),
                      file = contents(samples / "plain_list_text.pdf");
    EXPECT_EQ(ask(contents(samples / "receipt_text.pdf"), layout)["status"], "repeat");
    EXPECT_EQ(ask(contents(samples / "receipt_text.pdf"), layout)["messages"][0]["code"], "unreadable");
    EXPECT_EQ(ask("no printout", layout)["status"], "error");
    EXPECT_EQ(ask(file.substr(0, 400), layout)["messages"][0]["code"], "bad_file");
    Json wrong = Json::parse(layout);
    wrong["fields"][2]["quantity"] = "weight";
    const Json r = ask(file, wrong.dump());
    EXPECT_EQ(r["status"], "error");
    EXPECT_EQ(r["messages"][0]["field"], "fields[2].quantity");
}
