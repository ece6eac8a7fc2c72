// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/signal/chamber.h"
#include "core/density/displacement.h"
#include "core/density/hydrostatic.h"
#include "core/quality/judgement.h"
#include "core/before/protocol.h"

#include <nlohmann/json.hpp>

#include <map>
#include <optional>
#include <string>
#include <vector>

/// A visit to one method as an append-only log. The screen is a view of it; replaying the log gives the same result,
/// bit for bit. Every event kind with its body is described in docs/formats/visit-log.md.
namespace fusain::bench {

using Json = nlohmann::json;

/// One line of the log.
struct Event {
    long seq = 0;       ///< 1, 2, 3 … without gaps
    std::string at_utc; ///< ISO 8601 with milliseconds
    std::string who;    ///< technician
    std::string kind;
    Json body = Json::object();
};

/// The steps of a visit. Each method takes some of them, in its own order.
enum class Step { who, stops, mass, lungs, zero, water, trials, prepare, calibrate, runs, lung_gas, result };
inline constexpr int step_count = 12;
const char* title(Step step);

struct Blow {
    double volume_l = 0; ///< as the spirometer gave it (ATPS)
    bool thrown_out = false;
    std::string reason;
};

/// One recording of a raw signal and what was read from it: a trial under water, or a reading of the chamber.
struct Trial {
    enum class Status { running, taken, thrown_out, broken } status = Status::running;
    enum class What { weighing, empty, cylinder, run, puffs } what = What::weighing;
    int number = 0;
    bool has_reading = false;
    std::string begun_at, reason; ///< reason: why thrown out or broken
    // weighing
    double kg = 0, u_kg = 0;
    double window_from_s = 0, window_to_s = 0, earliest_s = 0, midpoint_kg = 0;
    // empty, cylinder, run
    chamber::Ratio ratio;
    // puffs
    double slope = 0, u_slope = 0, merit = 0, peak_cmh2o = 0, barometric_mmhg = 0;
};
const char* word(Trial::What what); ///< as the log has it
const char* title(Trial::What what);
const char* word(Trial::Status status);

/// A choice that was changed, with who and when.
struct Choice {
    std::string what, from, to, who, at_utc;
};

/// Somebody has seen that a result asks to be measured again, and gives it out all the same.
struct Acknowledgement {
    std::vector<std::string> codes;
    std::string who, at_utc;
};

/// A finished visit that was opened again.
struct Reopening {
    std::string reason, who, at_utc;
};

class Visit;

/// What a measuring method is on the bench. Adding a method begins with a row of these (ARCHITECTURE.md).
struct MethodRow {
    protocol::Method method;
    const char* name;        ///< "hydrostatic weighing", on sheets
    const char* caution;     ///< stands beside the steps
    const char* before_any;  ///< "so far", while there is nothing
    const char* not_yet;     ///< "so far", while it is no result by the rules
    std::vector<Step> steps; ///< the last is the result
    std::optional<Message> (*refuse_trial)(const Visit&, const Event&);
    /// Of a trial that gives a reading; nothing when it gives none now
    std::optional<double> (*value)(const Visit&, const Trial&);
    Outcome<densitometry::Result> (*result)(const Visit&);
    Outcome<densitometry::Result> (*provisional)(const Visit&);
    std::vector<densitometry::WhatIf> (*what_ifs)(const Visit&);
};
/// Null when the method has no bench yet.
const MethodRow* method_row(protocol::Method method);

/// Who was tested, as the record stood then.
struct Subject {
    long client_id = 0;
    std::string number, name, birth_date; ///< birth_date: ISO date
    Sex sex = Sex::female;
    double height_cm = 0;
};

/// Everything the log says. Only apply() changes it.
class Visit {
public:
    /// Checks the event against the state and applies it. Nothing when it was applied; else why not, and nothing has
    /// changed.
    std::optional<Message> apply(const Event& event);
    /// The same check without applying.
    std::optional<Message> refuse(const Event& event) const;

    Step next_step() const; ///< the first step that is not done
    bool done(Step step) const;
    bool stopped() const { return !stop_reasons.empty(); }
    /// Nothing more will be measured in it, unless it is opened again.
    bool ended() const { return finished || stopped() || !given_up.empty(); }

    const MethodRow& row() const { return *method_row(method); }
    const std::vector<Step>& steps() const { return row().steps; }
    /// The trial that is running, if any.
    const Trial* running() const
    {
        return !trials.empty() && trials.back().status == Trial::Status::running ? &trials.back() : nullptr;
    }
    double age_y() const; ///< on the day of the visit, in the lab's zone
    /// Day of the visit, ISO, by the lab's clock; in older visits by UTC.
    std::string day() const { return (local.empty() ? started_at : local).substr(0, 10); }
    double height_cm() const { return height_today_cm.value_or(subject.height_cm); }
    /// Readings that are taken, in order, with their trial numbers: masses under water, or raw volumes since the
    /// calibration.
    std::vector<double> readings() const;
    std::vector<int> reading_numbers() const;
    /// With every caution that concerns it: of the computation, of the method's visit, and of the person (mass,
    /// height).
    Outcome<densitometry::Result> result() const;
    /// Cautions of the result that ask for a new measurement and that nobody has acknowledged yet.
    Messages to_acknowledge() const;
    /// A result from what there is, when it is not one yet by the rules: to look at only.
    Outcome<densitometry::Result> provisional() const { return row().provisional(*this); }
    std::vector<densitometry::WhatIf> what_ifs() const { return row().what_ifs(*this); }

