// SPDX-License-Identifier: GPL-3.0-or-later
// Reading a client over time: what is joined, what can be compared, what is kept beside visits.
#include "bench/base/fields.h"
#include "told.h"
#include "records/people/people.h"
#include "work/reading/reading.h"

#include <QFile>
#include <QSignalSpy>
#include <QSqlQuery>
#include <QTemporaryDir>

using namespace fusain;
using work::History;

namespace {

struct Reader : work::ToldLab {
    QTemporaryDir dir;
    std::unique_ptr<work::Lab> lab;

    explicit Reader(Sex sex = Sex::female, const char* born = "1995-05-02", double height = 171)
    {
        work::set_clock(QDateTime(QDate(2026, 11, 23), QTime(15, 0), QTimeZone("Europe/Paris")));
        store = *records::Store::open(dir.path() + "/lab.fusain");
        EXPECT_FALSE(store->set_setting("zone", "Europe/Paris"));
        lab = std::make_unique<work::Lab>(store);
        client.given_name = "Aliénor";
        client.family_name = "Quéméner";
        client.birth_date = QString::fromLatin1(born);
        client.height_cm = height;
        client.sex = sex;
        client = *store->save(client);
    }
    History read() const { return History::of(*lab, client.id); }
    void keep(records::ClientEvent e, const char* day = "2026-11-23")
    {
        e.client_id = client.id;
        e.who = "M. Tanguy";
        if (e.day.isEmpty()) e.day = day;
        const auto kept = records::keep(*store, e);
        ASSERT_TRUE(kept) << kept.messages().front().text;
    }
};

std::vector<std::string> words(const change::Step& step) { return {step.why.begin(), step.why.end()}; }

} // namespace

TEST(History, SeriesOfOneMethodAndWhatCannotBeCompared)
{
    Reader r;
    r.tank("2026-01-10", 70, {2.30, 2.32, 2.31});
    r.tank("2026-03-10", 70, {2.36, 2.37, 2.38});
    r.analyser("2026-03-10", 70, 500, 55);
    r.tank("2026-05-10", 70, {2.95, 2.96, 2.94});
    const History h = r.read();
    EXPECT_EQ(h.all().size(), 4u);
    EXPECT_EQ(h.days().size(), 3u);
    EXPECT_EQ(h.methods().front(), "hydrostatic") << "the method the client is followed by";
    const auto fat = h.series(quantity::fat_percent, "hydrostatic");
    ASSERT_TRUE(fat);
    ASSERT_EQ(fat->points.size(), 3u);
    ASSERT_TRUE(fat->repeatability);
    EXPECT_TRUE(fat->repeatability->by_default);
    EXPECT_NEAR(fat->changes.lsc, 2.77 * 0.9, 1e-12);
    EXPECT_EQ(fat->step(0, 1).verdict, change::Verdict::within_noise);
    EXPECT_EQ(fat->step(1, 2).verdict, change::Verdict::fall);
    EXPECT_EQ(h.series(quantity::fat_percent, "hydrostatic", {fat->points[1]->visit_id})->points.size(), 2u)
        << "left out by hand";
    EXPECT_FALSE(h.series(quantity::resistance, "impedance")->repeatability) << "nothing is known of it: no verdict";

    // where the mass went adds up, and is told within one method only
    const auto moved = work::moved(h, *fat->points[1], *fat->points[2]);
    ASSERT_TRUE(moved);
    EXPECT_NEAR(moved->fat_kg + moved->fat_free_kg, moved->mass_kg, 1e-12);
    EXPECT_LT(moved->fat_kg, -moved->fat_band_kg);
    EXPECT_GT(moved->fat_free_band_kg, moved->fat_band_kg) << "of more mass, the day is worth more";
    EXPECT_FALSE(work::moved(h, *fat->points[1], *h.newest("impedance")));
}

