// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"
#include "work/reading/history.h"

#include <QByteArray>

/// Everything that was measured on one client, as files for elsewhere (docs/formats/quantities-file.md).
namespace fusain::work {

/// One row a quantity: day, time, method, instrument, equations, quantity, value, unit, standard uncertainty. UTF-8,
/// commas, quotes as in RFC 4180; numbers with enough digits to read back the same.
QByteArray as_csv(const History& history);
QByteArray as_json(const History& history);
/// Both beside each other in the folder. Returned: path of the CSV. Refusals: `file_unreachable`.
Outcome<QString> save_quantities(const History& history, const QString& folder);

} // namespace fusain::work
