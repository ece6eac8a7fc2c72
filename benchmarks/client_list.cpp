// SPDX-License-Identifier: GPL-3.0-or-later
// The client list at 20 000 clients: what a key in the search field costs (count and the first page), the first page of
// everybody, opening one record, the look for doubles.
#include "records/people/people.h"

#include <benchmark/benchmark.h>

#include <QCoreApplication>
#include <QTemporaryDir>

using namespace fusain::records;

namespace {

std::shared_ptr<Store> lab()
{
    static QTemporaryDir dir;
    static const std::shared_ptr<Store> store = [] {
        auto s = *Store::open(dir.path() + "/lab.fusain");
        const char* given[] = {"Aliénor", "Ewen", "Soazig", "Yannick", "Gwenn", "Tudual", "Maëlle", "Loeiza", "Nolwenn",
            "Brieuc", "Enora", "Alan", "Per-Jakez"};
        const char* family[] = {"Quéméner", "Le Dantec", "Morvan", "Kerloc'h", "Riou", "Pennec", "Salaün", "Abgrall",
            "Hascoët", "Nédélec", "Le Goff", "Guillou"};
        std::vector<Client> all;
        for (int i = 0; i < 20000; ++i) {
            Client c;
            c.given_name = QString::fromUtf8(given[i % 13]);
            c.family_name = QString::fromUtf8(family[i % 12]) + ' ' + QChar('A' + i % 26) + QChar('a' + i / 26 % 26);
            c.birth_date = QString("%1-%2-%3")
                               .arg(1950 + i % 55)
                               .arg(1 + i % 12, 2, 10, QChar('0'))
                               .arg(1 + i % 28, 2, 10, QChar('0'));
            c.height_cm = 150 + i % 45;
            c.role = "deckhand";
            c.phone = QString("0151 %1").arg(i, 5, 10, QChar('0'));
            all.push_back(c);
        }
        if (import_clients(*s, all)) std::abort();
        return s;
    }();
    return store;
}

void search_as_you_type(benchmark::State& state, const char* words)
{
    auto s = lab();
    int found = 0;
    for (auto _ : state) {
        s->count_clients(words, true); // as if another word had been searched before
        benchmark::DoNotOptimize(s->find_clients(words, 30));
        found = s->count_clients(words);
    }
    state.counters["found"] = found;
}
BENCHMARK_CAPTURE(search_as_you_type, everybody, "")->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(search_as_you_type, one_letter, "q")->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(search_as_you_type, a_name, "quem ali")->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(search_as_you_type, a_number, "4711")->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(search_as_you_type, nobody, "xyz")->Unit(benchmark::kMillisecond);

void next_page(benchmark::State& state)
{
    auto s = lab();
    for (auto _ : state) benchmark::DoNotOptimize(s->find_clients("", 30, 10000));
}
BENCHMARK(next_page)->Unit(benchmark::kMillisecond);

void look_for_doubles(benchmark::State& state)
{
    auto s = lab();
    Client c = s->find_clients("quem ali", 1).front();
    c.id = 0;
    for (auto _ : state) benchmark::DoNotOptimize(likely_same(*s, c));
}
BENCHMARK(look_for_doubles)->Unit(benchmark::kMillisecond);

} // namespace

int main(int argc, char** argv)
{
    QCoreApplication app(argc, argv);
    benchmark::Initialize(&argc, argv);
    benchmark::RunSpecifiedBenchmarks();
}
