// SPDX-License-Identifier: GPL-3.0-or-later
// Virtual clients of known truth on the virtual X-ray table: what the reader makes of their maps, whole and by region,
// with their own lines and with those it places, what repeats, and which faults are seen. docs/scan-reading.md.
#include "bench/files/scan_file.h"
#include "core/xray/scan.h"
#include "virtual/table/table.h"

#include <CLI/CLI.hpp>

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <fstream>
#include <map>

using namespace fusain;

namespace {

struct Sum {
    std::vector<double> all;
    void add(double x) { all.push_back(x); }
    double mean() const
    {
        double s = 0;
        for (double x : all) s += x;
        return s / static_cast<double>(all.size());
    }
    double sd() const
    {
        double s = 0;
        for (double x : all) s += (x - mean()) * (x - mean());
        return std::sqrt(s / static_cast<double>(all.size()));
    }
    double p95() const
    {
        std::vector<double> sizes;
        for (double x : all) sizes.push_back(std::abs(x));
        std::sort(sizes.begin(), sizes.end());
        return sizes[static_cast<std::size_t>(0.95 * static_cast<double>(sizes.size() - 1))];
    }
};

struct Client {
    virt::Body body;
    virt::Posture posture;
    virt::Beam beam;
};
/// One in three heavy: up to 20 kg of fat a m², limbs that lie flatter, their muscle off the middle of the coat.
Client client(std::mt19937_64& random)
{
    const auto between = [&](double low, double high) {
        return std::uniform_real_distribution<double>(low, high)(random);
    };
    Client c;
    c.body.sex = between(0, 1) < 0.5 ? Sex::male : Sex::female;
    const bool man = c.body.sex == Sex::male;
    c.body.height_cm = between(man ? 165 : 154, man ? 188 : 178);
    const double m2 = c.body.height_cm * c.body.height_cm / 1e4;
    const bool heavy = between(0, 1) < 1 / 3.0;
    c.body.fat_free_mass_kg = m2 * between(man ? 16.5 : 13.8, (man ? 21.5 : 17.5) + (heavy ? 1.5 : 0));
    c.body.fat_mass_kg = m2 * (heavy ? between(9, 20) : between(man ? 2.2 : 3.6, man ? 9 : 11.5));
    c.posture.off_centre = between(-0.35, 0.35);
    c.posture.flat = between(0.8, 1.05);
    c.beam.low_photons_per_mm2 = std::exp(between(std::log(750.0), std::log(5900.0)));
    c.beam.high_photons_per_mm2 = c.beam.low_photons_per_mm2 * between(0.6, 1.2);
    for (double* limb : {&c.body.right_arm, &c.body.left_arm, &c.body.right_leg, &c.body.left_leg})
        *limb = between(0.94, 1.06);
    c.posture.centre_mm = between(-12, 12);
    c.posture.arms_out = between(0.8, 1.1);
    c.posture.turned_deg = between(-0.7, 0.7);
    c.posture.waist = between(0.92, 1.08);
    c.posture.hips = between(man ? 0.92 : 0.98, man ? 1.02 : 1.10);
    c.posture.coat_on_trunk = between(0.8, 1.25);
    c.posture.visceral_share = man ? between(0.08, 0.22) : between(0.04, 0.14);
    c.posture.bone_share = between(0.046, 0.056);
    return c;
}

/// Errors in percent of the truth, and in grams.
struct Errors {
    std::map<std::string, Sum> percent, grams;
    void add(const std::string& what, double got, double truth)
    {
        percent[what].add(100 * (got / truth - 1));
        grams[what].add(got - truth);
    }
    void add(const std::string& region, const xray::Mass& got, const xray::Mass& truth)
    {
        add(region + " fat", got.fat_g, truth.fat_g);
        add(region + " lean", got.lean_g, truth.lean_g);
        add(region + " bone", got.bmc_g, truth.bmc_g);
    }
    void print(const char* title) const
    {
        std::printf("\n%s\n", title);
        for (const auto& [what, sum] : percent)
            std::printf("  %-16s bias %+6.2f %%  SD %5.2f  95th %5.2f %%   (%+6.0f g, SD %4.0f, 95th %4.0f)\n",
                what.c_str(), sum.mean(), sum.sd(), sum.p95(), grams.at(what).mean(), grams.at(what).sd(),
                grams.at(what).p95());
    }
};

/// How many values lie within what is asked for on maps by other hands: of the whole fat 5, lean 3, bone 4 %; of a
/// region 8, 5, 8 % or 150, 180, 15 g; of the head 20 % or 220 g; of a band 6, 6, 10 % or 80, 80, 15 g.
struct Met {
    std::map<std::string, std::pair<int, int>> by;
    void add(const std::string& id, const xray::Mass& got, const xray::Mass& truth)
    {
        const bool whole = id == "whole", head = id == "head", band = id == "android" || id == "gynoid";
        const auto one = [&](const char* what, double is, double should, double percent, double grams) {
            auto& [met, all] = by[id + what];
            met += std::abs(is - should) <= std::max(percent / 100 * should, grams);
            ++all;
        };
        one(" fat", got.fat_g, truth.fat_g,
            whole  ? 5
            : head ? 20
            : band ? 6
                   : 8,
            whole  ? 0
            : head ? 220
            : band ? 80
                   : 150);
        one(" lean", got.lean_g, truth.lean_g,
            whole  ? 3
            : head ? 20
            : band ? 6
                   : 5,
            whole  ? 0
            : head ? 220
            : band ? 80
                   : 180);
        one(" bone", got.bmc_g, truth.bmc_g, whole ? 4 : band ? 10 : 8, whole ? 0 : 15);
    }
    void print() const
    {
        int met = 0, all = 0;
        for (const auto& [id, n] : by) met += n.first, all += n.second;
        std::printf(
            "\nwithin the limits for other hands' maps: %d of %d = %.1f %%; missed by", met, all, 100.0 * met / all);
        for (const auto& [id, n] : by)
            if (n.first < n.second) std::printf(" · %s %d", id.c_str(), n.second - n.first);
        std::printf("\n");
    }
};

} // namespace

