// SPDX-License-Identifier: GPL-3.0-or-later
// How often "a real change" is said rightly, wrongly, and missed: bodies that change by the dynamic model, measured on
// five days of a year with the repeatability that is stated. docs/science/change.md.
#include "core/body/plan.h"
#include "core/quality/precision.h"
#include "core/time/change.h"
#include "core/time/repeatability.h"

#include <CLI/CLI.hpp>

#include <cmath>
#include <cstdio>
#include <random>

using namespace fusain;

namespace {

constexpr double edges[] = {0.02, 0.25, 0.5, 1, 1.5, 2, 1e9}; ///< true change over the least significant one
constexpr const char* names[] = {
    "none (under 0.02)", "to a quarter", "to a half", "to one", "to one and a half", "to two", "over two"};

struct Bin {
    int n = 0, right = 0, wrong = 0, noise = 0;
    void add(change::Verdict verdict, double truth)
    {
        ++n;
        if (verdict == change::Verdict::within_noise)
            ++noise;
        else
            ++((verdict == change::Verdict::rise) == (truth > 0) ? right : wrong);
    }
};

} // namespace

int main(int argc, char** argv)
{
    CLI::App options{"How often a real change is said rightly, wrongly, and missed"};
    int years = 2000;
    unsigned long seed = 20261126;
    options.add_option("--years", years, "Virtual client-years a method");
    options.add_option("--seed", seed, "");
    CLI11_PARSE(options, argc, argv);
    for (const char* method : {"absorptiometry", "air_displacement", "hydrostatic", "impedance"}) {
        std::mt19937_64 random(seed);
        const auto uniform = [&](double low, double high) {
            return std::uniform_real_distribution<>(low, high)(random);
        };
        Bin pairs[std::size(edges)], trends[2];
        for (int i = 0; i < years; ++i) {
            plan::Input in;
            in.body.sex = i % 2 ? Sex::male : Sex::female;
            in.body.age_y = uniform(20, 60);
            in.body.height_cm = in.body.sex == Sex::male ? 178 : 165;
            const double m2 = in.body.height_cm * in.body.height_cm / 1e4;
            in.body.fat_free_kg =
                m2 * uniform(in.body.sex == Sex::male ? 17 : 14.5, in.body.sex == Sex::male ? 21 : 17);
            in.body.fat_kg = m2 * uniform(4, 11);
            in.lean = plan::leans[i % 3].id;
            const double daily = plan::daily_kcal(in);
            // a third stays as it is, the others eat up to a quarter less or a tenth more
            const double intake = daily * (i % 3 == 0 ? 1 : uniform(0.75, 1.1));
            const auto truth = plan::at_intake(in, intake, 365);
            const auto percent = [&](int day) {
                const plan::Day& d = truth[static_cast<std::size_t>(day)];
                return 100 * d.fat_kg / d.mass_kg();
            };
            change::Series s;
            s.rms_sd = change::repeatability(quantity::fat_percent, method, {})->rms_sd;
            const int days[] = {0, 91, 182, 273, 364};
            const double own = uniform(-4, 4); // the method's own offset on this body: the same every time
            for (const int day : days)
                s.points.push_back({1440.0 * day + 480,
                    percent(day) + own + std::normal_distribution<>(0, s.rms_sd)(random), method, "I", "e", true});
            const auto told = change::compare(s);
            const double lsc = told->lsc;
            const auto count = [&](const change::Step& step) {
                const double change = percent(days[step.to]) - percent(days[step.from]);
                std::size_t bin = 0;
                while (std::abs(change) / lsc > edges[bin]) ++bin;
                pairs[bin].add(step.verdict, change);
            };
            for (const change::Step& step : told->steps) count(step);
            count(*told->since_first);
            const double year = percent(364) - percent(0);
            trends[std::abs(year) / lsc > edges[0]].add(told->trend.verdict, year);
        }
        std::printf("%s, least significant change %.2f %% fat\n", method,
            precision::change_factor * change::repeatability(quantity::fat_percent, method, {})->rms_sd);
        std::printf("  %-20s %8s %8s %8s %8s\n", "true change", "pairs", "right", "wrong", "noise");
        for (std::size_t i = 0; i < std::size(edges); ++i)
            if (const Bin& b = pairs[i]; b.n)
                std::printf("  %-20s %8d %7.1f%% %7.1f%% %7.1f%%\n", names[i], b.n, 100.0 * b.right / b.n,
                    100.0 * b.wrong / b.n, 100.0 * b.noise / b.n);
        for (const int changed : {0, 1})
            if (const Bin& b = trends[changed]; b.n)
                std::printf("  trend, %-13s %8d %7.1f%% %7.1f%% %7.1f%%\n", changed ? "a true one" : "level", b.n,
                    100.0 * b.right / b.n, 100.0 * b.wrong / b.n, 100.0 * b.noise / b.n);
    }
}
