// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "records/store/store.h"

#include <atomic>
#include <functional>

#include <QDate>
#include <QTimeZone>

/// What is done with whole client records: looking for doubles, merging, handing out, deleting, importing lists.
namespace fusain::records {

/// A record that may be the same person, and why one thinks so.
struct Likeness {
    Client client;
    QString why;
};
/// Records that may be the same person: same name (either way round, accents and case ignored) · same date of birth and
/// a family name that differs by two letters at most · same phone or e-mail.
std::vector<Likeness> likely_same(const Store& store, const Client& client);

/// Everything of `away` goes to `keep`: visits, bookings, screenings. `away` disappears, its number is still found.
/// Fields that are empty in `keep` are filled from `away`. One transaction: all or nothing.
[[nodiscard]] std::optional<Message> merge(Store& store, long keep, long away);

/// Everything the lab holds on one person, into a new folder inside `folder` (docs/formats/person-export.md). Returned:
/// its path.
Outcome<QString> export_person(const Store& store, long client_id, const QString& folder);

/// Deletes the client with every visit, signal, booking and screening, the bytes overwritten, and the sheets in the
/// lab's folder. What is left is one counted entry: when, by whom, how many visits. Refuses while a visit of the client
/// is open (`visit_open`). `zone`: of the lab, for letters from before they were named by their booking. What else
/// names them is found by `also_held`. Readers of the file are waited for; where one does not end, the record is gone
/// all the same and a caution `bytes_remain` says when its bytes will be.
[[nodiscard]] std::optional<Message> erase(Store& store, long client_id, const QString& who, const QTimeZone& zone);
int erased_count(const Store& store);

// — importing a list —

/// A CSV file as it lies there: separator and encoding found out, not asked.
struct Table {
    QString encoding; ///< "UTF-8", "Windows-1252"
    QString sha256;   ///< of the file's bytes
    char separator = ',';
    QStringList header;
    std::vector<QStringList> rows;
    std::vector<long> lines; ///< physical line each row begins on
};
/// Progress: rows done so far; return false to stop. Called every few hundred rows.
using Progress = std::function<bool(std::size_t)>;
/// Refusals: `file_unreachable`, `file_empty`, `file_too_large` (over 200 MB), `bad_csv` (a quote never closed, no
/// header), `cancelled`.
Outcome<Table> read_table(const QString& path, const Progress& progress = {});

/// A date as lists write it: 1994-03-27, 27.03.1994, 27/03/1994; invalid when it is none.
QDate read_date(const QString& text);

/// A field of a client that a column may fill.
struct ImportField {
    const char* id;
    const char* title;
    bool needed;
    std::vector<const char*> known_as; ///< headings that mean it, folded
};
const std::vector<ImportField>& import_fields();
/// field id → column; −1 when no heading fits.
std::map<QString, int> guess_mapping(const QStringList& header);

struct RowTrouble {
    long line = 0;
    QString text;
};
struct ImportCheck {
    std::vector<Client> good;
    std::vector<RowTrouble> bad;
    std::vector<RowTrouble> doubles; ///< numbers or persons that the lab or the list itself already has
};
/// Every row against the same checks as the form. Dates as 1994-03-27, 27.03.1994 or 27/03/1994; sex as f, female, w,
/// m, male; height in cm.
Outcome<ImportCheck> check_import(const Store& store, const Table& table, const std::map<QString, int>& mapping,
    const QString& today, const Progress& progress = {});
/// All of them or none. Refusals: what the lab said, `cancelled`.
[[nodiscard]] std::optional<Message> import_clients(
    Store& store, const std::vector<Client>& clients, const Progress& progress = {});

} // namespace fusain::records
