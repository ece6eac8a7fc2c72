// SPDX-License-Identifier: GPL-3.0-or-later
// Results as they were told: when they are kept, that nobody changes them, and what an older lab gets.
#include "bench/base/fields.h"
#include "records/file/schema.h"
#include "../lab.h"
#include "records/people/people.h"

#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>

using namespace fusain;
using namespace fusain::records;

namespace {

void fill(const Lab& lab, int version, const QStringList& more = {})
{
    QFile fixture(QStringLiteral(TEST_SOURCE_DIR "/tests/records/fixtures/v%1.sql").arg(version));
    ASSERT_TRUE(fixture.open(QIODevice::ReadOnly));
    ASSERT_TRUE(sql(lab.file(), QString::fromUtf8(fixture.readAll()).split(";;\n", Qt::SkipEmptyParts) + more));
}

/// The visit of the fixtures, event by event.
std::vector<bench::Event> a_visit()
{
    Lab lab;
    fill(lab, 5);
    return lab.open()->events(3);
}

int count(const Lab& lab, const QString& where = QStringLiteral("1"))
{
    QVariant n;
    sql(lab.file(), {"SELECT COUNT(*) FROM snapshot WHERE " + where}, &n);
    return n.toInt();
}

Client client(const char* given)
{
    Client c;
    c.given_name = given;
    c.family_name = "Quéméner";
    c.birth_date = "1995-05-02";
    c.height_cm = 171;
    return c;
}

/// A lab with one client and one finished visit.
struct Told : Lab {
    std::shared_ptr<Store> store = open();
    long who = store->save(client("Aliénor"))->id, visit = 0, seq = 0;
    Told()
    {
        const auto events = a_visit();
        for (const bench::Event& e : events)
            if (e.seq == 1)
                visit = *store->begin_visit(who, "hydrostatic", e);
            else
                EXPECT_FALSE(store->append(visit, e)) << e.kind;
        seq = events.back().seq;
    }
    std::string add(const std::string& kind, bench::Json body)
    {
        const auto why = store->append(visit, {seq + 1, "2026-11-25T10:00:00.000Z", "Y. Kerloc'h", kind, body.dump()});
        if (!why) ++seq;
        return why ? why->code : "";
    }
    std::string choose(const char* what, const char* to) { return add("choice", {{"what", what}, {"to", to}}); }
};

void expect_told(const Snapshot& told, const bench::Visit& visit)
{
    const auto now = visit.result();
    ASSERT_TRUE(now);
    ASSERT_EQ(told.result.values.size(), now->values.size());
    for (const Value& v : now->values) { // to the last bit
        EXPECT_EQ(told.result[*v.quantity].value, v.value) << v.quantity->id;
        EXPECT_EQ(told.result[*v.quantity].u, v.u) << v.quantity->id;
        EXPECT_EQ(told.result[*v.quantity].u_model, v.u_model) << v.quantity->id;
    }
    ASSERT_EQ(told.messages.size(), now.messages().size());
    for (std::size_t i = 0; i < told.messages.size(); ++i) {
        EXPECT_EQ(told.messages[i].code, now.messages()[i].code);
        EXPECT_EQ(told.messages[i].level, now.messages()[i].level);
        EXPECT_EQ(told.messages[i].text, now.messages()[i].text);
    }
    EXPECT_EQ(told.choices, visit.chosen());
    EXPECT_EQ(told.mass_kg, *visit.mass_kg);
    EXPECT_EQ(told.height_cm, visit.height_cm());
    EXPECT_EQ(told.age_y, visit.age_y());
    EXPECT_EQ(told.sex, visit.subject.sex);
    EXPECT_EQ(told.conditions.equations, visit.own().schools(visit));
    EXPECT_EQ(told.conditions.lung, visit.own().lung(visit));
    EXPECT_EQ(told.conditions.kept, visit.outside);
    EXPECT_NE(told.engine.find("fusain "), std::string::npos);
}

} // namespace

