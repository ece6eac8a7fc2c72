// SPDX-License-Identifier: GPL-3.0-or-later
// A lab of 20 000 clients with ten measured visits each: opening it, a key in the search field, and the visits of one
// client read from their snapshots and, as it was before there were any, replayed from their logs.
#include "records/people/people.h"

#include <benchmark/benchmark.h>

#include <QCoreApplication>
#include <QElapsedTimer>
#include <QFile>
#include <QFileInfo>
#include <QSqlError>
#include <QSqlQuery>
#include <QTemporaryDir>

#include <iostream>

using namespace fusain::records;

namespace {

constexpr int clients = 20000, visits_each = 10;

/// Past the Store: what one program would write in ten years.
void exec(const Store& store, const QString& sql)
{
    QSqlQuery q(store.database());
    if (q.exec(sql)) return;
    std::cerr << q.lastError().text().toStdString() << "\n" << sql.left(200).toStdString() << "\n";
    std::exit(1);
}

const QString& lab_file()
{
    static QTemporaryDir dir;
    static const QString file = [] {
        const QString name = dir.path() + "/lab.fusain";
        QFile fixture(QStringLiteral(BENCHMARK_SOURCE_DIR "/tests/records/fixtures/v6.sql"));
        if (!fixture.open(QIODevice::ReadOnly)) std::exit(1);
        {
            QSqlDatabase db = QSqlDatabase::addDatabase("QSQLITE", "fill");
            db.setDatabaseName(name);
            db.open();
            QSqlQuery q(db);
            for (const QString& s : QString::fromUtf8(fixture.readAll()).split(";;\n", Qt::SkipEmptyParts)) q.exec(s);
        }
        QSqlDatabase::removeDatabase("fill");
        const auto big = *Store::open(name);
        QElapsedTimer timer;
        timer.start();
        for (const char* sql :
            {"PRAGMA synchronous = OFF", "BEGIN",
                "CREATE TEMP TABLE n AS WITH RECURSIVE c(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM c WHERE i < %1) "
                "SELECT i FROM c",
                "INSERT INTO client (id, number, family_name, given_name, birth_date, sex, height_cm, search) SELECT "
                "100 + i, 'N' || i, 'Family' || (i % 977), 'Given' || (i % 13), '1990-01-01', 'male', 178, ' given' || "
                "(i % 13) || ' family' || (i % 977) || ' n' || i FROM n",
                "INSERT INTO visit (id, client_id, method, started_at, technician, finished, outcome) SELECT 1000 + "
                "n.i * %2 + k.i, 100 + n.i, 'hydrostatic', strftime('%Y-%m-%dT08:00:00.000Z', '2016-01-01', '+' || "
                "(n.i % 300 + 350 * k.i) || ' days'), 'M. Tanguy', 1, 'measured' FROM n, (SELECT i FROM n WHERE i <= "
                "%2) k",
                "INSERT INTO visit_event SELECT v.id, e.seq, e.at, e.who, e.kind, e.body FROM visit v, visit_event e "
                "WHERE v.id >= 1000 AND e.visit_id = 3",
                "INSERT INTO snapshot (visit_id, seq, at, who, made_by, body) SELECT v.id, s.seq, s.at, s.who, "
                "'visit', s.body FROM visit v, snapshot s WHERE v.id >= 1000 AND s.visit_id = 3",
                "COMMIT", "PRAGMA wal_checkpoint(TRUNCATE)"})
            exec(*big, QString::fromLatin1(sql)
                           .replace("%1", QString::number(clients))
                           .replace("%2", QString::number(visits_each)));
        std::cerr << "filled in " << timer.elapsed() / 1000 << " s, " << QFileInfo(name).size() / 1000000 << " MB\n";
        return name;
    }();
    return file;
}

std::shared_ptr<Store> lab()
{
    static const std::shared_ptr<Store> store = *Store::open(lab_file());
    return store;
}

void open_the_lab(benchmark::State& state)
{
    lab_file();
    for (auto _ : state) benchmark::DoNotOptimize(Store::open(lab_file()));
}
BENCHMARK(open_the_lab)->Unit(benchmark::kMillisecond);

void an_open_visit(benchmark::State& state)
{
    for (auto _ : state) benchmark::DoNotOptimize(lab()->open_visit());
}
BENCHMARK(an_open_visit)->Unit(benchmark::kMillisecond);

void search_a_name(benchmark::State& state)
{
    for (auto _ : state) {
        lab()->count_clients("family", true); // as if another word had been searched before
        benchmark::DoNotOptimize(lab()->find_clients("family97 given1", 30));
    }
}
BENCHMARK(search_a_name)->Unit(benchmark::kMillisecond);

void visits_as_told(benchmark::State& state)
{
    long client = 0;
    for (auto _ : state) {
        const long id = 101 + client++ * 37 % clients;
        benchmark::DoNotOptimize(lab()->visits_of(id));
        if (lab()->snapshots_of(id).size() != visits_each) state.SkipWithError("not all were told");
    }
}
BENCHMARK(visits_as_told)->Unit(benchmark::kMillisecond);

void visits_replayed(benchmark::State& state)
{
    long client = 0;
    for (auto _ : state)
        for (const VisitRow& row : lab()->visits_of(101 + client++ * 37 % clients)) {
            const auto visit = lab()->replay(row.id);
            benchmark::DoNotOptimize(visit->result());
        }
}
BENCHMARK(visits_replayed)->Unit(benchmark::kMillisecond);

void last_mass(benchmark::State& state)
{
    long client = 0;
    for (auto _ : state) benchmark::DoNotOptimize(lab()->last_mass(101 + client++ * 37 % clients));
}
BENCHMARK(last_mass)->Unit(benchmark::kMillisecond);

} // namespace

int main(int argc, char** argv)
{
    QCoreApplication app(argc, argv);
    benchmark::Initialize(&argc, argv);
    benchmark::RunSpecifiedBenchmarks();
}
