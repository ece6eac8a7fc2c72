// SPDX-License-Identifier: GPL-3.0-or-later
// Where the time of a batch goes: the whole record, parsing and reading alone (a record that is refused at once),
// writing alone. The core's own share is `numbers` in core_speed.
#include "cli/batch/record.h"

#include <benchmark/benchmark.h>

using namespace fusain;

namespace {

const std::string record =
    R"({"id":"A1","method":"hydrostatic","sex":"male","age_y":30,"height_cm":178,"mass_kg":75,)"
    R"("hydrostatic":{"trials_kg":[3.52,3.60,3.61,3.58],"water_temp_c":34,"lung":{"source":"vital_capacity",)"
    R"("vital_capacity_l":5.8,"conditions":"ATPS","gas_temp_c":22,"barometric_mmhg":755}}})";

void whole_record(benchmark::State& state)
{
    cli::Computer computer;
    std::string out;
    for (auto _ : state) {
        out.clear();
        cli::write_json(out, computer.compute(record, 1), false);
    }
}
BENCHMARK(whole_record)->Unit(benchmark::kMicrosecond);

void parse_alone(benchmark::State& state)
{
    cli::Computer computer;
    std::string impossible = record; // everything is read and nothing computed
    impossible.replace(impossible.find("\"male\""), 6, "\"mole\"");
    for (auto _ : state) benchmark::DoNotOptimize(&computer.compute(impossible, 1));
}
BENCHMARK(parse_alone)->Unit(benchmark::kMicrosecond);

void write_alone(benchmark::State& state)
{
    cli::Computer computer;
    const cli::Answer answer = computer.compute(record, 1);
    std::string out;
    for (auto _ : state) {
        out.clear();
        cli::write_json(out, answer, false);
    }
}
BENCHMARK(write_alone)->Unit(benchmark::kMicrosecond);

} // namespace

BENCHMARK_MAIN();
