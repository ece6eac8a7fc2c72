// SPDX-License-Identifier: GPL-3.0-or-later
// Accuracy of the calm-window reader on simulated trials with known truth, beside three plain alternatives.
// Usage: swing_accuracy [trials per behaviour, default 400] [seed, default 20261123] [--verbose]. Prints the tables of
// docs/calm-window.md.
#include "core/signal/swing.h"
#include "virtual/tank/swing_trace.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <future>
#include <map>
#include <vector>

using namespace fusain;
using swing::Sample;

namespace {

constexpr double checks_s[] = {3, 4, 5, 6, 8};
constexpr int check_count = 5;
constexpr double wrong_kg = 0.040; ///< a reading further off than this is a wrong acceptance

std::vector<double> last(const std::vector<Sample>& trace, double now, double seconds)
{
    std::vector<double> out;
    for (const Sample& s : trace)
        if (s.t_s <= now && s.t_s > now - seconds) out.push_back(s.kg);
    return out;
}

double mean_last_3s(const std::vector<Sample>& trace, double now)
{
    double sum = 0;
    const auto part = last(trace, now, 3);
    for (double kg : part) sum += kg;
    return sum / static_cast<double>(part.size());
}

double median_last_3s(const std::vector<Sample>& trace, double now)
{
    auto part = last(trace, now, 3);
    std::nth_element(part.begin(), part.begin() + static_cast<long>(part.size() / 2), part.end());
    return part[part.size() / 2];
}

/// Middle between the last crest and the last trough of the smoothed trace.
double last_midpoint(const std::vector<Sample>& trace, double now)
{
    std::vector<Sample> smooth;
    const double half = 0.10;
    std::size_t a = 0, b = 0;
    double sum = 0;
    for (std::size_t i = 0; i < trace.size() && trace[i].t_s <= now; ++i) {
        while (b < trace.size() && trace[b].t_s <= std::min(now, trace[i].t_s + half)) sum += trace[b++].kg;
        while (trace[a].t_s < trace[i].t_s - half) sum -= trace[a++].kg;
        smooth.push_back({trace[i].t_s, sum / static_cast<double>(b - a)});
    }
    double crest = NAN, trough = NAN;
    for (std::size_t i = smooth.size(); i-- > 1 && (std::isnan(crest) || std::isnan(trough));) {
        const double t = smooth[i].t_s;
        bool is_max = t < now - half && t > half, is_min = is_max;
        for (std::size_t j = 0; j < smooth.size() && (is_max || is_min); ++j) {
            if (std::abs(smooth[j].t_s - t) > 0.25) continue;
            is_max = is_max && smooth[j].kg <= smooth[i].kg;
            is_min = is_min && smooth[j].kg >= smooth[i].kg;
        }
        if (is_max && std::isnan(crest)) crest = smooth[i].kg;
        if (is_min && std::isnan(trough)) trough = smooth[i].kg;
    }
    return (crest + trough) / 2;
}

struct Trial {
    virt::Swing truth;
    bool accepted = false;
    std::string code;
    double error = NAN, u = NAN, earliest = NAN, first_error = NAN;
    double ours[check_count], plain[3][check_count];
    bool standing[check_count];
};

Trial run(const virt::Swing& truth)
{
    Trial out;
    out.truth = truth;
    const std::vector<Sample> trace = virt::make_trace(truth);
    swing::Reader reader;
    int c = 0;
    bool had = false;
    for (const Sample& s : trace) {
        while (c < check_count && s.t_s >= checks_s[c]) {
            out.ours[c] = reader.state().estimate ? reader.state().estimate->kg - truth.level_kg : NAN;
            out.standing[c] = reader.state().reading.has_value();
            out.plain[0][c] = mean_last_3s(trace, checks_s[c]) - truth.level_kg;
            out.plain[1][c] = median_last_3s(trace, checks_s[c]) - truth.level_kg;
            out.plain[2][c] = last_midpoint(trace, checks_s[c]) - truth.level_kg;
            ++c;
        }
        reader.add(s);
        if (!had && reader.state().reading) {
            had = true;
            out.first_error = reader.state().reading->kg - truth.level_kg;
        }
    }
    const swing::State& end = reader.finish();
    out.accepted = end.reading.has_value();
    if (out.accepted) {
        out.error = end.reading->kg - truth.level_kg;
        out.u = end.reading->u_kg;
        out.earliest = end.reading->earliest_s;
    } else {
        out.code = end.messages.empty() ? "none" : end.messages.front().code;
    }
    return out;
}

double percentile(std::vector<double> v, double p)
{
    std::erase_if(v, [](double x) { return std::isnan(x); });
    if (v.empty()) return NAN;
    std::sort(v.begin(), v.end());
    return v[std::min(v.size() - 1, static_cast<std::size_t>(p * static_cast<double>(v.size())))];
}

} // namespace

