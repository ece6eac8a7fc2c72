// SPDX-License-Identifier: GPL-3.0-or-later
// Studies of what the lab's numbers are worth: what is a repeat, what is none, and what follows from them.
#include "furnish.h"
#include "records/people/people.h"
#include "told.h"
#include "work/visit/gate.h"
#include "work/reading/history.h"
#include "work/study/study.h"

#include <QFile>
#include <QTemporaryDir>

using namespace fusain;
using work::Design, work::History, work::StudyKind;

namespace {

constexpr const char* day = "2026-11-20";

struct Repeating : work::ToldLab {
    QTemporaryDir dir;
    std::unique_ptr<work::Lab> lab;
    std::vector<records::Client> people;
    std::vector<std::vector<long>> visits;

    Repeating()
    {
        at(23, 15);
        store = *records::Store::open(dir.path() + "/lab.fusain");
        EXPECT_FALSE(store->set_setting("zone", "Europe/Paris"));
        lab = std::make_unique<work::Lab>(store);
        work::furnish(*lab, false);
        EXPECT_TRUE(lab->diary->save(records::StaffMember{0, "B. Le Goff", false, {}, true}));
        EXPECT_TRUE(lab->diary->save(records::Instrument{
            0, &bench::instrument_of(method::impedance), "Second analyser", "PG-2", "", "", "", true, 500, 15, {}}));
    }
    static void at(int d, int hour, int minute = 0)
    {
        work::set_clock(QDateTime(QDate(2026, 11, d), QTime(hour, minute), QTimeZone("Europe/Paris")));
    }
    long person(const char* family, double height = 171)
    {
        records::Client c;
        c.given_name = "Aliénor";
        c.family_name = QString::fromUtf8(family);
        c.birth_date = "1995-05-02";
        c.height_cm = height;
        client = *store->save(c);
        people.push_back(client);
        return client.id;
    }
    Design design(StudyKind kind = StudyKind::repeats) const
    {
        Design d;
        d.kind = kind;
        d.method = method::impedance;
        d.instrument = "PG-impedance";
        if (kind == StudyKind::instruments) d.second = "PG-2";
        if (kind == StudyKind::repair) d.repaired_on = QDate(2026, 11, 20);
        d.operators = QStringList{"M. Tanguy", "B. Le Goff"};
        return d;
    }
    long begin(StudyKind kind = StudyKind::repeats)
    {
        const auto id = work::begin_study(*lab, design(kind), "M. Tanguy");
        EXPECT_TRUE(id) << (id ? "" : id.messages().front().text);
        return id ? *id : 0;
    }
    std::string take(long study, long visit, bool anew = true)
    {
        const auto why = work::take_repeat(*lab, study, visit, anew, "M. Tanguy");
        return why ? why->code : "";
    }
    /// People with two tests each, so many ohm apart; all in the study.
    long with_people(std::initializer_list<double> apart, bool second_operator = false)
    {
        const long id = begin();
        int k = 0;
        for (const double ohm : apart) {
            person(("P" + std::to_string(k)).c_str(), 165 + 2 * k);
            const double base = 480 + 15 * k;
            visits.push_back({analyser(day, 70, base, 55),
                analyser(
                    day, 70, base + ohm, 55, {.clock = "07:50", .who = second_operator ? "B. Le Goff" : "M. Tanguy"})});
            for (long v : visits.back()) EXPECT_EQ(take(id, v), "");
            ++k;
        }
        return id;
    }
};

} // namespace

