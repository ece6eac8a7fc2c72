// SPDX-License-Identifier: GPL-3.0-or-later
// The shipped protocols: their files, what is told beforehand, what is asked, and the verdicts.
#include "bench/files/protocol_file.h"
#include "core/before/preparation.h"
#include "core/time/alike.h"

#include <gtest/gtest.h>

#include <fstream>
#include <set>
#include <sstream>

using namespace fusain;
using namespace fusain::protocol;
using screening::Answer;
using screening::Answers;

namespace {

std::string read(const std::string& name)
{
    std::ifstream in(std::string(TEST_SOURCE_DIR) + "/data/" + name);
    EXPECT_TRUE(in.good()) << name;
    std::stringstream s;
    s << in.rdbuf();
    return s.str();
}

const Book& book()
{
    static const Book b = [] {
        Book out;
        out.questions = *bench::read_questions(read("protocols/questions.json"), "questions.json");
        for (Method m : all_methods()) {
            const std::string name = std::string(m->word) + ".json";
            const auto p = bench::read_protocol(read("protocols/" + name), name, out.questions);
            EXPECT_TRUE(p) << p.messages().front().text;
            if (p) out.protocols.push_back(*p);
        }
        return out;
    }();
    return b;
}

HouseRules schools(const std::string& id = "", const std::string& option = "")
{
    HouseRules chosen;
    if (!id.empty()) chosen[id] = option;
    return house::with_defaults(*bench::read_house_rules(read("house_rules.json"), "house_rules.json"), chosen);
}

screening::Person woman(double age = 31)
{
    screening::Person p;
    p.age_y = age;
    p.consent = true;
    return p;
}

/// Answers that keep every rule.
Answers kept()
{
    Answers a;
    for (const Question& q : book().questions) {
        Answer x;
        if (q.ask == Ask::clock)
            x.never = true;
        else if (q.ask == Ask::number)
            x.number = 0;
        else
            x.yes = q.id == "bladder" || q.id == "somebody_at_the_tank";
        a[q.id] = x;
    }
    return a;
}

Answer yes()
{
    Answer a;
    a.yes = true;
    return a;
}
Answer no()
{
    Answer a;
    a.yes = false;
    return a;
}
Answer ago(double minutes)
{
    Answer a;
    a.minutes_ago = minutes;
    return a;
}
Answer count(double n)
{
    Answer a;
    a.number = n;
    return a;
}

} // namespace

TEST(Protocols, ShippedFilesAreCompleteAndSurviveWriting)
{
    int rules = 0;
    for (const Protocol& p : book().protocols) {
        rules += static_cast<int>(p.rules.size());
        for (const protocol::Rule& r : p.rules) EXPECT_GT(r.source.size(), 8u) << r.id;
        const std::string text = bench::write_protocol(p);
        const auto again = bench::read_protocol(text, "again", book().questions);
        ASSERT_TRUE(again) << again.messages().front().text;
        EXPECT_EQ(bench::write_protocol(*again), text);
        EXPECT_EQ(again->rules.size(), p.rules.size());
    }
    EXPECT_GE(rules, 55);
}

TEST(Protocols, AFileWithAnErrorIsRefusedWithLineAndReason)
{
    const std::string good = read("protocols/impedance.json");
    const auto with = [&](const std::string& from, const std::string& to) {
        std::string t = good;
        const auto at = t.find(from);
        EXPECT_NE(at, std::string::npos) << from;
        return t.replace(at, from.size(), to);
    };
    struct Row {
        std::string from, to, line, reason;
    };
    const Row rows[] = {
        {"\"version\": 2,", "\"version\": 2", "line 7", "not readable"},
        {"\"method\": \"impedance\"", "\"method\": \"impedence\"", "", "impedence"},
        {"\"id\": \"metal_implant\", \"question\"", "\"id\": \"metal_implant\", \"qestion\"", "line 14", "qestion"},
        {"\"question\": \"metal_implant\"", "\"question\": \"metal\"", "line 14", "not a known question"},
        {"\"limit\": 120", "\"limit\": 200", "", "mildest to the worst"},
        {"\"limit\": 1440", "\"limit\": -5", "", "-5"},
        {"\"verdict\": \"no\", \"safety\": true", "\"verdict\": \"no\"", "line 8", "not marked as a matter of safety"},
        {"\"verdict\": \"noted\"", "\"verdict\": \"maybe\"", "", "maybe"},
        {"\"source\": \"common laboratory practice, who must not be tested\"", "\"source\": \"\"", "",
            "names no source"},
        {"\"prepare_min\": 180", "\"prepare_min\": \"3 h\"", "", "3 h"},
        {"\"kind\": \"fusain protocol\"", "\"kind\": \"recipe\"", "", "not a file of the kind"},
    };
    for (const Row& row : rows) {
        const auto p = bench::read_protocol(with(row.from, row.to), "mine.json", book().questions);
        ASSERT_FALSE(p) << row.to;
        const std::string text = p.messages().front().text;
        EXPECT_NE(text.find("mine.json"), std::string::npos) << text;
        EXPECT_NE(text.find(row.line), std::string::npos) << text << " instead of " << row.line;
        EXPECT_NE(text.find(row.reason), std::string::npos) << text;
    }
}

