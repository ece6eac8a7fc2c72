// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/before/group.h"

#include <algorithm>

namespace fusain::schedule {

Outcome<std::vector<Slot>> line_up(const Lab& lab, const Group& g)
{
    using Placed = Outcome<std::vector<Slot>>;
    const auto refuse = [](const char* code, const char* field, std::string text) {
        return Placed::refuse({code, Level::error, field, std::move(text)});
    };
    if (g.clients.empty()) return refuse("missing_field", "clients", "Nobody is in the group yet.");
    if (g.instruments.empty()) return refuse("missing_field", "instruments", "Choose an instrument.");
    if (g.each_min < shortest_each_min || g.each_min > longest_each_min)
        return refuse("out_of_range", "minutes",
            "Minutes each are " + std::to_string(g.each_min) + "; allowed is " + std::to_string(shortest_each_min) +
                " to " + std::to_string(longest_each_min) + ".");
    struct Lane {
        const Instrument* instrument;
        Minute free;
    };
    std::vector<Lane> lanes;
    for (const std::string& id : g.instruments) {
        const Instrument* i = lab.instrument(id);
        if (!i || i->method != g.method)
            return refuse("unknown_instrument", "instruments", "There is no such instrument for this: " + id + ".");
        lanes.push_back({i, g.from});
    }
    std::vector<Slot> out;
    const auto taken = [&](const Lane& lane, const Span& at) -> const Slot* {
        const Span whole{at.from - minutes(lane.instrument->each_lead), at.to + lane.instrument->after_min};
        const auto in = [&](const std::vector<Slot>& list) -> const Slot* {
            for (const Slot& s : list)
                if (s.instrument == lane.instrument->id && s.at.overlaps(whole)) return &s;
            return nullptr;
        };
        const Slot* booked = in(lab.tests);
        return booked ? booked : in(out);
    };
    const auto after = [&](const Lane& lane, const Slot& s) -> Span {
        const Minute from = s.at.to + lane.instrument->after_min + minutes(lane.instrument->each_lead);
        return {from, from + g.each_min};
    };
    for (std::size_t n = 0; n < g.clients.size(); ++n) {
        // the lane that is free first: with one of them held up the others go on
        Lane* best = nullptr;
        for (Lane& lane : lanes) {
            Span at{lane.free, lane.free + g.each_min};
            while (const Slot* in_the_way = taken(lane, at)) at = after(lane, *in_the_way);
            lane.free = at.from;
            const bool open = std::any_of(lane.instrument->open.begin(), lane.instrument->open.end(),
                [&](const Span& span) { return span.holds(at); });
            if (open && (!best || lane.free < best->free)) best = &lane;
        }
        if (!best)
            return refuse("no_room", "time",
                "There is room for " + std::to_string(n) + " of " + std::to_string(g.clients.size()) +
                    " within the opening hours. Begin earlier, take fewer minutes each, or a second instrument.");
        const Span at{best->free, best->free + g.each_min};
        out.push_back({0, g.clients[n], g.method, best->instrument->id, at});
        best->free = at.to + best->instrument->after_min + minutes(best->instrument->each_lead);
    }
    return out;
}

} // namespace fusain::schedule
