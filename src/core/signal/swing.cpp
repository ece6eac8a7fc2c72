// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/signal/swing.h"

#include "core/signal/swing_fit.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <vector>

namespace fusain::swing {
namespace {

constexpr double bin_s = 0.040;
constexpr double shortest_window_s = 1.6;
constexpr double min_floor_kg = 0.0008;
/// Window starts that are tried: dense early, where every tenth of a second counts.
constexpr double starts_s[] = {
    0.25, 0.8, 1.5, 2.3, 3.2, 4.2, 5.4, 6.8, 8.4, 10.2, 12.2, 14.4, 16.8, 19.4, 22.2, 25.2, 28.4};
constexpr double trusted_u_kg = 0.040, trusted_periods = 1.0;
constexpr double slowest_half_swing_s = 1.7, largest_swing_kg = 1.8,
                 least_swing_kg = 0.8; ///< for seeing that the client is gone
constexpr double early_s = 1.0, sank_window_s = 3.0, sank_kg = 0.12;
constexpr double rough_floors = 2.4, rough_share = 0.006; ///< a motion that leaves more than this is not the one fitted
constexpr double usual_decay_per_s = 1.0;                 ///< a swing that dies faster may have been stopped by a wall

const Message too_short{
    "too_short", Level::repeat, "", "The trace ended before the swing could be understood. Take the trial again."};
const Message left_early{
    "left_early", Level::repeat, "", "The client came up before the swing could be read. Take the trial again."};
const Message still_rising{"still_rising", Level::repeat, "",
    "The weight was still rising: air was still leaving. Take the trial again, all air out first."};
const Message disturbed{"disturbed", Level::repeat, "",
    "The level moved during the trial, as when a wall is touched. Take the trial again."};
const Message never_calm{"never_calm", Level::repeat, "", "The client never came to rest. Take the trial again."};

struct Estimate {
    double from_s = 0, t_s = 0, kg = 0, u_kg = 0, rise_kg = 0, envelope_kg = 0;
    /// Its window held a whole swing: what half of one says is a guess, however small its error looks
    bool whole_swing = false;
};

} // namespace

struct Reader::Work {
    Settings settings;
    State state;

    std::vector<Bin> bins;
    std::vector<bool> masked; ///< parallel to bins: inside a jerk
    double sum_t = 0, sum_kg = 0;
    int in_bin = 0;
    double bin_ends = bin_s;
    double next_evaluation = 0;

    std::map<int, Fit> fits;     ///< by window start
    double best_u_kg = INFINITY; ///< of the last evaluation
    std::optional<Fit> trusted;  ///< what new samples are held against
    std::vector<Estimate> past;
    Estimate first_word;    ///< the estimate when the reading was first given
    std::size_t judged = 0; ///< bins already held against the trusted fit
    double floor_kg = 0.004;

    std::optional<double> disturbed_at; ///< a disturbance is going on since
    double last_bad_s = 0;
    double barrier_s = 0; ///< windows must start after
    /// Seen from its beginning, the trace went down to where it is: a wall may have been touched
    bool sank = false;
    bool ever_disturbed = false, left = false, finished = false, withdrawn = false;
    int far_bins = 0;

    void close_bin()
    {
        if (in_bin == 0) return;
        bins.push_back({sum_t / in_bin, sum_kg / in_bin});
        masked.push_back(false);
        sum_t = sum_kg = 0;
        in_bin = 0;
    }

    void add(Sample s)
    {
        if (finished || left) {
            state.now_s = s.t_s;
            return;
        }
        if (s.t_s >= bin_ends) {
            close_bin();
            bin_ends = (std::floor(s.t_s / bin_s) + 1) * bin_s;
        }
        sum_t += s.t_s;
        sum_kg += s.kg;
        ++in_bin;
        state.now_s = s.t_s;
        if (s.t_s >= next_evaluation && !bins.empty()) {
            next_evaluation = s.t_s + settings.evaluate_every_s;
            evaluate();
        }
    }

    /// Noise of a bin from sixth differences, which neither a swing below 1.2 Hz nor its second mode reaches.
    void update_floor()
    {
        std::vector<double> d;
        const std::size_t n = bins.size(), from = n > 120 ? n - 120 : 0;
        for (std::size_t i = from + 6; i < n; ++i)
            d.push_back(std::abs(bins[i].kg + bins[i - 6].kg - 6 * (bins[i - 1].kg + bins[i - 5].kg) +
                                 15 * (bins[i - 2].kg + bins[i - 4].kg) - 20 * bins[i - 3].kg));
        if (d.size() < 8) return;
        std::nth_element(d.begin(), d.begin() + static_cast<long>(d.size() / 2), d.end());
        floor_kg = std::max(min_floor_kg, 1.4826 * d[d.size() / 2] / std::sqrt(924.0));
    }

