// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/brought/brought.h"

#include "bench/visit/kinds.h"
#include "core/body/told.h"

#include <algorithm>

namespace fusain::bench {
namespace {

BroughtState& own(Visit& v) { return dynamic_cast<BroughtState&>(v.own()); }

std::optional<Message> nothing_is_measured()
{
    return not_now("The result was told elsewhere: nothing is measured in this visit.");
}

std::optional<Message> refuse(const Visit& v, const event::Brought& e, const Stamp&)
{
    if (!brought_of(v).values.empty()) return not_now("The result is there already.");
    if (!v.mass_kg) return Message{"missing_field", Level::error, "mass_kg", "The mass of that day is missing."};
    if (auto m = refuse_file(e)) return m;
    for (const auto& [id, value] : e.values)
        if (!find_quantity(id))
            return Message{
                "unknown_choice", Level::error, id, "\"" + id + "\" is no quantity of a result, or has no number."};
    Visit after = v; // whether it makes a result decides
    static_cast<event::Brought&>(own(after)) = e;
    const auto told = own(after).result(after);
    return told ? std::nullopt : std::optional(told.messages().front());
}

Kinds kinds()
{
    return {on<event::Brought>(When::open, refuse,
        [](Visit& v, const event::Brought& e, const Stamp&) { static_cast<event::Brought&>(own(v)) = e; })};
}

BenchRow row_of(Method m)
{
    return {m, std::string(m->title) + ", told elsewhere", "", "", "", "Placed anew between the two.", {},
        {step::result}, {}, kinds(), {},
        [](Method of) -> std::unique_ptr<MethodState> { return std::make_unique<BroughtState>(of); },
        [](Sex, double) { return std::string("{}"); }, [](const protocol::HouseRules&) { return std::string(); },
        []() -> std::unique_ptr<Take> { return nullptr; },
        [](const Shown&, int) -> std::optional<Standing> { return std::nullopt; }, {}, {}, Origin::elsewhere};
}

} // namespace

const BenchRow& brought_row(Method method)
{
    static const std::map<Method, BenchRow> rows = [] {
        std::map<Method, BenchRow> out;
        for (const Method m : all_methods()) out.emplace(m, row_of(m));
        return out;
    }();
    return rows.at(method);
}

const BroughtState& brought_of(const Visit& v) { return dynamic_cast<const BroughtState&>(v.own()); }

const BenchRow& BroughtState::row() const { return brought_row(method_); }
std::optional<Message> BroughtState::refuse_trial(const Visit&, const event::TrialBegun&, const Stamp&) const
{
    return nothing_is_measured();
}
std::optional<Message> BroughtState::take_reading(const Visit&, const Trial&, const Event&)
{
    return nothing_is_measured();
}
std::optional<Message> BroughtState::take_typed(const Visit&, const Trial&, const Event&)
{
    return nothing_is_measured();
}

Outcome<Result> BroughtState::result(const Visit& v) const
{
    if (values.empty() || !v.mass_kg)
        return Outcome<Result>::refuse(Message{"not_now", Level::error, "", "Nothing was told yet."});
    told::Input in{v.subject.sex, v.age_y(), v.height_cm(), *v.mass_kg, {}, u_fat_percent,
        file + ", line " + std::to_string(line)};
    for (const auto& [id, value] : values)
        if (const Quantity* q = find_quantity(id)) in.given[q] = value;
    auto computed = told::compute(in);
    if (!computed || hour_known) return computed;
    Messages messages = computed.messages();
    messages.push_back({"hour_unknown", Level::caution, "",
        "The hour of this test is not known; it is compared as if it had been at noon."});
    return {std::move(computed).take(), std::move(messages)};
}

} // namespace fusain::bench
