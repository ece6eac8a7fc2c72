// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/chamber/chamber_take.h"

#include <cmath>

namespace fusain::bench {
namespace {
constexpr double longest_gap_s = 0.5, judge_every_s = 0.5, puffs_s = 5.0, shown_s = 6.0;
}

const ChamberShown& chamber_shown(const Live& live) { return live.of<ChamberShown>(chamber_row().method); }

std::shared_ptr<const Shown> ChamberShown::idle() const
{
    auto out = std::make_shared<ChamberShown>(*this);
    out->what.reset();
    out->complete = false;
    out->state = {};
    out->puffs = {};
    return out;
}

bool ChamberTake::hears(Channel c) const
{
    return c == Channel::test_pressure || c == Channel::reference_pressure || c == Channel::door ||
           c == Channel::valve || c == Channel::airway || c == Channel::barometer;
}

void ChamberTake::break_off(const std::string& why)
{
    if (now_.what && broken_.empty()) broken_ = why;
}

void ChamberTake::feed(const Reading& r)
{
    if (r.channel == Channel::barometer) { // the room's: on another line
        now_.barometric_mmhg = r.value;
        return;
    }
    if (!hears(r.channel)) return;
    now_.connected = true;
    switch (r.channel) {
    case Channel::door: now_.door_open = r.value > 0.5; return;
    case Channel::valve: now_.valve_shut = r.value > 0.5; return;
    case Channel::airway:
        airway_pa_ = r.value;
        now_.tube = true;
        return;
    case Channel::test_pressure:
        test_pa_ = r.value;
        test_t_s_ = r.t_s;
        return;
    default:
        if (std::abs(r.t_s - test_t_s_) < 0.0015) add({r.t_s, test_pa_, r.value, now_.door_open});
    }
}

void ChamberTake::lost(Channel channel, Loss how)
{
    if (channel == Channel::barometer) now_.barometric_mmhg.reset();
    if (channel != Channel::test_pressure && channel != Channel::reference_pressure) return;
    now_.connected = now_.tube = now_.valve_shut = false;
    now_.door_open = true;
    last_s_ = test_t_s_ = -1;
    break_off(how == Loss::silent ? "a pressure sensor of the chamber fell silent" : "the line was lost");
}

void ChamberTake::add(const chamber::Sample& s)
{
    if (!now_.pressures.empty() && s.t_s < now_.pressures.back().t_s) now_.pressures.clear(); // another line's clock
    now_.pressures.push_back(s);
    while (s.t_s - now_.pressures.front().t_s > shown_s) now_.pressures.pop_front();
    const double gap = last_s_ < 0 ? 0 : s.t_s - last_s_;
    last_s_ = s.t_s;
    if (!now_.what || now_.complete || !broken_.empty()) return;
    if (gap < 0 || gap > longest_gap_s) return break_off("the signal had a gap");
    if (start_s_ < 0) start_s_ = s.t_s;
    const double t = s.t_s - start_s_;
    if (*now_.what == ChamberWhat::puffs) {
        rows_.add({t, s.test_pa, airway_pa_});
        if (s.door_open) break_off("the door was opened");
        if (!now_.valve_shut && valve_s_ < 0) return;
        if (valve_s_ < 0) valve_s_ = t;
        now_.puff_trace.push_back({t - valve_s_, s.test_pa, airway_pa_});
        now_.complete = t - valve_s_ >= puffs_s || !now_.valve_shut;
        if (now_.complete || t - judged_s_ > judge_every_s / 2) {
            judged_s_ = t;
            now_.puffs = chamber::read_puffs(now_.puff_trace, options_.drive_hz);
        }
        return;
    }
    rows_.add({t, s.test_pa, s.reference_pa, s.door_open ? 1.0 : 0.0});
    samples_.push_back({t, s.test_pa, s.reference_pa, s.door_open});
    if (s.door_open) return break_off("the door was opened"); // the client may have wanted out: never a reason to wait
    now_.complete = t >= chamber_run_s;
    if (!now_.complete && t - judged_s_ < judge_every_s) return;
    judged_s_ = t;
    now_.state = chamber::read(samples_, options_);
}

void ChamberTake::begin(const Visit& visit, const TakeRow& what)
{
    for (ChamberWhat w : {ChamberWhat::empty, ChamberWhat::cylinder, ChamberWhat::run, ChamberWhat::puffs}) {
        if (std::string_view(word(w)) != what.word) continue;
        const bool calibrates = w == ChamberWhat::empty || w == ChamberWhat::cylinder;
        const auto line = chamber_of(visit).calibration(visit);
        begin(w, line && !calibrates ? chamber::options_of(*line) : chamber::Options{});
    }
    if (!now_.connected)
        break_off("there is no line to the chamber");
    else if (now_.door_open)
        break_off("the door was open");
}

void ChamberTake::begin(ChamberWhat what, const chamber::Options& options)
{
    end();
    options_ = options;
    samples_.clear();
    now_.puff_trace.clear();
    rows_ = {what == ChamberWhat::puffs ? puff_columns : chamber_columns, {}};
    start_s_ = valve_s_ = -1;
    judged_s_ = 0;
    broken_.clear();
    now_.what = what;
}

void ChamberTake::end()
{
    now_.what.reset();
    now_.state = {};
    now_.puffs = {};
    now_.complete = false;
}

Signal ChamberTake::rows() { return std::exchange(rows_, {rows_.columns, {}}); }

} // namespace fusain::bench
