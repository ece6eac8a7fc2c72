// SPDX-License-Identifier: GPL-3.0-or-later
// Screenings as they were answered.
#include "records/diary/diary.h"
#include "records/file/detail.h"

namespace fusain::records {

using detail::big, detail::run, detail::say, detail::text;

bench::Json to_json(const screening::Answers& answers)
{
    bench::Json out = bench::Json::object();
    for (const auto& [id, a] : answers) {
        bench::Json row = bench::Json::object();
        if (a.minutes_ago) row["minutes_ago"] = *a.minutes_ago;
        if (a.never) row["never"] = true;
        if (a.yes) row["yes"] = *a.yes;
        if (a.number) row["number"] = *a.number;
        if (a.kept) row["kept"] = true;
        out[id] = row;
    }
    return out;
}

screening::Answers answers_from(const bench::Json& json)
{
    screening::Answers out;
    if (!json.is_object()) return out;
    for (const auto& [id, row] : json.items()) {
        screening::Answer a;
        if (row.contains("minutes_ago")) a.minutes_ago = row["minutes_ago"].get<double>();
        a.never = row.value("never", false);
        if (row.contains("yes")) a.yes = row["yes"].get<bool>();
        if (row.contains("number")) a.number = row["number"].get<double>();
        a.kept = row.value("kept", false);
        out[id] = a;
    }
    return out;
}

Outcome<ScreeningRow> Diary::keep(ScreeningRow row)
{
    if (row.at.isEmpty()) row.at = detail::now_utc();
    QSqlQuery q = run(store_->database(),
        QStringLiteral("INSERT INTO screening (client_id, booking_id, at, who, body) VALUES (?, ?, ?, ?, ?)"),
        {big(row.client_id), row.booking_id ? big(row.booking_id) : QVariant(), row.at, text(row.who),
            QString::fromStdString(row.body.dump())});
    if (q.lastError().isValid()) return Outcome<ScreeningRow>::refuse(say(q.lastError(), store_->database()));
    row.id = q.lastInsertId().toLongLong();
    return row;
}

static QString draft_key(long booking_id) { return QStringLiteral("screening_draft_%1").arg(booking_id); }

std::optional<Message> Diary::keep_draft(long booking_id, const QDate& day, const bench::Json& body)
{
    return store_->set_setting(
        draft_key(booking_id), day.toString(Qt::ISODate) + ' ' + QString::fromStdString(body.dump()));
}

std::optional<bench::Json> Diary::draft(long booking_id, const QDate& today)
{
    run(store_->database(),
        QStringLiteral(
            "DELETE FROM setting WHERE key LIKE 'screening\\_draft\\_%' ESCAPE '\\' AND value NOT LIKE ? || ' %'"),
        {today.toString(Qt::ISODate)});
    const QString kept = store_->setting(draft_key(booking_id));
    const bench::Json body = bench::Json::parse(kept.section(' ', 1).toStdString(), nullptr, false);
    if (!body.is_object()) return std::nullopt;
    return body;
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
        bench::Json::parse(q.value(5).toString().toStdString(), nullptr, false)};
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
