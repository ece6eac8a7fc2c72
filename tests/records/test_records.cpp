// SPDX-License-Identifier: GPL-3.0-or-later
// The lab file: clients, the append-only log, migrations, and everything that can be wrong with a database.
#include "bench/base/fields.h"
#include "bench/tank/tank_take.h"
#include "bench/chamber/chamber_take.h"
#include "lab.h"
#include "records/store/recorder.h"
#include "records/file/schema.h"
#include "records/store/store.h"

#include <gtest/gtest.h>

#include <QCoreApplication>
#include <QDir>
#include <QFile>
#include <QSqlError>
#include <QSqlQuery>
#include <QTemporaryDir>
#include <QThread>
#include <QVariant>

#include <sys/resource.h>

#include <sys/wait.h>
#include <unistd.h>

#include <csignal>

using namespace fusain;
using namespace fusain::records;
using records::Client;
using records::Store;

namespace {

Client client(const char* given = "Aliénor", const char* family = "Quéméner")
{
    Client c;
    c.given_name = given;
    c.family_name = family;
    c.birth_date = "1995-05-02";
    c.height_cm = 171;
    c.phone = "0151 01";
    return c;
}

bench::Event event(long seq, const std::string& kind, bench::Json body = bench::Json::object())
{
    return {seq, "2026-11-23T08:20:00.000Z", "M. Tanguy", kind, body.dump()};
}

bench::Event started(long id)
{
    return event(1, "started",
        {{"client_id", id}, {"number", "101"}, {"name", "A. Q."}, {"birth_date", "1995-05-02"}, {"sex", "female"},
            {"height_cm", 171.0}});
}

/// Copies that were made before an upgrade.
QStringList backups(const Lab& lab)
{
    return QFileInfo(lab.file()).dir().entryList({QFileInfo(lab.file()).fileName() + QStringLiteral(".before-*")});
}

std::string refusal(const QString& file)
{
    const auto s = Store::open(file);
    return s ? "" : s.messages().front().code;
}

} // namespace

TEST(Clients, KeptFoundAndChanged)
{
    Lab lab;
    auto store = lab.open();
    const auto a = store->save(client());
    const auto b = store->save(client("Per-Jakez", "Le Goff"));
    ASSERT_TRUE(a && b);
    EXPECT_NE(a->number, b->number);
    struct Row {
        const char* words;
        int found;
    };
    for (const Row& r : {Row{"", 2}, Row{"quem", 1}, Row{"QUÉM ali", 1}, Row{"goff", 1}, Row{"jakez", 1},
             Row{"015101", 2}, Row{"101", 1}, Row{"emener", 0}, Row{"%", 0}, Row{"quem goff", 0}})
        EXPECT_EQ(static_cast<int>(store->find_clients(r.words).size()), r.found) << r.words;
    Client changed = *a;
    changed.height_cm = 171.5;
    ASSERT_TRUE(store->save(changed));
    // another window keeps somebody, changes a name, archives: the search sees it
    {
        auto other = lab.open();
        ASSERT_TRUE(other->save(client("Gwenn", "Riou")));
        EXPECT_EQ(store->count_clients("riou"), 1);
        Client renamed = *b;
        renamed.family_name = "Abgrall";
        ASSERT_TRUE(other->save(renamed));
        EXPECT_EQ(store->count_clients("goff"), 0);
        renamed.archived = true;
        ASSERT_TRUE(store->save(renamed));
        EXPECT_EQ(store->count_clients("abgrall"), 0);
        EXPECT_EQ(store->find_clients("abgrall", 10, 0, true).size(), 1u);
    }
    // in pages, by name
    EXPECT_EQ(store->find_clients("", 1, 0)[0].family_name, "Quéméner");
    EXPECT_EQ(store->find_clients("", 1, 1)[0].family_name, "Riou");
    EXPECT_TRUE(store->find_clients("", 1, 2).empty());
    store.reset();
    EXPECT_EQ(lab.open()->client(a->id)->height_cm, 171.5);
    Client twin = client("Other", "Person");
    twin.number = b->number;
    const auto refused = lab.open()->save(twin);
    ASSERT_FALSE(refused);
    EXPECT_EQ(refused.messages().front().field, "number");
}

