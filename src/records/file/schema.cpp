// SPDX-License-Identifier: GPL-3.0-or-later
#include "records/file/schema.h"

#include <QDateTime>
#include <QFile>
#include <QSqlError>
#include <QSqlQuery>
#include <QStringList>

namespace fusain::records {
namespace {

/// Step n brings version n to version n + 1.
const QStringList steps[] = {
    // 1: clients, visits, the append-only log, raw signals, settings
    {
        R"(CREATE TABLE client (
            id INTEGER PRIMARY KEY,
            number TEXT NOT NULL UNIQUE,
            family_name TEXT NOT NULL,
            given_name TEXT NOT NULL,
            birth_date TEXT NOT NULL,
            sex TEXT NOT NULL CHECK (sex IN ('female', 'male')),
            height_cm REAL NOT NULL,
            role TEXT NOT NULL DEFAULT '',
            phone TEXT NOT NULL DEFAULT '',
            note TEXT NOT NULL DEFAULT '',
            search TEXT NOT NULL DEFAULT ''))",
        "CREATE INDEX client_name ON client (family_name, given_name)",
        R"(CREATE TABLE visit (
            id INTEGER PRIMARY KEY,
            client_id INTEGER NOT NULL REFERENCES client (id),
            method TEXT NOT NULL,
            started_at TEXT NOT NULL,
            technician TEXT NOT NULL,
            finished INTEGER NOT NULL DEFAULT 0))",
        "CREATE INDEX visit_client ON visit (client_id, started_at)",
        R"(CREATE TABLE visit_event (
            visit_id INTEGER NOT NULL REFERENCES visit (id),
            seq INTEGER NOT NULL,
            at TEXT NOT NULL,
            who TEXT NOT NULL,
            kind TEXT NOT NULL,
            body TEXT NOT NULL,
            PRIMARY KEY (visit_id, seq)) WITHOUT ROWID)",
        "CREATE TRIGGER visit_event_is_final BEFORE UPDATE ON visit_event BEGIN SELECT RAISE(ABORT, 'the log of a "
        "visit is append-only'); END",
        "CREATE TRIGGER visit_event_stays BEFORE DELETE ON visit_event BEGIN SELECT RAISE(ABORT, 'the log of a visit "
        "is append-only'); END",
        R"(CREATE TRIGGER visit_event_in_order BEFORE INSERT ON visit_event
            WHEN NEW.seq <> (SELECT COALESCE(MAX(seq), 0) + 1 FROM visit_event WHERE visit_id = NEW.visit_id)
            BEGIN SELECT RAISE(ABORT, 'the log of a visit has no gaps'); END)",
        R"(CREATE TABLE signal_chunk (
            visit_id INTEGER NOT NULL REFERENCES visit (id),
            trial INTEGER NOT NULL,
            seq INTEGER NOT NULL,
            samples BLOB NOT NULL,
            PRIMARY KEY (visit_id, trial, seq)) WITHOUT ROWID)",
        "CREATE TABLE setting (key TEXT PRIMARY KEY, value TEXT NOT NULL)",
    },
    // 2: the full client record, instruments, staff, bookings, screenings, checks, protocols, house rules
    {
        "ALTER TABLE client ADD COLUMN email TEXT NOT NULL DEFAULT ''",
        "ALTER TABLE client ADD COLUMN consent_on TEXT NOT NULL DEFAULT ''",
        "ALTER TABLE client ADD COLUMN guardian TEXT NOT NULL DEFAULT ''",
        "ALTER TABLE client ADD COLUMN guardian_consent_on TEXT NOT NULL DEFAULT ''",
        "ALTER TABLE client ADD COLUMN facts TEXT NOT NULL DEFAULT '[]'",
        "ALTER TABLE client ADD COLUMN conditions TEXT NOT NULL DEFAULT ''",
        "ALTER TABLE client ADD COLUMN medicines TEXT NOT NULL DEFAULT ''",
        "ALTER TABLE client ADD COLUMN sport TEXT NOT NULL DEFAULT ''",
        "ALTER TABLE client ADD COLUMN goal TEXT NOT NULL DEFAULT ''",
        "ALTER TABLE client ADD COLUMN other_numbers TEXT NOT NULL DEFAULT ''",
        "ALTER TABLE client ADD COLUMN archived INTEGER NOT NULL DEFAULT 0",
        "DROP INDEX client_name",
        "CREATE INDEX client_name ON client (archived, family_name COLLATE NOCASE, given_name, search)",
        "CREATE INDEX client_birth ON client (birth_date)",
        R"(CREATE TABLE instrument (
            id INTEGER PRIMARY KEY,
            kind TEXT NOT NULL,
            name TEXT NOT NULL,
            serial TEXT NOT NULL UNIQUE,
            profile TEXT NOT NULL DEFAULT '',
            location TEXT NOT NULL DEFAULT '',
            calibration_due TEXT NOT NULL DEFAULT '',
            in_use INTEGER NOT NULL DEFAULT 1,
            settings TEXT NOT NULL DEFAULT '{}'))",
        R"(CREATE TABLE staff (
            id INTEGER PRIMARY KEY,
            name TEXT NOT NULL UNIQUE,
            licences TEXT NOT NULL DEFAULT '[]',
            hours TEXT NOT NULL DEFAULT '{}',
            active INTEGER NOT NULL DEFAULT 1))",
        R"(CREATE TABLE booking (
            id INTEGER PRIMARY KEY,
            client_id INTEGER NOT NULL REFERENCES client (id),
            state TEXT NOT NULL DEFAULT 'booked' CHECK (state IN ('booked', 'arrived', 'done', 'cancelled', 'missed')),
            made_at TEXT NOT NULL,
            made_by TEXT NOT NULL,
            revision INTEGER NOT NULL DEFAULT 1,
            sheet_sent_at TEXT NOT NULL DEFAULT '',
            protocols TEXT NOT NULL DEFAULT '{}',
            note TEXT NOT NULL DEFAULT ''))",
        "CREATE INDEX booking_client ON booking (client_id)",
        R"(CREATE TABLE booking_part (
            booking_id INTEGER NOT NULL REFERENCES booking (id),
            seq INTEGER NOT NULL,
            method TEXT NOT NULL,
            instrument_id INTEGER NOT NULL REFERENCES instrument (id),
            from_minute INTEGER NOT NULL,
            to_minute INTEGER NOT NULL CHECK (to_minute > from_minute),
            visit_id INTEGER REFERENCES visit (id),
            PRIMARY KEY (booking_id, seq)) WITHOUT ROWID)",
        "CREATE INDEX booking_time ON booking_part (from_minute)",
        R"(CREATE TABLE screening (
            id INTEGER PRIMARY KEY,
            client_id INTEGER NOT NULL REFERENCES client (id),
            booking_id INTEGER REFERENCES booking (id),
            at TEXT NOT NULL,
            who TEXT NOT NULL,
            body TEXT NOT NULL))",
        "CREATE INDEX screening_client ON screening (client_id, at)",
        "CREATE TRIGGER screening_is_final BEFORE UPDATE OF at, who, body ON screening BEGIN SELECT RAISE(ABORT, 'a "
        "screening is kept as it was answered'); END",
        R"(CREATE TABLE check_run (
            id INTEGER PRIMARY KEY,
            instrument_id INTEGER NOT NULL REFERENCES instrument (id),
            started_at TEXT NOT NULL,
            who TEXT NOT NULL,
            finished_at TEXT NOT NULL DEFAULT '',
            passed INTEGER,
            value REAL,
            words TEXT NOT NULL DEFAULT ''))",
        "CREATE INDEX check_instrument ON check_run (instrument_id, started_at)",
        R"(CREATE TABLE check_event (
            check_id INTEGER NOT NULL REFERENCES check_run (id),
            seq INTEGER NOT NULL,
            at TEXT NOT NULL,
            who TEXT NOT NULL,
            kind TEXT NOT NULL,
            body TEXT NOT NULL,
            PRIMARY KEY (check_id, seq)) WITHOUT ROWID)",
        "CREATE TRIGGER check_event_is_final BEFORE UPDATE ON check_event BEGIN SELECT RAISE(ABORT, 'the log of a "
        "check is append-only'); END",
        "CREATE TRIGGER check_event_stays BEFORE DELETE ON check_event BEGIN SELECT RAISE(ABORT, 'the log of a check "
        "is append-only'); END",
        R"(CREATE TABLE rulebook (
            kind TEXT NOT NULL,
            version INTEGER NOT NULL,
            at TEXT NOT NULL,
            who TEXT NOT NULL,
            body TEXT NOT NULL,
            PRIMARY KEY (kind, version)) WITHOUT ROWID)",
        "CREATE TRIGGER rulebook_is_final BEFORE UPDATE ON rulebook BEGIN SELECT RAISE(ABORT, 'a version of a rule "
        "stays as it was'); END",
        "CREATE TRIGGER rulebook_stays BEFORE DELETE ON rulebook BEGIN SELECT RAISE(ABORT, 'a version of a rule stays "
        "as it was'); END",
        // what is left of a deleted client: that there was one, and how much
        "CREATE TABLE erased (id INTEGER PRIMARY KEY, at TEXT NOT NULL, who TEXT NOT NULL, visits INTEGER NOT NULL)",
    },
    // 3: signals of other methods than the load cell
    {
        "ALTER TABLE signal_chunk ADD COLUMN columns TEXT NOT NULL DEFAULT 't_s,mass_kg'",
    },
    // 4: what became of a visit and of each part of a booking: only people who were measured count as tested
    {
        // the few records that others were merged into, for a look at every new number
        "CREATE INDEX client_merged ON client (other_numbers) WHERE other_numbers <> ''",
        "ALTER TABLE visit ADD COLUMN outcome TEXT NOT NULL DEFAULT ''",
        "UPDATE visit SET outcome = CASE WHEN EXISTS (SELECT 1 FROM visit_event e WHERE e.visit_id = visit.id AND "
        "e.kind = 'finished') THEN 'measured' ELSE 'stopped' END WHERE finished = 1",
        "ALTER TABLE booking ADD COLUMN outcome TEXT NOT NULL DEFAULT ''",
        "ALTER TABLE booking_part ADD COLUMN outcome TEXT NOT NULL DEFAULT ''",
        "UPDATE booking_part SET outcome = COALESCE((SELECT v.outcome FROM visit v WHERE v.id = "
        "booking_part.visit_id), '')",
        // closed parts of methods that are measured elsewhere count unless the last screening turned the client away
        R"(UPDATE booking_part SET outcome = 'measured' WHERE outcome = '' AND COALESCE(visit_id, 0) = 0
            AND method IN ('impedance', 'absorptiometry')
            AND booking_id IN (SELECT id FROM booking WHERE state = 'done')
            AND NOT EXISTS (SELECT 1 FROM screening s, json_each(s.body, '$.verdicts') j
                WHERE s.id = (SELECT MAX(t.id) FROM screening t WHERE t.booking_id = booking_part.booking_id)
                AND json_extract(j.value, '$.method') = booking_part.method
                    AND json_extract(j.value, '$.verdict') IN ('no', 'another_day')
                AND json_extract(j.value, '$.override') IS NULL))",
        "UPDATE booking_part SET outcome = 'turned_away' WHERE outcome = '' AND booking_id IN (SELECT id FROM booking "
        "WHERE state = 'done')",
        R"(UPDATE booking SET outcome = CASE
            WHEN EXISTS (SELECT 1 FROM booking_part p WHERE p.booking_id = booking.id
                AND p.outcome = 'measured') THEN 'measured'
            WHEN EXISTS (SELECT 1 FROM booking_part p WHERE p.booking_id = booking.id
                AND p.outcome = 'stopped') THEN 'stopped'
            ELSE 'turned_away' END WHERE state = 'done')",
    },
    // 5: a visit belongs to the window that measures it
    {
        R"(CREATE TABLE visit_lease (
            visit_id INTEGER PRIMARY KEY,
            holder TEXT NOT NULL,
            machine TEXT NOT NULL,
            pid INTEGER NOT NULL,
            born TEXT NOT NULL,
            who TEXT NOT NULL,
            since TEXT NOT NULL,
            beat TEXT NOT NULL))",
    },
    // 6: results as they were told (old ones are made from their logs in the same transaction); big recordings beside
    {
        R"(CREATE TABLE snapshot (
            id INTEGER PRIMARY KEY,
            visit_id INTEGER NOT NULL REFERENCES visit (id),
            seq INTEGER NOT NULL,
            at TEXT NOT NULL,
            who TEXT NOT NULL,
            made_by TEXT NOT NULL CHECK (made_by IN ('visit', 'migration')),
            body TEXT NOT NULL,
            UNIQUE (visit_id, seq)))",
        "CREATE TRIGGER snapshot_is_final BEFORE UPDATE ON snapshot BEGIN SELECT RAISE(ABORT, 'what was told stays as "
        "it was told'); END",
        "CREATE TRIGGER snapshot_stays BEFORE DELETE ON snapshot BEGIN SELECT RAISE(ABORT, 'what was told stays as it "
        "was told'); END",
        "CREATE INDEX visit_open ON visit (started_at) WHERE finished = 0",
        R"(CREATE TABLE raw_file (
            visit_id INTEGER NOT NULL REFERENCES visit (id),
            trial INTEGER NOT NULL,
            sha256 TEXT NOT NULL,
            bytes INTEGER NOT NULL,
            PRIMARY KEY (visit_id, trial)) WITHOUT ROWID)",
        "CREATE INDEX raw_file_name ON raw_file (sha256)",
    },
    // 7: what is kept of a client beside visits: folds and girths, days and food, plans, what was told
    {
        R"(CREATE TABLE client_event (
            id INTEGER PRIMARY KEY,
            client_id INTEGER NOT NULL REFERENCES client (id),
            day TEXT NOT NULL,
            at TEXT NOT NULL,
            who TEXT NOT NULL,
            kind TEXT NOT NULL,
            body TEXT NOT NULL))",
        "CREATE INDEX client_event_client ON client_event (client_id, id)",
        "CREATE TRIGGER client_event_is_final BEFORE UPDATE OF day, at, who, kind, body ON client_event BEGIN SELECT "
        "RAISE(ABORT, 'what was kept of a client stays as it was kept'); END",
        "CREATE TRIGGER client_event_stays BEFORE DELETE ON client_event BEGIN SELECT RAISE(ABORT, 'what was kept of a "
        "client stays as it was kept'); END",
    },
    // 8: files that are kept with a visit: which visit keeps which; that it does stands in its log
    {
        R"(CREATE TABLE attached_file (
            visit_id INTEGER NOT NULL REFERENCES visit (id),
            sha256 TEXT NOT NULL,
            bytes INTEGER NOT NULL,
            PRIMARY KEY (visit_id, sha256)) WITHOUT ROWID)",
        "CREATE INDEX attached_file_name ON attached_file (sha256)",
    },
    // 9: studies of the lab's precision, and of instruments beside each other; drills of a practice folder
    {
        R"(CREATE TABLE study_event (
            id INTEGER PRIMARY KEY,
            study INTEGER NOT NULL,
            at TEXT NOT NULL,
            who TEXT NOT NULL,
            kind TEXT NOT NULL,
            body TEXT NOT NULL))",
        "CREATE TRIGGER study_event_is_final BEFORE UPDATE ON study_event BEGIN SELECT RAISE(ABORT, 'the log of a "
        "study is append-only'); END",
        "CREATE TRIGGER study_event_stays BEFORE DELETE ON study_event BEGIN SELECT RAISE(ABORT, 'the log of a study "
        "is append-only'); END",
        R"(CREATE TABLE drill_event (
            id INTEGER PRIMARY KEY,
            run INTEGER NOT NULL,
            at TEXT NOT NULL,
            who TEXT NOT NULL,
            kind TEXT NOT NULL,
            body TEXT NOT NULL))",
        "CREATE TRIGGER drill_event_is_final BEFORE UPDATE ON drill_event BEGIN SELECT RAISE(ABORT, 'the log of a "
        "drill is append-only'); END",
        "CREATE TRIGGER drill_event_stays BEFORE DELETE ON drill_event BEGIN SELECT RAISE(ABORT, 'the log of a drill "
        "is append-only'); END",
    },
    // 10: printouts that came into the watched folder and are of no visit here
    {
        "CREATE TABLE set_aside (sha256 TEXT PRIMARY KEY, at TEXT NOT NULL, who TEXT NOT NULL) WITHOUT ROWID",
    },
};

