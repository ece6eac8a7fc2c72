// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/channels/signal.h"
#include "bench/visit/visit.h"
#include "core/base/outcome.h"
#include "records/file/lease.h"
#include "records/store/client_search.h"
#include "records/visits/snapshot.h"

#include <QSqlDatabase>
#include <QString>
#include <QStringList>

#include <memory>

/// The lab's records: clients, visits, the append-only log of each visit and its raw signals, in one SQLite file
/// (docs/formats/lab-file.md).
namespace fusain::records {

struct Client {
    long id = 0;    ///< 0: not stored yet
    QString number; ///< the lab's own number; given on storing when empty
    QString family_name, given_name;
    QString birth_date; ///< ISO date
    Sex sex = Sex::female;
    double height_cm = 0;
    QString role, phone, note;
    QString email;
    QString consent_on;                    ///< ISO date of the signed consent; empty: none
    QString guardian, guardian_consent_on; ///< for minors
    QStringList facts;                     ///< ids of standing facts (data/protocols/questions.json)
    QString conditions, medicines, sport, goal;
    QString other_numbers; ///< of records that were merged into this one
    bool archived = false;

    QString full_name() const { return given_name + ' ' + family_name; }
};
/// What a visit of theirs by this method begins with, as the record stands.
bench::event::Started beginning_of(const Client& client, Method method, bench::event::Started with = {});

struct VisitRow {
    long id = 0, client_id = 0;
    QString method, started_at, technician;
    bool finished = false; ///< nothing more is measured in it
    QString outcome;       ///< "measured", "stopped"; empty while it is open
    bool measured() const { return outcome == QStringLiteral("measured"); }
};

using bench::SignalChunk;

/// What is wrong with a client before it is stored: one message a field. `today` is an ISO date.
[[nodiscard]] Messages check(const Client& client, const QString& today);

/// One connection to one lab file. Use from the thread that opened it only.
class Store {
public:
    /// Opens or makes the lab file. Refusals: lab_newer, lab_damaged, lab_locked, lab_read_only, lab_unreachable,
    /// lab_foreign. A file is never overwritten; before a migration a copy is made beside it.
    /// `go_on` is asked while an older lab is brought up to date, which may take minutes (lab_not_upgraded: it said
    /// no).
    static Outcome<std::shared_ptr<Store>> open(const QString& file, const GoOn& go_on = {});
    ~Store();
    Store(const Store&) = delete;
    Store& operator=(const Store&) = delete;

    QString file() const { return file_; }

    Outcome<Client> save(Client client);
    /// The same inside a transaction that is open already; gives the client its id and number.
    [[nodiscard]] std::optional<Message> save_within(Client& client);
    std::optional<Client> client(long id) const;
    /// Every word must begin a word of name, number, role or phone; case and accents do not matter. Empty: everybody,
    /// by name.
    std::vector<Client> find_clients(const QString& words, int limit = 500, int from = 0, bool archived = false) const;
    QStringList roles() const; ///< of those in the list
    std::vector<Client> clients_of_role(const QString& role) const;
    int count_clients(const QString& words, bool archived = false) const;

    /// The first events of a visit (`started`, and `stops` when the screening was done before) in one transaction.
    /// With a window it is that window's from its first event on (lease.h).
    Outcome<long> begin_visit(long client_id, const QString& method, const std::vector<bench::Event>& first,
        const std::optional<Window>& window = {});
    Outcome<long> begin_visit(long client_id, const QString& method, const bench::Event& started)
    {
        return begin_visit(client_id, method, std::vector{started});
    }
    /// Whole visits that were measured elsewhere, each with its log from `started` to `finished`, and their snapshots:
    /// all of them or none. `go_on` is asked now and then (`cancelled`).
    struct Whole {
        long client_id = 0;
        std::vector<bench::Event> events;
    };
    [[nodiscard]] std::optional<Message> add_whole(const std::vector<Whole>& visits, const GoOn& go_on = {});
    /// Durable when it returns: an accepted value survives a power cut. The event must be the next of its visit. With
    /// the event that finishes a visit, and with every later choice, goes the snapshot of what is told from then on.
    /// Refused while the visit is another window's. `beside`: what else is done in the same transaction; where it
    /// refuses, the event is not stored either.
    [[nodiscard]] std::optional<Message> append(long visit_id, const bench::Event& event, const QString& window = {},
        const std::function<std::optional<Message>()>& beside = {});
    std::vector<bench::Event> events(long visit_id) const;
    long last_seq(long visit_id) const;                    ///< of its newest event; 0: none
    std::vector<VisitRow> visits_of(long client_id) const; ///< newest first
    std::optional<VisitRow> visit(long visit_id) const;
    /// The newest visit that was begun and neither finished nor stopped, if any: to go on after a crash.
    std::optional<VisitRow> open_visit() const;
    /// Replays the log. Refuses when it has a gap or an event nobody knows.
    Outcome<bench::Visit> replay(long visit_id) const;
    /// What was told of a measured visit last. Nothing while it was never finished.
    std::optional<Snapshot> snapshot(long visit_id) const { return snapshots::of_visit(db_, visit_id); }
    /// The same of all measured visits of a client, by visit.
    std::map<long, Snapshot> snapshots_of(long client_id) const { return snapshots::of_client(db_, client_id); }
    /// The client's newest mass, of whatever visit; with the moment the visit began, UTC.
    struct Weighed {
        double kg = 0;
        QString started_at;
    };
    std::optional<Weighed> last_mass(long client_id) const;
    /// The last weighing of each visit that began at that moment (UTC) or later, the oldest first.
    std::vector<Weighed> masses_since(long client_id, const QString& at_utc) const;
    /// The lab's zone for a visit: the one it was made in, or the lab's own for older ones.
    QTimeZone zone_of(const bench::Visit& visit) const;

    [[nodiscard]] std::optional<Message> append_signal(const SignalChunk& chunk);
    /// Whole, wherever it lies; empty when there is none. Refusals: raw_missing, raw_damaged (raw.h).
    Outcome<bench::Signal> signal(long visit_id, int trial) const;
    std::vector<int> recorded(long visit_id) const; ///< trials of which there is a recording

    QString setting(const QString& key, const QString& otherwise = {}) const;
    [[nodiscard]] std::optional<Message> set_setting(const QString& key, const QString& value);

    /// For the other rooms of this floor (people.h, diary.h, checks.h, rulebook.h).
    const QSqlDatabase& database() const { return db_; }

private:
    Store(QSqlDatabase db, QString file) : db_(std::move(db)), file_(std::move(file)) {}
    /// The snapshot that goes with an event, inside its transaction.
    QSqlError keep_told(long visit_id, const bench::Event& last) const;
    QSqlDatabase db_;
    QString file_;
    mutable ClientSearch search_; ///< what it holds is the file's, only nearer
};

/// Lowercase without accents: "Quéméner" → "quemener".
QString folded(const QString& text);

} // namespace fusain::records
