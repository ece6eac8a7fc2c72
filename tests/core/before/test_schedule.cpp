// SPDX-License-Identifier: GPL-3.0-or-later
// The planner: proposals, what binds, conflicts, and what must be started by when.
#include "core/before/group.h"
#include "core/before/schedule.h"

#include <gtest/gtest.h>

#include <algorithm>

using namespace fusain;
using namespace fusain::schedule;

namespace {

constexpr Minute day = 1440, d0 = 20000 * day; // some midnight
constexpr Minute at(int h, int m = 0, int days = 0) { return d0 + days * day + h * 60 + m; }

std::vector<Span> open_days(int from_h, int to_h, int days = 5)
{
    std::vector<Span> out;
    for (int i = 0; i < days; ++i) out.push_back({at(from_h, 0, i), at(to_h, 0, i)});
    return out;
}

Lab lab()
{
    Lab l;
    l.instruments = {
        {"B1", "Analyser", method::impedance, open_days(7, 17), {{"switch on, nobody on the platform", 15}}, {}, 5, 0},
        {"X1", "X-ray", method::absorptiometry, open_days(7, 17), {{"scan the phantom", 15}}, {}, 15, 5},
        {"C1", "Chamber", method::air_displacement, open_days(7, 17), {{"warm up", 30}},
            {{"calibrate empty and with the cylinder", 5}}, 10, 0},
        {"T1", "Tank 1", method::hydrostatic, open_days(7, 17),
            {{"wipe with diluted bleach, wait 15 min", 20}, {"rinse", 10}, {"open the tap", 165},
                {"hang the chair, zero with belt", 15}},
            {}, 40, 10},
    };
    l.staff = {{"A", open_days(4, 18), {method::absorptiometry}}, {"B", open_days(7, 18), {}}};
    return l;
}

Request wants(std::vector<Method> methods, Minute from = at(7), Minute to = at(17))
{
    Request r;
    r.client = 1;
    r.methods = std::move(methods);
    r.window = {from, to};
    for (int i = 0; i < 5 && at(0, 0, i) < to; ++i) r.midnights.push_back(at(0, 0, i));
    return r;
}

constexpr Method I = method::impedance, A = method::air_displacement, H = method::hydrostatic,
                 X = method::absorptiometry;

/// Every rule of a proposal checked by itself, not by the searcher.
void expect_valid(const Lab& l, const Request& r, const Proposal& p)
{
    Lab with = l;
    for (Slot t : p.parts) {
        t.visit = 999;
        EXPECT_TRUE(r.window.holds(t.at));
        with.tests.push_back(t);
    }
    for (const Conflict& c : conflicts(with)) ADD_FAILURE() << c.words;
    EXPECT_EQ(p.parts.size(), r.methods.size());
    int waits = 0;
    for (std::size_t i = 1; i < p.parts.size(); ++i) {
        const auto gap = p.parts[i].at.from - p.parts[i - 1].at.to;
        EXPECT_GE(gap, change_min);
        waits += static_cast<int>(gap) - change_min;
    }
    EXPECT_EQ(waits, p.wait_min);
    EXPECT_LE(waits, r.max_wait_min);
}

} // namespace

TEST(Planner, DryBeforeWetEarliestWithoutWaiting)
{
    const auto r = wants({H, A, I, X});
    const auto a = propose(lab(), r);
    ASSERT_TRUE(a);
    ASSERT_FALSE(a->proposals.empty());
    for (const Proposal& p : a->proposals) {
        expect_valid(lab(), r, p);
        EXPECT_EQ(p.parts[2].method, A);
        EXPECT_EQ(p.parts[3].method, H) << "the tank comes last";
    }
    EXPECT_EQ(a->proposals[0].wait_min, 0);
    // the tank takes 3 h 30 from 04:00, when the first is there: nobody under water before 07:30, and that leaves 45
    // min for the others
    EXPECT_EQ(a->proposals[0].parts[0].at.from, at(7));
    EXPECT_GE(a->proposals[0].parts[3].at.from, at(7, 30));
}

