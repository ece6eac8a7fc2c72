// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/time/change.h"
#include "core/time/repeatability.h"
#include "work/lab/lab.h"
#include "work/reading/entries.h"
#include "work/study/in_force.h"

#include <map>

/// Everything that was measured on one client, joined for reading: days, series over time, what cannot be compared.
namespace fusain::work {

/// Callipers and tape have no bench of their own; beside the methods they are called this.
inline constexpr const char* by_tape = "callipers_and_tape";

/// One measurement: a finished visit as it was told, or folds and girths.
struct Measurement {
    long visit_id = 0; ///< 0: callipers and tape
    QDate day;
    QDateTime at; ///< by the lab's clock
    std::string method;
    std::string instrument; ///< serial number; of callipers and tape: who measured
    std::string equations;
    std::optional<std::string> not_kept;
    Sex sex = Sex::female;
    double age_y = 0, height_cm = 0, mass_kg = 0;
    Result result; ///< its values alone
    Messages messages;
    std::map<std::string, std::string> choices;
    std::string recomputed_from; ///< the equations it was told with, when it is shown under today's
    bool future = false;         ///< dated later than today
    /// Of a result, or mass and girths as they were measured.
    std::optional<double> value(const Quantity& q) const;
    std::map<const Quantity*, double> girths;
};
/// "impedance", "callipers and tape"
QString title_of(const std::string& method);

/// A quantity over time by one method, with what can be said of it.
struct Series {
    const Quantity* quantity = nullptr;
    std::string method;
    std::vector<const Measurement*> points; ///< in time order
    std::optional<change::Repeatability> repeatability;
    change::Series series;
    change::Changes changes; ///< without a repeatability: steps have no verdict that counts
    /// From one of the points to another.
    change::Step step(int from, int to) const { return change::step(series, from, to); }
};

/// A visit as it stands on the screen, told or not: it takes the place of what is stored of it.
struct OnScreen {
    long visit_id = 0;
    const bench::Visit* visit = nullptr;
};

class History {
public:
    /// Reads everything of the client. `under_todays`: tests made with other equations are reckoned anew under those of
    /// the newest test of their method, from their log, where that can be done.
    static History of(const Lab& lab, long client_id, const OnScreen& standing = {}, bool under_todays = true);

    /// As it was known on a day: what came later is not in it. A sheet of an old visit says what it said.
    History until(const QDate& day) const;

    const records::Client& client() const { return client_; }
    double age_today() const { return age_y_; }
    const std::vector<Measurement>& all() const { return all_; } ///< in time order
    const Entries& entries() const { return entries_; }
    std::vector<QDate> days() const; ///< of measurements, oldest first
    std::vector<const Measurement*> on(const QDate& day) const;
    /// Methods in the order of how often they were used, newest first among equals.
    std::vector<std::string> methods() const;
    /// The newest of a method; of any method that tells fat without one. Null: none.
    const Measurement* newest(const std::string& method = {}) const;
    /// Quantities that can be followed by a method: mass and the main ones first.
    std::vector<const Quantity*> quantities(const std::string& method) const;
    /// Nothing under one point. `left_out`: visits that somebody took out of the picture.
    std::optional<Series> series(
        const Quantity& quantity, const std::string& method, const std::set<long>& left_out = {}) const;
    /// What repeats of it were known to differ by when it was measured: by this lab's own study, else by default.
    std::optional<change::Repeatability> repeatability(const Quantity& quantity, const Measurement& on) const;
    /// What a change to a test still to come must pass; 0: not known.
    double lsc_to_come(const Quantity& quantity, const std::string& method) const;
    /// What stands in the record; pregnancy also by the last screening.
    const energy::Facts& facts() const { return facts_; }
    /// The client is told without numbers: as was chosen, else where an eating disorder or the worry stands.
    bool without_numbers() const { return entries_.without_numbers.value_or(facts_.eating_disorder); }
    /// Insulin, or another medicine that lowers sugar, stands in the record.
    bool sugar_medicine() const { return sugar_medicine_; }
    const std::optional<QDateTime>& next_visit() const { return next_visit_; } ///< booked, by the lab's clock

private:
    records::Client client_;
    double age_y_ = 0;
    energy::Facts facts_;
    bool sugar_medicine_ = false;
    std::optional<QDateTime> next_visit_;
    std::vector<Measurement> all_;
    Entries entries_;
    InForce in_force_;
};

/// Where the mass went from one test to another of one method; nothing when the two cannot be compared, or fat is not
/// told.
std::optional<change::Moved> moved(const History& history, const Measurement& from, const Measurement& to);

} // namespace fusain::work