    /// Holds every new bin against what was expected: is the client gone, or was there a jerk?
    void judge_new_bins()
    {
        for (; judged < bins.size(); ++judged) {
            const Bin& bin = bins[judged];
            if (is_far(bin)) {
                if (++far_bins >= 6) {
                    leave(bins[judged >= 6 ? judged - 6 : 0].t_s);
                    return;
                }
            } else {
                far_bins = 0;
            }
            if (trusted && bin.t_s > trusted->end_s) judge_against_trusted(bin);
        }
    }

    bool is_far(const Bin& bin) const
    {
        if (trusted)
            return std::abs(bin.kg - trusted->at(bin.t_s)) > settings.left_kg + 0.5 * trusted->envelope(bin.t_s);
        if (judged < 20) return false;
        double low = INFINITY, high = -INFINITY;
        for (std::size_t i = 0; i + 12 < judged; ++i) {
            low = std::min(low, bins[i].kg);
            high = std::max(high, bins[i].kg);
        }
        if (!(high > low)) return false;
        // later the range has been seen whole
        const double least = bin.t_s < slowest_half_swing_s ? largest_swing_kg : least_swing_kg;
        return std::abs(bin.kg - (high + low) / 2) > 1.3 * std::max((high - low) / 2, least) + settings.left_kg;
    }

    void judge_against_trusted(const Bin& bin)
    {
        const double off = std::abs(bin.kg - trusted->at(bin.t_s));
        const double tolerance =
            std::max(5 * trusted->residual_kg, 0.030) + 3 * trusted->u_level_kg + 0.20 * trusted->envelope(bin.t_s);
        if (off > tolerance) {
            if (!disturbed_at) disturbed_at = bin.t_s - 0.08;
            last_bad_s = bin.t_s;
        }
        if (!disturbed_at) return;
        if (bin.t_s - last_bad_s > 0.35) { // back where it was expected: a jerk, passed
            for (std::size_t i = 0; i < bins.size(); ++i)
                if (bins[i].t_s >= *disturbed_at && bins[i].t_s <= last_bad_s + 0.10) masked[i] = true;
            disturbed_at.reset();
        } else if (bin.t_s - *disturbed_at > 1.0) { // not coming back: what follows is another motion
            barrier_s = bin.t_s - 0.2;
            ever_disturbed = true;
            disturbed_at.reset();
            trusted.reset();
            fits.clear();
        }
    }

    void lose(const Message& reason)
    {
        finished = true;
        state.phase = Phase::lost;
        state.messages = {reason};
    }

    void leave(double t_s)
    {
        left = true;
        finished = true;
        if (state.reading && t_s - state.reading->earliest_s >= settings.stood_before_leaving_s) {
            state.phase = Phase::got_it;
            return;
        }
        state.reading.reset();
        lose(left_early);
    }

    std::vector<Bin> window(double from) const
    {
        std::vector<Bin> out;
        for (std::size_t i = 0; i < bins.size(); ++i)
            if (bins[i].t_s >= from && !masked[i]) out.push_back(bins[i]);
        return out;
    }

    void evaluate()
    {
        judge_new_bins();
        if (left || disturbed_at) {
            if (!left && state.phase != Phase::got_it) state.phase = Phase::hold;
            return;
        }
        update_floor();
        const double now = bins.back().t_s;

        const Fit* best = nullptr;
        std::vector<const Fit*> good;
        const auto try_start = [&](int key, double start) {
            if (start < barrier_s || now - start < shortest_window_s || now - start > settings.longest_window_s) return;
            const std::vector<Bin> part = window(start);
            if (part.size() < 14 || part.back().t_s - part.front().t_s < shortest_window_s - 2 * bin_s) return;
            const auto warm = fits.find(key);
            // a window that told much less than the best one is looked at again now and then only
            if (warm != fits.end() && warm->second.u_level_kg > settings.worth_fitting * best_u_kg &&
                now - warm->second.end_s < settings.refit_every_s)
                return;
            const auto fitted = fit(part, floor_kg, warm == fits.end() ? nullptr : &warm->second);
            if (!fitted) return;
            fits[key] = *fitted;
            if (start < early_s && now - start > sank_window_s && fitted->bubbles_kg < -sank_kg) sank = true;
        };
        int key = 0;
        for (double start : starts_s) try_start(key++, start);
        if (barrier_s > 0) try_start(100, barrier_s + 0.1);
        for (auto it = fits.begin(); it != fits.end();) {
            if (now - it->second.end_s > settings.refit_every_s + settings.evaluate_every_s + bin_s)
                it = fits.erase(it);
            else {
                if (!best || is_better(it->second, *best)) best = &it->second;
                ++it;
            }
        }
        if (!best) {
            state.phase = state.reading ? Phase::got_it : Phase::settling;
            return;
        }
        best_u_kg = best->u_level_kg;
        double spread = 0, weights = 0;
        for (const auto& [k, other] : fits) {
            if (&other == best || other.u_level_kg > 2.5 * best->u_level_kg) continue;
            const double w = 1 / (other.u_level_kg * other.u_level_kg);
            spread += w * std::pow(other.level_kg - best->level_kg, 2);
            weights += w;
        }
        const double disagreement = weights > 0 ? std::sqrt(spread / weights) : 0;
        Estimate e;
        e.from_s = best->start_s;
        e.t_s = now;
        e.kg = best->level_kg;
        e.rise_kg = best->rise_after(now);
        e.envelope_kg = best->envelope(now);
        e.whole_swing = best->end_s - best->start_s > trusted_periods * period(*best);
        e.u_kg = std::sqrt(std::pow(best->u_level_kg, 2) + std::pow(0.5 * disagreement, 2) +
                           std::pow(0.25 * e.rise_kg, 2) + std::pow(settings.floor_u_kg, 2));
        take(e, *best);
        if (best->u_level_kg < trusted_u_kg && e.u_kg < 2 * trusted_u_kg && e.whole_swing) trusted = *best;
    }

