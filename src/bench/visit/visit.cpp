// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/visit/visit_kinds.h"

#include "core/base/limits.h"

#include <algorithm>
#include <chrono>
#include <cmath>

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

/// A finished visit stands as it was given out.
bool stands_when_finished(const std::string& kind)
{
    for (const char* allowed : {"choice", "remark", "acknowledged", "reopened"})
        if (kind == allowed) return true;
    return false;
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

namespace {

constexpr Trial::What every_what[] = {
    Trial::What::weighing, Trial::What::empty, Trial::What::cylinder, Trial::What::run, Trial::What::puffs};

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

hydrostatic::LungRoute route_of(const std::string& id)
{
    using hydrostatic::LungRoute;
    for (LungRoute r : {LungRoute::measured, LungRoute::age_height})
        if (id == hydrostatic::id(r)) return r;
    return LungRoute::vital_capacity;
}

/// What may be chosen again at the result: which method has it, what it may become, and where it is held.
struct ChoiceRow {
    const char* what;
    std::optional<protocol::Method> method; ///< nothing: every method
    bool (*known)(const Visit&, const std::string& to);
    void (*set)(Visit&, const std::string& to, std::string& from);
};
template <auto member>
void swap_in(Visit& v, const std::string& to, std::string& from)
{
    from = v.*member;
    v.*member = to;
}
const ChoiceRow choices[] = {
    {"conversion", std::nullopt, [](const Visit&, const std::string& to) { return density::find(to) != nullptr; },
        swap_in<&Visit::conversion>},
    {"range", std::nullopt, [](const Visit&, const std::string& to) { return !to.empty(); }, swap_in<&Visit::range>},
    {"trial_rule", protocol::Method::hydrostatic,
        [](const Visit&, const std::string& to) { return trials::find(to) != nullptr; }, swap_in<&Visit::trial_rule>},
    {"lung_equation", protocol::Method::hydrostatic,
        [](const Visit&, const std::string& to) { return lung::find(to) != nullptr; }, swap_in<&Visit::lung_equation>},
    {"lung_route", protocol::Method::hydrostatic,
        [](const Visit&, const std::string& to) {
            return to == "measured" || to == "vital_capacity" || to == "age_height";
        },
        [](Visit& v, const std::string& to, std::string& from) {
            from = v.lung_route ? hydrostatic::id(*v.lung_route) : "";
            v.lung_route = route_of(to);
        }},
    {"gas_equation", protocol::Method::air_displacement,
        [](const Visit&, const std::string& to) { return lung::find_gas(to) != nullptr; },
        swap_in<&Visit::gas_equation>},
    {"gas_route", protocol::Method::air_displacement,
        [](const Visit& v, const std::string& to) {
            return to == "predicted" || (to == "measured" && v.measured_gas());
        },
        [](Visit& v, const std::string& to, std::string& from) {
            from = displacement::id(v.gas_route);
            v.gas_route = to == "measured" ? displacement::LungRoute::measured : displacement::LungRoute::predicted;
        }},
};

const ChoiceRow* choice_of(const Visit& v, const std::string& what)
{
    for (const ChoiceRow& c : choices)
        if (what == c.what && (!c.method || *c.method == v.method)) return &c;
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
    Choice c{e.body["what"], "", e.body["to"], e.who, e.at_utc};
    choice_of(v, c.what)->set(v, c.to, c.from);
    v.choices.push_back(c);
}

Trial::What what_of(const Visit& v, const Json& body)
{
    const std::string named = body.value("what", v.method == protocol::Method::air_displacement ? "" : "weighing");
    for (Trial::What w : every_what)
        if (named == word(w)) return w;
    throw Json::other_error::create(501, "a trial of what?", nullptr);
}

Kinds shared_kinds()
{
    Kinds table = {
        {"started", {[](const Visit& v, const Event& e) -> std::optional<Message> {
                         const Json& b = e.body;
                         if (!v.started_at.empty()) return not_now("The visit is already started.");
                         if (!b.contains("client_id") || b.value("birth_date", "").size() != 10)
                             return Message{"missing_field", Level::error, "client",
                                 "The visit needs a client with a date of birth."};
                         const std::string method = b.value("method", "hydrostatic");
                         const auto known = protocol::method_of(method);
                         if (!known || !method_row(*known))
                             return Message{"unknown_choice", Level::error, "method",
                                 "This version has no bench for the method " + method + "."};
                         return check_number(b, "height_cm", f_height);
                     },
                        [](Visit& v, const Event& e) {
                            v.started_at = e.at_utc;
                            v.technician = e.who;
                            v.software = e.body.value("software", "");
                            v.subject = {e.body["client_id"], e.body.value("number", ""), e.body.value("name", ""),
                                e.body["birth_date"], e.body.value("sex", "") == "male" ? Sex::male : Sex::female,
                                e.body["height_cm"]};
                            v.method = *protocol::method_of(e.body.value("method", "hydrostatic"));
                            v.instrument = e.body.value("instrument", "");
                            v.cylinder_register_l = e.body.value("reference", 0.0);
                            v.booking_id = e.body.value("booking", 0L);
                            v.zone = e.body.value("zone", "");
                            v.log_version = e.body.value("log", 1);
                            v.local = e.body.value("local", "");
                            if (const Json last = e.body.value("last", Json()); last.is_object())
                                v.last = judgement::LastVisit{last.value("mass_kg", 0.0), last.value("days", 0.0)};
                            v.house = e.body.value("house", v.house);
                            const auto rule = [&](const char* id, std::string& chosen, bool known) {
                                if (v.house.count(id) && known) chosen = v.house[id];
                            };
                            rule("trial_rule", v.trial_rule, trials::find(v.house["trial_rule"]) != nullptr);
                            rule("conversion", v.conversion, density::find(v.house["conversion"]) != nullptr);
                            rule("lung_equation", v.lung_equation, lung::find(v.house["lung_equation"]) != nullptr);
                            if (v.house["chamber_lung_gas"] == "measured")
                                v.gas_route = displacement::LungRoute::measured;
                            rule("range", v.range, !v.house["range"].empty());
                            if (const std::string c = e.body.value("conversion", ""); density::find(c))
                                v.conversion = c; // by the client's age
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
                             what_of(v, e.body);
                             return v.row().refuse_trial(v, e);
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
                             if (v.running()->what != Trial::What::weighing)
                                 return refuse_chamber_reading(v, *v.running(), e);
                             return check_number(e.body, "kg", "hydrostatic.trials_kg");
                         },
                            [](Visit& v, const Event& e) {
                                Trial& t = v.trials.back();
                                t.status = Trial::Status::taken;
                                t.has_reading = true;
                                if (t.what != Trial::What::weighing) return take_chamber_reading(t, e);
                                t.kg = e.body["kg"];
                                t.u_kg = e.body.value("u_kg", 0.0);
                                t.window_from_s = e.body.value("window_from_s", 0.0);
                                t.window_to_s = e.body.value("window_to_s", 0.0);
                                t.earliest_s = e.body.value("earliest_s", 0.0);
                                t.midpoint_kg = e.body.value("midpoint_kg", 0.0);
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
                          if (!v.result()) return not_now("There is no result yet.");
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
        {"remark", {always, [](Visit&, const Event&) {}}},
    };
    add_tank_kinds(table);
    add_chamber_kinds(table);
    return table;
}

const Kinds& kinds()
{
    static const Kinds table = shared_kinds();
    return table;
}

} // namespace

const MethodRow* method_row(protocol::Method method)
{
    static const MethodRow table[] = {tank_row(), chamber_row()};
    for (const MethodRow& r : table)
        if (r.method == method) return &r;
    return nullptr;
}

const char* title(Step step)
{
    constexpr const char* titles[] = {"Who is it", "Nothing forbids it", "Mass", "Lungs", "Zero", "Water",
        "Under water", "Cap, clothes, talk", "Calibration", "Volume", "Lung gas", "Result"};
    return titles[static_cast<int>(step)];
}

const char* word(Trial::What what)
{
    constexpr const char* words[] = {"weighing", "empty", "cylinder", "run", "puffs"};
    return words[static_cast<int>(what)];
}

const char* title(Trial::What what)
{
    constexpr const char* titles[] = {"trial", "empty chamber", "cylinder", "run", "puffs"};
    return titles[static_cast<int>(what)];
}

const char* word(Trial::Status status)
{
    constexpr const char* words[] = {"running", "taken", "thrown out", "broken"};
    return words[static_cast<int>(status)];
}

Outcome<Visit> Visit::after(const Event& e) const
{
    using After = Outcome<Visit>;
    if (e.seq != last_seq + 1)
        return After::refuse(Message{"log_gap", Level::error, "seq",
            "Event " + std::to_string(e.seq) + " follows " + std::to_string(last_seq) + ": the log has a gap."});
    const auto kind = kinds().find(e.kind);
    if (kind == kinds().end())
        return After::refuse(Message{"unknown_event", Level::error, "kind",
            "The log holds an event \"" + e.kind + "\" that this version does not know."});
    if (finished && log_version >= 2 && e.kind != "finished" && !stands_when_finished(e.kind))
        return After::refuse(
            not_now("The visit is finished. Open it again, with the reason, before anything in it is changed."));
    try {
        if (auto why = kind->second.refuse(*this, e)) return After::refuse(*why);
        Visit next = *this;
        kind->second.apply(next, e);
        next.last_seq = e.seq;
        return next;
    } catch (const Json::exception& x) {
        return After::refuse(
            Message{"bad_event", Level::error, e.kind, std::string("The event cannot be read: ") + x.what()});
    }
}

std::optional<Message> Visit::refuse(const Event& e) const
{
    const auto next = after(e);
    return next ? std::nullopt : std::optional(next.messages().front());
}

std::optional<Message> Visit::apply(const Event& e)
{
    auto next = after(e);
    if (!next) return next.messages().front();
    *this = std::move(next).take();
    return std::nullopt;
}

bool Visit::done(Step step) const
{
    switch (step) {
    case Step::who: return identity_confirmed;
    case Step::stops: return stops_asked && !stopped();
    case Step::mass: return mass_kg.has_value();
    case Step::lungs: return lungs_done;
    case Step::zero: return zero_kg.has_value();
    case Step::water: return water_temp_c.has_value();
    case Step::trials: return finished || bool(result());
    case Step::prepare: return !prepared.empty();
    case Step::calibrate: return bool(calibration());
    case Step::runs: return finished || bool(displacement::agree(readings()));
    case Step::lung_gas: return gas_done;
    case Step::result: return finished;
    }
    return false;
}

Step Visit::next_step() const
{
    for (Step step : steps())
        if (step != Step::result && !done(step)) return step;
    return Step::result;
}

std::vector<int> Visit::reading_numbers() const
{
    std::vector<int> out;
    for (const Trial& t : trials)
        if (t.status == Trial::Status::taken && row().value(*this, t)) out.push_back(t.number);
    return out;
}

std::vector<double> Visit::readings() const
{
    std::vector<double> out;
    for (int n : reading_numbers()) out.push_back(*row().value(*this, trials[static_cast<std::size_t>(n - 1)]));
    return out;
}

const Trial* Visit::last_taken(Trial::What what) const
{
    for (auto t = trials.rbegin(); t != trials.rend(); ++t)
        if (t->what == what && t->status == Trial::Status::taken) return &*t;
    return nullptr;
}

double Visit::age_y() const { return age_between(subject.birth_date, day()); }

Outcome<densitometry::Result> Visit::result() const
{
    auto computed = row().result(*this);
    if (!computed) return computed;
    Messages messages = computed.messages();
    const auto add = [&](const std::optional<Message>& m) {
        if (m) messages.push_back(*m);
    };
    if (mass_kg) add(judgement::judge_mass(*mass_kg, last));
    if (height_today_cm) add(judgement::judge_height(*height_today_cm, subject.height_cm, age_y()));
    return {std::move(computed).take(), std::move(messages)};
}

Messages Visit::to_acknowledge() const
{
    Messages out;
    for (const Message& m : result().messages())
        if (m.level == Level::caution && judgement::asks_again(m) &&
            std::none_of(acknowledgements.begin(), acknowledgements.end(), [&](const Acknowledgement& a) {
                return std::find(a.codes.begin(), a.codes.end(), m.code) != a.codes.end();
            }))
            out.push_back(m);
    return out;
}

double age_between(const std::string& birth_date, const std::string& day)
{
    using namespace std::chrono;
    const auto parse = [](const std::string& text) {
        int y = 0;
        unsigned m = 0, d = 0;
        if (std::sscanf(text.c_str(), "%d-%u-%u", &y, &m, &d) != 3) return year_month_day{};
        return year{y} / month{m} / std::chrono::day{d};
    };
    const year_month_day born = parse(birth_date), now = parse(day);
    if (!born.ok() || !now.ok()) return NAN;
    // 29 February has its birthday on 1 March in common years
    const auto birthday = [&](year y) {
        const year_month_day b = y / born.month() / born.day();
        return b.ok() ? sys_days{b} : sys_days{y / March / 1};
    };
    int years = int(now.year()) - int(born.year());
    if (sys_days{now} < birthday(now.year())) --years;
    const sys_days last = birthday(born.year() + std::chrono::years{years}),
                   next = birthday(born.year() + std::chrono::years{years + 1});
    return years + static_cast<double>((sys_days{now} - last).count()) / static_cast<double>((next - last).count());
}

} // namespace fusain::bench
