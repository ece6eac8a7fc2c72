// SPDX-License-Identifier: GPL-3.0-or-later
// How long the core takes: a whole hydrostatic computation with its story and without, a whole trace, and one sample of
// the live reader.
#include "core/density/hydrostatic.h"
#include "core/signal/swing.h"
#include "core/xray/scan.h"
#include "virtual/table/table.h"
#include "virtual/tank/swing_trace.h"

#include <benchmark/benchmark.h>

using namespace fusain;

namespace {

hydrostatic::Input an_input()
{
    hydrostatic::Input in;
    in.sex = Sex::male;
    in.age_y = 30;
    in.height_cm = 178;
    in.mass_kg = 75;
    in.trials_kg = {3.52, 3.60, 3.61, 3.58};
    in.water_temp_c = 34;
    in.lung = {hydrostatic::LungRoute::vital_capacity, 0, 5.8, false, 22, 755, ""};
    return in;
}

void compute(benchmark::State& state)
{
    const hydrostatic::Input in = an_input();
    for (auto _ : state) benchmark::DoNotOptimize(hydrostatic::compute(in));
}
BENCHMARK(compute)->Unit(benchmark::kMicrosecond);

void numbers(benchmark::State& state)
{
    const hydrostatic::Input in = an_input();
    for (auto _ : state) benchmark::DoNotOptimize(hydrostatic::compute(in, Detail::numbers));
}
BENCHMARK(numbers)->Unit(benchmark::kMicrosecond);

std::vector<swing::Sample> a_trace()
{
    std::mt19937_64 random(7);
    return virt::make_trace(virt::random_swing(virt::Behaviour::calm, random));
}

void read_trace(benchmark::State& state)
{
    const auto trace = a_trace();
    for (auto _ : state) benchmark::DoNotOptimize(swing::read(trace));
}
BENCHMARK(read_trace)->Unit(benchmark::kMillisecond);

void live_sample(benchmark::State& state)
{
    const auto trace = a_trace();
    std::size_t i = 0;
    swing::Reader reader;
    for (auto _ : state) {
        if (i == trace.size()) {
            state.PauseTiming();
            reader = swing::Reader();
            i = 0;
            state.ResumeTiming();
        }
        reader.add(trace[i++]);
    }
}
BENCHMARK(live_sample)->Unit(benchmark::kMicrosecond);

/// A map of 1950 × 650 mm in 3 mm pixels.
const xray::Map& a_map()
{
    static const xray::Map map = [] {
        virt::Body body;
        return virt::scan(virt::lie_down(body, {}, 650, 1950, 3), virt::stand_in_table(), {}, {}, 1);
    }();
    return map;
}

void read_scan(benchmark::State& state)
{
    for (auto _ : state) benchmark::DoNotOptimize(xray::read(a_map(), virt::stand_in_table()));
}
BENCHMARK(read_scan)->Unit(benchmark::kMillisecond);

void drag_a_line(benchmark::State& state)
{
    const auto scan = *xray::read(a_map(), virt::stand_in_table());
    xray::Lines lines = scan.lines;
    for (auto _ : state) {
        lines.right_arm[1].x_mm += 0.01;
        benchmark::DoNotOptimize(xray::regions(scan.made_of, lines));
    }
}
BENCHMARK(drag_a_line)->Unit(benchmark::kMillisecond);

} // namespace

BENCHMARK_MAIN();
