// SPDX-License-Identifier: GPL-3.0-or-later
// What an instrument shows finished, as the log stores it.
#include "bench/printed/printed_events.h"

#include "bench/base/fields.h"

namespace fusain::bench {
namespace {

constexpr const char* client_keys[] = {"number", "at", "height_cm", "age_y", "sex"};

/// By its key: a text, or a number with what its decimals can tell.
const Fields<event::Printout>::Row client_row = {
    [](const event::Printout& e, Json& j) {
        j["client"] = Json::object();
        for (const printout::Identity& i : e.client)
            if (i.said.empty())
                j["client"][i.key] = {{"value", i.value}, {"step", i.step}, {"text", i.text}};
            else
                j["client"][i.key] = i.said;
    },
    [](const Json& j, event::Printout& e) -> std::optional<Message> {
        const Json client = j.value("client", Json::object());
        for (const char* key : client_keys) {
            const auto at = client.find(key);
            if (at == client.end()) continue;
            printout::Identity& i = e.client.emplace_back();
            i.key = key;
            if (at->is_object()) {
                i.value = at->value("value", 0.0);
                i.step = at->value("step", 0.0);
                i.text = at->value("text", "");
            } else {
                i.said = i.text = at->get<std::string>();
            }
        }
        return std::nullopt;
    }};

} // namespace

FUSAIN_FIELDS(PrintedValue, always("key", &E::key)
                                .always("text", &E::text)
                                .always("value", &E::value)
                                .always("decimals", &E::decimals)
                                .field("low", &E::low)
                                .field("high", &E::high)
                                .field("read", &E::read)
                                .field("doubtful", &E::doubtful))
FUSAIN_LOGGED(
    event::Printout, always("source", &E::source).always("values", &E::values).other(client_row).with<event::OfFile>())

} // namespace fusain::bench
