// SPDX-License-Identifier: GPL-3.0-or-later
// A visit by impedance as a log: order, refusals, segments measured again alone, typing, files, replay; and its
// recordings from the virtual line, with every fault.
#include "bench/base/fields.h"
#include "bench/analyser/analyser_take.h"
#include "bench/files/profile_file.h"
#include "bench/files/spectrum_file.h"
#include "core/quality/judgement.h"
#include "virtual/analyser/analyser.h"
#include "virtual/analyser/profile_fit.h"

#include <gtest/gtest.h>

using namespace fusain;
using bench::Json;
using impedance::Segment;
namespace step = bench::step;

namespace {

constexpr impedance::Arc arcs[] = {
    {300, 222, 0.70, 40}, {308, 228, 0.70, 40}, {24, 17.5, 0.69, 46}, {222, 164, 0.70, 40}, {226, 167, 0.70, 40}};

Json points_of(const impedance::Arc& arc, double more = 1)
{
    Json out = Json::array();
    for (double f : virt::analyser_khz) {
        const auto z = impedance::impedance_of(arc, f);
        out.push_back({f, more * z.real(), -more * z.imag()});
    }
    return out;
}
Json points(std::size_t i, double more = 1) { return points_of(arcs[i], more); }

struct Log {
    std::vector<bench::Event> events;
    bench::Visit visit;

    std::string add(const std::string& kind, Json body = Json::object())
    {
        bench::Event e{visit.last_seq + 1, "2026-11-23T08:20:00.000Z", "M. Tanguy", kind, body.dump()};
        const auto why = visit.apply(e);
        if (!why) events.push_back(e);
        return why ? why->code : "";
    }
    void until_current(
        const char* profile = "stand_in_1", const char* born = "1996-05-02", const Json& by_age = Json::object())
    {
        Json started = {{"method", "impedance"}, {"log", 2}, {"client_id", 3}, {"number", "101"}, {"name", "A. B."},
            {"birth_date", born}, {"sex", "male"}, {"height_cm", 178.0}, {"profile", profile}};
        started.update(by_age);
        EXPECT_EQ(add("started", started), "");
        add("identity", {{"cm", 178.0}});
        add("stops", {{"stop", Json::array()}, {"noted", Json::array()}});
        add("mass", {{"kg", 75.0}, {"source", "platform"}});
        add("stance", {{"seen", {"feet bare"}}});
    }
    /// A recording of these segments; `bad`: found by code, at the segments that are named.
    std::string sweep(const char* what, std::initializer_list<std::size_t> segments, const char* bad = nullptr,
        std::initializer_list<const char*> where = {}, double platform_kg = 75.0)
    {
        if (const auto why = add("trial_begun", {{"what", what}}); !why.empty()) return why;
        Json body = {{"platform_kg", platform_kg}, {"found", Json::array()}};
        for (std::size_t i : segments) body["segments"][impedance::segment_rows[i].id] = {{"points", points(i)}};
        if (bad) body["found"].push_back({{"code", bad}, {"segments", where}, {"words", "it was seen"}});
        return add("trial_taken", body);
    }
    bool says(const char* code)
    {
        for (const Message& m : visit.result().messages())
            if (m.code == code) return true;
        return false;
    }
};

/// A minute on the virtual analyser, through line, decoder and take.
bench::AnalyserShown minute_on(virt::Analyser& analyser, const virt::Body& body, double& now)
{
    bench::LineDecoder decoder;
    bench::AnalyserTake take;
    const auto listen = [&](double until) {
        std::vector<bench::Reading> readings;
        const std::string bytes = analyser.advance_to(until);
        decoder.feed({bytes.data(), bytes.size()}, readings);
        for (const bench::Reading& r : readings) take.feed(r);
        now = until;
    };
    analyser.direct("stand");
    listen(now + 4);
    analyser.direct("grip");
    listen(now + 6);
    take.begin(bench::take::body, body.mass_kg());
    for (const double from = now; !take.now().complete && now - from < 90;) listen(now + 0.5);
    return take.now();
}

std::size_t segments_in(const bench::Standing& standing)
{
    return bench::read<bench::event::SpectraTaken>(standing.taken->body)->segments.size();
}

} // namespace

