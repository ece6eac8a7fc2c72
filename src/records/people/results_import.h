// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "records/people/people.h"

#include <QDateTime>

/// Results of tests that were made elsewhere or before this program, from a table (docs/formats/results-table.md): each
/// row becomes a visit of its own, with its log and its snapshot. Nothing is taken over before every row was looked at.
namespace fusain::records::results {

/// What a column may hold: who, when, by what, or a quantity of the result.
struct Field {
    QString id, title;
    QStringList units;                 ///< it may be written in, the usual one first; empty: no number
    std::vector<const char*> known_as; ///< headings that mean it, folded
    bool is_quantity = false;
};
const std::vector<Field>& fields();
const Field* field(const QString& id);

struct Column {
    QString what, unit; ///< id of a field, empty: not taken; unit: one of its units
};
struct Mapping {
    std::vector<Column> columns; ///< as many as the table has
    QString method;              ///< word of the method where no column says it
    double u_fat_percent = 0;    ///< of percent fat where no column says it; 0: the method's usual error
};
/// By the headings: what is known, each field once.
Mapping guess(const QStringList& header);
/// Of this layout as it was read last; nothing the first time. A layout is its headings.
std::optional<Mapping> remembered(const Store& store, const QStringList& header);
[[nodiscard]] std::optional<Message> remember(Store& store, const QStringList& header, const Mapping& mapping);

struct Check {
    std::vector<Store::Whole> good;
    std::vector<RowTrouble> bad, doubles; ///< doubles: tests that the lab or the table itself already has
    QString doubt;                        ///< of the whole: bodies as nobody has, as with a mass in another unit
};
struct Source {
    QString file, sha256, who;
    QTimeZone zone;
    QDateTime now;
};
/// Every row: whose, when, by what, and whether the numbers make a body. Refusals: `missing_field`, a column that is
/// needed; `cancelled`.
Outcome<Check> check(const Store& store, const Table& table, const Mapping& mapping, const Source& source,
    const Progress& progress = {});

} // namespace fusain::records::results