TEST(Snapshots, AreToldAtTheEndAndAtEveryLaterChoiceAndStay)
{
    Lab lab;
    auto store = lab.open();
    const long who = store->save(client("Aliénor"))->id;
    long visit = 0;
    const auto events = a_visit();
    for (const bench::Event& e : events) {
        if (e.seq == 1) {
            visit = *store->begin_visit(who, "hydrostatic", e);
            continue;
        }
        ASSERT_FALSE(store->append(visit, e));
        EXPECT_EQ(count(lab), e.kind == "finished" ? 1 : 0) << "with the event that finishes it: " << e.kind;
    }
    ASSERT_EQ(events.back().kind, "finished");
    const auto first = store->snapshot(visit);
    ASSERT_TRUE(first);
    EXPECT_FALSE(first->by_migration);
    EXPECT_EQ(first->seq, events.back().seq);
    EXPECT_EQ(first->who.toStdString(), events.back().who);
    EXPECT_NEAR(first->result[quantity::fat_percent].value, 12.69, 0.005);
    expect_told(*first, *store->replay(visit));
    EXPECT_FALSE(sql(lab.file(), {"UPDATE snapshot SET body = '{}'"}));
    EXPECT_FALSE(sql(lab.file(), {"DELETE FROM snapshot"}));
    EXPECT_EQ(count(lab), 1);
}

TEST(Snapshots, ALaterChoiceAddsOneAndTheOldOneStays)
{
    Told t;
    const double siri = t.store->snapshot(t.visit)->result[quantity::fat_percent].value;
    ASSERT_EQ(t.choose("conversion", "brozek_1963"), "");
    auto now = t.store->snapshot(t.visit);
    EXPECT_EQ(count(t), 2);
    EXPECT_EQ(now->choices.at("conversion"), "brozek_1963");
    EXPECT_EQ(now->who, "Y. Kerloc'h");
    EXPECT_NE(now->result[quantity::fat_percent].value, siri);
    expect_told(*now, *t.store->replay(t.visit));
    QVariant was;
    sql(t.file(), {"SELECT json_extract(body, '$.quantities.fat_percent.value') FROM snapshot ORDER BY seq LIMIT 1"},
        &was);
    EXPECT_EQ(was.toDouble(), siri);

    ASSERT_EQ(t.choose("conversion", "lohman_1989"), "") << "constants for children only: no result";
    now = t.store->snapshot(t.visit);
    EXPECT_TRUE(now->result.values.empty());
    ASSERT_FALSE(now->messages.empty());
    EXPECT_EQ(now->messages.front().level, Level::error) << "and what is told is why";

    const int before = count(t);
    ASSERT_EQ(t.choose("conversion", "siri_1961"), "");
    ASSERT_EQ(t.add("reopened", {{"reason", "one more trial"}}), "");
    ASSERT_EQ(t.choose("conversion", "brozek_1963"), "");
    ASSERT_EQ(t.add("remark", {{"text", "calm"}}), "");
    EXPECT_EQ(count(t), before + 1) << "an open visit tells nothing";
    ASSERT_EQ(t.add("finished", bench::Json::object()), "");
    EXPECT_EQ(count(t), before + 2);
    EXPECT_EQ(t.store->snapshots_of(t.who).at(t.visit).seq, t.seq) << "the newest of each visit";
}

TEST(Snapshots, AnOlderLabGetsThemMarked)
{
    for (int version = 1; version < newest_schema(); ++version) {
        Lab lab;
        fill(lab, version);
        auto store = lab.open();
        ASSERT_TRUE(store) << version;
        const auto told = store->snapshot(3);
        ASSERT_TRUE(told) << version;
        EXPECT_TRUE(told->by_migration);
        if (version < 6)
            expect_told(*told, *store->replay(3));
        else // it was there: it stays as it was told then
            EXPECT_EQ(told->engine, "fusain 0.3.0");
        EXPECT_EQ(told->seq, store->last_seq(3));
    }
    { // a log that this version cannot read keeps nobody from the lab
        Lab lab;
        fill(lab, 5, {"INSERT INTO visit_event SELECT visit_id, MAX(seq) + 1, at, who, 'sung', '{}' FROM visit_event"});
        auto store = lab.open();
        ASSERT_TRUE(store);
        EXPECT_FALSE(store->snapshot(3));
    }
    { // it can be stopped, and the lab is as it was
        Lab lab;
        fill(lab, 5);
        int asked = 0;
        const auto stopped = Store::open(lab.file(), [&](int done, int of) {
            EXPECT_EQ(done, 0);
            EXPECT_EQ(of, 1);
            ++asked;
            return false;
        });
        ASSERT_FALSE(stopped);
        EXPECT_EQ(stopped.messages().front().code, "lab_not_upgraded");
        EXPECT_TRUE(QDir(lab.dir.path()).entryList({"*.before-*"}).isEmpty()) << "nothing changed, no copy is needed";
        EXPECT_EQ(asked, 1);
        QVariant version;
        sql(lab.file(), {"PRAGMA user_version"}, &version);
        EXPECT_EQ(version.toInt(), 5);
        EXPECT_TRUE(lab.open()->snapshot(3));
    }
}

