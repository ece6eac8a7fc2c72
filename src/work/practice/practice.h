// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/practice/drill.h"
#include "records/file/lab_file.h"
#include "records/store/store.h"

#include <QDate>
#include <QDateTime>

#include <memory>

/// Drills and what came of them. A practice folder is a lab file of its own beside the lab's (`practice/lab.fusain`),
/// marked as such: nothing in it is a client's, and the lab reads nothing of it but who has passed what.
namespace fusain::work {

class Lab;

/// One answer, with the truth that was hidden until then.
struct DrillAnswer {
    int item = 0;
    std::vector<practice::Reading> numbers;
    std::vector<practice::Call> calls;
    double seconds = 0;
    QString cost; ///< what the mistake would have cost on this body, in words; empty: nothing
};

struct DrillRun {
    long id = 0;
    QString drill, title, who; ///< drill: id
    QDateTime at;              ///< by the clock of the practice folder
    Method method = all_methods().front();
    bench::Task task{};
    int level = 1, items = 0;
    practice::Pass pass;
    std::vector<DrillAnswer> answers; ///< by item
    bool over = false, given_up = false;
    practice::NumberMark numbers() const;
    practice::CallMark calls() const;
    bool passed() const { return over && practice::passed(pass, numbers(), calls()); }
    int next_item() const { return static_cast<int>(answers.size()); }
    /// What progress is followed by, better when smaller: root mean square error, else the share of wrong calls.
    double measure() const;
};

/// Oldest first.
std::vector<DrillRun> drill_runs(const records::Store& store);
/// Refusals: `missing_field` (nobody says who), what the lab file says.
Outcome<long> begin_drill(records::Store& store, const bench::Drill& drill, const QString& who);
[[nodiscard]] std::optional<Message> keep_answer(
    records::Store& store, long run, const DrillAnswer& answer, const QString& who);
[[nodiscard]] std::optional<Message> end_drill(records::Store& store, long run, const QString& who);
[[nodiscard]] std::optional<Message> give_up_drill(records::Store& store, long run, const QString& who);

/// What ships, and the folder's own (`drills/*.json`); what cannot be read is told in `bad`, and left out.
std::vector<bench::Drill> drills_of(const QString& practice_folder, Messages& bad);

/// One row an answer: technician, day, drill, method, level, item, what was given, what was true, error, how it was
/// called, seconds, cost, passed. UTF-8, commas, quotes as in RFC 4180.
QByteArray drills_csv(const std::vector<DrillRun>& runs);
/// Into the practice folder. Returned: its path. Refusals: `file_unreachable`.
Outcome<QString> save_drills(const records::Store& store);

/// A store of its own that is a practice folder and says so; made when there is none. Names of the lab's people come
/// along. Refusals: `no_practice_folder` (somebody's lab lies there), what opening says.
Outcome<std::shared_ptr<records::Store>> open_practice(const QString& folder, const QStringList& people);
/// It is a practice folder, which is never opened as a lab.
bool is_practice(const records::Store& store);
bool is_practice(const records::Peek& lab);
QString practice_folder(const QString& lab_folder);

/// Drills of the method up to the level that somebody has not passed yet, by title; read from the lab's practice
/// folder, which is not changed. Everything when there is no such folder.
QStringList not_passed(const QString& lab_folder, const QString& who, Method method, int level);

/// The lab asks for a level before somebody measures clients (house rule `practice_level`). Nothing: they may; somebody
/// let them, or the rule asks for nothing. Code: `not_practised`.
[[nodiscard]] std::optional<Message> practice_missing(const Lab& lab, const QString& who, Method method);
/// Somebody else answers for it that `who` measures all the same. Refusals: `missing_field` (reason), `own_word`.
[[nodiscard]] std::optional<Message> let_measure(
    Lab& lab, const QString& who, const QString& by, const QString& reason);
/// "let by A. Kerdoncuff on 3 November 2026: on call alone"; empty: nobody did.
QString let_by(const Lab& lab, const QString& who);

} // namespace fusain::work