struct Case {
    const char* name;
    Method method;
    const char* question;
    Answer answer;
    Verdict verdict;
    const char* words; ///< in the finding or its effects
    bool override_possible;
    double starts_in_min = 0;
    const char* rule = "";
    const char* option = "";
};

class Screening : public ::testing::TestWithParam<Case> {};

TEST_P(Screening, Verdict)
{
    const Case& c = GetParam();
    Answers a = kept();
    a[c.question] = c.answer;
    const screening::Part part{c.method, c.starts_in_min};
    const auto v = screening::screen(book(), schools(c.rule, c.option), woman(), {&part, 1}, a);
    ASSERT_EQ(v.size(), 1u);
    EXPECT_STREQ(word(v[0].verdict), word(c.verdict));
    EXPECT_TRUE(v[0].open.empty()) << v[0].open.front();
    EXPECT_EQ(v[0].may_be_overridden(), c.override_possible);
    if (c.verdict == Verdict::go) {
        EXPECT_TRUE(v[0].findings.empty());
        return;
    }
    ASSERT_FALSE(v[0].findings.empty());
    const auto& f = v[0].findings.front();
    std::string all = f.words;
    for (const auto& e : f.effects) all += " | " + e;
    EXPECT_NE(all.find(c.words), std::string::npos) << all;
    EXPECT_EQ(f.safety, c.verdict == Verdict::no);
}

constexpr Method I = method::impedance, A = method::air_displacement, H = method::hydrostatic,
                 X = method::absorptiometry;
constexpr Verdict go = Verdict::go, noted = Verdict::noted, another = Verdict::another_day, stop = Verdict::no;

