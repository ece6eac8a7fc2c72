// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/bench/method_desk.h"

#include <map>

namespace fusain::desk {

const MethodDesk& desk_of(protocol::Method method)
{
    static const std::map<protocol::Method, const MethodDesk*> all = {
        {protocol::Method::hydrostatic, &tank_desk()},
        {protocol::Method::air_displacement, &chamber_desk()},
        {protocol::Method::impedance, &analyser_desk()},
        {protocol::Method::absorptiometry, &xray_desk()},
    };
    return *all.at(method);
}

} // namespace fusain::desk