TEST(StudyDesign, EveryMistakeIsNamed)
{
    Repeating r;
    struct Row {
        const char* field;
        std::function<void(Design&)> spoil;
    };
    for (const Row& row : {Row{"people", [](Design& d) { d.people = 1; }}, {"times", [](Design& d) { d.times = 1; }},
             {"instrument", [](Design& d) { d.instrument = "PG-9"; }},
             {"instrument", [](Design& d) { d.instrument = "PG-hydrostatic"; }},
             {"second", [](Design& d) { d.kind = StudyKind::instruments; }},
             {"second", [](Design& d) { d.kind = StudyKind::instruments, d.second = d.instrument; }},
             {"repaired_on", [](Design& d) { d.kind = StudyKind::repair; }},
             {"repaired_on", [](Design& d) { d.kind = StudyKind::repair, d.repaired_on = QDate(2026, 12, 1); }},
             {"operators", [](Design& d) { d.operators.clear(); }},
             {"operators", [](Design& d) { d.operators << QStringLiteral("m.  tanguy"); }}}) {
        Design d = r.design();
        row.spoil(d);
        const auto id = work::begin_study(*r.lab, d, "M. Tanguy");
        ASSERT_FALSE(id) << row.field;
        EXPECT_EQ(id.messages().front().field, row.field) << id.messages().front().text;
    }
    EXPECT_TRUE(work::studies(*r.lab).empty());
    EXPECT_EQ(work::degrees(r.design()), 30);
}

TEST(Study, WhatIsNoRepeatIsRefusedWithItsReason)
{
    Repeating r;
    const long id = r.begin();
    r.person("Morvan");
    const long first = r.analyser(day, 70, 500, 55), again = r.analyser(day, 70, 503, 55, {.clock = "07:40"});
    const long from_file = r.analyser(day, 70, 505, 55, {.clock = "07:45", .source = "file"}),
               same_file = r.analyser(day, 70, 505, 55, {.clock = "07:55", .source = "file"});
    EXPECT_EQ(r.take(id, first, false), "") << "before a first repeat nobody needs to be placed anew";
    EXPECT_EQ(r.take(id, again, false), "not_repositioned");
    EXPECT_EQ(r.take(id, again), "");
    EXPECT_EQ(r.take(id, from_file), "");
    struct Row {
        const char* code;
        long visit;
    };
    for (const Row& row : {Row{"in_it_already", again}, {"not_measured", 9999},
             {"not_measured", r.analyser(day, 70, 500, 55, {.finished = false})},
             {"other_method", r.tank(day, 70, {2.3, 2.31, 2.32})},
             {"other_instrument", r.analyser(day, 70, 500, 55, {.clock = "08:00", .instrument = "PG-2"})},
             {"other_operator", r.analyser(day, 70, 500, 55, {.clock = "08:00", .who = "A. Kerdoncuff"})},
             {"other_equations",
                 r.analyser(day, 70, 500, 55, {.clock = "08:00", .house = {{"impedance_fat_free_mass", "sun_2003"}}})},
             {"too_far_apart", r.analyser(day, 70, 500, 55, {.clock = "12:10"})},
             {"too_far_apart", r.analyser("2026-11-21", 70, 500, 55)}, {"same_recording", same_file}})
        EXPECT_EQ(r.take(id, row.visit), row.code) << row.visit;
    const auto s = *work::study(*r.lab, id);
    EXPECT_EQ(s.members.size(), 3u);
    EXPECT_EQ(s.people, std::vector<QString>{r.client.full_name()});
    EXPECT_TRUE(work::candidates(*r.lab, s).empty()) << "nothing of what was refused is offered";
}

TEST(Study, IsOfferedTestsThatCouldBeRepeatsAndOnlyThose)
{
    Repeating r;
    r.person("Morvan");
    const long one = r.analyser(day, 70, 500, 55), two = r.analyser(day, 70, 503, 55, {.clock = "07:40"});
    r.analyser("2026-11-10", 70, 500, 55);
    r.person("Quéméner");
    r.analyser(day, 60, 560, 55);
    const long id = r.begin();
    const auto found = work::candidates(*r.lab, *work::study(*r.lab, id));
    ASSERT_EQ(found.size(), 2u);
    EXPECT_EQ(found[0].visit_id, one);
    EXPECT_EQ(found[1].visit_id, two);
}

