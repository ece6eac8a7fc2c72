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

using printout::Field, printout::Value;

PrintedState& own(Visit& v) { return dynamic_cast<PrintedState&>(v.own()); }

constexpr StepRow printout_row{
    "printout", "What it shows", [](const Visit& v) { return printed_if(v) && !printed_of(v).reading.values.empty(); }};

Message bad(const std::string& field, const std::string& text) { return {"bad_value", Level::error, field, text}; }

/// What it says, by the visit's layout; the refusal names the key.
Outcome<printout::Reading> reading_in(const PrintedState& s, const event::Printout& e)
{
    using Read = Outcome<printout::Reading>;
    printout::Reading out;
    out.layout = s.layout.id;
    out.client = e.client;
    for (const PrintedValue& row : e.values) {
        const Field* f = s.field(row.key);
        if (!f) return Read::refuse(bad(row.key, "The layout has no field \"" + row.key + "\"."));
        if (out.value(row.key)) return Read::refuse(bad(row.key, "\"" + row.key + "\" is there twice."));
        if (!row.value) return Read::refuse(bad(row.key, "\"" + f->label + "\" has no number."));
        if (row.low.has_value() != row.high.has_value())
            return Read::refuse(bad(row.key, "\"" + f->label + "\" has one limit; allowed is none or two."));
        Value v;
        v.key = row.key;
        v.quantity = f->quantity;
        v.segment = f->segment;
        v.unit = f->unit;
        v.text = row.text;
        v.value = *row.value;
        v.decimals = row.decimals;
        v.low = row.low;
        v.high = row.high;
        out.values.push_back(std::move(v));
    }
    return out;
}

std::optional<double> mass_of(const printout::Reading& r)
{
    for (const Value& v : r.values)
        if (v.quantity == quantity::body_mass.id && v.segment.empty())
            return printout::in_unit_of(quantity::body_mass, v);
    return std::nullopt;
}

void take(Visit& v, const printout::Reading& reading, const event::Printout& e)
{
    PrintedState& s = own(v);
    s.reading = reading;
    s.notes.clear();
    for (const PrintedValue& row : e.values)
        if (!row.read.empty() || row.doubtful) s.notes[row.key] = row;
    s.source = e.source;
    s.file = e.file;
    s.sha256 = e.sha256;
    if (const auto kg = mass_of(reading)) v.mass_kg = kg, v.mass_source = "printout";
    const auto ways = s.ways(v); // what was chosen may not be there any more
    if (std::none_of(ways.begin(), ways.end(), [&](const printout::Way& w) { return w.id == s.chosen; }))
        s.chosen.clear();
}

std::optional<Message> refuse(const Visit& v, const event::Printout& e, const Stamp&)
{
    if (auto m = needs_steps_before(v, step::printout, "Before what the instrument shows")) return m;
    if (e.source != "typed" && e.source != "file")
        return Message{"unknown_choice", Level::error, "source", "What it shows is typed, or comes from a file."};
    if (e.source == "file")
        if (auto m = refuse_file(e)) return m;
    const auto reading = reading_in(printed_of(v), e);
    if (!reading) return reading.messages().front();
    if (reading->values.empty())
        return Message{"missing_field", Level::error, "values", "Nothing of what the instrument shows is there."};
    if (has_mass(printed_of(v).layout)) {
        const auto kg = mass_of(*reading);
        if (!kg) return Message{"missing_field", Level::error, "mass_kg", "The mass is missing."};
        if (auto m = limits::check("mass_kg", *kg)) return m;
    }
    Visit after = v; // whether it makes a result decides
    take(after, *reading, e);
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

BenchRow row_of(Method m, bool with_mass)
{
    using Made = std::unique_ptr<MethodState>;
    return {m, std::string(m->title) + ", as the instrument shows it", bench_of(m).caution,
        "What the instrument shows is not typed yet.", "", "Placed anew between the two.", {},
        with_mass ? std::vector<Step>{step::who, step::stops, step::printout, step::result}
                  : std::vector<Step>{step::who, step::stops, step::mass, step::printout, step::result},
        {},
        {on<event::Printout>(When::open, refuse,
            [](Visit& v, const event::Printout& e, const Stamp&) { take(v, *reading_in(printed_of(v), e), e); })},
        {told_by_choice},
        with_mass ? [](Method of) -> Made { return std::make_unique<PrintedState>(of, true); }
                  : [](Method of) -> Made { return std::make_unique<PrintedState>(of, false); },
        [](Sex, double) { return std::string("{}"); }, [](const protocol::HouseRules&) { return std::string(); },
        []() -> std::unique_ptr<Take> { return nullptr; },
        [](const Shown&, int) -> std::optional<Standing> { return std::nullopt; }, {}, {Channel::scale},
        Origin::printed};
}

std::optional<Message> nothing_is_recorded()
{
    return not_now("This instrument gives finished numbers: nothing is recorded in this visit.");
}

} // namespace

namespace step {
const Step printout = &printout_row;
}

const BenchRow& printed_row(Method method, bool with_mass)
{
    static const std::map<std::pair<Method, bool>, BenchRow> rows = [] {
        std::map<std::pair<Method, bool>, BenchRow> out;
        for (const Method m : all_methods())
            for (const bool mass : {false, true}) out.emplace(std::pair{m, mass}, row_of(m, mass));
        return out;
    }();
    return rows.at({method, with_mass});
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

const BenchRow& PrintedState::row() const { return printed_row(method_, with_mass_); }

void PrintedState::begin(const event::Started& started, const std::string&)
{
    if (auto read = read_layout(started.layout, "the visit's layout")) layout = std::move(read).take();
    by_file = started.way == "file";
    checked_by = started.check.by;
    u_unchecked = started.check.u_fat_percent;
}

std::optional<Message> PrintedState::refuse_trial(const Visit&, const event::TrialBegun&, const Stamp&) const
{
    return nothing_is_recorded();
}
std::optional<Message> PrintedState::take_reading(const Visit&, const Trial&, const Event&)
{
    return nothing_is_recorded();
}
std::optional<Message> PrintedState::take_typed(const Visit&, const Trial&, const Event&)
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
    printout::Said s{method_};
    s.sex = v.subject.sex;
    s.age_y = v.age_y();
    s.height_cm = v.height_cm();
    s.mass_kg = v.mass_kg.value_or(0);
    s.mass_from = v.mass_source;
    s.printed = &reading;
    for (const Field& f : layout.fields) s.labels[f.key] = f.label;
    s.u_fat_percent = std::hypot(method_->elsewhere_error, u_unchecked);
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

event::Printout printout_event(const printout::Reading& reading, const std::map<std::string, PrintedNote>& notes,
    const std::string& source, const std::string& file, const std::string& sha256)
{
    event::Printout out;
    out.source = source;
    out.client = reading.client;
    for (const Value& v : reading.values) {
        PrintedValue& row = out.values.emplace_back();
        if (const auto at = notes.find(v.key); at != notes.end()) static_cast<PrintedNote&>(row) = at->second;
        row.key = v.key;
        row.text = v.text;
        row.value = v.value;
        row.decimals = v.decimals;
        if (v.low && v.high) row.low = v.low, row.high = v.high;
    }
    if (source == "file") out.file = file, out.sha256 = sha256;
    return out;
}

} // namespace fusain::bench