    void take(const Estimate& e, const Fit& best)
    {
        state.motion = Motion{
            std::exp(best.main.log_omega) / (2 * M_PI), std::exp(-best.main.log_lambda), e.envelope_kg, e.rise_kg};
        Reading r;
        r.kg = e.kg;
        r.u_kg = e.u_kg;
        r.window_from_s = best.start_s;
        r.window_to_s = best.end_s;
        r.midpoint_kg = midpoint(best);
        state.estimate = r;

        const bool calm = is_calm(e, best);
        past.push_back(e);
        if (!state.reading) {
            if (calm && stood_still(e) && agrees_with_past(e) && hangs_together(best)) {
                r.earliest_s = e.t_s;
                state.reading = r;
                first_word = e;
                state.phase = Phase::got_it;
            } else {
                state.phase = e.u_kg < 3 * settings.target_u_kg ? Phase::reading : Phase::hold;
            }
            return;
        }
        refine(e, r, calm);
    }

    bool is_calm(const Estimate& e, const Fit& best) const
    {
        return e.t_s >= settings.earliest_s &&
               e.u_kg <= (e.t_s < settings.patient_s ? settings.target_u_kg : settings.late_target_u_kg) &&
               std::abs(e.rise_kg) <= settings.rise_limit_kg &&
               best.end_s - best.start_s >= std::min(1.0, 0.6 * period(best)) && is_one_motion(best) &&
               only_bubbles(best);
    }

    bool is_one_motion(const Fit& f) const
    {
        return f.residual_kg < rough_floors * floor_kg + rough_share * f.envelope(f.start_s);
    }

    /// A window that one motion explains before one that it does not, then the smaller error.
    bool is_better(const Fit& f, const Fit& other) const
    {
        if (is_one_motion(f) != is_one_motion(other)) return is_one_motion(f);
        return f.u_level_kg < other.u_level_kg;
    }

    bool only_bubbles(const Fit& f) const
    {
        return f.bubbles_kg > -settings.sinking_limit_kg && f.bubbles_kg < settings.bubbles_limit_kg;
    }

    static double period(const Fit& f) { return 2 * M_PI / std::exp(f.main.log_omega); }

    bool stood_still(const Estimate& e) const
    {
        int seen = 0;
        for (auto it = past.rbegin() + 1; it != past.rend() && e.t_s - it->t_s <= settings.confirm_s + 1e-9; ++it) {
            if (std::abs(it->kg - e.kg) > settings.confirm_kg) return false;
            ++seen;
        }
        return seen >= 3;
    }

    /// A later calm must be the same calm: touching a wall or leaking air moves the level. What an earlier look made
    /// of samples that one motion explains by now says nothing more.
    bool agrees_with_past(const Estimate& e) const
    {
        bool verified = !ever_disturbed;
        for (const Estimate& p : past) {
            if (p.u_kg > trusted_u_kg || !p.whole_swing || p.from_s > e.from_s - bin_s) continue;
            if (std::abs(p.kg - e.kg) > 0.020 + 3.0 * std::hypot(p.u_kg, e.u_kg)) return false;
            if (p.t_s < barrier_s) verified = true;
        }
        return verified;
    }

    /// True when the fit also explains the trace before its own window, back to t.
    bool explains(const Fit& f, double from) const
    {
        double sum = 0, envelope = 0;
        int n = 0;
        for (std::size_t i = 0; i < bins.size(); ++i) {
            if (bins[i].t_s < from || masked[i]) continue;
            sum += bins[i].kg - f.at(bins[i].t_s);
            envelope = f.envelope(bins[i].t_s);
            if (++n < 5) continue;
            if (std::abs(sum / n) > std::max(4 * floor_kg, 0.012) + 0.03 * envelope) return false;
            sum = n = 0;
        }
        return true;
    }

