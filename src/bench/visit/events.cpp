// SPDX-License-Identifier: GPL-3.0-or-later
// The events that every visit understands, as the log stores them.
#include "bench/visit/events.h"

#include "bench/base/fields.h"

namespace fusain::bench {
namespace {

std::string sex_word(Sex sex) { return fusain::word(sex); }

std::optional<Message> sex_of(const std::string& said, Sex& sex)
{
    sex = said == "male" ? Sex::male : Sex::female;
    return std::nullopt;
}

const Message no_client{"missing_field", Level::error, "client", "The visit needs a client with a date of birth."};

/// Stands in the log as JSON in JSON, not as a text.
template <class E>
typename Fields<E>::Row layout_row(std::string E::*text)
{
    return {[=](const E& e, Json& j) {
                if (!(e.*text).empty()) j["layout"] = Json::parse(e.*text);
            },
        [=](const Json& j, E& e) -> std::optional<Message> {
            if (j.contains("layout")) e.*text = j["layout"].dump();
            return std::nullopt;
        }};
}

} // namespace

FUSAIN_FIELDS(judgement::LastVisit, always("mass_kg", &E::mass_kg).always("days", &E::days_ago))
FUSAIN_FIELDS(event::Started::Check, field("by", &E::by).field("u_fat_percent", &E::u_fat_percent))
FUSAIN_LOGGED(event::Started, needed("client_id", &E::client_id, no_client)
                                  .always("number", &E::number)
                                  .always("name", &E::name)
                                  .needed("birth_date", &E::birth_date, no_client)
                                  .word("sex", &E::sex, sex_word, sex_of)
                                  .needed("height_cm", &E::height_cm, "height_cm")
                                  .field("method", &E::method)
                                  .field("software", &E::software)
                                  .field("instrument", &E::instrument)
                                  .field("profile", &E::profile)
                                  .field("reference", &E::reference)
                                  .field("booking", &E::booking)
                                  .field("zone", &E::zone)
                                  .field("local", &E::local)
                                  .field("log", &E::log)
                                  .field("last", &E::last)
                                  .field("weighings", &E::weighings)
                                  .field("house", &E::house)
                                  .field("house_version", &E::house_version)
                                  .field("protocol", &E::protocol)
                                  .field("told_elsewhere", &E::told_elsewhere)
                                  .other(layout_row(&E::layout))
                                  .field("way", &E::way)
                                  .field("check", &E::check))
FUSAIN_LOGGED(event::Identity, needed("cm", &E::cm, "height_cm"))
FUSAIN_LOGGED(event::Stops, always("stop", &E::stop)
                                .always("noted", &E::noted)
                                .field("words", &E::words)
                                .field("comparability", &E::comparability)
                                .field("protocol", &E::protocol)
                                .field("pregnant", &E::pregnant)
                                .field("outside", &E::outside)
                                .field("questions_version", &E::questions_version))
FUSAIN_LOGGED(event::Mass, needed("kg", &E::kg, "mass_kg").always("source", &E::source))
FUSAIN_LOGGED(event::TrialBegun, field("what", &E::what))
FUSAIN_LOGGED(event::TrialTaken, field("number", &E::number))
FUSAIN_FIELDS(event::OfFile, field("file", &E::file).field("sha256", &E::sha256))
FUSAIN_LOGGED(event::TrialTyped, field("what", &E::what).always("source", &E::source).with<event::OfFile>())
FUSAIN_LOGGED(event::TrialThrownOut, field("number", &E::number).field("reason", &E::reason))
FUSAIN_LOGGED(event::TrialBroken, field("number", &E::number).field("reason", &E::reason))
FUSAIN_LOGGED(event::Choice, field("what", &E::what).field("to", &E::to))
FUSAIN_LOGGED(event::Finished, none())
FUSAIN_LOGGED(
    event::Acknowledged, needed("codes", &E::codes, {"missing_field", Level::error, "codes", "What is acknowledged?"}))
FUSAIN_LOGGED(event::Reopened, field("reason", &E::reason))
FUSAIN_LOGGED(event::GivenUp, field("reason", &E::reason))
FUSAIN_LOGGED(event::Attached, with<event::OfFile>().field("bytes", &E::bytes))
FUSAIN_LOGGED(event::Detached, field("sha256", &E::sha256).field("reason", &E::reason))
FUSAIN_LOGGED(event::Remark, field("text", &E::text))

} // namespace fusain::bench
