// SPDX-License-Identifier: GPL-3.0-or-later
// What is said of a result that an instrument computed by itself.
#include "bench/checks/instrument_check.h"
#include "bench/printed/printed.h"
#include "records/base/text.h"
#include "report/words/method_words.h"

#include <cmath>

namespace fusain::report {
namespace {

using Kind = Block::Kind;

bool as_printed(const bench::Visit& v) { return bench::printed_of(v).told_by(v) == printout::as_printed; }

QString way_words(const bench::Visit& v)
{
    const bench::PrintedState& own = bench::printed_of(v);
    for (const printout::Way& w : own.ways(v))
        if (w.id == own.told_by(v)) return q(w.title);
    return {};
}

QString source_words(const bench::PrintedState& own)
{
    return own.source == "file"
               ? QStringLiteral("read from %1 (SHA-256 %2…) and looked at").arg(q(own.file), q(own.sha256).left(16))
               : QStringLiteral("typed from what it shows");
}

QString doubt_of_it(const bench::PrintedState& own)
{
    const QString usual = QStringLiteral("percent fat is given the doubt that is published for the method");
    return own.u_unchecked > 0 ? QStringLiteral("%1, and ± %2 % more because nobody checks the instrument")
                                     .arg(usual, number(own.u_unchecked, 1))
                               : usual;
}

/// Measured by it, or computed by it.
QString from_words(const printout::Value& value)
{
    const Quantity* known = printout::said_quantity(value.quantity);
    if (!known) return QStringLiteral("the instrument's own number");
    if (known == &quantity::body_mass) return QStringLiteral("its scale");
    const bool measured = known->kind == UnitKind::impedance || known->kind == UnitKind::angle;
    return measured ? QStringLiteral("what it measured") : QStringLiteral("its own equations");
}

/// As it is printed, each under its own name; then what can also be computed from it.
std::vector<QStringList> printed_rows(const bench::Visit& v, const Result&)
{
    const bench::PrintedState& own = bench::printed_of(v);
    std::vector<QStringList> rows = {{"", "what", "way", "value", "printed limits", "% fat", "from"}};
    const bool told = as_printed(v);
    for (const printout::Value& value : own.reading.values) {
        const printout::Field* f = own.field(value.key);
        const bool fat = value.quantity == quantity::fat_percent.id && value.segment.empty();
        rows.push_back({told && fat ? QStringLiteral("●") : QString(),
            f->under.empty() ? q(f->label) : q(f->label + ", " + f->under), QStringLiteral("as printed"),
            q(value.text + (value.unit.empty() ? "" : " " + value.unit)),
            value.low ? QStringLiteral("%1 to %2")
                            .arg(number(*value.low, value.decimals), number(*value.high, value.decimals))
                      : QString(),
            fat ? number(value.value, 1) : QString(), from_words(value)});
    }
    for (const printout::Gap& g : printout::gaps(own.said(v))) {
        const bool fat = g.of == &quantity::fat_percent;
        const QString apart = std::isnan(g.printed)
                                  ? QString()
                                  : QStringLiteral("%1 %2 from the printed one")
                                        .arg((g.ours > g.printed ? QStringLiteral("+") : QString()) +
                                                 number(g.ours - g.printed, std::min(g.of->decimals, 2)),
                                            QString::fromUtf8(g.of->unit));
        rows.push_back({!told && fat && way_words(v).startsWith(q(g.by)) ? QStringLiteral("●") : QString(),
            QString::fromUtf8(g.of->title), q(g.by),
            number(g.ours, g.of->decimals) + ' ' + QString::fromUtf8(g.of->unit), QString(),
            fat ? number(g.ours, 1) : QString(),
            apart + (g.outside_group ? QStringLiteral(" · not made on this client's group") : QString())});
    }
    return rows;
}

void details(Document& d, const bench::Visit& v, const Outcome<Result>& result)
{
    const bench::PrintedState& own = bench::printed_of(v);
    d.add(Kind::heading, QStringLiteral("As the instrument shows it"));
    d.add(Kind::sentence,
        QStringLiteral("Layout \"%1\", %2. Its equations are its own and not published to us; %3.")
            .arg(q(own.layout.title.empty() ? own.layout.id : own.layout.title), source_words(own), doubt_of_it(own)));
    if (const bench::CheckWay* way = bench::check_way(own.checked_by))
        d.add(Kind::sentence, QStringLiteral("The instrument: %1.").arg(QString::fromUtf8(way->words)));
    if (result) d.table({0.3, 2.2, 1.9, -1.4, 1.6, -0.8, 3.0}, printed_rows(v, *result));
    for (const auto& [key, note] : own.notes)
        if (!note.read.empty())
            d.add(Kind::sentence, QStringLiteral("·  %1: the reader saw \"%2\"; what was taken was written by hand.")
                                      .arg(q(own.field(key)->label), q(note.read)));
}

} // namespace

MethodWords printed_words()
{
    return {
        "printout",
        "equation",
        {[](const bench::Visit&, const Result*) { return QString(); },
            [](QPainter&, const QRectF&, const bench::Visit&, const Result*, const look::Palette&, int,
                const MassUnit&) {},
            [](const bench::Visit&, const Result*) { return 0.0; }, false},
        {"Nothing of it is typed yet", "", "", 1, false, [](const bench::Visit&) { return std::vector<int>{}; }},
        [](const bench::Visit&, const Result&) {
            return QStringLiteral(
                "The instrument measured once, so how well it repeats is not known from today alone.");
        },
        [](const bench::Visit& v, const Result&) {
            const QString title = QString::fromLatin1(v.method->title).toLower();
            return as_printed(v)
                       ? QStringLiteral("An instrument measured you by %1 and computed the number itself, with "
                                        "equations of its own that are not published to us")
                             .arg(title)
                       : QStringLiteral("An instrument measured you by %1; we computed the number from what it "
                                        "printed, by %2")
                             .arg(title, way_words(v).section(QStringLiteral(", from"), 0, 0));
        },
        [](const bench::Visit& v) {
            return v.method->reads == Reads::current
                       ? QStringLiteral("drinking, eating or training just before; another instrument, which reckons "
                                        "otherwise")
                       : QStringLiteral("another instrument, or other conditions than the next test's");
        },
        [](const bench::Visit& v, const Result& r, const MassUnit& unit) {
            return QStringLiteral("%1   →   %2 % fat\n%3")
                .arg(as_printed(v) ? QStringLiteral("the instrument's own equations, not published to us")
                                   : way_words(v),
                    number(r[quantity::fat_percent].value, 1), masses_sum(r, unit));
        },
        printed_rows,
        details,
        [](const bench::Visit& v) {
            return std::vector<std::pair<const char*, QString>>{{"told_by", way_words(v)}};
        },
    };
}

} // namespace fusain::report