TEST(Clients, EveryBadFieldIsNamed)
{
    struct Row {
        const char* what;
        void (*change)(Client&);
        const char* field;
    };
    const Row rows[] = {
        {"no name", [](Client& c) { c.given_name = "  "; }, "given_name"},
        {"no family", [](Client& c) { c.family_name.clear(); }, "family_name"},
        {"no date", [](Client& c) { c.birth_date.clear(); }, "birth_date"},
        {"odd date", [](Client& c) { c.birth_date = "1995-02-30"; }, "birth_date"},
        {"other order", [](Client& c) { c.birth_date = "02/05/1995"; }, "birth_date"},
        {"future", [](Client& c) { c.birth_date = "2030-01-01"; }, "birth_date"},
        {"too old", [](Client& c) { c.birth_date = "1890-01-01"; }, "birth_date"},
        {"metres", [](Client& c) { c.height_cm = 1.71; }, "height_cm"},
    };
    EXPECT_TRUE(records::check(client(), "2026-11-23").empty());
    for (const Row& r : rows) {
        Client c = client();
        r.change(c);
        const auto bad = records::check(c, "2026-11-23");
        ASSERT_EQ(bad.size(), 1u) << r.what;
        EXPECT_EQ(bad[0].field, r.field) << r.what;
    }
}

TEST(Log, IsAppendOnlyAndReplays)
{
    Lab lab;
    auto store = lab.open();
    const long id = store->save(client())->id;
    const auto visit = store->begin_visit(id, "hydrostatic", started(id));
    ASSERT_TRUE(visit);
    EXPECT_FALSE(store->append(*visit, event(2, "identity", {{"cm", 171.00000000000003}})));
    EXPECT_TRUE(store->append(*visit, event(2, "mass", {{"kg", 60}}))) << "a number is used once";
    EXPECT_TRUE(store->append(*visit, event(4, "mass", {{"kg", 60}}))) << "no gaps";
    EXPECT_FALSE(sql(lab.file(), {"UPDATE visit_event SET body = '{}'"}));
    EXPECT_FALSE(sql(lab.file(), {"DELETE FROM visit_event"}));
    EXPECT_FALSE(sql(
        lab.file(), {"PRAGMA foreign_keys = ON",
                        "INSERT INTO visit (client_id, method, started_at, technician) VALUES (999, 'x', 'x', 'x')"}));
    const auto replayed = store->replay(*visit);
    ASSERT_TRUE(replayed);
    EXPECT_EQ(*replayed->height_today_cm, 171.00000000000003);
    EXPECT_EQ(store->open_visit()->id, *visit);
    EXPECT_FALSE(
        store->append(*visit, event(3, "stops", {{"stop", {"recent_surgery"}}, {"noted", bench::Json::array()}})));
    EXPECT_FALSE(store->open_visit()) << "a visit stopped for safety is closed";
}

TEST(Signals, ComeBackToTheLastBit)
{
    Lab lab;
    auto store = lab.open();
    const long id = store->save(client())->id;
    const long visit = *store->begin_visit(id, "hydrostatic", started(id));
    const auto a = bench::signal_of({{0, 2.1}, {0.01, 2.1000000000000005}}), b = bench::signal_of({{0.02, -0.3}});
    EXPECT_FALSE(store->append_signal({visit, 1, 0, a}));
    EXPECT_FALSE(store->append_signal({visit, 1, 1, b}));
    EXPECT_TRUE(store->append_signal({visit, 1, 1, b})) << "a chunk is written once";
    const auto back = store->signal(visit, 1);
    ASSERT_EQ(back->size(), 3u);
    EXPECT_EQ(back->at(1, 1), 2.1000000000000005);
    EXPECT_EQ(back->at(2, 1), -0.3);
    bench::Signal chamber{bench::chamber_columns, {}};
    chamber.add({0, 131.25, -170.5, 0});
    chamber.add({0.0125, 90, -120, 1});
    EXPECT_FALSE(store->append_signal({visit, 3, 0, chamber}));
    EXPECT_EQ(store->signal(visit, 3)->columns, bench::chamber_columns);
    EXPECT_EQ(store->signal(visit, 3)->at(1, 3), 1);
    EXPECT_TRUE(store->signal(visit, 2)->empty());
}