INSTANTIATE_TEST_SUITE_P(Cases, Screening,
    ::testing::Values(
        // every stop: no override
        Case{"pacemaker", I, "powered_implant", yes(), stop, "powered implant", false},
        Case{"xray_pregnant", X, "pregnancy_possible", yes(), stop, "no X-ray", false},
        Case{"uneasy", H, "uneasy_under_water", yes(), stop, "at ease", false},
        Case{"wound", H, "open_wound_or_infection", yes(), stop, "wound", false},
        Case{"surgery", H, "recent_surgery", yes(), stop, "surgery", false},
        Case{"fainting", H, "seizure_or_fainting", yes(), stop, "fainting", false},
        Case{"heart", H, "unstable_heart_or_lung", yes(), stop, "heart", false},
        Case{"alone", H, "somebody_at_the_tank", no(), stop, "Nobody stays", false},
        // a stop of one method does not touch another
        Case{"pacemaker_in_chamber", A, "powered_implant", yes(), go, "", false},
        Case{"wound_on_xray", X, "open_wound_or_infection", yes(), go, "", false},
        // clock times: the program judges the gap
        Case{"ate_70_min_ago", I, "last_meal", ago(70), another, "Ate 1 h 10 min before; the rule is 3 h.", true},
        Case{"ate_70_min_ago_effect", I, "last_meal", ago(70), another,
            "fat mass +0.3 to +0.8 kg: unabsorbed food counts as fat", true},
        Case{"ate_just_2_h_ago", I, "last_meal", ago(120), noted, "Ate 2 h before", false},
        Case{"ate_a_minute_short", I, "last_meal", ago(179), noted, "2 h 59 min", false},
        Case{"ate_3_h_ago", I, "last_meal", ago(180), go, "", false},
        Case{"gap_counts_to_the_test", I, "last_meal", ago(150), go, "", false, 30},
        Case{"light_meal_school", I, "last_meal", ago(70), go, "", false, 0, "food_before_impedance", "light_meal_1h"},
        Case{"fasted_school", I, "last_meal", ago(400), noted, "fasted", false, 0, "food_before_impedance", "fasted"},
        Case{"drank_20_min_ago", I, "last_drink", ago(20), noted, "20 min", false},
        Case{"dry_school", I, "last_drink", ago(60), noted, "dry", false, 0, "food_before_impedance", "fasted"},
        Case{"wine_last_night", I, "last_alcohol", ago(11 * 60), noted, "11 h before; the rule is 24 h", false},
        Case{"ran_2_h_ago", I, "last_exercise", ago(119), another, "1 h 59 min", true},
        Case{"ran_4_h_ago", I, "last_exercise", ago(240), go, "", false},
        Case{"coffee_as_always", I, "last_caffeine", ago(60), go, "", false},
        Case{"coffee_beyond_habit", I, "unusual_caffeine", yes(), noted, "every day", false},
        Case{"coffee_where_none_is_allowed", I, "last_caffeine", ago(60), noted, "1 h before", false, 0, "caffeine",
            "none_24h"},
        Case{"flew_in", I, "flight", ago(300), noted, "5 h", false}, Case{"ill", I, "ill", yes(), another, "Ill", true},
        Case{"lotion", I, "lotion", yes(), noted, "wipe", false},
        Case{"full_bladder", I, "bladder", no(), noted, "fat mass too high", false},
        Case{"metal_knee", I, "metal_implant", yes(), noted, "that segment", false},
        Case{"swollen", I, "fluid_disorder", yes(), another, "lean mass too high", true},
        Case{"wet_hair", A, "wet", yes(), another, "% fat \u22122 to \u22121 %", true},
        Case{"hair_out", A, "loose_cloth", yes(), noted, "% fat \u22122.3 %", false},
        Case{"closed_spaces", A, "closed_spaces", yes(), noted, "magnets", false},
        Case{"fizzy", H, "fizzy", yes(), noted, "gas floats", false},
        Case{"smoked", H, "smoked", yes(), noted, "lung test", false},
        Case{"pregnant_in_tank", H, "pregnancy_possible", yes(), noted, "Local rules", false},
        Case{"contrast", X, "contrast_recent", yes(), another, "7 days", true},
        Case{"three_scans", X, "scans", count(3), go, "", false},
        Case{"four_scans", X, "scans", count(4), noted, "4 scans", false}),
    [](const auto& i) { return std::string(i.param.name); });

TEST(Screen, WhatTheRecordForbidsComesBeforeWhatIsAnswered)
{
    const screening::Part x{X, 0};
    struct Row {
        const char* name;
        std::function<void(screening::Person&)> change;
        const char* rule;
    };
    const Row rows[] = {
        {"no consent", [](auto& p) { p.consent = false; }, "consent"},
        {"minor without guardian", [](auto& p) { p.age_y = 17.9; }, "guardian"},
        {"too heavy for the table", [](auto& p) { p.last_mass_kg = 181; }, "rated_mass"},
    };
    for (const Row& row : rows) {
        screening::Person p = woman();
        row.change(p);
        const auto v = screening::screen(book(), schools(), p, {&x, 1}, kept(), {180.0});
        EXPECT_EQ(v[0].verdict, stop) << row.name;
        ASSERT_FALSE(v[0].findings.empty()) << row.name;
        EXPECT_EQ(v[0].findings.front().rule, row.rule);
        EXPECT_FALSE(v[0].may_be_overridden()) << row.name;
    }
    screening::Person minor = woman(17.9);
    minor.guardian_consent = true;
    EXPECT_EQ(screening::screen(book(), schools(), minor, {&x, 1}, kept(), {180.0})[0].verdict, go);
}

