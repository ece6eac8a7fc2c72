// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/quality/precision.h"
#include "core/quality/study.h"
#include "work/lab/lab.h"

#include <map>

/// Studies of what this lab's numbers are worth: the same people again on one instrument, within hours or on days of
/// their own, or on two, or on one before and after a repair (docs/formats/study-log.md). No widgets.
namespace fusain::work {

enum class StudyKind { repeats, instruments, repair, days };
const char* word(StudyKind kind);

struct Design {
    StudyKind kind = StudyKind::repeats;
    Method method = all_methods().front();
    QString instrument, second; ///< serial numbers; second: of `instruments`
    QDate repaired_on;          ///< of `repair`: tests from that day on are held against those before
    QStringList operators;      ///< whose repeats count
    int people = 15, times = 3; ///< what is aimed at
};
/// Degrees of freedom that the design comes to when it is kept.
inline int degrees(const Design& d) { return d.people * (d.times - 1); }
/// What is wrong with a design, one message a field: `missing_field`, `out_of_range`, `unknown_choice`,
/// `two_of_a_name`.
[[nodiscard]] Messages check(const Design& design, const Lab& lab);

/// One measurement of one person in a study.
struct Member {
    long visit_id = 0; ///< 0: of a study that is closed, which keeps numbers and no names
    int person = 0;    ///< place in Study::people
    QString who;
    QDateTime at; ///< by the lab's clock
    int side = 0; ///< 1: on the second instrument, or after the repair
    std::map<const Quantity*, double> values;
    QString left_out; ///< why; empty: it counts
};

/// The next one on the instrument is a repeat of this person, who was placed anew. It is forgotten with the day.
struct Awaited {
    long client_id = 0;
    QString who;
};

struct Study {
    long id = 0;
    Design design;
    QString begun_by, closed_by, given_up;
    QDate begun_on, closed_on;
    std::vector<QString> people; ///< names while it is open, "person 3" afterwards
    std::vector<long> clients;   ///< of the people, while it is open
    std::vector<Member> members; ///< by person and time
    int gone = 0;                ///< repeats whose records were deleted since
    std::optional<Awaited> awaited;
    double mean_mass_kg = 0, mean_height_cm = 0; ///< of its people, while it is open
    std::string equations;                       ///< that its numbers rest on
    std::map<const Quantity*, double> noise_lsc; ///< of instruments beside each other: what half of was allowed
    bool open() const { return closed_on.isNull() && given_up.isEmpty(); }
    /// Repeats of a person that count, on a side.
    int count(int person, int side = 0) const;
    int whole_people() const; ///< who have all that is aimed at
    /// Somebody who has not as many repeats as are aimed at, best one who has begun; nothing: all have, or, where every
    /// repeat has a day of its own, were measured today.
    std::optional<int> next_person(const QDate& today) const;
    /// Serial number of the instrument that this client is measured on next: of two, the one with fewer of the person's
    /// tests; people begin on them by turns, so that what changes from the first test to the second is not the second
    /// instrument's.
    QString next_instrument(long client_id) const;
    bool over_days() const { return design.kind == StudyKind::days; }
    bool compares() const { return design.kind == StudyKind::instruments || design.kind == StudyKind::repair; }
};

/// How far apart repeats of one person may lie: within hours; on days of their own; before and after a repair. And how
/// far the body may have changed.
/// Source: this lab's rule
inline constexpr double repeats_hours = 4, repeats_days = 14, repair_days = 14, repeats_mass_kg = 2, repair_mass_kg = 1;

/// All there are, newest first.
std::vector<Study> studies(const Lab& lab);
std::optional<Study> study(const Lab& lab, long id);

Outcome<long> begin_study(Lab& lab, const Design& design, const QString& who);
/// Why this visit is no repeat of the study; nothing: it is one. Codes: `not_measured`, `other_method`,
/// `other_instrument`, `other_operator`, `other_equations`, `too_far_apart`, `same_day`, `same_recording`,
/// `in_it_already`, `another_body`, `study_over`.
[[nodiscard]] std::optional<Message> refusal(const Lab& lab, const Study& study, long visit_id);
/// The visit is a repeat. `anew`: somebody says that the person was placed anew before it; refused without, but for a
/// person's first (`not_repositioned`).
[[nodiscard]] std::optional<Message> take_repeat(Lab& lab, long study, long visit_id, bool anew, const QString& who);
/// The next visit of this client on the instrument is a repeat, for which the client is placed anew.
[[nodiscard]] std::optional<Message> await_repeat(Lab& lab, long study, long client_id, bool anew, const QString& who);
/// The open study that a test of this client by this method is awaited for.
std::optional<Study> awaiting(const Lab& lab, long client_id, Method method);
/// A visit was finished: it joins the study that awaits it. Nothing: none does. Else what came of it.
std::optional<Outcome<long>> join_study(Lab& lab, long visit_id);
/// The open study that the visit is a repeat of, or will be once it is finished; 0: none.
long study_of(const Lab& lab, long visit_id);
/// Refused without a reason that says something (`missing_field`).
[[nodiscard]] std::optional<Message> leave_out(
    Lab& lab, long study, long visit_id, const QString& reason, const QString& who);
[[nodiscard]] std::optional<Message> take_back(Lab& lab, long study, long visit_id, const QString& who);
[[nodiscard]] std::optional<Message> give_up(Lab& lab, long study, const QString& reason, const QString& who);

/// Visits that could be repeats of it, by person: people with two and more of them, or with one in the study.
struct Candidate {
    long visit_id = 0, client_id = 0;
    QString name, who;
    QDateTime at;
};
std::vector<Candidate> candidates(const Lab& lab, const Study& study);

/// What the repeats say of one quantity.
struct Repeated {
    const Quantity* quantity = nullptr;
    Result precision;
    Messages messages;
    std::optional<double> limit_percent;
    std::vector<study::Operator> operators; ///< none with one operator
    double effective_degrees = 0;           ///< what they are worth when some scatter more than others
    std::vector<int> far_apart;             ///< people whose repeats scatter far more than the others'
    double value(const Quantity& q) const { return precision[q].value; }
    /// The SD that a change is held against.
    double held_against() const
    {
        return precision::held_against(value(quantity::rms_sd), value(quantity::degrees_of_freedom), effective_degrees);
    }
};
/// The main quantities first. Refusals: `too_few_people` (nobody has two repeats), and what precision says.
Outcome<std::vector<Repeated>> repeated(const Study& study);

struct Compared {
    const Quantity* quantity = nullptr;
    study::Comparison comparison;
    std::vector<study::Pair> pairs;
    double lsc = 0; ///< of the method here: half of it was allowed
};
/// Refusals: `too_few_pairs`.
Outcome<std::vector<Compared>> compared(const Study& study, const Lab& lab);

/// Ends it: from now on the lab's change bands use it. Refusals: `too_few_people` (one tells of nobody else),
/// `all_equal` (a display that rounds coarsely, or numbers that were copied), `study_over`.
[[nodiscard]] std::optional<Message> close_study(Lab& lab, long study, const QString& who);

/// Two files beside each other in the folder: every repeat, and what they say. Returned: path of the first. Refusals:
/// `file_unreachable`.
Outcome<QString> save_study(const Study& study, const Lab& lab, const QString& folder);

} // namespace fusain::work
