// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/printout/layout.h"

#include "core/method/method.h"
#include "core/printout/text.h"
#include "core/printout/unit.h"

#include <algorithm>
#include <map>

namespace fusain::printout {
namespace {

/// Instruments print water in kilograms, and ratios as percent.
bool goes_with(UnitKind quantity, UnitKind unit)
{
    const auto kin = [](UnitKind k) {
        return k == UnitKind::volume ? UnitKind::mass : k == UnitKind::share ? UnitKind::percent : k;
    };
    return kin(quantity) == kin(unit);
}

std::string segment_list()
{
    std::string out;
    for (const char* s : segments) out += (out.empty() ? "" : ", ") + std::string(s);
    return out;
}

} // namespace

const Quantity* said_quantity(std::string_view id)
{
    if (id == quantity::body_mass.id) return &quantity::body_mass;
    for (const Quantity& q : further_quantities)
        if (id == q.id) return &q;
    return find_quantity(id);
}

Messages faults(const Layout& l)
{
    Messages out;
    const auto say = [&](const std::string& path, const std::string& code, const std::string& text) {
        out.push_back({code, Level::error, path, path + " " + text});
    };
    if (l.id.empty()) say("id", "missing_field", "is missing; allowed is a name without spaces.");
    if (!method_of(l.method))
        say("method", "unknown_choice", "is \"" + l.method + "\"; allowed is " + method_words() + '.');
    if (l.fields.empty()) say("fields", "missing_field", "is empty; a printout has at least one number.");
    std::map<std::string, std::size_t> keys, places;
    for (std::size_t i = 0; i < l.fields.size(); ++i) {
        const Field& f = l.fields[i];
        const std::string path = "fields[" + std::to_string(i) + "].";
        if (f.key.empty())
            say(path + "key", "missing_field", "is missing; allowed is a name of its own for each field.");
        if (!f.key.empty() && !keys.emplace(f.key, i).second)
            say(path + "key", "doubled",
                "is \"" + f.key + "\", as that of fields[" + std::to_string(keys[f.key]) +
                    "] is; each field has a key of its own.");
        if (squashed(f.label).empty())
            say(path + "label", "missing_field", "is missing; it is found by the words that stand beside it.");
        else if (const auto [at, fresh] =
                     places.emplace(squashed(f.under) + '\n' + squashed(f.label) + '\n' + lower(f.unit), i);
                 !fresh)
            say(path + "label", "doubled",
                "is \"" + f.label + "\", as that of fields[" + std::to_string(at->second) +
                    "] is, with the same unit under the same heading: \"under\" tells them apart.");
        if (f.decimals < -1 || f.decimals > 6)
            say(path + "decimals", "out_of_range", "is " + std::to_string(f.decimals) + "; allowed is 0 to 6.");
        if (!f.segment.empty() && std::find(std::begin(segments), std::end(segments), f.segment) == std::end(segments))
            say(path + "segment", "unknown_choice", "is \"" + f.segment + "\"; allowed is " + segment_list() + ".");
        if (f.quantity.empty()) continue;
        const Quantity* q = said_quantity(f.quantity);
        if (!q) {
            say(path + "quantity", "unknown_choice", "is \"" + f.quantity + "\", which is no quantity that is known.");
        } else if (const Unit* u = find_unit(f.unit); u && !goes_with(q->kind, u->kind)) {
            say(path + "unit", "unknown_choice",
                "is \"" + f.unit + "\", which is no unit of " + std::string(q->id) +
                    (*q->unit ? " (" + std::string(q->unit) + ")" : "") + ".");
        }
    }
    return out;
}

} // namespace fusain::printout
