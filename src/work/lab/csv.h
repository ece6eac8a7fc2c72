// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/csv.h"

#include <QString>

namespace fusain::work {

/// A text in a table with commas: in quotes where it must be (RFC 4180), and no formula to a spreadsheet.
inline QString csv_cell(const QString& told)
{
    const QString text = QString::fromStdString(csv::without_formula(told.toStdString()));
    if (!text.contains(',') && !text.contains('"') && !text.contains('\n')) return text;
    return '"' + QString(text).replace('"', QStringLiteral("\"\"")) + '"';
}

} // namespace fusain::work
