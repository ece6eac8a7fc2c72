// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/base/fields.h"

namespace nlohmann {
FUSAIN_JSON_ONCE(, std::map)
FUSAIN_JSON_ONCE(, ordered_map)
} // namespace nlohmann

template class std::vector<nlohmann::json>;
template class std::vector<nlohmann::ordered_json>;
template class std::map<std::string, nlohmann::json, std::less<>>;

namespace fusain::bench {

Message unreadable_event(const char* why)
{
    return {"bad_event", Level::error, "body", std::string("The event cannot be read: ") + why};
}

Message other_type(const std::string& field, const Json& is, const char* allowed)
{
    return {"bad_event", Level::error, field,
        "The field \"" + field + "\" is " + is.dump() + "; allowed is " + allowed + "."};
}

Event logged(Stamp stamp, Act what) { return {std::move(stamp), std::move(what.kind), std::move(what.body)}; }

std::string joined(const std::string& first, const std::string& second)
{
    Json out = Json::parse(first);
    out.update(Json::parse(second));
    return out.dump();
}

bool is_body(const std::string& stored) { return Json::parse(stored, nullptr, false).is_object(); }

std::vector<std::string> elements(const std::string& list)
{
    std::vector<std::string> out;
    const Json all = Json::parse(list, nullptr, false);
    if (all.is_array())
        for (const Json& each : all) out.push_back(each.dump());
    return out;
}

std::string table_of(const std::map<std::string, std::string>& texts) { return Json(texts).dump(); }
std::string table_of(const std::map<std::string, int>& numbers) { return Json(numbers).dump(); }

std::map<std::string, std::string> texts_of(const std::string& table)
{
    std::map<std::string, std::string> out;
    const Json all = Json::parse(table, nullptr, false);
    if (all.is_object())
        for (const auto& [name, text] : all.items())
            if (text.is_string()) out[name] = text.get<std::string>();
    return out;
}

std::string list_of(const std::vector<std::string>& elements)
{
    Json all = Json::array();
    for (const std::string& each : elements) all.push_back(Json::parse(each));
    return all.dump();
}

} // namespace fusain::bench