int main(int argc, char** argv)
{
    const int per = argc > 1 ? std::atoi(argv[1]) : 400;
    const bool verbose = !std::strcmp(argv[argc - 1], "--verbose");
    std::mt19937_64 random(
        argc > 2 && std::atoll(argv[2]) > 0 ? static_cast<std::uint64_t>(std::atoll(argv[2])) : 20261123);
    std::vector<virt::Swing> truths;
    for (virt::Behaviour b : virt::all_behaviours)
        for (int i = 0; i < (b == virt::Behaviour::calm ? 2 * per : per); ++i)
            truths.push_back(virt::random_swing(b, random));

    std::vector<Trial> trials(truths.size());
    const auto part = [&](std::size_t first) {
        for (std::size_t i = first; i < truths.size(); i += 2) trials[i] = run(truths[i]);
    };
    auto other = std::async(std::launch::async, part, 1);
    part(0);
    other.get();

    std::printf("%zu trials\n\n| behaviour | n | accepted | median error g | 95th pct g | off by > 40 g | time to "
                "reading s (median, 95th) | refused as |\n|---|---|---|---|---|---|---|---|\n",
        trials.size());
    for (virt::Behaviour b : virt::all_behaviours) {
        std::vector<double> error, earliest;
        std::map<std::string, int> codes;
        int n = 0, wrong = 0;
        for (const Trial& t : trials) {
            if (t.truth.behaviour != b) continue;
            ++n;
            if (t.accepted) {
                error.push_back(std::abs(t.error));
                earliest.push_back(t.earliest);
                wrong += std::abs(t.error) > wrong_kg;
                if (verbose && std::abs(t.error) > wrong_kg)
                    std::printf("# %s err %.3f u %.3f earliest %.1f f %.2f A %.2f tau %.1f drag %.2f event %.1f s %.2f "
                                "kg bubbles %.3f %.1f sway %.3f\n",
                        word(b), t.error, t.u, t.earliest, t.truth.frequency_hz, t.truth.amplitude_kg, t.truth.decay_s,
                        t.truth.quadratic_drag, t.truth.event_s, t.truth.event_kg, t.truth.bubbles_kg,
                        t.truth.bubbles_s, t.truth.sway_kg);
            } else {
                ++codes[t.code];
            }
        }
        std::string refused;
        for (const auto& [code, count] : codes)
            refused += (refused.empty() ? "" : ", ") + code + " " + std::to_string(count);
        std::printf("| %s | %d | %zu | %.1f | %.1f | %d (%.2f %%) | %.1f, %.1f | %s |\n", word(b), n, error.size(),
            1000 * percentile(error, 0.5), 1000 * percentile(error, 0.95), wrong, 100.0 * wrong / n,
            percentile(earliest, 0.5), percentile(earliest, 0.95), refused.c_str());
    }
    const char* names[] = {"mean of the last 3 s", "median of the last 3 s", "midpoint of the last swing"};
    std::printf("\nCalm and late-jerk trials, 95th percentile (median) of |error| in g, by seconds since letting "
                "go\n\n| reader | 3 s | 4 s | 5 s | 6 s | 8 s |\n|---|---|---|---|---|---|\n");
    const auto row = [&](const char* name, auto pick) {
        std::printf("| %s |", name);
        for (int c = 0; c < check_count; ++c) {
            std::vector<double> e;
            for (const Trial& t : trials)
                if (t.truth.behaviour == virt::Behaviour::calm || t.truth.behaviour == virt::Behaviour::late_jerk)
                    e.push_back(std::abs(pick(t, c)));
            std::printf(" %.0f (%.0f) |", 1000 * percentile(e, 0.95), 1000 * percentile(e, 0.5));
        }
        std::printf("\n");
    };
    row("Fusain, whatever it thinks then", [](const Trial& t, int c) { return t.ours[c]; });
    row("Fusain, where the reading stands", [](const Trial& t, int c) { return t.standing[c] ? t.ours[c] : NAN; });
    for (int m = 0; m < 3; ++m) row(names[m], [m](const Trial& t, int c) { return t.plain[m][c]; });
    std::printf("| share of calm trials with a reading |");
    for (int c = 0; c < check_count; ++c) {
        int n = 0, k = 0;
        for (const Trial& t : trials)
            if (t.truth.behaviour == virt::Behaviour::calm) ++n, k += t.standing[c];
        std::printf(" %.0f %% |", 100.0 * k / n);
    }
    std::vector<double> z, first;
    for (const Trial& t : trials)
        if (t.accepted && t.truth.behaviour == virt::Behaviour::calm)
            z.push_back(std::abs(t.error) / t.u), first.push_back(std::abs(t.first_error));
    std::printf("\n\nCalm: |error|/u median %.2f (0.67 ideal), 95th %.2f (1.96 ideal); error of the first word given: "
                "median %.1f g, 95th %.1f g\n",
        percentile(z, 0.5), percentile(z, 0.95), 1000 * percentile(first, 0.5), 1000 * percentile(first, 0.95));
}
