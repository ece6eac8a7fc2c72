// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/sheets/letters.h"

#include "records/base/clock.h"
#include "records/base/text.h"

#include <QRegularExpression>

namespace fusain::report {

Appointment appointment(const work::Lab& lab, const records::Booking& b, const QString& who)
{
    Appointment a;
    const QTimeZone zone = lab.diary->zone();
    const auto client = lab.store->client(b.client_id);
    a.uid = QStringLiteral("fusain-%1-%2")
                .arg(b.id)
                .arg(QString(b.made_at).remove(QRegularExpression(QStringLiteral("[^0-9]"))));
    a.revision = static_cast<int>(b.revision);
    a.booking_id = b.id;
    a.lab_name = lab.store->setting(QStringLiteral("lab_name"), QStringLiteral("The lab"));
    a.lab_email = lab.store->setting(QStringLiteral("lab_email"), QStringLiteral("lab@fusain.invalid"));
    if (client) {
        a.client_name = client->full_name();
        a.client_number = client->number;
        a.client_email = client->email;
    }
    a.made_by = who;
    const protocol::Book book = lab.rules.book();
    QStringList protocols;
    for (const schedule::Slot& s : b.parts) {
        const auto i = lab.instrument(s.instrument);
        a.parts.push_back({QString::fromLatin1(s.method->title),
            i ? i->name + (i->location.isEmpty() ? QString() : QStringLiteral(", ") + i->location) : q(s.instrument),
            records::local_of(s.at.from, zone), records::local_of(s.at.to, zone)});
        if (const auto* p = book.protocol(s.method))
            protocols << QStringLiteral("%1 version %2").arg(QString::fromLatin1(s.method->title)).arg(p->version);
    }
    a.protocols = protocols.join(QStringLiteral(", "));
    const auto lines = preparation::prepare(
        book, lab.rules.house(), client ? lab.person(*client) : screening::Person{}, lab.parts(b, b.from()));
    const QDate day = records::local_of(b.from(), zone).date();
    for (const preparation::Line& l : lines) {
        Appointment::Task t;
        QStringList methods;
        for (Method m : l.methods) methods << QString::fromLatin1(m->title);
        t.methods = methods.size() > 1 ? methods.front() + QStringLiteral("; the others ask less") : methods.front();
        t.part = q(l.part);
        t.words = q(l.words);
        t.because = q(l.reason);
        if (l.before_visit_min) {
            t.at = records::local_of(b.from(), zone).addSecs(-static_cast<qint64>(60 * *l.before_visit_min));
            t.when = records::clock_words(*t.at, day);
            t.words.replace(QStringLiteral("{time}"), t.when);
        }
        a.tasks.push_back(std::move(t));
    }
    return a;
}

QString outbox(const work::Lab& lab) { return lab.folder() + QStringLiteral("/outbox"); }

Outcome<QString> send_sheet(work::Lab& lab, const records::Booking& b, const QString& who)
{
    const Appointment a = appointment(lab, b, who);
    const auto put = put_into_outbox(a, outbox(lab));
    if (!put) return put;
    std::map<std::string, int> versions;
    const protocol::Book book = lab.rules.book();
    for (const schedule::Slot& s : b.parts)
        if (const auto* p = book.protocol(s.method)) versions[s.method->word] = p->version;
    versions["house"] = lab.rules.house_version();
    if (auto why = lab.diary->note_sheet_sent(b.id, versions)) return Outcome<QString>::refuse(*why);
    lab.say_changed();
    return put;
}

} // namespace fusain::report
