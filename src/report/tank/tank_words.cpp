// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/tank/tank.h"
#include "records/base/text.h"
#include "report/words/method_words.h"

#include <cmath>

namespace fusain::report {
namespace {

using Kind = Block::Kind;

QString lung_words(const bench::Visit& v)
{
    switch (bench::tank_of(v).lung_route.value_or(hydrostatic::LungRoute::age_height)) {
    case hydrostatic::LungRoute::measured: return QStringLiteral("the air left in your lungs was measured");
    case hydrostatic::LungRoute::vital_capacity:
        return QStringLiteral("the air left in your lungs was estimated from your largest breath");
    case hydrostatic::LungRoute::age_height:
        return QStringLiteral("the air left in your lungs was estimated from age and height");
    }
    return {};
}

void details(Document& d, const bench::Visit& v, const Outcome<Result>& result)
{
    const bench::TankState& tank = bench::tank_of(v);
    d.add(Kind::heading, QStringLiteral("Trials under water"));
    std::vector<QStringList> rows = {
        {"no.", "reading kg", "± u", "mid-swing kg", "window s", "given after s", "what became of it"}};
    for (const bench::Trial& t : v.trials) {
        const bench::Weighing* has = tank.weighing(t.number);
        rows.push_back({QString::number(t.number), has ? number(has->kg, 3) : "", has ? number(has->u_kg, 3) : "",
            has ? number(has->midpoint_kg, 3) : "",
            has ? QStringLiteral("%1–%2").arg(has->window_from_s, 0, 'f', 1).arg(has->window_to_s, 0, 'f', 1) : "",
            has ? number(has->earliest_s, 1) : "", fate(v, t, result)});
    }
    d.table({0.6, -1.3, -0.9, -1.5, 1.3, -1.4, 4}, rows);
    d.add(Kind::sentence,
        (tank.zero_from == "typed" ? QStringLiteral("Zero of chair and belt %1 kg, typed (± %2 kg).")
                                   : QStringLiteral("Zero of chair and belt %1 kg (scatter %2 kg)."))
            .arg(tank.zero_kg ? number(*tank.zero_kg, 3) : QStringLiteral("not taken"), number(tank.zero_sd_kg, 4)));
    if (!tank.blows.empty()) {
        rows = {{"blow", "litres ATPS", ""}};
        for (std::size_t i = 0; i < tank.blows.size(); ++i)
            rows.push_back({QString::number(i + 1),
                number(tank.blows[i].volume_l, 3) +
                    (tank.blows[i].source == "typed" ? QStringLiteral(", typed") : QString()),
                tank.blows[i].thrown_out ? QStringLiteral("thrown out: ") + q(tank.blows[i].reason)
                : tank.best_blow_l() == tank.blows[i].volume_l ? QStringLiteral("best, kept")
                                                               : QString()});
        d.add(Kind::heading, QStringLiteral("Spirometry"));
        d.table({0.6, -1.4, 6}, rows);
    }
}

} // namespace

MethodWords tank_words()
{
    return {
        "hydrostatic",
        "conversion",
        picture_of_readings(),
        {"The trials will line up here.", "", "g", 0.10, false,
            [](const bench::Visit& v) {
                const auto chosen = trials::find(bench::tank_of(v).trial_rule)->select(v.readings());
                return chosen ? chosen->used : std::vector<int>{};
            }},
        [](const bench::Visit&, const Result& r) {
            return r.used.size() > 1
                       ? QStringLiteral(
                             "You gave %1 readings that agree within %2 g. That makes this a number to build on.")
                             .arg(r.used.size())
                             .arg(1000 * r.spread, 0, 'f', 0)
                       : QStringLiteral(
                             "Your highest readings agree within %1 g. That makes this a number to build on.")
                             .arg(1000 * r.spread, 0, 'f', 0);
        },
        [](const bench::Visit& v, const Result& r) {
            return QStringLiteral("You were weighed under water %1 times, %2 of them count; %3%4")
                .arg(v.readings().size())
                .arg(r.used.size())
                .arg(lung_words(v), conversion_words(v));
        },
        [](const bench::Visit& v) {
            const auto what_ifs = v.what_ifs();
            return QStringLiteral("0.1 L more or less air left in the lungs moves it by about %1 %")
                .arg(number(std::abs(what_ifs.front().fat_percent_change), 1));
        },
        density_sum,
        conversions_beside,
        details,
        [](const bench::Visit& v) {
            const bench::TankState& tank = bench::tank_of(v);
            return std::vector<std::pair<const char*, QString>>{{"conversion", q(tank.conversion)},
                {"trial_rule", q(tank.trial_rule)},
                {"lung_route", tank.lung_route ? QString::fromLatin1(hydrostatic::id(*tank.lung_route)) : QString()},
                {"lung_equation", q(tank.lung_equation)}};
        },
    };
}

} // namespace fusain::report