TEST(Planner, KeepsTheHourOfEarlierVisits)
{
    auto r = wants({I}, at(7), at(17, 0, 2));
    r.usual_minute = 9 * 60 + 30;
    const auto a = propose(lab(), r);
    ASSERT_TRUE(a);
    EXPECT_NEAR(static_cast<double>(a->proposals[0].parts[0].at.from - at(9, 30)), 0, 30);
    EXPECT_NE(a->proposals[0].because.find("same hour"), std::string::npos);
    EXPECT_GE(a->proposals.size(), 3u);
}

TEST(Planner, TheUsualHourStaysTheHourWhenTheClockIsChanged)
{
    // the second day has 25 hours: 09:30 of the third lies an hour further on
    Lab l = lab();
    Request r = wants({I}, at(7), at(18, 0, 2));
    r.midnights = {at(0), at(0, 0, 1), at(1, 0, 2)};
    r.usual_minute = 9 * 60 + 30;
    r.window.from = at(1, 0, 2);
    const auto a = propose(l, r);
    ASSERT_TRUE(a);
    EXPECT_NEAR(static_cast<double>(a->proposals[0].parts[0].at.from - at(10, 30, 2)), 0, 30);
}

TEST(Planner, SaysWhichConstraintBinds)
{
    struct Row {
        const char* name;
        std::function<void(Lab&, Request&)> change;
        Constraint binds;
    };
    const Row rows[] = {
        {"retest interval", [](Lab&, Request& r) { r.not_before = at(7, 0, 20); }, Constraint::retest},
        {"nobody licensed",
            [](Lab& l, Request& r) {
                l.staff[0].licences.clear();
                r.methods = {X};
            },
            Constraint::licence},
        {"closed", [](Lab& l, Request&) { l.instruments[0].open.clear(); }, Constraint::open_hours},
        {"taken all day",
            [](Lab& l, Request&) {
                l.tests.push_back({7, 7, I, "B1", {at(7), at(17)}});
            },
            Constraint::instrument_free},
        {"too late to fill the tank",
            [](Lab&, Request& r) {
                r.methods = {H};
                r.now = at(14);
            },
            Constraint::lead_time},
        {"client elsewhere",
            [](Lab& l, Request& r) {
                l.instruments.push_back({"B2", "Second", I, open_days(7, 17), {}, {}, 5, 0});
                l.tests.push_back({7, 1, I, "B2", {at(6), at(18)}});
                (void)r;
            },
            Constraint::client_free},
        {"nobody there",
            [](Lab& l, Request& r) {
                l.staff[0].here = {{at(4), at(6, 50)}};
                l.staff[1].here = {};
                (void)r;
            },
            Constraint::staff},
        {"would wait too long",
            [](Lab& l, Request& r) {
                r.methods = {I, A};
                r.max_wait_min = 20;
                l.tests.push_back({7, 7, A, "C1", {at(7, 5), at(12)}});
                l.tests.push_back({8, 8, I, "B1", {at(11, 30), at(17)}});
            },
            Constraint::waiting},
    };
    for (const Row& row : rows) {
        Lab l = lab();
        Request r = wants({I});
        row.change(l, r);
        const auto a = propose(l, r);
        ASSERT_TRUE(a) << row.name;
        EXPECT_TRUE(a->proposals.empty()) << row.name;
        EXPECT_NE(std::find(a->binding.begin(), a->binding.end(), row.binds), a->binding.end())
            << row.name << ": " << a->sentence;
        EXPECT_NE(a->sentence.find(title(row.binds)), std::string::npos) << a->sentence;
    }
    Lab none = lab();
    none.instruments.erase(none.instruments.begin());
    EXPECT_EQ(propose(none, wants({I})).messages().front().code, "no_instrument");
    EXPECT_EQ(propose(none, wants({})).messages().front().code, "missing_field");
}

TEST(Planner, WhatIsReadyNeedsNoLead)
{
    Lab l = lab();
    Request r = wants({H});
    r.now = at(10);
    r.window.from = at(10);
    EXPECT_GE(propose(l, r)->proposals[0].parts[0].at.from, at(13, 30)) << "three and a half hours to fill the tank";
    l.instruments[3].ready = Span{at(0), at(24)};
    EXPECT_EQ(propose(l, r)->proposals[0].parts[0].at.from, at(10)) << "the tank is full";
}

