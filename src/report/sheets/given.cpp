// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/sheets/given.h"

#include "records/base/clock.h"
#include "records/base/text.h"
#include "report/page/mail.h"
#include "report/sheets/letters.h"
#include "report/sheets/reading_pages.h"
#include "report/sheets/sheets.h"
#include "version.h"
#include "work/visit/visit_end.h"
#include "work/visit/last_visit.h"

#include <QCryptographicHash>
#include <QDir>
#include <QSaveFile>

namespace fusain::report {
namespace {

/// Of everything that is written on it; pictures are drawn from the same numbers.
QString digest(const Document& d)
{
    QCryptographicHash hash(QCryptographicHash::Sha256);
    for (const Block& b : d.blocks) {
        hash.addData(b.text.toUtf8() + '\n');
        for (const QStringList& row : b.rows) hash.addData(row.join('\t').toUtf8() + '\n');
    }
    return QString::fromLatin1(hash.result().toHex());
}

const char* whose(bool for_client) { return for_client ? "client" : "lab"; }

} // namespace

Document sheet_of(const work::Lab& lab, const SheetOf& of)
{
    const bench::Visit v = work::as_told(*lab.store, *of.visit, of.visit_id);
    const QString name = lab.store->setting(QStringLiteral("lab_name"), QStringLiteral("Physiology room"));
    const QDate day = QDate::fromString(q(v.day()), Qt::ISODate);
    const work::History history = work::History::of(lab, v.subject.client_id, {of.visit_id, &v}).until(day);
    const work::Reading reading = work::read(history, day, v.range, of.visit_id);
    TalkAbout about;
    about.reading = &reading;
    about.told = history.entries().told_on(q(v.day()));
    if (const auto& next = history.next_visit())
        about.next_visit =
            QStringLiteral("%1, %2").arg(records::date_words(next->date()), next->toString(QStringLiteral("HH:mm")));
    const auto likeness = work::comparability(*lab.store, v, work::conditions_before(*lab.store, v, of.visit_id));
    const QString compared = likeness ? q(likeness->sentence) : QString();
    const bool quiet = of.for_client && reading.main && history.without_numbers();
    Document d = quiet           ? quiet_sheet(v, name, about)
                 : of.for_client ? client_sheet(v, name, compared, &about)
                                 : lab_sheet(v, name, compared);
    if (v.result() && !of.for_client) add_lab_reading(d, about);
    if (v.as_told && !of.for_client)
        d.add(Block::Kind::small,
            QStringLiteral(
                "Numbers and cautions as they were told by %1 when the visit was finished; ladder, story and "
                "shares of the doubt are reckoned by fusain %2.")
                .arg(q(v.as_told->engine), QStringLiteral(FUSAIN_VERSION)));
    d.fits = of.for_client;
    return d;
}

QString given_words(const Given& given)
{
    return (given.again ? QStringLiteral("Given before, unchanged: %1")
            : given.replaces.isEmpty()
                ? QStringLiteral("Kept as %1")
                : QStringLiteral("Kept as %1; it says that it replaces the one of ") + given.replaces)
        .arg(given.file);
}

using records::entry::Sheet;

Outcome<Given> give_sheet(work::Lab& lab, const SheetOf& of, const QString& who)
{
    const bench::Visit& v = *of.visit;
    if (of.for_client)
        if (auto why = work::not_to_be_told(v)) return Outcome<Given>::refuse(*why);
    const QString folder = lab.folder() + QStringLiteral("/sheets");
    if (!QDir().mkpath(folder))
        return Outcome<Given>::refuse(
            {"file_unreachable", Level::error, "folder", "The folder " + folder.toStdString() + " cannot be made."});
    Document d = sheet_of(lab, of);
    const QString is = digest(d);
    Given out;
    int before = 0;
    const records::ClientEvent* last = nullptr;
    std::optional<Sheet> sheet;
    const auto events = records::client_events(*lab.store, v.subject.client_id);
    for (const records::ClientEvent& e : events)
        if (e.kind == QLatin1String(Sheet::kind))
            if (const auto read = bench::read<Sheet>(e.body);
                read && read->visit == of.visit_id && read->whose == whose(of.for_client)) {
                last = &e;
                sheet = *read;
                ++before;
            }
    out.again = last && q(sheet->digest) == is;
    if (last && !out.again) {
        const QDateTime at = QDateTime::fromString(last->at, Qt::ISODateWithMs).toTimeZone(lab.diary->zone());
        out.replaces =
            QStringLiteral("%1, %2").arg(records::date_words(at.date()), at.toString(QStringLiteral("HH:mm")));
        d.add(Block::Kind::small, QStringLiteral("This sheet replaces the one of %1.").arg(out.replaces));
    }
    const QString number = before && !out.again ? QStringLiteral("-%1").arg(before + 1) : QString();
    out.file = out.again ? folder + '/' + q(sheet->file)
                         : QStringLiteral("%1/visit%2-%3%4-%5.pdf")
                               .arg(folder)
                               .arg(of.visit_id)
                               .arg(q(v.day()), number, QString::fromLatin1(whose(of.for_client)));
    if (out.again && QFile::exists(out.file)) return out; // the file stays as it was given
    const auto pages = write_pdf(d, out.file);
    if (!pages) return Outcome<Given>::refuse(pages.messages());
    out.pages = *pages;
    if (out.again) return out; // it had been deleted; its note stands already
    records::ClientEvent e = records::entered(Sheet{of.visit_id, whose(of.for_client),
        QFileInfo(out.file).fileName().toStdString(), is.toStdString(), out.replaces.toStdString()});
    e.client_id = v.subject.client_id;
    e.day = q(v.day());
    e.who = who;
    const auto noted = records::keep(*lab.store, e);
    if (!noted) return Outcome<Given>::refuse(noted.messages());
    return out;
}

Outcome<QString> mail_sheet(const work::Lab& lab, const SheetOf& of, const Given& given, const QString& who)
{
    const auto client = lab.store->client(of.visit->subject.client_id);
    if (!client || client->email.isEmpty())
        return Outcome<QString>::refuse(
            {"no_email", Level::error, "email", "No e-mail address in the record: print the sheet and hand it over."});
    QFile pdf(given.file);
    const QString path = QStringLiteral("%1/%2.eml").arg(outbox(lab), QFileInfo(given.file).completeBaseName());
    const auto unreachable = [&](const QString& what) {
        return Outcome<QString>::refuse({"file_unreachable", Level::error, "outbox",
            "The e-mail " + path.toStdString() + " cannot be written (" + what.toStdString() + ")."});
    };
    if (!pdf.open(QIODevice::ReadOnly)) return unreachable(pdf.errorString());
    const QString day = records::date_words(of.visit->day());
    const QString lab_name = lab.store->setting(QStringLiteral("lab_name"), QStringLiteral("The lab"));
    const Mail mail{lab_name, lab.store->setting(QStringLiteral("lab_email"), QStringLiteral("lab@fusain.invalid")),
        client->full_name(), client->email, QStringLiteral("Your sheet of %1").arg(day),
        QStringLiteral("fusain-sheet-%1").arg(QFileInfo(given.file).completeBaseName()),
        QStringLiteral(
            "Dear %1,\r\n\r\nattached is what we found on %2, in plain words.%3 Ask us whatever is not clear.\r\n"
            "\r\nIt is no medical diagnosis.\r\n\r\n%4\r\n%5\r\n")
            .arg(client->full_name(), day,
                given.replaces.isEmpty() ? QString()
                                         : QStringLiteral(" It replaces the sheet of %1.").arg(given.replaces),
                who, lab_name),
        {{"application/pdf", "your-sheet.pdf", pdf.readAll()}}};
    const QByteArray bytes = to_bytes(mail);
    QSaveFile file(path);
    if (!QDir().mkpath(outbox(lab)) || !file.open(QIODevice::WriteOnly) || file.write(bytes) != bytes.size() ||
        !file.commit())
        return unreachable(file.errorString());
    return path;
}

} // namespace fusain::report
