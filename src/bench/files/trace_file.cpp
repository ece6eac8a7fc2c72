// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/files/trace_file.h"

#include "bench/files/utf8.h"
#include "bench/channels/line.h"
#include "core/base/limits.h"

#include <charconv>
#include <cmath>
#include <istream>
#include <map>
#include <stdexcept>

namespace fusain::bench {
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
    static const std::map<std::string, const ChannelRow*> possible = {{"mass_kg", &row(Channel::load_cell)},
        {"p_test_pa", &row(Channel::test_pressure)}, {"p_reference_pa", &row(Channel::reference_pressure)}};
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
                throw BadTrace("wrong_columns",
                    "Line " + std::to_string(line) + ": the columns must be " + names + "; found \"" +
                        shown_text(text, 80) + "\"." +
                        (text.find(';') != std::string::npos ? " Columns are parted by commas here, decimals by points."
                                                             : ""));
            continue;
        }
        if (cells.size() != wanted.size())
            throw BadTrace("wrong_columns", "Line " + std::to_string(line) + ": " + std::to_string(wanted.size()) +
                                                " cells are needed (" + names + "), found " +
                                                std::to_string(cells.size()) + "." +
                                                (cells.size() == 2 * wanted.size() ? " Is that a decimal comma?" : ""));
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

template <class T, class Read>
Outcome<T> outcome_of(Read read)
{
    try {
        return read();
    } catch (const BadTrace& e) {
        return Outcome<T>::refuse({e.code, Level::error, "file", e.what()});
    }
}

} // namespace

Outcome<std::vector<swing::Sample>> read_swing_trace(std::istream& in)
{
    return outcome_of<std::vector<swing::Sample>>([&] {
        std::vector<swing::Sample> trace;
        for (const auto& row : parse(in, {"t_s", "mass_kg"}))
            if (row[0] >= 0) trace.push_back({row[0], row[1]});
        return trace;
    });
}

Outcome<std::vector<chamber::Sample>> read_chamber_trace(std::istream& in)
{
    return outcome_of<std::vector<chamber::Sample>>([&] { return chamber_samples(in); });
}

} // namespace fusain::bench
