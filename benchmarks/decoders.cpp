// SPDX-License-Identifier: GPL-3.0-or-later
// How long a frame takes by every decoder that ships, and by patterns that are meant to hang a program: those get 256
// bytes that nearly match.
#include "bench/lines/decoders/foreign_line.h"
#include "virtual/foreign/interpreter.h"

#include <benchmark/benchmark.h>

using namespace fusain;
using namespace fusain::bench;

namespace {

std::shared_ptr<const Decoder> of_pattern(const std::string& pattern)
{
    Decoder d;
    d.id = "hostile";
    d.pattern = pattern;
    d.frame.end = "\n";
    d.values.push_back({"value", "", "", "kg", {}, 1});
    return std::make_shared<const Decoder>(d);
}

void frames(benchmark::State& state, std::shared_ptr<const Decoder> decoder, const std::string& bytes)
{
    ForeignLine line(decoder, decoder->is_open() ? std::optional(decoder->may_feed().front()) : std::nullopt);
    std::vector<Reading> out;
    double now = 0;
    for (auto _ : state) {
        out.clear();
        line.feed(bytes, now += 0.02, out);
        benchmark::DoNotOptimize(out.data());
    }
    state.counters["understood"] = static_cast<double>(line.health().frames > 0);
}

} // namespace

int main(int argc, char** argv)
{
    for (const auto& d : shipped_decoders()) {
        if (d->says.text.empty()) continue;
        const Channel channel = d->is_open() ? d->may_feed().front() : d->feeds({}).front();
        virt::Interpreter says(d, d->is_open() ? std::optional(channel) : std::nullopt);
        says.say({channel, 0, 0, 2.0, false, false, {31, 50}, row(channel).more.size()});
        Reading r{channel, 1, 1, 12.345, true, false, {31, 50}, row(channel).more.size()};
        std::string bytes = says.say(r);
        if (d->when == Decoder::When::asked) bytes = says.hear(d->ask);
        benchmark::RegisterBenchmark(d->id.c_str(), [d, bytes](benchmark::State& s) { frames(s, d, bytes); });
    }
    const std::string nearly = std::string(255, 'a') + "\n";
    for (const char* pattern : {"(?P<value>(a+)+)b", "(?P<value>(a|aa)+)c", "(?P<value>(.*)*)x",
             "(?P<value>(a?){200}a{200})b", "((((((((((?P<value>a*)*)*)*)*)*)*)*)*)*)d"})
        benchmark::RegisterBenchmark((std::string("hostile ") + pattern).c_str(),
            [pattern, nearly](benchmark::State& s) { frames(s, of_pattern(pattern), nearly); });
    benchmark::Initialize(&argc, argv);
    benchmark::RunSpecifiedBenchmarks();
}
