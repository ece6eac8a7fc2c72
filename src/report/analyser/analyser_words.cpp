// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/analyser/analyser.h"
#include "bench/files/profile_file.h"
#include "records/base/text.h"
#include "report/analyser/segment_figure.h"
#include "report/words/method_words.h"

#include <cmath>

namespace fusain::report {
namespace {

using Kind = Block::Kind;
using impedance::Segment;

const impedance::GapRule& gap_rule(const bench::AnalyserState& own) { return *impedance::find_gap_rule(own.gap_rule); }

std::vector<ArcCurve> curves(const impedance::Input& in)
{
    std::vector<ArcCurve> out;
    const auto add = [&](const char* title, const std::vector<impedance::Point>& points) {
        if (points.empty()) return;
        const auto arc = impedance::fit_arc(points);
        out.push_back({QString::fromLatin1(title), points, arc ? std::optional(*arc) : std::nullopt});
    };
    add("whole body", in.whole_body);
    for (Segment s : impedance::all_segments) add(impedance::row(s).title, in.segments[index(s)]);
    return out;
}

QString water_spaces_title(const bench::AnalyserState& own)
{
    for (const impedance::WaterSpaces& row : impedance::water_space_rows)
        if (own.equations.water_spaces == row.id) return QString::fromLatin1(row.title);
    return {};
}

QString profile_words(const bench::AnalyserState& own)
{
    const auto profile = bench::shipped_profile(own.profile_id);
    return profile ? QStringLiteral("profile of the %1").arg(q(profile->title)) : QString();
}

void points_table(Document& d, const impedance::Input& in)
{
    std::vector<QStringList> rows = {{"segment", "kHz", "R Ω", "Xc Ω", "|Z| Ω", "phase °", "arc leaves R", "and Xc"}};
    const auto add = [&](const char* title, const std::vector<impedance::Point>& points) {
        const auto arc = impedance::fit_arc(points);
        for (const impedance::Point& p : points) {
            const auto fitted = arc ? impedance::impedance_of(*arc, p.f_khz) : std::complex<double>();
            rows.push_back({&p == points.data() ? QString::fromLatin1(title) : QString(), number(p.f_khz, 0),
                number(p.r_ohm, 1), number(p.x_ohm, 1), number(std::hypot(p.r_ohm, p.x_ohm), 1),
                number(std::atan2(p.x_ohm, p.r_ohm) * 57.29578, 2),
                arc ? number(p.r_ohm - fitted.real(), 2) : QString(),
                arc ? number(p.x_ohm + fitted.imag(), 2) : QString()});
        }
    };
    add("whole body", in.whole_body);
    for (Segment s : impedance::all_segments) add(impedance::row(s).title, in.segments[index(s)]);
    d.table({1.6, -0.9, -1.1, -1.1, -1.1, -1.1, -1.3, -1.1}, rows);
}

std::vector<QStringList> equations_beside(const bench::Visit& v, const Result&)
{
    std::vector<QStringList> rows = {{"", "what", "equation", "value", "± its error", "% fat", "made on"}};
    constexpr const char* what[] = {"fat-free mass", "total body water", "skeletal muscle", "muscle of arms and legs"};
    const auto in = bench::analyser_of(v).input(v);
    for (const impedance::Beside& b : in ? impedance::beside(*in) : std::vector<impedance::Beside>{}) {
        const bool litres = b.equation->what == impedance::Predicts::total_body_water;
        rows.push_back({b.chosen ? QStringLiteral("●") : QString(),
            QString::fromLatin1(what[static_cast<int>(b.equation->what)]), QString::fromUtf8(b.equation->title),
            QStringLiteral("%1 %2").arg(number(b.value, 1), litres ? QStringLiteral("L") : QStringLiteral("kg")),
            b.error > 0 ? number(b.error, 1) : QStringLiteral("not known"),
            std::isnan(b.fat_percent) ? QString() : number(b.fat_percent, 1),
            QString::fromUtf8(b.equation->made_on) +
                (b.outside_group ? QStringLiteral(" · not this client") : QString())});
    }
    for (const bench::InstrumentsOwn& n : bench::analyser_of(v).own_numbers)
        rows.push_back({QString(), QStringLiteral("the instrument's own"), q(n.title),
            QStringLiteral("%1 %2").arg(q(n.value), q(n.unit)), QString(), QString(),
            QStringLiteral("kept as it came, not computed here")});
    return rows;
}

void details(Document& d, const bench::Visit& v, const Outcome<Result>& result)
{
    const bench::AnalyserState& own = bench::analyser_of(v);
    const auto in = own.input(v);
    if (in && result) {
        if (result->find(quantity::r0))
            d.add(Kind::sentence,
                QStringLiteral("Water inside and outside the cells by %1. No norm is held against its share; it is "
                               "followed by the same method only.")
                    .arg(water_spaces_title(own)));
        d.add(Kind::heading, QStringLiteral("Every equation"));
        d.table({0.3, 2.0, 2.2, -1.0, -1.0, -0.8, 4.0}, equations_beside(v, *result));
        d.add(Kind::heading, QStringLiteral("Every point"));
        points_table(d, *in);
    }
    if (result && result->find(quantity::segment_scale)) {
        d.add(Kind::sentence,
            QStringLiteral("Lean and fat by segment: %1, made on %2. Lean of a segment is all that is not fat there, "
                           "bone included.")
                .arg(profile_words(own), q(bench::shipped_profile(own.profile_id)->calibrated_on)));
        std::vector<QStringList> rows = {{"segment", "lean kg", "± u", "fat kg", "± u", "of the expected"}};
        for (Segment s : impedance::all_segments) {
            const Value &lean = (*result)[quantity::segment_lean[index(s)]],
                        &fat = (*result)[quantity::segment_fat[index(s)]];
            const Value* expected = result->find(quantity::segment_expected[index(s)]);
            rows.push_back({QString::fromLatin1(impedance::row(s).title), number(lean.value, 2), number(lean.u, 2),
                number(fat.value, 2), number(fat.u, 2),
                expected ? number(expected->value, 0) + QStringLiteral(" %") : QString()});
        }
        rows.push_back({QStringLiteral("head, hands and feet"), number((*result)[quantity::rest_lean].value, 2),
            number((*result)[quantity::rest_lean].u, 2), number((*result)[quantity::rest_fat].value, 2),
            number((*result)[quantity::rest_fat].u, 2), QString()});
        d.table({2.2, -1, -0.8, -1, -0.8, -1.4}, rows);
    }
    d.add(Kind::heading, QStringLiteral("Recordings"));
    std::vector<QStringList> rows = {{"no.", "of", "came", "|Z| at 50 kHz Ω", "what became of it"}};
    const auto standing = own.segments(v);
    for (const bench::Trial& t : v.trials) {
        const auto z = own.value(v, t);
        const bool stands =
            std::any_of(standing.begin(), standing.end(), [&](const auto& s) { return s.trial == t.number; }) ||
            (own.whole_body(v) && own.whole_body(v)->trial == t.number);
        rows.push_back(
            {QString::number(t.number), QString::fromUtf8(t.what->title), q(t.source), z ? number(*z, 1) : QString(),
                t.status != bench::Trial::Status::taken
                    ? QStringLiteral("%1: %2").arg(QString::fromLatin1(word(t.status)), q(t.reason))
                : stands ? QStringLiteral("counts")
                         : QStringLiteral("measured again later")});
    }
    d.table({0.5, 2, 1, -1.6, 4}, rows);
    if (!own.own_numbers.empty() && !result) { // else they stand beside the equations
        d.add(Kind::heading, QStringLiteral("The instrument's own numbers"));
        d.add(Kind::sentence, QStringLiteral("Kept as they came%1, not computed here.")
                                  .arg(own.own_from.empty() ? QString() : QStringLiteral(" in ") + q(own.own_from)));
        std::vector<QStringList> own_rows = {{"what", "value"}};
        for (const bench::InstrumentsOwn& n : own.own_numbers)
            own_rows.push_back({q(n.title), q(n.value) + ' ' + q(n.unit)});
        d.table({3, 2}, own_rows);
    }
    QStringList seen;
    for (const std::string& s : own.prepared) seen << q(s);
    if (!seen.isEmpty())
        d.add(Kind::sentence, QStringLiteral("Seen to before the current: %1.").arg(seen.join(QStringLiteral(", "))));
}

QString title(const bench::Visit& v, const Result* r)
{
    if (r && !r->find(quantity::segment_scale) && !r->find(quantity::r0)) return {}; // one frequency
    if (r && r->find(quantity::segment_scale) && !r->find(quantity::segment_expected[0]))
        return QStringLiteral("Lean and fat, left and right");
    return r && r->find(quantity::segment_scale)
               ? QStringLiteral("Lean and fat, left and right · expected: %1")
                     .arg(QString::fromLatin1(
                         impedance::expected_by_rows[static_cast<int>(bench::analyser_of(v).expected_by)].title))
               : QStringLiteral("What the current met");
}

void draw(QPainter& p, const QRectF& area, const bench::Visit& v, const Result* r, const look::Palette& c, int em,
    const MassUnit& unit)
{
    const bench::AnalyserState& own = bench::analyser_of(v);
    if (r && r->find(quantity::segment_scale))
        draw_segments(p, area, *r, profile_words(own), impedance::side_gaps(*r, gap_rule(own)), c, em, unit);
    else if (const auto in = own.input(v))
        draw_arcs(p, area, curves(*in), c, em);
}

} // namespace

MethodWords analyser_words()
{
    return {
        "impedance",
        "equation",
        {title, draw,
            [](const bench::Visit&, const Result* r) {
                return r && r->find(quantity::segment_scale) ? segment_rows_high : 13.0;
            },
            true},
        {"The current has not been anywhere yet.", "Ω", "mΩ", 20, true,
            [](const bench::Visit&) { return std::vector<int>{}; }},
        [](const bench::Visit&, const Result& r) {
            const Value* water = r.find(quantity::total_body_water);
            return (water ? QStringLiteral("About %1 kg of you is water. ").arg(number(0.994 * water->value, 0))
                          : QString()) +
                   QStringLiteral("Fat hardly conducts, so the rest follows from how well you do.");
        },
        [](const bench::Visit& v, const Result& r) {
            return QStringLiteral(
                "A weak current went through %1%2; with your height, mass, age and sex the equation of "
                "%3 makes fat-free mass of it")
                .arg(bench::analyser_of(v).whole_body(v) ? QStringLiteral("your body")
                                                         : QStringLiteral("your arms, trunk and legs"),
                    r.find(quantity::r0) ? QStringLiteral(" at several frequencies") : QString(),
                    QString::fromUtf8(impedance::find(
                        impedance::Predicts::fat_free_mass, bench::analyser_of(v).equations.fat_free_mass)
                                          ->title));
        },
        [](const bench::Visit& v) {
            const auto what_ifs = v.what_ifs();
            return what_ifs.empty()
                       ? QStringLiteral("drinking, eating or training just before")
                       : QStringLiteral("half a litre drunk just before moves it by about %1 %, cold hands and feet or "
                                        "training just before by more")
                             .arg(number(std::abs(what_ifs.front().fat_percent_change), 1));
        },
        [](const bench::Visit& v, const Result& r, const MassUnit& unit) {
            QString water;
            if (r.find(quantity::extracellular_water))
                water =
                    QStringLiteral("\nwater by %1: %2 L inside  +  %3 L outside the cells, share outside %4")
                        .arg(water_spaces_title(bench::analyser_of(v)),
                            number(r[quantity::intracellular_water].value, 1),
                            number(r[quantity::extracellular_water].value, 1), number(r[quantity::ecw_ratio].value, 3));
            const Value* muscle = r.find(quantity::skeletal_muscle);
            return QStringLiteral("%1 Ω, %2°   →   %3   →   %4 % fat\n%5")
                       .arg(number(r[quantity::resistance].value, 0), number(r[quantity::phase_angle].value, 1),
                           QString::fromUtf8(impedance::find(
                               impedance::Predicts::fat_free_mass, bench::analyser_of(v).equations.fat_free_mass)
                                                 ->title),
                           number(r[quantity::fat_percent].value, 1), masses_sum(r, unit)) +
                   (muscle ? QStringLiteral("   ·   muscle %1 %2")
                                 .arg(number(muscle->value * unit.per_kg, 1), unit.word)
                           : QString()) +
                   water;
        },
        equations_beside,
        details,
        [](const bench::Visit& v) {
            const bench::AnalyserState& own = bench::analyser_of(v);
            std::vector<std::pair<const char*, QString>> out;
            for (const bench::ChoiceRow& c : v.row().choices) out.emplace_back(c.what, q(c.get(v)));
            out.emplace_back("profile", q(own.profile_id));
            return out;
        },
    };
}

} // namespace fusain::report
