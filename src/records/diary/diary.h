// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/checks/instrument_check.h"
#include "core/before/schedule.h"
#include "core/before/screening.h"
#include "records/diary/screening_kept.h"
#include "records/base/clock.h"
#include "records/store/store.h"

/// The lab's diary: instruments, staff, opening hours, bookings, screenings.
namespace fusain::records {

struct Instrument {
    long id = 0;
    const bench::InstrumentKind* kind = &bench::scale_kind();
    QString name, serial, profile, location;
    QString calibration_due; ///< ISO date; empty: none noted
    bool in_use = true;
    double reference = 0;                ///< of the mass, cylinder, resistor or phantom that belongs to it
    int duration_min = 0;                ///< client on it
    std::optional<double> rated_mass_kg; ///< X-ray table
    QString baseline_from{};             ///< UTC; the control chart counts checks from here on, after a service
    double reference_x = 0;              ///< reactance of a reference network at 50 kHz, Ω; 0: a plain resistor
    QString way{};                       ///< how its numbers come: id of a row of `ways`; empty: nobody has said
    QString layout{};                    ///< of what it shows finished (layouts/*.json); empty: it gives raw readings
    QString check_by{};                  ///< id of a row of bench::check_ways; empty: its kind's reference
};
/// How an instrument's numbers come into the records.
struct Way {
    const char *id, *title;
};
inline constexpr Way ways[] = {{"line", "on a line"}, {"typed", "read off and typed"}, {"file", "from files"}};
/// What is wrong with an instrument before it is stored: one message a field.
[[nodiscard]] Messages check(const Instrument& instrument);

struct StaffMember {
    long id = 0;
    QString name;
    bool xray_licence = false;
    QStringList week; ///< hours a day, Monday first; empty: the lab's hours
    bool active = true;
};

/// What became of a booking. Only measured people count as tested.
enum class BookingState { booked, arrived, measured, stopped, turned_away, cancelled, missed };
const char* word(BookingState state);
/// For the technician: "measured", "turned away", "did not come".
const char* title(BookingState state);
/// Nothing more comes of it.
inline bool is_over(BookingState s) { return s >= BookingState::measured; }

struct Booking {
    long id = 0, client_id = 0;
    BookingState state = BookingState::booked;
    QString made_at, made_by, note, sheet_sent_at;
    long revision = 1;                 ///< counts up with every change, so that two windows do not overwrite each other
    std::vector<schedule::Slot> parts; ///< by time
    std::vector<long> instruments;     ///< ids of the instruments of the parts
    std::vector<long> visits;          ///< ids of the visits that were begun for the parts; 0: not yet
    std::vector<QString> outcomes;     ///< of the parts: "measured", "stopped", "turned_away"; empty: not yet
    bool walk_in = false;              ///< the client stands here: nothing is planned (not stored)
    QString protocols;                 ///< JSON: method → protocol version the preparation was made with
    schedule::Minute from() const { return parts.empty() ? 0 : parts.front().at.from; }
};

/// One screening as it was answered; final.
struct ScreeningRow {
    long id = 0, client_id = 0, booking_id = 0;
    QString at, who;
    ScreeningKept kept;
};

class Diary {
public:
    explicit Diary(std::shared_ptr<Store> store) : store_(std::move(store)) {}

    QTimeZone zone() const;

    std::vector<Instrument> instruments() const;
    std::optional<Instrument> instrument(long id) const;
    Outcome<Instrument> save(Instrument instrument);
    std::vector<StaffMember> staff() const;
    Outcome<StaffMember> save(StaffMember person);
    QStringList hours() const; ///< of the lab, Monday first
    [[nodiscard]] std::optional<Message> set_hours(const QStringList& week);

    /// Everything the planner needs for these days. `without`: a booking to leave out, as when it is moved. `over`:
    /// with tests that ended before the time that was kept for them.
    schedule::Lab lab(const QDate& from, const QDate& to, long without = 0, bool over = true) const;
    /// The bookings of a day, by time; cancelled ones are left out.
    std::vector<Booking> day(const QDate& day) const;
    std::optional<Booking> booking(long id) const;
    std::vector<Booking> bookings_of(long client_id) const; ///< newest first, cancelled ones too
    /// Local midnight of the day.
    schedule::Minute midnight(const QDate& day) const;

    /// Stores a visit. The diary is looked at again in the same transaction: when another window was faster, the clash
    /// is said
    /// (`conflict`) and nothing is stored, unless `knowingly`. The same for a test too soon after another (`too_soon`);
    /// under two weeks is never planned.
    Outcome<Booking> book(Booking booking, bool knowingly = false);
    /// All of them, or none with the reason of the first that cannot be.
    Outcome<std::vector<Booking>> book_all(std::vector<Booking> bookings);
    /// Moves or changes it; refuses (`changed_elsewhere`) when it is not as it was read.
    Outcome<Booking> change(Booking booking, bool knowingly = false);
    [[nodiscard]] std::optional<Message> set_state(long booking_id, BookingState state);
    /// Closes a booking by what became of its parts: those with a visit by that visit, those that are measured
    /// elsewhere by `measured_elsewhere`, the others were turned away. Returned: what became of the whole.
    Outcome<BookingState> close(long booking_id, const std::vector<Method>& measured_elsewhere);
    [[nodiscard]] std::optional<Message> set_visit(long booking_id, Method method, long visit_id);
    [[nodiscard]] std::optional<Message> note_sheet_sent(long booking_id, const std::map<std::string, int>& protocols);

    /// Earlier tests that have a result: day and minute of day, newest first, by method.
    struct Past {
        QDate day;
        int minute_of_day = 0;
        Method method;
    };
    std::vector<Past> past(long client_id) const;
    /// Why a test by this method on this day would come too soon after (or before) another one; nothing when it does
    /// not.
    [[nodiscard]] std::optional<Message> too_soon(
        long client_id, Method method, const QDate& day, long without_booking) const;

    Outcome<ScreeningRow> keep(ScreeningRow row);
    std::optional<ScreeningRow> last_screening(long client_id, std::optional<long> of_booking = {}) const;
    /// The newest before today, for comparison and for what seldom changes.
    std::optional<ScreeningRow> screening_before(long client_id, const QDate& today) const;

    /// Answers of a screening that was left before it was kept: they stay for the rest of its day, over a restart too,
    /// and go with the booking's client. Those of other days are deleted at the first look.
    [[nodiscard]] std::optional<Message> keep_draft(long booking_id, const QDate& day, const ScreeningDraft& draft);
    std::optional<ScreeningDraft> draft(long booking_id, const QDate& today);
    void drop_draft(long booking_id);

    const std::shared_ptr<Store>& store() const { return store_; }

private:
    Outcome<Booking> write(Booking booking, bool fresh, bool knowingly);
    Outcome<Booking> write_inside(Booking booking, bool fresh, bool knowingly); ///< of an open transaction
    std::shared_ptr<Store> store_;
};

} // namespace fusain::records
