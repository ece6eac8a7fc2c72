// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/reading/reading_words.h"

#include "core/body/balance.h"
#include "core/body/reference.h"
#include "core/quality/precision.h"
#include "records/base/clock.h"
#include "records/base/text.h"
#include "report/page/pen.h"

#include <algorithm>

namespace fusain::report {
namespace {

QString plain(double v, int decimals) { return QString::number(v, 'f', decimals).replace('-', QChar(0x2212)); }
QString unit_of(const Quantity& quantity, const MassUnit& unit)
{
    return quantity.kind == UnitKind::mass ? unit.word : QString::fromUtf8(quantity.unit);
}
double factor_of(const Quantity& quantity, const MassUnit& unit)
{
    return quantity.kind == UnitKind::mass ? unit.per_kg : 1;
}
QString title(const Quantity& quantity) { return QString::fromUtf8(quantity.title); }

} // namespace

QString value_words(const Quantity& quantity, double value, const MassUnit& unit)
{
    const QString word = unit_of(quantity, unit);
    return plain(value * factor_of(quantity, unit), quantity.decimals) + (word.isEmpty() ? word : ' ' + word);
}

QString change_words(const Quantity& quantity, double change, const MassUnit& unit)
{
    const QString word = unit_of(quantity, unit);
    return pen::signed_number(change * factor_of(quantity, unit), quantity.decimals) +
           (word.isEmpty() ? word : ' ' + word);
}

QString moved_sentence(const change::Moved& m, const MassUnit& unit)
{
    const auto part = [&](double kg, double band) {
        return QStringLiteral("%1 ± %2 %3")
            .arg(pen::signed_number(kg * unit.per_kg, 1))
            .arg(band * unit.per_kg, 0, 'f', 1)
            .arg(unit.word);
    };
    return QStringLiteral("The scale says %1 %2: fat %3, fat-free %4.")
        .arg(pen::signed_number(m.mass_kg * unit.per_kg, 1), unit.word, part(m.fat_kg, m.fat_band_kg),
            part(m.fat_free_kg, m.fat_free_band_kg));
}

QString moved_for_client(const change::Moved& m, bool fat_may_fall, const MassUnit& unit)
{
    const bool fat = std::abs(m.fat_kg) >= m.fat_band_kg, lean = std::abs(m.fat_free_kg) >= m.fat_free_band_kg;
    const auto size = [&](double kg) {
        return QStringLiteral("%1 %2").arg(std::abs(kg) * unit.per_kg, 0, 'f', 1).arg(unit.word);
    };
    QStringList good, other;
    if (fat && m.fat_kg < 0)
        (fat_may_fall ? good : other) << QStringLiteral("you have about %1 less fat").arg(size(m.fat_kg));
    if (fat && m.fat_kg > 0) other << QStringLiteral("you have about %1 more fat").arg(size(m.fat_kg));
    if (lean && m.fat_free_kg > 0)
        good
            << QStringLiteral("what is not fat (muscle, water, organs) has grown by about %1").arg(size(m.fat_free_kg));
    if (lean && m.fat_free_kg < 0)
        other << QStringLiteral("what is not fat has gone down by about %1").arg(size(m.fat_free_kg));
    else if (!lean && fat && m.fat_kg < 0)
        good << (m.kept() ? QStringLiteral("what is not fat has been kept")
                          : QStringLiteral("how what is not fat has changed cannot be told"));
    if (!fat && !lean) return QStringLiteral("Nothing has changed that can be told from measuring noise.");
    QString out =
        (good + other).join(good.isEmpty() || other.isEmpty() ? QStringLiteral(", and ") : QStringLiteral("; "));
    out[0] = out[0].toUpper();
    return out + '.';
}

QStringList why_words(const std::vector<const char*>& why, const work::Measurement& then, const work::Measurement& now)
{
    QStringList out;
    for (const std::string_view one : why) {
        if (one == "method") out << QStringLiteral("another method: changes are never taken across methods");
        if (one == "instrument")
            out << (now.method == work::by_tape
                        ? QStringLiteral("another pair of hands: %1, then %2")
                              .arg(q(then.instrument), q(now.instrument))
                        : QStringLiteral("another instrument: %1, then %2").arg(q(then.instrument), q(now.instrument)));
        if (one == "equations")
            out << QStringLiteral("other equations that could not be reckoned anew: %1, then %2")
                       .arg(q(then.equations), q(now.equations));
        if (one == "hour")
            out << QStringLiteral("another time of day: %1, then %2: water moves over the day")
                       .arg(then.at.toString(QStringLiteral("HH:mm")), now.at.toString(QStringLiteral("HH:mm")));
        if (one == "preparation")
            out << QStringLiteral("another preparation: %1, then %2")
                       .arg(then.not_kept && !then.not_kept->empty()
                                ? q(*then.not_kept).replace(';', QStringLiteral(", ")) + QStringLiteral(" not kept")
                                : QStringLiteral("all kept"),
                           now.not_kept && !now.not_kept->empty()
                               ? q(*now.not_kept).replace(';', QStringLiteral(", ")) + QStringLiteral(" not kept")
                               : QStringLiteral("all kept"));
        if (one == "height")
            out << QStringLiteral("height %1 cm, then %2 cm: an adult does not grow, so one of the two is wrong")
                       .arg(then.height_cm, 0, 'f', 1)
                       .arg(now.height_cm, 0, 'f', 1);
        if (one == "unit")
            out << QStringLiteral("mass %1 kg, then %2 kg: one of them looks like pounds taken for kilograms")
                       .arg(then.mass_kg, 0, 'f', 1)
                       .arg(now.mass_kg, 0, 'f', 1);
    }
    return out;
}

QString verdict_words(const work::Series& s, const change::Step& step)
{
    if (!step.comparable()) return QStringLiteral("not comparable");
    if (!s.repeatability) return QStringLiteral("no verdict: how well it repeats is not known");
    switch (step.verdict) {
    case change::Verdict::rise: return QStringLiteral("rose");
    case change::Verdict::fall: return QStringLiteral("fell");
    default: return QStringLiteral("not to be told from noise");
    }
}

QString repeatability_sentence(const Quantity& of, const change::Repeatability& known, const MassUnit& unit)
{
    if (known.by_default)
        return QStringLiteral("Tests on two days differ by %1 (SD) with nothing changed: %2.")
            .arg(value_words(of, known.rms_sd, unit), q(known.source));
    if (known.over_days)
        return QStringLiteral(
            "Tests on two days differ by %1 (SD) with nothing changed: placing, reading and what days "
            "do to a body together (%2).")
            .arg(value_words(of, known.rms_sd, unit), q(known.source));
    return QStringLiteral("Tests on two days differ by %1 (SD) with nothing changed: placing and reading %2 (%3), what "
                          "days add %4 (by default).")
        .arg(value_words(of, known.rms_sd, unit), value_words(of, known.placing_sd, unit), q(known.source),
            value_words(of, known.day_sd, unit));
}

QString change_sentence(const work::Series& s, const change::Step& step, const MassUnit& unit)
{
    const work::Measurement &then = *s.points[static_cast<std::size_t>(step.from)],
                            &now = *s.points[static_cast<std::size_t>(step.to)];
    const QString since = records::date_words(then.day);
    if (!step.comparable())
        return QStringLiteral("Cannot be compared with %1: %2.")
            .arg(since, why_words(step.why, then, now).join(QStringLiteral("; ")));
    const QString by = change_words(*s.quantity, *step.change, unit);
    if (!s.repeatability)
        return QStringLiteral("%1 since %2; how well %3 repeats is not known here, so nothing is said of it.")
            .arg(by, since, title(*s.quantity).toLower());
    const QString limit = value_words(*s.quantity, step.lsc, unit);
    if (step.verdict == change::Verdict::within_noise)
        return QStringLiteral("%1 since %2: inside ± %3, so it cannot be told from noise.").arg(by, since, limit);
    return QStringLiteral(
        "%1 since %2: a %4, more than ± %3; measuring alone gives a step of this size in fewer than 5 "
        "of 100.")
        .arg(by, since, limit, step.verdict == change::Verdict::rise ? QStringLiteral("rise") : QStringLiteral("fall"));
}

QString trend_sentence(const work::Series& s, const MassUnit& unit)
{
    const change::Trend& t = s.changes.trend;
    if (!s.repeatability) return {};
    if (t.verdict == change::Verdict::too_few)
        return QStringLiteral("A trend needs three tests that can be compared; there %1 %2.")
            .arg(t.n == 1 ? QStringLiteral("is") : QStringLiteral("are"))
            .arg(t.n);
    const double month = 365.25 / 12 / 7;
    Quantity finer = *s.quantity;
    finer.decimals += 1;
    const QString rate = change_words(finer, *t.per_week * month, unit),
                  doubt = value_words(finer, 1.96 * *t.u_per_week * month, unit);
    return QStringLiteral("Trend over %1 tests: %2 a month ± %3%4.")
        .arg(t.n)
        .arg(rate, doubt,
            t.verdict == change::Verdict::within_noise ? QStringLiteral(": not to be told from a level line")
                                                       : QString());
}

const QStringList& lean_questions()
{
    static const QStringList rows = {
        QStringLiteral("Were both tests made alike: drunk, eaten, slept and warmed the same? Water is lean to every "
                       "instrument."),
        QStringLiteral("Is there enough load in the training: heavy enough, often enough?"),
        QStringLiteral("Has endurance work grown beside it?"),
        QStringLiteral("Is there enough protein, and enough food as a whole, on the days that cost most?"),
        QStringLiteral("How has sleep been in these weeks?")};
    return rows;
}

QString balance_sentence(const work::Measurement& m)
{
    const Value *ffmi = m.result.find(quantity::ffmi), *fmi = m.result.find(quantity::fmi);
    if (!ffmi || !fmi) return {};
    const auto place = balance::place(m.sex, m.age_y, ffmi->value, fmi->value);
    if (!place) return {};
    switch (place->kind) {
    case balance::Kind::muscle_led:
        return QStringLiteral("Your body is muscle-led: what carries you is in the upper half for your height, and fat "
                              "is not above its range.");
    case balance::Kind::balanced:
        return QStringLiteral("Your body is balanced: muscle and fat keep step, for your height.");
    case balance::Kind::fat_led:
        return QStringLiteral("Your body is fat-led: for your height there is more fat beside what carries you than in "
                              "most people of healthy weight.");
    case balance::Kind::both_high:
        return QStringLiteral("Your body is heavy and strong: for your height both muscle and fat are above their "
                              "ranges.");
    case balance::Kind::low_fat:
        return QStringLiteral(
            "Your body has very little fat, at or under what it needs for health. Eating enough comes "
            "first; please talk it over with a clinician.");
    case balance::Kind::low_reserve:
        return QStringLiteral("Your body has little reserve: both muscle and fat are under their ranges. Eating enough "
                              "comes first; please talk it over with a clinician.");
    }
    return {};
}

QString balance_words(const work::Measurement& m)
{
    const Value *ffmi = m.result.find(quantity::ffmi), *fmi = m.result.find(quantity::fmi);
    const auto place = ffmi && fmi ? balance::place(m.sex, m.age_y, ffmi->value, fmi->value) : std::nullopt;
    if (!place)
        return QStringLiteral("Under 18: no word for the balance and no box; what counts is how somebody grows.");
    const QString indexes = QStringLiteral("fat-free mass index %1, fat mass index %2 kg/m²")
                                .arg(ffmi->value, 0, 'f', 1)
                                .arg(fmi->value, 0, 'f', 1);
    switch (place->kind) {
    case balance::Kind::muscle_led:
        return QStringLiteral("Muscle-led: %1; lean in the upper half of its range or above and clearly ahead, fat not "
                              "above its own.")
            .arg(indexes);
    case balance::Kind::balanced: return QStringLiteral("Balanced: %1; the two keep step.").arg(indexes);
    case balance::Kind::fat_led:
        return QStringLiteral("Fat-led: %1; fat above its range and percent fat above that for the age, or fat well "
                              "ahead of lean where lean is under its range.")
            .arg(indexes);
    case balance::Kind::both_high:
        return QStringLiteral("Both high: %1; both above their ranges, percent fat within the range for the age.")
            .arg(indexes);
    case balance::Kind::low_fat:
        return QStringLiteral("Low fat: %1; percent fat under the level needed for health. No loss; a clinician.")
            .arg(indexes);
    case balance::Kind::low_reserve:
        return QStringLiteral("Low reserve: %1; both under their ranges. A caution, not praise.").arg(indexes);
    }
    return {};
}

QString bmi_sentence(const work::Measurement& m)
{
    const Value *bmi = m.result.find(quantity::bmi), *ffmi = m.result.find(quantity::ffmi),
                *fmi = m.result.find(quantity::fmi);
    if (!bmi || !ffmi || !fmi) return {};
    return QStringLiteral("BMI %1 = %2 fat-free + %3 fat: by itself it cannot tell muscle from fat.")
        .arg(bmi->value, 0, 'f', 1)
        .arg(ffmi->value, 0, 'f', 1)
        .arg(fmi->value, 0, 'f', 1);
}

QString standing_words(
    const std::optional<group::Standing>& s, const work::OwnGroup::Whom& whom, const Quantity& quantity)
{
    const QString people =
        QStringLiteral("%1%2 of this lab by %3")
            .arg(whom.sex == Sex::male ? QStringLiteral("men") : QStringLiteral("women"),
                whom.role.isEmpty() ? QString() : QStringLiteral(" (%1)").arg(whom.role), work::title_of(whom.method));
    if (!s) return QStringLiteral("No group yet: it takes %1 %2.").arg(group::fewest).arg(people);
    return QStringLiteral("%1: higher than %2 of 100 among %3 %4. This lab's clients are no sample of the population.")
        .arg(title(quantity))
        .arg(s->percentile, 0, 'f', 0)
        .arg(s->n)
        .arg(people);
}

/// What eight weeks may bring this client, by the planner: half of the most is a good pace.
QString pace_words(const work::Reading& r, const MassUnit& unit)
{
    constexpr int weeks = 8;
    plan::Input in;
    in.body = r.energy_in.body;
    in.activity_level = r.energy_in.activity_level;
    in.school = r.energy_in.school;
    in.facts = r.energy_in.facts;
    const auto there = plan::furthest_down(in, weeks);
    if (!there)
        return QStringLiteral("From here nothing is planned to be lost: what is safe leaves no room for it. Open the "
                              "plan, and we look at "
                              "what else you want.");
    const double most_kg = in.body.fat_kg - there->fat_kg;
    return QStringLiteral("In eight weeks about %1 %2 of fat is a good pace for you, and %3 %2 is the most that can be "
                          "planned safely. Open the plan, and we look at what your own aim takes.")
        .arg(most_kg / 2 * unit.per_kg, 0, 'f', 1)
        .arg(unit.word)
        .arg(most_kg * unit.per_kg, 0, 'f', 1);
}

std::vector<Answer> usual_questions(
    const work::Reading& r, const std::optional<group::Standing>& standing, const MassUnit& unit)
{
    std::vector<Answer> out;
    if (!r.main) return out;
    const work::Measurement& m = *r.main;
    const double fat = m.result[quantity::fat_percent].value;
    const auto* set = reference::find(r.range);
    const auto place = set ? reference::place(*set, m.sex, m.age_y, fat) : std::nullopt;
    out.push_back({QStringLiteral("G"), QStringLiteral("Is that good?"),
        place ? QStringLiteral("It is %1. A number is a starting point: what you do with your body, and how it goes "
                               "from here, says more.")
                    .arg(q(place->sentence))
              : QStringLiteral("There is no range for your age here, so we look at how it goes from test to test.")});
    const work::OwnGroup::Whom whom{m.method, m.sex, {}, r.history->client().id};
    out.push_back({QStringLiteral("W"), QStringLiteral("Compared with whom?"),
        (set && place ? QStringLiteral("The range is that of %1 (%2). ")
                            .arg(QString::fromUtf8(place->row.label), QString::fromUtf8(set->source))
                      : QString()) +
            standing_words(standing, whom, quantity::fat_percent)});
    out.push_back({QStringLiteral("H"), QStringLiteral("Why does my scale at home say something else?"),
        QStringLiteral("It reckons with other equations, mostly from the water in your legs, at another hour and with "
                       "another breakfast. Each way of measuring reads a little differently on the same body. Use one "
                       "way, at the same hour, and look at its change: never at the difference between two ways.")});
    QString eight = r.plan_stops;
    if (eight.isEmpty()) eight = work::no_plan(*r.history);
    if (eight.isEmpty()) eight = pace_words(r, unit);
    out.push_back({QStringLiteral("E"), QStringLiteral("Can I make it in eight weeks?"), eight});
    return out;
}

QString plan_sentence(const plan::Input& in, const Outcome<Result>& answer, const QDate& start)
{
    const auto weeks_words = [](int weeks) {
        return QStringLiteral("%1 week%2").arg(weeks).arg(weeks == 1 ? QString() : QStringLiteral("s"));
    };
    if (!answer) return q(answer.messages().front().text);
    const Result& r = *answer;
    if (!r.find(quantity::intake)) {
        QString out = q(answer.messages().back().text);
        if (const Value* nearest = r.find(quantity::nearest_fat_percent))
            if (const std::string& code = answer.messages().back().code;
                code != "target_under_healthy" && code != "arrival_too_low") // those name it themselves
                out += QStringLiteral(" The nearest that is safe: %1 % fat in %2.")
                           .arg(nearest->value, 0, 'f', 1)
                           .arg(weeks_words(in.weeks));
        return out;
    }
    return QStringLiteral("By %1 with %2 kcal a day: %3 kg a week (%4 % of body mass).")
        .arg(records::date_words(start.addDays(7 * in.weeks)))
        .arg(r[quantity::intake].value, 0, 'f', 0)
        .arg(pen::signed_number(r[quantity::pace].value, 2), pen::signed_number(r[quantity::pace_percent].value, 2));
}

QString progress_words(plan::Progress p)
{
    constexpr const char* words[] = {
        "not to be told from noise yet", "on the way", "ahead of the plan", "behind the plan"};
    return QString::fromLatin1(words[static_cast<int>(p)]);
}

QString way_sentence(const work::OnTheWay& one)
{
    return QStringLiteral("%1: %2 % measured, %3 % planned: %4%5.")
        .arg(records::date_words(one.measured->day))
        .arg(one.measured->result[quantity::fat_percent].value, 0, 'f', 1)
        .arg(one.planned_percent, 0, 'f', 1)
        .arg(progress_words(one.progress),
            one.comparable ? QString() : QStringLiteral(" (not comparable with the start)"));
}

PlanPicture plan_picture(const plan::Input& in, double intake, const QDate& start, int weeks_shown, double lsc)
{
    PlanPicture out;
    out.start = start;
    out.target_day = start.addDays(7 * in.weeks);
    out.way = plan::at_intake(in, intake, 7 * weeks_shown);
    out.band = plan::band(in, intake, 7 * weeks_shown);
    out.start_percent = 100 * in.body.fat_kg / in.body.mass_kg();
    const double lean = in.body.fat_free_kg;
    out.target_percent = in.aim == plan::Aim::fat_percent ? in.target
                         : in.aim == plan::Aim::mass_kg   ? 100 * (in.target - lean) / in.target
                                                          : 100 * in.target / (in.target + lean);
    out.lsc = lsc;
    return out;
}

void add_measured(PlanPicture& picture, const std::vector<work::OnTheWay>& way)
{
    for (const work::OnTheWay& one : way) {
        const Value& fat = one.measured->result[quantity::fat_percent];
        picture.since.push_back({one.measured->day, fat.value, fat.u_measurement()});
    }
}

BalancePicture balance_picture(const work::History& h, const std::string& method, const QDate& until)
{
    BalancePicture out;
    for (const work::Measurement& m : h.all()) {
        const Value *ffmi = m.result.find(quantity::ffmi), *fmi = m.result.find(quantity::fmi);
        if (m.method != method || !ffmi || !fmi || m.future || m.day > until) continue;
        out.sex = m.sex;
        out.adult = m.age_y >= 18;
        for (BalancePoint& before : out.path) before.u_ffmi = before.u_fmi = 0;
        out.path.push_back({ffmi->value, fmi->value, m.day.toString(QStringLiteral("MMM yyyy")), ffmi->u, fmi->u});
    }
    // where the path is long only its ends are named
    for (std::size_t i = 1; i + 1 < out.path.size(); ++i) out.path[i].label.clear();
    return out;
}

ChangePicture change_picture(const work::Series& s, int around, const look::Palette& c, const MassUnit& unit)
{
    ChangePicture out;
    out.around = around;
    out.unit = unit_of(*s.quantity, unit);
    out.decimals = s.quantity->decimals;
    out.factor = factor_of(*s.quantity, unit);
    const std::string_view id = s.quantity->id;
    const bool fat = id.find("fat_free") == std::string_view::npos && id.find("fat") != std::string_view::npos;
    out.ink = fat || s.quantity == &quantity::fmi || s.quantity == &quantity::skinfold_sum ? c.fat
              : id.find("water") != std::string_view::npos                                 ? c.water
              : id.find("bone") != std::string_view::npos                                  ? c.mineral
              : s.quantity == &quantity::body_mass || s.quantity->kind == UnitKind::length ? c.ink
                                                                                           : c.lean;
    for (int i = 0; i < static_cast<int>(s.points.size()); ++i) {
        const auto& point = s.series.points[static_cast<std::size_t>(i)];
        const work::Measurement& m = *s.points[static_cast<std::size_t>(i)];
        const change::Step step = s.step(std::min(i, around), std::max(i, around));
        QString detail = QStringLiteral("%1, %2 · %3")
                             .arg(records::date_words(m.day), m.at.toString(QStringLiteral("HH:mm")),
                                 value_words(*s.quantity, point.value, unit));
        if (i != around) detail += '\n' + change_sentence(s, step, unit);
        if (!m.recomputed_from.empty())
            detail +=
                QStringLiteral("\nReckoned anew under today's equations; told then with %1.").arg(q(m.recomputed_from));
        out.points.push_back({point.at_min / 1440, point.value, step.comparable(),
            i != around && s.repeatability && step.comparable() && step.verdict != change::Verdict::within_noise,
            s.repeatability ? step.lsc : 0, detail});
    }
    if (s.repeatability && s.changes.trend.per_week) out.trend = s.changes.trend;
    return out;
}

std::vector<BesideRow> beside_rows(const std::vector<const work::Measurement*>& day, const work::Measurement* main)
{
    std::vector<BesideRow> out;
    const auto add = [&](const work::Measurement* m) {
        if (const Value* fat = m->result.find(quantity::fat_percent))
            out.push_back(
                {work::title_of(m->method), m->at.toString(QStringLiteral("HH:mm")), fat->value, fat->u, m == main});
    };
    if (main) add(main);
    for (const work::Measurement* m : day)
        if (m != main) add(m);
    return out;
}

} // namespace fusain::report