TEST(Migration, EveryOldSchemaIsUpgradedAndAnEmptyOneIsTheNewest)
{
    for (int version = 1; version <= records::newest_schema(); ++version) {
        QFile fixture(QStringLiteral(TEST_SOURCE_DIR "/tests/records/fixtures/v%1.sql").arg(version));
        ASSERT_TRUE(fixture.open(QIODevice::ReadOnly)) << "no fixture of schema " << version;
        Lab lab;
        ASSERT_TRUE(sql(lab.file(), QString::fromUtf8(fixture.readAll()).split(";;\n", Qt::SkipEmptyParts))) << version;
        auto store = lab.open();
        ASSERT_TRUE(store);
        const auto found = store->find_clients("fixt");
        ASSERT_EQ(found.size(), 1u);
        const auto visits = store->visits_of(found[0].id);
        ASSERT_EQ(visits.size(), 1u);
        const auto visit = store->replay(visits[0].id);
        ASSERT_TRUE(visit);
        EXPECT_NEAR((*visit->result())[quantity::fat_percent].value, 12.69, 0.005);
        EXPECT_EQ(backups(lab).size(), version < records::newest_schema() ? 1 : 0);
        QVariant now;
        sql(lab.file(), {"PRAGMA user_version"}, &now);
        EXPECT_EQ(now.toInt(), records::newest_schema());
    }
}

TEST(Migration, TheCopyIsWholeNeverInTheWayAndSurvivesACrashBetween)
{
    QFile fixture(QStringLiteral(TEST_SOURCE_DIR "/tests/records/fixtures/v2.sql"));
    ASSERT_TRUE(fixture.open(QIODevice::ReadOnly));
    const QStringList statements = QString::fromUtf8(fixture.readAll()).split(";;\n", Qt::SkipEmptyParts);
    Lab lab;
    ASSERT_TRUE(sql(lab.file(), statements));
    // left-overs of an earlier attempt, whole or broken, under any name
    for (const QString& name :
        {QStringLiteral(".before-v3"), QStringLiteral(".before-v%1").arg(records::newest_schema())}) {
        QFile f(lab.file() + name);
        ASSERT_TRUE(f.open(QIODevice::WriteOnly));
    }
    // killed between the copy and the upgrade: the lab is as it was, and the next start does both
    const pid_t child = fork();
    if (child == 0) {
        {
            QSqlDatabase db = QSqlDatabase::addDatabase("QSQLITE", "crash");
            db.setDatabaseName(lab.file());
            db.open();
            QSqlQuery q(db);
            q.exec("VACUUM INTO '" + lab.file() + ".before-v4-20260101-000000'");
        }
        _exit(0);
    }
    int status = 0;
    ASSERT_EQ(waitpid(child, &status, 0), child);
    auto store = lab.open();
    ASSERT_TRUE(store) << "a left-over never locks the lab out";
    EXPECT_EQ(store->find_clients("fixt").size(), 1u);
    QString newest;
    for (const QString& name : backups(lab))
        if (name > newest) newest = name;
    QVariant version, clients;
    const QString copy = QFileInfo(lab.file()).dir().filePath(newest);
    sql(copy, {"PRAGMA user_version"}, &version);
    sql(copy, {"SELECT COUNT(*) FROM client JOIN visit_event"}, &clients);
    EXPECT_EQ(version.toInt(), 2) << newest.toStdString();
    EXPECT_EQ(clients.toInt(), 14) << "the copy holds what the lab held";
}