TEST(AnalyserVisit, LeadsThroughTheStepsAndGivesTheResult)
{
    Log l;
    EXPECT_EQ(l.add("trial_begun", {{"what", "body"}}), "not_now") << "nothing has begun";
    l.until_current();
    EXPECT_EQ(l.visit.next_step(), step::spectrum);
    EXPECT_EQ(l.add("finished"), "not_now");
    EXPECT_EQ(l.sweep("body", {0, 1, 2, 3, 4}), "");
    const auto r = l.visit.result();
    ASSERT_TRUE(r) << r.messages().front().text;
    EXPECT_TRUE(r->find(quantity::segment_scale));
    EXPECT_TRUE(r->find(quantity::r0));
    EXPECT_EQ(l.add("finished"), "");
    // the same digits from the log
    bench::Visit again;
    for (const bench::Event& e : l.events) ASSERT_FALSE(again.apply(e));
    ASSERT_EQ(again.result()->values.size(), r->values.size());
    for (std::size_t i = 0; i < r->values.size(); ++i) EXPECT_EQ(again.result()->values[i].value, r->values[i].value);
    // a choice moves all numbers at once, and is kept
    EXPECT_EQ(l.add("choice", {{"what", "fat_free_mass"}, {"to", "sun_2003"}}), "");
    EXPECT_NE((*l.visit.result())[quantity::fat_percent].value, (*r)[quantity::fat_percent].value);
    EXPECT_NE((*l.visit.result())[quantity::segment_lean[2]].value, (*r)[quantity::segment_lean[2]].value);
    EXPECT_EQ(l.add("choice", {{"what", "fat_free_mass"}, {"to", "janssen_2000"}}), "unknown_choice");
    EXPECT_EQ(l.visit.choices.back().from, "kyle_2001");
    // a child begins with the equation of the young
    EXPECT_EQ(bench::read<bench::event::AnalyserStarted>(l.visit.row().beginning(Sex::male, 14))->fat_free_mass,
        "houtkooper_1992");
    EXPECT_EQ(l.visit.row().beginning(Sex::male, 30), "{}");
}

TEST(AnalyserVisit, MuchWaterOutsideTheCellsIsSaidWhereSwellingWasNoted)
{
    const auto swollen = [](const Json& stops) {
        Log l;
        l.until_current();
        l.add("stops", stops);
        EXPECT_EQ(l.add("trial_begun", {{"what", "body"}}), "");
        Json body = {{"platform_kg", 75.0}, {"found", Json::array()}};
        for (std::size_t i = 0; i < impedance::segment_count; ++i) {
            impedance::Arc flat = arcs[i]; // few cells let the current through
            flat.rinf_ohm = flat.r0_ohm - 0.45 * (flat.r0_ohm - flat.rinf_ohm);
            body["segments"][impedance::segment_rows[i].id] = {{"points", points_of(flat)}};
        }
        EXPECT_EQ(l.add("trial_taken", body), "");
        EXPECT_GT((*l.visit.result())[quantity::ecw_ratio].value, judgement::high_extracellular_share);
        return l.says("water_and_swelling");
    };
    const Json none = {{"stop", Json::array()}, {"noted", Json::array()}};
    Json noted = none, outside = none;
    noted["noted"] = {"fluid_disorder"};
    outside["outside"] = {{"fluid_disorder", "another_day"}};
    EXPECT_FALSE(swollen(none));
    EXPECT_TRUE(swollen(noted));
    EXPECT_TRUE(swollen(outside));
}

