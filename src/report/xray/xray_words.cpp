// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/xray/xray.h"
#include "core/body/safe.h"
#include "records/base/text.h"
#include "report/words/method_words.h"
#include "report/xray/xray_figures.h"

#include <cmath>
#include <span>

namespace fusain::report {
namespace {

using Kind = Block::Kind;
using xray::Region;

QString trunk_words(const bench::Visit& v)
{
    const bench::ScanTaken* s = bench::xray_of(v).standing(v);
    return s && s->trunk_has_head              ? QStringLiteral("trunk with the head, as the table gives it")
           : bench::xray_of(v).trunk_with_head ? QStringLiteral("trunk with the head")
                                               : QStringLiteral("trunk without the head");
}

QString visceral_words(const Result& r, const MassUnit& unit)
{
    const Value* fat = r.find(quantity::visceral_fat);
    if (!fat) return {};
    const Value* area = r.find(quantity::visceral_area);
    return QStringLiteral("%1 %2 %3%4")
        .arg(number(fat->value * unit.per_kg, 2),
            fat->u > 0 ? QStringLiteral("± ") + number(fat->u * unit.per_kg, 2)
                       : QStringLiteral("(the instrument's own)"),
            unit.word,
            area ? QStringLiteral(", %1 ± %2 cm²").arg(number(area->value, 0), number(area->u, 0)) : QString());
}

/// Every threshold that something is held against.
std::vector<QStringList> thresholds(const bench::Visit& v, const Result& r)
{
    const bool man = v.subject.sex == Sex::male;
    std::vector<QStringList> rows = {{"", "what", "held against", "value", "limit", "±", "which is"}};
    const auto add = [&](const QString& what, const QString& against, const QString& value, const QString& limit,
                         const QString& u, const QString& says) {
        rows.push_back({QString(), what, against, value, limit, u, says});
    };
    const bool adult = v.age_y() >= safe::adult_y; // what follows was found in adults
    const Value &almi = r[quantity::almi], &lean = r[quantity::appendicular_lean], &bmi = r[quantity::bmi];
    for (const xray::LowLean& l : adult ? std::span(xray::low_lean_rows) : std::span<const xray::LowLean>()) {
        const double limit = man ? l.men : l.women, value = l.by_bmi ? lean.value / bmi.value : almi.value,
                     u = l.by_bmi ? lean.u / bmi.value : almi.u;
        add(l.by_bmi ? QStringLiteral("appendicular lean / BMI") : QStringLiteral("appendicular lean / height²"),
            QStringLiteral("%1, %2").arg(QString::fromUtf8(l.title), QString::fromUtf8(l.source)),
            number(value, l.by_bmi ? 3 : 2), QStringLiteral("%1").arg(number(limit, l.by_bmi ? 3 : 2)),
            number(u, l.by_bmi ? 3 : 2),
            value < limit ? QStringLiteral("under the limit of low lean")
                          : QStringLiteral("over the limit of low lean"));
    }
    if (adult) {
        const Value& fmi = r[quantity::fmi];
        const xray::FatBand& band = xray::fat_band(v.subject.sex, fmi.value);
        add(QStringLiteral("fat mass index"), QStringLiteral("Kelly 2009, PLoS ONE 4:e7038"), number(fmi.value, 1),
            QStringLiteral("from %1").arg(number(man ? band.men : band.women, 1)), number(fmi.u, 1),
            QString::fromLatin1(band.title));
    }
    if (const Value* fat = adult ? r.find(quantity::visceral_fat) : nullptr)
        add(QStringLiteral("visceral fat, kg"),
            QStringLiteral("0.45 kg as a ceiling, lower is better; this lab's rule"), number(fat->value, 2),
            number(xray::visceral_limit_kg, 2), fat->u > 0 ? number(fat->u, 2) : QString(),
            fat->value > xray::visceral_limit_kg ? QStringLiteral("over it") : QStringLiteral("under it"));
    if (const Value* area = adult ? r.find(quantity::visceral_area) : nullptr)
        add(QStringLiteral("visceral fat, cm²"), QStringLiteral("100 cm²; this lab's rule"), number(area->value, 0),
            number(xray::visceral_limit_cm2, 0), number(area->u, 0),
            area->value > xray::visceral_limit_cm2 ? QStringLiteral("over it") : QStringLiteral("under it"));
    if (const Value* ratio = r.find(quantity::android_gynoid))
        add(QStringLiteral("waist over hips"), QStringLiteral("1; this lab's rule"), number(ratio->value, 2),
            QStringLiteral("1.00"), number(ratio->u, 2),
            ratio->value < 1 ? QStringLiteral("larger share at the hips")
                             : QStringLiteral("larger share at the waist"));
    if (const Value* z = r.find(quantity::bone_z))
        add(QStringLiteral("bone mineral, Z-score"), q(bench::xray_of(v).bone_reference->source), number(z->value, 1),
            number(xray::below_expected_z, 1), number(z->u, 1),
            z->value <= xray::below_expected_z ? QStringLiteral("below the expected range for age")
                                               : QStringLiteral("within the expected range for age"));
    else
        add(QStringLiteral("bone mineral, Z-score"), QStringLiteral("no reference loaded or typed"), QString(),
            QString(), QString(), QStringLiteral("not said"));
    return rows;
}

QString by_words(const std::string& by)
{
    return by == "last"         ? QStringLiteral("laid over from the last scan")
           : by == "technician" ? QStringLiteral("drawn by hand")
                                : QStringLiteral("placed by the program, looked at");
}

void regions_table(Document& d, const bench::Visit& v, const Result& r)
{
    std::vector<QStringList> rows = {{"from the feet up", "lean kg", "± u", "fat kg", "± u", "bone kg", "% fat"}};
    constexpr Region order[] = {Region::right_leg, Region::left_leg, Region::gynoid, Region::android, Region::trunk,
        Region::right_arm, Region::left_arm, Region::head};
    for (Region region : order) {
        const std::size_t i = xray::index(region);
        const Value* lean = r.find(quantity::region_lean[i]);
        if (!lean) continue;
        const Value &fat = r[quantity::region_fat[i]], &bone = r[quantity::region_bone[i]];
        QString title = QString::fromLatin1(xray::region_rows[i].title);
        if (region == Region::trunk) title = QStringLiteral("trunk without the head");
        rows.push_back({title, number(lean->value, 2), number(lean->u, 2), number(fat.value, 2), number(fat.u, 2),
            number(bone.value, 3), number(r[quantity::region_fat_percent[i]].value, 1)});
    }
    if (const auto in = bench::xray_of(v).input(v); in && !in->trunk_has_head) {
        const xray::Mass with = xray::trunk(in->regions, true);
        rows.push_back({QStringLiteral("trunk with the head"), number(with.lean_g / 1000, 2), QString(),
            number(with.fat_g / 1000, 2), QString(), number(with.bmc_g / 1000, 3),
            number(100 * with.fat_g / with.total_g(), 1)});
    }
    d.table({2.4, -1, -0.8, -1, -0.8, -1, -0.9}, rows);
}

void details(Document& d, const bench::Visit& v, const Outcome<Result>& result)
{
    const bench::XrayState& own = bench::xray_of(v);
    const bench::ScanTaken* scan = own.standing(v);
    if (result && scan) {
        if (scan->half != xray::Half::none)
            d.add(Kind::sentence, QStringLiteral("Half-body scan: the %1 half was measured, the other is its mirror.")
                                      .arg(QString::fromLatin1(bench::word(scan->half))));
        d.add(Kind::heading, QStringLiteral("Every region"));
        regions_table(d, v, *result);
        d.add(Kind::sentence,
            QStringLiteral("Trunk numbers of this house: %1. The waist band lies wholly within the trunk, the hip band "
                           "partly within trunk and legs; both are counted twice on purpose. The six regions add up to "
                           "the whole.")
                .arg(trunk_words(v)));
        d.add(Kind::heading, QStringLiteral("Held against"));
        d.table({0.1, 2.2, 3.2, -0.8, -0.9, -0.7, 2.2}, thresholds(v, *result));
        if (result->find(quantity::visceral_area))
            d.add(Kind::sentence,
                QStringLiteral("Visceral fat is this program's own estimate within the waist band: what an oval coat "
                               "under the skin leaves unexplained. It was tried on virtual bodies only."));
    }
    if (const bench::LinesSeen* lines = own.lines(v)) {
        d.add(Kind::heading, QStringLiteral("The lines"));
        d.add(Kind::sentence, QStringLiteral("%1 by %2.").arg(by_words(lines->by), q(lines->who)));
        std::vector<QStringList> rows = {{"string", "from the top mm", "beside last time mm", "worth to its region g"}};
        for (const xray::StringRow& s : xray::string_rows) {
            QStringList cells = {QString::fromLatin1(s.title), s.height ? number(lines->lines.*s.height, 0) : QString(),
                QString(), QString()};
            for (const auto& f : lines->from_last)
                if (f.string == s.id) {
                    cells[2] = number(f.mm, 1);
                    cells[3] = number(f.grams, 0);
                }
            rows.push_back(cells);
        }
        d.table({2.2, -1.2, -1.4, -1.6}, rows);
        if (lines->from_last.empty())
            d.add(Kind::sentence, QStringLiteral("There is no earlier scan with lines to compare with."));
    }
    d.add(Kind::heading, QStringLiteral("The beam"));
    std::vector<QStringList> rows = {{"no.", "came", "scanned kg", "what became of it"}};
    int standing = 0;
    own.standing(v, &standing);
    for (const bench::Trial& t : v.trials) {
        const auto kg = own.value(v, t);
        rows.push_back({QString::number(t.number), q(t.source), kg ? number(*kg, 2) : QString(),
            t.status != bench::Trial::Status::taken
                ? QStringLiteral("%1: %2").arg(QString::fromLatin1(word(t.status)), q(t.reason))
            : t.number == standing ? QStringLiteral("counts")
                                   : QStringLiteral("another counts")});
    }
    d.table({0.5, 1, -1.2, 5}, rows);
    const int beams = own.beams(v);
    d.add(Kind::sentence,
        own.dose_usv > 0
            ? QStringLiteral("Dose today: %1 × %2 µSv, stopped ones counted whole. In this lab in the twelve months "
                             "before: %3, %4 µSv. Natural background is about 7 to 8 µSv a day.")
                  .arg(beams)
                  .arg(number(own.dose_usv, 1))
                  .arg(own.scans_before)
                  .arg(number(own.dose_before_usv, 1))
            : QStringLiteral("Beams today: %1. In this lab in the twelve months before: %2. The dose of this table is "
                             "not known here.")
                  .arg(beams)
                  .arg(own.scans_before));
    if (!own.phantom.empty()) d.add(Kind::sentence, QStringLiteral("Phantom: %1.").arg(q(own.phantom)));
    if (scan && !scan->table.empty())
        d.add(Kind::sentence, QStringLiteral("Read with the tissue table %1.").arg(q(scan->table)));
    QStringList seen;
    for (const std::string& s : own.prepared) seen << q(s);
    if (!seen.isEmpty())
        d.add(Kind::sentence, QStringLiteral("Seen to before the beam: %1.").arg(seen.join(QStringLiteral(", "))));
}

/// To the client: where most lies, waist and hips, right and left.
QString where(const bench::Visit&, const Result& r)
{
    const auto kg = [&](Region region) {
        const Value* fat = r.find(quantity::region_fat[xray::index(region)]);
        return fat ? fat->value : 0.0;
    };
    QString out = QStringLiteral("Of your fat, %1 kg lie on the trunk, %2 kg on the legs and %3 kg on the arms.")
                      .arg(number(kg(Region::trunk), 1), number(kg(Region::right_leg) + kg(Region::left_leg), 1),
                          number(kg(Region::right_arm) + kg(Region::left_arm), 1));
    if (const Value* ratio = r.find(quantity::android_gynoid))
        out +=
            ratio->value < 1
                ? QStringLiteral(" At the waist a smaller share of the tissue is fat than at the hips (%1 to 1), which "
                                 "is the better way round.")
                      .arg(number(ratio->value, 2))
                : QStringLiteral(
                      " At the waist a larger share of the tissue is fat than at the hips (%1 to 1); under 1 "
                      "is better.")
                      .arg(number(ratio->value, 2));
    if (const Value* legs = r.find(quantity::legs_asymmetry)) {
        const double by = std::abs(legs->value);
        out += by < 2 * legs->u
                   ? QStringLiteral(" Your legs are alike, as far as a scan can tell.")
                   : QStringLiteral(" The %1 leg has %2 kg more lean than the other.")
                         .arg(legs->value > 0 ? QStringLiteral("right") : QStringLiteral("left"), number(by, 1));
    }
    return out;
}

} // namespace

MethodWords xray_words()
{
    return {
        "absorptiometry",
        "tissue table",
        {[](const bench::Visit& v, const Result* r) {
             return r ? QStringLiteral("Where it lies, as strata · %1").arg(trunk_words(v)) : QString();
         },
            [](QPainter& p, const QRectF& area, const bench::Visit& v, const Result* r, const look::Palette& c, int em,
                const MassUnit& unit) {
                if (r) draw_strata(p, area, *r, bench::xray_of(v).trunk_with_head, c, em, unit);
            },
            [](const bench::Visit&, const Result*) { return strata_rows_high; }, true},
        {"Nothing has been scanned yet.", "kg", "g", 1, true, [](const bench::Visit&) { return std::vector<int>{}; }},
        [](const bench::Visit&, const Result& r) {
            return QStringLiteral(
                "The scan adds up to %1 kg: %2 kg lean soft tissue, %3 kg fat and %4 kg of mineral in "
                "your bones.")
                .arg(number(r[quantity::fat_mass].value + r[quantity::fat_free_mass].value, 1),
                    number(r[quantity::lean_soft_tissue].value, 1), number(r[quantity::fat_mass].value, 1),
                    number(r[quantity::bone_mineral].value, 1));
        },
        [](const bench::Visit& v, const Result&) {
            const bench::ScanTaken* s = bench::xray_of(v).standing(v);
            return QStringLiteral("X-rays of two energies went through you, place by place; fat, lean and bone weaken "
                                  "them differently%1")
                .arg(s && s->half != xray::Half::none
                         ? QStringLiteral(". One half of you lay in the field; the other is taken to be its mirror")
                         : QString());
        },
        [](const bench::Visit&) {
            return QStringLiteral("a litre drunk before counts as lean; lines drawn elsewhere move kilograms between "
                                  "trunk, arms and legs, not the whole");
        },
        [](const bench::Visit& v, const Result& r, const MassUnit& unit) {
            QStringList more;
            more << QStringLiteral("%1 % of soft tissue").arg(number(r[quantity::tissue_fat_percent].value, 1));
            more << QStringLiteral("arms and legs %1 kg/m²").arg(number(r[quantity::almi].value, 2));
            more << QStringLiteral("fat %1 kg/m²%2")
                        .arg(number(r[quantity::fmi].value, 1),
                            v.age_y() < safe::adult_y
                                ? QString()
                                : QStringLiteral(": ") +
                                      QString::fromLatin1(xray::fat_band(v.subject.sex, r[quantity::fmi].value).title));
            QStringList deep;
            if (const Value* ratio = r.find(quantity::android_gynoid))
                deep << QStringLiteral("waist over hips %1").arg(number(ratio->value, 2));
            if (const QString words = visceral_words(r, unit); !words.isEmpty())
                deep << QStringLiteral("around the organs, waist band: %1").arg(words);
            if (const Value* z = r.find(quantity::bone_z))
                deep << QStringLiteral("bone mineral Z %1").arg(number(z->value, 1));
            return more.join(QStringLiteral("   ·   ")) +
                   (deep.isEmpty() ? QString() : QStringLiteral("\n") + deep.join(QStringLiteral("   ·   ")));
        },
        thresholds,
        details,
        [](const bench::Visit& v) {
            std::vector<std::pair<const char*, QString>> out;
            for (const bench::ChoiceRow& c : v.row().choices) out.emplace_back(c.what, q(c.get(v)));
            return out;
        },
        where,
    };
}

} // namespace fusain::report