TEST(History, WhyTwoTestsAreNotCompared)
{
    struct Row {
        const char* why;
        work::More then, now;
        const Quantity* of = &quantity::fat_percent;
    };
    const bench::Json kept = {{"protocol", "hydrostatic 1"}, {"outside", bench::Json::object()}};
    const bench::Json ate = {{"protocol", "hydrostatic 1"}, {"outside", {{"meal", "another_day"}}}};
    std::vector<Row> rows(5);
    rows[0] = {"", {}, {}};
    rows[1].why = "instrument";
    rows[1].now.instrument = "PG-T-02";
    rows[2].why = "hour";
    rows[2].now.clock = "14:00";
    rows[3].why = "preparation";
    rows[3].then.stops = kept;
    rows[3].now.stops = ate;
    rows[4].why = "height";
    rows[4].now.height_cm = 175;
    rows[4].of = &quantity::ffmi;
    for (Row& row : rows) {
        Reader r;
        r.tank("2026-01-10", 70, {2.30, 2.32, 2.31}, row.then);
        r.tank("2026-03-10", 70, {2.36, 2.37, 2.38}, row.now);
        const auto s = r.read().series(*row.of, "hydrostatic");
        ASSERT_TRUE(s && s->points.size() == 2) << row.why;
        const auto why = words(s->step(0, 1));
        EXPECT_EQ(why, *row.why ? std::vector<std::string>{row.why} : std::vector<std::string>{}) << row.why;
        if (row.of == &quantity::ffmi)
            EXPECT_TRUE(r.read().series(quantity::fat_percent, "hydrostatic")->step(0, 1).comparable())
                << "a share of the mass needs no height";
    }
    Reader grown; // the current's equations hold the height: even percent fat is not compared over two of them
    work::More taller;
    taller.height_cm = 175;
    grown.analyser("2026-01-10", 68, 500, 55);
    grown.analyser("2026-03-10", 68, 500, 55, taller);
    EXPECT_EQ(
        words(grown.read().series(quantity::fat_percent, "impedance")->step(0, 1)), std::vector<std::string>{"height"});
    // pounds taken for kilograms, by the analyser, which believes any mass
    Reader r;
    r.analyser("2026-01-10", 150, 500, 55);
    r.analyser("2026-03-10", 68, 500, 55);
    EXPECT_EQ(words(r.read().series(quantity::body_mass, "impedance")->step(0, 1)), std::vector<std::string>{"unit"});
}

TEST(History, OlderEquationsAreReckonedAnewFromTheLog)
{
    Reader r;
    work::More brozek;
    brozek.house = {{"conversion", "brozek_1963"}};
    const long old = r.tank("2026-01-10", 70, {2.30, 2.32, 2.31}, brozek);
    r.tank("2026-03-10", 70, {2.30, 2.32, 2.31});
    const History anew = r.read(), as_told = History::of(*r.lab, r.client.id, {}, false);
    EXPECT_EQ(
        words(as_told.series(quantity::fat_percent, "hydrostatic")->step(0, 1)), std::vector<std::string>{"equations"});
    const auto s = anew.series(quantity::fat_percent, "hydrostatic");
    EXPECT_TRUE(s->step(0, 1).comparable());
    EXPECT_NEAR(*s->step(0, 1).change, 0, 0.2) << "the same readings, two months older";
    EXPECT_NE(s->points[0]->recomputed_from.find("brozek"), std::string::npos) << "and it is said";
    EXPECT_NE(r.store->snapshot(old)->choices.at("conversion"), "siri_1961") << "what was told stays";
}

TEST(History, TwoOfOneDayAndOneOfTheFuture)
{
    Reader r;
    r.tank("2026-01-10", 70, {2.30, 2.32, 2.31});
    work::More later;
    later.clock = "08:05";
    const long second = r.tank("2026-01-10", 70, {2.40, 2.42, 2.41}, later);
    const long future = r.tank("2027-05-10", 70, {2.30, 2.32, 2.31});
    const History h = r.read();
    const auto s = h.series(quantity::fat_percent, "hydrostatic");
    EXPECT_EQ(s->points.size(), 2u) << "the future is left out";
    EXPECT_EQ(h.newest()->visit_id, second);
    EXPECT_TRUE(h.all().back().future && h.all().back().visit_id == future);
    EXPECT_EQ(work::read(h).main->visit_id, second) << "the later one of a day counts";
    EXPECT_EQ(
        work::read(h, QDate(2026, 1, 10), "gallagher_2000", h.all()[0].visit_id).main->visit_id, h.all()[0].visit_id)
        << "unless another is asked for";
}