TEST(Migration, OnlyWhatWasMeasuredCountsFromThenOn)
{
    QFile fixture(QStringLiteral(TEST_SOURCE_DIR "/tests/records/fixtures/v3.sql"));
    ASSERT_TRUE(fixture.open(QIODevice::ReadOnly));
    QStringList statements = QString::fromUtf8(fixture.readAll()).split(";;\n", Qt::SkipEmptyParts);
    statements << "INSERT INTO instrument (id, kind, name, serial) VALUES (90, 'impedance', 'A', 'A1'), (91, "
                  "'hydrostatic', 'T', 'T9')";
    // turned away at the screening · measured on an analyser that has no bench here · a stopped visit
    statements << "INSERT INTO booking (id, client_id, state, made_at, made_by) VALUES (81, 7, 'done', '', ''), (82, "
                  "7, 'done', '', ''), (83, 7, 'done', '', '')";
    statements << "INSERT INTO visit (id, client_id, method, started_at, technician, finished) VALUES (9, 7, "
                  "'hydrostatic', '2026-02-01T08:00:00.000Z', 'M. Tanguy', 1)";
    statements << "INSERT INTO visit_event VALUES (9, 1, '2026-02-01T08:00:00.000Z', 'M. Tanguy', 'stops', '{\"stop\": "
                  "[\"ill\"]}')";
    statements << "INSERT INTO booking_part (booking_id, seq, method, instrument_id, from_minute, to_minute, visit_id) "
                  "VALUES (81, 1, 'impedance', 90, 100, 110, NULL), (82, 1, 'impedance', 90, 200, 210, NULL), (83, 1, "
                  "'hydrostatic', 91, 300, 340, 9)";
    statements << R"(INSERT INTO screening (client_id, booking_id, at, who, body) VALUES (7, 81, '', '',)"
                  R"( '{"verdicts": [{"method": "impedance", "verdict": "no"}]}'), (7, 82, '', '',)"
                  R"( '{"verdicts": [{"method": "impedance", "verdict": "another_day", "override": {"who": "x"}}]}'))";
    Lab lab;
    ASSERT_TRUE(sql(lab.file(), statements));
    auto store = lab.open();
    ASSERT_TRUE(store);
    const char* expected[] = {"turned_away", "measured", "stopped"};
    for (int i = 0; i < 3; ++i) {
        QVariant whole, part;
        sql(lab.file(), {QStringLiteral("SELECT outcome FROM booking WHERE id = %1").arg(81 + i)}, &whole);
        sql(lab.file(), {QStringLiteral("SELECT outcome FROM booking_part WHERE booking_id = %1").arg(81 + i)}, &part);
        EXPECT_EQ(whole.toString(), expected[i]);
        EXPECT_EQ(part.toString(), expected[i]);
    }
    EXPECT_EQ(store->visit(9)->outcome, "stopped");
    EXPECT_TRUE(store->visit(3)->measured());
}

TEST(Visits, AScreenedVisitBeginsInOnePieceAndIsClosedByWhatBecameOfIt)
{
    Lab lab;
    auto store = lab.open();
    const auto c = store->save(client());
    bench::Event stops = event(2, "stops", {{"stop", bench::Json::array()}});
    const auto id = store->begin_visit(c->id, "hydrostatic", std::vector{started(c->id), stops});
    ASSERT_TRUE(id);
    EXPECT_EQ(store->events(*id).size(), 2u);
    // the second event cannot be: nothing of the visit is left
    stops.seq = 3;
    EXPECT_FALSE(store->begin_visit(c->id, "hydrostatic", std::vector{started(c->id), stops}));
    EXPECT_EQ(store->visits_of(c->id).size(), 1u);
    ASSERT_FALSE(store->append(*id, event(3, "given_up", {{"reason", "went home"}})));
    EXPECT_TRUE(store->visit(*id)->finished);
    EXPECT_EQ(store->visit(*id)->outcome, "stopped");
    EXPECT_FALSE(store->open_visit());
}

TEST(Failures, EachGivesASentenceAndTouchesNothing)
{
    {
        Lab lab;
        lab.open();
        sql(lab.file(), {"PRAGMA user_version = 99"});
        const QByteArray before = bytes(lab.file());
        EXPECT_EQ(refusal(lab.file()), "lab_newer");
        EXPECT_EQ(bytes(lab.file()), before);
    }
    {
        Lab lab;
        sql(lab.file(), {"CREATE TABLE recipes (x)"});
        EXPECT_EQ(refusal(lab.file()), "lab_foreign");
    }
    {
        Lab lab;
        QFile f(lab.file());
        ASSERT_TRUE(f.open(QIODevice::WriteOnly));
        f.write(
            "this is not a database at all, but it is long enough to be taken for one by its size ...................");
        f.close();
        const QByteArray before = bytes(lab.file());
        EXPECT_EQ(refusal(lab.file()), "lab_damaged");
        EXPECT_EQ(bytes(lab.file()), before);
    }
    {
        Lab lab;
        {
            auto store = lab.open();
            for (int i = 0; i < 200; ++i) EXPECT_TRUE(store->save(client("Given", "Family")));
        }
        QFile f(lab.file());
        ASSERT_TRUE(f.open(QIODevice::ReadWrite));
        f.seek(4096 * 2);
        f.write(QByteArray(4096 * 4, '\x5a'));
        f.close();
        EXPECT_EQ(refusal(lab.file()), "lab_damaged");
    }
    {
        Lab lab;
        auto store = lab.open();
        const long id = store->save(client())->id;
        QSqlDatabase other = QSqlDatabase::addDatabase("QSQLITE", "other");
        other.setDatabaseName(lab.file());
        ASSERT_TRUE(other.open());
        QSqlQuery q(other);
        ASSERT_TRUE(q.exec("BEGIN IMMEDIATE"));
        const auto why = store->begin_visit(id, "hydrostatic", started(id));
        ASSERT_FALSE(why);
        EXPECT_EQ(why.messages().front().code, "lab_locked");
        q.exec("ROLLBACK");
        EXPECT_TRUE(store->begin_visit(id, "hydrostatic", started(id))) << "and the way on: try again";
        q.clear();
        other.close();
    }
    QSqlDatabase::removeDatabase("other");
    EXPECT_EQ(refusal("/proc/fusain/lab.fusain"), "lab_unreachable");
}

