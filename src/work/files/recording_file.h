// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/channels/signal.h"
#include "bench/chamber/chamber_events.h"
#include "bench/tank/tank_events.h"
#include "core/base/outcome.h"
#include "core/signal/chamber.h"

#include <QString>

/// Recordings of a signal that were made elsewhere, read by the same readers as a line's (docs/formats/traces.md).
namespace fusain::work {

/// What the reader made of it, with the file's name and SHA-256, and the signal as it stood there.
template <class Typed>
struct Recording {
    Typed typed;
    bench::Signal signal;
};
using SwingRecording = Recording<bench::event::WeighingTyped>;
using ChamberRecording = Recording<bench::event::VolumeTyped>;

/// A swing. Refusals: `file_unreachable`, `file_empty`, `file_too_large` (over 50 MB), what is wrong with line and
/// column, and the reader's own reasons (`never_calm`, `too_short` …): nothing is taken over then.
Outcome<SwingRecording> swing_file(const QString& path);
/// A recording of the chamber: `what` is the word of the take. The same refusals.
Outcome<ChamberRecording> chamber_file(
    const QString& path, const std::string& what, const std::optional<chamber::Calibration>& line);

} // namespace fusain::work
