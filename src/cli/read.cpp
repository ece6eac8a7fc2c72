// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/read.h"

#include "cli/record.h"
#include "core/limits.h"
#include "core/swing.h"

#include <charconv>
#include <cmath>
#include <istream>
#include <ostream>
#include <stdexcept>

namespace fusain::cli {
namespace {

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
    for (std::size_t comma; (comma = line.find(',', from)) != std::string::npos; from = comma + 1) out.push_back(line.substr(from, comma - from));
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
        throw BadTrace("not_a_number", "Line " + std::to_string(line) + ", column " + column + ": \"" + cell + "\" is not a number.");
    return value;
}

std::vector<swing::Sample> parse(std::istream& in)
{
    const std::vector<std::string> wanted = {"t_s", "mass_kg"};
    std::vector<swing::Sample> out;
    bool header = false;
    long line = 0;
    for (std::string text; std::getline(in, text);) {
        ++line;
        if (line == 1 && text.starts_with("\xEF\xBB\xBF")) text.erase(0, 3);
        if (text.find_first_not_of(" \t\r") == std::string::npos || text[0] == '#') continue;
        const std::vector<std::string> cells = cells_of(text);
        if (!header) {
            header = true;
            if (cells != wanted)
                throw BadTrace("wrong_columns", "Line " + std::to_string(line) + ": the columns must be t_s,mass_kg; found \"" + text.substr(0, 80) + "\".");
            continue;
        }
        if (cells.size() != 2)
            throw BadTrace("wrong_columns", "Line " + std::to_string(line) + ": two cells are needed (t_s,mass_kg), found " + std::to_string(cells.size()) + ".");
        const swing::Sample s{number_of(cells[0], "t_s", line), number_of(cells[1], "mass_kg", line)};
        if (!out.empty() && !(s.t_s > out.back().t_s))
            throw BadTrace("time_backwards", "Line " + std::to_string(line) + ", column t_s: time runs backwards or stands still (" + limits::plain(s.t_s) + " after " + limits::plain(out.back().t_s) + " s).");
        if (!out.empty() && s.t_s - out.back().t_s > longest_gap_s)
            throw BadTrace("gap", "Line " + std::to_string(line) + ", column t_s: a gap of " + limits::plain(s.t_s - out.back().t_s, 3) + " s; at most 0.5 s is allowed.");
        out.push_back(s);
    }
    if (!header) throw BadTrace("wrong_columns", "Line 1: the file has no header t_s,mass_kg.");
    if (out.size() > 1) {
        const double hz = static_cast<double>(out.size() - 1) / (out.back().t_s - out.front().t_s);
        if (!(hz >= rate_low_hz * 0.9 && hz <= rate_high_hz * 1.1))
            throw BadTrace("out_of_range", "Column t_s: the sample rate is " + limits::plain(hz, 1) + " Hz; allowed is 20 to 2000 Hz.");
    }
    return out;
}

Json message(const Message& m)
{
    return {{"code", m.code}, {"level", m.level == Level::repeat ? "repeat" : m.level == Level::error ? "error" : "caution"}, {"text", m.text}};
}

} // namespace

bool read_swing(std::istream& in, std::ostream& out)
{
    Json result;
    bool good = true;
    try {
        std::vector<swing::Sample> trace = parse(in);
        std::erase_if(trace, [](const swing::Sample& s) { return s.t_s < 0; }); // before the chair was let go
        const swing::State state = swing::read(trace);
        result["status"] = status_word(state.messages);
        if (const auto& r = state.reading) {
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
    out << result.dump() << "\n";
    return good;
}

} // namespace fusain::cli
