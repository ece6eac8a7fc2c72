// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/base/csv.h"

#include <charconv>
#include <map>
#include <sstream>
#include <stdexcept>
#include <string_view>

namespace fusain::csv {

std::optional<std::vector<std::string>> read_row(std::istream& in, long& line, char separator)
{
    std::vector<std::string> row;
    std::string cell;
    enum { begins, plain, inside, closed } at = begins; // of the cell
    bool any = false;
    int c;
    const long first_line = line + 1;
    const auto stray = [&](const char* what) {
        throw std::runtime_error("line " + std::to_string(line + 1) + ", cell " + std::to_string(row.size() + 1) +
                                 ": " + what + "; a cell with quotes stands in quotes, and its own are doubled");
    };
    while ((c = in.get()) != std::istream::traits_type::eof()) {
        any = true;
        if (at == inside) {
            if (c == '\n') ++line;
            if (c != '"')
                cell += static_cast<char>(c);
            else if (in.peek() == '"')
                cell += static_cast<char>(in.get());
            else
                at = closed;
        } else if (c == separator) {
            row.push_back(std::move(cell));
            cell.clear();
            at = begins;
        } else if (c == '\n') {
            break;
        } else if (c == '\r') { // of a line that ends in CR LF, or in CR alone
            if (in.peek() == '\n') in.get();
            break;
        } else if (at == closed) {
            stray("text after a closing quote");
        } else if (c == '"') {
            if (at != begins) stray("a quote in mid-cell");
            at = inside;
        } else {
            cell += static_cast<char>(c);
            at = plain;
        }
    }
    if (at == inside)
        throw std::runtime_error("the quote opened on line " + std::to_string(first_line) + " is never closed");
    if (!any) return std::nullopt;
    ++line;
    row.push_back(std::move(cell));
    return row;
}

char guess_separator(const std::string& beginning)
{
    char best = ',';
    std::size_t best_score = 0;
    for (const char separator : {',', ';', '\t'}) {
        std::istringstream in(beginning);
        std::map<std::size_t, std::size_t> rows_of_width;
        long line = 0;
        try {
            for (int i = 0; i < 20; ++i) {
                const auto row = read_row(in, line, separator);
                if (!row) break;
                ++rows_of_width[row->size()];
            }
        } catch (const std::runtime_error&) {
            // the beginning was cut inside a quote; what was counted so far decides
        }
        std::size_t score = 0;
        for (const auto& [width, rows] : rows_of_width)
            if (width > 1) score = std::max(score, rows * 100 + width);
        if (score > best_score) {
            best_score = score;
            best = separator;
        }
    }
    return best;
}

std::string quoted(const std::string& cell)
{
    if (cell.find_first_of(",\"\n\r") == std::string::npos) return cell;
    std::string out = "\"";
    for (char c : cell) out += c == '"' ? std::string("\"\"") : std::string(1, c);
    return out + '"';
}

std::string without_formula(const std::string& cell)
{
    if (cell.empty() || std::string_view("=+-@\t\r").find(cell[0]) == std::string_view::npos) return cell;
    double number = 0;
    const auto [end, code] = std::from_chars(cell.data() + (cell[0] == '+'), cell.data() + cell.size(), number);
    return code == std::errc() && end == cell.data() + cell.size() ? cell : "'" + cell;
}

} // namespace fusain::csv
