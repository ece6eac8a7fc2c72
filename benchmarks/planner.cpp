// SPDX-License-Identifier: GPL-3.0-or-later
// The planner on a day of 40 visits over 6 instruments (docs/planning.md): time of one proposal, and of planning the
// whole day with 0, 10 and 40 rounds of taking apart; counters: visits placed, minutes of waiting in all.
#include "core/before/schedule.h"

#include <benchmark/benchmark.h>

using namespace fusain::schedule;

namespace {

constexpr Minute d0 = 20000 * 1440;
constexpr Minute at(int h, int m = 0) { return d0 + h * 60 + m; }

Lab lab()
{
    const std::vector<Span> open{{at(7), at(19)}};
    Lab l;
    l.instruments = {
        {"B1", "Analyser 1", method::impedance, open, {{"switch on", 15}}, {}, 5, 0},
        {"B2", "Analyser 2", method::impedance, open, {{"switch on", 15}}, {}, 5, 0},
        {"X1", "X-ray", method::absorptiometry, open, {{"phantom", 15}}, {}, 15, 5},
        {"C1", "Chamber", method::air_displacement, open, {{"warm up", 30}}, {{"calibrate", 5}}, 10, 0},
        {"T1", "Tank 1", method::hydrostatic, open, {{"clean, fill, zero", 210}}, {}, 40, 10},
        {"T2", "Tank 2", method::hydrostatic, open, {{"clean, fill, zero", 210}}, {}, 40, 10},
    };
    const std::vector<Span> early{{at(3, 30), at(19)}};
    l.staff = {{"A", early, {method::absorptiometry}}, {"B", early, {method::absorptiometry}}, {"C", open, {}},
        {"D", open, {}}, {"E", open, {}}};
    return l;
}

/// 40 visits, 84 tests: what a season's check of a service looks like.
std::vector<Request> day()
{
    std::vector<Request> out;
    for (long i = 0; i < 40; ++i) {
        Request r;
        r.client = i + 1;
        constexpr Method I = method::impedance, X = method::absorptiometry, A = method::air_displacement,
                         H = method::hydrostatic;
        const std::vector<std::vector<Method>> kinds = {{I, A}, {I, X, A}, {I, A, H}, {I, X}, {I, H}};
        r.methods = kinds[static_cast<std::size_t>(i % 5)];
        r.window = {at(7), at(19)};
        r.midnights = {d0};
        r.now = d0;
        out.push_back(r);
    }
    return out;
}

void propose_one(benchmark::State& state)
{
    Lab l = lab();
    const auto requests = day();
    const Plan plan = plan_day(l, requests, 0);
    for (std::size_t i = 0; i < requests.size(); ++i)
        if (plan.visits[i]) l.tests.insert(l.tests.end(), plan.visits[i]->parts.begin(), plan.visits[i]->parts.end());
    Request r = day()[2];
    r.client = 99;
    r.window = {at(7), at(19) + 13 * 1440};
    for (int d = 1; d < 14; ++d) r.midnights.push_back(d0 + d * 1440);
    for (auto& i : l.instruments)
        for (int d = 1; d < 14; ++d) i.open.push_back({at(7) + d * 1440, at(19) + d * 1440});
    for (auto& p : l.staff)
        for (int d = 1; d < 14; ++d) p.here.push_back({p.here[0].from + d * 1440, p.here[0].to + d * 1440});
    for (auto _ : state) benchmark::DoNotOptimize(propose(l, r));
}
BENCHMARK(propose_one)->Unit(benchmark::kMillisecond);

void plan_the_day(benchmark::State& state)
{
    const Lab l = lab();
    const auto requests = day();
    Plan plan;
    for (auto _ : state) plan = plan_day(l, requests, static_cast<int>(state.range(0)));
    state.counters["placed"] = plan.placed;
    state.counters["wait_min"] = plan.wait_min;
}
BENCHMARK(plan_the_day)->Arg(0)->Arg(10)->Arg(40)->Arg(200)->Unit(benchmark::kMillisecond)->Iterations(1);

} // namespace

BENCHMARK_MAIN();
