// SPDX-License-Identifier: GPL-3.0-or-later
// A result as it was told, and the conditions of a visit, as they are stored.
#include "records/visits/snapshot.h"

#include "bench/base/fields.h"

#include <algorithm>

namespace fusain::bench {
namespace {

using records::Snapshot;

const Fields<screening::Conditions>::Row kept_row = {[](const screening::Conditions& c, Json& j) {
                                                         j["outside"] = Json::object();
                                                         for (const auto& [rule, verdict] : c.kept)
                                                             j["outside"][rule] = protocol::word(verdict);
                                                     },
    [](const Json& j, screening::Conditions& c) -> std::optional<Message> {
        using protocol::Verdict;
        const Json outside = j.value("outside", Json::object());
        for (const auto& [rule, verdict] : outside.items())
            for (Verdict v : {Verdict::noted, Verdict::another_day, Verdict::no})
                if (verdict == protocol::word(v)) c.kept[rule] = v;
        return std::nullopt;
    }};

const Message unreadable{"bad_event", Level::error, "snapshot", "The stored result cannot be read."};

std::string method_word(Method method) { return method->word; }

std::optional<Message> method_of_word(const std::string& said, Method& method)
{
    const auto known = method_of(said);
    if (!known) return unreadable;
    method = *known;
    return std::nullopt;
}

std::string sex_text(Sex sex) { return fusain::word(sex); }

std::optional<Message> sex_of_text(const std::string& said, Sex& sex)
{
    for (Sex each : {Sex::female, Sex::male})
        if (said == fusain::word(each)) {
            sex = each;
            return std::nullopt;
        }
    return unreadable;
}

/// In the order of the registry; unknown ones are left out.
const Fields<Snapshot>::Row quantities_row = {
    [](const Snapshot& s, Json& j) {
        j["quantities"] = Json::object();
        for (const Value& v : s.result.values)
            j["quantities"][v.quantity->id] = {{"value", v.value}, {"u", v.u}, {"u_model", v.u_model}};
    },
    [](const Json& j, Snapshot& s) -> std::optional<Message> {
        const Json& all = j.at("quantities");
        if (!all.is_object()) return unreadable;
        for (const Quantity* q : quantities())
            if (const auto at = all.find(q->id); at != all.end())
                s.result.values.push_back({q, at->at("value"), at->at("u"), at->at("u_model")});
        return std::nullopt;
    }};

const Fields<Snapshot>::Row messages_row = {
    [](const Snapshot& s, Json& j) {
        j["messages"] = Json::array();
        for (const Message& m : s.messages)
            j["messages"].push_back(
                {{"code", m.code}, {"level", fusain::word(m.level)}, {"field", m.field}, {"text", m.text}});
    },
    [](const Json& j, Snapshot& s) -> std::optional<Message> {
        if (!j.at("messages").is_array()) return unreadable;
        for (const Json& m : j.at("messages")) {
            const auto level =
                std::find(std::begin(level_words), std::end(level_words), m.at("level").get<std::string>());
            if (level == std::end(level_words)) return unreadable;
            s.messages.push_back({m.at("code"), static_cast<Level>(level - level_words), m.at("field"), m.at("text")});
        }
        return std::nullopt;
    }};

} // namespace

FUSAIN_FIELDS(screening::Conditions, always("day", &E::day)
                                         .always("instrument", &E::instrument)
                                         .always("minute_of_day", &E::minute_of_day)
                                         .always("equations", &E::equations)
                                         .always("protocol", &E::protocol)
                                         .other(kept_row)
                                         .always("lung", &E::lung))
FUSAIN_LOGGED(Snapshot, needed("engine", &E::engine, unreadable)
                            .word("method", &E::method, method_word, method_of_word)
                            .needed("day", &E::day, unreadable)
                            .word("sex", &E::sex, sex_text, sex_of_text)
                            .needed("age_y", &E::age_y, unreadable)
                            .needed("height_cm", &E::height_cm, unreadable)
                            .needed("mass_kg", &E::mass_kg, unreadable)
                            .other(quantities_row)
                            .other(messages_row)
                            .always("choices", &E::choices)
                            .needed("conditions", &E::conditions, unreadable)
                            .field("told_elsewhere", &E::told_elsewhere))

} // namespace fusain::bench

namespace fusain::records {

std::string stored(const Snapshot& s) { return bench::written(s); }

std::optional<Snapshot> snapshot_from(const std::string& stored)
{
    const auto read = bench::read<Snapshot>(stored);
    return read ? std::optional(*read) : std::nullopt;
}

} // namespace fusain::records
