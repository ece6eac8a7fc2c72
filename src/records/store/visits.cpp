// SPDX-License-Identifier: GPL-3.0-or-later
// What the store does with visits: their logs, their rows, their recordings.
#include "records/file/detail.h"
#include "records/store/store.h"
#include "records/visits/attached.h"
#include "records/visits/log.h"
#include "records/visits/raw.h"

#include <cstring>

namespace fusain::records {

using detail::big, detail::say, detail::Transaction;

namespace {

bool insert_event(QSqlQuery& q, long visit_id, const bench::Event& e)
{
    q.prepare(QStringLiteral("INSERT INTO visit_event (visit_id, seq, at, who, kind, body) VALUES (?, ?, ?, ?, ?, ?)"));
    q.addBindValue(QVariant::fromValue<qlonglong>(visit_id));
    q.addBindValue(QVariant::fromValue<qlonglong>(e.seq));
    q.addBindValue(QString::fromStdString(e.at_utc));
    q.addBindValue(QString::fromStdString(e.who));
    q.addBindValue(QString::fromStdString(e.kind));
    q.addBindValue(QString::fromStdString(e.body));
    return q.exec();
}

/// What an event makes of the row of its visit: measured, stopped, or open again.
std::optional<QSqlError> close_by(QSqlQuery& q, long visit_id, const bench::Event& e)
{
    using namespace bench;
    const char* outcome = e.kind == event::Finished::kind   ? "measured"
                          : ends_for_good(e)                ? "stopped"
                          : e.kind == event::Reopened::kind ? ""
                                                            : nullptr;
    if (!outcome) return std::nullopt;
    q.prepare(QStringLiteral("UPDATE visit SET finished = ?, outcome = ? WHERE id = ?"));
    q.addBindValue(*outcome ? 1 : 0);
    q.addBindValue(QString::fromLatin1(outcome));
    q.addBindValue(QVariant::fromValue<qlonglong>(visit_id));
    if (!q.exec()) return q.lastError();
    return std::nullopt;
}

/// By which the log begins.
std::string method_of(const bench::Event& first) { return bench::said<bench::event::Started>(first.body).method; }

VisitRow visit_of(const QSqlQuery& q)
{
    return {static_cast<long>(q.value(0).toLongLong()), static_cast<long>(q.value(1).toLongLong()),
        q.value(2).toString(), q.value(3).toString(), q.value(4).toString(), q.value(5).toBool(),
        q.value(6).toString()};
}
const QString visit_columns = QStringLiteral("id, client_id, method, started_at, technician, finished, outcome");

} // namespace

Outcome<long> Store::begin_visit(
    long client_id, const QString& method, const std::vector<bench::Event>& first, const std::optional<Window>& window)
{
    using Result = Outcome<long>;
    bench::Visit fresh;
    for (const bench::Event& e : first)
        if (auto why = fresh.apply(e)) return Result::refuse(*why);
    Transaction transaction(db_);
    if (!transaction.is_open()) return Result::refuse(say(transaction.error(), file_));
    QSqlQuery q(db_);
    q.prepare(QStringLiteral("INSERT INTO visit (client_id, method, started_at, technician) VALUES (?, ?, ?, ?)"));
    q.addBindValue(QVariant::fromValue<qlonglong>(client_id));
    q.addBindValue(method);
    q.addBindValue(QString::fromStdString(first.front().at_utc));
    q.addBindValue(QString::fromStdString(first.front().who));
    if (!q.exec()) return Result::refuse(say(q.lastError(), file_));
    const long id = q.lastInsertId().toLongLong();
    for (const bench::Event& e : first) {
        if (!insert_event(q, id, e)) return Result::refuse(say(q.lastError(), file_));
        if (auto why = close_by(q, id, e)) return Result::refuse(say(*why, file_));
    }
    if (window)
        if (auto why = take_lease_within(db_, id, *window, QString::fromStdString(first.front().who)))
            return Result::refuse(*why);
    if (!transaction.commit()) return Result::refuse(say(transaction.error(), file_));
    return id;
}

std::optional<Message> Store::add_whole(const std::vector<Whole>& visits, const GoOn& go_on)
{
    Transaction transaction(db_);
    if (!transaction.is_open()) return say(transaction.error(), file_);
    QSqlQuery q(db_);
    for (std::size_t i = 0; i < visits.size(); ++i) {
        if (go_on && i % 20 == 0 && !go_on(static_cast<int>(i), static_cast<int>(visits.size())))
            return Message{"cancelled", Level::caution, "file", "Stopped. Nothing was taken over."};
        const bench::Event& first = visits[i].events.front();
        q.prepare(QStringLiteral("INSERT INTO visit (client_id, method, started_at, technician) VALUES (?, ?, ?, ?)"));
        q.addBindValue(detail::big(visits[i].client_id));
        q.addBindValue(QString::fromStdString(method_of(first)));
        q.addBindValue(QString::fromStdString(first.at_utc));
        q.addBindValue(QString::fromStdString(first.who));
        if (!q.exec()) return say(q.lastError(), file_);
        const long id = q.lastInsertId().toLongLong();
        for (const bench::Event& e : visits[i].events) {
            if (!insert_event(q, id, e)) return say(q.lastError(), file_);
            if (const auto why = close_by(q, id, e)) return say(*why, file_);
        }
        if (const QSqlError wrong = keep_told(id, visits[i].events.back()); wrong.isValid()) return say(wrong, file_);
    }
    if (!transaction.commit()) return say(transaction.error(), file_);
    return std::nullopt;
}

std::optional<Message> Store::append(
    long visit_id, const bench::Event& e, const QString& window, const std::function<std::optional<Message>()>& beside)
{
    Transaction transaction(db_);
    if (!transaction.is_open()) return say(transaction.error(), file_);
    if (auto why = held_elsewhere(db_, visit_id, window)) return why;
    QSqlQuery q(db_);
    if (!insert_event(q, visit_id, e)) {
        // the log refused it: another program wrote to this visit meanwhile
        if (q.lastError().nativeErrorCode().toInt() % 256 == 19)
            return Message{"log_moved_on", Level::error, "visit",
                "This visit has gone on in another window meanwhile, so this was not added to it. Open it again."};
        return say(q.lastError(), file_);
    }
    if (auto why = close_by(q, visit_id, e)) return say(*why, file_);
    if (e.is<bench::event::TrialTaken>() || e.is<bench::event::TrialBroken>() || e.is<bench::event::TrialThrownOut>() ||
        e.is<bench::event::TrialTyped>())
        raw::move_big(db_, visit_id);
    if (const QSqlError wrong = attached::note(db_, visit_id, e); wrong.isValid()) return say(wrong, file_);
    if (e.is<bench::event::Finished>() || e.is<bench::event::Choice>())
        if (const QSqlError wrong = keep_told(visit_id, e); wrong.isValid()) return say(wrong, file_);
    if (beside)
        if (auto why = beside()) return why;
    if (!transaction.commit()) return say(transaction.error(), file_);
    return std::nullopt;
}

QSqlError Store::keep_told(long visit_id, const bench::Event& last) const
{
    const auto visit = replay(visit_id);
    if (!visit || !visit->finished) return {};
    Snapshot s = snapshot_of(*visit, zone_of(*visit));
    s.visit_id = visit_id;
    s.seq = last.seq;
    s.at = QString::fromStdString(last.at_utc);
    s.who = QString::fromStdString(last.who);
    return snapshots::write(db_, s);
}

std::vector<bench::Event> Store::events(long visit_id) const { return log::events_of(db_, visit_id); }

long Store::last_seq(long visit_id) const
{
    QSqlQuery q = detail::run(
        db_, QStringLiteral("SELECT MAX(seq) FROM visit_event WHERE visit_id = ?"), {detail::big(visit_id)});
    return q.next() ? q.value(0).toLongLong() : 0;
}

std::vector<VisitRow> Store::visits_of(long client_id) const
{
    QSqlQuery q(db_);
    q.prepare(QStringLiteral("SELECT %1 FROM visit WHERE client_id = ? ORDER BY started_at DESC").arg(visit_columns));
    q.addBindValue(QVariant::fromValue<qlonglong>(client_id));
    std::vector<VisitRow> out;
    if (q.exec())
        while (q.next()) out.push_back(visit_of(q));
    return out;
}

std::optional<VisitRow> Store::visit(long visit_id) const
{
    QSqlQuery q(db_);
    q.prepare(QStringLiteral("SELECT %1 FROM visit WHERE id = ?").arg(visit_columns));
    q.addBindValue(QVariant::fromValue<qlonglong>(visit_id));
    if (q.exec() && q.next()) return visit_of(q);
    return std::nullopt;
}

std::optional<VisitRow> Store::open_visit() const
{
    QSqlQuery q(db_);
    if (q.exec(QStringLiteral("SELECT %1 FROM visit WHERE finished = 0 ORDER BY started_at DESC LIMIT 1")
                   .arg(visit_columns)) &&
        q.next())
        return visit_of(q);
    return std::nullopt;
}

Outcome<bench::Visit> Store::replay(long visit_id) const { return log::replay(events(visit_id)); }

std::optional<Store::Weighed> Store::last_mass(long client_id) const
{
    QSqlQuery q = detail::run(db_,
        QStringLiteral("SELECT json_extract(e.body, '$.kg'), v.started_at FROM visit v JOIN visit_event e ON "
                       "e.visit_id = v.id AND e.kind = 'mass' WHERE v.client_id = ? ORDER BY v.started_at DESC, e.seq "
                       "DESC LIMIT 1"),
        {big(client_id)});
    if (!q.next()) return std::nullopt;
    return Weighed{q.value(0).toDouble(), q.value(1).toString()};
}

std::vector<Store::Weighed> Store::masses_since(long client_id, const QString& at_utc) const
{
    QSqlQuery q = detail::run(db_,
        QStringLiteral("SELECT json_extract(e.body, '$.kg'), v.started_at FROM visit v JOIN visit_event e ON "
                       "e.visit_id = v.id AND e.kind = 'mass' WHERE v.client_id = ? AND v.started_at >= ? AND e.seq = "
                       "(SELECT MAX(seq) FROM visit_event WHERE visit_id = v.id AND kind = 'mass') "
                       "ORDER BY v.started_at"),
        {big(client_id), at_utc});
    std::vector<Weighed> out;
    while (q.next()) out.push_back({q.value(0).toDouble(), q.value(1).toString()});
    return out;
}

QTimeZone Store::zone_of(const bench::Visit& visit) const
{
    return log::zone_of(visit, setting(QStringLiteral("zone")));
}

std::optional<Message> Store::append_signal(const SignalChunk& chunk)
{
    const std::vector<double>& values = chunk.signal.values;
    QSqlQuery q(db_);
    q.prepare(
        QStringLiteral("INSERT INTO signal_chunk (visit_id, trial, seq, columns, samples) VALUES (?, ?, ?, ?, ?)"));
    q.addBindValue(QVariant::fromValue<qlonglong>(chunk.visit));
    q.addBindValue(chunk.trial);
    q.addBindValue(chunk.seq);
    q.addBindValue(QString::fromStdString(chunk.signal.columns));
    q.addBindValue(QByteArray(
        reinterpret_cast<const char*>(values.data()), static_cast<qsizetype>(values.size() * sizeof(double))));
    if (!q.exec()) return say(q.lastError(), file_);
    return std::nullopt;
}

Outcome<bench::Signal> Store::signal(long visit_id, int trial) const
{
    auto whole = raw::read(db_, visit_id, trial);
    if (!whole) return whole;
    bench::Signal out = std::move(whole).take();
    const bench::Signal rest = log::chunks_of(db_, visit_id, trial); // what came after the rest had moved
    if (out.empty()) return rest;
    out.values.insert(out.values.end(), rest.values.begin(), rest.values.end());
    return out;
}

std::vector<int> Store::recorded(long visit_id) const
{
    QSqlQuery q = detail::run(db_,
        QStringLiteral("SELECT trial FROM signal_chunk WHERE visit_id = ? UNION SELECT trial FROM raw_file WHERE "
                       "visit_id = ? ORDER BY trial"),
        {big(visit_id), big(visit_id)});
    std::vector<int> out;
    while (q.next()) out.push_back(q.value(0).toInt());
    return out;
}

} // namespace fusain::records
