// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/chamber/chamber.h"
#include "bench/lines/live.h"

#include <deque>

namespace fusain::bench {

inline constexpr const char* chamber_columns =
    "t_s,p_test_pa,p_reference_pa,door"; ///< as `fusain-cli read chamber` takes it
inline constexpr const char* puff_columns = "t_s,p_test_pa,p_airway_pa";

/// How long a reading of the chamber is: long enough for several breaths (docs/chamber-signal.md).
inline constexpr double chamber_run_s = 25;

/// What the chamber shows.
struct ChamberShown : Shown {
    bool door_open = true, valve_shut = false, tube = false;
    std::optional<double> barometric_mmhg;
    std::deque<chamber::Sample> pressures; ///< its last seconds, whatever it does; t by the instrument's clock
    std::optional<ChamberWhat> what;       ///< of the recording that runs
    chamber::State state;                  ///< of the recording so far
    chamber::Puffs puffs;
    std::vector<chamber::PuffSample> puff_trace; ///< since the valve shut
    std::shared_ptr<const Shown> idle() const override;
};
const ChamberShown& chamber_shown(const Live& live);

/// Collects one recording of the chamber and judges it as it grows.
class ChamberTake : public Take {
public:
    bool hears(Channel channel) const override;
    /// The two pressures of one moment come as two frames; a moment of which one is missing is left out.
    void feed(const Reading& reading) override;
    void lost(Channel channel, Loss how) override;
    void begin(const Visit& visit, const TakeRow& what) override;
    void begin(ChamberWhat what, const chamber::Options& options);
    void end() override;
    std::shared_ptr<const Shown> state() override { return std::make_shared<ChamberShown>(now_); }
    Signal rows() override;
    const std::string& broken() const override { return broken_; }
    const ChamberShown& now() const { return now_; }

private:
    void add(const chamber::Sample& sample);
    void break_off(const std::string& why);
    ChamberShown now_;
    chamber::Options options_;
    std::vector<chamber::Sample> samples_;
    Signal rows_;
    double start_s_ = -1, judged_s_ = 0, last_s_ = -1, valve_s_ = -1;
    double test_pa_ = 0, test_t_s_ = -1, airway_pa_ = 0;
    std::string broken_;
};

} // namespace fusain::bench
