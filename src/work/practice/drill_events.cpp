// SPDX-License-Identifier: GPL-3.0-or-later
// The events of a drill, as its log stores them.
#include "work/practice/drill_events.h"

#include "records/base/qt_fields.h"

namespace fusain::bench {

namespace drill = work::in_drill;

namespace {

/// By name, without a key above them; what is no waiver is left out.
const Fields<drill::Waivers>::Row waivers_row = {[](const drill::Waivers& w, Json& j) {
                                                     for (const auto& [name, waiver] : w.of)
                                                         j[name] = Fields<drill::Waiver>::all().to_json(waiver);
                                                 },
    [](const Json& j, drill::Waivers& w) -> std::optional<Message> {
        for (const auto& [name, waiver] : j.items())
            if (waiver.is_object())
                if (auto why = Fields<drill::Waiver>::all().from_json(waiver, w.of[name])) return why;
        return std::nullopt;
    }};

} // namespace

FUSAIN_FIELDS(drill::Stamped, always("local", &E::local))
FUSAIN_FIELDS(practice::Pass, field("rms", &E::rms).field("bias", &E::bias).field("share", &E::share))
FUSAIN_FIELDS(practice::Reading, always("given", &E::given)
                                     .always("truth", &E::truth)
                                     .field("reader", &E::reader)
                                     .always("same_as", &E::same_as)
                                     .always("seconds", &E::seconds))
FUSAIN_FIELDS(practice::Call, always("given", &E::given).always("truth", &E::truth).always("seconds", &E::seconds))
FUSAIN_FIELDS(drill::Waiver, always("by", &E::by).always("on", &E::on).always("reason", &E::reason))
FUSAIN_LOGGED(drill::Begun, with<drill::Stamped>()
                                .always("drill", &E::drill)
                                .always("title", &E::title)
                                .always("method", &E::method)
                                .always("task", &E::task)
                                .always("level", &E::level)
                                .always("items", &E::items)
                                .always("pass", &E::pass))
FUSAIN_LOGGED(drill::Answer, with<drill::Stamped>()
                                 .always("item", &E::item)
                                 .always("numbers", &E::numbers)
                                 .always("calls", &E::calls)
                                 .always("seconds", &E::seconds)
                                 .other(records::text<E>("cost", &E::cost)))
FUSAIN_LOGGED(drill::Marked, with<drill::Stamped>()
                                 .always("rms", &E::rms)
                                 .always("bias", &E::bias)
                                 .always("spread", &E::spread)
                                 .always("right", &E::right)
                                 .always("missed", &E::missed)
                                 .always("wrongly", &E::wrongly)
                                 .always("passed", &E::passed))
FUSAIN_LOGGED(drill::GivenUp, with<drill::Stamped>())
FUSAIN_LOGGED(drill::Waivers, other(waivers_row))

} // namespace fusain::bench
