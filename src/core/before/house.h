// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/before/protocol.h"

/// The lab's schools: questions on which practitioners disagree, decided once by the lab (data/house_rules.json).
namespace fusain::house {

struct Option {
    std::string id, title;
};

struct Rule {
    std::string id, question;
    std::vector<Option> options;
    std::string default_id;
    std::string reason;  ///< why this is the default
    std::string changes; ///< what another choice changes
    std::string source;
    const Option* option(std::string_view wanted) const
    {
        for (const Option& o : options)
            if (o.id == wanted) return &o;
        return nullptr;
    }
};

/// The table with what the lab has chosen; whatever it has not chosen stands at its default.
inline protocol::HouseRules with_defaults(const std::vector<Rule>& table, const protocol::HouseRules& chosen)
{
    protocol::HouseRules out;
    for (const Rule& r : table) {
        const auto at = chosen.find(r.id);
        out[r.id] = at != chosen.end() && r.option(at->second) ? at->second : r.default_id;
    }
    return out;
}

} // namespace fusain::house
