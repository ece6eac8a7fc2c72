// SPDX-License-Identifier: GPL-3.0-or-later
// The list of methods.
#include "bench/visit/methods.h"

#include "bench/analyser/analyser.h"
#include "bench/brought/brought.h"
#include "bench/chamber/chamber.h"
#include "bench/files/layout_file.h"
#include "bench/printed/printed.h"
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

const MethodRow* row_of_log(const event::Started& started)
{
    if (started.method.empty()) return methods().front();
    const auto known = protocol::method_of(started.method);
    if (known && started.told_elsewhere) return &brought_row(*known);
    if (known && !started.layout.empty()) {
        const auto layout = read_layout(started.layout, "layout");
        return layout ? &printed_row(*known, has_mass(*layout)) : nullptr;
    }
    return known ? method_row(*known) : nullptr;
}

std::map<protocol::Method, std::unique_ptr<Take>> instruments()
{
    std::map<protocol::Method, std::unique_ptr<Take>> out;
    for (const MethodRow* row : methods()) out.emplace(row->method, row->take());
    return out;
}

} // namespace fusain::bench
