// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/visit/events.h"
#include "bench/visit/take.h"
#include "core/base/outcome.h"
#include "core/base/person.h"
#include "core/base/result.h"
#include "core/before/protocol.h"
#include "core/method/method.h"

#include <functional>
#include <map>
#include <memory>
#include <optional>

/// What a measuring method is on the bench. The visit's core knows none of them: it reads a method's row, keeps its
/// state, and asks it. What is known of it everywhere stands in its row of the core (core/method).
namespace fusain::bench {

class Visit;
struct Trial;

/// A step of a visit, compared by its address. Each method takes the shared ones and its own, in its own order.
struct StepRow {
    const char* id;
    const char* title;
    bool (*done)(const Visit&);
};
using Step = const StepRow*;
namespace step {
extern const Step who, stops, mass, result;
}

/// When an event may come at all: always; in a visit that has begun; in one that goes on; while nothing is recorded.
enum class When { always, begun, open, at_rest };
[[nodiscard]] std::optional<Message> refuse_now(When when, const Visit& visit);

/// Does to a copy of the visit what the event says; why not, when it is refused: then the copy is worth nothing.
using Taking = std::function<std::optional<Message>(const Visit& before, Visit& after, const Event& event)>;
using Kinds = std::map<std::string, Taking>;

/// An event kind, by its struct: when it may come, why it is refused in this visit (null: it is not), what it does.
template <Logged E>
Kinds::value_type on(When when, std::optional<Message> (*refuse)(const Visit&, const E&, const Stamp&),
    void (*apply)(Visit&, const E&, const Stamp&))
{
    return {E::kind,
        [when, refuse, apply](const Visit& before, Visit& after, const Event& event) -> std::optional<Message> {
            if (auto m = refuse_now(when, before)) return m;
            const auto said = read<E>(event.body);
            if (!said) return said.messages().front();
            if (refuse)
                if (auto m = refuse(before, *said, event)) return m;
            apply(after, *said, event);
            return std::nullopt;
        }};
}

/// What may be chosen again at the result: what it may become, and where it is held.
struct ChoiceRow {
    const char* what;
    bool (*known)(const Visit&, const std::string& to);
    std::string (*get)(const Visit&); ///< an id; empty: not chosen yet
    void (*set)(Visit&, const std::string& to);
};

/// What a recording is of: as the log has it, and in words.
struct TakeRow {
    const char* word;
    const char* title;
};

/// What an instrument says by itself, once, that belongs to a step of the visit: heard while the step is next or on the
/// screen, it is an event.
struct HeardRow {
    Channel channel;
    Step step;
    Act (*act)(double value);
};

/// What is said to the client around a recording; null: nothing.
struct Cues {
    const char *begun = nullptr, *marked = nullptr, *over = nullptr;
};

/// A reading as it stands in a recording: `trial_taken`, or why it cannot be taken.
struct Standing {
    std::optional<Act> taken;
    std::optional<Message> why_not{};
};

class MethodState;

/// Where the numbers of a visit come from.
enum class Origin {
    measured, ///< here, step by step
    printed,  ///< here, finished, from an instrument that computes by itself
    elsewhere ///< told elsewhere and taken over: nothing is measured, nothing can be chosen anew
};

struct BenchRow {
    Method method;
    std::string name;       ///< "hydrostatic weighing", on sheets
    const char* caution;    ///< stands beside the steps
    const char* before_any; ///< "so far", while there is nothing
    const char* not_yet;    ///< "so far", while it is no result by the rules
    const char* anew;       ///< how the client is placed anew between two repeats, in a study of precision
    Cues cues;
    std::vector<Step> steps; ///< the last is the result
    std::vector<TakeRow> takes;
    Kinds kinds;                    ///< its own events
    std::vector<ChoiceRow> choices; ///< its own
    std::unique_ptr<MethodState> (*make)(Method method);
    /// What the log begins with for such a person, besides what every visit begins with
    std::string (*beginning)(Sex sex, double age_y);
    /// The schools a number would rest on by the house rules, as one text to compare
    std::string (*schools)(const protocol::HouseRules& house);
    std::unique_ptr<Take> (*take)();
    /// Of the recording of this number; nothing while no reading stands.
    std::optional<Standing> (*reading)(const Shown& shown, int number);
    std::vector<HeardRow> heard{};
    /// What weighs the client: the first on which somebody stands
    std::vector<Channel> weighs{Channel::scale};
    Origin origin = Origin::measured;
    std::string_view ends{}; ///< the event kind that ends the test, where the result is there with it
};

/// What one visit holds of its method. Only the method's own rooms know more than this.
class MethodState {
public:
    virtual ~MethodState() = default;
    virtual const BenchRow& row() const = 0;
    virtual std::unique_ptr<MethodState> copy() const = 0;

    /// The visit begins. `body`: of the event, for what the method added to it.
    virtual void begin(const event::Started& started, const std::string& body) = 0;
    [[nodiscard]] virtual std::optional<Message> refuse_trial(
        const Visit& visit, const event::TrialBegun& begun, const Stamp& stamp) const = 0;
    /// Takes the reading, in a copy of what the visit held before; why not, when it is refused.
    [[nodiscard]] virtual std::optional<Message> take_reading(
        const Visit& before, const Trial& running, const Event& taken) = 0;
    /// A reading that comes without a recording: read off a display and typed, or from a file.
    [[nodiscard]] virtual std::optional<Message> take_typed(
        const Visit& before, const Trial& trial, const Event& typed) = 0;
    /// Of a trial that gives a reading; nothing when it gives none now.
    virtual std::optional<double> value(const Visit& visit, const Trial& trial) const = 0;
    virtual Outcome<Result> result(const Visit& visit) const = 0;
    /// From what there is, when it is no result yet by the rules.
    virtual Outcome<Result> provisional(const Visit& visit) const = 0;
    virtual std::vector<WhatIf> what_ifs(const Visit& visit) const = 0;
    /// The schools the result rests on, and how the lung gas is known: to be compared with another visit's.
    virtual std::string schools(const Visit& visit) const = 0;
    virtual std::string lung(const Visit& visit) const = 0;

protected:
    MethodState() = default;
    MethodState(const MethodState&) = default;
    MethodState& operator=(const MethodState&) = default;
};

/// A state that is copied with its visit.
class MethodHolder {
public:
    explicit MethodHolder(std::unique_ptr<MethodState> held) : held_(std::move(held)) {}
    MethodHolder(const MethodHolder& other) : held_(other.held_->copy()) {}
    MethodHolder(MethodHolder&&) noexcept = default;
    MethodHolder& operator=(MethodHolder other) noexcept
    {
        held_ = std::move(other.held_);
        return *this;
    }
    MethodState& operator*() const { return *held_; }
    MethodState* operator->() const { return held_.get(); }

private:
    std::unique_ptr<MethodState> held_;
};

} // namespace fusain::bench
