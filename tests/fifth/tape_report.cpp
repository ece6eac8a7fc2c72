// SPDX-License-Identifier: GPL-3.0-or-later
#include "records/base/text.h"
#include "report/words/method_words.h"
#include "tape.h"

namespace fusain::report {

MethodWords tape_words()
{
    return {"trunk_tape", "conversion", picture_of_readings(),
        {"The girths will line up here.", "cm", "hundredths of a mm", 1, false,
            [](const bench::Visit& v) { return std::vector<int>{static_cast<int>(v.readings().size()) - 1}; }},
        [](const bench::Visit&, const Result&) { return QStringLiteral("The last girth counts."); },
        [](const bench::Visit& v, const Result&) {
            return QStringLiteral("A tape was laid about your trunk%1").arg(conversion_words(v));
        },
        [](const bench::Visit&) { return QStringLiteral("1 cm more about the trunk changes it"); }, density_sum,
        conversions_beside,
        [](Document& d, const bench::Visit& v, const Outcome<Result>& result) {
            d.add(Block::Kind::heading, QStringLiteral("Girths of the trunk"));
            std::vector<QStringList> rows = {{"no.", "cm", "what became of it"}};
            for (const bench::Trial& t : v.trials)
                rows.push_back({QString::number(t.number),
                    QString::number(bench::tape_of(v).value(v, t).value_or(0), 'f', 1), fate(v, t, result)});
            d.table({0.6, -1.3, 4}, rows);
        },
        [](const bench::Visit& v) {
            return std::vector<std::pair<const char*, QString>>{{"conversion", q(bench::tape_of(v).conversion)}};
        }};
}

} // namespace fusain::report
