// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/hydrostatic.h"
#include "core/protocol.h"

#include <nlohmann/json.hpp>

#include <optional>
#include <string>
#include <vector>

/// A hydrostatic visit as an append-only log. The screen is a view of it; replaying the log gives the same result, bit for bit.
/// Every event kind with its body is described in docs/formats/visit-log.md.
namespace fusain::bench {

using Json = nlohmann::json;

/// One line of the log.
struct Event {
    long seq = 0;          ///< 1, 2, 3 … without gaps
    std::string at_utc;    ///< ISO 8601 with milliseconds
    std::string who;       ///< technician
    std::string kind;
    Json body = Json::object();
};

/// The steps of the visit in their order (handbook 1 §3).
enum class Step { who, stops, mass, lungs, zero, water, trials, result };
inline constexpr int step_count = 8;
const char* title(Step step);

struct Blow {
    double volume_l = 0; ///< as the spirometer gave it (ATPS)
    bool thrown_out = false;
    std::string reason;
};

struct Trial {
    enum class Status { running, taken, thrown_out, broken } status = Status::running;
    int number = 0;
    bool has_reading = false;
    double kg = 0, u_kg = 0;
    double window_from_s = 0, window_to_s = 0, earliest_s = 0, midpoint_kg = 0;
    std::string reason;  ///< why thrown out or broken
};
const char* word(Trial::Status status);

/// A choice that was changed, with who and when.
struct Choice {
    std::string what, from, to, who, at_utc;
};

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
    /// Checks the event against the state and applies it. Nothing when it was applied; else why not, and nothing has changed.
    std::optional<Message> apply(const Event& event);
    /// The same check without applying.
    std::optional<Message> refuse(const Event& event) const;

    Step next_step() const;          ///< the first step that is not done
    bool done(Step step) const;
    bool stopped() const { return !stop_reasons.empty(); }

    std::vector<double> taken_kg() const;      ///< readings of the trials taken, in order
    std::vector<int> taken_numbers() const;    ///< their trial numbers
    std::optional<double> best_blow_l() const; ///< the largest blow kept, ATPS
    int blows_kept() const;
    double age_y() const;                      ///< on the day of the visit
    /// Input of the computation from what the log holds. Nothing before the trials.
    std::optional<hydrostatic::Input> input() const;
    Outcome<hydrostatic::Result> result() const;

    long last_seq = 0;
    std::string started_at, finished_at, technician, software;
    Subject subject;
    bool identity_confirmed = false;
    std::optional<double> height_today_cm;
    bool stops_asked = false;
    std::vector<std::string> stop_reasons, notes; ///< ids of the questions
    std::vector<std::string> note_words;          ///< the screening's findings in words, when it was done by the screening
    std::string instrument;                       ///< serial number; empty in visits before the register
    std::string comparability;                    ///< what the screening said of the last visit
    protocol::HouseRules house;                   ///< the lab's schools when the visit began
    long booking_id = 0;
    std::string zone;                             ///< IANA name of the lab's time zone; empty in older visits
    std::optional<double> mass_kg;
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
    std::vector<Trial> trials;
    std::string trial_rule = trials::default_id;
    std::string conversion = density::default_id;
    std::string range = "gallagher_2000";
    std::vector<Choice> choices;
    bool finished = false;
};

/// Whole years and their fraction between two ISO dates (YYYY-MM-DD, time ignored). Years count from birthday to birthday.
double age_between(const std::string& birth_date, const std::string& day);

} // namespace fusain::bench