TEST(OneDay, VolumeWaterAndBoneTogetherAndWhatDiffers)
{
    Reader r;
    r.tank("2026-03-10", 70.0, {2.36, 2.37, 2.38});
    r.analyser("2026-03-10", 70.6, 500, 55);
    r.table("2026-03-10", 70.0, 17000, 50200, 2600);
    const auto parts = work::ingredients(r.read().on(QDate(2026, 3, 10)));
    ASSERT_TRUE(parts.volume && parts.water && parts.bone);
    ASSERT_EQ(parts.differ.size(), 1) << parts.differ.join('\n').toStdString();
    EXPECT_TRUE(parts.differ.front().contains("70.0 kg") && parts.differ.front().contains("0.6 kg apart"));
    for (const compartments::Equation& e : compartments::equations()) {
        ASSERT_TRUE(parts.allow(e)) << e.id;
        compartments::Input in = parts.input;
        in.equation = e.id;
        const auto told = compartments::compute(in);
        ASSERT_TRUE(told) << e.id;
        EXPECT_GT((*told)[quantity::fat_percent].u, 0.5) << e.id;
    }
    // another day's water is another body's
    r.analyser("2026-04-10", 70.0, 500, 55);
    EXPECT_FALSE(work::ingredients(r.read().on(QDate(2026, 4, 10))).volume);
}

TEST(Entries, TapeNeedsItsRepeatsAndItsHands)
{
    struct Row {
        const char* code;
        const char* field;
        std::function<void(work::Tape&)> spoil;
    };
    const Row rows[] = {{"", "", [](work::Tape&) {}},
        {"missing_field", "measurer", [](auto& t) { t.measurer.clear(); }},
        {"repeat_missing", "callipers_and_tape.girths_cm.waist", [](auto& t) { t.girths_cm["waist"] = {84}; }},
        {"third_needed", "callipers_and_tape.girths_cm.waist",
            [](auto& t) {
                t.girths_cm["waist"] = {84, 85.4};
            }},
        {"third_needed", "callipers_and_tape.skinfolds_mm.thigh",
            [](auto& t) {
                t.folds_mm["thigh"] = {14, 15.4};
            }},
        {"", "",
            [](auto& t) {
                t.folds_mm["thigh"] = {40, 41.9};
            }}, // within 5 %
        {"", "",
            [](auto& t) {
                t.folds_mm["thigh"] = {14, 15.4, 15};
            }},
        {"out_of_range", "callipers_and_tape.skinfolds_mm.thigh",
            [](auto& t) {
                t.folds_mm["thigh"] = {14, 1400};
            }},
        {"missing_field", "waist_at", [](auto& t) { t.waist_at.clear(); }},
        {"missing_field", "callipers_and_tape.skinfolds_mm.thigh", [](auto& t) { t.folds_mm.erase("thigh"); }}};
    for (const Row& row : rows) {
        work::Tape t;
        t.day = "2026-03-10";
        t.measurer = "J. Corre";
        t.equation = "jackson_pollock_ward_1980_3";
        t.folds_mm = {{"triceps", {18, 18.5}}, {"suprailiac", {20, 20}}, {"thigh", {26, 26}}};
        t.girths_cm = {{"waist", {74, 74.6}}, {"hips", {98, 98}}};
        t.waist_at = "narrowest";
        row.spoil(t);
        const Messages bad = work::check(t);
        EXPECT_EQ(bad.empty() ? "" : bad.front().code, row.code) << row.field;
        if (!bad.empty()) EXPECT_EQ(bad.front().field, row.field);
    }
    EXPECT_NEAR(skinfolds::settle_fold(std::vector{14.0, 15.4, 15.0}).value, 15.0, 1e-12) << "median of three";
    EXPECT_NEAR(skinfolds::settle_girth(std::vector{74.0, 74.6}).value, 74.3, 1e-12) << "mean of two";
}