TEST(Snapshots, AStoredOneIsReadWholeOrNotAtAll)
{
    Told t;
    const auto told = t.store->snapshot(t.visit);
    ASSERT_TRUE(told);
    const std::string body = stored(*told);
    EXPECT_EQ(stored(*snapshot_from(body)), body);
    EXPECT_TRUE(snapshot_from(bench::joined(body, R"({"choices": {}})"))) << "an engine with nothing to choose";
    for (const char* key :
        {"engine", "method", "day", "sex", "age_y", "mass_kg", "conditions", "messages", "quantities"})
        EXPECT_FALSE(snapshot_from(bench::joined(body, std::string("{\"") + key + "\": null}"))) << key;
    EXPECT_FALSE(snapshot_from(bench::joined(body, R"({"sex": "somebody"})"))) << "not taken for either";
    EXPECT_FALSE(snapshot_from("nonsense"));
}

TEST(Snapshots, AreWhatListsAndBookingsRead)
{
    Told t;
    EXPECT_EQ(t.store->last_mass(t.who)->kg, *t.store->replay(t.visit)->mass_kg);
    ASSERT_FALSE(t.store->begin_visit(t.who, "hydrostatic", t.store->events(t.visit).front()).messages().size());
    EXPECT_EQ(t.store->last_mass(t.who)->kg, *t.store->replay(t.visit)->mass_kg)
        << "a visit without one is passed over";
    EXPECT_FALSE(t.store->last_mass(t.who + 1));
    auto later = t.store->events(t.visit).front();
    later.at_utc = "2027-01-01T08:00:00.000Z";
    const long stopped = *t.store->begin_visit(t.who, "hydrostatic", later);
    ASSERT_FALSE(
        t.store->append(stopped, {2, later.at_utc, "M. Tanguy", "mass", bench::written(bench::event::Mass{77.7})}));
    EXPECT_EQ(t.store->last_mass(t.who)->kg, 77.7) << "the newest, also of a visit without a result";
    EXPECT_EQ(t.store->last_mass(t.who)->started_at.toStdString(), later.at_utc);
    // what was told is told still, when a later program cannot read the log
    ASSERT_TRUE(sql(t.file(), {"INSERT INTO visit_event SELECT visit_id, MAX(seq) + 1, at, who, 'sung', '{}' FROM "
                               "visit_event WHERE visit_id = " +
                                  QString::number(t.visit)}));
    EXPECT_FALSE(t.store->replay(t.visit));
    EXPECT_NEAR(t.store->snapshots_of(t.who).at(t.visit).result[quantity::fat_percent].value, 12.69, 0.005);
    // one that cannot be read is none
    ASSERT_TRUE(sql(t.file(), {"INSERT INTO snapshot (visit_id, seq, at, who, made_by, body) SELECT visit_id, 999, at, "
                               "who, made_by, '{\"method\": 7}' FROM snapshot"}));
    EXPECT_FALSE(t.store->snapshot(t.visit));
    EXPECT_TRUE(t.store->snapshots_of(t.who).empty());
}

TEST(Snapshots, GoWithThePerson)
{
    Told t;
    const long other = t.store->save(client("Alienor"))->id;
    ASSERT_FALSE(merge(*t.store, other, t.who));
    EXPECT_EQ(t.store->snapshots_of(other).size(), 1u);

    const auto place = export_person(*t.store, other, t.dir.path() + "/exports");
    ASSERT_TRUE(place);
    QFile f(*place + "/person.json");
    ASSERT_TRUE(f.open(QIODevice::ReadOnly));
    const QJsonArray all = QJsonDocument::fromJson(f.readAll()).object()["snapshots"].toArray();
    ASSERT_EQ(all.size(), 1);
    EXPECT_NEAR(all[0]["body"]["quantities"]["fat_percent"]["value"].toDouble(), 12.69, 0.005);

    ASSERT_FALSE(erase(*t.store, other, "M. Tanguy", QTimeZone("Europe/Paris")));
    EXPECT_EQ(count(t), 0);
    QVariant guards;
    sql(t.file(), {"SELECT COUNT(*) FROM sqlite_master WHERE name IN ('snapshot_stays', 'visit_event_stays')"},
        &guards);
    EXPECT_EQ(guards.toInt(), 2) << "and the guards stand again";
}