TEST(Screen, AsksOnlyWhatThisClientAndTheseMethodsNeed)
{
    const auto ids = [](const screening::Person& p, std::vector<screening::Part> parts,
                         const HouseRules& h = schools()) {
        std::set<std::string> out;
        for (const Question* q : screening::questions(book(), h, p, parts))
            EXPECT_TRUE(out.insert(q->id).second) << "asked twice: " << q->id;
        return out;
    };
    screening::Person man = woman();
    man.sex = Sex::male;
    EXPECT_TRUE(ids(woman(), {{X, 0}}).count("pregnancy_possible"));
    EXPECT_FALSE(ids(man, {{X, 0}}).count("pregnancy_possible"));
    EXPECT_FALSE(ids(woman(70), {{X, 0}}).count("pregnancy_possible"));
    EXPECT_FALSE(ids(woman(), {{A, 0}}).count("powered_implant"));
    EXPECT_FALSE(ids(woman(), {{I, 0}}).count("last_caffeine")) << "the habit is kept, so its hour does not matter";
    EXPECT_TRUE(ids(woman(), {{I, 0}}, schools("caffeine", "none_24h")).count("last_caffeine"));
    EXPECT_GT(ids(woman(), {{I, 0}, {A, 30}, {H, 60}}).size(), ids(woman(), {{A, 0}}).size());

    // filled in from standing facts and the last visit; the rest stays open
    screening::Person p = woman();
    p.facts = {"metal_implant"};
    Answers last;
    last["water_medicine"] = yes();
    last["last_meal"] = ago(60);
    const Answers before = screening::known_before(book(), p, last);
    EXPECT_TRUE(before.at("metal_implant").yes.value());
    EXPECT_TRUE(before.at("water_medicine").yes.value());
    EXPECT_FALSE(before.count("last_meal")) << "what was eaten then says nothing about today";
    const screening::Part part{I, 0};
    const auto v = screening::screen(book(), schools(), p, {&part, 1}, before);
    EXPECT_FALSE(v[0].open.empty());

    // measured again within the hour: all but what may stop it, and what lay back lies further back
    last["powered_implant"] = no();
    const Answers again = screening::known_again(book(), last, 25);
    EXPECT_EQ(again.size(), 2u);
    EXPECT_DOUBLE_EQ(*again.at("last_meal").minutes_ago, 85);
    EXPECT_FALSE(again.count("powered_implant"));
}

TEST(Screen, ComparabilityNamesEveryDifference)
{
    screening::Conditions last{"2026-09-08", "T1", 8 * 60, "siri_1961", "p 1", {{"last_meal", go}, {"wet", go}}};
    auto now = last;
    now.minute_of_day = 9.5 * 60;
    EXPECT_TRUE(alike::compare(last, now).comparable);
    struct Row {
        std::function<void(screening::Conditions&)> change;
        const char* what;
    };
    const Row rows[] = {
        {[](auto& c) { c.instrument = "T2"; }, "instrument"},
        {[](auto& c) { c.minute_of_day = 10 * 60 + 1; }, "time of day"},
        {[](auto& c) { c.minute_of_day = 23.5 * 60; }, "time of day"},
        {[](auto& c) { c.equations = "brozek_1963"; }, "equations"},
        {[](auto& c) { c.kept["last_meal"] = noted; }, "preparation"},
    };
    for (const Row& row : rows) {
        auto c = last;
        row.change(c);
        const auto r = alike::compare(last, c);
        EXPECT_FALSE(r.comparable) << row.what;
        EXPECT_NE(r.sentence.find(row.what), std::string::npos) << r.sentence;
    }
    auto unknown = last;
    unknown.instrument.clear();
    unknown.protocol.clear();
    const auto untold = alike::compare(unknown, last);
    EXPECT_TRUE(untold.comparable) << "what was not noted is no difference";
    EXPECT_NE(untold.sentence.find("by instrument and preparation it cannot be told"), std::string::npos)
        << untold.sentence;
    EXPECT_EQ(untold.sentence.find("differ"), std::string::npos)
        << "nothing differs that is not known: " << untold.sentence;
    // at the result, what was really done decides: the lung route too
    auto measured = last;
    measured.lung = "measured";
    auto predicted = last;
    predicted.lung = "age_height quanjer_1993";
    EXPECT_NE(alike::compare(measured, predicted, {}, alike::Tense::measured)
                  .sentence.find("Does not compare cleanly with the visit of 2026-09-08: lung gas differs."),
        std::string::npos);
    auto midnight = last;
    midnight.minute_of_day = 23.5 * 60;
    auto after = last;
    after.minute_of_day = 60;
    EXPECT_TRUE(alike::compare(midnight, after).comparable) << "23:30 and 01:00 are an hour and a half apart";
    // what the change over time asks is asked here too: agreeing instruments, height, pounds
    auto other = last;
    other.instrument = "T2";
    const auto agree = alike::compare(last, other, {alike::same_hour_min, false, true});
    EXPECT_TRUE(agree.comparable);
    EXPECT_NE(agree.rows.front().words.find("the two were compared, and agree"), std::string::npos);
    auto first = last, taller = last;
    first.height_cm = 178;
    taller.height_cm = 179.6;
    EXPECT_TRUE(alike::compare(first, taller).comparable) << "not reckoned with the height";
    const auto grown = alike::compare(first, taller, {alike::same_hour_min, true});
    EXPECT_FALSE(grown.comparable);
    EXPECT_NE(grown.sentence.find("height differs"), std::string::npos) << grown.sentence;
    first.mass_kg = 75;
    taller.mass_kg = 165.3;
    EXPECT_NE(alike::compare(first, taller).sentence.find("unit differs"), std::string::npos);
}

