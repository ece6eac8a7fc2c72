// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/chamber/chamber_take.h"

#include <cmath>

namespace fusain::bench {
namespace {
constexpr double longest_gap_s = 0.5, judge_every_s = 0.5, puffs_s = 5.0;
}

void ChamberTake::take(const Reading& r, ChamberLive& live)
{
    switch (r.channel) {
    case Channel::door: live.door_open = r.value > 0.5; return;
    case Channel::valve: live.valve_shut = r.value > 0.5; return;
    case Channel::airway:
        airway_pa_ = r.value;
        live.tube = true;
        return;
    case Channel::test_pressure:
        test_pa_ = r.value;
        test_t_s_ = r.t_s;
        return;
    case Channel::reference_pressure:
        if (std::abs(r.t_s - test_t_s_) < 0.0015) add({r.t_s, test_pa_, r.value, live.door_open}, live);
        return;
    default: return;
    }
}

void ChamberTake::add(const chamber::Sample& s, ChamberLive& live)
{
    live.fresh.push_back(s);
    const double gap = last_s_ < 0 ? 0 : s.t_s - last_s_;
    last_s_ = s.t_s;
    if (!live.what || live.complete || !broken_.empty()) return;
    if (gap < 0 || gap > longest_gap_s) {
        broken_ = "the signal had a gap";
        return;
    }
    if (start_s_ < 0) start_s_ = s.t_s;
    const double t = s.t_s - start_s_;
    if (*live.what == ChamberWhat::puffs) {
        rows_.add({t, s.test_pa, airway_pa_});
        if (s.door_open) broken_ = "the door was opened";
        if (!live.valve_shut && valve_s_ < 0) return;
        if (valve_s_ < 0) valve_s_ = t;
        puffs_.push_back({t - valve_s_, s.test_pa, airway_pa_});
        live.fresh_puffs.push_back(puffs_.back());
        live.complete = t - valve_s_ >= puffs_s || !live.valve_shut;
        if (live.complete || t - judged_s_ > judge_every_s / 2) {
            judged_s_ = t;
            live.puffs = chamber::read_puffs(puffs_, options_.drive_hz);
        }
        return;
    }
    rows_.add({t, s.test_pa, s.reference_pa, s.door_open ? 1.0 : 0.0});
    samples_.push_back({t, s.test_pa, s.reference_pa, s.door_open});
    if (s.door_open) { // the client may have wanted out: never a reason to wait
        broken_ = "the door was opened";
        return;
    }
    live.complete = t >= chamber_run_s;
    if (!live.complete && t - judged_s_ < judge_every_s) return;
    judged_s_ = t;
    live.state = chamber::read(samples_, options_);
}

void ChamberTake::begin(ChamberWhat what, const chamber::Options& options, ChamberLive& live)
{
    end(live);
    options_ = options;
    samples_.clear();
    puffs_.clear();
    rows_ = {what == ChamberWhat::puffs ? puff_columns : chamber_columns, {}};
    start_s_ = valve_s_ = -1;
    judged_s_ = 0;
    broken_.clear();
    live.what = what;
}

void ChamberTake::end(ChamberLive& live)
{
    live.what.reset();
    live.state = {};
    live.puffs = {};
    live.complete = false;
    live.fresh_puffs.clear();
}

Signal ChamberTake::take_rows()
{
    Signal out{rows_.columns, {}};
    std::swap(out.values, rows_.values);
    return out;
}

void ChamberTake::forget(ChamberLive& live)
{
    live.connected = live.tube = live.valve_shut = false;
    live.door_open = true;
    last_s_ = test_t_s_ = -1;
}

} // namespace fusain::bench
