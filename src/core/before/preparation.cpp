// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/before/preparation.h"

#include <algorithm>

namespace fusain::preparation {

std::vector<Line> prepare(const protocol::Book& book, const protocol::HouseRules& house,
    const screening::Person& person, std::span<const screening::Part> parts)
{
    std::vector<Line> out;
    for (const screening::Part& part : parts) {
        const protocol::Protocol* p = book.protocol(part.method);
        if (!p) continue;
        for (const protocol::Rule& r : p->rules) {
            if (r.prepare.empty() || !protocol::applies(r, house, person.sex, person.age_y)) continue;
            Line line{
                r.topic.empty() ? r.id : r.topic, std::nullopt, r.prepare, {part.method}, r.reason, r.source, r.part};
            if (r.prepare_min > 0) line.before_visit_min = r.prepare_min - part.starts_in_min;
            const auto same =
                std::find_if(out.begin(), out.end(), [&](const Line& l) { return l.topic == line.topic; });
            if (same == out.end()) {
                out.push_back(std::move(line));
                continue;
            }
            const bool stricter = line.before_visit_min.value_or(-1e9) > same->before_visit_min.value_or(-1e9);
            std::vector<Method> methods = stricter ? line.methods : same->methods;
            const auto& others = stricter ? same->methods : line.methods;
            for (Method m : others)
                if (std::find(methods.begin(), methods.end(), m) == methods.end()) methods.push_back(m);
            if (stricter) *same = std::move(line);
            same->methods = std::move(methods);
        }
    }
    std::stable_sort(out.begin(), out.end(), [](const Line& a, const Line& b) {
        return a.before_visit_min.value_or(-1e9) > b.before_visit_min.value_or(-1e9);
    });
    return out;
}

} // namespace fusain::preparation
