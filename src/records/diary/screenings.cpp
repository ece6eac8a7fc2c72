// SPDX-License-Identifier: GPL-3.0-or-later
// Screenings as they were answered.
#include "records/diary/diary.h"
#include "records/file/detail.h"

namespace fusain::records {

using detail::big, detail::run, detail::say, detail::text;

Outcome<ScreeningRow> Diary::keep(ScreeningRow row)
{
    if (row.at.isEmpty()) row.at = detail::now_utc();
    QSqlQuery q = run(store_->database(),
        QStringLiteral("INSERT INTO screening (client_id, booking_id, at, who, body) VALUES (?, ?, ?, ?, ?)"),
        {big(row.client_id), row.booking_id ? big(row.booking_id) : QVariant(), row.at, text(row.who),
            QString::fromStdString(bench::written(row.kept))});
    if (q.lastError().isValid()) return Outcome<ScreeningRow>::refuse(say(q.lastError(), store_->database()));
    row.id = q.lastInsertId().toLongLong();
    return row;
}

static QString draft_key(long booking_id) { return QStringLiteral("screening_draft_%1").arg(booking_id); }

std::optional<Message> Diary::keep_draft(long booking_id, const QDate& day, const ScreeningDraft& draft)
{
    return store_->set_setting(
        draft_key(booking_id), day.toString(Qt::ISODate) + ' ' + QString::fromStdString(bench::written(draft)));
}

std::optional<ScreeningDraft> Diary::draft(long booking_id, const QDate& today)
{
    run(store_->database(),
        QStringLiteral(
            "DELETE FROM setting WHERE key LIKE 'screening\\_draft\\_%' ESCAPE '\\' AND value NOT LIKE ? || ' %'"),
        {today.toString(Qt::ISODate)});
    const QString kept = store_->setting(draft_key(booking_id));
    const auto read = bench::read<ScreeningDraft>(kept.section(' ', 1).toStdString());
    return read ? std::optional(*read) : std::nullopt;
}

void Diary::drop_draft(long booking_id)
{
    run(store_->database(), QStringLiteral("DELETE FROM setting WHERE key = ?"), {draft_key(booking_id)});
}

namespace {

std::optional<ScreeningRow> screening_of(QSqlQuery q)
{
    if (!q.next()) return std::nullopt;
    return ScreeningRow{static_cast<long>(q.value(0).toLongLong()), static_cast<long>(q.value(1).toLongLong()),
        static_cast<long>(q.value(2).toLongLong()), q.value(3).toString(), q.value(4).toString(),
        bench::said<ScreeningKept>(q.value(5).toString().toStdString())};
}
const QString screening_select =
    QStringLiteral("SELECT id, client_id, booking_id, at, who, body FROM screening WHERE client_id = ?");

} // namespace

std::optional<ScreeningRow> Diary::last_screening(long client_id, std::optional<long> of_booking) const
{
    return of_booking ? screening_of(run(store_->database(),
                            screening_select + QStringLiteral(" AND booking_id = ? ORDER BY id DESC LIMIT 1"),
                            {big(client_id), big(*of_booking)}))
                      : screening_of(run(store_->database(),
                            screening_select + QStringLiteral(" ORDER BY id DESC LIMIT 1"), {big(client_id)}));
}

std::optional<ScreeningRow> Diary::screening_before(long client_id, const QDate& today) const
{
    const QString begins = local_of(midnight(today), zone()).toUTC().toString(Qt::ISODateWithMs);
    return screening_of(run(store_->database(),
        screening_select + QStringLiteral(" AND at < ? ORDER BY at DESC, id DESC LIMIT 1"), {big(client_id), begins}));
}

} // namespace fusain::records