TEST(AnalyserVisit, OnlyWhatWasBadIsMeasuredAgain)
{
    Log l;
    l.until_current();
    EXPECT_EQ(l.sweep("body", {0, 1, 2, 3, 4}, "poor_contact", {"left_leg", "trunk"}), "");
    EXPECT_FALSE(l.visit.result()) << "two segments are missing";
    const auto& own = bench::analyser_of(l.visit);
    EXPECT_EQ(own.segments(l.visit)[0].trial, 1);
    EXPECT_EQ(own.segments(l.visit)[4].trial, 0);
    EXPECT_EQ(l.sweep("left_leg", {4}), "");
    EXPECT_EQ(l.sweep("trunk", {2}), "");
    ASSERT_TRUE(l.visit.result());
    EXPECT_EQ(bench::analyser_of(l.visit).segments(l.visit)[4].trial, 2);
    EXPECT_FALSE(l.says("poor_contact")) << "what was measured again is not doubted any more";
    // what stays strange twice is used, and said
    Log twice;
    twice.until_current();
    twice.sweep("body", {0, 1, 2, 3, 4}, "sides_differ", {"right_arm", "left_arm"});
    twice.sweep("right_arm", {0}, "sides_differ", {"right_arm"});
    twice.sweep("left_arm", {1}, "sides_differ", {"left_arm"});
    ASSERT_TRUE(twice.visit.result());
    EXPECT_TRUE(twice.says("sides_differ"));
    EXPECT_FALSE(twice.visit.to_acknowledge().empty()) << "not given out before somebody has seen it";
    // a thrown-out recording counts no more
    EXPECT_EQ(twice.add("trial_thrown_out", {{"number", 3}, {"reason", "other arm"}}), "");
    EXPECT_FALSE(twice.visit.result());
    // what does not fall is no impedance of a body, however often it is measured so
    Log never;
    never.until_current();
    never.sweep("body", {0, 1, 2, 3, 4}, "impedance_not_falling", {"right_arm"});
    for (int i = 0; i < 3; ++i) never.sweep("right_arm", {0}, "impedance_not_falling", {"right_arm"});
    EXPECT_FALSE(never.visit.result());
    never.sweep("right_arm", {0});
    EXPECT_TRUE(never.visit.result());
    // water still moving is said and does not stop anything
    Log early;
    early.until_current();
    early.sweep("body", {0, 1, 2, 3, 4}, "settling", {"right_leg", "left_leg"});
    EXPECT_TRUE(early.says("settling"));
    // mass changed meanwhile
    Log leant;
    leant.until_current();
    leant.sweep("body", {0, 1, 2, 3, 4}, nullptr, {}, 75.4);
    EXPECT_TRUE(leant.says("mass_changed"));
    Log still;
    still.until_current();
    still.sweep("body", {0, 1, 2, 3, 4}, nullptr, {}, 75.2);
    EXPECT_FALSE(still.says("mass_changed"));
}

TEST(AnalyserVisit, TypedOrFromAFile)
{
    Log l;
    l.until_current("");
    const auto typed = [&](Json body) {
        body.update({{"what", "body"}, {"source", "typed"}});
        return l.add("trial_typed", body);
    };
    struct Row {
        Json body;
        const char* code;
    };
    const Row refused[] = {{{{"whole_body", {{50, 58, 480}}}}, "swapped"},
        {{{"whole_body", {{50, 0.48, 0.058}}}}, "out_of_range"}, {{{"whole_body", {{50, 480, -58}}}}, "out_of_range"},
        {{{"whole_body", {{100, 450, 50}}}}, "missing_field"},
        {{{"whole_body", {{50, 480, 58}, {50, 470, 58}}}}, "frequency_twice"},
        {{{"whole_body", {{5, 480, 30}, {50, 490, 58}}}}, "impedance_not_falling"},
        {{{"segments", {{"right_arm", {{"points", {{50, 300, 30}}}}}}}}, "missing_field"},
        {{{"segments", {{"tail", {{"points", {{50, 300, 30}}}}}}}}, "missing_field"},
        {Json::object(), "missing_field"}};
    for (const Row& row : refused) EXPECT_EQ(typed(row.body), row.code) << row.body;
    EXPECT_TRUE(l.visit.trials.empty()) << "nothing of it stays";
    EXPECT_EQ(typed({{"whole_body", {{50, 480, 58}}}}), "");
    const auto r = l.visit.result();
    ASSERT_TRUE(r);
    EXPECT_NEAR((*r)[quantity::fat_free_mass].value, 59.2, 0.2) << "Kyle's check value";
    EXPECT_TRUE(l.says("one_frequency"));
    EXPECT_FALSE(r->find(quantity::segment_scale));
    // what the instrument says of itself is kept beside, never computed with
    EXPECT_EQ(l.add("instruments_own", {{"rows", {{{"title", "body fat"}, {"value", "21.3"}, {"unit", "%"}}}}}), "");
    EXPECT_EQ(l.add("instruments_own", {{"rows", Json::array()}}), "missing_field");
    EXPECT_EQ(bench::analyser_of(l.visit).own_numbers.at(0).value, "21.3");
    EXPECT_EQ((*l.visit.result())[quantity::fat_percent].value, (*r)[quantity::fat_percent].value);
}

