// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/methods.h"

#include "bench/analyser/analyser.h"
#include "bench/chamber/chamber.h"
#include "bench/tank/tank.h"
#include "bench/xray/xray.h"

namespace fusain::bench {

std::span<const MethodRow* const> methods()
{
    static const MethodRow* const rows[] = {&tank_row(), &chamber_row(), &analyser_row(), &xray_row()};
    return rows;
}

const MethodRow* method_row(protocol::Method method)
{
    for (const MethodRow* row : methods())
        if (row->method == method) return row;
    return nullptr;
}

std::map<protocol::Method, std::unique_ptr<Take>> instruments()
{
    std::map<protocol::Method, std::unique_ptr<Take>> out;
    for (const MethodRow* row : methods()) out.emplace(row->method, row->take());
    return out;
}

} // namespace fusain::bench