constexpr int snapshots_since = 6;

int pragma(QSqlDatabase& db, const char* name)
{
    QSqlQuery q(db);
    q.exec(QStringLiteral("PRAGMA %1").arg(name));
    return q.next() ? q.value(0).toInt() : 0;
}

/// A whole and consistent copy beside the file, also of what is still in its journal. Its name is never in the way.
/// Returned: what went wrong; `copy` is its name.
QString back_up(QSqlDatabase& db, const QString& file, QString& copy)
{
    const QString stem = file + QStringLiteral(".before-v%1-%2")
                                    .arg(newest_schema())
                                    .arg(QDateTime::currentDateTimeUtc().toString(QStringLiteral("yyyyMMdd-HHmmss")));
    copy = stem;
    for (int n = 2; QFile::exists(copy); ++n) copy = stem + QStringLiteral("-%1").arg(n);
    QSqlQuery q(db);
    q.prepare(QStringLiteral("VACUUM INTO ?"));
    q.addBindValue(copy);
    if (q.exec()) return {};
    QFile::remove(copy);
    return q.lastError().text();
}

} // namespace

int newest_schema() { return static_cast<int>(std::size(steps)); }

std::optional<Message> migrate(QSqlDatabase& db, const QString& file, const std::function<QString()>& fill_snapshots)
{
    int version = pragma(db, "user_version");
    const int id = pragma(db, "application_id"), tables = pragma(db, "schema_version");
    if (id != application_id && tables > 0) // look_at (lab_file.h) cannot tell while everything is in the journal
        return Message{"lab_foreign", Level::error, "lab",
            "This file is a database of another program. Nothing was changed. Choose another place with --lab."};
    if (version > newest_schema())
        return Message{"lab_newer", Level::error, "lab",
            "This lab was last used with a newer Fusain (file version " + std::to_string(version) +
                ", this program knows " + std::to_string(newest_schema()) +
                "). Nothing was changed. Use the newer program."};
    const int begun_at = version;
    QString copy;
    if (version > 0 && version < newest_schema())
        if (const QString wrong = back_up(db, file, copy); !wrong.isEmpty())
            return Message{"lab_unreachable", Level::error, "lab",
                "No copy could be made before bringing the lab up to date (" + wrong.toStdString() +
                    "), so nothing was changed. Is the disk full?"};

    while (version < newest_schema()) {
        QSqlQuery q(db);
        QString wrong;
        if (!q.exec(QStringLiteral("BEGIN IMMEDIATE"))) wrong = q.lastError().text();
        // another window may have been faster: the version that counts is the one inside the transaction
        const int step = version = pragma(db, "user_version");
        if (wrong.isEmpty() && step >= newest_schema()) {
            q.exec(QStringLiteral("ROLLBACK"));
            return std::nullopt;
        }
        const auto all = [&](const QStringList& statements) {
            for (const QString& statement : statements)
                if (wrong.isEmpty() && !q.exec(statement)) wrong = q.lastError().text();
        };
        all(steps[step]);
        q.finish();
        if (wrong.isEmpty() && step + 1 == snapshots_since) wrong = fill_snapshots();
        all({QStringLiteral("PRAGMA application_id = %1").arg(application_id),
            QStringLiteral("PRAGMA user_version = %1").arg(step + 1)});
        if (wrong.isEmpty() && !q.exec(QStringLiteral("COMMIT"))) wrong = q.lastError().text();
        if (!wrong.isEmpty()) {
            q.exec(QStringLiteral("ROLLBACK"));
            // nothing was changed: its copy is of no use, unless an earlier step has come through
            if (!copy.isEmpty() && pragma(db, "user_version") == begun_at) QFile::remove(copy);
            return Message{wrong == QStringLiteral("cancelled") ? "lab_not_upgraded" : "lab_unreachable", Level::error,
                "lab", "The lab could not be brought up to date (" + wrong.toStdString() + "). Nothing was changed."};
        }
        version = step + 1;
    }
    return std::nullopt;
}

} // namespace fusain::records
