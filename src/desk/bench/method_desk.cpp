// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/bench/method_desk.h"

#include <map>

namespace fusain::desk {

namespace {

/// Of a result that was told elsewhere: it has no bench.
const MethodDesk& brought_desk()
{
    static const MethodDesk desk = {[](bench::Step, work::Session&) -> Panel* { return nullptr; },
        [](bench::Step, const bench::Visit&) { return QString(); }, {}, [](const bench::Live&) { return true; },
        [](const bench::Live&) { return QStringLiteral("told elsewhere"); },
        [](const bench::Visit&) { return std::vector<ChoiceList>{}; }, &quantity::fat_mass, "",
        [](const bench::Live&) -> const char* { return nullptr; }};
    return desk;
}

} // namespace

const MethodDesk& desk_of(const bench::Visit& visit)
{
    static const std::map<protocol::Method, const MethodDesk*> all = {
        {protocol::Method::hydrostatic, &tank_desk()},
        {protocol::Method::air_displacement, &chamber_desk()},
        {protocol::Method::impedance, &analyser_desk()},
        {protocol::Method::absorptiometry, &xray_desk()},
    };
    switch (visit.row().origin) {
    case bench::Origin::elsewhere: return brought_desk();
    case bench::Origin::printed: return printed_desk();
    case bench::Origin::measured: break;
    }
    return *all.at(visit.method);
}

} // namespace fusain::desk