TEST(Preparation, TheStricterRuleWinsAndSaysForWhich)
{
    const auto line = [](const std::vector<preparation::Line>& lines, const std::string& topic) {
        const auto at = std::find_if(lines.begin(), lines.end(), [&](const auto& l) { return l.topic == topic; });
        return at == lines.end() ? preparation::Line{} : *at;
    };
    // three methods on one morning: impedance first, chamber 15 min later, tank 45 min later
    const std::vector<screening::Part> parts{{I, 0}, {A, 15}, {H, 45}};
    const auto lines = preparation::prepare(book(), schools(), woman(), parts);
    const auto meal = line(lines, "meal");
    EXPECT_DOUBLE_EQ(meal.before_visit_min.value(), 180);
    EXPECT_EQ(meal.methods.front(), I);
    EXPECT_EQ(meal.methods.size(), 3u);
    EXPECT_DOUBLE_EQ(line(lines, "drink").before_visit_min.value(), 45);
    EXPECT_DOUBLE_EQ(line(lines, "alcohol").before_visit_min.value(), 1440);
    EXPECT_NE(line(lines, "caffeine").words.find("allowed"), std::string::npos);
    EXPECT_FALSE(line(lines, "bladder").before_visit_min);
    EXPECT_EQ(line(lines, "bladder").methods.size(), 3u) << "told once for all three";
    EXPECT_EQ(lines.front().topic, "alcohol") << "the earliest on top";

    // the chamber much later than a light-meal impedance test: now the chamber's rule is the later, impedance's still
    // the stricter
    const auto light = preparation::prepare(book(), schools("food_before_impedance", "light_meal_1h"), woman(),
        std::vector<screening::Part>{{I, 0}, {A, 15}});
    EXPECT_EQ(line(light, "meal").methods.front(), A) << "2 h before the chamber is earlier than 1 h before impedance";
    EXPECT_DOUBLE_EQ(line(light, "meal").before_visit_min.value(), 105);
    screening::Person man = woman();
    man.sex = Sex::male;
    EXPECT_EQ(
        line(preparation::prepare(book(), schools(), man, std::vector<screening::Part>{{X, 0}}), "pregnancy").topic, "")
        << "a man is not told about pregnancy";
}

TEST(Protocols, QuestionsStandInTheirGroups)
{
    const std::string good = read("protocols/questions.json");
    ASSERT_TRUE(bench::read_questions(good, "questions.json"));
    std::set<std::string> groups;
    std::string last;
    for (const Question& q : book().questions) {
        if (q.group != last) EXPECT_TRUE(groups.insert(q.group).second) << q.id << ": its group is torn apart";
        last = q.group;
    }
    EXPECT_EQ(groups.size(), 4u);
    struct Row {
        const char *from, *to, *reason;
    };
    const Row rows[] = {
        {"\"group\": \"Worn and on the skin\", ", "", "\"group\" is missing"},
        {"\"group\": \"Worn and on the skin\"", "\"group\": \"Worn\"", "not one of \"groups\""},
        {"\"group\": \"Worn and on the skin\"", "\"group\": \"Health and safety\"", "stand together"},
        {"\"groups\": [", "\"group\": [", "\"groups\" is missing"},
        {"\"ask\": \"clock\"", "\"ask\": \"time\"", "clock, yes_no or number"},
        {"\"id\": \"last_drink\"", "\"id\": \"last_meal\"", "stands there twice"},
        {"\"from_last\": true", "\"from_last\": \"yes\"", "not of the right kind"},
        {"\"kind\": \"fusain questions\"", "\"kind\": \"fusain protocol\"", "not a file of the kind"},
    };
    for (const Row& row : rows) {
        std::string text = good;
        const auto at = text.find(row.from);
        ASSERT_NE(at, std::string::npos) << row.from;
        const auto read_again =
            bench::read_questions(text.replace(at, std::string(row.from).size(), row.to), "mine.json");
        ASSERT_FALSE(read_again) << row.to;
        const std::string said = read_again.messages().front().text;
        EXPECT_NE(said.find(row.reason), std::string::npos) << said;
        EXPECT_NE(said.find("mine.json"), std::string::npos) << said;
    }
}

