// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "records/diary/diary.h"

/// Instrument checks: their logs, their outcomes, and whether an instrument is ready.
namespace fusain::records {

struct CheckRow {
    long id = 0, instrument_id = 0;
    QString started_at, who, finished_at;
    bool finished = false, passed = false;
    double value = 0; ///< of the chart
    QString words;
};

class Checks {
public:
    /// `house`: the lab's rules as they stand; null: those that are shipped
    explicit Checks(std::shared_ptr<Diary> diary, std::function<protocol::HouseRules()> house = nullptr)
        : diary_(std::move(diary)), house_(std::move(house))
    {
    }

    /// Begins a run; its first event is stored with it.
    Outcome<long> begin(const Instrument& instrument, const QString& who, const QString& at_utc);
    /// Adds an event to the log of a run. When every step is done the run is closed with its result.
    [[nodiscard]] std::optional<Message> append(long check_id, const bench::Event& event);
    /// After a service the old baseline means nothing: the chart begins anew with the next check. `what_was_done` is
    /// noted at the last check. Refuses without it.
    Outcome<Instrument> new_baseline(
        Instrument instrument, const QString& who, const QString& what_was_done, const QDateTime& now);
    /// What a technician noted about a failed check.
    [[nodiscard]] std::optional<Message> remark(long check_id, const QString& who, const QString& text);
    QStringList remarks(long check_id) const;
    Outcome<bench::CheckRun> replay(long check_id) const;
    /// The run that is under way on this instrument, if it was begun within the last day.
    std::optional<CheckRow> open_run(long instrument_id, const QDateTime& now) const;
    /// Newest first. A negative limit: all.
    std::vector<CheckRow> history(long instrument_id, int limit = 200) const;
    quality::Chart chart(const Instrument& instrument) const;
    std::vector<quality::Point> points(const Instrument& instrument) const; ///< oldest first
    bench::Readiness ready(const Instrument& instrument, const QDateTime& now) const;
    std::vector<bench::Event> events(long check_id) const;
    /// Of each of the staff who was measured on it since its chart began, by name: the first eight that passed.
    std::map<std::string, bench::Usual> usual(const Instrument& instrument) const;

private:
    std::shared_ptr<Diary> diary_;
    std::function<protocol::HouseRules()> house_;
};

} // namespace fusain::records
