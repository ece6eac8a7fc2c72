// SPDX-License-Identifier: GPL-3.0-or-later
// Impedance: its row among the methods, its own events, steps and choices.
#include "bench/analyser/analyser_take.h"
#include "bench/visit/kinds.h"

namespace fusain::bench {
namespace {

AnalyserState& own(Visit& v) { return dynamic_cast<AnalyserState&>(v.own()); }
const AnalyserState& own(const Visit& v) { return analyser_of(v); }

constexpr StanceRow stance[] = {
    {"see_bare", "feet bare, tights and socks off", "feet bare",
        "cloth under the feet: the legs read too high, so the "
        "client too fat"},
    {"see_wiped", "hands and feet wiped", "hands and feet wiped",
        "dry or greasy skin: poor contact, points that do "
        "not fall"},
    {"see_metal", "nothing on that conducts: watch, jewellery, belt", "nothing on that conducts",
        "metal on the skin: the current goes another way"},
    {"see_stood", "has stood for five minutes", "stood five minutes",
        "water still on its way to the legs: % fat reads "
        "about 1 too high"},
    {"see_feet", "heels on the rear electrodes, toes ahead", "heels on the rear electrodes",
        "feet off their place: the "
        "legs read wrongly"},
    {"see_hands", "thumbs and palms flat on the metal", "thumbs and palms on the metal",
        "hands off their place: % fat "
        "reads up to 2 too low"},
    {"see_arms", "arms straight and away, thighs apart", "arms away, thighs apart",
        "limbs that touch: segments, and "
        "% fat by several percent"},
};

Kinds kinds()
{
    return {
        on<event::Stance>(When::open, nullptr,
            [](Visit& v, const event::Stance& e, const Stamp&) {
                own(v).prepared = e.seen;
                own(v).left_out = e.left_out;
            }),
        on<event::OwnNumbers>(When::open, nullptr,
            [](Visit& v, const event::OwnNumbers& e, const Stamp&) {
                own(v).own_numbers = e.rows;
                own(v).own_from = e.file;
            }),
    };
}

template <std::string impedance::Choice::*member, impedance::Predicts what>
ChoiceRow equation_choice(const char* name)
{
    return {name, [](const Visit&, const std::string& to) { return impedance::find(what, to) != nullptr; },
        [](const Visit& v) { return own(v).equations.*member; },
        [](Visit& v, const std::string& to) { own(v).equations.*member = to; }};
}

std::vector<ChoiceRow> choices()
{
    using impedance::Choice;
    using enum impedance::Predicts;
    return {
        equation_choice<&Choice::fat_free_mass, fat_free_mass>("fat_free_mass"),
        equation_choice<&Choice::total_body_water, total_body_water>("total_body_water"),
        equation_choice<&Choice::skeletal_muscle, skeletal_muscle>("skeletal_muscle"),
        {"water_spaces", [](const Visit&, const std::string& to) { return impedance::knows_water_spaces(to); },
            [](const Visit& v) { return own(v).equations.water_spaces; },
            [](Visit& v, const std::string& to) { own(v).equations.water_spaces = to; }},
        {"expected_by", [](const Visit&, const std::string& to) { return to == "height" || to == "mass"; },
            [](const Visit& v) -> std::string {
                return own(v).expected_by == impedance::ExpectedBy::mass ? "mass" : "height";
            },
            [](Visit& v, const std::string& to) {
                own(v).expected_by = to == "mass" ? impedance::ExpectedBy::mass : impedance::ExpectedBy::height;
            }},
        {"side_gap", [](const Visit&, const std::string& to) { return impedance::find_gap_rule(to) != nullptr; },
            [](const Visit& v) { return own(v).gap_rule; },
            [](Visit& v, const std::string& to) { own(v).gap_rule = to; }},
    };
}

constexpr StepRow stance_row{"stance", "Feet and hands", [](const Visit& v) { return !own(v).prepared.empty(); }};
constexpr StepRow spectrum_row{
    "spectrum", "The current", [](const Visit& v) { return v.finished || own(v).enough(v); }};

} // namespace

namespace step {
const Step stance = &stance_row, spectrum = &spectrum_row;
}

std::span<const StanceRow> stance_rows() { return stance; }

const AnalyserState& analyser_of(const Visit& v) { return dynamic_cast<const AnalyserState&>(v.own()); }
const AnalyserState* analyser_if(const Visit& v) { return dynamic_cast<const AnalyserState*>(&v.own()); }

const BenchRow& analyser_row()
{
    using namespace step;
    static const BenchRow row = {
        method::impedance,
        "impedance",
        "A weak current the client does not feel. Never with a powered implant. Local rules and licensed practice "
        "decide.",
        "The sum appears when the current has been everywhere.",
        "Not a result yet: segments are missing.",
        "Off the platform, a few steps about the room, metal and skin wiped; then on and placed again.",
        {"grip", nullptr, nullptr},
        {who, stops, mass, step::stance, spectrum, step::result},
        {{take::body, "all five segments"}, {impedance::segment_rows[0].id, "right arm, again"},
            {impedance::segment_rows[1].id, "left arm, again"}, {impedance::segment_rows[2].id, "trunk, again"},
            {impedance::segment_rows[3].id, "right leg, again"}, {impedance::segment_rows[4].id, "left leg, again"}},
        kinds(),
        choices(),
        [](Method) -> std::unique_ptr<MethodState> { return std::make_unique<AnalyserState>(); },
        [](Sex, double age_y) {
            if (age_y >= impedance::adult_y) return written(event::AnalyserStarted{});
            const impedance::Choice young = impedance::usual_choice(age_y);
            return written(event::AnalyserStarted{young.fat_free_mass, young.total_body_water, young.skeletal_muscle});
        },
        [](const protocol::HouseRules& house) -> std::string { return house.at("impedance_fat_free_mass"); },
        []() -> std::unique_ptr<Take> { return std::make_unique<AnalyserTake>(); },
        analyser_standing,
        {},
        {Channel::platform, Channel::scale},
    };
    return row;
}

const BenchRow& AnalyserState::row() const { return analyser_row(); }

} // namespace fusain::bench
