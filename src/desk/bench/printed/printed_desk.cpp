// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/printed/printed.h"
#include "desk/bench/method_desk.h"
#include "desk/bench/printed/panel_printout.h"

namespace fusain::desk {
namespace {

Panel* panel(bench::Step step, work::Session& session)
{
    return step == bench::step::printout ? new PrintoutPanel(session) : nullptr;
}

QString value(bench::Step step, const bench::Visit& v)
{
    if (step != bench::step::printout) return {};
    return QStringLiteral("%1 numbers").arg(bench::printed_of(v).reading.values.size());
}

/// As printed, or by which of the published equations on what it prints of its inputs.
std::vector<ChoiceList> choices(const bench::Visit& v)
{
    const bench::PrintedState& own = bench::printed_of(v);
    ChoiceList told{"told_by", QStringLiteral("Told"), own.told_by(v), {}};
    for (const printout::Way& w : own.ways(v)) told.options.emplace_back(w.id, q(w.title));
    return told.options.size() < 2 ? std::vector<ChoiceList>{} : std::vector<ChoiceList>{told};
}

} // namespace

const MethodDesk& printed_desk()
{
    static const MethodDesk desk = {panel, value, {}, [](const bench::Live&) { return true; },
        [](const bench::Live&) { return QStringLiteral("as it shows"); }, choices, &quantity::fat_free_mass,
        "On the scale", [](const bench::Live&) -> const char* { return nullptr; }};
    return desk;
}

} // namespace fusain::desk
