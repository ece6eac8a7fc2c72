// SPDX-License-Identifier: GPL-3.0-or-later
// What the density methods say alike.
#include "bench/density/density_state.h"
#include "report/words/method_words.h"
#include "report/words/readings_figure.h"

#include <cmath>

namespace fusain::report {

MethodWords::Picture picture_of_readings()
{
    return {[](const bench::Visit&, const Result*) { return QStringLiteral("The readings"); },
        [](QPainter& p, const QRectF& area, const bench::Visit& v, const Result*, const look::Palette& c, int em,
            const MassUnit& unit) { draw_readings(p, area, v, NAN, c, em, unit); },
        [](const bench::Visit&, const Result*) { return 7.4; }, false};
}

QString conversion_words(const bench::Visit& v)
{
    return QStringLiteral("; density became fat with %1")
        .arg(QString::fromUtf8(density::find(bench::density_of(v)->conversion)->title));
}

std::vector<QStringList> conversions_beside(const bench::Visit& v, const Result& r)
{
    std::vector<QStringList> rows = {{"", "what", "equation", "% fat", "± its error", "made on"}};
    const double density = r[quantity::body_density].value;
    for (const density::Conversion& c : density::conversions()) {
        const auto pair = c.pair(v.subject.sex, v.age_y());
        const auto fat = [&](double kg_per_l) { return density::percent_fat(kg_per_l, *pair); };
        rows.push_back({bench::density_of(v)->conversion == c.id ? QStringLiteral("●") : QString(),
            QStringLiteral("density to fat"), QString::fromUtf8(c.title),
            pair ? number(fat(density), 1) : QStringLiteral("no constants for the age"),
            pair ? number(std::abs(fat(density + c.error_kg_per_l) - fat(density)), 1) : QString(),
            QString::fromUtf8(c.made_on) +
                (c.covers(v.subject.sex, v.age_y()) ? QString() : QStringLiteral(" · not this client"))});
    }
    return rows;
}

QString masses_sum(const Result& r, const MassUnit& unit)
{
    const auto mass = [&](const Quantity& q) {
        return QStringLiteral("%1 %2").arg(number(r[q].value * unit.per_kg, 1), unit.word);
    };
    return QStringLiteral("%1 fat  +  %2 fat-free").arg(mass(quantity::fat_mass), mass(quantity::fat_free_mass));
}

QString density_sum(const bench::Visit& v, const Result& r, const MassUnit& unit)
{
    return QStringLiteral("%1 %2 ÷ %3 L  =  %4 kg/L   →   %5   →   %6 % fat\n%7")
        .arg(number(*v.mass_kg * unit.per_kg, 2), unit.word, number(r[quantity::body_volume].value, 2),
            number(r[quantity::body_density].value, 5),
            QString::fromUtf8(density::find(bench::density_of(v)->conversion)->title),
            number(r[quantity::fat_percent].value, 1), masses_sum(r, unit));
}

} // namespace fusain::report
