// SPDX-License-Identifier: GPL-3.0-or-later
// A visit on an instrument that gives finished numbers.
#include "bench/base/fields.h"
#include "bench/checks/instrument_check.h"
#include "bench/files/layout_file.h"
#include "bench/printed/printed.h"
#include "core/printout/typed.h"

#include <gtest/gtest.h>

using namespace fusain;
using namespace fusain::bench;

namespace {

printout::Layout layout_of(std::initializer_list<const char*> names)
{
    printout::Layout l;
    l.id = "at_the_door";
    l.title = "At the door";
    l.method = "impedance";
    for (const char* name : names) l.fields.push_back(printout::named(name));
    printout::number_keys(l);
    return l;
}

struct Told {
    Visit v;
    std::optional<Message> act(const char* kind, Json body)
    {
        return v.apply({v.last_seq + 1, "2026-11-30T07:20:00.000Z", "M. Tanguy", kind, body.dump()});
    }
    Told(const printout::Layout& layout, Json more = Json::object())
    {
        Json body = {{"client_id", 1}, {"number", "1042"}, {"name", "Maud Guillou"}, {"birth_date", "1995-05-02"},
            {"sex", "female"}, {"height_cm", 171.0}, {"method", "impedance"}, {"log", 3}, {"local", "2026-11-30T08:20"},
            {"layout", Json::parse(write_layout(layout))}};
        body.update(more);
        EXPECT_FALSE(act("started", body));
        EXPECT_FALSE(act("stops", {{"stop", Json::array()}}));
    }
    std::string printout(std::initializer_list<std::pair<const char*, double>> numbers, Json more = Json::object())
    {
        Json body = {{"source", "typed"}, {"values", Json::array()}};
        for (const auto& [key, n] : numbers)
            body["values"].push_back({{"key", key}, {"text", std::to_string(n)}, {"value", n}, {"decimals", 1}});
        body.update(more);
        const auto why = act("printout", body);
        return why ? why->code + ' ' + why->field : "";
    }
};

} // namespace

TEST(Printed, WhatItShowsIsTheResultOfToday)
{
    Told t(layout_of({"Weight (kg)", "Body fat (%)", "Visceral level (points)"}));
    EXPECT_EQ(t.v.row().origin, Origin::printed);
    EXPECT_EQ(t.printout({{"mass_kg", 68.4}, {"fat_percent", 27.6}}), "not_now ") << "first: is this the person?";
    ASSERT_FALSE(t.act("identity", {{"cm", 171.0}}));
    EXPECT_EQ(t.printout({}), "missing_field values");
    EXPECT_EQ(t.printout({{"fat_percent", 27.6}}), "missing_field mass_kg");
    EXPECT_EQ(t.printout({{"mass_kg", 684}, {"fat_percent", 27.6}}), "out_of_range mass_kg");
    EXPECT_EQ(t.printout({{"mass_kg", 68.4}}), "missing_field fat_percent");
    EXPECT_EQ(t.printout({{"mass_kg", 68.4}, {"fat_percent", 27.6}, {"unheard_of", 1}}), "bad_value unheard_of");
    EXPECT_EQ(t.printout({{"mass_kg", 68.4}, {"fat_percent", 27.6}, {"fat_percent", 27.6}}), "bad_value fat_percent");
    EXPECT_EQ(t.printout({{"mass_kg", 68.4}, {"fat_percent", 27.6}}, {{"source", "guessed"}}), "unknown_choice source");
    EXPECT_EQ(t.printout({{"mass_kg", 68.4}, {"fat_percent", 27.6}}, {{"source", "file"}, {"file", "a.pdf"}}),
        "bad_digest sha256");
    EXPECT_FALSE(t.v.result()) << "nothing that was refused stands";
    EXPECT_EQ(t.printout({{"mass_kg", 68.4}, {"fat_percent", 27.6}}), "");
    EXPECT_EQ(*t.v.mass_kg, 68.4);
    EXPECT_EQ(t.v.mass_source, "printout");
    EXPECT_EQ((*t.v.result())[quantity::fat_percent].value, 27.6);
    EXPECT_EQ(t.v.next_step(), step::result);
    EXPECT_EQ(t.printout({{"mass_kg", 68.5}, {"fat_percent", 27.9}}), "") << "a later one takes its place";
    EXPECT_EQ(*t.v.mass_kg, 68.5);
    EXPECT_EQ(t.act("trial_begun", {{"what", "body"}})->code, "not_now");
    ASSERT_FALSE(t.act("finished", Json::object()));
    EXPECT_EQ(t.printout({{"mass_kg", 68.4}, {"fat_percent", 27.6}}), "not_now ");
}

TEST(Printed, WithoutAPrintedMassTheScaleIsAsked)
{
    Told t(layout_of({"Body fat (%)"}));
    ASSERT_FALSE(t.act("identity", {{"cm", 171.0}}));
    EXPECT_EQ(t.v.next_step(), step::mass);
    EXPECT_EQ(t.printout({{"fat_percent", 27.6}}), "not_now ");
    ASSERT_FALSE(t.act("mass", {{"kg", 68.4}, {"source", "typed"}}));
    EXPECT_EQ(t.printout({{"fat_percent", 27.6}}), "");
    EXPECT_NEAR((*t.v.result())[quantity::fat_mass].value, 0.276 * 68.4, 1e-9);
}

TEST(Printed, AnUncheckedInstrumentIsLessSure)
{
    for (const auto& [by, u] : {std::pair{"", 3.5}, {"self_test", 3.5}, {"none", std::hypot(3.5, 1.0)}}) {
        Told t(layout_of({"Weight (kg)", "Body fat (%)"}),
            {{"check", {{"by", by}, {"u_fat_percent", unchecked_error(by)}}}});
        ASSERT_FALSE(t.act("identity", {{"cm", 171.0}}));
        ASSERT_EQ(t.printout({{"mass_kg", 68.4}, {"fat_percent", 27.6}}), "");
        EXPECT_NEAR((*t.v.result())[quantity::fat_percent].u, u, 1e-9) << by;
    }
}

TEST(Printed, TheWayItIsToldIsChosenByName)
{
    Told t(layout_of({"Weight (kg)", "Body fat (%)", "Resistance (Ω)", "Reactance (Ω)"}));
    ASSERT_FALSE(t.act("identity", {{"cm", 171.0}}));
    EXPECT_EQ(t.act("choice", {{"what", "told_by"}, {"to", "kyle_2001"}})->code, "unknown_choice")
        << "nothing is there yet";
    ASSERT_EQ(t.printout({{"mass_kg", 68.4}, {"fat_percent", 27.6}, {"resistance_50khz_ohm", 512},
                  {"reactance_50khz_ohm", 61}}),
        "");
    const std::string printed = t.v.own().schools(t.v);
    EXPECT_EQ(printed, printed_schools("at_the_door"));
    ASSERT_FALSE(t.act("choice", {{"what", "told_by"}, {"to", "sun_2003"}}));
    EXPECT_NE(t.v.own().schools(t.v), printed);
    EXPECT_NE((*t.v.result())[quantity::fat_percent].value, 27.6);
    ASSERT_EQ(t.printout({{"mass_kg", 68.4}, {"fat_percent", 27.6}}), "") << "corrected: the resistance was another's";
    EXPECT_EQ(t.v.chosen().at("told_by"), printout::as_printed);
    EXPECT_EQ((*t.v.result())[quantity::fat_percent].value, 27.6);
}
