// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/checks/check_events.h"
#include "bench/checks/instrument_kind.h"

#include <span>

/// Making an instrument ready: guided checks as tables of steps, and a run of one as an append-only log, so that a
/// timer or a half-done check survives a restart. Event kinds: docs/formats/instrument-check.md.
namespace fusain::bench {

/// How a lab knows that an instrument is good, chosen by name at each.
struct CheckWay {
    const char *id, *title, *words; ///< words: on the lab sheet
};
inline constexpr CheckWay check_ways[] = {{"reference", "its reference", "held against its reference"},
    {"person", "one of us, measured daily", "one of the staff measured on it, beside their usual numbers"},
    {"self_test", "its own self-test, noted", "its own self-test, as it was noted"},
    {"none", "not checked", "not checked, by this lab's choice"}};
/// Null: there is no such way. Empty: the first.
const CheckWay* check_way(std::string_view id);
/// Its reference always; besides what the kind's row allows.
bool check_fits(const InstrumentKind& kind, std::string_view way);
/// What finished numbers of an instrument are less sure by when nobody checks it, % fat. This lab's rule.
double unchecked_error(std::string_view way);

/// The steps of a check of this kind, made in this way.
const std::vector<CheckStep>& check_steps(const InstrumentKind& kind, std::string_view way);

std::string check_title(const InstrumentKind& kind, std::string_view way);

/// What its chart is of, and in what.
struct ChartOf {
    const char *title, *unit;
    double reference = 0;
    int decimals = 1;
    double least_sd = 0;
};
ChartOf chart_of(const InstrumentKind& kind, std::string_view way, double reference);

inline constexpr int usual_least = 3;                                                        ///< fewer say nothing yet
inline constexpr double percent_apart = 2, mass_apart_kg = 2, resistance_apart_share = 0.04; ///< this lab's rule

/// One run of a check. Only apply() changes it.
class CheckRun {
public:
    explicit CheckRun(const InstrumentKind& kind, double reference = 0, std::string way = "")
        : kind_(&kind), reference_(reference), way_(std::move(way))
    {
    }

    [[nodiscard]] std::optional<Message> apply(const Event& event);
    [[nodiscard]] std::optional<Message> refuse(const Event& event) const;

    const InstrumentKind& kind() const { return *kind_; }
    double reference() const { return reference_; }
    int next() const { return next_; } ///< index of the step to do; the number of steps when all are done
    const std::vector<CheckStep>& steps() const { return check_steps(*kind_, way_); }
    const std::string& way() const { return way_; }
    const std::string& person() const { return person_; } ///< who of the staff was measured; empty: nobody
    /// How many readings a step takes.
    int wanted(const CheckStep& step) const;
    bool all_done() const { return next_ >= static_cast<int>(steps().size()); }
    bool finished() const { return finished_; }
    /// Seconds until a `wait` step is over (0: it is), as of a moment in seconds since 1970; for `expect` until it
    /// usually is.
    double seconds_left(double now_s) const;
    const std::vector<double>& readings(const std::string& step) const;
    double reference_x() const { return reference_x_; } ///< of a network; 0: a plain resistor
    /// Of the step that reads against the reference; when several do (five channels), the worst of them. With a
    /// reference network the reactance is held against its own limit: so the phase is checked too.
    Outcome<quality::CheckResult> result() const;
    std::optional<double> water_c, zero_kg;

    long last_seq = 0;
    std::string started_at, who;
    double step_since_s = 0; ///< when the step to do came up

private:
    void begin(const checking::Started& started, const Stamp& stamp);
    [[nodiscard]] std::optional<Message> refuse_step(const std::string& step) const;
    [[nodiscard]] std::optional<Message> refuse_done(const checking::Done& done, const Stamp& stamp) const;
    [[nodiscard]] std::optional<Message> refuse_reading(const checking::Reading& reading) const;
    void take(const checking::Reading& reading, const Stamp& stamp);
    void go_on(const Stamp& stamp);
    const CheckStep& step_to_do() const { return steps()[static_cast<std::size_t>(next_)]; }
    Outcome<quality::CheckResult> beside_usual() const;
    const InstrumentKind* kind_;
    double reference_, reference_x_ = 0;
    std::string way_, person_;
    std::map<std::string, Usual> usual_; ///< of the staff, when the check began
    int next_ = 0;
    bool finished_ = false;
    std::map<std::string, std::vector<double>> readings_, reactances_;
};

/// What is known of an instrument's last check.
struct LastCheck {
    bool passed = false;
    bool finished = false;
    int days_ago = 0;
};

/// How often an instrument is checked, and what a missed check does. A tank and an X-ray table: every day, or no test.
struct CheckRule {
    int every_days = 1;
    bool forbids = true;
};

/// May a test start on it? `words` says why not and the shortest way.
struct Readiness {
    bool ready = false;
    std::string words;
    std::string caution{}; ///< what a test on it is told with all the same; empty: nothing
};
struct ToBeReady {
    const InstrumentKind* kind;
    std::string check_by; ///< a way; empty: by its reference
    bool in_use = true;
    std::string calibration_due, today; ///< ISO
};
Readiness readiness(
    const ToBeReady& of, const std::optional<LastCheck>& last, const quality::Chart& chart, const CheckRule& rule = {});

double seconds_of(const std::string& iso_utc); ///< since 1970

} // namespace fusain::bench
