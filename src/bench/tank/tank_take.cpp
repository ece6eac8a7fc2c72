// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/tank/tank_take.h"

#include "core/base/limits.h"

#include <cmath>

namespace fusain::bench {
namespace {
constexpr double longest_gap_s = 0.5, recent_s = 2.0, steady_sd_kg = 0.015;
constexpr double fewest_for_zero = 15; ///< readings in those: an indicator speaks from eight times a second on
constexpr double longest_trial_s = 60, longest_breathing_out_s = 180;
} // namespace

Signal signal_of(const std::vector<swing::Sample>& samples)
{
    Signal out{swing_columns, {}};
    for (const swing::Sample& s : samples) out.add({s.t_s, s.kg});
    return out;
}

const TankShown& tank_shown(const Live& live) { return live.of<TankShown>(tank_row().method); }

std::shared_ptr<const Shown> TankShown::idle() const
{
    auto out = std::make_shared<TankShown>(*this);
    out->let_go = false;
    out->trace.clear();
    out->swing = {};
    return out;
}

void TankTake::break_off(const std::string& why)
{
    if (running_ && broken_.empty()) broken_ = why;
}

void TankTake::feed(const Reading& r)
{
    if (!hears(r.channel)) return;
    const double gap = last_s_ < 0 ? 0 : r.t_s - last_s_;
    last_s_ = r.t_s;
    now_.connected = true;
    now_.cell_kg = r.value;
    now_.overload = r.overload;
    recent_.push_back({r.t_s, r.value});
    while (recent_.size() > 1 && (r.t_s - recent_.front().t_s > recent_s || recent_.front().t_s > r.t_s))
        recent_.pop_front();
    if (!running_ || !broken_.empty()) return;
    if (r.overload) return break_off("the load cell was overloaded");
    if (gap < 0 || gap > longest_gap_s) return break_off("the signal had a gap");
    // nobody holds an empty chest for a minute
    const double runs_s = r.t_s - (now_.let_go ? let_go_at_s_ : begun_at_s_);
    if (runs_s > (now_.let_go ? longest_trial_s : longest_breathing_out_s))
        return break_off("it ran for " + limits::plain(runs_s, 0) + " s and was not taken");
    if (!now_.let_go) return;
    const swing::Sample net{r.t_s - let_go_at_s_, r.value - zero_kg_};
    now_.trace.push_back(net);
    rows_.add({net.t_s, net.kg});
    reader_.add(net);
}

void TankTake::lost(Channel, Loss how)
{
    now_.connected = false;
    now_.cell_kg = std::nullopt;
    recent_.clear();
    last_s_ = -1;
    break_off(how == Loss::silent ? "the load cell fell silent" : "the line was lost");
}

void TankTake::begin(const Visit& visit, const TakeRow&) { begin(tank_of(visit).zero_kg.value_or(0)); }

void TankTake::begin(double zero_kg)
{
    end();
    running_ = true;
    broken_.clear();
    zero_kg_ = zero_kg;
    now_.trace.clear();
    rows_ = {swing_columns, {}};
    reader_ = swing::Reader();
    begun_at_s_ = last_s_;
    if (!now_.cell_kg) break_off("there is no line to the load cell");
}

void TankTake::mark()
{
    if (!running_ || now_.let_go) return;
    now_.let_go = true;
    let_go_at_s_ = last_s_;
}

void TankTake::end()
{
    running_ = false;
    now_.let_go = false;
    now_.trace.clear(); // it would be copied thirty times a second
}

std::shared_ptr<const Shown> TankTake::state()
{
    double sum = 0, squares = 0;
    for (const swing::Sample& s : recent_) sum += s.kg;
    const double n = static_cast<double>(recent_.size());
    now_.mean_kg = n > 0 ? sum / n : 0;
    for (const swing::Sample& s : recent_) squares += std::pow(s.kg - now_.mean_kg, 2);
    now_.sd_kg = n > 1 ? std::sqrt(squares / (n - 1)) : 0;
    now_.steady = now_.cell_kg && n >= fewest_for_zero && recent_.back().t_s - recent_.front().t_s > 0.9 * recent_s &&
                  now_.sd_kg < steady_sd_kg;
    if (now_.let_go) now_.swing = reader_.state();
    return now_.let_go ? std::make_shared<TankShown>(now_) : now_.idle();
}

Signal TankTake::rows() { return std::exchange(rows_, {swing_columns, {}}); }

} // namespace fusain::bench
