// SPDX-License-Identifier: GPL-3.0-or-later
// Accuracy of the chamber reader on simulated calibrations and runs with known truth, clean and with every fault.
// Usage: chamber_accuracy [clean runs, default 1200] [runs per fault, default 400] [seed] [--plain]. Prints the tables
// of docs/chamber-signal.md.
#include "virtual/chamber/chamber_air.h"

#include <algorithm>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <future>
#include <map>

using namespace fusain;
using virt::ChamberFault;

namespace {

constexpr double run_s = 25;
bool plain_air = false; ///< --plain: as before drive, harmonics, heart and sensors were modelled

virt::Body someone(std::mt19937_64& r)
{
    const auto uniform = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(r); };
    virt::Body b;
    b.sex = uniform(0, 1) < 0.5 ? Sex::female : Sex::male;
    b.age_y = uniform(18, 70);
    b.height_cm = b.sex == Sex::male ? uniform(162, 198) : uniform(150, 185);
    const double height2 = b.height_cm * b.height_cm / 1e4;
    b.fat_mass_kg = height2 * uniform(1.5, 16);
    b.fat_free_mass_kg = height2 * (b.sex == Sex::male ? uniform(16, 24) : uniform(13.5, 19));
    b.frc_l = b.quiet_lungs_l() * uniform(0.75, 1.25);
    b.tidal_l = b.tidal_breath_l() * uniform(0.5, 1.5);
    b.breaths_per_min = uniform(9, 22);
    b.skin = uniform(0.9, 1.1);
    return b;
}

struct Run {
    double error_l = 0, u_l = 0, u_run_l = 0;
    chamber::Fault fault = chamber::Fault::none;
};

/// A calibration and one run of a new client in a new chamber; the fault comes with the run.
Run one(std::uint64_t seed, ChamberFault fault, const char* special)
{
    std::mt19937_64 random(seed);
    const auto uniform = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(random); };
    virt::ChamberBuild build;
    build.test_l = uniform(380, 520);
    build.reference_l = uniform(250, 340);
    build.gain_test = uniform(0.98, 1.02);
    build.gain_reference = uniform(0.98, 1.02);
    build.noise_pa = uniform(0.01, 0.06);
    build.drive_error = build.second = build.third = build.heartbeat_pa = build.quantum_pa = build.stiffening_per_pa =
        0;
    if (!plain_air) {
        build.stiffening_per_pa = 1e-5;
        build.drive_error = uniform(-0.01, 0.01);
        build.second = uniform(0, 0.03);
        build.third = uniform(0, 0.02);
        build.heartbeat_pa = uniform(0, 0.2);
        build.beats_per_min = uniform(48, 98);
        build.wall_l = uniform(0.13, 0.45); // 40 to 140 Pa in an empty chamber
        if (uniform(0, 1) < 0.5)
            build.quantum_pa = 4 * std::max(50.0, 450 * build.wall_l) / 4096; // 12 bit over twice the swing and more
    }
    const double rates[] = {60, 80, 100, 125, 250, 500};
    const double rate = rates[random() % std::size(rates)], cylinder_l = uniform(49.5, 50.5), jitter = uniform(0, 0.2);
    virt::ChamberAir air(build, seed);
    const chamber::Options plain;
    const auto empty = chamber::read(virt::record(air, 0, run_s, rate, jitter), plain);
    air.set_cylinder(cylinder_l);
    const auto cylinder = chamber::read(virt::record(air, 30, run_s, rate, jitter), plain);
    air.set_cylinder(0);
    Run out;
    const auto calibration = chamber::calibrate(empty, cylinder, cylinder_l);
    if (!calibration) {
        out.fault = chamber::Fault::too_short; // counted as refused
        return out;
    }
    const virt::Body body = someone(random);
    air.set_client(&body);
    if (fault != ChamberFault::none) air.set(fault, true);
    double length = run_s;
    if (std::strcmp(special, "too short") == 0) length = uniform(2, 9);
    const double from = 60;
    auto run = virt::record(air, from, length, rate, jitter);
    if (std::strcmp(special, "door opened") == 0) {
        const double at = uniform(1, length - 1);
        for (auto& s : run)
            if (s.t_s > at && s.t_s < at + 1.5) s = {s.t_s, 0, s.reference_pa, true};
    }
    const auto state = chamber::read(run, chamber::options_of(*calibration));
    out.fault = state.fault;
    if (state.ratio) {
        const auto r = chamber::reading_of(*state.ratio, *calibration);
        out.error_l = r.volume_l - air.true_raw_l();
        out.u_l = r.u_l;
        out.u_run_l = r.u_run_l;
    }
    return out;
}