TEST(Study, AwaitsARepeatAndTakesItWhenItIsFinished)
{
    Repeating r;
    const long id = r.begin(), who = r.person("Morvan");
    EXPECT_EQ(work::await_repeat(*r.lab, id, who, true, "A. Kerdoncuff")->code, "other_operator");
    EXPECT_FALSE(work::await_repeat(*r.lab, id, who, false, "M. Tanguy")) << "the first";
    const long first = r.analyser(day, 70, 500, 55);
    EXPECT_EQ(work::study_of(*r.lab, first), id);
    const auto joined = work::join_study(*r.lab, first);
    ASSERT_TRUE(joined && *joined);
    EXPECT_FALSE(work::join_study(*r.lab, first)) << "once";
    EXPECT_EQ(work::study_of(*r.lab, first), id) << "now that it is in it";
    EXPECT_EQ(work::await_repeat(*r.lab, id, who, false, "M. Tanguy")->code, "not_repositioned");
    EXPECT_FALSE(work::await_repeat(*r.lab, id, who, true, "M. Tanguy"));
    const long late = r.analyser("2026-11-22", 70, 500, 55);
    const auto refused = work::join_study(*r.lab, late);
    ASSERT_TRUE(refused);
    EXPECT_EQ(refused->messages().front().code, "too_far_apart");
    EXPECT_EQ(*work::study(*r.lab, id)->next_person(work::clock_now().date()), 0);
    EXPECT_FALSE(work::give_up(*r.lab, id, "the analyser went away", "M. Tanguy"));
    EXPECT_EQ(work::study_of(*r.lab, first), 0) << "only while it is open";
}

TEST(Study, OneIsLeftOutOnlyForAReasonAndCanBeTakenBack)
{
    Repeating r;
    const long id = r.with_people({2, 3, 40});
    const double with = work::repeated(*work::study(*r.lab, id))->front().value(quantity::rms_sd);
    EXPECT_EQ(work::leave_out(*r.lab, id, r.visits[2][1], "  ", "M. Tanguy")->field, "reason");
    EXPECT_FALSE(work::leave_out(*r.lab, id, r.visits[2][1], "a hand slipped off", "M. Tanguy"));
    const auto s = *work::study(*r.lab, id);
    EXPECT_EQ(s.count(2), 1);
    EXPECT_EQ(s.members.size(), 6u) << "it stays in the study";
    const double without = work::repeated(s)->front().value(quantity::rms_sd);
    EXPECT_LT(without, with / 3);
    EXPECT_FALSE(work::take_back(*r.lab, id, r.visits[2][1], "M. Tanguy"));
    EXPECT_EQ(work::repeated(*work::study(*r.lab, id))->front().value(quantity::rms_sd), with);
}

TEST(Study, FromItsEndOnChangesAreHeldAgainstItAndOldVerdictsStay)
{
    Repeating r;
    r.person("Followed");
    const records::Client followed = r.client;
    r.analyser("2026-06-10", 70, 500, 55);
    r.analyser("2026-09-10", 70, 515, 55); // 1.5 % more: noise by default
    const auto verdict = [&](int from, int to) {
        return History::of(*r.lab, followed.id).series(quantity::fat_percent, "impedance")->step(from, to);
    };
    ASSERT_GT(*verdict(0, 1).change, 0.6);
    EXPECT_EQ(verdict(0, 1).verdict, change::Verdict::within_noise);
    const long id = r.with_people({2, -2, 3, -1, 2, 1, -3, 2, 1, 2, -2, 3, -1, 2, 1, -3});
    EXPECT_FALSE(work::close_study(*r.lab, id, "M. Tanguy"));
    const auto closed = *work::study(*r.lab, id);
    EXPECT_FALSE(closed.open());
    EXPECT_EQ(closed.people[1], "person 2") << "it names nobody any more";
    const work::Repeated fat = work::repeated(closed)->front();
    EXPECT_EQ(fat.value(quantity::degrees_of_freedom), 16);
    const double held = fat.held_against();
    EXPECT_GT(held, fat.value(quantity::rms_sd)) << "few: the upper limit";
    EXPECT_LT(held, 0.4);
    EXPECT_EQ(verdict(0, 1).verdict, change::Verdict::within_noise) << "what was told then stays";
    r.client = followed;
    r.analyser("2026-11-24", 70, 500, 55);
    Repeating::at(24, 15);
    const History h = History::of(*r.lab, followed.id);
    const auto series = *h.series(quantity::fat_percent, "impedance");
    const double with_day = std::hypot(held, 1.0); // repeats within hours know nothing of water and gut between days
    EXPECT_NEAR(series.changes.lsc, 2.77 * with_day, 1e-12);
    EXPECT_EQ(series.repeatability->placing_sd, held);
    EXPECT_EQ(series.repeatability->day_sd, 1.0);
    EXPECT_FALSE(series.repeatability->by_default);
    EXPECT_NE(series.repeatability->source.find("16 degrees"), std::string::npos) << series.repeatability->source;
    EXPECT_EQ(series.step(1, 2).verdict, change::Verdict::within_noise) << "more than placing, less than a day";
    EXPECT_EQ(series.step(0, 1).lsc, 2.77 * 1.0) << "the older step, held against what was known then";
    EXPECT_EQ(series.step(0, 1).verdict, change::Verdict::within_noise);
    const auto then = h.until(QDate(2026, 9, 30)).series(quantity::fat_percent, "impedance");
    EXPECT_TRUE(then->repeatability->by_default) << "a sheet of that day says what it said";
    EXPECT_NEAR(h.lsc_to_come(quantity::fat_percent, "impedance"), 2.77 * with_day, 1e-12);
    // another instrument is not meant
    EXPECT_NEAR(h.series(quantity::body_mass, "impedance")->changes.lsc, 2.77 * 0.45, 1e-12);
    // nothing is added to it, and deleting its people leaves its numbers
    EXPECT_EQ(r.take(id, r.analyser("2026-11-24", 70, 500, 55, {.clock = "08:30"})), "study_over");
    for (std::size_t i = 1; i < r.people.size(); ++i)
        ASSERT_FALSE(records::erase(*r.store, r.people[i].id, "M. Tanguy", QTimeZone("Europe/Paris")));
    EXPECT_EQ(work::repeated(*work::study(*r.lab, id))->front().value(quantity::rms_sd), fat.value(quantity::rms_sd));
}

