// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "work/reading/one_day.h"
#include "work/reading/own_group.h"

/// What is read of a client on a day: what the pages, the talk and the sheets are made of.
namespace fusain::work {

struct Reading {
    const History* history = nullptr;
    QDate day;
    std::vector<const Measurement*> today; ///< of that day
    /// What is told first: of the methods that tell fat that day, the one the client is followed by. Null: none.
    const Measurement* main = nullptr;
    const Measurement *before = nullptr, *first = nullptr; ///< by the same method; null: there is none before
    Days days;
    energy::Input energy_in;
    std::optional<Result> energy; ///< nothing without fat and fat-free mass, and for nobody who must not lose
    std::string range = "gallagher_2000";
    const Plan* plan = nullptr; ///< the one that runs
    QString plan_stops;         ///< why it may not be gone on with: pregnant since, or a minor; empty: it may
};

/// `day` invalid: the newest. `lead`: the visit that is told first; 0: the method the client is followed by.
Reading read(const History& history, QDate day = {}, const std::string& range = "gallagher_2000", long lead = 0);

/// The plan held against what was measured since by the method it began with.
struct OnTheWay {
    const Measurement* measured = nullptr;
    double planned_percent = 0;
    plan::Progress progress = plan::Progress::not_yet;
    double lsc = 0;
    bool comparable = true;
};
std::vector<OnTheWay> on_the_way(const History& history, const Plan& plan);

/// Why nothing about weight is planned for this person now, by age, what stands in the record, every result of the
/// newest day and the pace of the last weeks; empty: it may be.
QString no_plan(const History& history);

} // namespace fusain::work
