// SPDX-License-Identifier: GPL-3.0-or-later
#include "work/files/recording_file.h"

#include "bench/chamber/chamber_take.h"
#include "bench/files/trace_file.h"
#include "bench/tank/tank_take.h"
#include "records/file/regular.h"

#include <QCryptographicHash>
#include <QFile>
#include <QFileInfo>

#include <sstream>

namespace fusain::work {
namespace {

constexpr qint64 largest = 50'000'000;

Message about(const QString& name, const char* code, const std::string& text)
{
    return {code, Level::error, "file", name.toStdString() + ": " + text};
}

/// Bytes, and what every reading from a file keeps; `of`: what the samples become.
template <class R, class Read>
Outcome<R> with_file(const QString& path, Read read)
{
    using Result = Outcome<R>;
    const QString name = records::plain_name(path);
    const auto taken = records::read_regular(path, largest);
    if (!taken) return Result::refuse(taken.messages());
    const QByteArray& bytes = *taken;
    if (bytes.isEmpty()) return Result::refuse(about(name, "file_empty", "it is empty."));
    std::istringstream in(bytes.toStdString());
    auto done = read(in);
    if (!done) {
        Message m = done.messages().front();
        m.text = name.toStdString() + ": " + m.text;
        return Result::refuse(m);
    }
    R out = std::move(done).take();
    out.typed.source = "file";
    out.typed.file = name.toStdString();
    out.typed.sha256 = QCryptographicHash::hash(bytes, QCryptographicHash::Sha256).toHex().toStdString();
    return out;
}

/// Why the reader gives no reading.
Message not_good(const Messages& why)
{
    return why.empty() ? Message{"too_short", Level::repeat, "file", "The recording is too short to be read."}
                       : why.front();
}

} // namespace

Outcome<SwingRecording> swing_file(const QString& path)
{
    using Read = Outcome<SwingRecording>;
    return with_file<SwingRecording>(path, [](std::istream& in) -> Read {
        const auto trace = bench::read_swing_trace(in);
        if (!trace) return Read::refuse(trace.messages());
        const swing::State state = swing::read(*trace);
        if (!state.reading) return Read::refuse(not_good(state.messages));
        SwingRecording out{{}, bench::signal_of(*trace)};
        out.typed.what = bench::take::weighing;
        out.typed.recorded = state.reading;
        return out;
    });
}

Outcome<ChamberRecording> chamber_file(
    const QString& path, const std::string& what, const std::optional<chamber::Calibration>& line)
{
    using Read = Outcome<ChamberRecording>;
    return with_file<ChamberRecording>(path, [&](std::istream& in) -> Read {
        const auto samples = bench::read_chamber_trace(in);
        if (!samples) return Read::refuse(samples.messages());
        const bool run = what == bench::take::run;
        const chamber::State state =
            chamber::read(*samples, run && line ? chamber::options_of(*line) : chamber::Options{});
        ChamberRecording out{{}, {bench::chamber_columns, {}}};
        out.typed.what = what;
        out.typed.recorded = bench::ratio_read(state);
        if (!out.typed.recorded) return Read::refuse(not_good(chamber::messages_of(state)));
        for (const chamber::Sample& s : *samples)
            out.signal.add({s.t_s, s.test_pa, s.reference_pa, s.door_open ? 1.0 : 0.0});
        return out;
    });
}

} // namespace fusain::work