TEST(Entries, AnotherPairOfHandsIsAnotherMethodAndAMistakeIsTakenBack)
{
    Reader r;
    r.tank("2026-03-10", 70, {2.36, 2.37, 2.38});
    const auto tape = [&](const char* day, const char* who, double waist) {
        work::Tape t;
        t.day = day;
        t.measurer = who;
        t.girths_cm = {{"waist", {waist, waist}}};
        t.waist_at = "narrowest";
        r.keep(work::event_of(t));
    };
    tape("2026-03-10", "J. Corre", 78);
    tape("2026-05-10", "J. Corre", 76.5);
    tape("2026-06-10", "H. Lagadec", 74);
    tape("2026-07-10", "H. Lagadec", 140);
    History h = r.read();
    const auto wrong = h.entries().tapes.back().id;
    r.keep(records::entered(records::entry::Withdrawn{wrong, ""}));
    h = r.read();
    ASSERT_EQ(h.entries().tapes.size(), 3u);
    const auto waist = h.series(quantity::girths[2], work::by_tape);
    ASSERT_TRUE(waist);
    EXPECT_NEAR(waist->changes.lsc, 1, 1e-12);
    EXPECT_EQ(waist->step(0, 1).verdict, change::Verdict::fall);
    EXPECT_EQ(words(waist->step(1, 2)), std::vector<std::string>{"instrument"});
    EXPECT_EQ(records::client_events(*r.store, r.client.id).size(), 5u) << "what was kept stays in the log";
}

TEST(Plans, HeldAgainstWhatIsMeasuredAndStoppedWhenTheyMustBe)
{
    Reader r;
    r.tank("2026-01-10", 76, {1.70, 1.71, 1.72});
    History h = r.read();
    work::Plan p;
    p.day = "2026-01-10";
    p.method = "hydrostatic";
    p.input.body = work::read(h).energy_in.body;
    p.input.target = 100 * p.input.body.fat_kg / p.input.body.mass_kg() - 4;
    p.input.weeks = 20;
    const auto answer = plan::compute(p.input);
    ASSERT_TRUE(answer && answer->find(quantity::intake)) << answer.messages().front().text;
    p.intake_kcal = (*answer)[quantity::intake].value;
    r.keep(work::event_of(p));
    ASSERT_TRUE(r.read().entries().running());
    EXPECT_NEAR(r.read().entries().running()->input.target, p.input.target, 1e-12);
    r.tank("2026-02-01", 75.8, {1.72, 1.73, 1.74});
    r.tank("2026-05-30", 72.5, {2.15, 2.16, 2.14});
    h = r.read();
    const auto way = work::on_the_way(h, *h.entries().running());
    ASSERT_EQ(way.size(), 2u);
    EXPECT_EQ(way[0].progress, plan::Progress::not_yet);
    EXPECT_NE(way[1].progress, plan::Progress::not_yet);
    EXPECT_TRUE(work::read(h).plan_stops.isEmpty());

    // who turned out to be pregnant, in the record or at the last screening
    records::Client c = *r.store->client(r.client.id);
    c.facts << "pregnancy_possible";
    ASSERT_TRUE(r.store->save(c));
    EXPECT_TRUE(work::read(r.read()).plan_stops.contains("pregnant"));
    c.facts.clear();
    ASSERT_TRUE(r.store->save(c));
    records::ScreeningRow screened;
    screened.client_id = c.id;
    screened.who = "M. Tanguy";
    screened.kept.answers["pregnancy_possible"].yes = true;
    ASSERT_TRUE(r.lab->diary->keep(screened));
    EXPECT_TRUE(r.read().facts().pregnant);
    // a result of the newest day forbids it, also when another method of that day is told first
    Reader lean(Sex::male, "1995-05-02", 178);
    lean.analyser("2026-03-10", 62, 440, 70);
    lean.tank("2026-03-10", 76, {1.70, 1.71, 1.72});
    EXPECT_EQ(work::read(lean.read()).main->method, "hydrostatic");
    EXPECT_FALSE(work::no_plan(lean.read()).isEmpty());
    // who turned out to be a minor: a date of birth that was corrected
    Reader young;
    young.tank("2026-01-10", 76, {1.70, 1.71, 1.72});
    young.keep(work::event_of(p));
    c = *young.store->client(young.client.id);
    c.birth_date = "2011-05-02";
    c.guardian = "A. Quéméner";
    ASSERT_TRUE(young.store->save(c));
    EXPECT_TRUE(work::read(young.read()).plan_stops.contains("under 18"));
    // a plan ends with a reason, and another one takes its place
    r.keep(records::entered(records::entry::PlanEnded{"on leave"}));
    EXPECT_FALSE(r.read().entries().running());
    EXPECT_EQ(r.read().entries().plans.front().ended_why, "on leave");
}