TEST(AnalyserVisit, WhereNoEquationWasMadeForTheAgeOneIsChosenByName)
{
    const Json by_age = Json::parse(bench::analyser_row().beginning(Sex::male, 8.5));
    EXPECT_EQ(by_age.at("fat_free_mass"), "none");
    EXPECT_EQ(bench::analyser_row().beginning(Sex::male, 18), "{}");
    Log l;
    l.until_current("stand_in_1", "2018-05-02", by_age);
    l.sweep("body", {0, 1, 2, 3, 4});
    const auto none = l.visit.result();
    ASSERT_FALSE(none);
    EXPECT_EQ(none.messages().front().code, "no_equation");
    EXPECT_EQ(l.add("finished"), "not_now") << "there is no result yet";
    EXPECT_EQ(l.add("choice", {{"what", "fat_free_mass"}, {"to", "houtkooper_1992"}}), "");
    const auto r = l.visit.result();
    ASSERT_TRUE(r);
    EXPECT_TRUE(r->find(quantity::fat_percent));
    EXPECT_FALSE(r->find(quantity::total_body_water));
    EXPECT_FALSE(r->find(quantity::segment_expected[0])) << "nobody is expected to look like an adult";
    EXPECT_TRUE(l.says("outside_group")) << "on both sheets";
}

TEST(AnalyserVisit, AProfileThatIsNotHereIsSaid)
{
    Log l;
    l.until_current("of_another_lab");
    l.sweep("body", {0, 1, 2, 3, 4});
    EXPECT_TRUE(l.says("no_segments"));
    EXPECT_FALSE(l.visit.result()->find(quantity::segment_scale));
}

TEST(SpectrumFile, ReadsSpectraAndOwnNumbersAndNamesLineAndColumn)
{
    const auto spectra = bench::read_spectrum_file(
        "\xEF\xBB\xBF# by hand\nSegment;f_kHz;R_ohm;X_ohm\nright arm;50;280,5;29,1\nright arm;5;310,0;14,2\n"
        "whole_body;50;480;58\n",
        "a.csv");
    ASSERT_TRUE(spectra) << spectra.messages().front().text;
    EXPECT_EQ(spectra->points, 3);
    EXPECT_EQ(spectra->spectra.segments.at(index(Segment::right_arm)).points[0].r_ohm, 280.5);
    EXPECT_EQ(spectra->spectra.whole_body[0].x_ohm, 58.0);
    const auto own =
        bench::read_spectrum_file("quantity,value,unit\nbody fat,21.3,%\n\"muscle, all\",33.1,kg\n", "b.csv");
    ASSERT_TRUE(own);
    EXPECT_EQ(own->own[1].title, "muscle, all");
    EXPECT_TRUE(own->spectra.empty());
    const std::pair<const char*, const char*> bad[] = {{"", "nothing in it"}, {"a,b\n1,2\n", "line 1"},
        {"segment,f_khz,r_ohm,x_ohm\nright_arm,50,abc,29\n", "line 2, column r_ohm"},
        {"segment,f_khz,r_ohm,x_ohm\nright_arm,50,280\n", "line 2, column x_ohm"},
        {"segment,f_khz,r_ohm,x_ohm\n\nhead,50,280,29\n", "line 3, column segment"},
        {"segment,f_khz,r_ohm,x_ohm\nright_arm,50,\"280,29\n", "line"},
        {"quantity,value\nbody fat,\n", "line 2, column value"}, {"segment,f_khz,r_ohm,x_ohm\n", "nothing in it"}};
    for (const auto& [text, words] : bad) {
        const auto read = bench::read_spectrum_file(text, "c.csv");
        ASSERT_FALSE(read) << text;
        EXPECT_EQ(read.messages().front().code, "bad_file");
        EXPECT_NE(read.messages().front().text.find(words), std::string::npos) << read.messages().front().text;
    }
}