TEST(Study, OnePersonAndEqualRepeatsAreNotUsedAndWhoIsDeletedIsGone)
{
    Repeating r;
    long id = r.with_people({5});
    EXPECT_TRUE(work::repeated(*work::study(*r.lab, id))) << "it is shown";
    EXPECT_EQ(work::close_study(*r.lab, id, "M. Tanguy")->code, "too_few_people");
    ASSERT_FALSE(records::erase(*r.store, r.people[0].id, "M. Tanguy", QTimeZone("Europe/Paris")));
    auto s = *work::study(*r.lab, id);
    EXPECT_EQ(s.gone, 2);
    EXPECT_TRUE(s.members.empty());
    EXPECT_EQ(work::repeated(s).messages().front().code, "too_few_people");
    EXPECT_FALSE(work::give_up(*r.lab, id, "nobody is left", "M. Tanguy"));
    EXPECT_EQ(work::await_repeat(*r.lab, id, 1, true, "M. Tanguy")->code, "study_over");

    id = r.with_people({0, 0, 0});
    EXPECT_EQ(work::close_study(*r.lab, id, "M. Tanguy")->code, "all_equal");
    // a missing repeat: the person counts for nothing, the others do
    r.person("Once");
    EXPECT_EQ(r.take(id, r.analyser(day, 70, 520, 55)), "");
    s = *work::study(*r.lab, id);
    EXPECT_EQ(work::repeated(s)->front().value(quantity::degrees_of_freedom), 3);
    EXPECT_EQ(*s.next_person(work::clock_now().date()), 0) << "two of three: somebody who has begun comes first";
}

TEST(Study, WhoReadsHighIsNamed)
{
    Repeating r;
    const long id = r.with_people({12, 13, 11, 12, 12.5, 11.5}, true);
    const auto told = *work::repeated(*work::study(*r.lab, id));
    ASSERT_EQ(told.front().quantity, &quantity::fat_percent);
    ASSERT_EQ(told.front().operators.size(), 2u);
    EXPECT_EQ(told.front().operators[1].name, "B. Le Goff");
    EXPECT_TRUE(told.front().operators[1].differs);
    EXPECT_GT(*told.front().operators[1].offset, 0.5);
}

