// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"

#include <QByteArray>
#include <QString>

/// Files that somebody names: only regular ones are read, never more than is allowed, and nothing is waited for.
namespace fusain::records {

/// Given:    path; the most bytes that are allowed
/// Returned: what stands in the file
/// Refused:  error: file_unreachable (with the system's words), file_irregular (a folder, a pipe, a device, a socket),
///           file_too_large; naming the file. It is opened without waiting, looked at, then read: a pipe without a
///           writer, or a device without an end, hold nobody up
Outcome<QByteArray> read_regular(const QString& path, qint64 most_bytes);
/// Only its first bytes, to see what it is: large ones are read beside the window.
Outcome<QByteArray> head_of_regular(const QString& path, qint64 most_bytes, qint64 head_bytes);

/// A file's name as it is shown: marks that turn the reading direction, and what cannot be seen, are spelt out, so that
/// a program does not look like a picture.
QString plain_name(const QString& path);

} // namespace fusain::records