TEST(Protocols, HouseRulesWithAnErrorAreRefused)
{
    const std::string good = read("house_rules.json");
    const auto rules = bench::read_house_rules(good, "house_rules.json");
    ASSERT_TRUE(rules);
    for (const house::Rule& rule : *rules) {
        EXPECT_FALSE(rule.options.empty()) << rule.id;
        const auto defaults = house::with_defaults(*rules, {});
        EXPECT_TRUE(rule.option(defaults.at(rule.id))) << rule.id << ": its default is one of its options";
        // a choice that is not an option is as good as none
        EXPECT_EQ(house::with_defaults(*rules, {{rule.id, "as we like"}}).at(rule.id), defaults.at(rule.id)) << rule.id;
    }
    struct Row {
        const char *from, *to;
    };
    for (const Row& row : {Row{"\"kind\": \"", "\"kind\": \"x"}, Row{"\"rules\"", "\"rulez\""}, Row{"[", "{"},
             Row{"\"default\": \"meal_3h\"", "\"default\": \"meal\""}, Row{"\"source\"", "\"sauce\""}}) {
        std::string text = good;
        text.replace(text.find(row.from), std::string(row.from).size(), row.to);
        EXPECT_FALSE(bench::read_house_rules(text, "mine.json")) << row.to;
    }
}

TEST(Screen, AWorseAnswerNeverMakesABetterVerdict)
{
    // for every question, from the answer that keeps every rule to the worst one, in steps
    for (Method m : all_methods()) {
        const std::vector<screening::Part> parts{{m, 0}};
        const auto person = woman();
        const HouseRules house = schools();
        const auto verdict = [&](const Answers& a) {
            const auto v = screening::screen(book(), house, person, parts, a, {});
            EXPECT_EQ(v.size(), 1u);
            return v.front();
        };
        const auto best = verdict(kept());
        EXPECT_EQ(best.verdict, Verdict::go) << m->word;
        EXPECT_TRUE(best.open.empty()) << m->word << ": " << (best.open.empty() ? "" : best.open.front());
        for (const Question* q : screening::questions(book(), house, person, parts)) {
            std::vector<Answer> worse;
            if (q->ask == Ask::yes_no)
                worse = {kept()[q->id].yes.value_or(false) ? no() : yes()};
            else if (q->ask == Ask::number)
                worse = {count(1), count(3), count(10), count(100)};
            else
                worse = {ago(14 * 1440), ago(2 * 1440), ago(1000), ago(400), ago(150), ago(60), ago(20), ago(1)};
            Verdict last = Verdict::go;
            bool asked_again = false;
            for (const Answer& a : worse) {
                Answers all = kept();
                all[q->id] = a;
                const auto v = verdict(all);
                EXPECT_GE(v.verdict, last) << m->word << ", " << q->id << ": closer to the test, milder";
                last = v.verdict;
                for (const auto& f : v.findings) {
                    EXPECT_FALSE(f.words.empty()) << q->id;
                    EXPECT_EQ(f.words.find('{'), std::string::npos) << f.words << ": a gap in the words";
                    asked_again |= f.question == q->id;
                }
                // what is a matter of safety has no way around it
                for (const auto& f : v.findings)
                    if (f.safety) EXPECT_FALSE(v.may_be_overridden()) << q->id;
            }
            EXPECT_TRUE(asked_again) << m->word << ", " << q->id << " is asked and no answer to it means anything";
            // not answered: said to be open, and never taken for kept
            Answers all = kept();
            all.erase(q->id);
            const auto v = verdict(all);
            EXPECT_NE(std::find(v.open.begin(), v.open.end(), q->id), v.open.end()) << m->word << ", " << q->id;
        }
    }
}

TEST(Preparation, EveryLineIsTrueOfTheMethodsItNames)
{
    for (Method m : all_methods())
        for (double in_min : {60.0, 600.0, 3000.0}) {
            const std::vector<screening::Part> parts{{m, in_min}};
            const auto lines = preparation::prepare(book(), schools(), woman(), parts);
            std::set<std::string> seen;
            for (const preparation::Line& l : lines) {
                EXPECT_TRUE(seen.insert(l.words).second) << l.words << " is told twice";
                EXPECT_FALSE(l.words.empty());
                EXPECT_FALSE(l.reason.empty()) << l.words;
                ASSERT_FALSE(l.methods.empty()) << l.words;
                EXPECT_EQ(l.methods.front(), m) << l.words;
            }
            if (m != method::absorptiometry) EXPECT_GT(lines.size(), 2u) << m->word;
        }
}
