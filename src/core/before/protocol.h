// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/person.h"
#include "core/base/outcome.h"
#include "core/method/method.h"

#include <map>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

/// What a client must do before a test and what is asked on arrival, as data: a protocol a method, a rule a row.
/// The files are described in docs/formats/protocol.md.
namespace fusain::protocol {

/// May this method be done now? Ordered from best to worst.
enum class Verdict { go, noted, another_day, no };
const char* word(Verdict verdict);  ///< go, noted, another_day, no
const char* title(Verdict verdict); ///< "go", "go, noted", "better another day", "no"

/// What is asked. `clock`: when was it last; `yes_no`; `number` in a unit.
enum class Ask { clock, yes_no, number };

/// Whom a question or a rule concerns.
struct Audience {
    std::optional<Sex> sex;
    double from_age_y = 0, below_age_y = 200;
    bool fits(Sex who, double age_y) const
    {
        return (!sex || *sex == who) && age_y >= from_age_y && age_y < below_age_y;
    }
};

struct Question {
    std::string id;
    Ask ask = Ask::yes_no;
    std::string group; ///< what it stands under on the screen: "Eaten and done"
    std::string words;
    std::string unit;       ///< number only
    std::string fact;       ///< the standing fact that answers it beforehand, or empty
    bool from_last = false; ///< the answer of the last visit is offered beforehand (what seldom changes)
    Audience audience;
};

/// A limit on the answer and what passing it means: minutes for `clock` (fewer than), the unit for `number` (more
/// than).
struct Bound {
    double limit = 0;
    Verdict verdict = Verdict::noted;
};

/// What an answer outside the rule does to the result.
struct Effect {
    std::string quantity;            ///< "fat mass", "% fat"
    int direction = 0;               ///< +1 too high, −1 too low, 0 either way
    std::optional<double> low, high; ///< size, in `unit`, both or neither
    std::string unit, why;
};
/// "fat mass +0.3 to +0.8 kg: unabsorbed food counts as fat"
std::string words(const Effect& effect);

struct Rule {
    std::string id;
    std::string question;             ///< asked on arrival; empty: only told beforehand
    std::vector<Bound> levels;        ///< clock and number; the worst that is passed counts
    bool outside = true;              ///< yes_no: the answer that is outside the rule
    Verdict verdict = Verdict::noted; ///< yes_no: what that means
    bool safety = false;              ///< a `no` of this rule has no override
    std::string topic;                ///< rules of one topic are merged on the preparation sheet; the stricter wins
    std::string prepare;              ///< words on the sheet, `{time}` for the clock time; empty: not on the sheet
    /// Of the sheet: "tell" (us before you come), "wear" (and bring); empty: on the day
    std::string part;
    double prepare_min = 0; ///< minutes before the test of this method that `{time}` stands for
    std::string finding;    ///< words when the answer is outside, `{gap}` for the time that has passed
    std::vector<Effect> effects;
    std::string reason, source;
    std::map<std::string, std::vector<std::string>> when; ///< applies only where the house rules say so
    Audience audience;
};

struct Protocol {
    Method method;
    std::string id{}, title{};
    int version = 1;
    std::vector<Rule> rules{};
};

/// Everything that is asked and told: the questions, and one protocol a method.
struct Book {
    std::vector<Question> questions;
    std::vector<Protocol> protocols;

    const Question* question(std::string_view id) const;
    const Protocol* protocol(Method method) const;
};

/// The lab's schools: id of a house rule → id of the option chosen (docs/formats/house-rules.md).
using HouseRules = std::map<std::string, std::string>;

/// Whether the rule applies to this person in this lab.
bool applies(const Rule& rule, const HouseRules& house, Sex sex, double age_y);

/// What is wrong with a protocol; the message's field is the id of the rule. Nothing: it may be used.
[[nodiscard]] Messages check(const Protocol& protocol, std::span<const Question> questions);

/// "2 h 40 min", "45 min", "3 days".
std::string span_words(double minutes);

} // namespace fusain::protocol
