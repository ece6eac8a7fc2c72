// SPDX-License-Identifier: GPL-3.0-or-later
// Virtual clients of known truth on the virtual analyser, over its line: how well arc, fat-free mass, water and
// segments come out, what repeats, and which faults are seen. What agreement with a virtual body means:
// docs/impedance-signal.md.
#include "bench/analyser/analyser_take.h"
#include "bench/files/profile_file.h"
#include "core/impedance/impedance.h"
#include "virtual/analyser/analyser.h"

#include <CLI/CLI.hpp>

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <functional>
#include <map>

using namespace fusain;
using impedance::Segment;

namespace {

struct Sum {
    double n = 0, sum = 0, squares = 0;
    std::vector<double> sizes;
    void add(double x)
    {
        ++n;
        sum += x;
        squares += x * x;
        sizes.push_back(std::abs(x));
    }
    double mean() const { return sum / n; }
    double rms() const { return std::sqrt(squares / n); }
    double sd() const { return std::sqrt(std::max(0.0, squares / n - mean() * mean())); }
    double p95()
    {
        std::sort(sizes.begin(), sizes.end());
        return sizes[static_cast<std::size_t>(0.95 * static_cast<double>(sizes.size() - 1))];
    }
};

/// One client who is measured for a minute, through the line and its decoder.
struct Measured {
    bench::AnalyserShown shown;
    double seconds = 0; ///< until it could be taken
};
Measured measure(virt::Analyser& analyser, double& now_s, const virt::Body& body, bool stays = false)
{
    bench::LineDecoder decoder;
    bench::AnalyserTake take;
    std::vector<bench::Reading> readings;
    const auto listen = [&](double seconds) {
        now_s += seconds;
        const std::string bytes = analyser.advance_to(now_s);
        readings.clear();
        decoder.feed({bytes.data(), bytes.size()}, readings);
        for (const bench::Reading& r : readings) take.feed(r);
    };
    if (!stays) analyser.direct("stand");
    listen(5);
    if (!stays) analyser.direct("grip");
    listen(5);
    take.begin(bench::take::body, body.mass_kg());
    const double from = now_s;
    while (!take.now().complete && now_s - from < 120) listen(0.5);
    return {take.now(), now_s - from};
}

impedance::Input input_of(const virt::Body& body, const bench::AnalyserShown& shown)
{
    impedance::Input in;
    in.sex = body.sex;
    in.age_y = body.age_y;
    in.height_cm = body.height_cm;
    in.mass_kg = body.mass_kg();
    for (Segment s : impedance::all_segments) in.segments[index(s)] = shown.state.segments[index(s)].points;
    in.profile = bench::shipped_profile("stand_in_1");
    return in;
}

} // namespace

