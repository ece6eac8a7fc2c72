// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/density/density_state.h"
#include "desk/bench/method_desk.h"

namespace fusain::desk {

/// A list of a table's rows (id, title).
template <class Rows, class Words>
ChoiceList choice_list(const char* what, const char* title, const std::string& now, const Rows& rows, Words words)
{
    ChoiceList list{what, QString::fromLatin1(title), now, {}};
    for (const auto& row : rows) list.options.emplace_back(row.id, words(row));
    return list;
}
inline const auto title_of = [](const auto& row) { return QString::fromUtf8(row.title); };

/// How density becomes fat, for every method that gives a density.
inline ChoiceList conversion_list(const bench::Visit& v)
{
    return choice_list("conversion", "Conversion", bench::density_of(v)->conversion, density::conversions(),
        [&](const density::Conversion& c) {
            return title_of(c) + (c.covers(v.subject.sex, v.age_y()) ? QString() : QStringLiteral("  (other group)"));
        });
}

} // namespace fusain::desk
