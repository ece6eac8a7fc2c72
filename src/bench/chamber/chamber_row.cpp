// SPDX-License-Identifier: GPL-3.0-or-later
// What air displacement declares: its events, choices, steps and recordings.
#include "bench/chamber/chamber_take.h"
#include "bench/visit/kinds.h"
#include "core/base/limits.h"

namespace fusain::bench {
namespace {

constexpr char f_cylinder[] = "air_displacement.cylinder_l";

const ChamberState& own(const Visit& v) { return chamber_of(v); }
ChamberState& own(Visit& v) { return dynamic_cast<ChamberState&>(v.own()); }

/// The certified volume is a number somebody typed once, and everything hangs on it.
std::optional<Message> refuse_cylinder(const Visit& v, const event::Cylinder& e, const Stamp&)
{
    const double litres = e.l;
    if (v.instrument_reference > 0 && std::abs(litres - v.instrument_reference) > 0.01 * v.instrument_reference)
        return Message{"cylinder_differs", Level::error, f_cylinder,
            "The cylinder's volume is given as " + limits::plain(litres, 3) + " L; this chamber's cylinder is " +
                limits::plain(v.instrument_reference, 3) +
                " L in the register (1 % is allowed). Read the number on the cylinder, or correct the register."};
    return std::nullopt;
}

std::optional<Message> refuse_gas(const Visit& v, const event::LungGas& e, const Stamp&)
{
    using displacement::LungRoute;
    constexpr const char* gas = "air_displacement.lung.thoracic_gas_volume_l";
    if (e.route == LungRoute::measured && e.l) return limits::check(gas, *e.l);
    if (e.route == LungRoute::measured && !own(v).puffed_gas(v))
        return Message{"missing_field", Level::error, gas, "No puffs were accepted yet."};
    if (e.route == LungRoute::measured || (e.route == LungRoute::predicted && lung::find_gas(e.equation)))
        return std::nullopt;
    return Message{"unknown_choice", Level::error, "air_displacement.lung.source", "Choose how the lung gas is known."};
}

void take_gas(Visit& v, const event::LungGas& e, const Stamp&)
{
    ChamberState& chamber = own(v);
    chamber.gas_done = true;
    if (e.route == displacement::LungRoute::measured) chamber.typed_gas_l = e.l;
    chamber.gas_route = *e.route;
    if (!e.equation.empty()) chamber.gas_equation = e.equation;
}

Kinds kinds()
{
    return {
        on<event::SelfCalibrated>(
            When::open,
            [](const Visit& v, const event::SelfCalibrated&, const Stamp&) -> std::optional<Message> {
                if (v.running()) return not_now("A reading is running.");
                return needs_steps_before(v, step::calibrate, "Before the chamber");
            },
            [](Visit& v, const event::SelfCalibrated&, const Stamp&) { own(v).calibrate_itself(v); }),
        on<event::Prepared>(When::open, nullptr,
            [](Visit& v, const event::Prepared& e, const Stamp&) {
                own(v).prepared = e.seen;
                own(v).left_out = e.left_out;
            }),
        on<event::Cylinder>(When::open, refuse_cylinder,
            [](Visit& v, const event::Cylinder& e, const Stamp&) { own(v).cylinder_l = e.l; }),
        on<event::LungGas>(When::open, refuse_gas, take_gas),
    };
}

std::vector<ChoiceRow> choices()
{
    return {
        conversion_choice(),
        {"gas_equation", [](const Visit&, const std::string& to) { return lung::find_gas(to) != nullptr; },
            [](const Visit& v) { return own(v).gas_equation; },
            [](Visit& v, const std::string& to) { own(v).gas_equation = to; }},
        {"gas_route",
            [](const Visit& v, const std::string& to) {
                return to == "predicted" || (to == "measured" && own(v).measured_gas(v));
            },
            [](const Visit& v) -> std::string { return displacement::id(own(v).gas_route); },
            [](Visit& v, const std::string& to) {
                own(v).gas_route =
                    to == "measured" ? displacement::LungRoute::measured : displacement::LungRoute::predicted;
            }},
    };
}

constexpr StepRow prepare_row{"prepare", "Cap, clothes, talk", [](const Visit& v) { return !own(v).prepared.empty(); }};
constexpr StepRow calibrate_row{
    "calibrate", "Calibration", [](const Visit& v) { return own(v).self_calibrated() || bool(own(v).calibration(v)); }};
constexpr StepRow runs_row{"runs", "Volume", [](const Visit& v) { return v.finished || own(v).enough(v); }};
constexpr StepRow gas_row{
    "lung_gas", "Lung gas", [](const Visit& v) { return own(v).gas_done || own(v).lungs_corrected; }};

std::optional<Standing> standing(const Shown& shown, int number)
{
    const auto& c = dynamic_cast<const ChamberShown&>(shown);
    if (!c.what || !c.complete) return std::nullopt;
    if (*c.what == ChamberWhat::puffs) {
        if (!c.barometric_mmhg)
            return Standing{{}, Message{"missing_field", Level::error, "barometer",
                                    "The barometer is not heard; the lung gas needs the pressure of the room."}};
        const chamber::Puffs& p = c.puffs;
        return Standing{
            event::PuffsTaken{{number}, {p.slope, p.u_slope, p.merit, p.peak_cmh2o, *c.barometric_mmhg}, p.count}};
    }
    const auto ratio = ratio_read(c.state);
    if (!ratio) return std::nullopt;
    return Standing{event::RatioTaken{{number}, *ratio}};
}

} // namespace

std::string ChamberState::schools_of(const std::string& conversion, const std::string& lung_gas)
{
    return conversion + ", lung gas " + lung_gas;
}

const char* word(ChamberWhat what)
{
    constexpr const char* words[] = {take::empty, take::cylinder, take::run, take::puffs};
    return words[static_cast<int>(what)];
}

namespace step {
const Step prepare = &prepare_row, calibrate = &calibrate_row, runs = &runs_row, lung_gas = &gas_row;
}

const ChamberState& chamber_of(const Visit& v) { return dynamic_cast<const ChamberState&>(v.own()); }

const BenchRow& chamber_row()
{
    using namespace step;
    static const BenchRow row = {
        method::air_displacement,
        "air displacement",
        "The client can leave at any time: the release button opens the door. Local rules and licensed practice "
        "decide.",
        "The sum appears with the first run.",
        "Not a result yet: the last run, lung gas as chosen so far.",
        "Out of the chamber and up, the chamber calibrated again; then seated again.",
        {},
        {who, stops, mass, prepare, calibrate, runs, lung_gas, step::result},
        {{take::empty, "empty chamber"}, {take::cylinder, "cylinder"}, {take::run, "run"}, {take::puffs, "puffs"}},
        kinds(),
        choices(),
        [](Method) -> std::unique_ptr<MethodState> { return std::make_unique<ChamberState>(); },
        density_beginning,
        [](const protocol::HouseRules& house) {
            return ChamberState::schools_of(house.at("conversion"), house.at("chamber_lung_gas"));
        },
        []() -> std::unique_ptr<Take> { return std::make_unique<ChamberTake>(); },
        standing,
        {},
        {Channel::scale},
        Origin::measured,
        event::LungGas::kind,
    };
    return row;
}

const BenchRow& ChamberState::row() const { return chamber_row(); }

} // namespace fusain::bench
