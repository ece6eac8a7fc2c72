// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/sheets/sheets.h"

#include "bench/density/density_state.h"
#include "core/body/plan.h"
#include "core/body/reference.h"
#include "core/quality/judgement.h"
#include "core/telling/telling.h"
#include "records/base/clock.h"
#include "records/base/text.h"
#include "report/words/catalogue.h"
#include "report/words/caution_words.h"
#include "report/page/figures.h"
#include "report/reading/reading_words.h"
#include "report/reading/talk.h"
#include "report/sheets/reading_pages.h"
#include "report/words/method_words.h"
#include "version.h"

#include <QDateTime>
#include <QLocale>
#include <QTimeZone>

#include <cmath>

namespace fusain::report {
namespace {

using Kind = Block::Kind;

QString view(std::string_view s) { return QString::fromUtf8(s.data(), static_cast<qsizetype>(s.size())); }
const QString closing = QStringLiteral("This is not a medical diagnosis. Talk to a physician or registered dietitian "
                                       "before changing diet, training or medicine. "
                                       "Local rules and licensed practice decide what this lab may do.");

/// The day of a moment in the lab's zone, ISO. Visits from before the zone was kept show the day as it stands in their
/// log.
std::string day_of(const std::string& iso_utc, const bench::Visit& v)
{
    if (v.zone.empty()) return iso_utc;
    return QDateTime::fromString(q(iso_utc), Qt::ISODateWithMs)
        .toTimeZone(QTimeZone(QByteArray::fromStdString(v.zone)))
        .date()
        .toString(Qt::ISODate)
        .toStdString();
}

std::optional<reference::Place> place_of(const bench::Visit& v, double fat_percent)
{
    const auto* set = reference::find(v.range);
    return set ? reference::place(*set, v.subject.sex, v.age_y(), fat_percent) : std::nullopt;
}

/// Cautions in plain words, each once.
QStringList notes(const Messages& messages)
{
    QStringList out;
    for (const Message& m : messages)
        if (const QString words = client_words(m); !out.contains(words)) out << words;
    return out;
}

/// What went well, and what to work on: at most three points.
QStringList points(const bench::Visit& v, const Result& r, const Messages& messages,
    const std::optional<reference::Place>& place, const TalkAbout* about)
{
    QStringList out;
    const energy::Body body{
        v.subject.sex, v.age_y(), v.height_cm(), r[quantity::fat_mass].value, r[quantity::fat_free_mass].value};
    const bool again = std::any_of(messages.begin(), messages.end(), judgement::asks_again);
    out << (again ? QStringLiteral(
                        "Take this number as a first look: we would measure again before anything is built on it.")
                  : words_of(v).agreement(v, r));
    const telling::Reserved reserved = telling::reserved(body, v.pregnant, messages);
    switch (reserved.why) {
    case telling::Reserve::none: break;
    case telling::Reserve::growing:
        return out << QStringLiteral("You are still growing: we look at how you grow, and plan nothing about weight.");
    case telling::Reserve::expecting:
        return out << QStringLiteral(
                   "You are expecting, or may be: the number is recorded, and nothing about weight is "
                   "planned from it. Your midwife or physician is the one to ask.");
    case telling::Reserve::caution: return out << client_words(*reserved.caution);
    case telling::Reserve::at_minimum:
        return out << QStringLiteral(
                   "This is at or under the level the body needs for health (about %1 %). Please talk to a "
                   "clinician; we plan no further loss.")
                          .arg(judgement::least_fat_percent(v.subject.sex), 0, 'f', 0);
    }
    const double most_a_week_kg = plan::most_loss_kg_per_week(body.mass_kg());
    switch (telling::aim(body, place, about && !work::no_plan(*about->reading->history).isEmpty())) {
    case telling::Aim::none: break;
    case telling::Aim::keep_it:
        out << QStringLiteral("You are inside the range you asked to be compared with. Keeping it is a good aim.");
        break;
    case telling::Aim::come_closer:
        out << QStringLiteral(
            "If you want to come closer to the range, %1 of fat a week is a good pace; more than %2 is "
            "not.")
                   .arg(value_words(quantity::fat_mass, most_a_week_kg / 2),
                       value_words(quantity::fat_mass, most_a_week_kg));
        break;
    case telling::Aim::eat_enough:
        out << QStringLiteral(
            "You are under the range you asked to be compared with. Eating enough for your work matters most.");
        break;
    }
    out << QStringLiteral("Look at fat mass and fat-free mass together: the percentage alone moves when either does.");
    return out;
}

/// Lean and fat are told by part of the body.
bool tells_where(const Result& r)
{
    return r.find(quantity::segment_scale) || r.find(quantity::region_fat[0]) || r.find(quantity::region_fat[3]);
}

QString codes_words(const std::vector<std::string>& codes)
{
    QStringList out;
    for (const std::string& code : codes) out << q(code).replace('_', ' ');
    return out.join(QStringLiteral(", "));
}

} // namespace

QString fate(const bench::Visit& v, const bench::Trial& t, const Outcome<Result>& result)
{
    if (t.status != bench::Trial::Status::taken)
        return QStringLiteral("%1: %2").arg(QString::fromLatin1(word(t.status)), q(t.reason));
    const auto numbers = v.reading_numbers();
    if (result)
        for (int i : result->used)
            if (numbers[static_cast<std::size_t>(i)] == t.number)
                return t.source == "line" ? QStringLiteral("counts") : QStringLiteral("counts, %1").arg(q(t.source));
    return QStringLiteral("taken, not counted by the rule");
}

Document client_sheet(
    const bench::Visit& v, const QString& lab_name, const QString& comparability, const TalkAbout* about)
{
    Document d;
    d.text_scale = 1.2;
    const auto result = v.result();
    d.title = QStringLiteral("Body composition of %1, %2")
                  .arg(q(v.subject.name), records::date_words(day_of(v.started_at, v)));
    d.header = QStringLiteral("%1   ·   %2   ·   %3, %4")
                   .arg(lab_name, q(v.subject.name), records::date_words(day_of(v.started_at, v)),
                       time_words(v.started_at, v.zone));
    d.footer =
        QStringLiteral("Fusain %1 · visit of client %2").arg(QStringLiteral(FUSAIN_VERSION), q(v.subject.number));
    if (!result) {
        d.add(Kind::title, QStringLiteral("No result yet"));
        d.add(Kind::sentence, q(result.messages().front().text));
        return d;
    }
    const Result& r = *result;
    const double fat = r[quantity::fat_percent].value, u = r.budget(quantity::fat_percent).u;
    const auto place = place_of(v, fat);
    const auto* set = reference::find(v.range);

    d.add(Kind::title, QStringLiteral("%1 % of your body is fat").arg(number(fat, 1)));
    d.add(Kind::lead,
        QStringLiteral("It is %1: two times out of three the true value lies in there.").arg(likely_range(fat, u)));
    d.figure(84,
        [=](QPainter& p, const QRectF& area, const look::Palette& c) { draw_range(p, area, fat, u, place, c, 11); });
    d.add(Kind::sentence,
        place ? QStringLiteral(
                    "That is %1. The range comes from %2; it describes healthy adults and is a guide, not a grade.")
                    .arg(q(place->sentence), QString::fromUtf8(set->source))
              : QStringLiteral("The chosen reference has no range for your age and sex, so none is shown."));

    if (const QStringList cautions = notes(result.messages()); !cautions.isEmpty()) {
        d.add(Kind::heading, QStringLiteral("Please note"));
        for (const QString& words : cautions) d.add(Kind::sentence, QStringLiteral("·  ") + words);
    }

    d.add(Kind::heading, QStringLiteral("What your %1 kg are made of").arg(number(*v.mass_kg, 1)));
    const double fat_kg = r[quantity::fat_mass].value, lean_kg = r[quantity::fat_free_mass].value;
    d.figure(44,
        [=](QPainter& p, const QRectF& area, const look::Palette& c) { draw_split(p, area, fat_kg, lean_kg, c, 12); });
    d.add(Kind::sentence,
        QStringLiteral("%1 kg fat and %2 kg everything else: muscle, water, bone and organs (each within about %3 kg). "
                       "Together they make %4 kg.")
            .arg(number(fat_kg, 1), number(lean_kg, 1), number(std::ceil(10 * r[quantity::fat_mass].u) / 10, 1),
                number(*v.mass_kg, 1)));

    if (const auto& picture = words_of(v).picture; picture.on_sheets && tells_where(r)) {
        d.add(Kind::heading, picture.title(v, &r));
        const auto copy = std::make_shared<std::pair<bench::Visit, Result>>(v, r);
        d.figure(11 * picture.rows(v, &r),
            [copy, draw = picture.draw](QPainter& p, const QRectF& area, const look::Palette& c) {
                draw(p, area, copy->first, &copy->second, c, 11, {});
            });
        if (const auto where = words_of(v).where) d.add(Kind::sentence, where(v, r));
    }

    if (about) add_same_day(d, *about->reading);

    d.add(Kind::heading, QStringLiteral("To take home"));
    for (const QString& point : points(v, r, result.messages(), place, about))
        d.add(Kind::sentence, QStringLiteral("·  ") + point);

    const bool more = about && has_course(*about);
    if (more) {
        d.gap(6);
        d.add(Kind::small, closing);
        d.next_page();
        add_course(d, *about);
    }
    d.add(Kind::heading, QStringLiteral("Where the number came from"));
    d.add(Kind::sentence, QStringLiteral("%1.").arg(words_of(v).how(v, r)));
    d.add(Kind::sentence,
        QStringLiteral("What would change it: %1. "
                       "What it cannot say: %2how fit you are, or how you are as a "
                       "person. A number is a starting point, not a verdict.")
            .arg(words_of(v).sensitivity(v), tells_where(r) ? QString() : QStringLiteral("where the fat is, ")));

    if (!comparability.isEmpty()) d.add(Kind::sentence, comparability);

    if (more) return d; // the next date stands with the plan
    d.add(Kind::heading, QStringLiteral("Next time"));
    d.add(Kind::sentence, QStringLiteral("Come again %1. Sooner, a real change would be lost in the doubt. Same hour, "
                                         "same preparation, same clothes, so that the two can be compared.")
                              .arg(next_dates(v.method, day_of(v.started_at, v), v.house)));
    d.gap(6);
    d.add(Kind::small, closing);
    return d;
}

Document quiet_sheet(const bench::Visit& v, const QString& lab_name, const TalkAbout& about)
{
    Document d;
    d.text_scale = 1.2;
    const QString day = records::date_words(day_of(v.started_at, v));
    d.title = QStringLiteral("Test of %1, %2").arg(q(v.subject.name), day);
    d.header = QStringLiteral("%1   ·   %2   ·   %3, %4")
                   .arg(lab_name, q(v.subject.name), day, time_words(v.started_at, v.zone));
    d.footer =
        QStringLiteral("Fusain %1 · visit of client %2").arg(QStringLiteral(FUSAIN_VERSION), q(v.subject.number));
    d.add(Kind::title, QStringLiteral("Your test of %1").arg(day));
    d.add(Kind::lead, quiet_words(*about.reading->main));
    if (const QStringList cautions = notes(about.reading->main->messages); !cautions.isEmpty()) {
        d.add(Kind::heading, QStringLiteral("Please note"));
        for (const QString& words : cautions) d.add(Kind::sentence, QStringLiteral("·  ") + words);
    }
    if (about.told && !about.told->steps.isEmpty()) {
        d.add(Kind::heading, QStringLiteral("What we agreed on"));
        for (const QString& step : about.told->steps) d.add(Kind::sentence, QStringLiteral("·  ") + step);
    }
    d.add(Kind::heading, QStringLiteral("Next time"));
    d.add(Kind::sentence,
        about.next_visit.isEmpty()
            ? QStringLiteral("Come again %1.").arg(next_dates(v.method, day_of(v.started_at, v), v.house))
            : QStringLiteral("We see you again on %1.").arg(about.next_visit));
    d.add(Kind::sentence,
        QStringLiteral("If you would like to see the numbers one day, or hear more of them, tell us: they are yours."));
    d.gap(6);
    d.add(Kind::small, closing);
    return d;
}

Document lab_sheet(const bench::Visit& v, const QString& lab_name, const QString& comparability)
{
    Document d;
    d.title = QStringLiteral("Lab sheet, client %1, %2")
                  .arg(q(v.subject.number), records::date_words(day_of(v.started_at, v)));
    d.header =
        QStringLiteral("%1   ·   %3, lab sheet   ·   client %2").arg(lab_name, q(v.subject.number), q(v.row().name));
    d.footer = QStringLiteral("%1 · sheet by fusain %2")
                   .arg(v.row().origin == bench::Origin::elsewhere ? QStringLiteral("told elsewhere")
                        : v.row().origin == bench::Origin::printed
                            ? QStringLiteral("computed by the instrument, kept with %1").arg(q(v.software))
                            : QStringLiteral("measured with %1").arg(q(v.software)),
                       QStringLiteral(FUSAIN_VERSION));
    const auto result = v.result();
    d.add(Kind::title, q(v.subject.name));
    d.add(Kind::lead, QStringLiteral("%1, %2 · %3, %4 y · technician %5")
                          .arg(records::date_words(day_of(v.started_at, v)), time_words(v.started_at, v.zone),
                              QString::fromLatin1(word(v.subject.sex)), number(v.age_y(), 1), q(v.technician)));

    if (!v.stop_reasons.empty()) {
        d.add(Kind::heading, QStringLiteral("Stopped for safety"));
        for (const std::string& id : v.stop_reasons)
            d.add(Kind::sentence, QStringLiteral("·  ") + hydrostatic_questions().text(id));
        return d;
    }
    if (!result) {
        d.add(Kind::sentence, QStringLiteral("No result: %1").arg(q(result.messages().front().text)));
    } else {
        const Result& r = *result;
        d.add(Kind::heading,
            QStringLiteral("%1 % fat ± %2 (standard uncertainty: %5); 95 % range %3 to %4 %")
                .arg(number(r[quantity::fat_percent].value, 1), number(r.budget(quantity::fat_percent).u, 1),
                    number(r[quantity::fat_percent].value - 1.96 * r.budget(quantity::fat_percent).u, 1),
                    number(r[quantity::fat_percent].value + 1.96 * r.budget(quantity::fat_percent).u, 1),
                    doubt_words(v, r[quantity::fat_percent])));
        const std::vector<Rung> ladder = r.ladder;
        d.figure(130,
            [ladder](QPainter& p, const QRectF& area, const look::Palette& c) { draw_ladder(p, area, ladder, c, 8); });

        if (const auto& picture = words_of(v).picture; picture.on_sheets && !picture.title(v, &r).isEmpty()) {
            d.add(Kind::heading, picture.title(v, &r));
            const auto copy = std::make_shared<std::pair<bench::Visit, Result>>(v, r);
            d.figure(8 * picture.rows(v, &r),
                [copy, draw = picture.draw](QPainter& p, const QRectF& area, const look::Palette& c) {
                    draw(p, area, copy->first, &copy->second, c, 8, {});
                });
        }

        d.add(Kind::heading, QStringLiteral("Every step"));
        std::vector<QStringList> rows = {{"", "symbol", "what", "value", "± u", "unit", "from"}};
        for (const StoryStep& s : r.story)
            rows.push_back({QString::fromLatin1(word(s.kind)), q(s.symbol), q(s.title), number(s.value, s.decimals),
                s.u > 0 ? number(s.u, std::min(s.decimals + 1, 5)) : QString(), q(s.unit), q(s.source)});
        d.table({1.4, 1.1, 3.0, -1.4, -1.2, 0.9, 5.2}, rows);

        d.add(Kind::heading, QStringLiteral("Where the doubt comes from"));
        QStringList heads = {"input", "value", "± u", "unit", "share in % fat"};
        for (const Doubt& doubt : r.doubts)
            heads << QStringLiteral("± %1, %2")
                         .arg(QString::fromUtf8(doubt.quantity->title).toLower(),
                             QString::fromUtf8(doubt.quantity->unit));
        rows = {heads};
        for (const auto& s : r.budget(quantity::fat_percent).shares) {
            QStringList cells = {view(s.input.title), number(s.input.value, 3), number(s.input.u, 4),
                view(s.input.unit), QStringLiteral("%1 %").arg(100 * s.fraction, 0, 'f', 1)};
            for (const Doubt& doubt : r.doubts)
                for (const auto& same : doubt.budget.shares)
                    if (same.input.symbol == s.input.symbol)
                        cells << number(same.u, std::min(doubt.quantity->decimals + 1, 5));
            rows.push_back(cells);
        }
        d.table({2.6, -1.2, -1.1, 0.9, -1.1, -1.5, -1.2, -1.1, -1.3}, rows);

        if (!result.messages().empty()) {
            d.add(Kind::heading, QStringLiteral("Cautions"));
            for (const Message& m : result.messages()) d.add(Kind::sentence, QStringLiteral("·  ") + q(m.text));
            for (const bench::Acknowledgement& a : v.acknowledgements)
                d.add(Kind::sentence, QStringLiteral("·  seen by %1, %2 %3, and given out all the same (%4)")
                                          .arg(q(a.who), records::date_words(day_of(a.at_utc, v)),
                                              time_words(a.at_utc, v.zone), codes_words(a.codes)));
        }
    }

    words_of(v).details(d, v, result);
    d.add(Kind::sentence, QStringLiteral("Screening: %1.")
                              .arg(v.stops_asked ? QStringLiteral("every stop question asked, none applied")
                                                 : QStringLiteral("not done")));
    if (v.note_words.empty())
        for (const std::string& id : v.notes)
            d.add(Kind::sentence, QStringLiteral("·  noted: ") + hydrostatic_questions().text(id));
    for (const std::string& words : v.note_words) d.add(Kind::sentence, QStringLiteral("·  noted: ") + q(words));
    if (!comparability.isEmpty())
        d.add(Kind::sentence, comparability);
    else if (!v.comparability.empty())
        d.add(Kind::sentence, QStringLiteral("Before the test: %1").arg(q(v.comparability)));
    for (const bench::Reopening& r : v.reopenings)
        d.add(Kind::sentence,
            QStringLiteral("Opened again by %1, %2 %3: %4.")
                .arg(q(r.who), records::date_words(day_of(r.at_utc, v)), time_words(r.at_utc, v.zone), q(r.reason)));
    if (!v.instrument.empty()) d.add(Kind::sentence, QStringLiteral("Instrument %1.").arg(q(v.instrument)));
    d.add(Kind::heading, QStringLiteral("Chosen"));
    std::vector<QStringList> rows = {{"what", "now", "changed by", "when", "before"}};
    const auto chosen = [&](const char* what, const QString& now) {
        QString who, when, before;
        for (const bench::Choice& c : v.choices)
            if (c.what == what) {
                who = q(c.who);
                when = records::date_words(day_of(c.at_utc, v)) + ' ' + time_words(c.at_utc, v.zone);
                before = q(c.from);
            }
        rows.push_back({QString::fromLatin1(what).replace('_', ' '), now, who, when, before});
    };
    for (const auto& [what, now] : words_of(v).choices(v)) chosen(what, now);
    chosen("range", q(v.range));
    d.table({1.4, 2.4, 1.6, 2.2, 2.0}, rows);
    d.add(Kind::small, QStringLiteral("Made from the log of the visit. %1").arg(closing));
    return d;
}

} // namespace fusain::report
