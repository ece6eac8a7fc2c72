// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/printed/printed.h"

#include "bench/files/layout_file.h"
#include "bench/visit/methods.h"
#include "bench/visit/kinds.h"
#include "core/base/limits.h"
#include "core/body/told.h"

#include <algorithm>
#include <cmath>

namespace fusain::bench {
namespace {

using printout::Field, printout::Identity, printout::Value;
using protocol::Method;

constexpr const char* client_keys[] = {"number", "at", "height_cm", "age_y", "sex"};

PrintedState& own(Visit& v) { return dynamic_cast<PrintedState&>(v.own()); }

constexpr StepRow printout_row{
    "printout", "What it shows", [](const Visit& v) { return printed_if(v) && !printed_of(v).reading.values.empty(); }};

Message bad(const std::string& field, const std::string& text) { return {"bad_value", Level::error, field, text}; }

/// What a body says; the refusal names the key.
Outcome<printout::Reading> reading_in(const PrintedState& s, const Json& body)
{
    printout::Reading out;
    out.layout = s.layout.id;
    for (const Json& row : body.value("values", Json::array())) {
        const std::string key = row.value("key", "");
        const Field* f = s.field(key);
        if (!f) return Outcome<printout::Reading>::refuse(bad(key, "The layout has no field \"" + key + "\"."));
        if (out.value(key)) return Outcome<printout::Reading>::refuse(bad(key, "\"" + key + "\" is there twice."));
        const auto number = [&](const char* name) { return row.contains(name) ? row[name].get<double>() : NAN; };
        Value v;
        v.key = key;
        v.quantity = f->quantity;
        v.segment = f->segment;
        v.unit = f->unit;
        v.text = row.value("text", "");
        v.value = number("value");
        v.decimals = row.value("decimals", 0);
        if (!std::isfinite(v.value))
            return Outcome<printout::Reading>::refuse(bad(key, "\"" + f->label + "\" has no number."));
        if (row.contains("low") != row.contains("high"))
            return Outcome<printout::Reading>::refuse(
                bad(key, "\"" + f->label + "\" has one limit; allowed is none or two."));
        if (row.contains("low")) v.low = number("low"), v.high = number("high");
        out.values.push_back(std::move(v));
    }
    const Json client = body.value("client", Json::object());
    for (const char* key : client_keys) {
        const auto at = client.find(key);
        if (at == client.end()) continue;
        Identity i;
        i.key = key;
        if (at->is_object()) { // a number with what its decimals can tell
            i.value = at->value("value", 0.0);
            i.step = at->value("step", 0.0);
            i.text = at->value("text", "");
        } else {
            i.said = i.text = at->get<std::string>();
        }
        out.client.push_back(std::move(i));
    }
    return out;
}

std::map<std::string, PrintedNote> notes_in(const Json& body)
{
    std::map<std::string, PrintedNote> out;
    for (const Json& row : body.value("values", Json::array()))
        if (row.contains("read") || row.value("doubtful", false))
            out[row["key"]] = {row.value("read", ""), row.value("doubtful", false)};
    return out;
}

std::optional<double> mass_of(const printout::Reading& r)
{
    for (const Value& v : r.values)
        if (v.quantity == quantity::body_mass.id && v.segment.empty())
            return printout::in_unit_of(quantity::body_mass, v);
    return std::nullopt;
}

void take(Visit& v, const printout::Reading& reading, const Json& body)
{
    PrintedState& s = own(v);
    s.reading = reading;
    s.notes = notes_in(body);
    s.source = body.value("source", "");
    s.file = body.value("file", "");
    s.sha256 = body.value("sha256", "");
    if (const auto kg = mass_of(reading)) v.mass_kg = kg, v.mass_source = "printout";
    const auto ways = s.ways(v); // what was chosen may not be there any more
    if (std::none_of(ways.begin(), ways.end(), [&](const printout::Way& w) { return w.id == s.chosen; }))
        s.chosen.clear();
}

std::optional<Message> refuse(const Visit& v, const Event& e)
{
    if (auto m = needs_open(v, e)) return m;
    if (auto m = needs_steps_before(v, step::printout, "Before what the instrument shows")) return m;
    const std::string source = e.body.value("source", "");
    if (source != "typed" && source != "file")
        return Message{"unknown_choice", Level::error, "source", "What it shows is typed, or comes from a file."};
    if (source == "file")
        if (auto m = refuse_file(e.body)) return m;
    const auto reading = reading_in(printed_of(v), e.body);
    if (!reading) return reading.messages().front();
    if (reading->values.empty())
        return Message{"missing_field", Level::error, "values", "Nothing of what the instrument shows is there."};
    if (has_mass(printed_of(v).layout)) {
        const auto kg = mass_of(*reading);
        if (!kg) return Message{"missing_field", Level::error, "mass_kg", "The mass is missing."};
        if (auto m = limits::check("mass_kg", *kg)) return m;
    }
    Visit after = v; // whether it makes a result decides
    take(after, *reading, e.body);
    const auto told = own(after).result(after);
    return told ? std::nullopt : std::optional(told.messages().front());
}

const ChoiceRow told_by_choice = {"told_by",
    [](const Visit& v, const std::string& to) {
        const auto ways = printed_of(v).ways(v);
        return std::any_of(ways.begin(), ways.end(), [&](const printout::Way& w) { return w.id == to; });
    },
    [](const Visit& v) { return printed_of(v).told_by(v); },
    [](Visit& v, const std::string& to) { own(v).chosen = to; }};

template <Method m, bool with_mass>
const MethodRow& row_of()
{
    static const std::string name = std::string(protocol::title(m)) + ", as the instrument shows it";
    static const MethodRow row = {m, name.c_str(), method_row(m)->caution,
        "What the instrument shows is not typed yet.", "", "Placed anew between the two.", {},
        with_mass ? std::vector<Step>{step::who, step::stops, step::printout, step::result}
                  : std::vector<Step>{step::who, step::stops, step::mass, step::printout, step::result},
        {},
        {{"printout", {refuse, [](Visit& v, const Event& e) { take(v, *reading_in(printed_of(v), e.body), e.body); }}}},
        {told_by_choice}, []() -> std::unique_ptr<MethodState> { return std::make_unique<PrintedState>(m, with_mass); },
        [](Sex, double) { return Json::object(); }, [](const protocol::HouseRules&) { return std::string(); },
        []() -> std::unique_ptr<Take> { return nullptr; },
        [](const Shown&) -> std::optional<Standing> { return std::nullopt; }, {}, {Channel::scale}, Origin::printed};
    return row;
}

template <Method m>
const MethodRow& row_with(bool with_mass)
{
    return with_mass ? row_of<m, true>() : row_of<m, false>();
}

std::optional<Message> nothing_is_recorded()
{
    return not_now("This instrument gives finished numbers: nothing is recorded in this visit.");
}

} // namespace

namespace step {
const Step printout = &printout_row;
}

const MethodRow& printed_row(Method method, bool with_mass)
{
    switch (method) {
    case Method::impedance: return row_with<Method::impedance>(with_mass);
    case Method::absorptiometry: return row_with<Method::absorptiometry>(with_mass);
    case Method::air_displacement: return row_with<Method::air_displacement>(with_mass);
    default: return row_with<Method::hydrostatic>(with_mass);
    }
}

bool has_mass(const printout::Layout& layout)
{
    return std::any_of(layout.fields.begin(), layout.fields.end(),
        [](const Field& f) { return f.quantity == quantity::body_mass.id && f.segment.empty() && !f.optional; });
}

const PrintedState& printed_of(const Visit& v) { return dynamic_cast<const PrintedState&>(v.own()); }
const PrintedState* printed_if(const Visit& v) { return dynamic_cast<const PrintedState*>(&v.own()); }

std::string printed_schools(const std::string& layout_id)
{
    return "the instrument's own, printed (" + layout_id + ")";
}

const MethodRow& PrintedState::row() const { return printed_row(method_, with_mass_); }

void PrintedState::begin(const protocol::HouseRules&, const Json& started)
{
    if (auto read = read_layout(started["layout"].dump(), "the visit's layout")) layout = std::move(read).take();
    by_file = started.value("way", "") == "file";
    const Json check = started.value("check", Json::object());
    checked_by = check.value("by", "");
    u_unchecked = check.value("u_fat_percent", 0.0);
}

std::optional<Message> PrintedState::refuse_trial(const Visit&, const Event&) const { return nothing_is_recorded(); }
std::optional<Message> PrintedState::refuse_reading(const Visit&, const Trial&, const Event&) const
{
    return nothing_is_recorded();
}
std::optional<Message> PrintedState::refuse_typed(const Visit&, const TakeRow&, const Event&) const
{
    return nothing_is_recorded();
}

const Field* PrintedState::field(std::string_view key) const
{
    const auto at =
        std::find_if(layout.fields.begin(), layout.fields.end(), [&](const Field& f) { return f.key == key; });
    return at == layout.fields.end() ? nullptr : &*at;
}

printout::Said PrintedState::said(const Visit& v) const
{
    printout::Said s;
    s.method = method_;
    s.sex = v.subject.sex;
    s.age_y = v.age_y();
    s.height_cm = v.height_cm();
    s.mass_kg = v.mass_kg.value_or(0);
    s.mass_from = v.mass_source;
    s.printed = &reading;
    for (const Field& f : layout.fields) s.labels[f.key] = f.label;
    s.u_fat_percent = std::hypot(told::usual_error(method_), u_unchecked);
    s.how = source == "file" ? "read from " + file : "typed from what it shows";
    s.told_by = chosen;
    if (chosen.empty())
        if (const auto all = printout::ways(s); !all.empty()) s.told_by = all.front().id;
    return s;
}

std::vector<printout::Way> PrintedState::ways(const Visit& v) const
{
    return reading.values.empty() || !v.mass_kg ? std::vector<printout::Way>{} : printout::ways(said(v));
}

std::string PrintedState::told_by(const Visit& v) const
{
    return reading.values.empty() || !v.mass_kg ? chosen : said(v).told_by;
}

std::string PrintedState::schools(const Visit& v) const
{
    const std::string by = told_by(v);
    return by.empty() || by == printout::as_printed ? printed_schools(layout.id) : by + ", from a printout";
}

Outcome<Result> PrintedState::result(const Visit& v) const
{
    if (reading.values.empty() || !v.mass_kg)
        return no_result("What the instrument shows is not typed yet, and no file of it is read.");
    auto s = said(v);
    if (s.told_by.empty()) s.told_by = printout::as_printed;
    auto computed = printout::compute(s);
    if (!computed) return computed;
    Messages messages = computed.messages();
    for (Message& m : printout::of_another(
             reading, {v.subject.number, v.day(), v.subject.sex, v.age_y(), v.height_cm(), v.subject.height_cm}))
        messages.push_back(std::move(m));
    return {std::move(computed).take(), std::move(messages)};
}

Json printout_event(const printout::Reading& reading, const std::map<std::string, PrintedNote>& notes,
    const std::string& source, const std::string& file, const std::string& sha256)
{
    Json body = {{"source", source}, {"values", Json::array()}, {"client", Json::object()}};
    for (const Value& v : reading.values) {
        Json row = {{"key", v.key}, {"text", v.text}, {"value", v.value}, {"decimals", v.decimals}};
        if (v.low && v.high) row["low"] = *v.low, row["high"] = *v.high;
        if (const auto at = notes.find(v.key); at != notes.end()) {
            if (!at->second.read.empty()) row["read"] = at->second.read;
            if (at->second.doubtful) row["doubtful"] = true;
        }
        body["values"].push_back(std::move(row));
    }
    for (const Identity& i : reading.client)
        if (i.said.empty())
            body["client"][i.key] = {{"value", i.value}, {"step", i.step}, {"text", i.text}};
        else
            body["client"][i.key] = i.said;
    if (source == "file") body["file"] = file, body["sha256"] = sha256;
    return body;
}

} // namespace fusain::bench
