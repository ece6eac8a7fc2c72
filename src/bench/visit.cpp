// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/visit.h"

#include "core/limits.h"

#include <chrono>
#include <cmath>
#include <map>

namespace fusain::bench {
namespace {

Message not_now(const std::string& text) { return {"not_now", Level::error, "", text}; }

std::optional<Message> check_number(const Json& body, const char* key, const char* field)
{
    if (!body.contains(key) || !body[key].is_number())
        return Message{"missing_field", Level::error, field, std::string("Field ") + key + " is missing."};
    return limits::check(field, body[key].get<double>());
}

Trial* running(Visit& v)
{
    return !v.trials.empty() && v.trials.back().status == Trial::Status::running ? &v.trials.back() : nullptr;
}

/// What an event kind needs, and what it does. One row a kind.
struct Kind {
    std::optional<Message> (*refuse)(const Visit&, const Json& body);
    void (*apply)(Visit&, const Event&);
};

std::optional<Message> always(const Visit&, const Json&) { return std::nullopt; }

std::optional<Message> needs_open(const Visit& v, const Json&)
{
    if (v.started_at.empty()) return not_now("The visit has not been started.");
    if (v.stopped()) return not_now("The visit was stopped for safety; nothing can be added to the test.");
    return std::nullopt;
}

template <const auto& key, const auto& field>
std::optional<Message> needs_number(const Visit& v, const Json& body)
{
    if (auto m = needs_open(v, body)) return m;
    return check_number(body, key, field);
}

std::optional<Message> needs_running(const Visit& v, const Json& body)
{
    if (auto m = needs_open(v, body)) return m;
    if (v.trials.empty() || v.trials.back().status != Trial::Status::running) return not_now("No trial is running.");
    return std::nullopt;
}

std::optional<Message> needs_trial(const Visit& v, const Json& body)
{
    if (auto m = needs_open(v, body)) return m;
    const int number = body.value("number", 0);
    if (number < 1 || number > static_cast<int>(v.trials.size())) return not_now("There is no trial " + std::to_string(number) + ".");
    if (body.value("reason", "").empty()) return Message{"missing_field", Level::error, "reason", "A trial is thrown out with a reason."};
    return std::nullopt;
}

std::optional<Message> needs_choice(const Visit& v, const Json& body)
{
    if (auto m = needs_open(v, body)) return m;
    const std::string what = body.value("what", ""), to = body.value("to", "");
    const bool known = what == "conversion" ? density::find(to) != nullptr
        : what == "trial_rule"              ? trials::find(to) != nullptr
        : what == "lung_equation"           ? lung::find(to) != nullptr
        : what == "lung_route"              ? to == "measured" || to == "vital_capacity" || to == "age_height"
                                            : what == "range" && !to.empty();
    if (known) return std::nullopt;
    return Message{"unknown_choice", Level::error, what, "\"" + to + "\" is not a choice for " + what + "."};
}

constexpr char k_cm[] = "cm", k_kg[] = "kg", k_l[] = "l", k_c[] = "c";
constexpr char f_height[] = "height_cm", f_mass[] = "mass_kg", f_vc[] = "hydrostatic.lung.vital_capacity_l",
               f_rv[] = "hydrostatic.lung.residual_volume_l", f_water[] = "hydrostatic.water_temp_c";

hydrostatic::LungRoute route_of(const std::string& id)
{
    return id == "measured" ? hydrostatic::LungRoute::measured
        : id == "age_height" ? hydrostatic::LungRoute::age_height
                             : hydrostatic::LungRoute::vital_capacity;
}

void choose(Visit& v, const Event& e)
{
    const std::string what = e.body["what"], to = e.body["to"];
    Choice c{what, "", to, e.who, e.at_utc};
    const auto swap_in = [&](std::string& held) {
        c.from = held;
        held = to;
    };
    if (what == "conversion") swap_in(v.conversion);
    else if (what == "trial_rule") swap_in(v.trial_rule);
    else if (what == "lung_equation") swap_in(v.lung_equation);
    else if (what == "range") swap_in(v.range);
    else {
        c.from = v.lung_route ? hydrostatic::id(*v.lung_route) : "";
        v.lung_route = route_of(to);
    }
    v.choices.push_back(c);
}

const std::map<std::string, Kind>& kinds()
{
    static const std::map<std::string, Kind> table = {
        {"started",
         {[](const Visit& v, const Json& b) -> std::optional<Message> {
              if (!v.started_at.empty()) return not_now("The visit is already started.");
              if (!b.contains("client_id") || b.value("birth_date", "").size() != 10) return Message{"missing_field", Level::error, "client", "The visit needs a client with a date of birth."};
              return check_number(b, "height_cm", f_height);
          },
          [](Visit& v, const Event& e) {
              v.started_at = e.at_utc;
              v.technician = e.who;
              v.software = e.body.value("software", "");
              v.subject = {e.body["client_id"], e.body.value("number", ""), e.body.value("name", ""), e.body["birth_date"],
                           e.body.value("sex", "") == "male" ? Sex::male : Sex::female, e.body["height_cm"]};
              v.instrument = e.body.value("instrument", "");
              v.booking_id = e.body.value("booking", 0L);
              v.zone = e.body.value("zone", "");
              v.house = e.body.value("house", v.house);
              const auto rule = [&](const char* id, std::string& chosen, bool known) { if (v.house.count(id) && known) chosen = v.house[id]; };
              rule("trial_rule", v.trial_rule, trials::find(v.house["trial_rule"]) != nullptr);
              rule("conversion", v.conversion, density::find(v.house["conversion"]) != nullptr);
              rule("lung_equation", v.lung_equation, lung::find(v.house["lung_equation"]) != nullptr);
              rule("range", v.range, !v.house["range"].empty());
          }}},
        {"identity", {needs_number<k_cm, f_height>, [](Visit& v, const Event& e) {
                          v.identity_confirmed = true;
                          v.height_today_cm = e.body["cm"].get<double>();
                      }}},
        {"stops", {needs_open, [](Visit& v, const Event& e) {
                       v.stops_asked = true;
                       v.stop_reasons = e.body.value("stop", std::vector<std::string>{});
                       v.notes = e.body.value("noted", std::vector<std::string>{});
                       v.note_words = e.body.value("words", std::vector<std::string>{});
                       v.comparability = e.body.value("comparability", "");
                   }}},
        {"mass", {needs_number<k_kg, f_mass>, [](Visit& v, const Event& e) {
                      v.mass_kg = e.body["kg"].get<double>();
                      v.mass_source = e.body.value("source", "scale");
                  }}},
        {"blow", {needs_number<k_l, f_vc>, [](Visit& v, const Event& e) { v.blows.push_back({e.body["l"], false, ""}); }}},
        {"blow_thrown_out",
         {[](const Visit& v, const Json& b) -> std::optional<Message> {
              if (auto m = needs_open(v, b)) return m;
              const int number = b.value("number", 0);
              if (number < 1 || number > static_cast<int>(v.blows.size())) return not_now("There is no blow " + std::to_string(number) + ".");
              return std::nullopt;
          },
          [](Visit& v, const Event& e) {
              Blow& blow = v.blows[static_cast<std::size_t>(e.body["number"].get<int>() - 1)];
              blow.thrown_out = true;
              blow.reason = e.body.value("reason", "");
          }}},
        {"lungs",
         {[](const Visit& v, const Json& b) -> std::optional<Message> {
              if (auto m = needs_open(v, b)) return m;
              const std::string route = b.value("route", "");
              if (route == "measured") return check_number(b, "rv_l", f_rv);
              if (route == "vital_capacity") {
                  if (v.blows_kept() < 3) return Message{"too_few_blows", Level::error, f_vc, "At least three blows are needed; " + std::to_string(v.blows_kept()) + " kept so far."};
                  if (auto m = check_number(b, "gas_temp_c", "hydrostatic.lung.gas_temp_c")) return m;
                  return check_number(b, "barometric_mmhg", "hydrostatic.lung.barometric_mmhg");
              }
              if (route == "age_height" && lung::find(b.value("equation", ""))) return std::nullopt;
              return Message{"unknown_choice", Level::error, "hydrostatic.lung.source", "Choose a route to the residual volume."};
          },
          [](Visit& v, const Event& e) {
              v.lungs_done = true;
              v.lung_route = route_of(e.body["route"]);
              if (e.body.contains("rv_l")) v.measured_rv_l = e.body["rv_l"].get<double>();
              if (e.body.contains("gas_temp_c")) v.gas_temp_c = e.body["gas_temp_c"].get<double>();
              if (e.body.contains("barometric_mmhg")) v.barometric_mmhg = e.body["barometric_mmhg"].get<double>();
              if (e.body.contains("equation")) v.lung_equation = e.body["equation"];
          }}},
        {"zero",
         {[](const Visit& v, const Json& b) -> std::optional<Message> {
              if (auto m = needs_open(v, b)) return m;
              if (!b.contains("kg") || !b["kg"].is_number() || !std::isfinite(b["kg"].get<double>())) return Message{"missing_field", Level::error, "zero", "The zero reading is missing."};
              return std::nullopt;
          },
          [](Visit& v, const Event& e) {
              v.zero_kg = e.body["kg"].get<double>();
              v.zero_sd_kg = e.body.value("sd_kg", 0.0);
          }}},
        {"water", {needs_number<k_c, f_water>, [](Visit& v, const Event& e) {
                       v.water_temp_c = e.body["c"].get<double>();
                       v.salinity_g_per_l = e.body.value("salinity_g_per_l", 0.0);
                   }}},
        {"trial_begun",
         {[](const Visit& v, const Json& b) -> std::optional<Message> {
              if (auto m = needs_open(v, b)) return m;
              for (Step s : {Step::who, Step::stops, Step::mass, Step::lungs, Step::zero, Step::water})
                  if (!v.done(s)) return not_now(std::string("Before a trial: ") + title(s) + ".");
              if (!v.trials.empty() && v.trials.back().status == Trial::Status::running) return not_now("A trial is already running.");
              return std::nullopt;
          },
          [](Visit& v, const Event&) {
              Trial t;
              t.number = static_cast<int>(v.trials.size()) + 1;
              v.trials.push_back(t);
          }}},
        {"trial_taken",
         {[](const Visit& v, const Json& b) -> std::optional<Message> {
              if (auto m = needs_running(v, b)) return m;
              return check_number(b, "kg", "hydrostatic.trials_kg");
          },
          [](Visit& v, const Event& e) {
              Trial& t = *running(v);
              t.status = Trial::Status::taken;
              t.has_reading = true;
              t.kg = e.body["kg"];
              t.u_kg = e.body.value("u_kg", 0.0);
              t.window_from_s = e.body.value("window_from_s", 0.0);
              t.window_to_s = e.body.value("window_to_s", 0.0);
              t.earliest_s = e.body.value("earliest_s", 0.0);
              t.midpoint_kg = e.body.value("midpoint_kg", 0.0);
          }}},
        {"trial_thrown_out", {needs_trial, [](Visit& v, const Event& e) {
                                  Trial& t = v.trials[static_cast<std::size_t>(e.body["number"].get<int>() - 1)];
                                  t.status = Trial::Status::thrown_out;
                                  t.reason = e.body["reason"];
                              }}},
        {"trial_broken", {needs_running, [](Visit& v, const Event& e) {
                              Trial& t = *running(v);
                              t.status = Trial::Status::broken;
                              t.reason = e.body.value("reason", "");
                          }}},
        {"choice", {needs_choice, choose}},
        {"finished",
         {[](const Visit& v, const Json& b) -> std::optional<Message> {
              if (auto m = needs_open(v, b)) return m;
              if (!v.result()) return not_now("There is no result yet.");
              return std::nullopt;
          },
          [](Visit& v, const Event& e) {
              v.finished = true;
              if (v.finished_at.empty()) v.finished_at = e.at_utc;
          }}},
        {"remark", {always, [](Visit&, const Event&) {}}},
    };
    return table;
}

} // namespace

const char* title(Step step)
{
    constexpr const char* titles[] = {"Who is it", "Nothing forbids it", "Mass", "Lungs", "Zero", "Water", "Under water", "Result"};
    return titles[static_cast<int>(step)];
}

const char* word(Trial::Status status)
{
    constexpr const char* words[] = {"running", "taken", "thrown out", "broken"};
    return words[static_cast<int>(status)];
}

std::optional<Message> Visit::refuse(const Event& e) const
{
    if (e.seq != last_seq + 1)
        return Message{"log_gap", Level::error, "seq", "Event " + std::to_string(e.seq) + " follows " + std::to_string(last_seq) + ": the log has a gap."};
    const auto kind = kinds().find(e.kind);
    if (kind == kinds().end()) return Message{"unknown_event", Level::error, "kind", "The log holds an event \"" + e.kind + "\" that this version does not know."};
    try {
        return kind->second.refuse(*this, e.body);
    } catch (const Json::exception& x) {
        return Message{"bad_event", Level::error, e.kind, std::string("The event cannot be read: ") + x.what()};
    }
}

std::optional<Message> Visit::apply(const Event& e)
{
    if (auto why = refuse(e)) return why;
    Visit next = *this;
    try {
        kinds().at(e.kind).apply(next, e);
    } catch (const Json::exception& x) {
        return Message{"bad_event", Level::error, e.kind, std::string("The event cannot be read: ") + x.what()};
    }
    next.last_seq = e.seq;
    *this = std::move(next);
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
    case Step::result: return finished;
    }
    return false;
}

