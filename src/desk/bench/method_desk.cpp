// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/bench/method_desk.h"

#include "core/method/rooms.h"

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

#define ROOM(row, room) const MethodDesk& room##_desk();
FUSAIN_METHODS(ROOM)
#undef ROOM

const MethodDesk& desk_of(Method method)
{
#define ROOM(row, room) {Method(method::row), &room##_desk()},
    static const std::map<Method, const MethodDesk*> all = {FUSAIN_METHODS(ROOM)};
#undef ROOM
    return *all.at(method);
}

const MethodDesk& desk_of(const bench::Visit& visit)
{
    switch (visit.row().origin) {
    case bench::Origin::elsewhere: return brought_desk();
    case bench::Origin::printed: return printed_desk();
    case bench::Origin::measured: break;
    }
    return desk_of(visit.method);
}

} // namespace fusain::desk
