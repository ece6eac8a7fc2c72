// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/reading/talk.h"

#include "core/body/reference.h"
#include "core/quality/judgement.h"
#include "records/base/clock.h"
#include "report/words/caution_words.h"
#include "report/words/method_words.h"
#include "report/words/phrases.h"

#include <algorithm>

namespace fusain::report {
namespace {

QStringList notes_of(const Messages& messages)
{
    QStringList out;
    for (const Message& one : messages)
        if (const QString words = client_words(one); !out.contains(words)) out << words;
    return out;
}

Slide sure(const work::Measurement& m, const std::string& range)
{
    const Value& fat = m.result[quantity::fat_percent];
    const QStringList notes = notes_of(m.messages);
    const double value = fat.value, u = fat.u;
    const Sex sex = m.sex;
    const double age = m.age_y;
    const auto* set = reference::find(range);
    return {QStringLiteral("sure"),
        QStringLiteral("Today we measured you by %1: fat is %2.").arg(work::title_of(m.method), likely_range(value, u)),
        notes.isEmpty() ? QStringLiteral("Two times out of three the true value lies in there.") : notes.join('\n'),
        [=](QPainter& p, const QRectF& area, const look::Palette& c, int em) {
            const QRectF strip(area.left(), area.center().y() - 3.5 * em, area.width(), 7.0 * em);
            draw_range(p, strip, value, u, set ? reference::place(*set, sex, age, value) : std::nullopt, c, em);
        }};
}

Slide made_of(const work::Measurement& m, const MassUnit& unit)
{
    const double fat = m.result[quantity::fat_mass].value, lean = m.result[quantity::fat_free_mass].value;
    QStringList parts;
    std::vector<Rung> ladder;
    const auto part = [&](const char* title, const char* words, double kg, double u, Tissue tissue) {
        Rung r;
        r.title = title;
        r.size = kg;
        r.u = u;
        r.weighed = true;
        r.tissue = tissue;
        ladder.push_back(r);
        parts << QStringLiteral("%1 %2 %3").arg(kg * unit.per_kg, 0, 'f', 1).arg(unit.word, QString::fromUtf8(words));
    };
    // water only where it was measured; it weighs 0.994 kg a litre
    if (const Value* water = m.result.find(quantity::total_body_water)) {
        const double kg = water->value * compartments::water_kg_per_l;
        part("water", "water", kg, water->u, Tissue::water);
        part("the rest of lean", "muscle, organs and bone without their water", lean - kg, water->u, Tissue::lean);
    } else if (const Value* bone = m.result.find(quantity::bone_mineral)) {
        part("bone mineral", "bone mineral", bone->value, bone->u, Tissue::mineral);
        part("lean", "muscle, water and organs", lean - bone->value, m.result[quantity::fat_free_mass].u, Tissue::lean);
    } else {
        part("all but fat", "muscle, water, bone and organs", lean, m.result[quantity::fat_free_mass].u, Tissue::lean);
    }
    part("fat", "fat", fat, m.result[quantity::fat_mass].u, Tissue::fat);
    Rung all;
    all.title = "together";
    all.size = fat + lean;
    all.total = true;
    all.weighed = true;
    ladder.push_back(all);
    const QString last = parts.takeLast();
    return {QStringLiteral("sum"),
        QStringLiteral("Your %1 %2 are made of %3 and %4.")
            .arg((fat + lean) * unit.per_kg, 0, 'f', 1)
            .arg(unit.word, parts.join(QStringLiteral(", ")), last),
        {}, [ladder, unit](QPainter& p, const QRectF& area, const look::Palette& c, int em) {
            const double height = std::min(area.height(), 3.4 * em * static_cast<double>(ladder.size()));
            draw_ladder(p, QRectF(area.left(), area.top() + (area.height() - height) / 2, area.width(), height), ladder,
                c, em, unit);
        }};
}

/// Good news first; what is noise is said to be where it was.
std::optional<Slide> changed(const work::Reading& r, const MassUnit& unit)
{
    if (!r.before) return std::nullopt;
    const work::History& h = *r.history;
    const bool may_fall = work::no_plan(h).isEmpty() && !safe::why_no_loss(r.energy_in.body);
    const auto last = work::moved(h, *r.before, *r.main);
    const auto first = r.first != r.before ? work::moved(h, *r.first, *r.main) : std::nullopt;
    Slide s;
    s.id = QStringLiteral("change");
    if (!last && !first) {
        s.sentence = QStringLiteral("Today cannot be compared cleanly with last time.");
        if (const auto series = h.series(quantity::fat_percent, r.main->method)) {
            const int n = static_cast<int>(series->points.size());
            for (int i = 0; i + 1 < n; ++i)
                if (series->points[static_cast<std::size_t>(i)] == r.before)
                    for (int k = i + 1; k < n; ++k)
                        if (series->points[static_cast<std::size_t>(k)] == r.main)
                            s.more = why_words(series->step(i, k).why, *r.before, *r.main).join(QStringLiteral("; "));
        }
        if (!s.more.isEmpty()) s.more[0] = s.more[0].toUpper(), s.more += '.';
        return s;
    }
    const change::Moved& shown = last ? *last : *first;
    s.sentence = QStringLiteral("Since %1: %2").arg(records::date_words(last ? r.before->day : r.first->day), [&] {
        QString words = moved_for_client(shown, may_fall, unit);
        words[0] = words[0].toLower();
        return words;
    }());
    if (last && first)
        s.more = QStringLiteral("Since your first test, %1: %2")
                     .arg(records::date_words(r.first->day), moved_for_client(*first, may_fall, unit));
    s.picture = [shown, unit](QPainter& p, const QRectF& area, const look::Palette& c, int em) {
        const double height = std::min(area.height(), 12.0 * em);
        draw_moved(p, QRectF(area.left(), area.top() + (area.height() - height) / 2, area.width(), height), shown, c,
            em, unit);
    };
    return s;
}

Slide energy_slide(const work::Reading& r)
{
    const double rest = (*r.energy)[quantity::resting].value, daily = (*r.energy)[quantity::daily].value;
    std::vector<DayCost> costs;
    for (const energy::Day& d : energy::days)
        costs.push_back({QString::fromUtf8(d.title), d.activity_level * rest, false});
    costs.push_back({QStringLiteral("your day"), daily, true});
    const auto food = r.days.food_kcal;
    const auto tens = [](double kcal) { return QString::number(10 * std::round(kcal / 10), 'f', 0); };
    return {QStringLiteral("energy"),
        QStringLiteral("Lying in bed all day costs you about %1 kcal; your day about %2.").arg(tens(rest), tens(daily)),
        QStringLiteral("Eating less than lying in bed costs takes more than fat, and makes the days harder. How far up "
                       "you can eat "
                       "without going backwards is the better question."),
        [=](QPainter& p, const QRectF& area, const look::Palette& c, int em) {
            const double height = std::min(area.height(), 2.6 * em * static_cast<double>(costs.size()) + 2.0 * em);
            draw_days(p, QRectF(area.left(), area.top() + (area.height() - height) / 2, area.width(), height), rest,
                costs, food, c, em);
        }};
}

} // namespace

QString quiet_words(const work::Measurement& m)
{
    return QStringLiteral("You were measured by %1, and what was measured is kept here. No number is told.")
        .arg(work::title_of(m.method));
}

std::vector<Slide> talk(const TalkAbout& about)
{
    const work::Reading& r = *about.reading;
    if (!r.main)
        return {{QStringLiteral("nothing"), QStringLiteral("There is no result to tell yet."),
            QStringLiteral("A test that tells fat and fat-free mass comes first."), {}}};
    const work::Measurement& m = *r.main;
    const bool quiet = r.history->without_numbers();
    std::vector<Slide> out;
    if (quiet)
        out.push_back({QStringLiteral("quiet"), quiet_words(m), notes_of(m.messages).join('\n'), {}});
    else
        out = {sure(m, r.range), made_of(m, about.unit)};
    if (const QString balance = balance_sentence(m); !quiet && !balance.isEmpty()) {
        const BalancePicture picture = balance_picture(*r.history, m.method, r.day);
        out.push_back({QStringLiteral("balance"), balance,
            QStringLiteral("To the right is more of what carries you, down is less fat; the line is your way so far."),
            [picture](QPainter& p, const QRectF& area, const look::Palette& c, int em) {
                draw_balance(p, area, picture, c, em);
            }});
    }
    if (about.visit && !quiet) {
        const MethodWords& words = words_of(*about.visit);
        const auto result = about.visit->result();
        const QString title = result ? words.picture.title(*about.visit, &*result) : QString();
        if (result && words.picture.on_sheets && !title.isEmpty()) {
            const auto copy = std::make_shared<Result>(*result);
            const QString where = words.where ? words.where(*about.visit, *result) : QString();
            const double rows = words.picture.rows(*about.visit, &*result);
            out.push_back({QStringLiteral("where"), where.isEmpty() ? title + '.' : where,
                QStringLiteral(
                    "A side that is behind is something to train, or an old injury to tell us of: nothing more."),
                [copy, visit = about.visit, draw = words.picture.draw, unit = about.unit, rows](
                    QPainter& p, const QRectF& area, const look::Palette& c, int em) {
                    const int fits = std::max(8, std::min(em, static_cast<int>(area.height() / rows)));
                    draw(p, area, *visit, copy.get(), c, fits, unit);
                }});
        }
    }
    if (auto change = quiet ? std::nullopt : changed(r, about.unit)) out.push_back(*change);
    if (r.energy && !quiet) out.push_back(energy_slide(r));
    const QString why_not = work::no_plan(*r.history);
    Slide steps{QStringLiteral("steps"), QStringLiteral("One to three things to do until next time, in your words."),
        why_not, {}};
    if (about.told && !about.told->steps.isEmpty()) {
        steps.sentence = QStringLiteral("Agreed:");
        QStringList lines;
        for (const QString& one : about.told->steps) lines << QStringLiteral("·  ") + one;
        steps.more = lines.join('\n');
    }
    out.push_back(steps);
    const bool booked = !about.next_visit.isEmpty();
    out.push_back({QStringLiteral("next"),
        booked ? QStringLiteral("We see you again on %1.").arg(about.next_visit)
               : QStringLiteral("The next test makes sense %1.")
                     .arg(next_dates(*method_of(m.method), r.day.toString(Qt::ISODate).toStdString(), {})),
        QStringLiteral(
            "Sooner, a real change would be lost in the doubt. Same hour, same preparation. This is no medical "
            "diagnosis: talk to a physician or registered dietitian before changing diet, training or "
            "medicine."),
        {}});
    return out;
}

} // namespace fusain::report