    // hydrostatic
    std::optional<double> best_blow_l() const; ///< the largest blow kept, ATPS
    int blows_kept() const;
    /// Input of the computation from what the log holds. Nothing before the trials.
    std::optional<hydrostatic::Input> hydrostatic_input() const;

    // air displacement
    /// The newest calibration. Refused while there is none.
    Outcome<chamber::Calibration> calibration() const;
    /// Of the reading that ended the newest calibration; empty while there is none.
    std::string calibrated_at() const;
    std::optional<displacement::Input> displacement_input() const;
    /// The newest lung gas that was accepted, with its uncertainty.
    struct Gas {
        double litres = 0, u_l = 0;
    };
    std::optional<Gas> measured_gas() const;
    /// What the result really uses: puffs that were thrown out cannot be used, whatever was chosen.
    displacement::LungRoute gas_route_used() const
    {
        return gas_route == displacement::LungRoute::measured && measured_gas() ? gas_route
                                                                                : displacement::LungRoute::predicted;
    }
    const Trial* last_taken(Trial::What what) const;

    protocol::Method method = protocol::Method::hydrostatic;
    long last_seq = 0;
    int log_version = 1; ///< 2: since a finished visit takes only choices, remarks, acknowledgements and a reopening
    std::string local;   ///< when it began by the lab's clock, 2026-11-26T09:20; empty in older visits
    std::optional<judgement::LastVisit> last; ///< the client's visit before this one
    std::string started_at, finished_at, technician, software;
    Subject subject;
    bool identity_confirmed = false;
    std::optional<double> height_today_cm;
    bool stops_asked = false;
    std::vector<std::string> stop_reasons, notes; ///< ids of the questions
    /// The screening's findings in words, when it was done by the screening
    std::vector<std::string> note_words;
    std::string instrument;                           ///< serial number; empty in visits before the register
    std::map<std::string, protocol::Verdict> outside; ///< rules of preparation that were not kept
    std::string protocol_used;  ///< id and version the preparation was judged by; empty: not noted
    bool pregnant = false;      ///< or possibly so
    std::string comparability;  ///< what the screening said of the last visit
    protocol::HouseRules house; ///< the lab's schools when the visit began
    long booking_id = 0;
    std::string zone; ///< IANA name of the lab's time zone; empty in older visits
    std::optional<double> mass_kg;
    std::optional<double> mass_before_kg; ///< weighed again after a recording: what it was before
    std::string mass_source;
    std::vector<Blow> blows;
    std::optional<double> gas_temp_c, barometric_mmhg;
    std::optional<double> measured_rv_l;
    std::optional<hydrostatic::LungRoute> lung_route;
    std::string lung_equation = "quanjer_1993";
    bool lungs_done = false;
    std::optional<double> zero_kg;
    double zero_sd_kg = 0;
    std::optional<double> water_temp_c;
    double salinity_g_per_l = 0;
    std::optional<double> cylinder_l;            ///< certified volume used
    double cylinder_register_l = 0;              ///< that of the register when the visit began; 0: unknown
    std::vector<std::string> prepared, left_out; ///< what was seen to; what leaving the rest out does, in words
    displacement::LungRoute gas_route = displacement::LungRoute::predicted;
    std::string gas_equation = lung::default_gas_id;
    bool gas_done = false;
    std::vector<Trial> trials;
    std::string trial_rule = trials::default_id;
    std::string conversion = density::default_id;
    std::string range = "gallagher_2000";
    std::vector<Choice> choices;
    bool finished = false;
    std::string given_up; ///< why it ended without a result
    std::vector<Acknowledgement> acknowledgements;
    std::vector<Reopening> reopenings;

private:
    /// The visit with the event, or why not.
    Outcome<Visit> after(const Event& event) const;
};

/// How old a calibration may be when the first run begins and when any later one does, minutes, and how large a test
/// chamber can be: the house's own, marked as such in docs/chamber-signal.md.
inline constexpr double calibration_holds_min = 15, calibration_ends_min = 30, smallest_chamber_l = 250,
                        largest_chamber_l = 900;

/// Whole years and their fraction between two ISO dates (YYYY-MM-DD, time ignored). Years count from birthday to
/// birthday.
double age_between(const std::string& birth_date, const std::string& day);

} // namespace fusain::bench
