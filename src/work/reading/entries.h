// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/body/plan.h"
#include "core/folds/skinfolds.h"
#include "records/people/client_log.h"

#include <QStringList>

/// What is kept of a client beside visits, as values; the log itself is in the records (client_log.h).
namespace fusain::work {

/// Folds and girths of one day, by one pair of hands.
struct Tape {
    static constexpr char kind[] = "tape";
    long id = 0;
    QString day, at, measurer;
    std::map<std::string, std::vector<double>> folds_mm, girths_cm; ///< every repeat
    std::string equation;                                           ///< empty: none
    std::string waist_at;                                           ///< "narrowest", "midway"
    double mass_kg = 0;                                             ///< on that day; 0: not known
};
/// What is wrong with it: who, limits of each site, a third repeat that is needed.
[[nodiscard]] Messages check(const Tape& tape);
/// Mean of two or median of three of every site.
std::map<std::string, double> settled(
    const std::map<std::string, std::vector<double>>& repeats, skinfolds::Settled (*settle)(std::span<const double>));

/// What the client says of the days, and which school of rest was chosen.
struct Days {
    static constexpr char kind[] = "days";
    double activity_level = 1.6;
    std::string school = energy::default_school;
    std::optional<double> food_kcal; ///< the client's own account; nothing: not asked
    QString food_words;              ///< how it was found out
};

/// A plan as it was agreed.
struct Plan {
    static constexpr char kind[] = "plan";
    long id = 0;
    QString day, who;
    plan::Input input;
    double intake_kcal = 0;
    std::string method; ///< by which the start was measured
    QString ended_on, ended_why;
};

/// What was said and agreed at the end of a visit day.
struct Told {
    static constexpr char kind[] = "told";
    QString day, who;
    QString note;
    QStringList steps; ///< at most three
};
inline constexpr int most_steps = 3;

struct Entries {
    std::vector<Tape> tapes; ///< that stand, by day
    std::optional<Days> days;
    std::vector<Plan> plans;             ///< in the order they were agreed; the last may still run
    std::vector<Told> told;              ///< the last of each day
    std::optional<bool> without_numbers; ///< how this client is told, as it was last chosen
    const Plan* running() const { return plans.empty() || !plans.back().ended_on.isEmpty() ? nullptr : &plans.back(); }
    const Told* told_on(const QString& day) const;
};
Entries entries_of(const records::Store& store, long client_id);

records::ClientEvent event_of(const Tape& tape);
records::ClientEvent event_of(const Days& days);
records::ClientEvent event_of(const Plan& plan);
records::ClientEvent event_of(const Told& told);
/// From now on this client is told with, or without, numbers.
records::ClientEvent telling(bool without_numbers);

} // namespace fusain::work
