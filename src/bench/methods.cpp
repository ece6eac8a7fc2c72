// SPDX-License-Identifier: GPL-3.0-or-later
// What every method is on the bench, by the list of them.
#include "bench/visit/methods.h"

#include "bench/brought/brought.h"
#include "bench/checks/instrument_kind.h"
#include "bench/files/layout_file.h"
#include "bench/printed/printed.h"
#include "core/method/rooms.h"

#include <algorithm>

namespace fusain::bench {

#define ROOM(row, room)                                                                                                \
    const BenchRow& room##_row();                                                                                      \
    const InstrumentKind& room##_instrument();
FUSAIN_METHODS(ROOM)
#undef ROOM

std::span<const BenchRow* const> methods()
{
#define ROOM(row, room) &room##_row(),
    static const BenchRow* const rows[] = {FUSAIN_METHODS(ROOM)};
#undef ROOM
    return rows;
}

const std::vector<const InstrumentKind*>& instrument_kinds()
{
    static const std::vector<const InstrumentKind*> all = [] {
#define ROOM(row, room) &room##_instrument(),
        std::vector<const InstrumentKind*> out = {FUSAIN_METHODS(ROOM)};
#undef ROOM
        std::sort(out.begin(), out.end(),
            [](const InstrumentKind* a, const InstrumentKind* b) { return a->method < b->method; });
        out.insert(out.begin(), &scale_kind());
        return out;
    }();
    return all;
}

const InstrumentKind* instrument_kind(const std::string& id)
{
    for (const InstrumentKind* kind : instrument_kinds())
        if (id == kind->id) return kind;
    return nullptr;
}

const InstrumentKind& instrument_of(Method method)
{
    const auto& all = instrument_kinds();
    return **std::find_if(all.begin(), all.end(), [&](const InstrumentKind* kind) { return kind->method == method; });
}

const BenchRow& bench_of(Method method)
{
    const auto all = methods();
    return **std::find_if(all.begin(), all.end(), [&](const BenchRow* row) { return row->method == method; });
}

const BenchRow* row_of_log(const event::Started& started)
{
    if (started.method.empty()) return &bench_of(method::hydrostatic); // the first logs knew no other
    const auto known = method_of(started.method);
    if (!known) return nullptr;
    if (started.told_elsewhere) return &brought_row(*known);
    if (!started.layout.empty()) {
        const auto layout = read_layout(started.layout, "layout");
        return layout ? &printed_row(*known, has_mass(*layout)) : nullptr;
    }
    return &bench_of(*known);
}

std::map<Method, std::unique_ptr<Take>> instruments()
{
    std::map<Method, std::unique_ptr<Take>> out;
    for (const BenchRow* row : methods())
        if (auto take = row->take()) out.emplace(row->method, std::move(take));
    return out;
}

} // namespace fusain::bench
