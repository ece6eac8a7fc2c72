// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/sheets/reading_pages.h"

#include "core/time/compare.h"
#include "records/base/clock.h"
#include "records/base/text.h"
#include "report/page/pen.h"
#include "report/words/caution_words.h"

#include <algorithm>

namespace fusain::report {
namespace {

using Kind = Block::Kind;

QString point(const QString& words) { return QStringLiteral("·  ") + words; }

struct Together {
    const compartments::Equation* equation;
    Result result;
};
/// By the default equation, or the first that the day allows.
std::optional<Together> together(const work::Ingredients& parts)
{
    const compartments::Equation* best = compartments::find(compartments::default_id);
    if (!parts.allow(*best)) {
        const auto rows = compartments::equations();
        const auto at = std::find_if(rows.begin(), rows.end(), [&](const auto& e) { return parts.allow(e); });
        if (at == rows.end()) return std::nullopt;
        best = &*at;
    }
    compartments::Input in = parts.input;
    in.equation = best->id;
    const auto told = compartments::compute(in);
    if (!told) return std::nullopt;
    return Together{best, *told};
}

/// The slide of this name, if it is told.
const report::Slide* slide(const std::vector<Slide>& slides, const char* id)
{
    const auto at =
        std::find_if(slides.begin(), slides.end(), [&](const Slide& s) { return s.id == QLatin1String(id); });
    return at == slides.end() ? nullptr : &*at;
}

void figure(Document& d, double height, const Slide& s, int em)
{
    d.figure(height,
        [paint = s.picture, em](QPainter& p, const QRectF& area, const look::Palette& c) { paint(p, area, c, em); });
}

/// The plan that runs, on paper: three weeks beyond its end.
PlanPicture running_plan(const work::Reading& r)
{
    const work::Plan& p = *r.plan;
    PlanPicture out = plan_picture(p.input, p.intake_kcal, QDate::fromString(p.day, Qt::ISODate), p.input.weeks + 3,
        r.history->lsc_to_come(quantity::fat_percent, p.method));
    add_measured(out, work::on_the_way(*r.history, p));
    return out;
}

} // namespace

void add_same_day(Document& d, const work::Reading& r)
{
    std::vector<const work::Measurement*> told;
    for (const work::Measurement* m : r.today)
        if (m->result.find(quantity::fat_percent)) told.push_back(m);
    if (told.size() < 2) return;
    d.add(Kind::heading, QStringLiteral("The same day, measured in other ways"));
    auto rows = beside_rows(told, r.main);
    const auto all = together(work::ingredients(r.today));
    if (all) {
        const Value& fat = all->result[quantity::fat_percent];
        rows.push_back({QStringLiteral("together"), QString::fromUtf8(all->equation->title), fat.value, fat.u, false});
    }
    d.figure(26.0 * static_cast<double>(rows.size()),
        [rows](QPainter& p, const QRectF& area, const look::Palette& c) { draw_beside(p, area, rows, c, 9); });
    d.add(Kind::sentence,
        QStringLiteral(
            "Each way reads a little differently on one body, within what its bar shows. They are never averaged, "
            "and the difference between two of them is no change in you.%1")
            .arg(all ? (all->equation->needs_water
                               ? QStringLiteral(" Taken together (%1) they assume less of the body; the water is an "
                                                "equation's, made on other people.")
                               : QStringLiteral(" Taken together (%1) they assume less than any one of them."))
                           .arg(all->equation->needs_water && all->equation->needs_bone
                                    ? QStringLiteral("volume, water and bone mineral")
                                : all->equation->needs_water ? QStringLiteral("volume and water")
                                                             : QStringLiteral("volume and bone mineral"))
                     : QString()));
    QStringList notes;
    for (const work::Measurement* m : told)
        if (m != r.main)
            for (const Message& one : m->messages)
                if (const QString words = QStringLiteral("%1: %2").arg(work::title_of(m->method), client_words(one));
                    !notes.contains(words))
                    notes << words;
    for (const QString& words : work::ingredients(r.today).differ) notes << words;
    for (const QString& words : notes) d.add(Kind::sentence, point(words));
}

bool has_course(const TalkAbout& about)
{
    const work::Reading& r = *about.reading;
    return r.main && (r.before || r.plan || about.told);
}

void add_course(Document& d, const TalkAbout& about)
{
    const work::Reading& r = *about.reading;
    const auto slides = talk(about);
    d.add(Kind::title, QStringLiteral("How it goes, and what comes next"));
    if (const Slide* change = slide(slides, "change")) {
        d.add(Kind::heading, QStringLiteral("Since last time"));
        d.add(Kind::sentence, change->sentence);
        if (change->picture) figure(d, 78, *change, 10);
        if (!change->more.isEmpty()) d.add(Kind::sentence, change->more);
        d.add(Kind::small,
            QStringLiteral("The hatched band is what measuring alone can give: what stays in it cannot be told "
                           "from noise."));
    }
    if (const Slide* balance = slide(slides, "balance"); balance && r.before) {
        d.add(Kind::heading, QStringLiteral("Muscle and fat, and your way so far"));
        figure(d, 165, *balance, 10);
        d.add(Kind::sentence, balance->sentence);
    }
    if (r.plan) {
        d.add(Kind::heading,
            QStringLiteral("The plan of %1").arg(records::date_words(QDate::fromString(r.plan->day, Qt::ISODate))));
        if (!r.plan_stops.isEmpty()) {
            d.add(Kind::sentence, QStringLiteral("It is not gone on with. %1").arg(r.plan_stops));
        } else {
            const plan::Input& in = r.plan->input;
            const PlanPicture picture = running_plan(r);
            d.add(Kind::sentence,
                QStringLiteral("%1 kcal a day, towards %2 % fat by %3. The band holds how much lean goes along, "
                               "and how far rest and activity may be off.")
                    .arg(r.plan->intake_kcal, 0, 'f', 0)
                    .arg(picture.target_percent, 0, 'f', 1)
                    .arg(records::date_words(picture.target_day)));
            d.figure(130, [picture](QPainter& p, const QRectF& area, const look::Palette& c) {
                draw_plan(p, area, picture, c, 10);
            });
            for (const work::OnTheWay& one : work::on_the_way(*r.history, *r.plan))
                d.add(Kind::sentence, point(QStringLiteral("%1: %2.").arg(records::date_words(one.measured->day),
                                          one.comparable ? progress_words(one.progress)
                                                         : QStringLiteral("not comparable with the start"))));
            d.add(Kind::small, QStringLiteral("Never under %1 kcal without a clinician. Ask a dietitian.")
                                   .arg(safe::least_intake_kcal(in.body.sex, plan::resting_kcal(in)), 0, 'f', 0));
        }
    }
    if (about.told) {
        if (!about.told->steps.isEmpty()) {
            d.add(Kind::heading, QStringLiteral("What we agreed on"));
            for (const QString& step : about.told->steps) d.add(Kind::sentence, point(step));
        }
        if (!about.told->note.isEmpty()) d.add(Kind::sentence, about.told->note);
    }
    if (const Slide* next = slide(slides, "next")) {
        d.add(Kind::heading, QStringLiteral("The next date"));
        d.add(Kind::sentence, next->sentence);
        d.add(Kind::small, next->more);
    }
}

void add_lab_reading(Document& d, const TalkAbout& about)
{
    const work::Reading& r = *about.reading;
    if (!r.main) return;
    const work::History& h = *r.history;
    if (r.today.size() > 1) {
        d.add(Kind::heading, QStringLiteral("The same day"));
        std::vector<QStringList> rows = {{"method", "at", "mass, kg", "% fat", "± u", "fat, kg", "fat-free, kg"}};
        const auto cells = [](const Result& result) {
            const Value *fat = result.find(quantity::fat_percent), *kg = result.find(quantity::fat_mass),
                        *lean = result.find(quantity::fat_free_mass);
            const auto figure_of = [](const Value* v, double u) {
                return v ? QString::number(u < 0 ? v->value : u, 'f', 1) : QStringLiteral("–");
            };
            return QStringList{
                figure_of(fat, -1), figure_of(fat, fat ? fat->u : 0), figure_of(kg, -1), figure_of(lean, -1)};
        };
        for (const work::Measurement* m : r.today)
            rows.push_back(QStringList{work::title_of(m->method), m->at.toString(QStringLiteral("HH:mm")),
                               QString::number(m->mass_kg, 'f', 2)} +
                           cells(m->result));
        const work::Ingredients parts = work::ingredients(r.today);
        for (const compartments::Equation& e : compartments::equations()) {
            if (!parts.allow(e)) continue;
            compartments::Input in = parts.input;
            in.equation = e.id;
            if (const auto told = compartments::compute(in))
                rows.push_back(QStringList{QStringLiteral("together, %1").arg(QString::fromUtf8(e.title)), QString(),
                                   QString::number(in.mass_kg, 'f', 2)} +
                               cells(*told));
        }
        d.table({3.4, 1, -1.2, -1, -1, -1.2, -1.4}, rows);
        for (std::size_t i = 0; i < r.today.size(); ++i)
            for (std::size_t k = i + 1; k < r.today.size(); ++k) {
                const auto a = method_of(r.today[i]->method), b = method_of(r.today[k]->method);
                const Value *x = r.today[i]->result.find(quantity::fat_percent),
                            *y = r.today[k]->result.find(quantity::fat_percent);
                if (!a || !b || !x || !y || a == b) continue;
                if (const auto beside = compare::beside(*a, x->value, *b, y->value))
                    d.add(Kind::sentence, point(q(beside->sentence)));
            }
        d.add(Kind::sentence, point(QString::fromLatin1(compare::no_change)));
        for (const QString& words : parts.differ) d.add(Kind::sentence, point(words));
    }
    for (const std::string& method : h.methods()) {
        std::vector<QStringList> rows = {{"quantity", "now", "since", "change", "± least significant", "verdict"}};
        QStringList said;
        for (const Quantity* what : h.quantities(method)) {
            const auto s = h.series(*what, method);
            if (!s || s->points.size() < 2) continue;
            const int last = static_cast<int>(s->points.size()) - 1;
            const change::Step step = s->step(last - 1, last);
            rows.push_back({QString::fromUtf8(what->title), value_words(*what, s->series.points.back().value),
                records::date_words(s->points[static_cast<std::size_t>(last) - 1]->day),
                step.change ? change_words(*what, *step.change) : QStringLiteral("–"),
                s->repeatability ? value_words(*what, step.lsc) : QStringLiteral("not known"),
                verdict_words(*s, step)});
            if (what == &quantity::fat_percent) {
                said << trend_sentence(*s);
                if (!step.comparable()) said << change_sentence(*s, step);
            }
        }
        if (rows.size() < 2) continue;
        d.add(Kind::heading, QStringLiteral("Change by %1").arg(work::title_of(method)));
        d.table({3.2, 1.6, 2, 1.6, 1.8, 2.6}, rows);
        for (const QString& words : said)
            if (!words.isEmpty()) d.add(Kind::sentence, words);
    }
    if (r.before)
        if (const auto moved = work::moved(h, *r.before, *r.main)) d.add(Kind::sentence, moved_sentence(*moved));
    if (r.energy) {
        d.add(Kind::heading, QStringLiteral("Energy, kcal a day"));
        std::vector<QStringList> rows = {{"rest by", "kcal", "source"}};
        for (const energy::School& s : energy::schools_for(r.energy_in.body.age_y))
            rows.push_back(
                {QString::fromUtf8(s.title) + (r.days.school == s.id ? QStringLiteral(" (chosen)") : QString()),
                    QString::number(s.kcal(r.energy_in.body), 'f', 0), QString::fromUtf8(s.source)});
        d.table({3, -1, 5}, rows);
        QString words = QStringLiteral("Activity level %1: %2 kcal a day.")
                            .arg(r.days.activity_level, 0, 'f', 2)
                            .arg((*r.energy)[quantity::daily].value, 0, 'f', 0);
        if (r.days.food_kcal)
            words += QStringLiteral(" Eaten, as the client tells it: %1 kcal.").arg(*r.days.food_kcal, 0, 'f', 0);
        d.add(Kind::sentence, words);
    }
    if (!h.entries().tapes.empty()) {
        const work::Tape& t = h.entries().tapes.back();
        d.add(Kind::heading,
            QStringLiteral("Folds and girths of %1, by %2").arg(records::date_words(t.day.toStdString()), t.measurer));
        std::vector<QStringList> rows = {{"site", "repeats", "counts"}};
        const auto add = [&](const auto& repeats, auto settle, const char* unit) {
            for (const auto& [site, values] : repeats) {
                QStringList each;
                for (const double v : values) each << QString::number(v, 'f', 1);
                rows.push_back({q(site).replace('_', ' '), each.join(QStringLiteral(" · ")),
                    QStringLiteral("%1 %2").arg(settle(values).value, 0, 'f', 1).arg(QLatin1String(unit))});
            }
        };
        add(t.folds_mm, skinfolds::settle_fold, "mm");
        add(t.girths_cm, skinfolds::settle_girth, "cm");
        d.table({3, 3, 2}, rows);
    }
    if (r.plan) {
        const plan::Input& in = r.plan->input;
        d.add(Kind::heading, QStringLiteral("Plan of %1, agreed with %2")
                                 .arg(records::date_words(r.plan->day.toStdString()), r.plan->who));
        d.add(Kind::sentence,
            QStringLiteral(
                "%1 kcal a day for %2 weeks; school of rest %3, activity %4, lean %5, range %6. From %7 kg fat "
                "and %8 kg fat-free by %9.")
                .arg(r.plan->intake_kcal, 0, 'f', 0)
                .arg(in.weeks)
                .arg(q(in.school))
                .arg(in.activity_level, 0, 'f', 2)
                .arg(q(in.lean), q(in.range))
                .arg(in.body.fat_kg, 0, 'f', 1)
                .arg(in.body.fat_free_kg, 0, 'f', 1)
                .arg(work::title_of(r.plan->method)));
        if (!r.plan_stops.isEmpty()) d.add(Kind::sentence, r.plan_stops);
        for (const work::OnTheWay& one : work::on_the_way(h, *r.plan)) d.add(Kind::sentence, point(way_sentence(one)));
    }
    if (about.told) {
        d.add(Kind::heading, QStringLiteral("Agreed, with %1").arg(about.told->who));
        for (const QString& step : about.told->steps) d.add(Kind::sentence, point(step));
        if (!about.told->note.isEmpty()) d.add(Kind::sentence, about.told->note);
    }
}

} // namespace fusain::report