TEST(Failures, AFullDiskLosesNothingThatWasAccepted)
{
    Lab lab;
    auto store = lab.open();
    const long id = store->save(client())->id;
    const long visit = *store->begin_visit(id, "hydrostatic", started(id));
    ASSERT_FALSE(store->append(visit, event(2, "identity", {{"cm", 171}})));
    // the size limit of files plays the full disk
    std::signal(SIGXFSZ, SIG_IGN);
    rlimit old{};
    getrlimit(RLIMIT_FSIZE, &old);
    const qint64 wal = QFileInfo(lab.file() + "-wal").size();
    const rlimit tight{static_cast<rlim_t>(wal + 2000), old.rlim_max};
    setrlimit(RLIMIT_FSIZE, &tight);
    const auto why = store->append(visit, event(3, "remark", {{"text", std::string(200000, 'x')}}));
    setrlimit(RLIMIT_FSIZE, &old);
    ASSERT_TRUE(why);
    EXPECT_TRUE(why->code == "lab_full" || why->code == "lab_unreachable") << why->code << ": " << why->text;
    EXPECT_EQ(store->events(visit).size(), 2u);
    EXPECT_FALSE(store->append(visit, event(3, "remark", {{"text", "now it fits"}}))) << "and the way on: try again";
}

TEST(Recorder, WaitsForALockedLabAndThenWritesEverythingInOrder)
{
    Lab lab;
    long visit = 0;
    {
        auto store = lab.open();
        const long id = store->save(client())->id;
        visit = *store->begin_visit(id, "hydrostatic", started(id));
    }
    QSqlDatabase other = QSqlDatabase::addDatabase("QSQLITE", "holder");
    other.setDatabaseName(lab.file());
    ASSERT_TRUE(other.open());
    {
        records::Recorder recorder(lab.file());
        int stalls = 0, stored = 0, failed = 0;
        QObject::connect(&recorder, &records::Recorder::stalled, qApp, [&] { ++stalls; });
        QObject::connect(&recorder, &records::Recorder::stored, qApp, [&] { ++stored; });
        QObject::connect(&recorder, &records::Recorder::failed, qApp, [&] { ++failed; });
        const auto wait = [](auto done) {
            for (int i = 0; i < 1000 && !done(); ++i) {
                QCoreApplication::processEvents();
                QThread::msleep(10);
            }
            return done();
        };
        QSqlQuery q(other);
        ASSERT_TRUE(q.exec("BEGIN IMMEDIATE"));
        recorder.append(visit, event(2, "identity", {{"cm", 171}}));
        recorder.append_signal({visit, 1, 0, bench::signal_of({{0, 2.4}})});
        recorder.append(visit, event(3, "mass", {{"kg", 68.4}}));
        ASSERT_TRUE(wait([&] { return stalls == 1; }));
        EXPECT_EQ(stored, 0);
        q.exec("ROLLBACK");
        ASSERT_TRUE(wait([&] { return stored == 2; }));
        recorder.append(visit, event(9, "mass", {{"kg", 68.4}})); // a gap: this one can never be stored
        ASSERT_TRUE(wait([&] { return failed == 1; }));
        EXPECT_EQ(stalls, 1) << "said once, not every second";
        recorder.append(visit, event(4, "remark"));
    } // and the last is written on the way out
    other.close();
    other = {};
    QSqlDatabase::removeDatabase("holder");
    EXPECT_EQ(lab.open()->events(visit).size(), 4u);
    EXPECT_EQ(lab.open()->signal(visit, 1)->size(), 1u);
}