TEST(Comparison, TwoInstrumentsThatAgreeCanBeComparedFromThenOn)
{
    Repeating r;
    for (const double shift : {2.0, 60.0}) { // a third of a percent, and eight
        const long id = r.begin(StudyKind::instruments);
        for (int k = 0; k < 8; ++k) {
            r.person("P", 165 + 2 * k);
            const double ohm = 480 + 12 * k, noise = k % 2 ? 1.5 : -1.5;
            EXPECT_EQ(r.take(id, r.analyser(day, 70, ohm, 55)), "");
            EXPECT_EQ(
                r.take(id, r.analyser(day, 70, ohm + shift + noise, 55, {.clock = "07:50", .instrument = "PG-2"})), "");
        }
        const auto all = work::compared(*work::study(*r.lab, id), *r.lab);
        ASSERT_TRUE(all);
        EXPECT_EQ(all->front().quantity, &quantity::fat_percent);
        EXPECT_EQ(all->front().comparison.verdict, shift < 10 ? study::Agreement::agree : study::Agreement::shifted);
        r.person("Followed");
        const long who = r.client.id;
        r.analyser("2026-10-10", 70, 500, 55);
        r.analyser("2026-11-10", 70, 500, 55, {.instrument = "PG-2"});
        EXPECT_FALSE(work::close_study(*r.lab, id, "M. Tanguy"));
        r.analyser(shift < 10 ? "2026-11-24" : "2026-11-28", 70, 560, 55, {.instrument = "PG-2"});
        Repeating::at(shift < 10 ? 26 : 29, 15);
        const auto series = *History::of(*r.lab, who).series(quantity::fat_percent, "impedance");
        EXPECT_FALSE(series.step(0, 1).comparable()) << "before anybody knew";
        EXPECT_EQ(series.step(0, 2).comparable(), shift < 10);
        if (shift < 10) EXPECT_NEAR(series.step(0, 2).lsc, std::max(2.77, all->front().comparison.lsc), 1e-9);
    }
}

TEST(Comparison, SendsEverybodyToTheInstrumentThatIsMissing)
{
    Repeating r;
    const long id = r.begin(StudyKind::instruments);
    int minute = -16;
    const auto sent_to = [&](long who, bool anew) {
        Repeating::at(23, 15, minute += 16); // past the slot of the one before
        EXPECT_FALSE(work::await_repeat(*r.lab, id, who, anew, "M. Tanguy"));
        const auto booking = work::booking_for(*r.lab, who, method::impedance, "M. Tanguy");
        if (!booking) return booking.messages().front().code;
        EXPECT_TRUE(booking.messages().empty()) << booking.messages().front().text;
        return r.lab->diary->booking(*booking)->parts.front().instrument;
    };
    const long first = r.person("Morvan"), second = r.person("Le Bihan"), third = r.person("Kerleo");
    for (const records::Client& c : r.people)
        if (c.id == first) r.client = c;
    EXPECT_EQ(sent_to(first, false), "PG-impedance");
    ASSERT_TRUE(work::join_study(*r.lab, r.analyser("2026-11-23", 70, 500, 55)));
    EXPECT_EQ(sent_to(first, true), "PG-2") << "and not told that it is too soon";
    EXPECT_EQ(sent_to(second, false), "PG-2") << "by turns";
    EXPECT_EQ(work::awaiting(*r.lab, second, method::impedance)->id, id);
    auto gone = *r.lab->diary->instrument(r.lab->instrument("PG-2")->id);
    gone.in_use = false;
    ASSERT_TRUE(r.lab->diary->save(gone));
    EXPECT_EQ(sent_to(third, false), "instrument_gone");
    Repeating::at(24, 8);
    EXPECT_FALSE(work::awaiting(*r.lab, third, method::impedance)) << "forgotten with the day";
    const auto other = work::booking_for(*r.lab, first, method::impedance, "M. Tanguy");
    ASSERT_TRUE(other && !other.messages().empty());
    EXPECT_EQ(other.messages().front().code, "never_so_soon") << "outside a study it is said";
}

