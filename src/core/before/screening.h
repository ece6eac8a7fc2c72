// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/before/protocol.h"

#include <set>

/// May this client be tested now, by which method, and how well will the result compare with the last one?
/// Pure functions of answers, protocols, methods and the last visit. Clock times arrive here as minutes, so that
/// midnight and summer time are settled before.
namespace fusain::screening {

using protocol::Verdict;

/// What was answered. Exactly one of the members for the kind of the question; `never` for a clock question: not within
/// memory.
struct Answer {
    std::optional<double> minutes_ago; ///< before now, ≥ 0
    bool never = false;
    std::optional<bool> yes;
    std::optional<double> number;
    bool kept = false; ///< of a clock time: as the preparation asks; when it was, nobody asked
    bool given() const { return minutes_ago || never || yes || number || kept; }
};
using Answers = std::map<std::string, Answer>;

/// Questions that are read out together: whatever applies is marked, the others are answered by that.
struct Line {
    const protocol::Question* question = nullptr;
    std::string words;      ///< what is marked where it applies
    bool marked_yes = true; ///< of yes_no: what a mark means
};
struct Part;
/// Of those: what may stop a test, or speaks against it, is one page (every yes_no question of the first group); how
/// the client has prepared is the other, in the words of what would not be as the preparation asks, the strictest of
/// the methods first. What is asked in numbers stands alone.
std::vector<Line> health_page(std::span<const protocol::Question* const> open);
std::vector<Line> preparation_page(const protocol::Book& book, const protocol::HouseRules& house, Sex sex, double age_y,
    std::span<const Part> parts, std::span<const protocol::Question* const> open);
/// What an answer to a line is when it is not marked; and marked, of a clock time: nothing, it is asked for.
std::optional<Answer> answer_of(const Line& line, bool marked);

/// A method that is booked, and how long from now its measurement begins (minutes, ≥ 0).
struct Part {
    Method method;
    double starts_in_min = 0;
};

struct Person {
    Sex sex = Sex::female;
    double age_y = 30;
    std::set<std::string> facts;   ///< ids of standing facts
    bool consent = false;          ///< a signed consent is on record
    bool guardian_consent = false; ///< under 18
    std::optional<double> last_mass_kg;
};

/// Limits of the instrument that is booked, where it has some.
struct Instrument {
    std::optional<double> rated_mass_kg; ///< X-ray table
};

struct Finding {
    std::string rule, question;
    Method method;
    Verdict verdict = Verdict::noted;
    std::string words;                ///< "Ate 1 h 10 min before; the rule is 3 h."
    std::vector<std::string> effects; ///< what it does to the result
    bool safety = false;              ///< no override
    std::string reason, source;
};

struct MethodVerdict {
    Method method;
    Verdict verdict = Verdict::go;
    std::vector<Finding> findings{}; ///< the worst first
    std::vector<std::string> open{}; ///< questions of this method not answered yet
    bool may_be_overridden() const;  ///< another_day and no, as long as nothing of it is safety
};

/// The questions these methods need for this person, in the order of the book; each once.
std::vector<const protocol::Question*> questions(
    const protocol::Book& book, const protocol::HouseRules& house, const Person& person, std::span<const Part> parts);

/// What is known before anything is asked: standing facts, and of the last visit's answers those that seldom change.
/// Never the answer to a question that may stop a test.
Answers known_before(const protocol::Book& book, const Person& person, const Answers& last);

/// The same when the same person is measured again so many minutes after a screening (≥ 0): all of it stands, what lay
/// back lies further back; but what may stop a test is asked again.
Answers known_again(const protocol::Book& book, const Answers& before, double minutes_since);

/// The verdict of each method, in the order of the parts.
std::vector<MethodVerdict> screen(const protocol::Book& book, const protocol::HouseRules& house, const Person& person,
    std::span<const Part> parts, const Answers& answers, const Instrument& instrument = {});

/// Under what conditions a method was (or will be) measured.
struct Conditions {
    std::string day;        ///< for the words
    std::string instrument; ///< serial number; empty: not noted
    double minute_of_day = 0;
    std::string equations;               ///< the choices that make the number
    std::string protocol;                ///< id and version; empty: no screening then, so the preparation is not known
    std::map<std::string, Verdict> kept; ///< rule → verdict it got
    std::string lung{};                  ///< route and equation of the lung gas; empty: not decided yet, or none
    double height_cm = 0, mass_kg = 0;   ///< 0: not known yet
};

} // namespace fusain::screening
