// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/tank/tank.h"
#include "desk/bench/density_choices.h"
#include "desk/bench/tank/tank_panels.h"

namespace fusain::desk {
namespace {

using hydrostatic::LungRoute;

Panel* panel(bench::Step step, work::Session& session)
{
    return step == bench::step::lungs    ? make_lungs_panel(session)
           : step == bench::step::zero   ? make_zero_panel(session)
           : step == bench::step::water  ? make_water_panel(session)
           : step == bench::step::trials ? make_trials_panel(session)
                                         : nullptr;
}

QString value(bench::Step step, const bench::Visit& v)
{
    const bench::TankState& tank = bench::tank_of(v);
    if (step == bench::step::trials)
        return v.readings().empty() ? QString() : QStringLiteral("%1 taken").arg(v.readings().size());
    if (step == bench::step::zero) return Units::get().text(Measure::mass, *tank.zero_kg, 2);
    if (step == bench::step::water) return Units::get().text(Measure::temperature, *tank.water_temp_c, 1);
    if (tank.lung_route == LungRoute::measured) return QStringLiteral("RV %1 L").arg(*tank.measured_rv_l, 0, 'f', 2);
    if (tank.lung_route == LungRoute::age_height) return QStringLiteral("by age");
    const bench::Blow* best = tank.best_blow();
    const auto vital = best ? best->in_the_body_l(tank.gas_temp_c, tank.barometric_mmhg) : std::nullopt;
    return vital ? QStringLiteral("VC %1 L").arg(*vital, 0, 'f', 2) : QString();
}

QString status(const bench::Live& l)
{
    return l.water_temp_c ? QStringLiteral("instruments heard · water %1")
                                .arg(Units::get().text(Measure::temperature, *l.water_temp_c, 1))
                          : QStringLiteral("instruments heard");
}

std::vector<ChoiceList> choices(const bench::Visit& v)
{
    const bench::TankState& tank = bench::tank_of(v);
    ChoiceList routes{
        "lung_route", QStringLiteral("Lung gas"), tank.lung_route ? hydrostatic::id(*tank.lung_route) : "", {}};
    for (LungRoute r : {LungRoute::measured, LungRoute::vital_capacity, LungRoute::age_height}) {
        const bool possible = r == LungRoute::measured ? tank.measured_rv_l.has_value()
                              : r == LungRoute::vital_capacity
                                  ? tank.best_blow_l() && tank.gas_temp_c && tank.barometric_mmhg
                                  : true;
        if (possible) routes.options.emplace_back(hydrostatic::id(r), QString::fromUtf8(hydrostatic::title(r)));
    }
    std::vector<ChoiceList> all{conversion_list(v), routes};
    if (tank.lung_route == LungRoute::age_height)
        all.push_back(choice_list("lung_equation", "Its equation", tank.lung_equation, lung::equations(), title_of));
    all.push_back(choice_list("trial_rule", "Trials", tank.trial_rule, trials::rules(), title_of));
    return all;
}

/// The zero is taken as the stand-in has it now: with or without the belt.
bench::Step set_drill(const DrillSet& set)
{
    namespace event = bench::event;
    set.act(event::Lungs{LungRoute::measured, {}, {}, {}, set.item.residual_volume_l});
    set.direct(QStringLiteral("hang"));
    set.with_truth(QStringLiteral("tank"), [](const Truth& truth) {
        return std::vector<bench::Act>{
            event::Zero{truth.at("zero_kg"), 0.004, "typed"}, event::Water{truth.at("water_c"), 0, "typed"}};
    });
    return bench::step::trials;
}

} // namespace

const MethodDesk& tank_desk()
{
    static const MethodDesk desk = {panel, value, {bench::step::trials},
        [](const bench::Live& l) { return l.connected; }, status, choices, &quantity::body_density, "On the scale, dry",
        [](const bench::Live&) -> const char* { return nullptr; }, set_drill};
    return desk;
}

} // namespace fusain::desk