std::vector<Run> many(int n, std::uint64_t seed, ChamberFault fault, const char* special)
{
    std::vector<std::future<std::vector<Run>>> parts;
    for (int part = 0; part < 2; ++part)
        parts.push_back(std::async(std::launch::async, [=] {
            std::vector<Run> out;
            for (int i = part; i < n; i += 2)
                out.push_back(one(seed + static_cast<std::uint64_t>(i) * 7919, fault, special));
            return out;
        }));
    std::vector<Run> all;
    for (auto& p : parts)
        for (const Run& r : p.get()) all.push_back(r);
    return all;
}

} // namespace

int main(int argc, char** argv)
{
    std::vector<long> numbers;
    for (int i = 1; i < argc; ++i)
        if (std::strcmp(argv[i], "--plain") == 0)
            plain_air = true;
        else
            numbers.push_back(std::atol(argv[i]));
    const int clean_runs = numbers.size() > 0 ? static_cast<int>(numbers[0]) : 1200,
              fault_runs = numbers.size() > 1 ? static_cast<int>(numbers[1]) : 400;
    const auto seed = static_cast<std::uint64_t>(numbers.size() > 2 ? numbers[2] : 20261124);

    const auto clean = many(clean_runs, seed, ChamberFault::none, "");
    std::vector<double> error;
    double sum = 0, squares = 0, claimed = 0, claimed_run = 0, within = 0;
    std::map<std::string, int> refused;
    for (const Run& r : clean) {
        if (r.fault != chamber::Fault::none) {
            ++refused[chamber::row(r.fault).code];
            continue;
        }
        error.push_back(std::abs(r.error_l));
        sum += r.error_l;
        squares += r.error_l * r.error_l;
        claimed += r.u_l * r.u_l;
        claimed_run += r.u_run_l * r.u_run_l;
        within += std::abs(r.error_l) <= 2 * r.u_l;
    }
    const double n = static_cast<double>(error.size()), mean = sum / n;
    std::sort(error.begin(), error.end());
    std::printf(
        "clean runs of 25 s, each with its own client, chamber, noise, rate (60 to 500 Hz) and calibration: %d\n",
        clean_runs);
    std::printf("| bias L | SD L | 95th percentile of |error| L | largest L | claimed u L, of the run | with the "
                "cylinder's | within 2u | false refusals |\n|---|---|---|---|---|---|---|---|\n");
    std::printf("| %+.4f | %.4f | %.4f | %.4f | %.4f | %.4f | %.1f %% | %.2f %% |\n", mean,
        std::sqrt(squares / n - mean * mean), error[static_cast<std::size_t>(0.95 * n)], error.back(),
        std::sqrt(claimed_run / n), std::sqrt(claimed / n), 100 * within / n, 100 * (clean_runs - n) / clean_runs);
    for (const auto& [code, count] : refused) std::printf("  refused as %s: %d\n", code.c_str(), count);

    struct Row {
        const char* words;
        ChamberFault fault;
        const char* special;
    };
    const Row rows[] = {
        {"door leaks", ChamberFault::door_leaks, ""},
        {"client moves", ChamberFault::client_moves, ""},
        {"client coughs", ChamberFault::client_coughs, ""},
        {"door slams in the room", ChamberFault::room_door, ""},
        {"draught", ChamberFault::draught, ""},
        {"sensor clipped", ChamberFault::clipped, ""},
        {"sensors warming up", ChamberFault::warming_up, ""},
        {"door opened", ChamberFault::none, "door opened"},
        {"too short", ChamberFault::none, "too short"},
    };
    std::printf("\n| fault | runs | caught | accepted | worst error accepted L | said |\n|---|---|---|---|---|---|\n");
    for (const Row& row : rows) {
        int accepted = 0;
        double worst = 0;
        std::map<std::string, int> said;
        for (const Run& r : many(fault_runs, seed + 99, row.fault, row.special)) {
            if (r.fault == chamber::Fault::none) {
                ++accepted;
                worst = std::max(worst, std::abs(r.error_l));
            } else {
                ++said[chamber::row(r.fault).code];
            }
        }
        std::string list;
        for (const auto& [code, count] : said) list += (list.empty() ? "" : ", ") + code + " " + std::to_string(count);
        std::printf("| %s | %d | %.2f %% | %d | %.3f | %s |\n", row.words, fault_runs,
            100.0 * (fault_runs - accepted) / fault_runs, accepted, worst, list.c_str());
    }
    return 0;
}
