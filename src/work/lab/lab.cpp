// SPDX-License-Identifier: GPL-3.0-or-later
#include "work/lab/lab.h"

#include "bench/visit/methods.h"
#include "bench/printed/printed.h"
#include "records/base/clock.h"
#include "records/diary/shipped.h"
#include "records/base/text.h"
#include "version.h"

#include <QFileInfo>

#include <algorithm>
#include <mutex>
#include <ctime>

namespace fusain::work {

namespace {
qint64 clock_offset_ms = 0;
constexpr qint64 tolerated_ms = 1000;      ///< a clock is nudged by parts of a second all day
constexpr qint64 asked_from_ms = 86400000; ///< forward at once
std::function<QDateTime()> machine_clock = QDateTime::currentDateTimeUtc;

/// Since the machine was started, standing still or not.
qint64 up_since_start_ms()
{
    timespec t{};
    ::clock_gettime(CLOCK_BOOTTIME, &t);
    return static_cast<qint64>(t.tv_sec) * 1000 + t.tv_nsec / 1000000;
}

std::function<qint64()> up_ms = up_since_start_ms;

/// The machine's clock, except that it never goes back while the program runs: a clock that is set back would make old
/// things young. What it lost then is made up for by counting on from where it stood. Nor does it leap ahead by more
/// than a day before somebody has said that this is right.
class Forward {
public:
    QDateTime now()
    {
        const QDateTime machine = machine_clock();
        const qint64 up = up_ms();
        if (!last_.isValid()) last_ = machine, last_up_ms_ = up;
        const QDateTime counted = last_.addMSecs(up - last_up_ms_);
        const bool leaps = machine > counted.addMSecs(asked_from_ms);
        if (!leaps) denied_ = false;
        leapt_to_ = leaps && !denied_ ? machine : QDateTime();
        last_ = leaps || machine < counted.addMSecs(-tolerated_ms) ? counted : std::max(machine, last_);
        last_up_ms_ = up;
        return last_;
    }
    const QDateTime& leapt_to() const { return leapt_to_; } ///< and waits for an answer; else invalid
    void settle(bool machine_is_right)
    {
        if (machine_is_right)
            last_ = QDateTime();
        else
            denied_ = true;
        now();
    }

private:
    QDateTime last_, leapt_to_;
    qint64 last_up_ms_ = 0;
    bool denied_ = false; ///< the machine's clock is known to be ahead
};
Forward forward;
std::recursive_mutex clock_mutex; ///< the window's thread and the recorder's ask

} // namespace

QDateTime clock_now()
{
    const std::lock_guard lock(clock_mutex);
    return forward.now().addMSecs(clock_offset_ms);
}

void set_clock(const QDateTime& now)
{
    const std::lock_guard lock(clock_mutex);
    clock_offset_ms = forward.now().msecsTo(now.toUTC());
}

std::optional<ClockJump> clock_jump()
{
    const std::lock_guard lock(clock_mutex);
    const QDateTime counted = clock_now();
    if (!forward.leapt_to().isValid()) return std::nullopt;
    return ClockJump{counted, forward.leapt_to().addMSecs(clock_offset_ms)};
}

void settle_clock_jump(bool machine_is_right)
{
    const std::lock_guard lock(clock_mutex);
    forward.settle(machine_is_right);
}

void set_machine_clock(std::function<QDateTime()> clock, std::function<qint64()> up)
{
    const std::lock_guard lock(clock_mutex);
    machine_clock = std::move(clock);
    up_ms = up ? std::move(up) : up_since_start_ms;
}

bench::Act beginning(const records::Store& store, const records::Client& client, Method method, const QTimeZone& zone,
    const Beginning& with)
{
    const QDateTime now = clock_now().toTimeZone(zone);
    bench::event::Started e = records::beginning_of(client, method, with.started);
    e.software = "fusain " FUSAIN_VERSION;
    e.log = 3;
    e.zone = zone.id().toStdString();
    e.local = now.toString(QStringLiteral("yyyy-MM-ddTHH:mm")).toStdString();
    const auto days_since = [&](const QString& utc) {
        return static_cast<double>(QDateTime::fromString(utc, Qt::ISODateWithMs).secsTo(now)) / 86400;
    };
    if (const auto last = store.last_mass(client.id)) e.last = {last->kg, days_since(last->started_at)};
    // what the pace is judged by: windows of eight weeks that end in the last eight
    const qint64 window_s = 2 * static_cast<qint64>(judgement::pace_window_days) * 86400;
    const QString from = now.toUTC().addSecs(-window_s).toString(Qt::ISODateWithMs);
    for (const auto& weighed : store.masses_since(client.id, from))
        e.weighings.push_back({weighed.kg, days_since(weighed.started_at)});
    const std::string by_age = bench::bench_of(method).beginning(
        client.sex, bench::age_between(e.birth_date, now.date().toString(Qt::ISODate).toStdString()));
    return {bench::event::Started::kind, bench::joined(bench::written(e), bench::joined(by_age, with.of_method))};
}

Lab::Lab(std::shared_ptr<records::Store> opened)
    : store(std::move(opened)), diary(std::make_shared<records::Diary>(store)),
      checks(diary, [this] { return rules.house(); }),
      rules(store, records::shipped_book(), records::shipped_house_rules())
{
    // a lab stands where it stands: the computer's zone is taken once and kept, wherever the computer goes
    if (store->setting(QStringLiteral("zone")).isEmpty())
        static_cast<void>(store->set_setting(QStringLiteral("zone"), // where it cannot be kept, it is taken again
            QString::fromLatin1(QTimeZone::systemTimeZoneId())));
}

QString Lab::name_of(long client_id, bool brief) const
{
    const auto c = store->client(client_id);
    if (!c) return QStringLiteral("client %1").arg(client_id);
    return brief ? c->given_name.left(1) + QStringLiteral(". ") + c->family_name : c->full_name();
}

std::optional<records::Instrument> Lab::instrument(const std::string& serial) const
{
    for (const records::Instrument& i : diary->instruments())
        if (i.serial == q(serial)) return i;
    return std::nullopt;
}

QString Lab::instrument_name(const std::string& serial) const
{
    const auto i = instrument(serial);
    return i ? i->name : q(serial);
}

screening::Person Lab::person(const records::Client& c) const
{
    screening::Person p;
    p.sex = c.sex;
    p.age_y = bench::age_between(c.birth_date.toStdString(), today().toString(Qt::ISODate).toStdString());
    for (const QString& fact : c.facts) p.facts.insert(fact.toStdString());
    p.consent = !c.consent_on.isEmpty();
    p.guardian_consent = !c.guardian_consent_on.isEmpty();
    if (const auto last = store->last_mass(c.id)) p.last_mass_kg = last->kg;
    return p;
}

std::vector<screening::Part> Lab::parts(const records::Booking& b, schedule::Minute from) const
{
    std::vector<screening::Part> out;
    for (const schedule::Slot& s : b.parts)
        out.push_back({s.method, static_cast<double>(std::max(0L, s.at.from - from))});
    return out;
}

screening::Instrument Lab::limits_of(const records::Booking& b) const
{
    screening::Instrument out;
    for (const schedule::Slot& s : b.parts)
        if (const auto i = instrument(s.instrument); i && i->rated_mass_kg) out.rated_mass_kg = i->rated_mass_kg;
    return out;
}

screening::Conditions Lab::conditions(const schedule::Slot& slot, const screening::MethodVerdict& verdict) const
{
    screening::Conditions c;
    const QDateTime at = now();
    c.day = records::date_words(at.date()).toStdString();
    c.instrument = slot.instrument;
    c.minute_of_day = at.time().hour() * 60 + at.time().minute();
    // what the house rules would make of it; what was really chosen decides at the result
    const auto house = rules.house();
    const auto on = instrument(slot.instrument);
    if (on && !on->layout.isEmpty())
        c.equations = bench::printed_schools(on->layout.toStdString());
    else
        c.equations = bench::bench_of(slot.method).schools(house);
    const protocol::Book book = rules.book();
    const auto* p = book.protocol(slot.method);
    if (p) c.protocol = p->id + ' ' + std::to_string(p->version);
    for (const screening::Finding& f : verdict.findings) c.kept[f.rule] = f.verdict;
    return c;
}

QString Lab::folder() const { return QFileInfo(store->file()).absolutePath(); }

schedule::Lab Lab::planning(const QDate& from, const QDate& to, long without) const
{
    schedule::Lab l = diary->lab(from, to, without);
    for (const records::Instrument& i : diary->instruments())
        for (schedule::Instrument& mine : l.instruments)
            if (mine.id == i.serial.toStdString() && checks.ready(i, now()).ready)
                mine.ready = schedule::Span{diary->midnight(today()), diary->midnight(today().addDays(1))};
    return l;
}

schedule::Request Lab::request(
    const records::Client& client, const std::vector<Method>& methods, const QDate& from, const QDate& to) const
{
    schedule::Request r;
    r.client = client.id;
    r.methods = methods;
    r.now = records::minute_of(now());
    r.window = {std::max(diary->midnight(from), r.now), diary->midnight(to.addDays(1))};
    for (QDate d = from; d <= to; d = d.addDays(1)) r.midnights.push_back(diary->midnight(d));
    const auto house = rules.house();
    std::optional<QDate> earliest;
    std::optional<int> usual;
    for (const auto& p : diary->past(client.id)) {
        if (!usual) usual = p.minute_of_day;
        if (std::find(methods.begin(), methods.end(), p.method) == methods.end()) continue;
        // only the newest visit by each method matters; past() gives the newest first
        const QDate next =
            p.day.addDays(std::max(schedule::never_under_days, schedule::retest(p.method, house).from_days));
        if (!earliest || next > *earliest) earliest = next;
    }
    r.usual_minute = usual;
    if (earliest) r.not_before = diary->midnight(*earliest);
    return r;
}

QString methods_words(const records::Booking& b)
{
    QStringList out;
    for (const schedule::Slot& s : b.parts) out << QString::fromLatin1(s.method->place);
    return out.join(QStringLiteral(", then "));
}

} // namespace fusain::work
