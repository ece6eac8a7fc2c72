// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/precision/study_words.h"

#include "bench/visit/methods.h"
#include "core/quality/distributions.h"
#include "core/quality/quality.h"
#include "records/base/clock.h"
#include "records/base/text.h"
#include "report/page/pen.h"
#include "version.h"

#include <QDir>

#include <algorithm>

namespace fusain::report {
namespace {

using work::StudyKind;

QString title(const Quantity& of)
{
    const QString words = QString::fromUtf8(of.title);
    return words;
}

QString of_what(const work::Study& s, const work::Lab& lab)
{
    const auto name = [&](const QString& serial) { return lab.instrument_name(serial.toStdString()); };
    switch (s.design.kind) {
    case StudyKind::repeats: return QStringLiteral("Repeats on %1").arg(name(s.design.instrument));
    case StudyKind::days: return QStringLiteral("Repeats over days on %1").arg(name(s.design.instrument));
    case StudyKind::instruments:
        return QStringLiteral("%1 beside %2").arg(name(s.design.second), name(s.design.instrument));
    default:
        return QStringLiteral("%1 after the repair of %2")
            .arg(name(s.design.instrument), records::date_words(s.design.repaired_on));
    }
}

/// How far apart the two are counted, by the study's kind: "second less first".
QString sides(const work::Study& s)
{
    return s.design.kind == StudyKind::repair ? QStringLiteral("after less before")
                                              : QStringLiteral("second less first");
}

QString signed_words(const Quantity& of, double v, double like)
{
    const QString size = spread_words(of, like), unit = QString::fromUtf8(of.unit);
    const QString digits = size.section(' ', 0, 0);
    const qsizetype point = digits.indexOf('.');
    return QStringLiteral("%1 %2")
        .arg(pen::signed_number(v, point < 0 ? 0 : static_cast<int>(digits.size() - point - 1)), unit)
        .trimmed();
}

} // namespace

QString spread_words(const Quantity& of, double spread)
{
    return QStringLiteral("%1 %2")
        .arg(q(quality::spread_text(spread, of.decimals)), QString::fromUtf8(of.unit))
        .trimmed();
}

QString study_line(const work::Study& s, const work::Lab& lab)
{
    const QString what = of_what(s, lab);
    if (!s.given_up.isEmpty()) return QStringLiteral("%1: given up (%2)").arg(what, s.given_up);
    if (s.open())
        return QStringLiteral("%1, since %2: %3 of %4 people, under way")
            .arg(what, records::date_words(s.begun_on))
            .arg(s.whole_people())
            .arg(s.design.people);
    return QStringLiteral("%1, used since %2: %3 people")
        .arg(what, records::date_words(s.closed_on))
        .arg(s.people.size());
}

QString next_words(const work::Study& s, const work::Lab& lab)
{
    if (!s.given_up.isEmpty()) return QStringLiteral("Given up: %1.").arg(s.given_up);
    if (!s.open())
        return s.compares() ? QStringLiteral("Closed by %1: tests on both are read as it says.").arg(s.closed_by)
                            : QStringLiteral("In use since %1, closed by %2: the bands of change stand on it.")
                                  .arg(records::date_words(s.closed_on), s.closed_by);
    const auto on = [&](long client) { return lab.instrument_name(s.next_instrument(client).toStdString()); };
    if (s.awaited)
        for (std::size_t i = 0; i < s.clients.size(); ++i)
            if (s.clients[i] == s.awaited->client_id)
                return QStringLiteral("%1 is at %2: the repeat joins by itself when it is finished.")
                    .arg(s.people[i], on(s.clients[i]));
    if (const auto next = s.next_person(lab.today())) {
        const QString name = s.people[static_cast<std::size_t>(*next)];
        if (s.compares())
            return QStringLiteral("%1 next: %2 is missing.")
                .arg(name, s.design.kind == StudyKind::instruments
                               ? QStringLiteral("a test on %1").arg(on(s.clients[static_cast<std::size_t>(*next)]))
                           : s.count(*next, 0) ? QStringLiteral("a test after the repair")
                                               : QStringLiteral("a test before the repair"));
        return (s.design.kind == StudyKind::days ? QStringLiteral("%1 again, today: repeat %2 of %3.")
                                                 : QStringLiteral("%1 again: repeat %2 of %3, placed anew."))
            .arg(name)
            .arg(s.count(*next) + 1)
            .arg(s.design.times);
    }
    const int people = s.whole_people();
    if (people >= s.design.people)
        return QStringLiteral("Everybody is measured. Look at what stands out, then use it.");
    if (static_cast<int>(s.people.size()) >= s.design.people)
        return QStringLiteral("Everybody has had a repeat today, %1 of %2 have all: go on another day.")
            .arg(people)
            .arg(s.design.people);
    const QString first = people == 0
                              ? QStringLiteral("Choose the first person: anybody who may be measured.")
                              : QStringLiteral("The next person: %1 of %2 are done.").arg(people).arg(s.design.people);
    return s.design.kind == StudyKind::instruments ? first + QStringLiteral(" They begin on %1.").arg(on(0)) : first;
}

QString worth_words(double df, double effective)
{
    if (!(df >= 1)) return QStringLiteral("No degree of freedom: nothing can be told.");
    const double worth = effective > 0 ? effective : df;
    const auto between = quality::sd_limits(1, worth);
    return QStringLiteral(
        "%1 degrees of freedom%2%3: the true scatter lies between %4 and %5 times what is found (95 of "
        "100).")
        .arg(df, 0, 'f', 0)
        .arg(df < precision::enough_degrees ? QStringLiteral(", fewer than the 30 that are asked for") : QString(),
            worth < df - 0.5
                ? QStringLiteral(", worth %1 because some people scatter more than others").arg(worth, 0, 'f', 0)
                : QString())
        .arg(between.low, 0, 'f', 2)
        .arg(between.high, 0, 'f', 2);
}

QString told_sentence(const work::Repeated& t, const work::Study& s)
{
    const double df = t.value(quantity::degrees_of_freedom), held = t.held_against();
    const bool few = df < precision::enough_degrees;
    if (!(held > 0))
        return QStringLiteral("%1: all repeats are equal. Does the display round, or were numbers copied?")
            .arg(title(*t.quantity));
    const Value* cv = t.precision.find(quantity::rms_cv);
    QString out = QStringLiteral("%1: repeats scatter by %2; a change %5 counts from %3 on%4.")
                      .arg(title(*t.quantity), spread_words(*t.quantity, t.value(quantity::rms_sd)),
                          spread_words(*t.quantity, precision::change_factor * held),
                          few ? QStringLiteral(", by the upper limit of so few repeats") : QString(),
                          s.over_days() ? QStringLiteral("between days") : QStringLiteral("within a day"));
    if (t.limit_percent && cv)
        out += cv->value <= *t.limit_percent
                   ? QStringLiteral(" Its %1 % are within the %2 % that are published (ISCD 2019).")
                         .arg(cv->value, 0, 'f', 2)
                         .arg(*t.limit_percent)
                   : QStringLiteral(" Its %1 % are over the %2 % that are published (ISCD 2019): practise placing, "
                                    "then study again.")
                         .arg(cv->value, 0, 'f', 2)
                         .arg(*t.limit_percent);
    return out;
}

QStringList operator_sentences(const work::Repeated& t)
{
    QStringList out;
    for (const study::Operator& o : t.operators) {
        QString words = q(o.name) + QStringLiteral(": ");
        words += o.rms_sd ? QStringLiteral("own repeats scatter by %1 (%2 degrees of freedom)")
                                .arg(spread_words(*t.quantity, *o.rms_sd))
                                .arg(o.degrees_of_freedom)
                          : QStringLiteral("measured nobody twice");
        if (t.limit_percent && o.rms_cv_percent && *o.rms_cv_percent > *t.limit_percent)
            words += QStringLiteral(", %1 %, over the published %2 %: practise placing")
                         .arg(*o.rms_cv_percent, 0, 'f', 2)
                         .arg(*t.limit_percent);
        if (o.offset)
            words += o.differs ? QStringLiteral("; reads %1 ± %2 from the others on the same %3 people: differs")
                                     .arg(signed_words(*t.quantity, *o.offset, o.offset_within),
                                         spread_words(*t.quantity, o.offset_within))
                                     .arg(o.in_common)
                               : QStringLiteral("; %1 ± %2 from the others on the same %3 people: no difference that "
                                                "can be told")
                                     .arg(signed_words(*t.quantity, *o.offset, o.offset_within),
                                         spread_words(*t.quantity, o.offset_within))
                                     .arg(o.in_common);
        else
            words += QStringLiteral("; too few people in common with the others to be held against them");
        out << words + '.';
    }
    return out;
}

QString compared_sentence(const work::Compared& c, const work::Study& s)
{
    const auto& x = c.comparison;
    const QString shift = QStringLiteral("%1 ± %2 (%3, %4 people)")
                              .arg(signed_words(*c.quantity, x.shift, x.shift_within),
                                  spread_words(*c.quantity, x.shift_within), sides(s))
                              .arg(x.n),
                  name = title(*c.quantity);
    if (x.verdict == study::Agreement::agree)
        return QStringLiteral("%1: %2: within half of what a change must pass. Tests on both can be compared; a change "
                              "between them counts from %3 on.")
            .arg(name, shift, spread_words(*c.quantity, x.lsc));
    if (x.verdict == study::Agreement::shifted)
        return x.grows ? QStringLiteral("%1: %2, and the difference grows with the value: tests on both are not "
                                        "compared.")
                             .arg(name, shift)
                       : QStringLiteral("%1: %2: shifted. Tests on both are not compared, or the shift would pass for "
                                        "a change.")
                             .arg(name, shift);
    return c.lsc > 0
               ? QStringLiteral("%1: %2: cannot be told yet; with more people it can. Until then tests on both are "
                                "not compared.")
                     .arg(name, shift)
               : QStringLiteral("%1: %2: how well it repeats is not known here, so nothing follows.").arg(name, shift);
}

QStringList cautions(const work::Study& s, const std::vector<work::Repeated>& all)
{
    QStringList out;
    if (s.gone > 0)
        out << QStringLiteral("%1 of its repeats are no longer in the records (deleted since).").arg(s.gone);
    for (int person = 0; person < static_cast<int>(s.people.size()); ++person) {
        QStringList in;
        for (const work::Repeated& t : all)
            if (t.quantity->headline && std::count(t.far_apart.begin(), t.far_apart.end(), person))
                in << title(*t.quantity).toLower();
        if (!in.isEmpty())
            out << QStringLiteral(
                "%1: repeats lie far further apart than the others' (%2). Look at them; leave one out "
                "only for a reason that was seen.")
                       .arg(s.people[static_cast<std::size_t>(person)], in.join(QStringLiteral(", ")));
    }
    return out;
}

std::vector<QStringList> told_rows(const std::vector<work::Repeated>& all, const work::Study& s)
{
    std::vector<QStringList> rows = {{"quantity", "RMS-SD", "at most (95 %)", "RMS-CV", "published",
        s.over_days() ? "change between days" : "change within a day"}};
    for (const work::Repeated& t : all) {
        const Value* cv = t.precision.find(quantity::rms_cv);
        rows.push_back({title(*t.quantity), spread_words(*t.quantity, t.value(quantity::rms_sd)),
            spread_words(*t.quantity, t.value(quantity::rms_sd_upper)),
            cv ? QStringLiteral("%1 %").arg(cv->value, 0, 'f', 2) : QStringLiteral("–"),
            t.limit_percent
                ? QStringLiteral("%1 %2 %")
                      .arg(cv && cv->value > *t.limit_percent ? QStringLiteral("◆ over") : QStringLiteral("within"))
                      .arg(*t.limit_percent)
                : QStringLiteral("–"),
            spread_words(*t.quantity, precision::change_factor * t.held_against())});
    }
    return rows;
}

std::vector<QStringList> compared_rows(const std::vector<work::Compared>& all)
{
    std::vector<QStringList> rows = {{"quantity", "shift", "± (95 %)", "95 of 100 lie within", "verdict"}};
    for (const work::Compared& c : all) {
        const auto& x = c.comparison;
        rows.push_back({title(*c.quantity), signed_words(*c.quantity, x.shift, x.shift_within),
            spread_words(*c.quantity, x.shift_within),
            QStringLiteral("%1 to %2")
                .arg(signed_words(*c.quantity, x.low, x.sd), signed_words(*c.quantity, x.high, x.sd)),
            x.verdict == study::Agreement::agree     ? QStringLiteral("agree")
            : x.verdict == study::Agreement::shifted ? QStringLiteral("◆ shifted")
                                                     : QStringLiteral("cannot be told")});
    }
    return rows;
}

Document study_sheet(const work::Study& s, const work::Lab& lab, const QString& lab_name)
{
    using Kind = Block::Kind;
    Document d;
    d.title = QStringLiteral("Study %1: %2").arg(s.id).arg(of_what(s, lab));
    d.header = lab_name;
    d.footer = QStringLiteral("Study %1 · fusain %2 · for the lab; it names nobody who was measured")
                   .arg(s.id)
                   .arg(QStringLiteral(FUSAIN_VERSION));
    d.add(Kind::title, of_what(s, lab));
    d.add(Kind::lead, next_words(s, lab).contains(QStringLiteral("people are done")) || s.open()
                          ? QStringLiteral("Under way: %1 of %2 people. Nothing rests on it yet.")
                                .arg(s.whole_people())
                                .arg(s.design.people)
                          : next_words(s, lab));
    d.add(Kind::sentence, QStringLiteral("%1, begun by %2 on %3. Operators: %4. Reckoned with %5.")
                              .arg(QString::fromLatin1(s.design.method->title), s.begun_by,
                                  records::date_words(s.begun_on), s.design.operators.join(QStringLiteral(", ")),
                                  s.equations.empty() ? QStringLiteral("no equation") : q(s.equations)));
    const auto all = s.compares() ? Outcome<std::vector<work::Repeated>>::refuse(Messages{}) : work::repeated(s);
    const auto beside =
        s.compares() ? work::compared(s, lab) : Outcome<std::vector<work::Compared>>::refuse(Messages{});
    if (all) {
        const work::Repeated& first = all->front();
        d.add(Kind::sentence, worth_words(first.value(quantity::degrees_of_freedom), first.effective_degrees));
        d.add(Kind::heading, QStringLiteral("What repeats differ by"));
        d.table({2.6, 1.4, 1.5, 1.1, 1.4, 1.8}, told_rows(*all, s));
        d.add(Kind::small,
            QStringLiteral("RMS-SD: root of the mean variance of a person's repeats, each person counted once (ISCD "
                           "2019). A change counts from 2.77 times it; with fewer than 30 degrees of freedom from 2.77 "
                           "times its upper limit (this lab's rule). ") +
                (s.over_days()
                        ? QStringLiteral("What days do to a body (water, food, sleep) is in it, so that what is "
                                         "published of repeats within hours is not held against it.")
                        : QStringLiteral("Published: 3 % fat, 2 % lean, 2 % percent fat. What a day does to a body "
                                         "(water, food, sleep) is not in it: that is what the rules before a test are "
                                         "for.")));
        d.add(Kind::heading, QStringLiteral("Person by person, %1").arg(title(*first.quantity).toLower()));
        d.figure(150, [s, first](QPainter& p, const QRectF& area, const look::Palette& c) {
            draw_repeats(p, area, s, first, c, 9);
        });
        if (!first.operators.empty()) {
            d.add(Kind::heading, QStringLiteral("Between operators, %1").arg(title(*first.quantity).toLower()));
            for (const QString& words : operator_sentences(first)) d.add(Kind::sentence, words);
        }
        work::Study nameless = s;
        for (std::size_t i = 0; i < nameless.people.size(); ++i)
            nameless.people[i] = QStringLiteral("person %1").arg(i + 1);
        for (const QString& words : cautions(nameless, *all)) d.add(Kind::sentence, QStringLiteral("◆ ") + words);
    } else if (beside) {
        d.add(Kind::heading, QStringLiteral("What they agree in"));
        d.table({2.6, 1.5, 1.3, 2.2, 1.6}, compared_rows(*beside));
        for (const work::Compared& c : *beside)
            if (c.quantity->headline) d.add(Kind::sentence, compared_sentence(c, s));
        d.add(Kind::heading, title(*beside->front().quantity));
        d.figure(170, [c0 = beside->front()](QPainter& p, const QRectF& area, const look::Palette& c) {
            draw_agreement(p, area, c0, c, 9);
        });
        d.add(Kind::small,
            QStringLiteral("They agree when the limits of the mean difference lie within half of the least significant "
                           "change (this lab's rule); limits of agreement after Bland & Altman 1986."));
    } else {
        for (const Message& m : s.compares() ? beside.messages() : all.messages()) d.add(Kind::sentence, q(m.text));
    }
    QStringList out;
    for (const work::Member& m : s.members)
        if (!m.left_out.isEmpty())
            out << QStringLiteral("Person %1, %2 by %3: left out, %4.")
                       .arg(m.person + 1)
                       .arg(m.at.toString(QStringLiteral("d MMM HH:mm")), m.who, m.left_out);
    if (!out.isEmpty()) {
        d.add(Kind::heading, QStringLiteral("Left out, and why"));
        for (const QString& words : out) d.add(Kind::sentence, words);
    }
    d.add(
        Kind::small, (s.design.kind == StudyKind::days
                             ? QStringLiteral("Repeats of one person each have a day of their own, at most %1 days "
                                              "apart: what days do to a body is in them. %2")
                                   .arg(work::repeats_days)
                             : QStringLiteral("Repeats of one person lie at most %1 hours apart, each placed anew: %2")
                                   .arg(work::repeats_hours))
                         .arg(QString::fromUtf8(bench::bench_of(s.design.method).anew)));
    return d;
}

Outcome<QString> give_study(const work::Study& s, const work::Lab& lab)
{
    const QString folder = lab.folder() + QStringLiteral("/studies");
    if (!QDir().mkpath(folder))
        return Outcome<QString>::refuse(
            {"file_unreachable", Level::error, "folder", "The folder " + folder.toStdString() + " cannot be made."});
    if (const auto files = work::save_study(s, lab, folder); !files) return files;
    const QString path = QStringLiteral("%1/study-%2.pdf").arg(folder).arg(s.id);
    const auto pages = write_pdf(study_sheet(s, lab, lab.store->setting(QStringLiteral("lab_name"))), path);
    if (!pages) return Outcome<QString>::refuse(pages.messages());
    return path;
}

} // namespace fusain::report
