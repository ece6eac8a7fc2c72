// SPDX-License-Identifier: GPL-3.0-or-later
// Does a precision study of 15 virtual clients find the stand-ins' true repeatability? Many studies, each through the
// instrument's line, its decoder and its reader; how often the truth lies inside the limits that each study states.
#include "bench/analyser/analyser_take.h"
#include "bench/tank/tank_take.h"
#include "core/density/hydrostatic.h"
#include "core/impedance/impedance.h"
#include "core/quality/distributions.h"
#include "core/quality/precision.h"
#include "core/quality/quality.h"
#include "virtual/analyser/analyser.h"
#include "virtual/tank/tank.h"

#include <CLI/CLI.hpp>

#include <cmath>
#include <cstdio>

using namespace fusain;

namespace {

/// An instrument in front of which one body stands; `fat_percent` places it anew and measures it.
struct OnAnalyser {
    virt::Analyser instrument;
    virt::Body body;
    double now_s = 0;
    OnAnalyser(const virt::Body& b, std::uint64_t seed) : instrument(seed), body(b) { instrument.set_client(b); }
    std::optional<double> fat_percent()
    {
        bench::LineDecoder decoder;
        bench::AnalyserTake take;
        std::vector<bench::Reading> readings;
        const auto listen = [&](double seconds) {
            now_s += seconds;
            const std::string bytes = instrument.advance_to(now_s);
            readings.clear();
            decoder.feed({bytes.data(), bytes.size()}, readings);
            for (const bench::Reading& r : readings) take.feed(r);
        };
        instrument.direct("step_off");
        listen(5);
        instrument.set_client(body); // hands and feet lie otherwise on the metal
        instrument.direct("stand");
        listen(5);
        instrument.direct("grip");
        listen(5);
        take.begin(bench::take::body, body.mass_kg());
        for (int i = 0; i < 240 && !take.now().complete; ++i) listen(0.5);
        impedance::Input in;
        in.sex = body.sex;
        in.age_y = body.age_y;
        in.height_cm = body.height_cm;
        in.mass_kg = body.mass_kg();
        for (impedance::Segment s : impedance::all_segments)
            in.segments[index(s)] = take.now().state.segments[index(s)].points;
        const auto result = impedance::compute(in, Detail::numbers);
        return result ? std::optional((*result)[quantity::fat_percent].value) : std::nullopt;
    }
};

struct InTank {
    virt::Tank instrument;
    virt::Body body;
    double now_s = 0;
    InTank(const virt::Body& b, std::uint64_t seed) : instrument(seed), body(b)
    {
        body.calm = std::max(body.calm, 0.6);
        body.learning = 0.4; // an experienced client: precision studies are made on people who know the test
    }
    std::optional<double> fat_percent()
    {
        bench::LineDecoder decoder;
        bench::TankTake take;
        std::vector<bench::Reading> readings;
        const auto listen = [&](double seconds) {
            now_s += seconds;
            const std::string bytes = instrument.advance_to(now_s);
            readings.clear();
            decoder.feed({bytes.data(), bytes.size()}, readings);
            for (const bench::Reading& r : readings) take.feed(r);
        };
        instrument.direct("client " + virt::to_text(body));
        instrument.direct("hang");
        listen(3);
        const auto zero = std::static_pointer_cast<const bench::TankShown>(take.state());
        hydrostatic::Input in;
        in.sex = body.sex;
        in.age_y = body.age_y;
        in.height_cm = body.height_cm;
        in.mass_kg = body.mass_kg();
        in.water_temp_c = 34.6;
        in.lung.residual_volume_l = body.residual_volume_l;
        in.gut_gas_l = body.gut_gas_l;
        for (int trial = 0; trial < 8; ++trial) {
            instrument.direct("under");
            take.begin(zero->mean_kg);
            listen(4);
            instrument.direct("let_go");
            take.mark();
            std::shared_ptr<const bench::TankShown> shown;
            for (int i = 0; i < 40; ++i) {
                listen(0.5);
                shown = std::static_pointer_cast<const bench::TankShown>(take.state());
                if (shown->swing.reading) break;
            }
            take.end();
            instrument.direct("up");
            listen(1);
            if (shown->swing.reading) in.trials_kg.push_back(shown->swing.reading->kg);
            if (trials::advise(in.trials_kg, *trials::find(in.trial_rule)).next == trials::Next::enough) break;
        }
        const auto result = hydrostatic::compute(in, Detail::numbers);
        return result ? std::optional((*result)[quantity::fat_percent].value) : std::nullopt;
    }
};

template <class Instrument>
std::vector<double> repeats(const virt::Body& body, int times, std::uint64_t seed)
{
    Instrument instrument(body, seed);
    std::vector<double> out;
    for (int i = 0; i < 4 * times && static_cast<int>(out.size()) < times; ++i)
        if (const auto fat = instrument.fat_percent()) out.push_back(*fat);
    return out;
}

template <class Instrument>
void study(const char* name, int runs, int people, int times, int many, std::uint64_t seed)
{
    std::mt19937_64 random(seed);
    // the truth: what repeats of many people differ by
    double squares = 0;
    std::vector<double> variances;
    for (int i = 0; i < many; ++i) {
        const auto own = repeats<Instrument>(virt::somebody(random), 8, random());
        const double sd = quality::spread(own).sd;
        squares += sd * sd;
        variances.push_back(sd * sd);
    }
    const double truth = std::sqrt(squares / many);
    int inside = 0, by_count = 0, under = 0;
    double sum = 0, worths = 0;
    for (int run = 0; run < runs; ++run) {
        precision::Input in{"fat_percent", {}, {}};
        for (int i = 0; i < people; ++i)
            in.repeats.push_back(repeats<Instrument>(virt::somebody(random), times, random()));
        const auto told = precision::compute(in);
        if (!told) continue;
        const double sd = (*told)[quantity::rms_sd].value, df = (*told)[quantity::degrees_of_freedom].value,
                     worth = precision::effective_degrees(in.repeats);
        const auto between = quality::sd_limits(sd, worth), counted = quality::sd_limits(sd, df);
        inside += truth >= between.low && truth <= between.high;
        by_count += truth >= counted.low && truth <= counted.high;
        under += truth <= precision::held_against(sd, 0, worth);
        worths += worth / runs;
        sum += sd / truth / runs;
    }
    std::printf("%-9s true repeatability %.4f %% fat (of %d people × 8; their own SDs vary by %.0f %%)\n", name, truth,
        many, 100 * quality::spread(variances).sd / (squares / many) / 2);
    std::printf(
        "          %d studies of %d × %d: inside the two-sided 95 %% limits %.1f %%, under the upper 95 %% limit "
        "%.1f %%, mean of RMS-SD / truth %.3f\n",
        runs, people, times, 100.0 * inside / runs, 100.0 * under / runs, sum);
}

} // namespace

int main(int argc, char** argv)
{
    CLI::App app{"Precision studies of virtual clients against the stand-ins' true repeatability"};
    int runs = 200, people = 15, times = 3, many = 150;
    std::uint64_t seed = 2026;
    app.add_option("--runs", runs);
    app.add_option("--people", people);
    app.add_option("--times", times);
    app.add_option("--many", many, "People by whom the truth is told");
    app.add_option("--seed", seed);
    CLI11_PARSE(app, argc, argv);
    study<OnAnalyser>("analyser", runs, people, times, many, seed);
    study<InTank>("tank", runs, people, times, many, seed);
    return 0;
}
