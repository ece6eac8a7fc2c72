// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/before/preparation.h"
#include "core/before/screening.h"
#include "records/diary/checks.h"
#include "records/diary/diary.h"
#include "records/diary/rulebook.h"

#include <QObject>

#include <functional>

/// What the rooms share: the lab's diary, checks and rules, and the lab's clock. No widgets.
namespace fusain::work {

/// The lab's clock. It is the machine's, except in the demo, which may begin at another hour and runs on from there.
QDateTime clock_now();
void set_clock(const QDateTime& now);
/// The machine's clock went forward by more than a day at once, to `to`; counted on from where it stood it is `from`.
/// Until somebody says which is right, the lab's clock counts on.
struct ClockJump {
    QDateTime from, to;
};
std::optional<ClockJump> clock_jump();
/// The answer to it: true, the machine is right; false, the lab counts on, and the machine's clock is followed again
/// once it has been set back.
void settle_clock_jump(bool machine_is_right);
/// For tests: what the machine's clock says, and for how long it has been on (nothing: the machine's own).
void set_machine_clock(std::function<QDateTime()> clock, std::function<qint64()> up_ms = {});

/// What a visit is begun with besides client, method and moment: booking, instrument, house rules; and what the
/// method's own beginning says (a body of its own, bench/base/event.h).
struct Beginning {
    bench::event::Started started{};
    std::string of_method = "{}";
};
/// The event a visit begins with now: with the lab's clock, the last visit, a child's conversion.
bench::Act beginning(const records::Store& store, const records::Client& client, Method method, const QTimeZone& zone,
    const Beginning& with = {});

class Lab : public QObject {
    Q_OBJECT
public:
    explicit Lab(std::shared_ptr<records::Store> opened);

    std::shared_ptr<records::Store> store;
    std::shared_ptr<records::Diary> diary;
    records::Checks checks;
    records::Rulebook rules;

    QDateTime now() const { return clock_now().toTimeZone(diary->zone()); }
    QDate today() const { return now().date(); }
    /// Names of the client of a booking; "S. Morvan" when short.
    QString name_of(long client_id, bool brief = false) const;
    QString instrument_name(const std::string& serial) const;
    std::optional<records::Instrument> instrument(const std::string& serial) const;

    screening::Person person(const records::Client& client) const;
    /// Parts as seen from a moment: minutes from then.
    std::vector<screening::Part> parts(const records::Booking& booking, schedule::Minute from) const;
    screening::Instrument limits_of(const records::Booking& booking) const;
    /// The conditions of a method as they are now, for comparison.
    screening::Conditions conditions(const schedule::Slot& slot, const screening::MethodVerdict& verdict) const;

    QString folder() const;

    /// The diary of these days for the planner, with what is ready today.
    schedule::Lab planning(const QDate& from, const QDate& to, long without = 0) const;
    /// A request to the planner for this client.
    schedule::Request request(
        const records::Client& client, const std::vector<Method>& methods, const QDate& from, const QDate& to) const;

    void say_changed() { emit changed(); }

signals:
    void changed(); ///< diary, checks or rules are not what they were
};

/// "analyser, then chamber"
QString methods_words(const records::Booking& booking);

} // namespace fusain::work