TEST(Plans, LosingTooFastIsSeenOverWeeks)
{
    const auto weekly = [](std::initializer_list<double> kg) {
        auto r = std::make_unique<Reader>();
        QDate day(2026, 10, 12);
        for (const double one : kg) {
            r->tank(day.toString(Qt::ISODate).toUtf8().constData(), one, {1.70, 1.71, 1.72});
            day = day.addDays(7);
        }
        return r;
    };
    const auto fast =
        weekly({90, 88.3, 86.9, 85.2, 83.8}); // each week by less than 2 kg or 2.5 %: nothing is said of one
    EXPECT_TRUE(work::no_plan(fast->read()).contains("faster than 1 kg")) << work::no_plan(fast->read()).toStdString();
    EXPECT_FALSE(work::read(fast->read()).energy) << "nothing about eating less is told";
    EXPECT_TRUE(work::no_plan(weekly({90, 89.2, 88.3, 87.6, 86.8})->read()).isEmpty()) << "a pace that may be";
    EXPECT_TRUE(work::no_plan(weekly({90, 90.8, 89.6, 90.5, 89.9})->read()).isEmpty()) << "days differ";
    // a visit knows what was weighed in the weeks before it
    const bench::Act begun =
        work::beginning(*fast->store, fast->client, method::hydrostatic, QTimeZone("Europe/Paris"));
    const auto weighings = bench::read<bench::event::Started>(begun.body)->weighings;
    ASSERT_EQ(weighings.size(), 5u) << begun.body;
    EXPECT_EQ(weighings[0].mass_kg, 90);
    EXPECT_NEAR(weighings[4].days_ago, 14, 1);
}

TEST(Plans, WhatStandsInTheRecordForbidsOrHolds)
{
    Reader r;
    r.tank("2026-01-10", 76, {1.70, 1.71, 1.72});
    EXPECT_TRUE(work::read(r.read()).energy);
    records::Client c = *r.store->client(r.client.id);
    c.facts = QStringList{"kidney_disease"};
    ASSERT_TRUE(r.store->save(c));
    const History kidney = r.read();
    ASSERT_TRUE(work::read(kidney).energy);
    EXPECT_FALSE(work::read(kidney).energy->find(quantity::protein_low));
    c.facts = QStringList{"eating_disorder"};
    ASSERT_TRUE(r.store->save(c));
    const History h = r.read();
    EXPECT_FALSE(work::read(h).energy);
    EXPECT_FALSE(work::no_plan(h).isEmpty());
    EXPECT_FALSE(work::no_plan(h).contains("eating")) << "what is shown to the client names nothing";
}

