// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/analyser/analyser.h"
#include "bench/lines/live.h"

namespace fusain::bench {

inline constexpr const char* analyser_columns = "t_s,segment,f_khz,r_ohm,x_ohm"; ///< segment: 0 right arm … 4 left leg

/// How long all five are measured, and one again, by its own points: it comes round in turn with the others. Seconds.
inline constexpr double spectrum_s = 60, again_s = 4.5;

/// What the analyser shows.
struct AnalyserShown : Shown {
    bool hands = false;                                           ///< all four electrodes of the hands are touched
    bool speaks_contacts = false;                                 ///< it tells contacts at all
    std::optional<double> platform_kg;                            ///< its own scale, now
    std::array<double, impedance::electrode_count> contact_ohm{}; ///< now; 0: not heard
    double mass_end_kg = 0;      ///< by the platform while the last point came; 0: not heard
    std::string what;            ///< of the recording that runs; empty: none
    impedance::SweepState state; ///< of the recording
    double wanted_s = 0;
    bool lost = false; ///< the line is gone in the middle: it goes on when it is back
    std::shared_ptr<const Shown> idle() const override;
    bool measures(impedance::Segment segment) const;
};
const AnalyserShown& analyser_shown(const Live& live);

/// Collects one recording of the analyser and judges it as it grows. A lost line or a client who stepped off is a
/// pause: what was measured stays, and it goes on.
class AnalyserTake : public Take {
public:
    bool hears(Channel channel) const override;
    void feed(const Reading& reading) override;
    void lost(Channel channel, Loss how) override;
    void begin(const Visit& visit, const TakeRow& what) override;
    void begin(const std::string& what, std::optional<double> mass_kg);
    void end() override;
    std::shared_ptr<const Shown> state() override { return std::make_shared<AnalyserShown>(now_); }
    Signal rows() override;
    const std::string& broken() const override { return broken_; }
    const AnalyserShown& now() const { return now_; }

private:
    void point(const Reading& reading, impedance::Segment segment);
    void judge(double t_s);
    AnalyserShown now_;
    impedance::SweepReader reader_;
    Signal rows_;
    double judged_s_ = 0, start_s_ = 0;
    bool begun_ = false; ///< points of the recording have come
    std::string broken_;
};

/// The body of `trial_taken` for what stands, and why it cannot be taken.
std::optional<Standing> analyser_standing(const Shown& shown, int number);
/// Which segments must be measured again before anything is computed from them; none: it can be taken.
std::vector<impedance::Segment> again(const AnalyserShown& shown);

} // namespace fusain::bench
