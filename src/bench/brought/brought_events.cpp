// SPDX-License-Identifier: GPL-3.0-or-later
// A result that was told elsewhere, as the log stores it.
#include "bench/brought/brought_events.h"

#include "bench/base/fields.h"

namespace fusain::bench {
namespace {

/// A value that is none is named.
const Fields<event::Brought>::Row values_row = {[](const event::Brought& e, Json& j) { j["values"] = e.values; },
    [](const Json& j, event::Brought& e) -> std::optional<Message> {
        const Json values = j.value("values", Json::object());
        for (const auto& [id, value] : values.items()) {
            if (!value.is_number())
                return Message{
                    "unknown_choice", Level::error, id, "\"" + id + "\" is no quantity of a result, or has no number."};
            e.values[id] = value;
        }
        return std::nullopt;
    }};

} // namespace

FUSAIN_LOGGED(event::Brought, with<event::OfFile>()
                                  .other(values_row)
                                  .always("u_fat_percent", &E::u_fat_percent)
                                  .field("u_told", &E::u_told)
                                  .field("line", &E::line)
                                  .field("equations", &E::equations)
                                  .field("hour_known", &E::hour_known))

} // namespace fusain::bench