TEST(ClientLog, FinalMovedWithTheRecordAndGoneWithThePerson)
{
    Reader r;
    records::ClientEvent e;
    e.client_id = r.client.id;
    e.who = "M. Tanguy";
    e.day = "2026-11-23";
    e.kind = "sung";
    EXPECT_EQ(records::keep(*r.store, e).messages().front().code, "unknown_choice");
    e.kind = "told";
    e.day = "23.11.2026";
    EXPECT_EQ(records::keep(*r.store, e).messages().front().field, "day");
    e.day = "2026-11-23";
    e.who = " ";
    EXPECT_EQ(records::keep(*r.store, e).messages().front().field, "who");
    e.who = "M. Tanguy";
    e.client_id = 999;
    EXPECT_EQ(records::keep(*r.store, e).messages().front().code, "unknown_client");
    e.client_id = r.client.id;
    ASSERT_TRUE(records::keep(*r.store, e));
    records::Client other = r.client;
    other.id = 0;
    other.number.clear();
    other = *r.store->save(other);
    ASSERT_FALSE(records::merge(*r.store, other.id, r.client.id));
    EXPECT_EQ(records::client_events(*r.store, other.id).size(), 1u) << "it goes with the record";
    const auto handed = records::export_person(*r.store, other.id, r.dir.path());
    ASSERT_TRUE(handed);
    QFile person(*handed + "/person.json");
    ASSERT_TRUE(person.open(QIODevice::ReadOnly));
    EXPECT_TRUE(person.readAll().contains("client_events"));
    {
        QSqlQuery q(r.store->database());
        EXPECT_FALSE(q.exec("UPDATE client_event SET body = '{}'"));
        EXPECT_FALSE(q.exec("DELETE FROM client_event"));
    }
    ASSERT_FALSE(records::erase(*r.store, other.id, "M. Tanguy", QTimeZone("Europe/Paris")));
    QSqlQuery q(r.store->database());
    ASSERT_TRUE(q.exec("SELECT COUNT(*) FROM client_event") && q.next());
    EXPECT_EQ(q.value(0).toInt(), 0);
    EXPECT_FALSE(q.exec("DELETE FROM client_event WHERE 0") &&
                 q.exec("INSERT INTO client_event VALUES (1,1,'','','','','')") && q.exec("DELETE FROM client_event"))
        << "the guard is back";
}

TEST(OwnGroup, OfOneMethodFromTwentyPeopleAndNeverAgainstOneself)
{
    Reader r;
    const long me = r.client.id;
    r.analyser("2026-03-10", 70, 500, 55);
    for (int i = 0; i < 21; ++i) {
        records::Client c = r.client;
        c.id = 0;
        c.number.clear();
        c.given_name = QStringLiteral("Client %1").arg(i);
        c.role = i < 5 ? "deckhand" : "swimmer";
        r.client = *r.store->save(c);
        r.analyser("2026-02-10", 70, 440 + 8.0 * i, 55); // the newest counts
        r.analyser("2026-03-10", 70, 420 + 8.0 * i, 55);
        if (i == 20) r.tank("2026-03-10", 70, {2.36, 2.37, 2.38});
    }
    work::OwnGroup group(r.store->file());
    QSignalSpy looked(&group, &work::OwnGroup::looked);
    EXPECT_FALSE(group.standing({"impedance", Sex::female, {}, 0}, quantity::fat_percent, 20)) << "not read yet";
    group.look_again();
    ASSERT_TRUE(looked.wait(10000));
    const work::OwnGroup::Whom all{"impedance", Sex::female, {}, me};
    const auto high = group.standing(all, quantity::fat_percent, 90),
               low = group.standing(all, quantity::fat_percent, 1);
    ASSERT_TRUE(high && low);
    EXPECT_EQ(high->n, 21);
    EXPECT_EQ(high->percentile, 100);
    EXPECT_EQ(low->percentile, 0);
    EXPECT_FALSE(group.standing({"impedance", Sex::male, {}, me}, quantity::fat_percent, 20));
    EXPECT_FALSE(group.standing({"impedance", Sex::female, "deckhand", me}, quantity::fat_percent, 20))
        << "five are no group";
    EXPECT_FALSE(group.standing({"hydrostatic", Sex::female, {}, me}, quantity::fat_percent, 20));
}
