// SPDX-License-Identifier: GPL-3.0-or-later
#include "records/diary/diary.h"

#include "core/base/limits.h"
#include "records/file/detail.h"

#include <QDate>
#include <QJsonArray>
#include <QJsonObject>
#include <QLocale>

#include <algorithm>

namespace fusain::records {

using detail::big, detail::run, detail::say, detail::text, detail::Transaction;
using schedule::Minute;

namespace {

BookingState state_of(const QString& word_of)
{
    for (BookingState s : {BookingState::booked, BookingState::arrived, BookingState::measured, BookingState::stopped,
             BookingState::turned_away, BookingState::cancelled, BookingState::missed})
        if (word_of == word(s)) return s;
    return BookingState::booked;
}

const QString booking_columns = QStringLiteral("id, client_id, CASE WHEN state = 'done' THEN outcome ELSE state END, "
                                               "made_at, made_by, revision, sheet_sent_at, protocols, note");

} // namespace

const char* word(BookingState s)
{
    constexpr const char* words[] = {"booked", "arrived", "measured", "stopped", "turned_away", "cancelled", "missed"};
    return words[static_cast<int>(s)];
}

const char* title(BookingState s)
{
    constexpr const char* titles[] = {
        "booked", "arrived", "measured", "stopped", "turned away", "cancelled", "did not come"};
    return titles[static_cast<int>(s)];
}

QTimeZone Diary::zone() const
{
    const QTimeZone z(store_->setting(QStringLiteral("zone")).toLatin1());
    return z.isValid() ? z : QTimeZone::systemTimeZone();
}

Minute Diary::midnight(const QDate& day) const { return minute_at(day, QTime(0, 0), zone()); }

schedule::Lab Diary::lab(const QDate& from, const QDate& to, long without, bool over) const
{
    schedule::Lab l;
    const QTimeZone z = zone();
    const auto spans_of = [&](const QStringList& week) {
        const auto spans = opening(week, from, to, z);
        return spans ? *spans : std::vector<schedule::Span>{};
    };
    const auto open = spans_of(hours());
    for (const Instrument& i : instruments()) {
        const bench::InstrumentKind& kind = *i.kind;
        if (!i.in_use || !kind.method) continue;
        l.instruments.push_back({i.serial.toStdString(), i.name.toStdString(), *kind.method, open, kind.first_lead,
            kind.each_lead, i.duration_min, kind.after_min, std::nullopt});
    }
    for (const StaffMember& p : staff()) {
        if (!p.active) continue;
        const bool own = std::any_of(p.week.begin(), p.week.end(), [](const QString& d) { return !d.isEmpty(); });
        schedule::Person person{p.name.toStdString(), own ? spans_of(p.week) : open, {}};
        if (p.xray_licence)
            for (const Method m : all_methods())
                if (m->licence) person.licences.insert(m);
        l.staff.push_back(std::move(person));
    }
    QSqlQuery q = run(store_->database(),
        QStringLiteral(
            "SELECT b.id, b.client_id, p.method, i.serial, p.from_minute, p.to_minute FROM booking_part p JOIN booking "
            "b ON b.id = p.booking_id JOIN instrument i ON i.id = p.instrument_id WHERE b.state NOT IN ('cancelled', "
            "'missed') AND (? OR p.outcome = '') AND b.id <> ? AND p.from_minute < ? AND p.to_minute > ? "
            "ORDER BY p.from_minute"),
        {over, big(without), big(minute_at(to.addDays(1), QTime(0, 0), z)), big(minute_at(from, QTime(0, 0), z))});
    while (q.next())
        if (const auto m = method_of(q.value(2).toString().toStdString()))
            l.tests.push_back({static_cast<long>(q.value(0).toLongLong()), static_cast<long>(q.value(1).toLongLong()),
                *m, q.value(3).toString().toStdString(),
                {static_cast<Minute>(q.value(4).toLongLong()), static_cast<Minute>(q.value(5).toLongLong())}});
    return l;
}

namespace {

Booking booking_of(const QSqlQuery& q, const QSqlDatabase& db)
{
    Booking b;
    b.id = q.value(0).toLongLong();
    b.client_id = q.value(1).toLongLong();
    b.state = state_of(q.value(2).toString());
    b.made_at = q.value(3).toString();
    b.made_by = q.value(4).toString();
    b.revision = q.value(5).toLongLong();
    b.sheet_sent_at = q.value(6).toString();
    b.protocols = q.value(7).toString();
    b.note = q.value(8).toString();
    QSqlQuery p = run(db,
        QStringLiteral(
            "SELECT p.method, i.serial, p.from_minute, p.to_minute, i.id, p.visit_id, p.outcome FROM booking_part p "
            "JOIN instrument i ON i.id = p.instrument_id WHERE p.booking_id = ? ORDER BY p.from_minute"),
        {big(b.id)});
    while (p.next()) {
        const auto m = method_of(p.value(0).toString().toStdString());
        if (!m) continue;
        b.parts.push_back({b.id, b.client_id, *m, p.value(1).toString().toStdString(),
            {static_cast<Minute>(p.value(2).toLongLong()), static_cast<Minute>(p.value(3).toLongLong())}});
        b.instruments.push_back(p.value(4).toLongLong());
        b.visits.push_back(p.value(5).toLongLong());
        b.outcomes.push_back(p.value(6).toString());
    }
    return b;
}

} // namespace

std::optional<Booking> Diary::booking(long id) const
{
    QSqlQuery q =
        run(store_->database(), QStringLiteral("SELECT %1 FROM booking WHERE id = ?").arg(booking_columns), {big(id)});
    if (q.next()) return booking_of(q, store_->database());
    return std::nullopt;
}

std::vector<Booking> Diary::day(const QDate& d) const
{
    QSqlQuery q = run(store_->database(),
        QStringLiteral("SELECT %1 FROM booking WHERE state <> 'cancelled' AND id IN (SELECT booking_id FROM "
                       "booking_part WHERE from_minute >= ? AND from_minute < ?)")
            .arg(booking_columns),
        {big(midnight(d)), big(midnight(d.addDays(1)))});
    std::vector<Booking> out;
    while (q.next()) out.push_back(booking_of(q, store_->database()));
    std::stable_sort(out.begin(), out.end(), [](const Booking& a, const Booking& b) { return a.from() < b.from(); });
    return out;
}

std::vector<Booking> Diary::bookings_of(long client_id) const
{
    QSqlQuery q = run(store_->database(),
        QStringLiteral("SELECT %1 FROM booking WHERE client_id = ?").arg(booking_columns), {big(client_id)});
    std::vector<Booking> out;
    while (q.next()) out.push_back(booking_of(q, store_->database()));
    std::stable_sort(out.begin(), out.end(), [](const Booking& a, const Booking& b) { return a.from() > b.from(); });
    return out;
}

Outcome<Booking> Diary::book(Booking b, bool knowingly) { return write(std::move(b), true, knowingly); }
Outcome<Booking> Diary::change(Booking b, bool knowingly) { return write(std::move(b), false, knowingly); }

Outcome<std::vector<Booking>> Diary::book_all(std::vector<Booking> all)
{
    using Result = Outcome<std::vector<Booking>>;
    Transaction transaction(store_->database());
    if (!transaction.is_open()) return Result::refuse(say(transaction.error(), store_->database()));
    for (Booking& b : all) {
        auto stored = write_inside(b, true, false);
        if (!stored) return Result::refuse(stored.messages().front());
        b = std::move(stored).take();
    }
    if (!transaction.commit()) return Result::refuse(say(transaction.error(), store_->database()));
    return all;
}

Outcome<Booking> Diary::write(Booking b, bool fresh, bool knowingly)
{
    using Result = Outcome<Booking>;
    Transaction transaction(store_->database());
    if (!transaction.is_open()) return Result::refuse(say(transaction.error(), store_->database()));
    auto stored = write_inside(std::move(b), fresh, knowingly);
    if (stored && !transaction.commit()) return Result::refuse(say(transaction.error(), store_->database()));
    return stored;
}

Outcome<Booking> Diary::write_inside(Booking b, bool fresh, bool knowingly)
{
    using Result = Outcome<Booking>;
    const QSqlDatabase& db = store_->database();
    if (b.parts.empty())
        return Result::refuse({"missing_field", Level::error, "methods", "A visit needs at least one method."});
    std::sort(b.parts.begin(), b.parts.end(),
        [](const schedule::Slot& a, const schedule::Slot& o) { return a.at.from < o.at.from; });
    if (!fresh) {
        const auto now = booking(b.id);
        if (!now || now->revision != b.revision)
            return Result::refuse({"changed_elsewhere", Level::error, "booking",
                "This visit was changed in another window meanwhile. Look at the day again; nothing was overwritten."});
        if (std::any_of(now->visits.begin(), now->visits.end(), [](long v) { return v != 0; }))
            return Result::refuse(
                {"has_begun", Level::error, "booking", "Its measurement has begun; it cannot be moved any more."});
    }
    const QDate first = local_of(b.parts.front().at.from, zone()).date(),
                last = local_of(b.parts.back().at.to, zone()).date();
    schedule::Lab l = lab(first, last, fresh ? 0 : b.id, !b.walk_in); // who has gone is in nobody's way
    const long mark = fresh ? -1 : b.id;
    for (schedule::Slot& s : b.parts) {
        s.visit = mark;
        s.client = b.client_id;
        l.tests.push_back(s);
    }
    Messages cautions;
    for (const schedule::Conflict& c : schedule::conflicts(l))
        // whether an instrument is ready is not the diary's to know: the planner and the day strip mind the lead time
        // and who has come stands here, whatever the plan says of hours and staff
        if (c.kind != schedule::Constraint::lead_time &&
            !(b.walk_in && (c.kind == schedule::Constraint::open_hours || c.kind == schedule::Constraint::staff)) &&
            std::find(c.visits.begin(), c.visits.end(), mark) != c.visits.end())
            cautions.push_back({"conflict", knowingly ? Level::caution : Level::error, "time", c.words});
    for (const schedule::Slot& s : b.parts)
        if (auto soon = too_soon(b.client_id, s.method, local_of(s.at.from, zone()).date(), fresh ? 0 : b.id)) {
            const bool never = !b.walk_in && soon->code == "never_so_soon";
            soon->level = knowingly && !never ? Level::caution : Level::error;
            if (never) return Result::refuse(*soon);
            cautions.push_back(*soon);
        }
    if (!cautions.empty() && !knowingly) return Result::refuse(cautions);

    QSqlQuery q =
        fresh ? run(db, QStringLiteral("INSERT INTO booking (client_id, made_at, made_by, note) VALUES (?, ?, ?, ?)"),
                    {big(b.client_id), detail::now_utc(), text(b.made_by), text(b.note)})
              : run(db,
                    QStringLiteral(
                        "UPDATE booking SET revision = revision + 1, note = ?, sheet_sent_at = '' WHERE id = ?"),
                    {text(b.note), big(b.id)});
    if (q.lastError().isValid()) return Result::refuse(say(q.lastError(), db));
    if (fresh) b.id = q.lastInsertId().toLongLong();
    q = run(db, QStringLiteral("DELETE FROM booking_part WHERE booking_id = ?"), {big(b.id)});
    for (std::size_t i = 0; i < b.parts.size() && !q.lastError().isValid(); ++i) {
        const schedule::Slot& s = b.parts[i];
        q = run(db,
            QStringLiteral("INSERT INTO booking_part (booking_id, seq, method, instrument_id, from_minute, to_minute) "
                           "SELECT ?, ?, ?, id, ?, ? FROM instrument WHERE serial = ?"),
            {big(b.id), static_cast<int>(i) + 1, QString::fromLatin1(s.method->word), big(s.at.from), big(s.at.to),
                QString::fromStdString(s.instrument)});
        if (!q.lastError().isValid() && q.numRowsAffected() != 1)
            return Result::refuse(
                {"unknown_instrument", Level::error, "instrument", "There is no instrument " + s.instrument + "."});
    }
    if (q.lastError().isValid()) return Result::refuse(say(q.lastError(), db));
    return Result(*booking(b.id), cautions);
}

std::optional<Message> Diary::set_state(long id, BookingState state)
{
    const bool closed =
        state == BookingState::measured || state == BookingState::stopped || state == BookingState::turned_away;
    QSqlQuery q = run(store_->database(),
        QStringLiteral("UPDATE booking SET state = ?, outcome = ?, revision = revision + 1 WHERE id = ?"),
        {closed ? QStringLiteral("done") : QString::fromLatin1(word(state)),
            closed ? QString::fromLatin1(word(state)) : QStringLiteral(""), big(id)});
    if (q.lastError().isValid()) return say(q.lastError(), store_->database());
    return std::nullopt;
}

Outcome<BookingState> Diary::close(long id, const std::vector<Method>& measured_elsewhere)
{
    using Result = Outcome<BookingState>;
    const QSqlDatabase& db = store_->database();
    Transaction transaction(db);
    if (!transaction.is_open()) return Result::refuse(say(transaction.error(), db));
    const auto b = booking(id);
    if (!b) return Result::refuse({"unknown_booking", Level::error, "booking", "There is no such visit."});
    BookingState whole = BookingState::turned_away;
    for (std::size_t i = 0; i < b->parts.size(); ++i) {
        const auto visit = b->visits[i] ? store_->visit(b->visits[i]) : std::nullopt;
        const bool elsewhere = std::find(measured_elsewhere.begin(), measured_elsewhere.end(), b->parts[i].method) !=
                               measured_elsewhere.end();
        const QString outcome = visit       ? visit->outcome
                                : elsewhere ? QStringLiteral("measured")
                                            : QStringLiteral("turned_away");
        if (outcome == QStringLiteral("measured")) whole = BookingState::measured;
        if (outcome == QStringLiteral("stopped") && whole == BookingState::turned_away) whole = BookingState::stopped;
        QSqlQuery q = run(db, QStringLiteral("UPDATE booking_part SET outcome = ? WHERE booking_id = ? AND method = ?"),
            {text(outcome), big(id), QString::fromLatin1(b->parts[i].method->word)});
        if (q.lastError().isValid()) return Result::refuse(say(q.lastError(), db));
    }
    if (auto why = set_state(id, whole)) return Result::refuse(*why);
    if (!transaction.commit()) return Result::refuse(say(transaction.error(), db));
    return whole;
}

std::optional<Message> Diary::too_soon(long client_id, Method method, const QDate& day, long without) const
{
    protocol::HouseRules house;
    QSqlQuery q = run(store_->database(),
        QStringLiteral("SELECT body FROM rulebook WHERE kind = 'house' ORDER BY version DESC LIMIT 1"));
    if (q.next()) house = bench::texts_of(q.value(0).toString().toStdString());
    const int least = std::max(schedule::never_under_days, schedule::retest(method, house).from_days);
    std::optional<QDate> nearest;
    bool tested = false; // what is only planned may still be cancelled
    const auto consider = [&](const QDate& other, bool measured) {
        if (std::abs(other.daysTo(day)) >= least ||
            (nearest && std::abs(other.daysTo(day)) >= std::abs(nearest->daysTo(day))))
            return;
        nearest = other;
        tested = measured;
    };
    for (const Past& p : past(client_id))
        if (p.method == method) consider(p.day, true);
    for (const Booking& b : bookings_of(client_id))
        if (b.id != without && (b.state == BookingState::booked || b.state == BookingState::arrived))
            for (std::size_t i = 0; i < b.parts.size(); ++i)
                if (b.parts[i].method == method && !b.visits[i])
                    consider(local_of(b.parts[i].at.from, zone()).date(), false);
    if (!nearest) return std::nullopt;
    const QLocale english(QLocale::English);
    const bool never = tested && std::abs(nearest->daysTo(day)) < schedule::never_under_days;
    return Message{never ? "never_so_soon" : "too_soon", Level::error, "time",
        std::string(method->title) + (tested ? ": the test of " : ": the one booked for ") +
            english.toString(*nearest, QStringLiteral("d MMMM yyyy")).toStdString() + " is " +
            std::to_string(std::abs(nearest->daysTo(day))) + " days away; the retest interval is " +
            std::to_string(least) + " days. Sooner, a real change is lost in the doubt."};
}

std::optional<Message> Diary::set_visit(long id, Method method, long visit_id)
{
    QSqlQuery q = run(store_->database(),
        QStringLiteral("UPDATE booking_part SET visit_id = ? WHERE booking_id = ? AND method = ?"),
        {big(visit_id), big(id), QString::fromLatin1(method->word)});
    if (q.lastError().isValid()) return say(q.lastError(), store_->database());
    return std::nullopt;
}

std::optional<Message> Diary::note_sheet_sent(long id, const std::map<std::string, int>& protocols)
{
    QSqlQuery q =
        run(store_->database(), QStringLiteral("UPDATE booking SET sheet_sent_at = ?, protocols = ? WHERE id = ?"),
            {detail::now_utc(), QString::fromStdString(bench::table_of(protocols)), big(id)});
    if (q.lastError().isValid()) return say(q.lastError(), store_->database());
    return std::nullopt;
}

std::vector<Diary::Past> Diary::past(long client_id) const
{
    std::vector<Past> out;
    const QTimeZone z = zone();
    const auto add = [&](const QDateTime& at, const QString& method) {
        const auto m = method_of(method.toStdString());
        if (!m || !at.isValid()) return;
        const Past p{at.date(), at.time().hour() * 60 + at.time().minute(), *m};
        if (std::none_of(out.begin(), out.end(), [&](const Past& o) { return o.day == p.day && o.method == p.method; }))
            out.push_back(p);
    };
    for (const VisitRow& v : store_->visits_of(client_id))
        if (v.measured()) add(QDateTime::fromString(v.started_at, Qt::ISODateWithMs).toTimeZone(z), v.method);
    for (const Booking& b : bookings_of(client_id))
        for (std::size_t i = 0; i < b.parts.size(); ++i)
            if (b.outcomes[i] == QStringLiteral("measured") && !b.visits[i])
                add(local_of(b.parts[i].at.from, z), QString::fromLatin1(b.parts[i].method->word));
    std::stable_sort(out.begin(), out.end(), [](const Past& a, const Past& b) { return a.day > b.day; });
    return out;
}

} // namespace fusain::records
