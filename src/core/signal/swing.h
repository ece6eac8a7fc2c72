// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"

#include <memory>
#include <optional>
#include <span>

/// Reading a swinging load cell: the level a damped swing dies out to, with its standard error, as early as it can be
/// told. The method and its reasoning are written down in docs/calm-window.md.
namespace fusain::swing {

struct Sample {
    double t_s = 0; ///< since the client has blown out and the chair was let go
    double kg = 0;
};

/// What the reader wants from the technician and the client now.
enum class Phase {
    settling, ///< nothing can be told yet
    hold,     ///< the swing is understood; keep still
    reading,  ///< the reading is there but not yet sure enough
    got_it,   ///< the reading stands: knock
    lost,     ///< disturbed or left: no reading can come from this trial
};

/// The fitted swing: kg(t) = level − bubbles·exp(−t/bubble_s) + amplitude·exp(−t/decay_s)·cos(…).
struct Motion {
    double frequency_hz = 0;
    double decay_s = 0;
    double envelope_kg = 0; ///< half-width of the swing at the latest sample
    double rise_kg = 0;     ///< what bubbles still leaving would add after the latest sample
};

struct Reading {
    double kg = 0;
    double u_kg = 0; ///< standard error
    double window_from_s = 0, window_to_s = 0;
    double earliest_s = 0;  ///< when it was first given
    double midpoint_kg = 0; ///< middle of the last full swing in the window, the cross-check
};

struct State {
    Phase phase = Phase::settling;
    double now_s = 0;
    std::optional<Reading> estimate; ///< best so far, sure or not
    std::optional<Reading> reading;  ///< set once it stands; later samples may only refine it
    std::optional<Motion> motion;
    /// Why there is no reading: never_calm, still_rising, left_early, disturbed, too_short
    Messages messages;
};

struct Settings {
    double target_u_kg = 0.0070; ///< standard error at which a reading is given
    /// The same once the client has held still for `patient_s`: the error claimed is about twice the true one
    double late_target_u_kg = 0.0130;
    double patient_s = 4.8;
    double earliest_s = 2.5; ///< never before
    double evaluate_every_s = 0.10;
    double confirm_s = 0.40;             ///< the estimate must have stood still for so long
    double confirm_kg = 0.012;           ///< within this
    double rise_limit_kg = 0.005;        ///< more still to come means bubbles or breath are still leaving
    double sinking_limit_kg = 0.06;      ///< bubbles only leave: a level that falls by more is something else
    double bubbles_limit_kg = 0.25;      ///< more than bubbles: breath
    double left_kg = 0.90;               ///< a departure larger than this, and sustained, means the client has left
    double shortest_span_s = 2.0;        ///< one motion must explain at least so much of the trace
    double span_after_trouble_s = 3.5;   ///< the same once something has moved the client
    double explained_share = 0.4;        ///< and this share of the time since letting go
    double latest_rough_s = 7.0;         ///< later than this, only a motion explained from the beginning counts
    double refine_kg = 0.020;            ///< a reading that moves by more than this and 3 u is withdrawn
    double floor_u_kg = 0.0015;          ///< what no averaging takes away: load cell, heartbeat
    double stood_before_leaving_s = 0.5; ///< nobody hears a knock and is up sooner than that
    double longest_window_s = 9.0;
    /// Windows with up to so many times the best one's error are fitted at every evaluation,
    double worth_fitting = 2.5;
    double refit_every_s = 0.45; ///< the others so often
};

/// Streaming reader. Feed samples in order of time; steady or jittering rates from 20 to 2000 Hz.
/// The same samples in the same order give the same state, bit for bit.
class Reader {
public:
    explicit Reader(Settings settings = {});
    ~Reader();
    Reader(Reader&&) noexcept;
    Reader& operator=(Reader&&) noexcept;

    void add(Sample sample);
    const State& state() const;
    /// The trace has ended: the last word, with the reason when there is no reading.
    const State& finish();

private:
    struct Work;
    std::unique_ptr<Work> work_;
};

/// Reads a whole recorded trace.
/// Status ok with a reading, or repeat with never_calm, still_rising, left_early, disturbed or too_short and none.
State read(std::span<const Sample> trace, Settings settings = {});

} // namespace fusain::swing
