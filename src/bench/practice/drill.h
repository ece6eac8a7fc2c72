// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/person.h"
#include "core/base/outcome.h"
#include "core/before/screening.h"
#include "core/practice/marking.h"

#include <algorithm>

/// Drills as data (docs/formats/drill.md): a virtual client with a known truth, what goes wrong, what is asked, and how
/// the answer is marked.
namespace fusain::bench {

/// What is asked of somebody; each has its stage.
enum class Task {
    read_swing,  ///< the middle of the swing, by eye
    coach,       ///< which trials under water to take, and when to stop
    find_fault,  ///< what is wrong, if anything
    choose_runs, ///< which chamber runs to average
    place_lines, ///< the strings over a map
    screen,      ///< may this client be tested now?
    talk         ///< which sentence is true
};
struct TaskRow {
    Task task;
    const char *word, *title;                          ///< "read the swing"
    std::vector<Method> methods;                       ///< empty: every one
    bool number = false, choice = false, done = false; ///< how it is answered
    bool fits(Method method) const
    {
        return methods.empty() || std::find(methods.begin(), methods.end(), method) != methods.end();
    }
};
std::span<const TaskRow> task_rows();
const TaskRow& row(Task task);

struct DrillChoice {
    std::string id, words;
};

/// One test as a client's record holds it, for talks.
struct DrillTest {
    double days_ago = 0, fat_kg = 0, fat_free_kg = 0;
    bool other_instrument = false;
    int hour = 8;
};

struct DrillItem {
    std::string body; ///< in the words of the stand-ins
    Sex sex = Sex::female;
    double age_y = 30, height_cm = 170, fat_kg = 14, fat_free_kg = 50, residual_volume_l = 1.2;
    std::vector<std::string> faults; ///< of the stand-in, on while this item runs
    std::vector<std::string> seen;   ///< what is seen beside the screen
    std::string truth;               ///< of a choice, where it is not reckoned
    int same_as = -1;                ///< the same hidden thing as this item: tells own precision
    long seed = 1;                   ///< of what is drawn for it
    std::vector<double> runs_off_l;  ///< choose_runs: how far each run lies from the truth
    screening::Answers answers;      ///< screen
    bool consent = true;             ///< screen: a signed one is on record
    std::vector<DrillTest> tests;    ///< talk, oldest first
    double displaced_mm = 0;         ///< place_lines: how far the lines lie from their place at first
    std::string cost;                ///< what the mistake would have cost, where it cannot be reckoned
    double true_fat_percent() const { return 100 * fat_kg / (fat_kg + fat_free_kg); }
    double mass_kg() const { return fat_kg + fat_free_kg; }
};

struct Drill {
    Method method;
    std::string id{}, title{}, asked{}, why{}, file{};
    Task task = Task::read_swing;
    int level = 1;
    std::vector<DrillChoice> choices{};
    practice::Pass pass{};
    std::vector<DrillItem> items{};
    bool shipped = false;
};
inline constexpr int highest_level = 3;

/// Refused: error `bad_drill`, the field of which is the file; the text names the path in it, the value and what is
/// allowed.
Outcome<Drill> read_drill(const std::string& text, const std::string& file);

/// Of data/drills, by method, task and level.
const std::vector<Drill>& shipped_drills();

} // namespace fusain::bench
