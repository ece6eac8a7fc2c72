// SPDX-License-Identifier: GPL-3.0-or-later
// The events that every visit understands.
#include "bench/visit/methods.h"
#include "bench/visit/kinds.h"
#include "core/base/limits.h"

#include <algorithm>

namespace fusain::bench {

std::optional<Message> check_number(const Json& body, const char* key, const char* field)
{
    if (!body.contains(key) || !body[key].is_number())
        return Message{"missing_field", Level::error, field, std::string("Field ") + key + " is missing."};
    return limits::check(field, body[key].get<double>());
}

std::optional<Message> needs_open(const Visit& v, const Event&)
{
    if (v.started_at.empty()) return not_now("The visit has not been started.");
    if (v.stopped()) return not_now("The visit was stopped for safety; nothing can be added to the test.");
    if (!v.given_up.empty()) return not_now("The visit was given up; nothing can be added to the test.");
    return std::nullopt;
}

std::optional<Message> needs_running(const Visit& v, const Event& e)
{
    if (auto m = needs_open(v, e)) return m;
    if (!v.running()) return not_now("No trial is running.");
    if (const int number = e.body.value("number", v.running()->number); number != v.running()->number)
        return not_now("Trial " + std::to_string(number) + " is not running; trial " +
                       std::to_string(v.running()->number) + " is.");
    return std::nullopt;
}

/// What comes from a file keeps its name and the SHA-256 of its bytes.
std::optional<Message> refuse_file(const Json& body)
{
    const std::string name = body.value("file", ""), digest = body.value("sha256", "");
    if (name.empty()) return Message{"missing_field", Level::error, "file", "The name of the file is missing."};
    const bool is_one = digest.size() == 64 && digest.find_first_not_of("0123456789abcdef") == std::string::npos;
    if (is_one) return std::nullopt;
    return Message{"bad_digest", Level::error, "sha256",
        "The SHA-256 of " + name + " is \"" + digest + "\"; allowed are 64 hexadecimal digits."};
}

namespace {

std::optional<Message> always(const Visit&, const Event&) { return std::nullopt; }

std::optional<Message> needs_reason(const Event& e, const char* words)
{
    if (e.body.value("reason", "").size() >= 5) return std::nullopt;
    return Message{"missing_field", Level::error, "reason",
        std::string(words) + " Write at least a word or two; it stands in the record with your name."};
}

std::optional<Message> needs_trial(const Visit& v, const Event& e)
{
    if (auto m = needs_open(v, e)) return m;
    const int number = e.body.value("number", 0);
    if (number < 1 || number > static_cast<int>(v.trials.size()))
        return not_now("There is no trial " + std::to_string(number) + ".");
    if (e.body.value("reason", "").empty())
        return Message{"missing_field", Level::error, "reason", "A trial is thrown out with a reason."};
    return std::nullopt;
}

constexpr char k_cm[] = "cm", k_kg[] = "kg", f_height[] = "height_cm", f_mass[] = "mass_kg";

const ChoiceRow range_choice = {"range", [](const Visit&, const std::string& to) { return !to.empty(); },
    [](const Visit& v) { return v.range; }, [](Visit& v, const std::string& to) { v.range = to; }};

const ChoiceRow* choice_of(const Visit& v, const std::string& what)
{
    if (what == range_choice.what) return &range_choice;
    for (const ChoiceRow& c : v.row().choices)
        if (what == c.what) return &c;
    return nullptr;
}

std::optional<Message> needs_choice(const Visit& v, const Event& e)
{
    if (auto m = needs_open(v, e)) return m;
    const std::string what = e.body.value("what", ""), to = e.body.value("to", "");
    if (const ChoiceRow* c = choice_of(v, what); c && c->known(v, to)) return std::nullopt;
    return Message{"unknown_choice", Level::error, what, "\"" + to + "\" is not a choice for " + what + "."};
}

void choose(Visit& v, const Event& e)
{
    const std::string what = e.body["what"], to = e.body["to"];
    const ChoiceRow& row = *choice_of(v, what);
    v.choices.push_back({what, row.get(v), to, e.who, e.at_utc});
    row.set(v, to);
}

/// What a recording is of; null: of nothing that the method knows. Old logs leave it out where there is one kind only.
const TakeRow* what_of(const Visit& v, const Json& body)
{
    const auto& takes = v.row().takes;
    const std::string named = body.value("what", takes.size() == 1 ? takes.front().word : "");
    const auto at = std::find_if(takes.begin(), takes.end(), [&](const TakeRow& t) { return named == t.word; });
    return at == takes.end() ? nullptr : &*at;
}

std::optional<Message> refuse_attachment(const Visit& v, const Event& e)
{
    if (v.started_at.empty()) return not_now("The visit has not been started.");
    if (auto m = refuse_file(e.body)) return m;
    const double bytes = e.body.value("bytes", 0.0);
    if (!(bytes > 0 && bytes <= largest_attachment))
        return Message{"out_of_range", Level::error, "bytes",
            "The file has " + limits::plain(bytes / 1e6, 1) + " MB; allowed is over 0 to " +
                limits::plain(largest_attachment / 1e6, 0) + " MB."};
    if (v.attachment(e.body["sha256"]))
        return not_now(
            "The same file is kept with this visit already, as " + v.attachment(e.body["sha256"])->name + ".");
    return std::nullopt;
}

} // namespace

const Kinds& shared_kinds()
{
    static const Kinds table = {
        {"started", {[](const Visit& v, const Event& e) -> std::optional<Message> {
                         const Json& b = e.body;
                         if (!v.started_at.empty()) return not_now("The visit is already started.");
                         if (!b.contains("client_id") || b.value("birth_date", "").size() != 10)
                             return Message{"missing_field", Level::error, "client",
                                 "The visit needs a client with a date of birth."};
                         if (!row_of_log(b))
                             return Message{"unknown_choice", Level::error, "method",
                                 "This version has no bench for the method " + b.value("method", "") + "."};
                         return check_number(b, "height_cm", f_height);
                     },
                        [](Visit& v, const Event& e) {
                            v.started_at = e.at_utc;
                            v.technician = e.who;
                            v.software = e.body.value("software", "");
                            v.subject = {e.body["client_id"], e.body.value("number", ""), e.body.value("name", ""),
                                e.body["birth_date"], e.body.value("sex", "") == "male" ? Sex::male : Sex::female,
                                e.body["height_cm"]};
                            v.start(*row_of_log(e.body));
                            v.instrument = e.body.value("instrument", "");
                            v.instrument_reference = e.body.value("reference", 0.0);
                            v.booking_id = e.body.value("booking", 0L);
                            v.zone = e.body.value("zone", "");
                            v.log_version = e.body.value("log", 1);
                            v.local = e.body.value("local", "");
                            if (const Json last = e.body.value("last", Json()); last.is_object())
                                v.last = judgement::LastVisit{last.value("mass_kg", 0.0), last.value("days", 0.0)};
                            v.weighings.clear();
                            for (const Json& w : e.body.value("weighings", Json::array()))
                                v.weighings.push_back({w.value("mass_kg", 0.0), w.value("days", 0.0)});
                            v.house = e.body.value("house", v.house);
                            take_rule(v.house, "range", v.range, [](const std::string& id) { return !id.empty(); });
                            v.own().begin(v.house, e.body);
                        }}},
        {"identity", {needs_number<k_cm, f_height>,
                         [](Visit& v, const Event& e) {
                             v.identity_confirmed = true;
                             v.height_today_cm = e.body["cm"].get<double>();
                         }}},
        {"stops", {[](const Visit& v, const Event& e) -> std::optional<Message> {
                       if (auto m = needs_open(v, e)) return m;
                       if (v.running()) return not_now("A trial is running.");
                       return std::nullopt;
                   },
                      [](Visit& v, const Event& e) {
                          v.stops_asked = true;
                          v.stop_reasons = e.body.value("stop", std::vector<std::string>{});
                          v.notes = e.body.value("noted", std::vector<std::string>{});
                          v.note_words = e.body.value("words", std::vector<std::string>{});
                          v.comparability = e.body.value("comparability", "");
                          v.protocol_used = e.body.value("protocol", "");
                          v.pregnant = e.body.value("pregnant", false);
                          v.outside.clear();
                          const Json outside = e.body.value("outside", Json::object());
                          for (const auto& [rule, verdict] : outside.items())
                              for (protocol::Verdict known :
                                  {protocol::Verdict::noted, protocol::Verdict::another_day, protocol::Verdict::no})
                                  if (verdict == protocol::word(known)) v.outside[rule] = known;
                      }}},
        {"mass", {needs_number<k_kg, f_mass>,
                     [](Visit& v, const Event& e) {
                         if (!v.trials.empty() && v.mass_kg && !v.mass_before_kg) v.mass_before_kg = v.mass_kg;
                         v.mass_kg = e.body["kg"].get<double>();
                         v.mass_source = e.body.value("source", "scale");
                     }}},
        {"trial_begun", {[](const Visit& v, const Event& e) -> std::optional<Message> {
                             if (auto m = needs_open(v, e)) return m;
                             if (v.running()) return not_now("A trial is already running.");
                             if (!what_of(v, e.body))
                                 return not_now("There is no " + e.body.value("what", "such recording") +
                                                " in a visit by " + v.row().name + ".");
                             return v.own().refuse_trial(v, e);
                         },
                            [](Visit& v, const Event& e) {
                                Trial t;
                                t.number = static_cast<int>(v.trials.size()) + 1;
                                t.what = what_of(v, e.body);
                                t.begun_at = e.at_utc;
                                v.trials.push_back(t);
                            }}},
        {"trial_taken", {[](const Visit& v, const Event& e) -> std::optional<Message> {
                             if (auto m = needs_running(v, e)) return m;
                             return v.own().refuse_reading(v, *v.running(), e);
                         },
                            [](Visit& v, const Event& e) {
                                Trial& t = v.trials.back();
                                t.status = Trial::Status::taken;
                                t.has_reading = true;
                                v.own().take_reading(t, e);
                            }}},
        {"trial_typed", {[](const Visit& v, const Event& e) -> std::optional<Message> {
                             if (auto m = needs_open(v, e)) return m;
                             if (v.running()) return not_now("A trial is running.");
                             const TakeRow* what = what_of(v, e.body);
                             if (!what) return not_now(std::string("That is no reading of ") + v.row().name + ".");
                             if (const std::string s = e.body.value("source", ""); s != "typed" && s != "file")
                                 return Message{"unknown_choice", Level::error, "source",
                                     "A reading without a recording is typed or comes from a file."};
                             if (e.body["source"] == "file")
                                 if (auto m = refuse_file(e.body)) return m;
                             return v.own().refuse_typed(v, *what, e);
                         },
                            [](Visit& v, const Event& e) {
                                Trial t;
                                t.number = static_cast<int>(v.trials.size()) + 1;
                                t.what = what_of(v, e.body);
                                t.begun_at = e.at_utc;
                                t.status = Trial::Status::taken;
                                t.has_reading = true;
                                t.source = e.body["source"];
                                t.file = e.body.value("file", "");
                                v.own().take_typed(v, t, e);
                                v.trials.push_back(t);
                            }}},
        {"trial_thrown_out", {needs_trial,
                                 [](Visit& v, const Event& e) {
                                     Trial& t = v.trials[static_cast<std::size_t>(e.body["number"].get<int>() - 1)];
                                     t.status = Trial::Status::thrown_out;
                                     t.reason = e.body["reason"];
                                 }}},
        {"trial_broken", {needs_running,
                             [](Visit& v, const Event& e) {
                                 v.trials.back().status = Trial::Status::broken;
                                 v.trials.back().reason = e.body.value("reason", "");
                             }}},
        {"choice", {needs_choice, choose}},
        {"finished", {[](const Visit& v, const Event& e) -> std::optional<Message> {
                          if (auto m = needs_open(v, e)) return m;
                          if (v.finished && v.log_version >= 2) return not_now("The visit is finished already.");
                          const auto told = v.result();
                          const Messages& why = told.messages();
                          const bool impossible = !told && !why.empty() && why.front().code == "not_a_body";
                          if (impossible && v.log_version >= 3) return why.front();
                          if (!told && !impossible) return not_now("There is no result yet.");
                          return std::nullopt;
                      },
                         [](Visit& v, const Event& e) {
                             v.finished = true;
                             if (v.finished_at.empty()) v.finished_at = e.at_utc;
                         }}},
        {"acknowledged",
            {[](const Visit& v, const Event& e) -> std::optional<Message> {
                 if (auto m = needs_open(v, e)) return m;
                 if (!e.body.contains("codes") || !e.body["codes"].is_array() || e.body["codes"].empty())
                     return Message{"missing_field", Level::error, "codes", "What is acknowledged?"};
                 if (e.who.empty())
                     return Message{"missing_field", Level::error, "who", "An acknowledgement needs a name."};
                 return std::nullopt;
             },
                [](Visit& v, const Event& e) {
                    v.acknowledgements.push_back({e.body["codes"].get<std::vector<std::string>>(), e.who, e.at_utc});
                }}},
        {"reopened", {[](const Visit& v, const Event& e) -> std::optional<Message> {
                          if (auto m = needs_open(v, e)) return m;
                          if (!v.finished) return not_now("The visit is open.");
                          if (v.row().origin == Origin::elsewhere)
                              return not_now("The result was told elsewhere: nothing of it is measured here.");
                          return needs_reason(e, "A finished visit is opened again with a reason.");
                      },
                         [](Visit& v, const Event& e) {
                             v.finished = false;
                             v.acknowledgements.clear();
                             v.reopenings.push_back({e.body["reason"], e.who, e.at_utc});
                         }}},
        {"given_up", {[](const Visit& v, const Event& e) -> std::optional<Message> {
                          if (auto m = needs_open(v, e)) return m;
                          if (v.running()) return not_now("A trial is running.");
                          return needs_reason(e, "A visit is given up with a reason.");
                      },
                         [](Visit& v, const Event& e) { v.given_up = e.body["reason"]; }}},
        {"attached", {refuse_attachment,
                         [](Visit& v, const Event& e) {
                             v.attached.push_back({e.body["file"], e.body["sha256"], e.who, e.at_utc,
                                 static_cast<long>(e.body["bytes"].get<double>()), {}});
                         }}},
        {"detached", {[](const Visit& v, const Event& e) -> std::optional<Message> {
                          if (!v.attachment(e.body.value("sha256", "")))
                              return not_now("That file is not kept with this visit.");
                          return needs_reason(e, "A file is taken away with a reason.");
                      },
                         [](Visit& v, const Event& e) {
                             for (Attached& a : v.attached)
                                 if (a.sha256 == e.body["sha256"] && a.taken_away.empty())
                                     a.taken_away = e.body["reason"];
                         }}},
        {"remark", {always, [](Visit&, const Event&) {}}},
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
