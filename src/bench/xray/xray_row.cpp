// SPDX-License-Identifier: GPL-3.0-or-later
// X-ray absorptiometry: its row among the methods, its own events, steps and choices.
#include "bench/visit/kinds.h"
#include "bench/xray/xray_take.h"

namespace fusain::bench {
namespace {

XrayState& own(Visit& v) { return dynamic_cast<XrayState&>(v.own()); }
const XrayState& own(const Visit& v) { return xray_of(v); }

constexpr LyingRow lying[] = {
    {"see_agreed", "told what this scan gives, and agrees to it", "agreed to this scan", ""},
    {"see_alone", "nobody else in the room, the door shut", "nobody else in the room", ""},
    {"see_xray_metal", "nothing on with metal: zips, hooks, underwire, jewellery", "nothing on with metal",
        "metal left on: it reads as bone and spoils the fat beside it"},
    {"see_centred", "on the middle line, head and feet inside the marks", "centred in the field",
        "not centred: what lies outside the field is not measured"},
    {"see_arms_off", "arms off the sides, palms by the thighs", "arms off the sides",
        "arms against the trunk: kilograms move between arms and trunk"},
    {"see_feet_held", "feet turned in and held", "feet turned in and held",
        "feet not held: hips turn, and the legs' lines with them"},
};

std::optional<Message> refuse_lines(const Visit& v, const event::Lines& e, const Stamp&)
{
    if (v.running()) return not_now("The beam is on.");
    const ScanTaken* s = own(v).standing(v);
    if (!s || !s->has_map) return not_now("There is no map to draw lines on.");
    const Messages bad = xray::check(e.lines, s->dx_mm * s->columns, s->dy_mm * s->rows);
    return bad.empty() ? std::nullopt : std::optional(bad.front());
}

Kinds kinds()
{
    return {
        on<event::Lying>(
            When::open,
            [](const Visit& v, const event::Lying&, const Stamp&) {
                return v.running() ? std::optional(not_now("The beam is on.")) : std::nullopt;
            },
            [](Visit& v, const event::Lying& e, const Stamp&) {
                own(v).positioned = true;
                own(v).prepared = e.seen;
                own(v).left_out = e.left_out;
                own(v).half = e.half;
            }),
        on<event::BoneReference>(
            When::open,
            [](const Visit&, const event::BoneReference& e, const Stamp&) -> std::optional<Message> {
                if (e.source.size() >= 3) return std::nullopt;
                return Message{"missing_field", Level::error, "source",
                    "Say where the reference comes from; a Z-score without a source says nothing."};
            },
            [](Visit& v, const event::BoneReference& e, const Stamp&) { own(v).bone_reference = e; }),
        on<event::Lines>(When::open, refuse_lines,
            [](Visit& v, const event::Lines& e, const Stamp& stamp) { own(v).take_lines(v, e, stamp); }),
    };
}

std::vector<ChoiceRow> choices()
{
    return {
        {"trunk_head", [](const Visit&, const std::string& to) { return to == "with_head" || to == "without_head"; },
            [](const Visit& v) -> std::string { return own(v).trunk_with_head ? "with_head" : "without_head"; },
            [](Visit& v, const std::string& to) { own(v).trunk_with_head = to == "with_head"; }}};
}

constexpr StepRow lying_row{"lying", "Lying down", [](const Visit& v) { return own(v).positioned; }};
constexpr StepRow scan_row{"scan", "The scan", [](const Visit& v) { return v.finished || own(v).standing(v); }};
constexpr StepRow lines_row{"lines", "The lines", [](const Visit& v) { return v.finished || own(v).lines_done(v); }};

} // namespace

namespace step {
const Step lying = &lying_row, scan = &scan_row, lines = &lines_row;
}

std::span<const LyingRow> lying_rows() { return lying; }

const XrayState& xray_of(const Visit& v) { return dynamic_cast<const XrayState&>(v.own()); }
const XrayState* xray_if(const Visit& v) { return dynamic_cast<const XrayState*>(&v.own()); }

const BenchRow& xray_row()
{
    using namespace step;
    static const BenchRow row = {
        method::absorptiometry,
        "X-ray absorptiometry",
        "X-rays, only by who is licensed for them. Never in pregnancy. Local rules and licensed practice decide.",
        "The sum appears when the map has been read.",
        "Not a result yet: nobody has looked at the lines.",
        "Up from the table, a few steps, then lain down anew; the lines are placed afresh. One more dose.",
        {"scan", nullptr, "over"},
        {who, stops, mass, step::lying, step::scan, step::lines, step::result},
        {{take::scan, "the scan"}},
        kinds(),
        choices(),
        [](Method) -> std::unique_ptr<MethodState> { return std::make_unique<XrayState>(); },
        [](Sex, double) { return std::string("{}"); },
        [](const protocol::HouseRules& house) -> std::string {
            const auto at = house.find("trunk_head");
            return at == house.end() ? "without_head" : at->second;
        },
        []() -> std::unique_ptr<Take> { return std::make_unique<XrayTake>(); },
        xray_standing,
    };
    return row;
}

const BenchRow& XrayState::row() const { return xray_row(); }

} // namespace fusain::bench
