// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/files/object_reader.h"
#include "bench/practice/drill.h"
#include "shipped_profiles.h"

#include <algorithm>
#include <set>
#include <sstream>
#include <stdexcept>

namespace fusain::bench {
namespace {

using file::At, file::InOrder, file::Trouble;
constexpr const char* kind = "fusain drill";
constexpr std::size_t most_items = 40, most_choices = 6;

const std::vector<TaskRow> rows = {
    {Task::read_swing, "read_swing", "read the swing", {method::hydrostatic}, true, false, false},
    {Task::coach, "coach", "coach the exhale", {method::hydrostatic}, false, false, true},
    {Task::find_fault, "find_fault", "find the fault",
        {method::hydrostatic, method::air_displacement, method::impedance}, false, true, false},
    {Task::choose_runs, "choose_runs", "choose between runs", {method::air_displacement}, false, true, false},
    {Task::place_lines, "place_lines", "place the lines", {method::absorptiometry}, false, false, true},
    {Task::screen, "screen", "decide at screening", {}, false, true, false},
    {Task::talk, "talk", "talk a result through", {}, false, true, false},
};

/// A body's members: name in the file, word of the stand-in, range.
struct BodyField {
    const char *key, *word;
    double low, high;
    double DrillItem::*member = nullptr;
    double usual = 0;
};
constexpr BodyField body_fields[] = {{"age_y", "age", 3, 110, &DrillItem::age_y, 30},
    {"height_cm", "height", 50, 260, &DrillItem::height_cm, 170}, {"fat_kg", "fat", 0.5, 250, &DrillItem::fat_kg, 14},
    {"fat_free_kg", "ffm", 5, 200, &DrillItem::fat_free_kg, 50},
    {"residual_volume_l", "rv", 0.3, 4, &DrillItem::residual_volume_l, 1.2}, {"vital_capacity_l", "vc", 0.5, 10},
    {"learning", "learning", 0, 10}, {"calm", "calm", 0, 1}, {"hydration", "hydration", 0.65, 0.82},
    {"right_arm", "right_arm", 0.3, 2}, {"left_arm", "left_arm", 0.3, 2}, {"right_leg", "right_leg", 0.3, 2},
    {"left_leg", "left_leg", 0.3, 2}, {"limbs", "limbs", 0.8, 1.2}};

std::string list_of(const auto& all, auto word)
{
    std::string out;
    for (const auto& one : all) out += (out.empty() ? "" : ", ") + std::string(word(one));
    return out;
}

double number_in(const At& at, const char* key, double low, double high)
{
    if (!at.has(key))
        throw Trouble{at.name(key) + " is missing; allowed is a number from " + limits::plain(low) + " to " +
                      limits::plain(high) + "."};
    return at.number(key, 0, low, high);
}

const InOrder& array_in(const At& at, const char* key, std::size_t least, std::size_t most)
{
    static const InOrder empty = InOrder::array();
    const InOrder& list = at.has(key) ? at.json[key] : empty;
    if (!list.is_array() || list.size() < least || list.size() > most)
        throw Trouble{at.name(key) + " is " + (at.has(key) ? list.dump().substr(0, 60) : "missing") +
                      "; allowed is a list of " + std::to_string(least) + " to " + std::to_string(most) + "."};
    return list;
}

std::vector<std::string> words_in(const At& at, const char* key)
{
    std::vector<std::string> out;
    for (const InOrder& one : array_in(at, key, 0, 12)) {
        if (!one.is_string()) throw Trouble{at.name(key) + " holds " + one.dump() + "; allowed are texts."};
        out.push_back(one);
    }
    return out;
}

void body_of(const At& at, DrillItem& item)
{
    at.only({"sex", "age_y", "height_cm", "fat_kg", "fat_free_kg", "residual_volume_l", "vital_capacity_l", "learning",
        "calm", "hydration", "right_arm", "left_arm", "right_leg", "left_leg", "limbs"});
    static constexpr const char* sexes[] = {"female", "male"};
    if (!at.has("sex")) throw Trouble{at.name("sex") + " is missing; allowed is female, male."};
    const std::size_t sex = at.word("sex", sexes, 0);
    item.sex = sex ? Sex::male : Sex::female;
    std::ostringstream words;
    words << "sex=" << sexes[sex];
    for (const BodyField& f : body_fields) {
        const bool needed = f.member && f.member != &DrillItem::residual_volume_l;
        if (!needed && !at.has(f.key)) continue;
        const double v = number_in(at, f.key, f.low, f.high);
        if (f.member) item.*f.member = v;
        words << ' ' << f.word << '=' << v;
    }
    // the conversion is made right for this body, so that every error is the measurement's
    words << " density=1.1";
    if (!at.has("residual_volume_l")) words << " rv=" << item.residual_volume_l;
    item.body = words.str();
}

screening::Answers answers_of(const At& at)
{
    if (!at.json.is_object()) throw Trouble{'"' + at.path + "\" is no object."};
    screening::Answers out;
    for (const auto& [question, said] : at.json.items()) {
        screening::Answer a;
        if (said.is_boolean())
            a.yes = said.get<bool>();
        else if (said.is_object() && said.size() == 1 && said.contains("minutes_ago") &&
                 said["minutes_ago"].is_number())
            a.minutes_ago = said["minutes_ago"].get<double>();
        else if (said.is_object() && said.size() == 1 && said.contains("number") && said["number"].is_number())
            a.number = said["number"].get<double>();
        else if (said == "never")
            a.never = true;
        else
            throw Trouble{at.name(question) + " is " + said.dump() +
                          "; allowed is true, false, \"never\", {\"minutes_ago\": …} or {\"number\": …}."};
        out[question] = a;
    }
    return out;
}

DrillItem item_of(const At& at, const Drill& drill, std::size_t place)
{
    at.only({"body", "faults", "seen", "truth", "same_as", "seed", "runs_off_l", "answers", "consent", "tests",
        "displaced_mm", "cost"});
    DrillItem out;
    if (!at.has("body")) throw Trouble{at.name("body") + " is missing; allowed is an object."};
    body_of(at.inside("body"), out);
    out.faults = words_in(at, "faults");
    out.seen = words_in(at, "seen");
    out.truth = at.text("truth", "");
    out.cost = at.text("cost", "");
    out.seed = static_cast<long>(at.number("seed", static_cast<double>(place + 1), 1, 1e9));
    out.same_as = static_cast<int>(at.number("same_as", -1, 0, static_cast<double>(place) - 1));
    const bool reckoned = drill.task == Task::screen || drill.task == Task::talk || drill.task == Task::choose_runs;
    if (row(drill.task).choice && !reckoned &&
        std::none_of(drill.choices.begin(), drill.choices.end(), [&](const auto& c) { return c.id == out.truth; }))
        throw Trouble{at.name("truth") + " is \"" + out.truth + "\"; allowed is one of the choices: " +
                      list_of(drill.choices, [](const DrillChoice& c) { return c.id; }) + "."};
    if (reckoned && at.has("truth"))
        throw Trouble{at.name("truth") + " is given; in this task it is reckoned, so leave it out."};
    if (drill.task == Task::choose_runs)
        for (const InOrder& off : array_in(at, "runs_off_l", 2, 4)) {
            if (!off.is_number() || !(std::abs(off.get<double>()) <= 5))
                throw Trouble{at.name("runs_off_l") + " holds " + off.dump() + "; allowed are numbers from -5 to 5."};
            out.runs_off_l.push_back(off);
        }
    if (drill.task == Task::screen) {
        if (!at.has("answers")) throw Trouble{at.name("answers") + " is missing; allowed is an object of questions."};
        out.answers = answers_of(at.inside("answers"));
        out.consent = !at.has("consent") || at.yes("consent");
    }
    if (drill.task == Task::place_lines) out.displaced_mm = number_in(at, "displaced_mm", 0, 80);
    if (drill.task == Task::talk) {
        std::size_t n = 0;
        for (const InOrder& one : array_in(at, "tests", 2, 6)) {
            const At test{one, at.path + ".tests[" + std::to_string(n++) + "]"};
            test.only({"days_ago", "fat_kg", "fat_free_kg", "other_instrument", "hour"});
            out.tests.push_back({number_in(test, "days_ago", 0, 3000), number_in(test, "fat_kg", 0.5, 250),
                number_in(test, "fat_free_kg", 5, 200), test.yes("other_instrument"),
                static_cast<int>(test.number("hour", 8, 0, 23))});
            if (out.tests.size() > 1 && out.tests.back().days_ago >= out.tests[out.tests.size() - 2].days_ago)
                throw Trouble{test.name("days_ago") + " does not come after the test before it; oldest first."};
        }
    }
    return out;
}

Drill drill_of(const InOrder& json)
{
    const At at{json, ""};
    at.only({"kind", "version", "id", "title", "method", "task", "level", "asked", "why", "choices", "pass", "items"});
    if (at.number("version", 0, 1, 1) != 1) throw Trouble{at.name("version") + " is missing; allowed is 1."};
    const std::string task = at.text("task"), method = at.text("method");
    const auto by = std::find_if(rows.begin(), rows.end(), [&](const TaskRow& r) { return task == r.word; });
    if (by == rows.end())
        throw Trouble{at.name("task") + " is \"" + task + "\"; allowed is " +
                      list_of(rows, [](const TaskRow& r) { return r.word; }) + "."};
    const auto of = method_of(method);
    if (!of || !by->fits(*of))
        throw Trouble{at.name("method") + " is \"" + method + "\"; allowed here is " +
                      (by->methods.empty() ? method_words() : list_of(by->methods, [](Method m) { return m->word; })) +
                      "."};
    Drill d{*of};
    d.task = by->task;
    d.id = at.text("id");
    if (d.id.empty() || d.id.find_first_not_of("abcdefghijklmnopqrstuvwxyz0123456789_") != std::string::npos)
        throw Trouble{at.name("id") + " is \"" + d.id + "\"; allowed are small letters, digits and _."};
    d.title = at.text("title");
    d.asked = at.text("asked");
    d.why = at.text("why", "");
    d.level = static_cast<int>(at.number("level", 1, 1, highest_level));
    std::set<std::string> seen;
    std::size_t n = 0;
    const bool own = d.task == Task::find_fault || d.task == Task::talk;
    for (const InOrder& one : array_in(at, "choices", own ? 2 : 0, own ? most_choices : 0)) {
        const At choice{one, "choices[" + std::to_string(n++) + "]"};
        choice.only({"id", "words"});
        d.choices.push_back({choice.text("id"), choice.text("words")});
        if (!seen.insert(d.choices.back().id).second)
            throw Trouble{choice.name("id") + " is \"" + d.choices.back().id + "\" a second time."};
    }
    const At pass = at.inside("pass");
    pass.only({"rms", "bias", "share"});
    for (const auto& [key, member, most] : {std::tuple{"rms", &practice::Pass::rms, 100.0},
             {"bias", &practice::Pass::bias, 100.0}, {"share", &practice::Pass::share, 1.0}})
        if (pass.has(key)) d.pass.*member = number_in(pass, key, 0, most);
    if (!d.pass.rms && !d.pass.bias && !d.pass.share)
        throw Trouble{at.name("pass") + " says nothing; allowed is at least one of rms, bias, share."};
    n = 0;
    for (const InOrder& one : array_in(at, "items", 1, most_items)) {
        const At item{one, "items[" + std::to_string(n) + "]"};
        d.items.push_back(item_of(item, d, n++));
    }
    return d;
}

} // namespace

std::span<const TaskRow> task_rows() { return rows; }
const TaskRow& row(Task task) { return rows[static_cast<std::size_t>(task)]; }

Outcome<Drill> read_drill(const std::string& text, const std::string& file)
{
    return file::read<Drill>(text, file, kind, "bad_drill", "", drill_of);
}

const std::vector<Drill>& shipped_drills()
{
    static const auto all = [] {
        std::vector<Drill> out;
        for (const auto& [file, text] : shipped_drill_texts) {
            auto read = read_drill(text, file);
            if (!read) throw std::runtime_error(read.messages().front().text);
            out.push_back(std::move(read).take());
            out.back().shipped = true;
        }
        std::stable_sort(out.begin(), out.end(), [](const Drill& a, const Drill& b) {
            return std::tuple(a.method, a.task, a.level) < std::tuple(b.method, b.task, b.level);
        });
        return out;
    }();
    return all;
}

} // namespace fusain::bench
