// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/traces/read.h"

#include "bench/chamber/chamber.h"
#include "bench/files/trace_file.h"
#include "core/signal/chamber.h"
#include "core/base/limits.h"
#include "core/signal/swing.h"

#include "bench/base/json.h"

#include <algorithm>
#include <cmath>
#include <istream>
#include <ostream>
#include <stdexcept>

namespace fusain::cli {
namespace {

using Json = nlohmann::ordered_json;

struct BadTrace : std::runtime_error {
    BadTrace(std::string what_kind, const std::string& text) : std::runtime_error(text), code(std::move(what_kind)) {}
    std::string code;
};

/// What was read, or the trouble with it; `file`: which of several.
template <class T>
T taken(Outcome<T> read, const std::string& file = {})
{
    if (read) return std::move(read).take();
    const Message& m = read.messages().front();
    throw BadTrace(m.code, (file.empty() ? "" : file + ": ") + m.text);
}

/// How far the test chamber's pressure swings about its mean, Pa (root mean square).
double swing_of(const std::vector<chamber::Sample>& samples)
{
    double mean = 0, squares = 0;
    for (const chamber::Sample& s : samples) mean += s.test_pa / static_cast<double>(samples.size());
    for (const chamber::Sample& s : samples) squares += std::pow(s.test_pa - mean, 2);
    return std::sqrt(squares / std::max<double>(1, static_cast<double>(samples.size())));
}

Json message(const Message& m)
{
    return {{"code", m.code},
        {"level", m.level == Level::repeat  ? "repeat"
                  : m.level == Level::error ? "error"
                                            : "caution"},
        {"text", m.text}};
}

} // namespace

bool read_swing(std::istream& in, std::ostream& out)
{
    Json result;
    bool good = true;
    try {
        const swing::State state = swing::read(taken(bench::read_swing_trace(in)));
        result["status"] = status_word(state.messages);
        if (const auto& r = state.reading) {
            if (auto bad = limits::check("hydrostatic.trials_kg", r->kg)) throw BadTrace(bad->code, bad->text);
            result["reading_kg"] = r->kg;
            result["u_kg"] = r->u_kg;
            result["window_s"] = {r->window_from_s, r->window_to_s};
            result["earliest_s"] = r->earliest_s;
            result["midpoint_kg"] = r->midpoint_kg;
        }
        result["messages"] = Json::array();
        for (const Message& m : state.messages) result["messages"].push_back(message(m));
    } catch (const BadTrace& e) {
        good = false;
        result["status"] = "error";
        result["messages"] = Json::array({message({e.code, Level::error, "", e.what()})});
    }
    out << result.dump(-1, ' ', false, Json::error_handler_t::replace) << "\n";
    return good;
}

bool read_chamber(std::istream& run, std::istream& empty, std::istream& cylinder, double cylinder_l, double drive_hz,
    std::ostream& out)
{
    Json result;
    bool good = true;
    const auto say = [&](const char* status, const Messages& messages) {
        result["status"] = status;
        result["messages"] = Json::array();
        for (const Message& m : messages) result["messages"].push_back(message(m));
    };
    try {
        if (auto bad = limits::check("air_displacement.cylinder_l", cylinder_l))
            throw BadTrace(bad->code, "--cylinder-volume-l: " + bad->text);
        if (!(drive_hz >= 0.5 && drive_hz <= 8))
            throw BadTrace("out_of_range", "--drive-hz is " + limits::plain(drive_hz) + " Hz; allowed is 0.5 to 8 Hz.");
        chamber::Options plain;
        plain.drive_hz = drive_hz;
        const auto empty_samples = taken(bench::read_chamber_trace(empty), "empty"),
                   cylinder_samples = taken(bench::read_chamber_trace(cylinder), "cylinder"),
                   run_samples = taken(bench::read_chamber_trace(run), "run");
        const auto calibration =
            chamber::calibrate(chamber::read(empty_samples, plain), chamber::read(cylinder_samples, plain), cylinder_l);
        if (!calibration) {
            say("repeat", calibration.messages());
        } else if (!(calibration->chamber_l() >= bench::smallest_chamber_l &&
                       calibration->chamber_l() <= bench::largest_chamber_l)) {
            throw BadTrace("calibration_failed",
                "With a cylinder of " + limits::plain(cylinder_l, 3) + " L this chamber would hold " +
                    limits::plain(calibration->chamber_l(), 0) + " L; a test chamber holds " +
                    limits::plain(bench::smallest_chamber_l, 0) + " to " + limits::plain(bench::largest_chamber_l, 0) +
                    " L. Check the cylinder's volume and the units of the files.");
        } else if (const auto state = chamber::read(run_samples, chamber::options_of(*calibration, drive_hz));
                   state.fault != chamber::Fault::none || !state.ratio) {
            say("repeat", chamber::messages_of(state));
        } else {
            // one drive makes all three: a file whose pressures stand in another unit is not measured, it is mistaken
            const double drives[] = {swing_of(empty_samples), swing_of(cylinder_samples), swing_of(run_samples)};
            constexpr const char* files[] = {"empty", "cylinder", "run"};
            for (int i = 1; i < 3; ++i)
                if (const double times = drives[i] / drives[0]; !(times > 1.0 / 30 && times < 30))
                    throw BadTrace("units_differ",
                        std::string(files[i]) + ": its pressures are " + limits::plain(times, times < 1 ? 4 : 0) +
                            " times those of the empty chamber. Are all three files in pascal?");
            const auto reading = chamber::reading_of(*state.ratio, *calibration);
            if (auto bad = limits::check("air_displacement.raw_volumes_l", reading.volume_l))
                throw BadTrace(bad->code, bad->text);
            if (const auto none = chamber::impossible(reading.volume_l, *calibration)) {
                say("repeat", {*none});
            } else {
                say("ok", {});
                result["raw_volume_l"] = reading.volume_l;
                result["u_l"] = reading.u_l;
                result["drift_l_per_min"] = reading.drift_l_per_min;
                result["breath_l"] = reading.breath_l;
            }
        }
    } catch (const BadTrace& e) {
        good = false;
        say("error", {{e.code, Level::error, "", e.what()}});
    }
    out << result.dump(-1, ' ', false, Json::error_handler_t::replace) << "\n";
    return good;
}

} // namespace fusain::cli
