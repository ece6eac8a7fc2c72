// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/visit/method.h"
#include "core/quality/judgement.h"

#include <memory>
#include <string>
#include <vector>

/// A visit to one method as an append-only log. The screen is a view of it; replaying the log gives the same result,
/// bit for bit. Every event kind with its body is described in docs/formats/visit-log.md.
namespace fusain::bench {

/// One recording of a raw signal and what became of it. What was read from it is the method's.
struct Trial {
    enum class Status { running, taken, thrown_out, broken } status = Status::running;
    const TakeRow* what = nullptr; ///< a row of the method
    int number = 0;
    bool has_reading = false;
    std::string source = "line";  ///< how its reading came: line, typed, file
    std::string file;             ///< its name, when it came from one
    std::string begun_at, reason; ///< reason: why thrown out or broken
    bool is(std::string_view word) const { return what && what->word == word; }
};
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

/// Of a file that is kept with a visit, bytes.
inline constexpr double largest_attachment = 25e6;

/// A file that is kept with the visit: a printout, a picture, a table.
struct Attached {
    std::string name, sha256, who, at_utc;
    long bytes = 0;
    std::string taken_away; ///< why it is not kept any more; empty: it is
};

/// A finished visit that was opened again.
struct Reopening {
    std::string reason, who, at_utc;
};

/// Who was tested, as the record stood then.
struct Subject {
    long client_id = 0;
    std::string number, name, birth_date; ///< birth_date: ISO date
    Sex sex = Sex::female;
    double height_cm = 0;
};

/// A result as it was told once.
struct AsTold {
    std::vector<Value> values;
    Messages messages;
    std::string engine; ///< "fusain 0.3.0"
};

/// Everything the log says. Only apply() changes it.
class Visit {
public:
    Visit();

    /// Checks the event against the state and applies it. Nothing when it was applied; else why not, and nothing has
    /// changed.
    [[nodiscard]] std::optional<Message> apply(const Event& event);
    /// Of the method from here on; nothing is measured yet.
    void start(const BenchRow& by);
    /// The same check without applying.
    [[nodiscard]] std::optional<Message> refuse(const Event& event) const;

    Step next_step() const; ///< the first step that is not done
    bool done(Step s) const { return s->done(*this); }
    bool stopped() const { return !stop_reasons.empty(); }
    /// Nothing more will be measured in it, unless it is opened again.
    bool ended() const { return finished || stopped() || !given_up.empty(); }

    const BenchRow& row() const { return own_->row(); }
    /// What it holds of its method: for the method's own rooms.
    const MethodState& own() const { return *own_; }
    MethodState& own() { return *own_; }
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
    Outcome<Result> result() const;
    /// Cautions of the result that ask for a new measurement and that nobody has acknowledged yet.
    [[nodiscard]] Messages to_acknowledge() const;
    /// A result from what there is, when it is not one yet by the rules: to look at only.
    Outcome<Result> provisional() const { return own_->provisional(*this); }
    std::vector<WhatIf> what_ifs() const { return own_->what_ifs(*this); }

    /// What was chosen of everything that can be chosen at the result: equations, rules, routes, by id.
    std::map<std::string, std::string> chosen() const;

    /// The newest trial of this kind that stands; null: none.
    const Trial* last_taken(std::string_view what) const;
    const Trial& trial(int number) const { return trials[static_cast<std::size_t>(number - 1)]; }

    Method method;
    long last_seq = 0;
    int log_version = 1; ///< 3: since a visit is not finished with a number no body has · 2: since a finished visit
                         ///< takes only choices, remarks, acknowledgements and a reopening
    std::string local;   ///< when it began by the lab's clock, 2026-11-26T09:20; empty in older visits
    std::optional<judgement::LastVisit> last;    ///< the client's visit before this one
    std::vector<judgement::LastVisit> weighings; ///< of the sixteen weeks before, the oldest first
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
    double instrument_reference = 0; ///< certified, by the register when the visit began; 0: unknown
    std::vector<Trial> trials;
    std::string range = "gallagher_2000";
    std::vector<Choice> choices;
    bool finished = false;
    std::string given_up; ///< why it ended without a result
    std::vector<Acknowledgement> acknowledgements;
    std::vector<Reopening> reopenings;
    std::vector<Attached> attached;
    /// The numbers as they were told by an older engine: a sheet of an old visit says what it said. Null: today's.
    std::shared_ptr<const AsTold> as_told;
    const Attached* attachment(const std::string& sha256) const; ///< that is kept; null: none

private:
    MethodHolder own_;
    /// The visit with the event, or why not.
    Outcome<Visit> after(const Event& event) const;
};

/// Whole years and their fraction between two ISO dates (YYYY-MM-DD, time ignored). Years count from birthday to
/// birthday.
double age_between(const std::string& birth_date, const std::string& day);

} // namespace fusain::bench
