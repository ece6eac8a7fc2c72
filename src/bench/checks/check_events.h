// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/base/event.h"

#include <map>
#include <optional>

namespace fusain::bench {

/// What one of the staff usually shows on an instrument: the means of their first measurements on it.
struct Usual {
    int count = 0;
    double percent = 0, mass_kg = 0, resistance_ohm = 0; ///< 0: it does not show it
};

} // namespace fusain::bench

/// The events of a check's log (docs/formats/instrument-check.md); their keys: check_events.cpp.
namespace fusain::bench::checking {

struct Started {
    static constexpr char kind[] = "started";
    std::string instrument_kind{};        ///< an id of `instrument_kinds`
    std::optional<double> reference{};    ///< certified
    double reference_x = 0;               ///< of a network; 0: a plain resistor
    std::string check_by{};               ///< a way of `check_ways`; empty: the reference
    std::map<std::string, Usual> usual{}; ///< of the staff
};

struct Done {
    static constexpr char kind[] = "done";
    std::string step{};
    std::string person{}; ///< of the step that asks for one
};

struct Reading {
    static constexpr char kind[] = "reading";
    std::string step{};
    std::optional<double> value{};
    std::optional<double> x{};     ///< reactance of a reference network
    std::optional<double> sd_kg{}; ///< of a zero
    std::string source{};          ///< typed; empty: the line
};

struct Finished {
    static constexpr char kind[] = "finished";
    bool given_up = false;
};

struct Remark {
    static constexpr char kind[] = "remark";
    std::string text{};
};

} // namespace fusain::bench::checking
