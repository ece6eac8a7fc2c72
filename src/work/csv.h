// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <QString>

namespace fusain::work {

/// A cell of a table with commas; in quotes where it must be (RFC 4180).
inline QString csv_cell(const QString& text)
{
    if (!text.contains(',') && !text.contains('"') && !text.contains('\n')) return text;
    return '"' + QString(text).replace('"', QStringLiteral("\"\"")) + '"';
}

} // namespace fusain::work
