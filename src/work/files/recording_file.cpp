// SPDX-License-Identifier: GPL-3.0-or-later
#include "work/files/recording_file.h"

#include "bench/chamber/chamber_take.h"
#include "bench/files/trace_file.h"
#include "bench/tank/tank_take.h"
#include "records/file/regular.h"

#include <QCryptographicHash>
#include <QFile>
#include <QFileInfo>

#include "bench/base/json.h"

#include <sstream>

namespace fusain::work {
namespace {

constexpr qint64 largest = 50'000'000;

Message about(const QString& name, const char* code, const std::string& text)
{
    return {code, Level::error, "file", name.toStdString() + ": " + text};
}

/// Bytes, and what every reading from a file keeps; `of`: what the samples become.
template <class Read>
Outcome<Recording> with_file(const QString& path, Read read)
{
    using Result = Outcome<Recording>;
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
    Recording out = std::move(done).take();
    out.body.update({{"source", "file"}, {"file", name.toStdString()},
        {"sha256", QCryptographicHash::hash(bytes, QCryptographicHash::Sha256).toHex().toStdString()}});
    return out;
}

/// Why the reader gives no reading.
Outcome<Recording> not_good(const Messages& why, const char* otherwise)
{
    return Outcome<Recording>::refuse(
        why.empty() ? Message{"too_short", Level::repeat, "file", otherwise} : why.front());
}

} // namespace

Outcome<Recording> swing_file(const QString& path)
{
    return with_file(path, [](std::istream& in) -> Outcome<Recording> {
        const auto trace = bench::read_swing_trace(in);
        if (!trace) return Outcome<Recording>::refuse(trace.messages());
        const swing::State state = swing::read(*trace);
        if (!state.reading) return not_good(state.messages, "The recording is too short to be read.");
        const auto& r = *state.reading;
        return Recording{
            {{"what", bench::take::weighing}, {"kg", r.kg}, {"u_kg", r.u_kg}, {"window_from_s", r.window_from_s},
                {"window_to_s", r.window_to_s}, {"earliest_s", r.earliest_s}, {"midpoint_kg", r.midpoint_kg}},
            bench::signal_of(*trace)};
    });
}

Outcome<Recording> chamber_file(
    const QString& path, const std::string& what, const std::optional<chamber::Calibration>& line)
{
    return with_file(path, [&](std::istream& in) -> Outcome<Recording> {
        const auto samples = bench::read_chamber_trace(in);
        if (!samples) return Outcome<Recording>::refuse(samples.messages());
        const bool run = what == bench::take::run;
        const chamber::State state =
            chamber::read(*samples, run && line ? chamber::options_of(*line) : chamber::Options{});
        if (state.fault != chamber::Fault::none || !state.ratio)
            return not_good(chamber::messages_of(state), "The recording is too short to be read.");
        const chamber::Ratio& r = *state.ratio;
        Recording out{
            {{"what", what}, {"ratio", r.value}, {"u_ratio", r.u}, {"phase_rad", r.phase_rad},
                {"drift_per_s", r.drift_per_s}, {"breath", r.breath}, {"kept", r.kept}, {"seconds", state.now_s}},
            {bench::chamber_columns, {}}};
        for (const chamber::Sample& s : *samples)
            out.signal.add({s.t_s, s.test_pa, s.reference_pa, s.door_open ? 1.0 : 0.0});
        return out;
    });
}

} // namespace fusain::work
