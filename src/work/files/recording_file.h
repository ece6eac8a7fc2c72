// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/channels/signal.h"
#include "bench/base/event.h"
#include "core/base/outcome.h"
#include "core/signal/chamber.h"

#include <QString>

/// Recordings of a signal that were made elsewhere, read by the same readers as a line's (docs/formats/traces.md).
namespace fusain::work {

struct Recording {
    bench::Json body;     ///< of `trial_typed`, source "file", with name and SHA-256
    bench::Signal signal; ///< as it stood in the file
};

/// A swing. Refusals: `file_unreachable`, `file_empty`, `file_too_large` (over 50 MB), what is wrong with line and
/// column, and the reader's own reasons (`never_calm`, `too_short` …): nothing is taken over then.
Outcome<Recording> swing_file(const QString& path);
/// A recording of the chamber: `what` is the word of the take. The same refusals.
Outcome<Recording> chamber_file(
    const QString& path, const std::string& what, const std::optional<chamber::Calibration>& line);

} // namespace fusain::work
