// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/traces/read.h"

#include "bench/chamber/chamber.h"
#include "bench/lines/line.h"
#include "bench/visit/visit.h"
#include "cli/text/utf8.h"
#include "core/signal/chamber.h"
#include "core/base/limits.h"
#include "core/signal/swing.h"

#include <nlohmann/json.hpp>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <istream>
#include <map>
#include <ostream>
#include <stdexcept>

namespace fusain::cli {
namespace {

using Json = nlohmann::ordered_json;

struct BadTrace : std::runtime_error {
    BadTrace(std::string what_kind, const std::string& text) : std::runtime_error(text), code(std::move(what_kind)) {}
    std::string code;
};

constexpr double longest_gap_s = 0.5;
constexpr double rate_low_hz = 20, rate_high_hz = 2000;

std::vector<std::string> cells_of(std::string line)
{
    if (!line.empty() && line.back() == '\r') line.pop_back();
    std::vector<std::string> out;
    std::size_t from = 0;
    for (std::size_t comma; (comma = line.find(',', from)) != std::string::npos; from = comma + 1)
        out.push_back(line.substr(from, comma - from));
    out.push_back(line.substr(from));
    for (std::string& cell : out) {
        const std::size_t a = cell.find_first_not_of(" \t\""), b = cell.find_last_not_of(" \t\"");
        cell = a == std::string::npos ? "" : cell.substr(a, b - a + 1);
    }
    return out;
}

double number_of(const std::string& cell, const std::string& column, long line)
{
    double value = 0;
    const auto [end, code] = std::from_chars(cell.data(), cell.data() + cell.size(), value);
    if (code != std::errc() || end != cell.data() + cell.size() || !std::isfinite(value))
        throw BadTrace("not_a_number",
            "Line " + std::to_string(line) + ", column " + column + ": \"" + shown_text(cell) + "\" is not a number.");
    return value;
}

/// Rows of numbers under exactly these columns, the first of which is time in seconds.
std::vector<std::vector<double>> parse(std::istream& in, const std::vector<std::string>& wanted)
{
    std::string names;
    for (const std::string& column : wanted) names += (names.empty() ? "" : ",") + column;
    // the same limits as on the bench's line
    static const std::map<std::string, const bench::ChannelRow*> possible = {
        {"mass_kg", &bench::row(bench::Channel::load_cell)}, {"p_test_pa", &bench::row(bench::Channel::test_pressure)},
        {"p_reference_pa", &bench::row(bench::Channel::reference_pressure)}};
    std::vector<std::vector<double>> out;
    bool header = false;
    long line = 0;
    for (std::string text; std::getline(in, text);) {
        ++line;
        if (line == 1 && (text.starts_with("\xFF\xFE") || text.starts_with("\xFE\xFF")))
            throw BadTrace("not_utf8", "Line 1: the file is UTF-16. Save it as UTF-8.");
        if (line == 1 && text.starts_with("\xEF\xBB\xBF")) text.erase(0, 3);
        if (text.find_first_not_of(" \t\r") == std::string::npos || text[0] == '#') continue;
        const std::vector<std::string> cells = cells_of(text);
        if (!header) {
            header = true;
            if (cells != wanted)
                throw BadTrace("wrong_columns", "Line " + std::to_string(line) + ": the columns must be " + names +
                                                    "; found \"" + shown_text(text, 80) + "\".");
            continue;
        }
        if (cells.size() != wanted.size())
            throw BadTrace("wrong_columns", "Line " + std::to_string(line) + ": " + std::to_string(wanted.size()) +
                                                " cells are needed (" + names + "), found " +
                                                std::to_string(cells.size()) + ".");
        std::vector<double> row;
        for (std::size_t i = 0; i < wanted.size(); ++i) {
            row.push_back(number_of(cells[i], wanted[i], line));
            const auto limit = possible.find(wanted[i]);
            if (limit != possible.end() && !(row[i] >= limit->second->low && row[i] <= limit->second->high))
                throw BadTrace("out_of_range",
                    "Line " + std::to_string(line) + ", column " + wanted[i] + ": " + limits::plain(row[i]) + " " +
                        limit->second->unit + " cannot come from this instrument; possible is " +
                        limits::plain(limit->second->low) + " to " + limits::plain(limit->second->high) + " " +
                        limit->second->unit + ". Is the column in another unit?");
        }
        const double before = out.empty() ? 0 : out.back()[0];
        if (!out.empty() && !(row[0] > before))
            throw BadTrace("time_backwards", "Line " + std::to_string(line) +
                                                 ", column t_s: time runs backwards or stands still (" +
                                                 limits::plain(row[0]) + " after " + limits::plain(before) + " s).");
        if (!out.empty() && row[0] - before > longest_gap_s)
            throw BadTrace("gap", "Line " + std::to_string(line) + ", column t_s: a gap of " +
                                      limits::plain(row[0] - before, 3) + " s; at most 0.5 s is allowed.");
        out.push_back(std::move(row));
    }
    if (!header) throw BadTrace("wrong_columns", "Line 1: the file has no header " + names + ".");
    if (out.size() > 1) {
        const double hz = static_cast<double>(out.size() - 1) / (out.back()[0] - out.front()[0]);
        if (!(hz >= rate_low_hz * 0.9 && hz <= rate_high_hz * 1.1))
            throw BadTrace("out_of_range",
                "Column t_s: the sample rate is " + limits::plain(hz, 1) + " Hz; allowed is 20 to 2000 Hz.");
    }
    return out;
}

std::vector<chamber::Sample> chamber_samples(std::istream& in)
{
    std::vector<chamber::Sample> out;
    for (const auto& row : parse(in, {"t_s", "p_test_pa", "p_reference_pa", "door"})) {
        if (row[3] != 0 && row[3] != 1)
            throw BadTrace("out_of_range", "At " + limits::plain(row[0]) + " s, column door: " + limits::plain(row[3]) +
                                               " is neither 0 (closed) nor 1 (open).");
        out.push_back({row[0], row[1], row[2], row[3] == 1});
    }
    return out;
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
        std::vector<swing::Sample> trace;
        for (const auto& row : parse(in, {"t_s", "mass_kg"}))
            if (row[0] >= 0) trace.push_back({row[0], row[1]}); // not what came before the chair was let go
        const swing::State state = swing::read(trace);
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
        const auto samples_of = [](const char* file, std::istream& in) {
            try {
                return chamber_samples(in);
            } catch (const BadTrace& e) {
                throw BadTrace(e.code, std::string(file) + ": " + e.what());
            }
        };
        chamber::Options plain;
        plain.drive_hz = drive_hz;
        const auto empty_samples = samples_of("empty", empty), cylinder_samples = samples_of("cylinder", cylinder),
                   run_samples = samples_of("run", run);
        const auto calibration =
            chamber::calibrate(chamber::read(empty_samples, plain), chamber::read(cylinder_samples, plain), cylinder_l);
        if (!calibration) {
            say("repeat", calibration.messages());
        } else if (!(calibration->a_l >= bench::smallest_chamber_l && calibration->a_l <= bench::largest_chamber_l)) {
            throw BadTrace("calibration_failed",
                "With a cylinder of " + limits::plain(cylinder_l, 3) + " L this chamber would hold " +
                    limits::plain(calibration->a_l, 0) + " L; a test chamber holds " +
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
            say("ok", {});
            result["raw_volume_l"] = reading.volume_l;
            result["u_l"] = reading.u_l;
            result["drift_l_per_min"] = reading.drift_l_per_min;
            result["breath_l"] = reading.breath_l;
        }
    } catch (const BadTrace& e) {
        good = false;
        say("error", {{e.code, Level::error, "", e.what()}});
    }
    out << result.dump(-1, ' ', false, Json::error_handler_t::replace) << "\n";
    return good;
}

} // namespace fusain::cli
