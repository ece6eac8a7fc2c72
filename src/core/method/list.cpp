// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/method/method.h"

#include <algorithm>
#include <vector>

namespace fusain {

std::span<const Method> all_methods()
{
    static const std::vector<Method> all = [] {
#define ROOM(row, room) Method(method::row),
        std::vector<Method> out = {FUSAIN_METHODS(ROOM)};
#undef ROOM
        std::sort(out.begin(), out.end());
        return out;
    }();
    return all;
}

std::optional<Method> method_of(std::string_view word)
{
    for (const Method m : all_methods())
        if (word == m->word) return m;
    return std::nullopt;
}

std::string method_words()
{
    std::string out;
    for (const Method m : all_methods()) out += (out.empty() ? "" : ", ") + std::string(m->word);
    return out;
}

} // namespace fusain
