// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/brought/brought.h"

#include "bench/visit/kinds.h"
#include "core/body/told.h"

#include "bench/base/json.h"

#include <algorithm>

namespace fusain::bench {
namespace {

using protocol::Method;

BroughtState& own(Visit& v) { return dynamic_cast<BroughtState&>(v.own()); }

std::optional<Message> nothing_is_measured()
{
    return not_now("The result was told elsewhere: nothing is measured in this visit.");
}

Kinds kinds()
{
    return {{"brought",
        {[](const Visit& v, const Event& e) -> std::optional<Message> {
             if (auto m = needs_open(v, e)) return m;
             if (!brought_of(v).values.empty()) return not_now("The result is there already.");
             if (!v.mass_kg)
                 return Message{"missing_field", Level::error, "mass_kg", "The mass of that day is missing."};
             if (auto m = refuse_file(e.body)) return m;
             const Json values = e.body.value("values", Json::object());
             for (const auto& [id, value] : values.items())
                 if (!find_quantity(id) || !value.is_number())
                     return Message{"unknown_choice", Level::error, id,
                         "\"" + id + "\" is no quantity of a result, or has no number."};
             Visit after = v; // whether it makes a result decides
             own(after).values = values.get<std::map<std::string, double>>();
             own(after).u_fat_percent = e.body.value("u_fat_percent", 0.0);
             const auto told = own(after).result(after);
             return told ? std::nullopt : std::optional(told.messages().front());
         },
            [](Visit& v, const Event& e) {
                BroughtState& b = own(v);
                b.values = e.body["values"].get<std::map<std::string, double>>();
                b.u_fat_percent = e.body["u_fat_percent"];
                b.u_told = e.body.value("u_told", false);
                b.file = e.body["file"];
                b.sha256 = e.body["sha256"];
                b.line = e.body.value("line", 0L);
                b.equations = e.body.value("equations", "");
                b.hour_known = e.body.value("hour_known", true);
            }}}};
}

template <Method m>
const MethodRow& row_of()
{
    static const std::string name = std::string(protocol::title(m)) + ", told elsewhere";
    static const MethodRow row = {m, name.c_str(), "", "", "", "Placed anew between the two.", {}, {step::result}, {},
        kinds(), {}, []() -> std::unique_ptr<MethodState> { return std::make_unique<BroughtState>(m); },
        [](Sex, double) { return Json::object(); }, [](const protocol::HouseRules&) { return std::string(); },
        []() -> std::unique_ptr<Take> { return nullptr; },
        [](const Shown&) -> std::optional<Standing> { return std::nullopt; }, {}, {}, Origin::elsewhere};
    return row;
}

} // namespace

const MethodRow& brought_row(Method method)
{
    switch (method) {
    case Method::impedance: return row_of<Method::impedance>();
    case Method::absorptiometry: return row_of<Method::absorptiometry>();
    case Method::air_displacement: return row_of<Method::air_displacement>();
    default: return row_of<Method::hydrostatic>();
    }
}

const BroughtState& brought_of(const Visit& v) { return dynamic_cast<const BroughtState&>(v.own()); }

const MethodRow& BroughtState::row() const { return brought_row(method_); }
std::optional<Message> BroughtState::refuse_trial(const Visit&, const Event&) const { return nothing_is_measured(); }
std::optional<Message> BroughtState::refuse_reading(const Visit&, const Trial&, const Event&) const
{
    return nothing_is_measured();
}
std::optional<Message> BroughtState::refuse_typed(const Visit&, const TakeRow&, const Event&) const
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