TEST(Planner, TwoThingsThatBindTogetherAreBothNamed)
{
    Lab l = lab();
    l.staff[0].licences.clear();
    Request r = wants({X});
    r.not_before = at(7, 0, 30);
    const auto a = propose(l, r);
    ASSERT_TRUE(a);
    EXPECT_TRUE(a->together);
    EXPECT_EQ(a->binding.size(), 2u);
}

TEST(Planner, AFullDayFitsAndNothingClashes)
{
    Lab l = lab();
    l.instruments.push_back({"B2", "Analyser 2", I, open_days(7, 17), {{"switch on", 15}}, {}, 5, 0});
    l.instruments.push_back({"T2", "Tank 2", H, open_days(7, 17), {{"fill", 210}}, {}, 40, 10});
    for (int i = 0; i < 4; ++i) l.staff.push_back({"S" + std::to_string(i), open_days(4, 18), {X}});
    std::vector<Request> all;
    for (long i = 0; i < 24; ++i) {
        Request r = wants(i % 3 == 0   ? std::vector<Method>{I, A, H}
                          : i % 3 == 1 ? std::vector<Method>{X, A}
                                       : std::vector<Method>{I});
        r.client = i + 1;
        all.push_back(r);
    }
    const Plan p = plan_day(l, all, 5);
    EXPECT_EQ(p.placed, 24);
    for (std::size_t i = 0; i < all.size(); ++i) {
        ASSERT_TRUE(p.visits[i]);
        for (Slot t : p.visits[i]->parts) {
            t.visit = static_cast<long>(i) + 1;
            l.tests.push_back(t);
        }
    }
    for (const Conflict& c : conflicts(l)) ADD_FAILURE() << c.words;
    EXPECT_LE(plan_day(lab(), {all[0], all[1]}, 20).wait_min, plan_day(lab(), {all[0], all[1]}, 0).wait_min);
}

TEST(Planner, ConflictsAreSaid)
{
    struct Row {
        const char* name;
        std::vector<Slot> tests;
        const char* words; ///< empty: no conflict
    };
    const Row rows[] = {
        {"none", {{1, 1, A, "C1", {at(8), at(8, 10)}}, {2, 2, A, "C1", {at(8, 15), at(8, 25)}}}, ""},
        {"same time", {{1, 1, A, "C1", {at(8), at(8, 10)}}, {2, 2, A, "C1", {at(8, 5), at(8, 15)}}},
            "at the same time"},
        {"no time to calibrate", {{1, 1, A, "C1", {at(8), at(8, 10)}}, {2, 2, A, "C1", {at(8, 12), at(8, 22)}}},
            "make Chamber ready"},
        {"outside hours", {{1, 1, A, "C1", {at(18), at(18, 10)}}}, "not open"},
        {"wet first", {{1, 1, H, "T1", {at(8), at(8, 40)}}, {1, 1, I, "B1", {at(9), at(9, 5)}}}, "Wet before dry"},
        {"booked twice", {{1, 5, I, "B1", {at(8), at(8, 5)}}, {2, 5, X, "X1", {at(8), at(8, 15)}}}, "booked twice"},
        {"one licence, two at once", {{1, 1, X, "X1", {at(8), at(8, 15)}}, {2, 2, X, "X1", {at(8, 5), at(8, 20)}}},
            "licensed"},
        {"too few hands",
            {{1, 1, I, "B1", {at(8), at(8, 5)}}, {2, 2, X, "X1", {at(8), at(8, 15)}},
                {3, 3, A, "C1", {at(8), at(8, 10)}}},
            "More tests than people"},
        {"nobody starts the tank", {{1, 1, H, "T1", {at(7), at(7, 40)}}}, "must be started"},
        {"sold", {{1, 1, I, "B9", {at(8), at(8, 5)}}}, "not in use"},
    };
    for (const Row& row : rows) {
        Lab l = lab();
        l.tests = row.tests;
        std::string all;
        for (const Conflict& c : conflicts(l)) all += c.words + "|";
        if (*row.words)
            EXPECT_NE(all.find(row.words), std::string::npos) << row.name << ": " << all;
        else
            EXPECT_EQ(all, "") << row.name;
    }
}

