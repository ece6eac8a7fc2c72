// SPDX-License-Identifier: GPL-3.0-or-later
// How often "a real change" is said rightly, wrongly, and missed: bodies that change by the dynamic model, measured on
// five days of a year with the repeatability that is stated. docs/science/change.md.
#include "core/body/plan.h"
#include "core/quality/precision.h"
#include "core/time/change.h"
#include "core/time/repeatability.h"

#include <CLI/CLI.hpp>

#include <array>
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

/// Bodies that stay as they are: how often a change is called all the same. Percent fat scatters by the method's
/// default from day to day, body mass by 0.45 kg; where the lab has a study, its repeats within hours come on top.
struct Unchanged {
    const char* method;
    Sex sex;
    double mass_kg;
    bool study;
};

constexpr const Quantity* followed[] = {&quantity::body_mass, &quantity::fat_percent, &quantity::fat_mass,
    &quantity::fat_free_mass, &quantity::lean_soft_tissue, &quantity::fmi, &quantity::ffmi, &quantity::bmi,
    &quantity::region_lean[3]};
constexpr double placing_share = 0.6, mass_day_kg = 0.45, mass_hour_kg = 0.05, trunk_share = 0.47, study_mass_kg = 72;
constexpr int study_people = 15, study_repeats = 3;

/// What the quantity reads for a body's fat, fat-free mass and height.
double value_of(const Quantity& q, double fat_kg, double lean_kg, double m2)
{
    if (&q == &quantity::body_mass) return fat_kg + lean_kg;
    if (&q == &quantity::fat_percent) return 100 * fat_kg / (fat_kg + lean_kg);
    if (&q == &quantity::fat_mass) return fat_kg;
    if (&q == &quantity::fmi) return fat_kg / m2;
    if (&q == &quantity::ffmi) return lean_kg / m2;
    if (&q == &quantity::bmi) return (fat_kg + lean_kg) / m2;
    return &q == &quantity::region_lean[3] ? trunk_share * lean_kg : lean_kg;
}

/// Share of pairs that are called a change, per quantity; NaN where nothing is said of it.
std::vector<double> false_calls(const Unchanged& u, int pairs, std::mt19937_64& random)
{
    const double height_cm = u.sex == Sex::male ? 178 : 165, m2 = height_cm * height_cm / 1e4,
                 share = std::clamp((u.sex == Sex::male ? 0.18 : 0.28) + (u.mass_kg - 70) * 0.0022, 0.08, 0.55),
                 day = change::repeatability(quantity::fat_percent, u.method, {})->rms_sd,
                 placing = u.study ? placing_share * day : 0;
    const auto noise = [&](double sd) { return sd > 0 ? std::normal_distribution<>(0, sd)(random) : 0; };
    /// One test: what day and hour add to percent fat and mass, then fat and lean as an instrument tells them.
    const auto read = [&](double mass, double day_percent, double day_mass) {
        const double kg = mass + day_mass + (u.study ? noise(mass_hour_kg) : 0),
                     percent = 100 * share + day_percent + noise(placing);
        return std::pair{kg * percent / 100, kg * (1 - percent / 100)};
    };
    std::vector<double> out;
    for (const Quantity* q : followed) {
        int called = 0, judged = 0;
        for (int i = 0; i < pairs; ++i) {
            const auto test = [&] {
                const auto [fat, lean] = read(u.mass_kg, noise(day), noise(mass_day_kg));
                return std::array{fat, lean, value_of(*q, fat, lean, m2)};
            };
            const auto then = test(), now = test();
            const change::Measured on{now[0] + now[1], height_cm, now[2], 100 * now[0] / (now[0] + now[1])};
            std::optional<change::Repeatability> known = change::repeatability(*q, u.method, on);
            if (u.study && q != &quantity::body_mass) { // each pair has a study of its own: 15 people, 3 repeats
                double of_q = 0, of_percent = 0;
                for (int p = 0; p < study_people; ++p) {
                    std::array<double, study_repeats> a, b;
                    for (int k = 0; k < study_repeats; ++k) {
                        const auto [fat, lean] = read(study_mass_kg, 0, 0);
                        a[static_cast<std::size_t>(k)] = value_of(*q, fat, lean, m2);
                        b[static_cast<std::size_t>(k)] = value_of(quantity::fat_percent, fat, lean, m2);
                    }
                    const auto variance = [](const auto& v) {
                        double sum = 0, square = 0;
                        for (double x : v) sum += x, square += x * x;
                        return (square - sum * sum / study_repeats) / (study_repeats - 1);
                    };
                    of_q += variance(a) / study_people;
                    of_percent += variance(b) / study_people;
                }
                known = change::of_study(
                    *q, u.method, on, {std::sqrt(of_q), std::sqrt(of_percent), study_mass_kg, "study"});
            }
            if (!known) break;
            ++judged;
            called += std::abs(now[2] - then[2]) >= precision::change_factor * known->rms_sd;
        }
        out.push_back(judged ? 100.0 * called / judged : NAN);
    }
    return out;
}

void print_unchanged(int pairs, std::mt19937_64& random)
{
    std::printf("%-18s %-7s %-6s %5s", "nothing changed", "", "", "kg");
    for (const Quantity* q : followed) std::printf(" %20.20s", q->id);
    std::printf("\n");
    for (const char* method : {"absorptiometry", "air_displacement", "hydrostatic", "impedance"})
        for (const bool study : {false, true})
            for (const Sex sex : {Sex::female, Sex::male})
                for (const double mass : {45.0, 60.0, 90.0, 120.0, 160.0, 220.0}) {
                    std::printf("%-18s %-7s %-6s %5.0f", method, study ? "study" : "default", word(sex), mass);
                    for (const double share : false_calls({method, sex, mass, study}, pairs, random))
                        std::isnan(share) ? std::printf(" %20s", "–") : std::printf(" %18.1f %%", share);
                    std::printf("\n");
                }
}

} // namespace

int main(int argc, char** argv)
{
    CLI::App options{"How often a real change is said rightly, wrongly, and missed"};
    int years = 2000;
    unsigned long seed = 20261126;
    options.add_option("--years", years, "Virtual client-years a method");
    options.add_option("--seed", seed, "");
    int unchanged = 0;
    options.add_option("--unchanged", unchanged, "Instead: pairs a row of bodies that stay as they are");
    CLI11_PARSE(options, argc, argv);
    if (unchanged > 0) {
        std::mt19937_64 random(seed);
        print_unchanged(unchanged, random);
        return 0;
    }
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
