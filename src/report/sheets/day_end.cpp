// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/sheets/day_end.h"

#include "records/base/clock.h"
#include "records/base/text.h"
#include "records/store/overview.h"
#include "report/sheets/sheets.h"
#include "version.h"

#include <QDir>

#include <algorithm>

namespace fusain::report {
namespace {

using Kind = Block::Kind;

Message refusal(const char* code, const QString& text) { return {code, Level::error, "day", text.toStdString()}; }

} // namespace

QStringList closing_words(const work::Lab& lab)
{
    QStringList out;
    for (const records::Instrument& i : lab.diary->instruments())
        if (i.in_use)
            for (const char* words : i.kind->closing)
                out << QStringLiteral("%1: %2").arg(i.name, QString::fromUtf8(words));
    return out;
}

std::vector<long> people_of(const work::Lab& lab, const QDate& day)
{
    const auto utc = [&](const QDate& d) {
        return records::local_of(lab.diary->midnight(d), lab.diary->zone()).toUTC().toString(Qt::ISODateWithMs);
    };
    return records::measured_between(*lab.store, utc(day), utc(day.addDays(1)));
}

Outcome<DayEnd> end_of_day(
    work::Lab& lab, const QDate& day, const QString& who, const std::function<bool(int, int, const QString&)>& go_on)
{
    const std::vector<long> people = people_of(lab, day);
    if (people.empty())
        return Outcome<DayEnd>::refuse(
            refusal("nobody", QStringLiteral("Nobody was measured on %1.").arg(records::date_words(day))));
    DayEnd out;
    out.people = static_cast<int>(people.size());
    std::vector<QStringList> rows = {
        {"number", "name", "at", "method", "% fat", "± u", "fat, kg", "fat-free, kg", "sheet", "to note"}};
    int done = 0;
    for (const long id : people) {
        const work::History h = work::History::of(lab, id);
        const QString name = h.client().full_name();
        if (!go_on(done++, out.people, name))
            return Outcome<DayEnd>::refuse(refusal("cancelled",
                QStringLiteral("Stopped after %1 of %2; what was made stays.").arg(done - 1).arg(out.people)));
        const work::Reading r = work::read(h, day);
        QString sheet = QStringLiteral("–");
        const auto leave = [&](const QString& why) {
            out.left.push_back({name, why});
            sheet = QStringLiteral("not yet");
        };
        if (r.main) {
            const auto visit = lab.store->replay(r.main->visit_id);
            if (!visit)
                leave(q(visit.messages().front().text));
            else if (!visit->to_acknowledge().empty())
                leave(QStringLiteral("asks to be measured again: %1").arg(q(visit->to_acknowledge().front().text)));
            else {
                const bench::Visit v = *visit;
                const auto given = give_sheet(lab, {r.main->visit_id, &v, true}, who);
                if (!given) return Outcome<DayEnd>::refuse(given.messages());
                ++(given->again ? out.unchanged : out.sheets);
                sheet = QFileInfo(given->file).fileName().section('-', 0, 0);
            }
        } else {
            leave(QStringLiteral("no test of the day tells fat"));
        }
        bool first = true;
        for (const work::Measurement* m : r.today) {
            const auto value = [&](const Quantity& of, bool doubt = false) {
                const Value* v = m->result.find(of);
                return v ? QString::number(doubt ? v->u : v->value, 'f', 1) : QStringLiteral("–");
            };
            QStringList notes;
            for (const Message& one : m->messages) notes << q(one.code).replace('_', ' ');
            rows.push_back({first ? h.client().number : QString(), first ? name : QString(),
                m->at.toString(QStringLiteral("HH:mm")), work::title_of(m->method), value(quantity::fat_percent),
                value(quantity::fat_percent, true), value(quantity::fat_mass), value(quantity::fat_free_mass),
                first ? sheet : QString(), notes.join(QStringLiteral(", "))});
            first = false;
        }
    }
    Document d;
    const QString lab_name = lab.store->setting(QStringLiteral("lab_name"), QStringLiteral("Physiology room"));
    d.title = QStringLiteral("Measured on %1").arg(records::date_words(day));
    d.header = QStringLiteral("%1   ·   list of the day, for the lab").arg(lab_name);
    d.footer = QStringLiteral("Fusain %1 · made by %2").arg(QStringLiteral(FUSAIN_VERSION), who);
    d.add(Kind::title, records::date_words(day));
    d.add(Kind::lead, QStringLiteral("%1 %2 measured. Sheets: %3 made, %4 given before, %5 left.")
                          .arg(out.people)
                          .arg(out.people == 1 ? QStringLiteral("person was") : QStringLiteral("people were"))
                          .arg(out.sheets)
                          .arg(out.unchanged)
                          .arg(out.left.size()));
    d.table({1, 2.6, 0.9, 1.9, -0.9, -0.8, -1.1, -1.3, 1.1, 2.6}, rows);
    if (!out.left.empty()) {
        d.add(Kind::heading, QStringLiteral("Left, and why"));
        for (const DayEnd::Left& one : out.left)
            d.add(Kind::sentence, QStringLiteral("·  %1: %2").arg(one.client, one.why));
    }
    if (const QStringList closing = closing_words(lab); !closing.isEmpty()) {
        d.add(Kind::heading, QStringLiteral("Before the lab is left"));
        for (const QString& words : closing) d.add(Kind::sentence, QStringLiteral("○  ") + words);
    }
    out.list = QStringLiteral("%1/sheets/day-%2-lab.pdf").arg(lab.folder(), day.toString(Qt::ISODate));
    if (!QDir().mkpath(QFileInfo(out.list).absolutePath()))
        return Outcome<DayEnd>::refuse(
            refusal("file_unreachable", QStringLiteral("The folder of the sheets cannot be made.")));
    if (const auto pages = write_pdf(d, out.list); !pages) return Outcome<DayEnd>::refuse(pages.messages());
    return out;
}

} // namespace fusain::report
