// SPDX-License-Identifier: GPL-3.0-or-later
// Drills as data: what ships is whole, and every mistake in a file is named by its path.
#include "bench/practice/drill.h"
#include "virtual/analyser/analyser.h"
#include "virtual/chamber/chamber.h"
#include "virtual/tank/tank.h"

#include <gtest/gtest.h>
#include "bench/base/json.h"

#include <fstream>
#include <set>
#include <sstream>

using namespace fusain;
using bench::Drill, bench::Task;

namespace {

const char* const good = R"({
 "kind": "fusain drill", "version": 1, "id": "mine", "title": "Mine", "method": "hydrostatic", "task": "find_fault",
 "asked": "What is wrong?", "choices": [{"id": "none", "words": "nothing"}, {"id": "belt", "words": "the belt"}],
 "pass": {"share": 0.8},
 "items": [{"body": {"sex": "male", "age_y": 30, "height_cm": 180, "fat_kg": 12, "fat_free_kg": 66}, "truth": "belt",
            "faults": ["belt_not_zeroed"]}]})";

std::string with(std::string from, std::string to)
{
    std::string text = good;
    const auto at = text.find(from);
    EXPECT_NE(at, std::string::npos) << from;
    return text.replace(at, from.size(), to);
}

} // namespace

TEST(Drills, EveryMistakeIsNamedByItsPath)
{
    ASSERT_TRUE(bench::read_drill(good, "mine.json"));
    struct Row {
        const char *from, *to, *says;
    };
    for (const Row& row :
        {Row{"\"task\": \"find_fault\"", "\"task\": \"guess\"", "\"task\" is \"guess\"; allowed is read_swing"},
            {"hydrostatic", "absorptiometry", "\"method\" is \"absorptiometry\"; allowed here is hydrostatic"},
            {"\"version\": 1", "\"version\": 2", "\"version\" is 2"}, {"\"mine\"", "\"Mine!\"", "\"id\" is \"Mine!\""},
            {"\"share\": 0.8", "\"share\": 1.8", "\"pass.share\" is 1.8; allowed is a number from 0 to 1"},
            {"{\"share\": 0.8}", "{}", "\"pass\" says nothing"},
            {"\"belt\", \"words\"", "\"none\", \"words\"", "\"choices[1].id\" is \"none\" a second time"},
            {"\"truth\": \"belt\"", "\"truth\": \"wall\"",
                "\"items[0].truth\" is \"wall\"; allowed is one of the choices: none, belt"},
            {"\"fat_kg\": 12", "\"fat_kg\": 0.1",
                "\"items[0].body.fat_kg\" is 0.1; allowed is a number from 0.5 to 250"},
            {"\"fat_kg\": 12, ", "", "\"items[0].body.fat_kg\" is missing"},
            {"\"sex\": \"male\"", "\"sex\": \"m\"", "\"items[0].body.sex\" is \"m\"; allowed is female, male"},
            {"\"age_y\"", "\"age\"", "\"items[0].body.age\" is not known; allowed here is sex, age_y"},
            {"\"faults\": [\"belt_not_zeroed\"]", "\"faults\": \"belt\"",
                "\"items[0].faults\" is \"belt\"; allowed is a list"},
            {"\"faults\": [", "\"same_as\": 0, \"faults\": [", "\"items[0].same_as\" is 0"},
            {"\"kind\": \"fusain drill\"", "\"kind\": \"drill\"", "not a file of the kind"},
            {"\"asked\"", "\"aked\"", "\"aked\" is not known"},
            {"\"version\": 1,", "\"version\": 1", "line 2 is not readable as JSON"}}) {
        const auto read = bench::read_drill(with(row.from, row.to), "mine.json");
        ASSERT_FALSE(read) << row.to;
        EXPECT_EQ(read.messages().front().code, "bad_drill");
        EXPECT_NE(read.messages().front().text.find(row.says), std::string::npos) << read.messages().front().text;
    }
    std::string many = good; // the parser's own memory is not asked for a file of nothing but brackets
    EXPECT_FALSE(bench::read_drill(std::string(100000, '['), "deep.json"));
}

