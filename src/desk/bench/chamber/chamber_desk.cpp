// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/chamber/chamber_take.h"
#include "desk/bench/chamber/chamber_panels.h"
#include "desk/bench/density_choices.h"

namespace fusain::desk {
namespace {

using displacement::LungRoute;

Panel* panel(bench::Step step, work::Session& session)
{
    using namespace bench::step;
    return step == prepare     ? make_prepare_panel(session)
           : step == calibrate ? make_calibrate_panel(session)
           : step == runs      ? make_runs_panel(session)
           : step == lung_gas  ? make_gas_panel(session)
                               : nullptr;
}

QString value(bench::Step step, const bench::Visit& v)
{
    const bench::ChamberState& chamber = bench::chamber_of(v);
    if (step == bench::step::runs)
        return v.readings().empty() ? QString() : QStringLiteral("%1 L").arg(v.readings().back(), 0, 'f', 2);
    if (step == bench::step::calibrate && chamber.self_calibrated()) return QStringLiteral("its own");
    if (step == bench::step::calibrate) return QStringLiteral("%1 L").arg(*chamber.cylinder_l, 0, 'f', 2);
    if (step != bench::step::lung_gas) return {};
    if (chamber.lungs_corrected) return QStringLiteral("corrected");
    return chamber.gas_route == LungRoute::measured ? QStringLiteral("measured") : QStringLiteral("predicted");
}

QString status(const bench::Live& l)
{
    return bench::chamber_shown(l).connected
               ? QStringLiteral("chamber heard · door %1")
                     .arg(bench::chamber_shown(l).door_open ? QStringLiteral("open") : QStringLiteral("closed"))
               : QStringLiteral("◆ chamber not heard");
}

std::vector<ChoiceList> choices(const bench::Visit& v)
{
    const bench::ChamberState& chamber = bench::chamber_of(v);
    ChoiceList routes{"gas_route", QStringLiteral("Lung gas"), displacement::id(chamber.gas_route), {}};
    for (LungRoute r : {LungRoute::measured, LungRoute::predicted})
        if (r == LungRoute::predicted || chamber.measured_gas(v))
            routes.options.emplace_back(displacement::id(r), QString::fromUtf8(displacement::title(r)));
    std::vector<ChoiceList> all{conversion_list(v), routes};
    if (chamber.gas_route == LungRoute::predicted && lung::gas_equations().size() > 1)
        all.push_back(
            choice_list("gas_equation", "Its equation", chamber.gas_equation, lung::gas_equations(), title_of));
    return all;
}

bench::Step set_drill(const DrillSet& set)
{
    namespace event = bench::event;
    set.act(event::Prepared{{"told about the chamber", "pressed the release button"}});
    if (set.task != bench::Task::choose_runs) return bench::step::calibrate;
    set.act(event::SelfCalibrated{});
    set.with_truth(QStringLiteral("chamber"), [off = set.item.runs_off_l](const Truth& truth) {
        std::vector<bench::Act> out;
        event::VolumeTyped run;
        run.what = bench::take::run;
        run.source = "typed";
        for (const double by : off) {
            run.l = truth.at("raw_volume_l") + by;
            out.push_back(run);
        }
        return out;
    });
    return bench::step::runs;
}

} // namespace

const MethodDesk& chamber_desk()
{
    static const MethodDesk desk = {panel, value, {bench::step::runs, bench::step::lung_gas},
        [](const bench::Live& l) { return bench::chamber_shown(l).connected; }, status, choices,
        &quantity::body_density, "On the scale, dry", [](const bench::Live&) -> const char* { return nullptr; },
        set_drill};
    return desk;
}

} // namespace fusain::desk
