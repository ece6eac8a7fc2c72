// SPDX-License-Identifier: GPL-3.0-or-later
#include "virtual/analyser/analyser.h"

#include "virtual/references.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <sstream>
#include <tuple>
#include <utility>

namespace fusain::virt {
namespace {

using bench::Channel;
using impedance::Segment;
using enum AnalyserFault;
using Complex = std::complex<double>;

constexpr double tick_s = 0.1;
constexpr int sweeps_in_a_row = 5;     ///< of one segment, before the next
constexpr double stood_before_s = 480; ///< a client who was told to stand for some minutes
constexpr double settle_s = 180;       ///< of water after standing up
constexpr double legs_settle = 0.035, trunk_settle = -0.012;
constexpr double stance_arms = 0.012, stance_legs = 0.010, stance_each = 0.005, ///< of |Z|, getting off and on again
    stance_contact = 0.15;                                                      ///< of the ln of a contact
constexpr double cold_c = 5, per_c = 0.008;                                     ///< resistance by skin temperature
constexpr double warm_up_gain = 0.015, warm_up_s = 300;
constexpr double noise_share = 0.0008, noise_ohm = 0.012;
constexpr double sense_pf = 4, leak_pf = 3, skin_pf = 200; ///< of the inputs, of the drive, of skin under an electrode
constexpr double poor_ohm = 7500, open_ohm = 99999;
constexpr double skin_ohm_cm2 = 8000, skin_nf_per_cm2 = 25;
constexpr double arm_patch_cm2 = 40, forearm_patch_cm2 = 45, thigh_patch_cm2 = 70;
constexpr double lean_kg = 2.2;

constexpr AnalyserFaultRow rows[] = {
    {contact_1, "contact_1", "right thumb hardly touches"},
    {contact_2, "contact_2", "right palm hardly touches"},
    {contact_3, "contact_3", "left thumb hardly touches"},
    {contact_4, "contact_4", "left palm hardly touches"},
    {contact_5, "contact_5", "ball of the right foot is dry"},
    {contact_6, "contact_6", "right heel off its electrode"},
    {contact_7, "contact_7", "ball of the left foot is dry"},
    {contact_8, "contact_8", "left heel off its electrode"},
    {arm_touches, "arm_touches", "right arm against the trunk"},
    {arms_crossed, "arms_crossed", "hands swapped, forearms touch"},
    {thighs_touch, "thighs_touch", "thighs touch"},
    {client_moves, "analyser_moves", "moves on the analyser"},
    {client_talks, "analyser_talks", "talks on the analyser"},
    {just_stood, "just_stood", "stood up just now"},
    {leans_on, "leans_on", "somebody leans on the platform"},
    {cold_skin, "cold_skin", "cold skin"},
    {crosstalk, "crosstalk", "cables of the analyser cross"},
    {warming_up, "analyser_warming", "analyser still warming up"},
    {steps_off, "steps_off", "steps off in the middle"},
};

double omega(double f_khz) { return 2 * std::numbers::pi * 1e3 * f_khz; }

/// Skin on skin: two layers of it.
Complex skin_bridge(double patch_cm2, double f_khz)
{
    const double ohm = 2 * skin_ohm_cm2 / patch_cm2, farad = 1e-9 * skin_nf_per_cm2 * patch_cm2 / 2;
    return ohm / Complex(1, omega(f_khz) * ohm * farad);
}

constexpr Channel point_channels[] = {Channel::point_right_arm, Channel::point_left_arm, Channel::point_trunk,
    Channel::point_right_leg, Channel::point_left_leg};
/// Where the voltage of a segment is sensed (palms and heels), and where the current comes in and out.
struct Wires {
    std::size_t sense[2], drive[2];
};
constexpr Wires wires[] = {{{1, 3}, {0, 4}}, {{3, 1}, {2, 6}}, {{3, 7}, {0, 4}}, {{5, 7}, {0, 4}}, {{7, 5}, {2, 6}}};

} // namespace

std::span<const AnalyserFaultRow> analyser_faults() { return rows; }

Analyser::Analyser(std::uint64_t seed) : random_(seed), speaker_(random_)
{
    delay_ns_ = std::normal_distribution<>(0, 0.5)(random_);
    gain_ = 1 + std::normal_distribution<>(0, 0.001)(random_);
    set_client(body_);
}

void Analyser::set_client(const Body& body)
{
    body_ = body;
    flesh_ = flesh_of(body);
    for (double& ohm : skin_ohm_) ohm = 260 * std::exp(std::normal_distribution<>(0, 0.35)(random_));
    touching_ohm_ = skin_ohm_;
    stood_before_ = false;
    stance_.fill(1);
    on_ = hands_ = false;
}

/// Nobody stands and grips twice alike: where the current enters a hand or foot, and how wide arms and legs are held.
void Analyser::take_a_stance()
{
    std::normal_distribution<> draw(0, 1);
    const double arms = stance_arms * draw(random_), legs = stance_legs * draw(random_);
    for (std::size_t i = 0; i < stance_.size(); ++i) {
        const auto s = static_cast<Segment>(i);
        const double both = s == Segment::trunk ? 0 : s == Segment::right_leg || s == Segment::left_leg ? legs : arms;
        stance_[i] = 1 + both + stance_each * draw(random_);
    }
    for (std::size_t e = 0; e < skin_ohm_.size(); ++e)
        touching_ohm_[e] = skin_ohm_[e] * std::exp(stance_contact * draw(random_));
}

void Analyser::set(AnalyserFault fault, bool on)
{
    if (on)
        faults_.insert(fault);
    else
        faults_.erase(fault);
    if (fault == just_stood) stood_since_s_ = on ? now_s_ : now_s_ - stood_before_s;
}

std::string Analyser::direct(const std::string& words)
{
    std::istringstream in(words);
    std::string verb, rest;
    in >> verb;
    std::getline(in >> std::ws, rest);
    if (verb == "client") {
        try {
            set_client(parse_body(rest));
        } catch (const std::invalid_argument& e) {
            return std::string("error ") + e.what();
        }
        return "client " + to_text(body_);
    }
    if (verb == "seed") {
        random_.seed(std::strtoull(rest.c_str(), nullptr, 10));
    } else if (verb == "stand") {
        if (!on_) stood_since_s_ = now_s_ - (has(just_stood) ? 0 : stood_before_s);
        if ((!on_ || hands_) && std::exchange(stood_before_, true)) take_a_stance();
        on_ = true;
        hands_ = false;
    } else if (verb == "grip") {
        on_ = hands_ = true;
    } else if (verb == "step_off") {
        on_ = hands_ = false;
    } else if (verb == "fault") {
        const std::string wrong = speaker_.direct_fault(rest, rows, [this](auto fault, bool on) { set(fault, on); });
        if (!wrong.empty()) return wrong;
    } else {
        for (const Reference& r : references())
            if (r.of_analyser() && verb == r.word) {
                reference_ = {r.channel, now_s_ + 1.5};
                return "ok " + verb;
            }
        return "error unknown direction " + verb;
    }
    return "ok " + verb;
}

/// The five segments as the electrodes find them: the body's own, with its water and its skin where it touches itself.
std::array<Complex, impedance::segment_count> Analyser::limbs(double f_khz) const
{
    std::array<Complex, impedance::segment_count> z;
    const double rested = std::exp(-(now_s_ - stood_since_s_) / settle_s);
    for (std::size_t i = 0; i < z.size(); ++i) {
        z[i] = impedance::impedance_of(flesh_[i].arc, f_khz);
        const auto s = static_cast<Segment>(i);
        if (s == Segment::right_leg || s == Segment::left_leg) z[i] *= 1 + legs_settle * rested;
        if (s == Segment::trunk) z[i] *= 1 + trunk_settle * rested;
        if (has(cold_skin)) z[i] *= 1 + cold_c * per_c;
        z[i] *= stance_[i];
    }
    Complex &ra = z[0], &la = z[1], &trunk = z[2], &rl = z[3], &ll = z[4];
    // a bridge between the middles of two limbs takes current round their upper halves, and lifts the far one's voltage
    const auto bridged = [&](Complex& a, Complex& b, double patch_cm2) {
        const Complex skin = skin_bridge(patch_cm2, f_khz), ua = a / 2.0, ub = b / 2.0;
        const Complex lost_a = ua - ua * skin / (ua + ub + skin), lost_b = ub - ub * skin / (ua + ub + skin);
        trunk += ua * ub / (ua + ub + skin);
        a -= lost_a;
        b -= lost_b;
    };
    if (has(thighs_touch)) bridged(rl, ll, thigh_patch_cm2);
    if (has(arms_crossed)) {
        bridged(ra, la, forearm_patch_cm2);
        std::swap(ra, la);
    }
    if (has(arm_touches)) {
        const Complex skin = skin_bridge(arm_patch_cm2, f_khz), upper = ra / 2.0, half = trunk / 2.0;
        const Complex through = skin / (skin + upper + half);
        ra -= upper * (1.0 - through);
        trunk -= half * (1.0 - through);
    }
    return z;
}

double Analyser::contact_ohm(std::size_t e) const
{
    if (!on_ || (e < 4 && !hands_)) return open_ohm;
    return has(static_cast<AnalyserFault>(e)) ? poor_ohm : touching_ohm_[e];
}

Complex Analyser::contact(std::size_t e, double f_khz) const
{
    const double ohm = contact_ohm(e);
    return ohm / Complex(1, omega(f_khz) * ohm * 1e-12 * skin_pf);
}

impedance::Point Analyser::point(Segment segment, double f_khz)
{
    const std::size_t i = impedance::index(segment);
    const auto z = limbs(f_khz);
    Complex read = z[i];
    const double w = omega(f_khz);
    for (std::size_t e : wires[i].sense) read /= Complex(1) + Complex(0, w * 1e-12 * sense_pf / 2) * contact(e, f_khz);
    for (std::size_t e : wires[i].drive) read /= Complex(1) + Complex(0, w * 1e-12 * leak_pf / 2) * contact(e, f_khz);
    read *= std::exp(Complex(0, -w * 1e-9 * delay_ns_)) * gain_;
    if (has(crosstalk)) read += 0.09 * std::abs(z[i]) * std::pow(f_khz / 500, 2); // what the drive leaves in the sense
    if (has(warming_up)) read *= 1 + warm_up_gain * std::exp(-now_s_ / warm_up_s);
    double restless = 0;
    const std::normal_distribution<> normal(0, 1);
    auto draw = normal;
    if (has(client_moves))
        sway_ = 0.93 * sway_ + 0.007 * draw(random_);
    else
        sway_ *= 0.9;
    if (has(client_talks) && segment != Segment::right_leg && segment != Segment::left_leg)
        restless = 0.012 * std::sin(0.9 * now_s_) * (0.6 + 0.4 * draw(random_));
    read *= 1 + sway_ + restless;
    double worst = 0;
    for (const auto& list : {wires[i].sense, wires[i].drive})
        for (std::size_t k = 0; k < 2; ++k) worst = std::max(worst, contact_ohm(list[k]));
    const double noise = (noise_share * std::abs(z[i]) * (1.3 - 0.5 * body_.calm) + noise_ohm) * (1 + worst / 2500);
    return {f_khz, read.real() + noise * draw(random_), -read.imag() + noise * draw(random_)};
}

double Analyser::shown_kg()
{
    std::normal_distribution<> draw(0, 1);
    if (!on_) return 0.004 * draw(random_);
    double kg = body_.mass_kg() + 0.008 * draw(random_);
    if (has(leans_on)) kg -= lean_kg * (0.8 + 0.2 * std::sin(1.3 * now_s_));
    return kg;
}

std::string Analyser::advance_to(double t_s)
{
    std::string out;
    while ((static_cast<double>(tick_) + 1) * tick_s <= t_s) {
        const double t = static_cast<double>(++tick_) * tick_s;
        now_s_ = t;
        if (has(steps_off) && on_ && hands_ && sent_ > 100) {
            on_ = hands_ = false;
            faults_.erase(steps_off);
        }
        if (tick_ % 3 == 0) {
            const double kg = shown_kg();
            speaker_.say(Channel::platform, t, kg, on_ && !has(leans_on), false, out);
        }
        if (tick_ % 5 == 0) {
            const auto e = static_cast<std::size_t>(tick_ / 5) % impedance::electrode_count;
            const double shown =
                std::min(open_ohm, contact_ohm(e) * (1 + 0.03 * std::normal_distribution<>(0, 1)(random_)));
            speaker_.say(Channel::contact, t, shown, true, false, out, {static_cast<double>(e + 1)});
        }
        if (reference_ && t >= reference_->second) {
            const Reference& r = reference(reference_->first);
            std::normal_distribution<> draw(0, 1);
            speaker_.say(r.channel, t, read_reference(r, 40, false, false, random_), true, false, out,
                {r.x + 0.15 * draw(random_)});
            reference_.reset();
        }
        if (!on_ || !hands_) {
            sent_ = 0;
            continue;
        }
        constexpr long frequencies = std::size(analyser_khz);
        const auto segment = static_cast<Segment>(sent_ / (frequencies * sweeps_in_a_row) % 5);
        const double f = analyser_khz[sent_ % frequencies];
        ++sent_;
        const impedance::Point p = point(segment, f);
        if (p.r_ohm > 0 && p.r_ohm < 5000)
            speaker_.say(point_channels[impedance::index(segment)], t, p.r_ohm, true, true, out, {p.x_ohm, f});
    }
    return out;
}

} // namespace fusain::virt
