// SPDX-License-Identifier: GPL-3.0-or-later
// Tapes, days, plans and what was told, as the client's log stores them.
#include "work/reading/entries.h"

#include "records/base/qt_fields.h"

namespace fusain::bench {
namespace {

using records::text;
using work::Days, work::Plan, work::Tape, work::Told;

/// Its input lies flat beside the other keys.
template <class T>
Fields<Plan>::Row input_row(const char* key, T plan::Input::*member)
{
    return {[=](const Plan& p, Json& j) { j[key] = p.input.*member; },
        [=](const Json& j, Plan& p) -> std::optional<Message> {
            p.input.*member = j.value(key, p.input.*member);
            return std::nullopt;
        }};
}

const Fields<Plan>::Row body_row = {
    [](const Plan& p, Json& j) {
        const energy::Body& b = p.input.body;
        j.update({{"sex", fusain::word(b.sex)}, {"age_y", b.age_y}, {"height_cm", b.height_cm},
            {"fat_mass_kg", b.fat_kg}, {"fat_free_mass_kg", b.fat_free_kg}});
    },
    [](const Json& j, Plan& p) -> std::optional<Message> {
        p.input.body = {j.value("sex", "") == fusain::word(Sex::male) ? Sex::male : Sex::female, j.value("age_y", 0.0),
            j.value("height_cm", 0.0), j.value("fat_mass_kg", 0.0), j.value("fat_free_mass_kg", 0.0)};
        return std::nullopt;
    }};

const Fields<Plan>::Row aim_row = {[](const Plan& p, Json& j) { j["aim"] = static_cast<int>(p.input.aim); },
    [](const Json& j, Plan& p) -> std::optional<Message> {
        p.input.aim = static_cast<plan::Aim>(j.value("aim", 0));
        return std::nullopt;
    }};

const Fields<Told>::Row steps_row = {[](const Told& t, Json& j) {
                                         j["steps"] = Json::array();
                                         for (const QString& step : t.steps) j["steps"].push_back(step.toStdString());
                                     },
    [](const Json& j, Told& t) -> std::optional<Message> {
        for (const std::string& step : j.value("steps", std::vector<std::string>{}))
            t.steps << QString::fromStdString(step);
        return std::nullopt;
    }};

} // namespace

FUSAIN_LOGGED(Tape, other(text<E>("measurer", &E::measurer))
                        .always("folds_mm", &E::folds_mm)
                        .always("girths_cm", &E::girths_cm)
                        .always("equation", &E::equation)
                        .always("waist_at", &E::waist_at)
                        .always("mass_kg", &E::mass_kg))
FUSAIN_LOGGED(Days, always("activity_level", &E::activity_level)
                        .always("school", &E::school)
                        .field("food_kcal", &E::food_kcal)
                        .other(text<E>("food_words", &E::food_words)))
FUSAIN_LOGGED(Plan, always("method", &E::method)
                        .always("intake_kcal", &E::intake_kcal)
                        .other(body_row)
                        .other(input_row("activity_level", &plan::Input::activity_level))
                        .other(input_row("school", &plan::Input::school))
                        .other(input_row("range", &plan::Input::range))
                        .other(input_row("lean", &plan::Input::lean))
                        .other(aim_row)
                        .other(input_row("target", &plan::Input::target))
                        .other(input_row("weeks", &plan::Input::weeks)))
FUSAIN_LOGGED(Told, other(text<E>("note", &E::note)).other(steps_row))

} // namespace fusain::bench
