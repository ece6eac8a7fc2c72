// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/channels/line.h"
#include "virtual/body.h"
#include "virtual/speaker.h"
#include "virtual/tank/swing_trace.h"

#include <optional>
#include <random>
#include <set>
#include <string>
#include <vector>

/// The virtual tank room: load cell, water thermometer, scale, spirometer and barometer around one virtual client.
/// Time is handed in; nothing here reads a clock or a line.
namespace fusain::virt {

/// Things that go wrong, each switched on and off by its word.
enum class Fault {
    air_left,
    air_in_suit,
    touches_wall,
    restless,
    leaves_early,
    belt_not_zeroed,
    warm_up_drift,
    dropouts,
    garbage,
    reference_step,
    reference_drift,
    sensors_silent
};
struct FaultRow {
    Fault fault;
    const char* word;
    const char* title;
};
std::span<const FaultRow> faults();

class Tank {
public:
    explicit Tank(std::uint64_t seed);

    /// A stage direction, as the technician would say it or do it. Returns what happened, or "error …".
    ///   client WORDS…   · stand · step_down · blow · hang (chair and belt) · belt_off
    ///   under · let_go · up · fault WORD on|off
    ///   seed N: what is drawn from here on · truth: what a perfect cell would show, the air left, the zero
    ///   reference_mass · cylinder · phantom: a reference is put on the instrument and read
    std::string direct(const std::string& words);

    /// Everything the instruments say up to this moment, as bytes of the bench line.
    std::string advance_to(double t_s);

    /// What the load cell would show if everything were perfect: for tests.
    double true_underwater_kg() const;
    double water_density() const;
    const Body& body() const { return body_; }

private:
    double load_cell_kg(double t_s);
    void say(bench::Channel channel, double t_s, double value, bool stable, std::string& out);
    bool has(Fault fault) const { return faults_.count(fault) > 0; }
    double normal(double sd);

    std::mt19937_64 random_;
    Body body_;
    std::set<Fault> faults_;
    double now_s_ = 0;
    long tick_ = 0;
    Speaker speaker_{random_};

    enum class Place { out, leaning, swinging } place_ = Place::out;
    bool on_scale_ = false, chair_hung_ = true, belt_on_chair_ = true;
    double on_scale_since_ = 0;
    double leaning_since_ = 0, let_go_at_ = 0;
    std::vector<swing::Sample> trace_;
    std::size_t trace_at_ = 0;
    int trials_ = 0;
    double air_left_l_ = 0;
    double blow_at_ = -1, blow_l_ = 0;
    double reference_until_ = -1; ///< the certified mass stands on the scale
    double reference_kg_ = 0;
    std::optional<bench::Channel> reference_; ///< is being read
    double reference_at_ = 0;
    double water_c_ = 34.6, room_c_ = 22.4, barometer_mmhg_ = 757.0;
};

} // namespace fusain::virt