TEST(Drills, WhatShipsIsWholeAndItsStandInsKnowItsFaults)
{
    const auto& all = bench::shipped_drills();
    std::set<std::string> ids;
    std::set<Task> tasks;
    std::set<Method> methods;
    virt::Tank tank(1);
    virt::Chamber chamber(1);
    virt::Analyser analyser(1);
    for (const Drill& d : all) {
        EXPECT_TRUE(ids.insert(d.id).second) << d.id;
        EXPECT_FALSE(d.why.empty()) << d.id << ": every drill says why";
        tasks.insert(d.task);
        methods.insert(d.method);
        for (const bench::DrillItem& item : d.items) {
            ASSERT_NO_THROW(virt::parse_body(item.body)) << d.id << " " << item.body;
            const virt::Body body = virt::parse_body(item.body);
            EXPECT_NEAR(body.true_fat_percent(), item.true_fat_percent(), 1e-9);
            EXPECT_EQ(body.residual_volume_l, item.residual_volume_l);
            for (const std::string& fault : item.faults) {
                const std::string words = "fault " + fault + " on";
                const std::string said = d.method == method::hydrostatic        ? tank.direct(words)
                                         : d.method == method::air_displacement ? chamber.direct(words)
                                                                                : analyser.direct(words);
                EXPECT_EQ(said.rfind("error", 0), std::string::npos) << d.id << ": " << said;
            }
            if (d.task == Task::find_fault && item.truth != practice::none)
                EXPECT_TRUE(!item.faults.empty() || !item.seen.empty()) << d.id << ": nothing shows it";
        }
    }
    EXPECT_EQ(tasks.size(), bench::task_rows().size()) << "one of each kind at the least";
    EXPECT_EQ(methods.size(), 4u);
    for (const Drill& d : all)
        if (d.level > 1)
            EXPECT_TRUE(std::any_of(
                all.begin(), all.end(), [&](const Drill& o) { return o.method == d.method && o.level == d.level - 1; }))
                << d.id << ": difficulty grows step by step";
}

TEST(Drills, AnswerOnlyQuestionsThatAreAsked)
{
    std::ifstream in(TEST_SOURCE_DIR "/data/protocols/questions.json");
    std::stringstream text;
    text << in.rdbuf();
    std::set<std::string> known;
    const auto questions = nlohmann::json::parse(text.str())["questions"];
    for (const auto& q : questions) known.insert(q["id"]);
    for (const Drill& d : bench::shipped_drills())
        for (const bench::DrillItem& item : d.items)
            for (const auto& [question, answer] : item.answers)
                EXPECT_TRUE(known.count(question)) << d.id << ": nobody asks " << question;
}

TEST(StandIns, ASeedMakesTheSameSwingAgainAndTheTruthIsToldOnRequest)
{
    const auto swing = [](const char* seed) {
        virt::Tank t(9);
        t.direct("client sex=male age=30 height=180 fat=12 ffm=66 rv=1.5 learning=0.3");
        t.advance_to(1);
        t.direct(std::string("seed ") + seed);
        t.direct("under");
        t.advance_to(3);
        t.direct("let_go");
        return std::pair{t.advance_to(6), t.direct("truth")};
    };
    EXPECT_EQ(swing("5").first, swing("5").first);
    EXPECT_NE(swing("5").first, swing("6").first);
    const std::string truth = swing("5").second;
    EXPECT_EQ(truth.rfind("truth underwater_kg=", 0), 0u) << truth;
    for (const char* key : {" air_left_l=", " zero_kg=7.542", " water_c=34.6"})
        EXPECT_NE(truth.find(key), std::string::npos) << truth;
}
