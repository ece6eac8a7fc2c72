// SPDX-License-Identifier: GPL-3.0-or-later
// How long the core takes: a whole hydrostatic computation with its story and without, a whole trace, and one sample of
// the live reader.
#include "core/density/hydrostatic.h"
#include "core/signal/swing.h"
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

} // namespace

BENCHMARK_MAIN();