    /// A reading must stand for one motion about one level, from letting go until now. What came before the explained
    /// stretch may be rough, but must not show another level: a wall touched early looks calm afterwards.
    bool hangs_together(const Fit& best) const
    {
        double from = best.start_s;
        for (const auto& [key, f] : fits)
            if (f.start_s < from && only_bubbles(f) &&
                std::abs(f.level_kg - best.level_kg) < 0.015 + 2 * best.u_level_kg && explains(f, f.start_s))
                from = f.start_s;
        const double begin = std::max(barrier_s, starts_s[0]), span = best.end_s - from;
        const double shortest = ever_disturbed ? settings.span_after_trouble_s : settings.shortest_span_s;
        if (span < std::max({shortest, 1.1 * period(best), settings.explained_share * (best.end_s - begin)}))
            return false;
        const bool stopped = std::exp(best.main.log_lambda) > usual_decay_per_s;
        if (stopped && sank) return false; // drag would explain a wall away that was touched within the first swing
        if (from <= begin + 0.2 || (from <= begin + 0.7 && !sank && !stopped)) return true;
        if (best.end_s - begin > settings.latest_rough_s) return false;
        bool told = false;
        for (double end = from - 0.05; end > begin + 0.4; end -= 0.25) {
            std::vector<Bin> part;
            for (std::size_t i = 0; i < bins.size(); ++i)
                if (bins[i].t_s >= begin && bins[i].t_s <= end && !masked[i]) part.push_back(bins[i]);
            const auto early = early_level(part, best);
            if (!early || early->residual_kg > std::max(3 * floor_kg, 0.010) + 0.02 * early->amplitude_kg) continue;
            const double slack = 0.010 + 2 * best.u_level_kg;
            if (best.level_kg < early->low_kg - slack || best.level_kg > early->high_kg + slack) return false;
            told = told || early->high_kg - early->low_kg < 0.080;
        }
        return told;
    }

    void refine(const Estimate& e, Reading r, bool calm)
    {
        Reading& standing = *state.reading;
        const double off = std::abs(e.kg - first_word.kg);
        if (!ever_disturbed && calm && e.u_kg < standing.u_kg && off <= settings.refine_kg + 3 * first_word.u_kg) {
            r.earliest_s = standing.earliest_s;
            standing = r;
        } else if (e.u_kg < 2 * settings.target_u_kg && off > settings.refine_kg + 3 * first_word.u_kg) {
            // calm went on, and it was another level: better no number than a wrong one
            state.reading.reset();
            if (ever_disturbed) return lose(disturbed);
            withdrawn = true; // the first word was too early; a later one may still come
            state.phase = Phase::hold;
        }
    }

    double midpoint(const Fit& best) const
    {
        const double from = std::max(best.start_s, best.end_s - period(best));
        double low = INFINITY, high = -INFINITY;
        for (std::size_t i = 1; i + 1 < bins.size(); ++i) {
            if (bins[i].t_s < from || masked[i]) continue;
            const double smooth = (bins[i - 1].kg + bins[i].kg + bins[i + 1].kg) / 3;
            low = std::min(low, smooth);
            high = std::max(high, smooth);
        }
        return high >= low ? (high + low) / 2 : best.level_kg;
    }

    void finish()
    {
        if (finished) return;
        close_bin();
        if (!bins.empty()) evaluate();
        if (finished) return;
        finished = true;
        if (state.reading) {
            state.phase = Phase::got_it;
            return;
        }
        const bool rising = !past.empty() && state.motion && state.motion->rise_kg > settings.rise_limit_kg;
        if (state.now_s < 4.0 && !ever_disturbed)
            lose(too_short);
        else if (rising)
            lose(still_rising);
        else if (ever_disturbed || disturbed_at || withdrawn)
            lose(disturbed);
        else
            lose(never_calm);
    }
};

Reader::Reader(Settings settings) : work_(std::make_unique<Work>()) { work_->settings = settings; }
Reader::~Reader() = default;
Reader::Reader(Reader&&) noexcept = default;
Reader& Reader::operator=(Reader&&) noexcept = default;
void Reader::add(Sample sample) { work_->add(sample); }
const State& Reader::state() const { return work_->state; }

const State& Reader::finish()
{
    work_->finish();
    return work_->state;
}

State read(std::span<const Sample> trace, Settings settings)
{
    Reader reader(settings);
    for (const Sample& sample : trace) reader.add(sample);
    return reader.finish();
}

} // namespace fusain::swing
