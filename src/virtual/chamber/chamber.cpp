// SPDX-License-Identifier: GPL-3.0-or-later
#include "virtual/chamber/chamber.h"

#include <algorithm>
#include <map>
#include <sstream>

namespace fusain::virt {
namespace {

constexpr double tick_s = 0.0125; // 80 Hz
constexpr double valve_shut_s = 5.2;
constexpr ChamberFaultRow rows[] = {
    {ChamberFault::door_leaks, "door_leaks", "chamber door leaks"},
    {ChamberFault::client_moves, "client_moves", "moves in the chamber"},
    {ChamberFault::client_coughs, "client_coughs", "coughs in the chamber"},
    {ChamberFault::room_door, "room_door", "a door slams"},
    {ChamberFault::draught, "draught", "a fan blows"},
    {ChamberFault::clipped, "clipped", "pressure sensor clips"},
    {ChamberFault::warming_up, "warming_up", "chamber still warming up"},
    {ChamberFault::cap_off, "cap_off", "cap is off"},
    {ChamberFault::loose_clothes, "loose_clothes", "loose clothes"},
    {ChamberFault::hard_puffs, "hard_puffs", "puffs too hard"},
    {ChamberFault::cheeks, "cheeks", "cheeks give way"},
};

} // namespace

std::span<const ChamberFaultRow> chamber_faults() { return rows; }

Chamber::Chamber(std::uint64_t seed) : random_(seed), air_({}, seed), speaker_(random_) { air_.set_door(true); }

void Chamber::open_for(double seconds, std::function<void()> meanwhile)
{
    later_.clear();
    door_open_ = true;
    air_.set_door(true);
    air_.breathe_through_tube(false);
    tube_ = false;
    later_.push_back({now_s_ + 0.6 * seconds, std::move(meanwhile)});
    later_.push_back({now_s_ + seconds, [this] {
                          door_open_ = false;
                          air_.set_door(false);
                      }});
}

std::string Chamber::direct(const std::string& words)
{
    std::istringstream in(words);
    std::string verb, rest;
    in >> verb;
    std::getline(in >> std::ws, rest);
    const auto inside = [this](const Body* body, double litres) {
        return [this, body, litres] {
            air_.set_cylinder(litres);
            air_.set_client(body);
        };
    };
    if (verb == "client") {
        try {
            body_ = parse_body(rest);
        } catch (const std::invalid_argument& e) {
            return std::string("error ") + e.what();
        }
        return "client " + to_text(body_);
    }
    if (verb == "truth") {
        std::ostringstream out;
        out.precision(12);
        out << "truth raw_volume_l=" << body_.raw_volume_l() << " tissue_volume_l=" << body_.tissue_volume_l();
        return out.str();
    }
    if (verb == "seed")
        random_.seed(std::strtoull(rest.c_str(), nullptr, 10));
    else if (verb == "chamber_empty")
        open_for(1.5, inside(nullptr, 0));
    else if (verb == "chamber_cylinder")
        open_for(2.5, inside(nullptr, chamber_cylinder_l));
    else if (verb == "chamber_client")
        open_for(4.0, inside(&body_, 0));
    else if (verb == "chamber_door")
        open_for(2.0, [] {});
    else if (verb == "chamber_leave" || verb == "release") {
        open_for(3.0, inside(nullptr, 0));
        later_.pop_back(); // it stays open
    } else if (verb == "tube" || verb == "tube_away") {
        tube_ = verb == "tube";
        air_.breathe_through_tube(tube_);
    } else if (verb == "valve") {
        if (!tube_) return "error nobody breathes through the tube";
        air_.close_valve();
        valve_until_s_ = now_s_ + valve_shut_s;
    } else if (verb == "fault") {
        const std::string wrong =
            speaker_.direct_fault(rest, rows, [this](auto fault, bool on) { air_.set(fault, on); });
        if (!wrong.empty()) return wrong;
    } else {
        return "error unknown direction " + verb;
    }
    return "ok " + verb;
}

std::string Chamber::advance_to(double t_s)
{
    using bench::Channel;
    std::string out;
    while ((static_cast<double>(tick_) + 1) * tick_s <= t_s) {
        const double t = static_cast<double>(++tick_) * tick_s;
        now_s_ = t;
        bool door_was = door_open_;
        while (!later_.empty() && later_.front().t_s <= t) {
            const auto act = std::move(later_.front().act);
            later_.pop_front();
            act();
        }
        const auto said = air_.at(t);
        if (tick_ % 20 == 0 || door_was != door_open_)
            speaker_.say(Channel::door, t, door_open_ ? 1 : 0, true, false, out);
        if (tick_ % 20 == 0 || (valve_until_s_ > 0 && std::abs(t - valve_until_s_ + valve_shut_s) < 1.1 * tick_s))
            speaker_.say(Channel::valve, t, t < valve_until_s_ ? 1 : 0, true, false, out);
        if (said.airway) speaker_.say(Channel::airway, t, said.airway_pa, true, false, out);
        speaker_.say(Channel::test_pressure, t, said.pressures.test_pa, true, true, out);
        speaker_.say(Channel::reference_pressure, t, said.pressures.reference_pa, true, false, out);
        if (tick_ % 80 == 0) speaker_.say(Channel::barometer, t, air_.barometric_pa() / 133.322, true, false, out);
    }
    return out;
}

} // namespace fusain::virt