TEST(Comparison, AfterARepairTestsAreAnotherInstrumentsUntilAStudySaysMore)
{
    Repeating r;
    r.person("Followed");
    const long who = r.client.id;
    r.analyser("2026-10-10", 70, 500, 55);
    r.analyser("2026-11-22", 70, 500, 55);
    const auto step = [&](int from, int to) {
        return History::of(*r.lab, who).series(quantity::fat_percent, "impedance")->step(from, to);
    };
    EXPECT_TRUE(step(0, 1).comparable());
    const long id = r.begin(StudyKind::repair);
    EXPECT_FALSE(step(0, 1).comparable());
    for (int k = 0; k < 6; ++k) {
        r.person("P", 165 + 2 * k);
        EXPECT_EQ(r.take(id, r.analyser("2026-11-12", 70, 480 + 12 * k, 55)), "");
        if (k == 0) {
            EXPECT_EQ(r.take(id, r.analyser("2026-11-21", 72, 481 + 12 * k, 55)), "another_body");
            EXPECT_EQ(r.take(id, r.analyser("2026-11-27", 70, 481 + 12 * k, 55)), "too_far_apart");
        }
        EXPECT_EQ(r.take(id, r.analyser("2026-11-21", 70, 481 + 12 * k + k % 2, 55)), "");
    }
    EXPECT_FALSE(work::close_study(*r.lab, id, "M. Tanguy"));
    for (const records::Client& c : r.people)
        if (c.id == who) r.client = c;
    r.analyser("2026-11-24", 70, 503, 55);
    Repeating::at(24, 15);
    EXPECT_TRUE(step(0, 2).comparable());
    EXPECT_TRUE(step(1, 2).comparable());
}

TEST(Study, TestsOfTwoInstrumentsAreCandidatesWithinHours)
{
    Repeating r;
    const long id = r.begin(StudyKind::instruments);
    r.person("Apart");
    r.analyser(day, 70, 480, 55);
    r.analyser(day, 70, 481, 55, {.clock = "15:00"});
    EXPECT_TRUE(work::candidates(*r.lab, *work::study(*r.lab, id)).empty()) << "each alone in its hours";
    r.analyser(day, 70, 481, 55, {.clock = "15:40"});
    EXPECT_EQ(work::candidates(*r.lab, *work::study(*r.lab, id)).size(), 2u);
}

// A lab's own days instead of the default's: repeats each on a day of its own, and no day is added on top.
TEST(Study, RepeatsOnDaysOfTheirOwnHoldWhatDaysAdd)
{
    Repeating r;
    const long id = r.begin(StudyKind::days);
    const char* days[] = {"2026-11-12", "2026-11-16", "2026-11-19"};
    for (int k = 0; k < 6; ++k) {
        r.person(("P" + std::to_string(k)).c_str(), 165 + 2 * k);
        for (int i = 0; i < 3; ++i)
            EXPECT_EQ(r.take(id, r.analyser(days[i], 70, 480 + 12 * k + 3 * ((k + i) % 3), 55)), "");
        if (k) continue;
        EXPECT_EQ(r.take(id, r.analyser(days[1], 70, 480, 55, {.clock = "15:00"})), "same_day");
        EXPECT_EQ(r.take(id, r.analyser("2026-11-27", 70, 480, 55)), "too_far_apart") << "of the first";
        EXPECT_EQ(r.take(id, r.analyser("2026-11-21", 72.5, 480, 55)), "another_body");
    }
    // who was measured today has had their repeat; what was measured once, on another day, is found by itself
    r.person("Today", 180);
    EXPECT_EQ(r.take(id, r.analyser(day, 70, 500, 55)), "");
    const auto s = *work::study(*r.lab, id);
    EXPECT_EQ(s.next_person(QDate::fromString(day, Qt::ISODate)), std::nullopt);
    EXPECT_EQ(s.next_person(QDate::fromString(day, Qt::ISODate).addDays(1)), 6);
    r.person("One day", 184);
    r.analyser("2026-11-14", 70, 500, 55);
    r.analyser("2026-11-14", 70, 500, 55, {.clock = "15:00"});
    const long one_day = r.client.id;
    r.person("Found", 182);
    r.analyser("2026-11-14", 70, 500, 55);
    r.analyser("2026-11-17", 70, 500, 55);
    const auto found = work::candidates(*r.lab, s);
    EXPECT_EQ(std::count_if(found.begin(), found.end(), [&](const auto& c) { return c.client_id == r.client.id; }), 2);
    EXPECT_TRUE(std::none_of(found.begin(), found.end(), [&](const auto& c) { return c.client_id == one_day; }));

    const double sd = work::repeated(s)->front().held_against();
    ASSERT_FALSE(work::close_study(*r.lab, id, "M. Tanguy"));
    const change::Measured on{80, 178, 25, 25};
    const auto known = work::InForce(*r.lab).repeatability(
        quantity::fat_percent, "impedance", "PG-impedance", work::clock_now().addSecs(60), on);
    ASSERT_TRUE(known);
    EXPECT_NEAR(known->rms_sd, sd, 1e-12);
    EXPECT_TRUE(known->over_days && known->day_sd == 0) << known->source;
    EXPECT_NE(known->source.find("over days"), std::string::npos) << known->source;
}