TEST(Planner, OpenTheTapBy)
{
    Lab l = lab();
    l.tests = {{1, 1, H, "T1", {at(9), at(9, 40)}}, {2, 2, H, "T1", {at(10), at(10, 40)}},
        {3, 3, A, "C1", {at(8), at(8, 10)}}};
    const auto s = starts(l);
    const auto tap = std::find_if(s.begin(), s.end(), [](const Start& x) { return x.words == "open the tap"; });
    ASSERT_NE(tap, s.end());
    EXPECT_EQ(tap->at.from, at(6)) << "165 min of filling and 15 of hanging and zeroing before 09:00";
    EXPECT_EQ(tap->for_visit, 1);
    EXPECT_EQ(std::count_if(s.begin(), s.end(), [](const Start& x) { return x.words == "open the tap"; }), 1)
        << "once a day";
    EXPECT_EQ(std::count_if(s.begin(), s.end(), [](const Start& x) { return x.instrument == "C1"; }), 2);
    EXPECT_TRUE(
        std::is_sorted(s.begin(), s.end(), [](const Start& a, const Start& b) { return a.at.from < b.at.from; }));
}

TEST(Planner, RetestIntervals)
{
    EXPECT_EQ(retest(I, {}).from_days, 28);
    EXPECT_EQ(retest(H, {}).from_days, 56);
    EXPECT_EQ(retest(X, {{"retest", "by_method"}}).to_days, 112);
    EXPECT_EQ(retest(X, {{"retest", "weeks_3"}}).from_days, 21);
    for (const char* id : {"weeks_2_4", "weeks_3", "weeks_4_6", "weeks_6", "weeks_12", "yearly", "by_method"})
        EXPECT_GE(retest(I, {{"retest", id}}).from_days, never_under_days) << id;
}

TEST(Group, ComesOneAfterTheOtherOnTheInstrumentThatIsFreeFirst)
{
    Lab l = lab();
    l.instruments.push_back(l.instruments.front());
    l.instruments.back().id = "B2";
    l.tests.push_back({7, 70, I, "B1", {at(8, 10), at(8, 20)}}); // somebody is booked already
    Group g{I, {1, 2, 3, 4, 5}, {"B1"}, at(8), 10};
    const auto one = line_up(l, g);
    ASSERT_TRUE(one);
    std::vector<Minute> from;
    for (const Slot& s : *one) from.push_back(s.at.from - at(8));
    EXPECT_EQ(from, (std::vector<Minute>{0, 20, 30, 40, 50})) << "passes over the booked one";
    EXPECT_EQ((*one)[2].client, 3);
    g.instruments = {"B1", "B2"};
    const auto two = line_up(l, g);
    ASSERT_TRUE(two);
    EXPECT_EQ((*two)[4].at.to, at(8, 30)) << "two lanes: the last goes home twice as early";
    for (std::size_t i = 0; i < two->size(); ++i)
        for (std::size_t k = 0; k < i; ++k)
            EXPECT_FALSE((*two)[i].instrument == (*two)[k].instrument && (*two)[i].at.overlaps((*two)[k].at));
    // a chamber is calibrated before each of them
    const auto chamber = line_up(lab(), {A, {1, 2}, {"C1"}, at(8), 10});
    ASSERT_TRUE(chamber);
    EXPECT_EQ((*chamber)[1].at.from, at(8, 15));
    struct Row {
        Group group;
        const char *code, *field;
    };
    for (const Row& row : {Row{{I, {}, {"B1"}, at(8), 10}, "missing_field", "clients"},
             {{I, {1}, {}, at(8), 10}, "missing_field", "instruments"},
             {{I, {1}, {"B1"}, at(8), 4}, "out_of_range", "minutes"},
             {{I, {1}, {"B1"}, at(8), 241}, "out_of_range", "minutes"},
             {{I, {1}, {"C1"}, at(8), 10}, "unknown_instrument", "instruments"},
             {{I, {1, 2, 3}, {"B1"}, at(16, 40), 10}, "no_room", "time"}}) {
        const auto why = line_up(lab(), row.group);
        ASSERT_FALSE(why) << row.code;
        EXPECT_EQ(why.messages().front().code, row.code);
        EXPECT_EQ(why.messages().front().field, row.field);
    }
}