int main(int argc, char** argv)
{
    int people = 300, per_fault = 50;
    unsigned seed = 4711;
    double pixel = 5;
    std::string keep;
    CLI::App app{"How well two-energy maps of known truth are read"};
    app.add_option("--people", people);
    app.add_option("--per-fault", per_fault);
    app.add_option("--seed", seed);
    app.add_option("--pixel-mm", pixel);
    app.add_option("--keep", keep, "Write the first map to this file");
    CLI11_PARSE(app, argc, argv);

    std::mt19937_64 random(seed);
    const xray::Table table = virt::stand_in_table();
    Errors own, drawn, lines, repeat, organs;
    int refused = 0;
    Met met;
    std::map<std::string, int> why, cautioned;
    for (int i = 0; i < people; ++i) {
        const Client c = client(random);
        const auto truth = virt::lie_down(c.body, c.posture, table.field_width_mm, table.field_height_mm, pixel);
        const xray::Map map = virt::scan(truth, table, c.beam, {}, seed + static_cast<unsigned>(i));
        if (i == 0 && !keep.empty()) std::ofstream(keep, std::ios::binary) << bench::write_scan({map, {}});
        const auto read = xray::read(map, table);
        if (!read) {
            ++refused;
            ++why[read.messages().front().code];
            continue;
        }
        const xray::Regions t = truth.regions(truth.lines);
        for (const Message& m : read.messages()) ++cautioned[m.code];
        if (read->visceral) organs.add("visceral", read->visceral->mass_g, truth.visceral_g(read->lines));
        own.add("whole", xray::whole(read->regions), xray::whole(t));
        met.add("whole", xray::whole(read->regions), xray::whole(t));
        const xray::Regions by_true = xray::regions(read->made_of, truth.lines), cut = truth.regions(read->lines);
        for (std::size_t k = 0; k < xray::region_count; ++k) {
            const char* id = xray::region_rows[k].id;
            drawn.add(id, by_true[k], t[k]);
            met.add(id, by_true[k], t[k]);
            own.add(id, read->regions[k], t[k]);
            lines.add(std::string(id) + " soft", cut[k].fat_g + cut[k].lean_g, t[k].fat_g + t[k].lean_g);
        }
        // got off, lay down again
        if (i % 3 != 0) continue;
        Client again = c;
        again.posture.centre_mm += std::normal_distribution<double>(0, 5)(random);
        again.posture.turned_deg += std::normal_distribution<double>(0, 0.3)(random);
        again.posture.arms_out += std::normal_distribution<double>(0, 0.05)(random);
        const auto second = xray::read(
            virt::scan(virt::lie_down(again.body, again.posture, table.field_width_mm, table.field_height_mm, pixel),
                table, c.beam, {}, seed + 100000 + static_cast<unsigned>(i)),
            table);
        if (second) repeat.add("whole", xray::whole(second->regions), xray::whole(read->regions));
        if (second)
            for (std::size_t k = 0; k < xray::part_count; ++k)
                repeat.add(xray::region_rows[k].id, second->regions[k], read->regions[k]);
    }
    std::printf(
        "%d virtual clients, seed %u, %.0f mm pixels; refused without a fault: %d", people, seed, pixel, refused);
    for (const auto& [code, n] : why) std::printf(" (%s %d)", code.c_str(), n);
    for (const auto& [code, n] : cautioned) std::printf("; %s said %d times", code.c_str(), n);
    std::printf("\n");
    met.print();
    drawn.print("by the true lines");
    own.print("by the program's lines");
    lines.print("what the lines alone shift (truth cut by the program's lines)");
    organs.print("fat around the organs, within the waist band");
    repeat.print("second scan less first, after getting off (SD over √2 is the precision)");

    struct Fault {
        const char *name, *code;
        virt::ScanFaults faults;
    };
    std::vector<Fault> all;
    for (double mm : {10.0, 14.0, 20.0}) {
        virt::ScanFaults f;
        f.motion_mm = mm;
        all.push_back({mm == 10 ? "moved 10 mm" : mm == 14 ? "moved 14 mm" : "moved 20 mm", "motion", f});
    }
    virt::ScanFaults away, swapped;
    away.shifted_mm = 110;
    swapped.frames_swapped = true;
    all.push_back({"an arm over the field's edge", "off_field", away});
    all.push_back({"frames swapped", "frames_swapped", swapped});
    virt::ScanFaults metal;
    metal.metal_mm = 30;
    all.push_back({"a buckle of 30 mm", "metal", metal});
    std::printf("\n%-30s caught\n", "fault");
    for (Fault& f : all) {
        std::map<std::string, int> said;
        for (int i = 0; i < per_fault; ++i) {
            const Client c = client(random);
            f.faults.motion_at = std::uniform_real_distribution<double>(0.15, 0.85)(random);
            const auto body = virt::lie_down(c.body, c.posture, table.field_width_mm, table.field_height_mm, pixel);
            const auto read =
                xray::read(virt::scan(body, table, c.beam, f.faults, seed + 7777 + static_cast<unsigned>(i)), table);
            std::string code = read ? "nothing" : read.messages().front().code;
            for (const Message& m : read.messages())
                if (m.code == f.code) code = m.code; // a caution comes with the numbers
            ++said[code];
        }
        std::printf("%-30s %5.1f %%  ", f.name, 100.0 * said[f.code] / per_fault);
        for (const auto& [code, n] : said)
            if (n) std::printf(" %s %d", code.c_str(), n);
        std::printf("\n");
    }
}
