// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/impedance/sweep.h"
#include "virtual/analyser/flesh.h"
#include "virtual/speaker.h"

#include <complex>
#include <optional>
#include <set>
#include <span>

/// The virtual impedance analyser: a platform with two electrodes a foot, grips with two a hand, its own scale. The
/// current goes from one hand to one foot, the voltage is sensed at the other electrodes; skin, posture, water and
/// cables stand between. Time is handed in; nothing here reads a clock or a line.
namespace fusain::virt {

enum class AnalyserFault {
    contact_1, ///< right thumb, and so on to 8: left heel
    contact_2,
    contact_3,
    contact_4,
    contact_5,
    contact_6,
    contact_7,
    contact_8,
    arm_touches,
    arms_crossed,
    thighs_touch,
    client_moves,
    client_talks,
    just_stood,
    leans_on,
    cold_skin,
    crosstalk,
    warming_up,
    steps_off
};
struct AnalyserFaultRow {
    AnalyserFault fault;
    const char* word;
    const char* title;
};
std::span<const AnalyserFaultRow> analyser_faults();

inline constexpr double analyser_khz[] = {5, 20, 50, 100, 250, 500};

class Analyser {
public:
    explicit Analyser(std::uint64_t seed);

    /// A stage direction, as the technician would say it or do it. Returns what happened, or "error …".
    ///   client WORDS… · stand: on the platform, hands off · grip: hands on the metal · step_off
    ///   r_right_arm … r_left_leg: the reference network on a channel, read once · fault WORD on|off
    std::string direct(const std::string& words);
    std::string advance_to(double t_s);

    const Body& body() const { return body_; }
    void set_client(const Body& body);
    void set(AnalyserFault fault, bool on);
    /// One point as the instrument would read it now.
    impedance::Point point(impedance::Segment segment, double f_khz);

private:
    using Complex = std::complex<double>;
    bool has(AnalyserFault f) const { return faults_.count(f) > 0; }
    std::array<Complex, impedance::segment_count> limbs(double f_khz) const;
    void take_a_stance();
    double contact_ohm(std::size_t electrode) const;
    Complex contact(std::size_t electrode, double f_khz) const;
    double shown_kg();

    std::mt19937_64 random_;
    Speaker speaker_;
    Body body_;
    std::array<Flesh, impedance::segment_count> flesh_;
    std::set<AnalyserFault> faults_;
    std::array<double, impedance::electrode_count> skin_ohm_{}, touching_ohm_{};
    std::array<double, impedance::segment_count> stance_{}; ///< of the impedance, as the client stands there now
    double now_s_ = 0, stood_since_s_ = 0, delay_ns_ = 0, gain_ = 1, sway_ = 0;
    long tick_ = 0, sent_ = 0;
    bool on_ = false, hands_ = false, stood_before_ = false;
    std::optional<std::pair<bench::Channel, double>> reference_; ///< is being read, until then
};

} // namespace fusain::virt
