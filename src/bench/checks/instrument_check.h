// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/lines/line.h"
#include "bench/visit/event.h"
#include "core/quality/quality.h"
#include "core/before/schedule.h"

/// Making an instrument ready: guided checks as tables of steps, and a run of one as an append-only log, so that a
/// timer or a half-done check survives a restart. Event kinds: docs/formats/instrument-check.md.
namespace fusain::bench {

/// What the lab may own. A scale has no method of its own.
enum class InstrumentKind { scale, impedance, air_displacement, hydrostatic, absorptiometry };

struct CheckStep {
    enum class Kind {
        confirm, ///< the technician says that it is done
        wait,    ///< a time that must pass; counts from the step before
        expect,  ///< a time that it usually takes; may be confirmed before
        read,    ///< readings from the line against the reference
        water,   ///< the water's temperature from the line
        zero     ///< the load cell's zero from the line
    } kind = Kind::confirm;
    const char* id;
    const char* words;                ///< what to do now
    const char* hint;                 ///< cautions, how
    int minutes = 0;                  ///< wait, expect
    Channel channel = Channel::scale; ///< read
    const char* ask = "";             ///< what the stand-in is told (demo)
};

struct KindRow {
    InstrumentKind kind;
    const char* id;    ///< in the records: "hydrostatic"
    const char* title; ///< "tank"
    std::optional<protocol::Method> method;
    const char* reference_title; ///< what the check is made against
    const char* unit;
    double reference; ///< usual value of it
    quality::Tolerance (*tolerance)(double reference);
    int decimals;
    double least_sd;             ///< for the chart: the display step of the reading
    int duration_min, after_min; ///< client on it; to make it free again
    std::vector<schedule::Lead> first_lead, each_lead;
    std::vector<CheckStep> steps;
    const char* check_title; ///< "Check the scale with the certified mass"
};
const std::vector<KindRow>& instrument_kinds();
const KindRow& row(InstrumentKind kind);
const KindRow* instrument_kind(const std::string& id);

/// One run of a check. Only apply() changes it.
class CheckRun {
public:
    explicit CheckRun(InstrumentKind kind = InstrumentKind::scale, double reference = 0)
        : kind_(kind), reference_(reference)
    {
    }

    std::optional<Message> apply(const Event& event);
    std::optional<Message> refuse(const Event& event) const;

    InstrumentKind kind() const { return kind_; }
    double reference() const { return reference_; }
    int next() const { return next_; } ///< index of the step to do; the number of steps when all are done
    bool all_done() const { return next_ >= static_cast<int>(row(kind_).steps.size()); }
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
    InstrumentKind kind_;
    double reference_, reference_x_ = 0;
    int next_ = 0;
    bool finished_ = false;
    std::map<std::string, std::vector<double>> readings_, reactances_;
};

/// What is known of an instrument's last check.
struct LastCheck {
    bool passed = false;
    bool finished = false;
    bool today = false;
};

/// May a test start on it? `words` says why not and the shortest way.
struct Readiness {
    bool ready = false;
    std::string words;
};
Readiness readiness(InstrumentKind kind, bool in_use, const std::string& calibration_due, const std::string& today,
    const std::optional<LastCheck>& last, const quality::Chart& chart);

double seconds_of(const std::string& iso_utc); ///< since 1970

} // namespace fusain::bench