TEST(ProfileFile, TheShippedOneIsWhatTheToolFits)
{
    const auto shipped = bench::shipped_profile("stand_in_1");
    ASSERT_TRUE(shipped);
    const auto fitted = virt::fit_profile(1000, 2026);
    for (std::size_t i = 0; i < impedance::segment_count; ++i)
        EXPECT_NEAR(shipped->parts[i].b_kg_ohm_per_cm2, fitted.parts[i].b_kg_ohm_per_cm2, 1e-9)
            << "fit it again: fusain-virtual profile --people 1000 --seed 2026 -o data/profiles/stand_in_1.json";
    const auto read = bench::read_profile(bench::write_profile(fitted), "p.json");
    ASSERT_TRUE(read) << read.messages().front().text;
    EXPECT_EQ(read->parts[2].a_kg, fitted.parts[2].a_kg) << "to the last digit";
    for (const char* text : {"", "[1]", "{}", "{\"kind\": \"fusain instrument profile\", \"id\": \"x\"}"})
        EXPECT_EQ(bench::read_profile(text, "p.json").messages().front().code, "bad_file") << text;
}

TEST(AnalyserLine, AWholeTestOverTheLineFindsTheTruth)
{
    std::mt19937_64 random(11);
    for (int i = 0; i < 4; ++i) {
        const virt::Body body = virt::somebody(random);
        virt::Analyser analyser(random());
        analyser.set_client(body);
        double now = 0;
        const auto shown = minute_on(analyser, body, now);
        ASSERT_TRUE(shown.complete);
        EXPECT_TRUE(shown.state.findings.empty()) << shown.state.findings.front().words;
        EXPECT_TRUE(bench::again(shown).empty());
        const auto flesh = virt::flesh_of(body);
        for (Segment s : impedance::all_segments) {
            const auto& arc = shown.state.segments[index(s)].arc;
            ASSERT_TRUE(arc);
            EXPECT_NEAR(arc->r0_ohm / flesh[index(s)].arc.r0_ohm, 1, 0.01);
            EXPECT_NEAR(arc->rinf_ohm / flesh[index(s)].arc.rinf_ohm, 1, 0.015);
        }
        const auto standing = bench::analyser_standing(shown, 1);
        ASSERT_TRUE(standing);
        EXPECT_EQ(segments_in(*standing), 5u);
    }
}

TEST(AnalyserLine, EveryFaultIsSeen)
{
    using impedance::Fault;
    const std::map<std::string, Fault> expected = {{"contact_1", Fault::poor_contact},
        {"contact_2", Fault::poor_contact}, {"contact_3", Fault::poor_contact}, {"contact_4", Fault::poor_contact},
        {"contact_5", Fault::poor_contact}, {"contact_6", Fault::poor_contact}, {"contact_7", Fault::poor_contact},
        {"contact_8", Fault::poor_contact}, {"arm_touches", Fault::limbs_touch}, {"arms_crossed", Fault::limbs_touch},
        {"thighs_touch", Fault::limbs_touch}, {"analyser_moves", Fault::moved}, {"analyser_talks", Fault::moved},
        {"just_stood", Fault::settling}, {"leans_on", Fault::leaning}, {"crosstalk", Fault::not_falling},
        {"analyser_warming", Fault::settling}, {"steps_off", Fault::stepped_off}};
    std::mt19937_64 random(5);
    for (const virt::AnalyserFaultRow& fault : virt::analyser_faults()) {
        const virt::Body body = virt::somebody(random);
        virt::Analyser analyser(random());
        analyser.set_client(body);
        analyser.set(fault.fault, true);
        double now = 0;
        const auto shown = minute_on(analyser, body, now);
        const auto at = expected.find(fault.word);
        if (at == expected.end()) { // cold skin is what no signal shows
            EXPECT_EQ(fault.fault, virt::AnalyserFault::cold_skin);
            EXPECT_TRUE(shown.state.findings.empty());
            continue;
        }
        EXPECT_TRUE(std::any_of(shown.state.findings.begin(), shown.state.findings.end(),
            [&](const impedance::Finding& f) { return f.fault == at->second; }))
            << fault.word << ": " << (shown.state.findings.empty() ? "nothing" : shown.state.findings.front().words);
    }
}