int main(int argc, char** argv)
{
    CLI::App app{"Accuracy of impedance on virtual clients"};
    int people = 1000, per_fault = 200;
    std::uint64_t seed = 4711;
    app.add_option("--people", people);
    app.add_option("--per-fault", per_fault);
    app.add_option("--seed", seed);
    CLI11_PARSE(app, argc, argv);
    std::mt19937_64 random(seed);

    Sum r0, rinf, seconds, water, outside, inside, lean[impedance::segment_count], share[impedance::segment_count],
        gap[2], repeats, steps;
    std::map<std::string, Sum> by_equation;
    int refused = 0;
    std::map<std::string, int> false_findings;
    for (int i = 0; i < people; ++i) {
        const virt::Body body = virt::somebody(random);
        virt::Analyser analyser(random());
        analyser.set_client(body);
        double now = 0;
        const Measured m = measure(analyser, now, body);
        const auto flesh = virt::flesh_of(body);
        bool again = false;
        for (const auto& f : m.shown.state.findings) {
            ++false_findings[impedance::row(f.fault).code];
            again = again || impedance::row(f.fault).again != impedance::Again::no;
        }
        refused += again;
        seconds.add(m.seconds);
        for (Segment s : impedance::all_segments)
            if (const auto& arc = m.shown.state.segments[index(s)].arc) {
                r0.add(100 * (arc->r0_ohm / flesh[index(s)].arc.r0_ohm - 1));
                rinf.add(100 * (arc->rinf_ohm / flesh[index(s)].arc.rinf_ohm - 1));
            }
        const auto in = input_of(body, m.shown);
        const auto result = impedance::compute(in, Detail::numbers);
        if (!result) continue;
        for (const impedance::Beside& b : impedance::beside(in))
            if (b.equation->what == impedance::Predicts::fat_free_mass)
                by_equation[b.equation->id].add(b.value - body.fat_free_mass_kg);
        water.add((*result)[quantity::total_body_water].value - body.water_kg() / 0.99371);
        if (result->find(quantity::extracellular_water)) {
            outside.add(
                (*result)[quantity::extracellular_water].value - body.outside_share() * body.water_kg() / 0.99371);
            inside.add((*result)[quantity::intracellular_water].value -
                       (1 - body.outside_share()) * body.water_kg() / 0.99371);
        }
        for (Segment s : impedance::all_segments)
            if (const Value* v = result->find(quantity::segment_lean[index(s)])) {
                lean[index(s)].add(v->value - flesh[index(s)].lean_kg);
                share[index(s)].add(100 * (v->value / flesh[index(s)].lean_kg - 1));
            }
        for (std::size_t k = 0; k < 2; ++k) {
            const auto& sides = impedance::pairs_of_sides[k];
            const Quantity& q = k == 0 ? quantity::arms_asymmetry : quantity::legs_asymmetry;
            if (const Value* v = result->find(q))
                gap[k].add(v->value - (flesh[index(sides.right)].lean_kg - flesh[index(sides.left)].lean_kg));
        }
        if (i < 200) { // the same client, standing still there, three times more
            Sum fat;
            fat.add((*result)[quantity::fat_percent].value);
            for (int k = 0; k < 3; ++k)
                if (const auto r =
                        impedance::compute(input_of(body, measure(analyser, now, body, true).shown), Detail::numbers))
                    fat.add((*r)[quantity::fat_percent].value);
            repeats.add(fat.sd() * std::sqrt(fat.n / (fat.n - 1)));
            Sum anew; // got off and stood there again
            for (int k = 0; k < 4; ++k) {
                analyser.direct("step_off");
                if (const auto r =
                        impedance::compute(input_of(body, measure(analyser, now, body).shown), Detail::numbers))
                    anew.add((*r)[quantity::fat_percent].value);
            }
            steps.add(anew.sd() * std::sqrt(anew.n / (anew.n - 1)));
        }
    }
    std::printf("%d virtual clients, seed %llu; %.1f s to a result\n\n", people, static_cast<unsigned long long>(seed),
        seconds.mean());
    std::printf("arc of a segment, six frequencies:   R0 %+.3f %% (95th %.3f)   Rinf %+.3f %% (95th %.3f)\n", r0.mean(),
        r0.p95(), rinf.mean(), rinf.p95());
    for (auto& [id, s] : by_equation)
        std::printf("fat-free mass by %-18s bias %+.2f kg, SD %.2f\n", id.c_str(), s.mean(), s.sd());
    std::printf("water by sun_2003                    bias %+.2f L, SD %.2f\n", water.mean(), water.sd());
    std::printf("outside / inside by moissl_2006      bias %+.2f, SD %.2f / bias %+.2f, SD %.2f L\n", outside.mean(),
        outside.sd(), inside.mean(), inside.sd());
    for (Segment s : impedance::all_segments)
        std::printf("lean of the %-10s               RMSE %.3f kg (%.2f %%), bias %+.3f\n", impedance::row(s).title,
            lean[index(s)].rms(), share[index(s)].rms(), lean[index(s)].mean());
    std::printf("right less left                      arms SD %.3f kg, legs SD %.3f kg\n", gap[0].sd(), gap[1].sd());
    std::printf("%% fat of the same standing client    SD %.3f\n", repeats.rms());
    std::printf("%% fat, off the platform and on again  SD %.3f\n", steps.rms());
    std::printf("refused without a fault              %d of %d (%.2f %%)\n", refused, people, 100.0 * refused / people);
    for (const auto& [code, n] : false_findings) std::printf("    %-24s %d\n", code.c_str(), n);

    std::printf("\n%-22s caught   as\n", "fault");
    for (const virt::AnalyserFaultRow& fault : virt::analyser_faults()) {
        int caught = 0;
        std::map<std::string, int> as;
        for (int i = 0; i < per_fault; ++i) {
            const virt::Body body = virt::somebody(random);
            virt::Analyser analyser(random());
            analyser.set_client(body);
            analyser.set(fault.fault, true);
            double now = 0;
            const Measured m = measure(analyser, now, body);
            caught += !m.shown.state.findings.empty();
            std::string all;
            for (const auto& f : m.shown.state.findings)
                all += (all.empty() ? "" : "+") + std::string(impedance::row(f.fault).code);
            ++as[all];
        }
        std::printf("%-22s %5.1f %%  ", fault.word, 100.0 * caught / per_fault);
        for (const auto& [code, n] : as) std::printf(" %s %d", code.empty() ? "nothing" : code.c_str(), n);
        std::puts("");
    }
}