Step Visit::next_step() const
{
    for (int i = 0; i < step_count - 1; ++i)
        if (!done(static_cast<Step>(i))) return static_cast<Step>(i);
    return Step::result;
}

std::vector<double> Visit::taken_kg() const
{
    std::vector<double> out;
    for (const Trial& t : trials)
        if (t.status == Trial::Status::taken) out.push_back(t.kg);
    return out;
}

std::vector<int> Visit::taken_numbers() const
{
    std::vector<int> out;
    for (const Trial& t : trials)
        if (t.status == Trial::Status::taken) out.push_back(t.number);
    return out;
}

int Visit::blows_kept() const
{
    return static_cast<int>(std::count_if(blows.begin(), blows.end(), [](const Blow& b) { return !b.thrown_out; }));
}

std::optional<double> Visit::best_blow_l() const
{
    std::optional<double> best;
    for (const Blow& b : blows)
        if (!b.thrown_out && (!best || b.volume_l > *best)) best = b.volume_l;
    return best;
}

double Visit::age_y() const { return age_between(subject.birth_date, started_at.substr(0, 10)); }

std::optional<hydrostatic::Input> Visit::input() const
{
    if (!mass_kg || !water_temp_c || !lung_route || !lungs_done) return std::nullopt;
    hydrostatic::Input in;
    in.sex = subject.sex;
    in.age_y = age_y();
    in.height_cm = height_today_cm.value_or(subject.height_cm);
    in.mass_kg = *mass_kg;
    in.trials_kg = taken_kg();
    in.trial_rule = trial_rule;
    in.water_temp_c = *water_temp_c;
    in.salinity_g_per_l = salinity_g_per_l;
    in.conversion = conversion;
    in.lung.route = *lung_route;
    in.lung.equation = lung_equation;
    in.lung.residual_volume_l = measured_rv_l.value_or(NAN);
    in.lung.vital_capacity_l = best_blow_l().value_or(NAN);
    in.lung.body_conditions = false;
    in.lung.gas_temp_c = gas_temp_c.value_or(NAN);
    in.lung.barometric_mmhg = barometric_mmhg.value_or(NAN);
    return in;
}

Outcome<hydrostatic::Result> Visit::result() const
{
    if (const auto in = input()) return hydrostatic::compute(*in);
    return Outcome<hydrostatic::Result>::refuse(not_now("The test is not complete."));
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
    const sys_days last = birthday(born.year() + std::chrono::years{years}), next = birthday(born.year() + std::chrono::years{years + 1});
    return years + static_cast<double>((sys_days{now} - last).count()) / static_cast<double>((next - last).count());
}

} // namespace fusain::bench
