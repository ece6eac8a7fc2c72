// SPDX-License-Identifier: GPL-3.0-or-later
#include "virtual/table/xray_table.h"

#include "bench/files/scan_file.h"
#include "virtual/references.h"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <fstream>
#include <sstream>
#include <utility>

namespace fusain::virt {
namespace {

using Eigen::Index;

constexpr double pixel_mm = scan_pixel_mm, alive_every_s = 0.2, warm_up_s = 2, phantom_s = 3;
constexpr double motion_mm = 16, motion_at = 0.62, off_field_mm = 120, buckle_mm = 40, drift = 0.02, half_shift = 0.22;
constexpr double dose_usv = 4;

constexpr TableFaultRow rows[] = {{TableFault::moves, "moves", "X-ray: the client moves"},
    {TableFault::off_field, "off_field", "X-ray: lies over the field's edge"},
    {TableFault::metal_on, "metal_on", "X-ray: a belt buckle is left on"},
    {TableFault::wrong_way, "wrong_way", "X-ray: feet where the head should be"},
    {TableFault::frames_swapped, "frames_swapped", "X-ray: the energies are exchanged"},
    {TableFault::arms_on, "arms_on", "X-ray: arms against the trunk"},
    {TableFault::drifts, "table_drifts", "X-ray: the tube drifts"}};

} // namespace

std::span<const TableFaultRow> table_faults() { return rows; }

Posture posture_of(const Body& body, std::mt19937_64& random)
{
    std::normal_distribution<> normal;
    Posture p;
    const bool man = body.sex == Sex::male;
    p.visceral_share = std::clamp((man ? 0.13 : 0.09) + 0.0015 * (body.age_y - 30), 0.05, 0.25);
    p.bone_share = man ? 0.051 : 0.048;
    p.hips = man ? 0.99 : 1.03;
    p.centre_mm = std::clamp(4 * normal(random), -12.0, 12.0);
    p.turned_deg = std::clamp(0.3 * normal(random), -0.8, 0.8);
    p.arms_out = std::clamp(1.0 + 0.05 * normal(random), 0.85, 1.1);
    return p;
}

XrayTable::XrayTable(std::uint64_t seed) : random_(seed), speaker_(random_) {}

std::string XrayTable::direct(const std::string& words)
{
    const std::string verb = words.substr(0, words.find(' ')),
                      rest = words.size() > verb.size() ? words.substr(verb.size() + 1) : "";
    if (verb == "client") {
        try {
            body_ = parse_body(rest);
        } catch (const std::exception& e) {
            return std::string("error ") + e.what();
        }
    } else if (verb == "fault") {
        const std::string wrong = speaker_.direct_fault(
            rest, rows, [&](TableFault f, bool on) { on ? void(faults_.insert(f)) : void(faults_.erase(f)); });
        if (!wrong.empty()) return wrong;
    } else if (verb == "whole" || verb == "half_right" || verb == "half_left") {
        shift_share_ = verb == "half_right" ? half_shift : verb == "half_left" ? -half_shift : 0;
    } else if (verb == "phantom") {
        phantom_at_s_ = now_s_ + phantom_s;
    } else if (verb == "expose") {
        return expose(rest);
    } else if (verb == "scan") {
        start();
    } else if (verb == "stop") {
        stop();
    } else {
        return "error unknown direction " + words;
    }
    return "ok " + words;
}

void XrayTable::hear(const std::string& bytes)
{
    heard_ += bytes;
    for (std::size_t end; (end = heard_.find('\n')) != std::string::npos; heard_.erase(0, end + 1)) {
        const std::string word = heard_.substr(0, end);
        if (word == "scan") start();
        if (word == "stop") stop();
    }
    if (heard_.size() > 64) heard_.clear();
}

/// Without faults, the same for one seed. The lines are written last: who sees them may read the scan.
std::string XrayTable::expose(const std::string& words)
{
    std::istringstream in(words);
    unsigned seed = 0;
    std::string file;
    if (!(in >> seed) || !std::getline(in >> std::ws, file)) return "error expose SEED FILE, not " + words;
    std::erase_if(
        exposing_, [](const auto& f) { return f.wait_for(std::chrono::seconds(0)) == std::future_status::ready; });
    exposing_.push_back(std::async(std::launch::async, [body = body_, seed, file] {
        std::mt19937_64 random(seed);
        const xray::Table table = stand_in_table();
        const TrueMap lying =
            lie_down(body, posture_of(body, random), table.field_width_mm, table.field_height_mm, scan_pixel_mm);
        const auto write = [](const std::string& name, const std::string& bytes) {
            std::ofstream out(name + ".part", std::ios::binary);
            out << bytes;
            out.close();
            if (out) std::rename((name + ".part").c_str(), name.c_str());
        };
        write(file, bench::write_scan({scan(lying, table, {}, {}, seed), {}}));
        write(file + ".lines.json", bench::write_lines(lying.lines));
    }));
    return "ok expose";
}

void XrayTable::start()
{
    if (running_) return;
    running_ = true;
    announced_ = false;
    ++scan_;
    sent_ = 0;
    begun_s_ = now_s_;
    map_.reset();
    Posture p = posture_of(body_, random_);
    if (has(TableFault::arms_on)) p.arms_out = 0.1;
    ScanFaults f;
    if (has(TableFault::moves)) {
        f.motion_mm = motion_mm;
        f.motion_at = motion_at;
    }
    f.shifted_mm = (has(TableFault::off_field) ? off_field_mm : 0) + shift_share_ * stand_in_table().field_width_mm;
    f.metal_mm = has(TableFault::metal_on) ? buckle_mm : 0;
    f.frames_swapped = has(TableFault::frames_swapped);
    Beam beam;
    beam.table_drift = has(TableFault::drifts) ? drift : 0;
    const bool turned = has(TableFault::wrong_way);
    making_ = std::async(std::launch::async, [body = body_, p, f, beam, turned, seed = random_()] {
        const xray::Table table = stand_in_table();
        xray::Map map = scan(lie_down(body, p, table.field_width_mm, table.field_height_mm, pixel_mm), table, beam, f,
            static_cast<unsigned>(seed));
        if (turned)
            for (xray::Image* image : {&map.low, &map.high}) *image = image->reverse().eval();
        return map;
    });
}

void XrayTable::stop()
{
    if (!running_) return;
    if (announced_) {
        bench::PictureWord w;
        w.kind = bench::PictureWord::Kind::ended;
        w.scan = scan_;
        w.row = sent_;
        pending_ += bench::encode(w);
    }
    running_ = false;
    making_ = {};
    map_.reset();
}

std::string XrayTable::advance_to(double t_s)
{
    std::string out = std::exchange(pending_, {});
    now_s_ = t_s;
    if (now_s_ >= alive_s_ + alive_every_s) {
        alive_s_ = now_s_;
        out += bench::encode(bench::PictureWord{});
    }
    if (phantom_at_s_ && now_s_ >= *phantom_at_s_) {
        phantom_at_s_.reset();
        const Reference& phantom = reference(bench::Channel::phantom);
        speaker_.say(bench::Channel::phantom, now_s_,
            read_reference(phantom, 0, false, has(TableFault::drifts), random_), true, false, out);
    }
    if (!running_) return out;
    if (!announced_) {
        const xray::Table table = stand_in_table();
        bench::PictureWord w;
        w.kind = bench::PictureWord::Kind::begun;
        w.scan = scan_;
        w.rows = static_cast<int>(std::lround(table.field_height_mm / pixel_mm));
        w.columns = static_cast<int>(std::lround(table.field_width_mm / pixel_mm));
        w.dx_mm = w.dy_mm = pixel_mm;
        w.dose_usv = dose_usv;
        w.table = table.id;
        out += bench::encode(w);
        announced_ = true;
    }
    if (!map_ && making_.valid() && making_.wait_for(std::chrono::seconds(0)) == std::future_status::ready) {
        map_ = making_.get();
        begun_s_ = std::max(begun_s_, now_s_ - warm_up_s);
    }
    if (!map_) return out;
    const auto rows_there = static_cast<double>(map_->rows());
    const int due =
        static_cast<int>(std::clamp((now_s_ - begun_s_ - warm_up_s) / whole_scan_s * rows_there, 0.0, rows_there));
    for (; sent_ < due; ++sent_) {
        bench::PictureWord w;
        w.kind = bench::PictureWord::Kind::row;
        w.scan = scan_;
        w.row = sent_;
        for (Index c = 0; c < map_->columns(); ++c) {
            w.low.push_back(map_->low(sent_, c));
            w.high.push_back(map_->high(sent_, c));
        }
        out += bench::encode(w);
    }
    if (sent_ == map_->rows()) stop();
    return out + std::exchange(pending_, {});
}

} // namespace fusain::virt
