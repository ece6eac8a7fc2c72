// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/lines/line.h"
#include "bench/lines/signal.h"
#include "bench/chamber/chamber.h"

namespace fusain::bench {

/// How long a reading of the chamber is: long enough for several breaths (docs/chamber-signal.md).
inline constexpr double chamber_run_s = 25;

/// What the screen needs to know of the chamber.
struct ChamberLive {
    bool connected = false; ///< its line is open and speaks
    bool door_open = true, valve_shut = false, tube = false;
    std::vector<chamber::Sample> fresh; ///< since the last Live; t by the instrument's clock
    std::optional<ChamberWhat> what;    ///< of the recording that runs
    chamber::State state;               ///< of the recording so far
    bool complete = false;              ///< long enough: nothing more will come
    chamber::Puffs puffs;
    std::vector<chamber::PuffSample> fresh_puffs; ///< since the last Live, while the valve is shut
};

/// Collects one recording of the chamber and judges it as it grows. No clock, no line.
class ChamberTake {
public:
    /// The two pressures of one moment come as two frames; a moment of which one is missing is left out.
    void take(const Reading& reading, ChamberLive& live);
    void begin(ChamberWhat what, const chamber::Options& options, ChamberLive& live);
    void end(ChamberLive& live);
    /// Why the recording cannot go on: a gap in the signal. Empty: it can.
    const std::string& broken() const { return broken_; }
    /// Rows that were not handed over yet.
    Signal take_rows();
    void forget(ChamberLive& live); ///< the line was lost

private:
    void add(const chamber::Sample& sample, ChamberLive& live);
    chamber::Options options_;
    std::vector<chamber::Sample> samples_;
    std::vector<chamber::PuffSample> puffs_;
    Signal rows_;
    double start_s_ = -1, judged_s_ = 0, last_s_ = -1, valve_s_ = -1;
    double test_pa_ = 0, test_t_s_ = -1, airway_pa_ = 0;
    std::string broken_;
};

} // namespace fusain::bench
