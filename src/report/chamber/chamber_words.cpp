// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/chamber/chamber.h"
#include "core/base/limits.h"
#include "records/base/text.h"
#include "report/words/method_words.h"

#include <cmath>

namespace fusain::report {
namespace {

using Kind = Block::Kind;
namespace take = bench::take;

void details(Document& d, const bench::Visit& v, const Outcome<Result>& result)
{
    const bench::ChamberState& own = bench::chamber_of(v);
    const auto line = own.calibration(v);
    d.add(Kind::heading, QStringLiteral("Readings of the chamber"));
    std::vector<QStringList> rows = {
        {"no.", "of", "ratio", "volume L", "± u run", "drift L/min", "breath L", "what became of it"}};
    for (const bench::Trial& t : v.trials) {
        const auto at = own.ratios.find(t.number);
        const bool ratio = at != own.ratios.end(), run = ratio && t.is(take::run) && line;
        const double* typed = own.typed_volume_l(t.number);
        const auto r = run ? chamber::reading_of(at->second, *line) : chamber::Reading{};
        const QString fate_words =
            t.status == bench::Trial::Status::taken && !t.is(take::run) ? QStringLiteral("taken") : fate(v, t, result);
        rows.push_back(
            {QString::number(t.number), QString::fromUtf8(t.what->title), ratio ? number(at->second.value, 6) : "",
                run     ? number(r.volume_l, 3)
                : typed ? number(*typed, 3)
                        : QString(),
                run ? number(r.u_run_l, 3) : "", run ? number(r.drift_l_per_min, 2) : "",
                run ? number(r.breath_l, 2) : "", fate_words});
    }
    d.table({0.6, 1.7, -1.4, -1.3, -1.1, -1.3, -1.1, 4}, rows);
    if (line)
        d.add(Kind::sentence,
            QStringLiteral("Calibration: volume = %1 L − %2 L · ratio, from the empty chamber and a cylinder of %3 L ± "
                           "%4; ± %5 L at this client's volume.")
                .arg(number(line->a_l, 3), number(-line->b_l, 3), number(line->cylinder_l, 3),
                    number(line->u_cylinder_l, 3),
                    result ? number(line->u_l(((*result)[quantity::raw_volume].value - line->a_l) / line->b_l), 3)
                           : QStringLiteral("–")));
    if (const bench::Puffing* puffs = own.last_puffing(v))
        if (const auto gas = own.measured_gas(v))
            d.add(Kind::sentence,
                QStringLiteral("Lung gas while puffing against the shut valve: %1 L ± %2; merit %3 (under 1.0), "
                               "highest airway pressure %4 cmH₂O (under 35), barometer %5 mmHg.")
                    .arg(number(gas->litres, 2), number(gas->u_l, 2), number(puffs->merit, 2),
                        number(puffs->peak_cmh2o, 0), number(puffs->barometric_mmhg, 1)));
    if (own.typed_gas_l)
        d.add(Kind::sentence,
            QStringLiteral("Lung gas measured elsewhere and typed: %1 L.").arg(number(*own.typed_gas_l, 2)));
    QStringList seen;
    for (const std::string& s : own.prepared) seen << q(s);
    if (!seen.isEmpty())
        d.add(Kind::sentence, QStringLiteral("Seen to before the chamber: %1.").arg(seen.join(QStringLiteral(", "))));
}

} // namespace

MethodWords chamber_words()
{
    return {
        "air-displacement",
        "conversion",
        picture_of_readings(),
        {"The runs will line up here.", "L", "mL", 0.15, true,
            [](const bench::Visit& v) {
                const auto agreed = displacement::agree(v.readings());
                return agreed ? agreed->used : std::vector<int>{};
            }},
        [](const bench::Visit&, const Result& r) {
            return QStringLiteral("Your two runs agree within %1 mL. That makes this a number to build on.")
                .arg(1000 * r.spread, 0, 'f', 0);
        },
        [](const bench::Visit& v, const Result&) {
            return QStringLiteral("The chamber measured how much air you displace, %1 times, two of them count; the "
                                  "air in your lungs was %2%3")
                .arg(v.readings().size())
                .arg(bench::chamber_of(v).gas_route_used(v) == displacement::LungRoute::measured
                         ? QStringLiteral("measured")
                         : QStringLiteral("estimated from age, height and sex"),
                    conversion_words(v));
        },
        [](const bench::Visit& v) {
            const auto what_ifs = v.what_ifs();
            return QStringLiteral(
                "0.3 L more or less air in the lungs moves it by about %1 %, hair outside the cap by about 2 %")
                .arg(number(std::abs(what_ifs.front().fat_percent_change), 1));
        },
        density_sum,
        conversions_beside,
        details,
        [](const bench::Visit& v) {
            return std::vector<std::pair<const char*, QString>>{{"conversion", q(bench::chamber_of(v).conversion)},
                {"gas_route", QString::fromLatin1(displacement::id(bench::chamber_of(v).gas_route_used(v)))},
                {"gas_equation", q(bench::chamber_of(v).gas_equation)}};
        },
    };
}

} // namespace fusain::report
