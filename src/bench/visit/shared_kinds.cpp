// SPDX-License-Identifier: GPL-3.0-or-later
// The events that every visit understands.
#include "bench/visit/methods.h"
#include "bench/visit/kinds.h"
#include "core/base/limits.h"

#include <algorithm>

namespace fusain::bench {

bool ends_for_good(const Event& e)
{
    if (e.kind == event::GivenUp::kind) return true;
    if (e.kind != event::Stops::kind) return false;
    const auto stops = read<event::Stops>(e.body);
    return stops && !stops->stop.empty();
}

std::optional<Message> refuse_now(When when, const Visit& v)
{
    if (when == When::always) return std::nullopt;
    if (v.started_at.empty()) return not_now("The visit has not been started.");
    if (when == When::begun) return std::nullopt;
    if (v.stopped()) return not_now("The visit was stopped for safety; nothing can be added to the test.");
    if (!v.given_up.empty()) return not_now("The visit was given up; nothing can be added to the test.");
    if (when == When::at_rest && v.running()) return not_now("A trial is running.");
    return std::nullopt;
}

std::optional<Message> refuse_file(const event::OfFile& from)
{
    if (from.file.empty()) return Message{"missing_field", Level::error, "file", "The name of the file is missing."};
    const std::string& digest = from.sha256;
    const bool is_one = digest.size() == 64 && digest.find_first_not_of("0123456789abcdef") == std::string::npos;
    if (is_one) return std::nullopt;
    return Message{"bad_digest", Level::error, "sha256",
        "The SHA-256 of " + from.file + " is \"" + digest + "\"; allowed are 64 hexadecimal digits."};
}

std::optional<Message> check_number(std::optional<double> value, const char* key, const char* limits)
{
    if (value) return limits::check(limits, *value);
    return Message{"missing_field", Level::error, limits, std::string("Field ") + key + " is missing."};
}

namespace {

std::optional<Message> refuse_not_running(const Visit& v, std::optional<int> number)
{
    if (!v.running()) return not_now("No trial is running.");
    if (number && *number != v.running()->number)
        return not_now("Trial " + std::to_string(*number) + " is not running; trial " +
                       std::to_string(v.running()->number) + " is.");
    return std::nullopt;
}

std::optional<Message> needs_reason(const std::string& reason, const char* words)
{
    if (reason.size() >= 5) return std::nullopt;
    return Message{"missing_field", Level::error, "reason",
        std::string(words) + " Write at least a word or two; it stands in the record with your name."};
}

const ChoiceRow range_choice = {"range", [](const Visit&, const std::string& to) { return !to.empty(); },
    [](const Visit& v) { return v.range; }, [](Visit& v, const std::string& to) { v.range = to; }};

const ChoiceRow* choice_of(const Visit& v, const std::string& what)
{
    if (what == range_choice.what) return &range_choice;
    for (const ChoiceRow& c : v.row().choices)
        if (what == c.what) return &c;
    return nullptr;
}

/// What a recording is of; null: of nothing that the method knows. Old logs leave it out where there is one kind only.
const TakeRow* what_of(const Visit& v, const std::string& what)
{
    const auto& takes = v.row().takes;
    const std::string named = what.empty() && takes.size() == 1 ? takes.front().word : what;
    const auto at = std::find_if(takes.begin(), takes.end(), [&](const TakeRow& t) { return named == t.word; });
    return at == takes.end() ? nullptr : &*at;
}

/// The next in the visit.
Trial trial_of(const Visit& v, const TakeRow* what, const Stamp& stamp)
{
    Trial t;
    t.number = static_cast<int>(v.trials.size()) + 1;
    t.what = what;
    t.begun_at = stamp.at_utc;
    return t;
}

std::optional<Message> refuse_start(const event::Started& e)
{
    if (e.birth_date.size() != 10)
        return Message{"missing_field", Level::error, "client", "The visit needs a client with a date of birth."};
    if (!row_of_log(e))
        return Message{
            "unknown_choice", Level::error, "method", "This version has no bench for the method " + e.method + "."};
    return std::nullopt;
}

std::optional<Message> take_start(const Visit& before, Visit& v, const Event& event)
{
    if (!before.started_at.empty()) return not_now("The visit is already started.");
    const auto started = read<event::Started>(event.body);
    if (!started) return started.messages().front();
    const event::Started& e = *started;
    if (auto why = refuse_start(e)) return why;
    v.started_at = event.at_utc;
    v.technician = event.who;
    v.software = e.software;
    v.subject = {e.client_id, e.number, e.name, e.birth_date, e.sex, e.height_cm};
    v.start(*row_of_log(e));
    v.instrument = e.instrument;
    v.instrument_reference = e.reference;
    v.booking_id = e.booking;
    v.zone = e.zone;
    v.log_version = e.log;
    v.local = e.local;
    v.last = e.last;
    v.weighings = e.weighings;
    v.house = e.house;
    take_rule(v.house, "range", v.range, [](const std::string& id) { return !id.empty(); });
    v.own().begin(e, event.body);
    return std::nullopt;
}

void take_stops(Visit& v, const event::Stops& e, const Stamp&)
{
    v.stops_asked = true;
    v.stop_reasons = e.stop;
    v.notes = e.noted;
    v.note_words = e.words;
    v.comparability = e.comparability;
    v.protocol_used = e.protocol;
    v.pregnant = e.pregnant;
    v.outside.clear();
    for (const auto& [rule, verdict] : e.outside)
        for (protocol::Verdict known :
            {protocol::Verdict::noted, protocol::Verdict::another_day, protocol::Verdict::no})
            if (verdict == protocol::word(known)) v.outside[rule] = known;
}

std::optional<Message> refuse_trial(const Visit& v, const event::TrialBegun& e, const Stamp& stamp)
{
    if (v.running()) return not_now("A trial is already running.");
    if (!what_of(v, e.what))
        return not_now(
            "There is no " + (e.what.empty() ? "such recording" : e.what) + " in a visit by " + v.row().name + ".");
    return v.own().refuse_trial(v, e, stamp);
}

std::optional<Message> take_reading(const Visit& before, Visit& v, const Event& event)
{
    if (auto m = refuse_now(When::open, before)) return m;
    const auto taken = read<event::TrialTaken>(event.body);
    if (!taken) return taken.messages().front();
    if (auto m = refuse_not_running(before, taken->number)) return m;
    if (auto m = v.own().take_reading(before, *before.running(), event)) return m;
    Trial& t = v.trials.back();
    t.status = Trial::Status::taken;
    t.has_reading = true;
    return std::nullopt;
}

std::optional<Message> take_typed(const Visit& before, Visit& v, const Event& event)
{
    if (auto m = refuse_now(When::at_rest, before)) return m;
    const auto typed = read<event::TrialTyped>(event.body);
    if (!typed) return typed.messages().front();
    Trial t = trial_of(v, what_of(v, typed->what), event);
    if (!t.what) return not_now(std::string("That is no reading of ") + v.row().name + ".");
    if (typed->source != "typed" && typed->source != "file")
        return Message{
            "unknown_choice", Level::error, "source", "A reading without a recording is typed or comes from a file."};
    if (typed->source == "file")
        if (auto m = refuse_file(*typed)) return m;
    t.status = Trial::Status::taken;
    t.has_reading = true;
    t.source = typed->source;
    t.file = typed->file;
    if (auto m = v.own().take_typed(before, t, event)) return m;
    v.trials.push_back(t);
    return std::nullopt;
}

std::optional<Message> refuse_finish(const Visit& v, const event::Finished&, const Stamp&)
{
    if (v.finished && v.log_version >= 2) return not_now("The visit is finished already.");
    const auto told = v.result();
    const Messages& why = told.messages();
    const bool impossible = !told && !why.empty() && why.front().code == "not_a_body";
    if (impossible && v.log_version >= 3) return why.front();
    if (!told && !impossible) return not_now("There is no result yet.");
    return std::nullopt;
}

std::optional<Message> refuse_attachment(const Visit& v, const event::Attached& e, const Stamp&)
{
    if (auto m = refuse_file(e)) return m;
    if (!(e.bytes > 0 && e.bytes <= largest_attachment))
        return Message{"out_of_range", Level::error, "bytes",
            "The file has " + limits::plain(e.bytes / 1e6, 1) + " MB; allowed is over 0 to " +
                limits::plain(largest_attachment / 1e6, 0) + " MB."};
    if (const Attached* kept = v.attachment(e.sha256))
        return not_now("The same file is kept with this visit already, as " + kept->name + ".");
    return std::nullopt;
}

} // namespace

const Kinds& shared_kinds()
{
    static const Kinds table = {
        {event::Started::kind, take_start},
        on<event::Identity>(When::open, nullptr,
            [](Visit& v, const event::Identity& e, const Stamp&) {
                v.identity_confirmed = true;
                v.height_today_cm = e.cm;
            }),
        on<event::Stops>(When::at_rest, nullptr, take_stops),
        on<event::Mass>(When::open, nullptr,
            [](Visit& v, const event::Mass& e, const Stamp&) {
                if (!v.trials.empty() && v.mass_kg && !v.mass_before_kg) v.mass_before_kg = v.mass_kg;
                v.mass_kg = e.kg;
                v.mass_source = e.source;
            }),
        on<event::TrialBegun>(When::open, refuse_trial,
            [](Visit& v, const event::TrialBegun& e, const Stamp& stamp) {
                v.trials.push_back(trial_of(v, what_of(v, e.what), stamp));
            }),
        {event::TrialTaken::kind, take_reading},
        {event::TrialTyped::kind, take_typed},
        on<event::TrialThrownOut>(
            When::open,
            [](const Visit& v, const event::TrialThrownOut& e, const Stamp&) -> std::optional<Message> {
                if (e.number < 1 || e.number > static_cast<int>(v.trials.size()))
                    return not_now("There is no trial " + std::to_string(e.number) + ".");
                if (e.reason.empty())
                    return Message{"missing_field", Level::error, "reason", "A trial is thrown out with a reason."};
                return std::nullopt;
            },
            [](Visit& v, const event::TrialThrownOut& e, const Stamp&) {
                Trial& t = v.trials[static_cast<std::size_t>(e.number - 1)];
                t.status = Trial::Status::thrown_out;
                t.reason = e.reason;
            }),
        on<event::TrialBroken>(
            When::open,
            [](const Visit& v, const event::TrialBroken& e, const Stamp&) { return refuse_not_running(v, e.number); },
            [](Visit& v, const event::TrialBroken& e, const Stamp&) {
                v.trials.back().status = Trial::Status::broken;
                v.trials.back().reason = e.reason;
            }),
        on<event::Choice>(
            When::open,
            [](const Visit& v, const event::Choice& e, const Stamp&) -> std::optional<Message> {
                if (const ChoiceRow* c = choice_of(v, e.what); c && c->known(v, e.to)) return std::nullopt;
                return Message{
                    "unknown_choice", Level::error, e.what, "\"" + e.to + "\" is not a choice for " + e.what + "."};
            },
            [](Visit& v, const event::Choice& e, const Stamp& stamp) {
                const ChoiceRow& row = *choice_of(v, e.what);
                v.choices.push_back({e.what, row.get(v), e.to, stamp.who, stamp.at_utc});
                row.set(v, e.to);
            }),
        on<event::Finished>(When::open, refuse_finish,
            [](Visit& v, const event::Finished&, const Stamp& stamp) {
                v.finished = true;
                if (v.finished_at.empty()) v.finished_at = stamp.at_utc;
            }),
        on<event::Acknowledged>(
            When::open,
            [](const Visit&, const event::Acknowledged&, const Stamp& stamp) -> std::optional<Message> {
                if (!stamp.who.empty()) return std::nullopt;
                return Message{"missing_field", Level::error, "who", "An acknowledgement needs a name."};
            },
            [](Visit& v, const event::Acknowledged& e, const Stamp& stamp) {
                v.acknowledgements.push_back({e.codes, stamp.who, stamp.at_utc});
            }),
        on<event::Reopened>(
            When::open,
            [](const Visit& v, const event::Reopened& e, const Stamp&) -> std::optional<Message> {
                if (!v.finished) return not_now("The visit is open.");
                if (v.row().origin == Origin::elsewhere)
                    return not_now("The result was told elsewhere: nothing of it is measured here.");
                return needs_reason(e.reason, "A finished visit is opened again with a reason.");
            },
            [](Visit& v, const event::Reopened& e, const Stamp& stamp) {
                v.finished = false;
                v.acknowledgements.clear();
                v.reopenings.push_back({e.reason, stamp.who, stamp.at_utc});
            }),
        on<event::GivenUp>(
            When::at_rest,
            [](const Visit&, const event::GivenUp& e, const Stamp&) {
                return needs_reason(e.reason, "A visit is given up with a reason.");
            },
            [](Visit& v, const event::GivenUp& e, const Stamp&) { v.given_up = e.reason; }),
        on<event::Attached>(When::begun, refuse_attachment,
            [](Visit& v, const event::Attached& e, const Stamp& stamp) {
                v.attached.push_back({e.file, e.sha256, stamp.who, stamp.at_utc, static_cast<long>(e.bytes), {}});
            }),
        on<event::Detached>(
            When::always,
            [](const Visit& v, const event::Detached& e, const Stamp&) -> std::optional<Message> {
                if (!v.attachment(e.sha256)) return not_now("That file is not kept with this visit.");
                return needs_reason(e.reason, "A file is taken away with a reason.");
            },
            [](Visit& v, const event::Detached& e, const Stamp&) {
                for (Attached& a : v.attached)
                    if (a.sha256 == e.sha256 && a.taken_away.empty()) a.taken_away = e.reason;
            }),
        on<event::Remark>(When::always, nullptr, [](Visit&, const event::Remark&, const Stamp&) {}),
    };
    return table;
}

std::map<std::string, std::string> Visit::chosen() const
{
    std::map<std::string, std::string> out{{range_choice.what, range_choice.get(*this)}};
    for (const ChoiceRow& c : row().choices) out[c.what] = c.get(*this);
    return out;
}

} // namespace fusain::bench
