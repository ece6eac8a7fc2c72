// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/lines/live.h"
#include "bench/tank/tank.h"
#include "core/signal/swing.h"

#include <deque>

namespace fusain::bench {

inline constexpr const char* swing_columns = "t_s,mass_kg";
Signal signal_of(const std::vector<swing::Sample>& samples);

/// What the load cell under the chair shows.
struct TankShown : Shown {
    std::optional<double> cell_kg; ///< of the display: nothing is taken off
    bool overload = false;
    double mean_kg = 0, sd_kg = 0;    ///< of the last 2 s
    bool steady = false;              ///< 2 s of samples with a spread that a zero may be taken from
    bool let_go = false;              ///< of the trial that runs
    std::vector<swing::Sample> trace; ///< net, since letting go
    swing::State swing;
    std::shared_ptr<const Shown> idle() const override;
};
const TankShown& tank_shown(const Live& live);

/// Follows the load cell and reads the swing of a trial.
class TankTake : public Take {
public:
    bool hears(Channel channel) const override { return channel == Channel::load_cell; }
    void feed(const Reading& reading) override;
    void lost(Channel channel, Loss how) override;
    void begin(const Visit& visit, const TakeRow& what) override;
    void begin(double zero_kg);
    void mark() override; ///< the chair was let go
    void end() override;
    std::shared_ptr<const Shown> state() override;
    Signal rows() override;
    const std::string& broken() const override { return broken_; }

private:
    void break_off(const std::string& why);
    bool running_ = false;
    TankShown now_;
    std::deque<swing::Sample> recent_; ///< last 2 s
    double zero_kg_ = 0, last_s_ = -1, let_go_at_s_ = 0, begun_at_s_ = 0;
    swing::Reader reader_;
    Signal rows_;
    std::string broken_;
};

} // namespace fusain::bench