TEST(Study, ItsFilesHoldEveryRepeatAndReckonToTheSame)
{
    Repeating r;
    const long id = r.with_people({2, 3, -4}, true);
    ASSERT_FALSE(work::leave_out(*r.lab, id, r.visits[2][1], "moved, \"coughed\"", "M. Tanguy"));
    const auto s = *work::study(*r.lab, id);
    const auto path = work::save_study(s, *r.lab, r.dir.path());
    ASSERT_TRUE(path) << path.messages().front().text;
    QFile file(*path);
    ASSERT_TRUE(file.open(QIODevice::ReadOnly));
    const QStringList rows = QString::fromUtf8(file.readAll()).trimmed().split('\n');
    ASSERT_EQ(rows.size(), 7);
    EXPECT_TRUE(rows[0].startsWith("person,repeat,operator,at,side,left_out,fat_percent,")) << rows[0].toStdString();
    EXPECT_TRUE(rows[6].contains("\"moved, \"\"coughed\"\"\"")) << rows[6].toStdString();
    EXPECT_FALSE(QString(rows.join('\n')).contains("Aliénor")) << "no names of people";
    precision::Input in{"fat_percent", {{}, {}}, {}};
    for (int k = 0; k < 4; ++k)
        in.repeats[static_cast<std::size_t>(k / 2)].push_back(rows[k + 1].split(',')[6].toDouble());
    EXPECT_EQ((*precision::compute(in))[quantity::rms_sd].value, work::repeated(s)->front().value(quantity::rms_sd));
    QFile results(r.dir.filePath(QStringLiteral("study-%1-results.csv").arg(id)));
    ASSERT_TRUE(results.open(QIODevice::ReadOnly));
    const QStringList told = QString::fromUtf8(results.readAll()).split('\n');
    const auto all = told[1].split(','), own = told[2].split(',');
    EXPECT_EQ(all[2] + own[2], "allM. Tanguy") << "then one an operator";
    EXPECT_TRUE(own[6].isEmpty() && own[4].isEmpty()) << "who measured nobody twice has no scatter";
    EXPECT_FALSE(work::save_study(s, *r.lab, r.dir.path() + "/nowhere"));
}

TEST(Study, AnOperatorsOwnScatterStandsInItsFile)
{
    Repeating r;
    const long id = r.with_people({4, 4, 4});
    r.person("Kerleo", 180);
    for (const char* clock : {"07:10", "07:50"})
        ASSERT_EQ(r.take(id, r.analyser(day, 70, 520, 55, {.clock = clock, .who = "B. Le Goff"})), "");
    const auto s = *work::study(*r.lab, id);
    ASSERT_TRUE(work::save_study(s, *r.lab, r.dir.path()));
    QFile results(r.dir.filePath(QStringLiteral("study-%1-results.csv").arg(id)));
    ASSERT_TRUE(results.open(QIODevice::ReadOnly));
    const QStringList rows = QString::fromUtf8(results.readAll()).split('\n');
    const auto told = *work::repeated(s);
    EXPECT_GT(*told.front().operators[0].rms_cv_percent, 0.1);
    EXPECT_DOUBLE_EQ(rows[2].split(',')[6].toDouble(), *told.front().operators[0].rms_cv_percent);
    EXPECT_EQ(rows[3].split(',')[6], "0") << "one person, twice the same";
}
