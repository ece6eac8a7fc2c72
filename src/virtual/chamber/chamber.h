// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "virtual/chamber/chamber_air.h"
#include "virtual/speaker.h"

#include <deque>
#include <functional>
#include <string>

/// The virtual displacement chamber: two pressures, a door, an airway with its valve, around the air of chamber_air.h.
/// Time is handed in; nothing here reads a clock or a line.
namespace fusain::virt {

struct ChamberFaultRow {
    ChamberFault fault;
    const char* word;
    const char* title;
};
std::span<const ChamberFaultRow> chamber_faults();

inline constexpr double chamber_cylinder_l = 50.012; ///< true volume of the cylinder that belongs to it

class Chamber {
public:
    explicit Chamber(std::uint64_t seed);

    /// A stage direction, as the technician would say it or do it. Returns what happened, or "error …".
    ///   client WORDS…
    ///   chamber_empty · chamber_cylinder · chamber_client: the door opens, that is in it, the door closes
    ///   chamber_door: opened and closed again · chamber_leave · release: the client lets himself out
    ///   tube · valve · tube_away · fault WORD on|off · truth: the client's volumes
    std::string direct(const std::string& words);

    /// Everything the chamber says up to this moment, as bytes of the bench line.
    std::string advance_to(double t_s);

    const ChamberAir& air() const { return air_; }
    const Body& body() const { return body_; }

private:
    void open_for(double seconds, std::function<void()> meanwhile);
    std::mt19937_64 random_;
    ChamberAir air_;
    Body body_;
    Speaker speaker_;
    double now_s_ = 0;
    long tick_ = 0;
    bool door_open_ = true, tube_ = false;
    struct Later {
        double t_s;
        std::function<void()> act;
    };
    std::deque<Later> later_;
    double valve_until_s_ = -1;
};

} // namespace fusain::virt
