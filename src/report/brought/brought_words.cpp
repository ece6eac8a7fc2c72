// SPDX-License-Identifier: GPL-3.0-or-later
// What is said of a result that was told elsewhere and taken over from a file.
#include "bench/brought/brought.h"
#include "records/base/text.h"
#include "report/words/method_words.h"

#include <cmath>

namespace fusain::report {
namespace {

using Kind = Block::Kind;

QString error_words(const bench::BroughtState& b)
{
    return b.u_told ? QStringLiteral("its error, ± %1 %, came with it").arg(number(b.u_fat_percent, 1))
                    : QStringLiteral("no error came with it: ± %1 % is what the method is given by this lab's rule")
                          .arg(number(b.u_fat_percent, 1));
}

void details(Document& d, const bench::Visit& v, const Outcome<Result>&)
{
    const bench::BroughtState& b = bench::brought_of(v);
    d.add(Kind::heading, QStringLiteral("Told elsewhere"));
    d.add(Kind::sentence, QStringLiteral("Taken over from %1, line %2 (SHA-256 %3); %4.")
                              .arg(q(b.file))
                              .arg(b.line)
                              .arg(q(b.sha256).left(16) + QStringLiteral("…"), error_words(b)));
}

/// Every value as it was told, side by side.
std::vector<QStringList> values(const bench::Visit& v, const Result& r)
{
    const bench::BroughtState& b = bench::brought_of(v);
    std::vector<QStringList> rows = {{"", "what", "from", "value", "± u", "", ""}};
    for (const Value& value : r.values)
        rows.push_back({QString(), QString::fromUtf8(value.quantity->title),
            b.values.count(value.quantity->id) ? QStringLiteral("told") : QStringLiteral("by sums"),
            number(value.value, value.quantity->decimals) + ' ' + QString::fromUtf8(value.quantity->unit),
            value.u > 0 ? number(value.u, value.quantity->decimals) : QString(), QString(), QString()});
    return rows;
}

} // namespace

MethodWords brought_words()
{
    return {
        "uncertainty",
        "error told with it",
        {[](const bench::Visit&, const Result*) { return QString(); },
            [](QPainter&, const QRectF&, const bench::Visit&, const Result*, const look::Palette&, int,
                const MassUnit&) {},
            [](const bench::Visit&, const Result*) { return 0.0; }, false},
        {"Nothing was measured here", "", "", 1, false, [](const bench::Visit&) { return std::vector<int>{}; }},
        [](const bench::Visit&, const Result&) {
            return QStringLiteral(
                "This result was measured elsewhere, or before: how well it repeats is not known here.");
        },
        [](const bench::Visit& v, const Result&) {
            return QStringLiteral("It was told elsewhere by %1 and taken over as it stood; %2")
                .arg(QString::fromLatin1(v.method->title), error_words(bench::brought_of(v)));
        },
        [](const bench::Visit&) {
            return QStringLiteral("another instrument, another equation or other conditions than the next test's");
        },
        [](const bench::Visit& v, const Result& r, const MassUnit& unit) {
            const bench::BroughtState& b = bench::brought_of(v);
            return QStringLiteral("told elsewhere: %1, line %2%3   ·   %4")
                .arg(q(b.file))
                .arg(b.line)
                .arg(b.equations.empty() ? QString() : QStringLiteral(", ") + q(b.equations), masses_sum(r, unit));
        },
        values,
        details,
        [](const bench::Visit&) { return std::vector<std::pair<const char*, QString>>{}; },
    };
}

} // namespace fusain::report