TEST(AnalyserLine, ALostLineIsAPauseAndWhatWasMeasuredStays)
{
    virt::Analyser analyser(3);
    virt::Body body;
    analyser.set_client(body);
    bench::LineDecoder decoder;
    bench::AnalyserTake take;
    double now = 0;
    const auto listen = [&](double seconds, bool heard = true) {
        std::vector<bench::Reading> readings;
        now += seconds;
        const std::string bytes = analyser.advance_to(now);
        decoder.feed({bytes.data(), bytes.size()}, readings);
        if (heard)
            for (const bench::Reading& r : readings) take.feed(r);
    };
    analyser.direct("stand");
    listen(3);
    analyser.direct("grip");
    listen(5);
    take.begin(bench::take::body, body.mass_kg());
    listen(9.5); // three segments
    take.lost(bench::Channel::platform, bench::Loss::line);
    EXPECT_TRUE(take.now().lost);
    EXPECT_EQ(take.broken(), "") << "a pause, not an end";
    const auto standing = bench::analyser_standing(take.now(), 1);
    ASSERT_TRUE(standing);
    EXPECT_GE(segments_in(*standing), 3u) << "kept, if the technician wants to go on from there";
    listen(20, false);
    listen(60);
    EXPECT_FALSE(take.now().lost);
    EXPECT_TRUE(take.now().complete);
    EXPECT_TRUE(take.now().state.findings.empty()) << take.now().state.findings.front().words;
}

TEST(AnalyserLine, WhoStepsOffWhenItIsOverChangesNothing)
{
    std::mt19937_64 random(8);
    const virt::Body body = virt::somebody(random);
    virt::Analyser analyser(3);
    analyser.set_client(body);
    bench::LineDecoder decoder;
    bench::AnalyserTake take;
    double now = 0;
    const auto listen = [&](double seconds) {
        std::vector<bench::Reading> readings;
        now += seconds;
        const std::string bytes = analyser.advance_to(now);
        decoder.feed({bytes.data(), bytes.size()}, readings);
        for (const bench::Reading& r : readings) take.feed(r);
    };
    analyser.direct("stand");
    listen(3);
    analyser.direct("grip");
    listen(5);
    take.begin(bench::take::body, body.mass_kg());
    listen(63);
    ASSERT_TRUE(take.now().complete);
    const auto before = bench::analyser_standing(take.now(), 1);
    analyser.direct("step_off");
    listen(10);
    EXPECT_LT(*take.now().platform_kg, 1);
    const auto after = bench::analyser_standing(take.now(), 1);
    EXPECT_EQ(before->taken->body, after->taken->body);
    EXPECT_NEAR(bench::read<bench::event::SpectraTaken>(after->taken->body)->platform_kg, body.mass_kg(), 0.1)
        << "the mass while it was measured";
    EXPECT_TRUE(bench::again(take.now()).empty());
}

// A study of repeats on a stand-in that is the same every time would find no noise: nobody stands twice alike.
TEST(AnalyserLine, WhoStandsThereAgainStandsOtherwise)
{
    std::mt19937_64 random(8);
    const virt::Body body = virt::somebody(random);
    virt::Analyser analyser(3);
    analyser.set_client(body);
    double now = 0;
    std::vector<double> ohm;                                           // R0 of the right leg
    for (const char* between : {"", "", "", "step_off", "step_off"}) { // the next visit begins with "stand" alone
        if (*between) analyser.direct(between);
        const auto shown = minute_on(analyser, body, now);
        ohm.push_back(shown.state.segments[index(impedance::Segment::right_leg)].arc->r0_ohm);
    }
    const auto range = [&](std::size_t from, std::size_t to) {
        const auto [least, most] = std::minmax_element(ohm.begin() + long(from), ohm.begin() + long(to));
        return *most / *least - 1;
    };
    EXPECT_GT(range(0, 3), 0.004) << "without getting off";
    EXPECT_GT(range(2, 5), 0.004);
    EXPECT_LT(range(0, 5), 0.12);
}
