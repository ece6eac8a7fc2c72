// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/files/spectrum_file.h"

#include "bench/files/cells.h"
#include "core/base/csv.h"
#include "core/impedance/segment.h"

#include <algorithm>
#include <map>
#include <sstream>
#include <stdexcept>

namespace fusain::bench {
namespace {

constexpr const char* whole_body = "whole_body";
constexpr std::size_t most_bytes = 4 << 20;

struct Bad {
    long line;
    std::string column, text;
};

/// Lower case, spaces and hyphens as underscores.
std::string plain_name(const std::string& cell)
{
    std::string out = trimmed(cell);
    for (char& c : out) c = c == ' ' || c == '-' ? '_' : static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    return out;
}

double number_in(const std::string& cell, char separator, long line, const std::string& column)
{
    if (const auto value = number_of(cell, separator)) return *value;
    throw Bad{line, column, "\"" + cell + "\" is not a number"};
}

/// Where the points of such a cell belong.
std::vector<impedance::Point>& points_in(Spectra& spectra, const std::string& cell, long line)
{
    const std::string name = plain_name(cell);
    if (name == whole_body) return spectra.whole_body;
    std::string allowed = whole_body;
    for (std::size_t i = 0; i < impedance::segment_count; ++i) {
        if (name == impedance::segment_rows[i].id) return spectra.segments[i].points;
        allowed += std::string(", ") + impedance::segment_rows[i].id;
    }
    throw Bad{line, "segment", "\"" + cell + "\" is no segment; allowed is one of " + allowed};
}

} // namespace

Outcome<SpectrumFile> read_spectrum_file(const std::string& given, const std::string& file)
{
    using Read = Outcome<SpectrumFile>;
    const auto refuse = [&](long line, const std::string& column, const std::string& text) {
        return Read::refuse({"bad_file", Level::error, file,
            file + (line ? ", line " + std::to_string(line) : "") + (column.empty() ? "" : ", column " + column) +
                ": " + text + ". Nothing was taken from it."});
    };
    if (given.size() > most_bytes) return refuse(0, "", "it is larger than 4 MB; spectra of one client are not");
    const std::string text = given.starts_with("\xEF\xBB\xBF") ? given.substr(3) : given;
    const char separator = csv::guess_separator(text.substr(0, 4096));
    std::istringstream in(text);
    long line = 0;
    try {
        std::map<std::string, std::size_t> columns;
        SpectrumFile out;
        while (const auto row = csv::read_row(in, line, separator)) {
            const bool blank = std::all_of(row->begin(), row->end(), [](const auto& c) { return trimmed(c).empty(); });
            if (blank || trimmed(row->front()).starts_with('#')) continue;
            if (columns.empty()) {
                for (std::size_t i = 0; i < row->size(); ++i) columns[plain_name((*row)[i])] = i;
                const auto need = [&](std::initializer_list<const char*> names) {
                    return std::all_of(names.begin(), names.end(), [&](const char* n) { return columns.count(n) > 0; });
                };
                if (!need({"segment", "f_khz", "r_ohm", "x_ohm"}) && !need({"quantity", "value"}))
                    return refuse(line, "",
                        "the first row names the columns: segment, f_khz, r_ohm, x_ohm for spectra, "
                        "or quantity, value, unit for the instrument's own numbers");
                continue;
            }
            const auto cell = [&](const char* name) -> std::string {
                const auto at = columns.find(name);
                if (at == columns.end()) return {};
                if (at->second >= row->size()) throw Bad{line, name, "the row ends before it"};
                return (*row)[at->second];
            };
            if (columns.count("segment") > 0) {
                points_in(out.spectra, cell("segment"), line)
                    .push_back({number_in(cell("f_khz"), separator, line, "f_khz"),
                        number_in(cell("r_ohm"), separator, line, "r_ohm"),
                        number_in(cell("x_ohm"), separator, line, "x_ohm")});
                ++out.points;
            } else {
                const std::string title = trimmed(cell("quantity")), value = trimmed(cell("value"));
                if (title.empty()) throw Bad{line, "quantity", "the name of the number is missing"};
                if (value.empty()) throw Bad{line, "value", "the value is missing"};
                out.own.push_back({title, value, trimmed(cell("unit"))});
            }
        }
        if (out.spectra.empty() && out.own.empty()) return refuse(0, "", "there is nothing in it");
        return out;
    } catch (const Bad& bad) {
        return refuse(bad.line, bad.column, bad.text);
    } catch (const std::runtime_error& broken) {
        return refuse(line, "", broken.what());
    }
}

} // namespace fusain::bench
