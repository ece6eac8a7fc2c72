// SPDX-License-Identifier: GPL-3.0-or-later
#include "records/diary/checks.h"

#include "records/file/detail.h"

#include <QLocale>

#include <algorithm>

namespace fusain::records {

using detail::big, detail::run, detail::say, detail::text, detail::Transaction;

namespace {

CheckRow row_of(const QSqlQuery& q)
{
    return {static_cast<long>(q.value(0).toLongLong()), static_cast<long>(q.value(1).toLongLong()),
        q.value(2).toString(), q.value(3).toString(), q.value(4).toString(), !q.value(4).toString().isEmpty(),
        q.value(5).toBool(), q.value(6).toDouble(), q.value(7).toString()};
}
const QString given_up = QStringLiteral("Given up before its end.");
const QString columns = QStringLiteral("id, instrument_id, started_at, who, finished_at, passed, value, words");

QSqlQuery insert(const QSqlDatabase& db, long check_id, const bench::Event& e)
{
    return run(db,
        QStringLiteral("INSERT INTO check_event (check_id, seq, at, who, kind, body) VALUES (?, ?, ?, ?, ?, ?)"),
        {big(check_id), big(e.seq), QString::fromStdString(e.at_utc), QString::fromStdString(e.who),
            QString::fromStdString(e.kind), QString::fromStdString(e.body)});
}

} // namespace

Outcome<long> Checks::begin(const Instrument& i, const QString& who, const QString& at_utc)
{
    const QSqlDatabase& db = diary_->store()->database();
    Transaction transaction(db);
    if (!transaction.is_open()) return Outcome<long>::refuse(say(transaction.error(), db));
    QSqlQuery q = run(db, QStringLiteral("INSERT INTO check_run (instrument_id, started_at, who) VALUES (?, ?, ?)"),
        {big(i.id), at_utc, text(who)});
    if (q.lastError().isValid()) return Outcome<long>::refuse(say(q.lastError(), db));
    const long id = q.lastInsertId().toLongLong();
    bench::checking::Started started{i.kind->id, i.reference, i.reference_x, i.check_by.toStdString(), {}};
    if (i.check_by == QStringLiteral("person")) started.usual = usual(i);
    q = insert(db, id, bench::logged({1, at_utc.toStdString(), who.toStdString()}, started));
    if (q.lastError().isValid()) return Outcome<long>::refuse(say(q.lastError(), db));
    if (!transaction.commit()) return Outcome<long>::refuse(say(transaction.error(), db));
    return id;
}

std::map<std::string, bench::Usual> Checks::usual(const Instrument& i) const
{
    std::map<std::string, bench::Usual> out;
    auto all = history(i.id, -1);
    std::reverse(all.begin(), all.end());
    for (const CheckRow& c : all) {
        if (!c.finished || !c.passed || c.started_at < i.baseline_from) continue;
        const auto run = replay(c.id);
        if (!run || run->person().empty()) continue;
        bench::Usual& u = out[run->person()];
        if (u.count >= quality::baseline_least) continue;
        const double n = ++u.count;
        for (const auto& [step, mean] :
            {std::pair("percent", &u.percent), {"mass", &u.mass_kg}, {"resistance", &u.resistance_ohm}})
            if (const auto& r = run->readings(step); !r.empty()) *mean += (r.front() - *mean) / n;
    }
    return out;
}

std::vector<bench::Event> Checks::events(long check_id) const
{
    QSqlQuery q = run(diary_->store()->database(),
        QStringLiteral("SELECT seq, at, who, kind, body FROM check_event WHERE check_id = ? ORDER BY seq"),
        {big(check_id)});
    std::vector<bench::Event> out;
    while (q.next())
        out.push_back({static_cast<long>(q.value(0).toLongLong()), q.value(1).toString().toStdString(),
            q.value(2).toString().toStdString(), q.value(3).toString().toStdString(),
            q.value(4).toString().toStdString()});
    return out;
}

Outcome<bench::CheckRun> Checks::replay(long check_id) const
{
    using Result = Outcome<bench::CheckRun>;
    QSqlQuery q = run(diary_->store()->database(),
        QStringLiteral("SELECT i.id FROM check_run c JOIN instrument i ON i.id = c.instrument_id WHERE c.id = ?"),
        {big(check_id)});
    const auto instrument = q.next() ? diary_->instrument(q.value(0).toLongLong()) : std::nullopt;
    if (!instrument) return Result::refuse({"unknown_check", Level::error, "check", "There is no such check."});
    bench::CheckRun r(*instrument->kind, instrument->reference);
    for (const bench::Event& e : events(check_id)) {
        if (e.kind == bench::checking::Remark::kind) continue;
        if (auto why = r.apply(e)) return Result::refuse(*why);
    }
    return r;
}

std::optional<Message> Checks::append(long check_id, const bench::Event& e)
{
    auto r = replay(check_id);
    if (!r) return r.messages().front();
    bench::CheckRun next = *r;
    if (auto why = next.apply(e)) return why;
    const QSqlDatabase& db = diary_->store()->database();
    Transaction transaction(db);
    if (!transaction.is_open()) return say(transaction.error(), db);
    QSqlQuery q = insert(db, check_id, e);
    if (q.lastError().isValid()) return say(q.lastError(), db);
    const bool left_early = e.kind == bench::checking::Finished::kind && !next.all_done();
    if (next.all_done() || left_early) {
        const auto result = next.result();
        const bool passed = result && result->passed && !left_early;
        const QString words =
            left_early ? given_up : QString::fromStdString(result ? result->words : result.messages().front().text);
        q = run(db,
            QStringLiteral("UPDATE check_run SET finished_at = ?, passed = ?, value = ?, words = ? WHERE id = ?"),
            {QString::fromStdString(e.at_utc), passed ? 1 : 0, result ? QVariant(result->of.mean) : QVariant(), words,
                big(check_id)});
        if (q.lastError().isValid()) return say(q.lastError(), db);
    }
    if (!transaction.commit()) return say(transaction.error(), db);
    return std::nullopt;
}

std::optional<Message> Checks::remark(long check_id, const QString& who, const QString& words)
{
    const auto all = events(check_id);
    // remarks stand beside the steps and do not take part in their counting
    QSqlQuery q = insert(diary_->store()->database(), check_id,
        bench::logged({1000 + static_cast<long>(all.size()), detail::now_utc().toStdString(), who.toStdString()},
            bench::checking::Remark{words.toStdString()}));
    if (q.lastError().isValid()) return say(q.lastError(), diary_->store()->database());
    return std::nullopt;
}

Outcome<Instrument> Checks::new_baseline(
    Instrument i, const QString& who, const QString& what_was_done, const QDateTime& now)
{
    if (what_was_done.trimmed().size() < 5)
        return Outcome<Instrument>::refuse({"missing_field", Level::error, "reason",
            "Write what was done to the instrument; it stands in its history with your name."});
    if (const auto last = history(i.id, 1); !last.empty())
        if (auto why = remark(last[0].id, who, QStringLiteral("new baseline after: ") + what_was_done.trimmed()))
            return Outcome<Instrument>::refuse(*why);
    i.baseline_from = now.toUTC().toString(Qt::ISODateWithMs);
    return diary_->save(i);
}

QStringList Checks::remarks(long check_id) const
{
    QStringList out;
    for (const bench::Event& e : events(check_id))
        if (e.kind == bench::checking::Remark::kind)
            if (const auto said = bench::read<bench::checking::Remark>(e.body))
                out << QStringLiteral("%1 (%2)").arg(QString::fromStdString(said->text), QString::fromStdString(e.who));
    return out;
}

std::optional<CheckRow> Checks::open_run(long instrument_id, const QDateTime& now) const
{
    QSqlQuery q = run(diary_->store()->database(),
        QStringLiteral("SELECT %1 FROM check_run WHERE instrument_id = ? AND finished_at = '' AND started_at > ? ORDER "
                       "BY id DESC LIMIT 1")
            .arg(columns),
        {big(instrument_id), now.toUTC().addDays(-1).toString(Qt::ISODateWithMs)});
    if (q.next()) return row_of(q);
    return std::nullopt;
}

std::vector<CheckRow> Checks::history(long instrument_id, int limit) const
{
    QSqlQuery q = run(diary_->store()->database(),
        QStringLiteral("SELECT %1 FROM check_run WHERE instrument_id = ? ORDER BY started_at DESC, id DESC LIMIT ?")
            .arg(columns),
        {big(instrument_id), limit});
    std::vector<CheckRow> out;
    while (q.next()) out.push_back(row_of(q));
    return out;
}

std::vector<quality::Point> Checks::points(const Instrument& i) const
{
    std::vector<quality::Point> out;
    if (i.check_by == QStringLiteral("self_test")) return out; // says yes or no
    const QTimeZone zone = diary_->zone();
    // the whole series: a chart of the newest few hundred would take a drifted year for its baseline
    for (const CheckRow& c : history(i.id, -1))
        if (c.finished && c.words != given_up && c.started_at >= i.baseline_from)
            out.push_back({QLocale(QLocale::English)
                               .toString(QDateTime::fromString(c.started_at, Qt::ISODateWithMs).toTimeZone(zone).date(),
                                   QStringLiteral("d MMMM yyyy"))
                               .toStdString(),
                c.value, c.passed});
    std::reverse(out.begin(), out.end());
    return out;
}

quality::Chart Checks::chart(const Instrument& i) const
{
    const bench::ChartOf of = bench::chart_of(*i.kind, i.check_by.toStdString(), i.reference);
    const auto p = points(i);
    return quality::chart(p, of.unit, of.decimals, of.least_sd);
}

bench::Readiness Checks::ready(const Instrument& i, const QDateTime& now) const
{
    const QDate today = now.toTimeZone(diary_->zone()).date();
    std::optional<bench::LastCheck> last;
    for (const CheckRow& c : history(i.id, 20)) {
        if (c.finished && c.words == given_up) continue; // says nothing about the instrument
        const QDateTime at = QDateTime::fromString(c.finished ? c.finished_at : c.started_at, Qt::ISODateWithMs);
        if (at > now.addSecs(60)) continue; // dated in the future: the clock was set back, nobody knows when it was
        last = bench::LastCheck{
            c.passed, c.finished, static_cast<int>(at.toTimeZone(diary_->zone()).date().daysTo(today))};
        break;
    }
    bench::CheckRule rule;
    if (house_) {
        const auto house = house_();
        const auto chosen = [&](const char* id) {
            const auto at = house.find(id);
            return at == house.end() ? std::string() : at->second;
        };
        const std::string every = chosen("check_every");
        rule = {every == "weekly" ? 7 : every == "monthly" ? 30 : 1, chosen("check_missed") != "caution"};
    }
    return bench::readiness({i.kind, i.check_by.toStdString(), i.in_use, i.calibration_due.toStdString(),
                                today.toString(Qt::ISODate).toStdString()},
        last, chart(i), rule);
}

} // namespace fusain::records
