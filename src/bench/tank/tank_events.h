// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/visit/events.h"
#include "core/density/hydrostatic.h"
#include "core/signal/swing.h"

namespace fusain::bench::event {

/// Into the spirometer, under the conditions of the room (ATPS).
struct Blow {
    static constexpr char kind[] = "blow";
    double l = 0;
    std::string source = "spirometer"; ///< typed: read off another one
};

struct BlowThrownOut {
    static constexpr char kind[] = "blow_thrown_out";
    int number = 0;
    std::string reason{};
};

/// How the residual volume is known.
struct Lungs {
    static constexpr char kind[] = "lungs";
    std::optional<hydrostatic::LungRoute> route{};         ///< nothing: none that is known
    std::string equation{};                                ///< from age and height
    std::optional<double> gas_temp_c{}, barometric_mmhg{}; ///< of the room, where blows count
    std::optional<double> rv_l{};                          ///< measured, BTPS
};

/// The load cell with chair and belt.
struct Zero {
    static constexpr char kind[] = "zero";
    double kg = 0;
    std::optional<double> sd_kg{};
    std::string source = "load cell";
};

struct Water {
    static constexpr char kind[] = "water";
    double c = 0;
    double salinity_g_per_l = 0;
    std::string source = "thermometer";
};

/// What the reader made of a swing: under water, the zero taken off.
struct WeighingTaken : TrialTaken, swing::Reading {};

/// What the display showed: one value, or the two it swung between; of a recording in a file, what its reader made of
/// it. The zero is not taken off, unless it is `net`.
struct WeighingTyped : TrialTyped {
    std::optional<double> kg{}, low_kg{}, high_kg{};
    bool net = false;
    std::optional<swing::Reading> recorded{};
};

} // namespace fusain::bench::event
