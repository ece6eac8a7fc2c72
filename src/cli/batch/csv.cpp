// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/batch/csv.h"

#include "cli/batch/answer.h"
#include "bench/files/utf8.h"

#include <algorithm>
#include <charconv>

namespace fusain::cli {
namespace {

std::string_view trimmed(std::string_view s)
{
    const std::size_t a = s.find_first_not_of(" \t"), b = s.find_last_not_of(" \t");
    return a == std::string_view::npos ? std::string_view() : s.substr(a, b - a + 1);
}

/// A number when the whole cell is one, true and false, else the text as it is (the record's reader says what is wrong
/// with it).
void append_value(std::string& out, std::string_view cell)
{
    const std::string_view s = trimmed(cell);
    double number = 0;
    const char* first = s.data() + (s.size() > 1 && s[0] == '+' ? 1 : 0);
    const auto [end, code] = std::from_chars(first, s.data() + s.size(), number);
    if (code == std::errc() && end == s.data() + s.size() && number - number == 0)
        append_json(out, number);
    else if (s == "true" || s == "false")
        out += s;
    else
        append_json(out, s);
}

} // namespace

std::string CsvRecords::wrong_with(const std::vector<std::string>& header)
{
    constexpr long deepest = 8;
    for (std::size_t i = 0; i < header.size(); ++i) {
        const std::string& name = header[i];
        const std::string column = "column " + std::to_string(i + 1);
        if (first_bad_byte(name)) return column + " of the header is not UTF-8. Save the file as UTF-8";
        if (trimmed(name).empty()) return column + " of the header has no name";
        if (std::count(name.begin(), name.end(), '.') > deepest)
            return column + " of the header has more than 8 points: no field lies so deep";
        for (std::size_t k = 0; k < i; ++k)
            if (header[k] == name)
                return "the column " + name + " stands there twice (columns " + std::to_string(k + 1) + " and " +
                       std::to_string(i + 1) + ")";
    }
    return "";
}

CsvRecords::CsvRecords(const std::vector<std::string>& header)
{
    for (std::size_t i = 0; i < header.size(); ++i) {
        Column c;
        std::size_t from = 0;
        for (std::size_t dot; (dot = header[i].find('.', from)) != std::string::npos; from = dot + 1)
            c.blocks.push_back(header[i].substr(from, dot - from));
        c.name = header[i].substr(from);
        c.is_list = c.name == "trials_kg" || c.name == "raw_volumes_l";
        c.is_text = header[i] == "id";
        c.cell = i;
        columns_.push_back(std::move(c));
    }
    // fields of one block stand together, so that every block is opened once
    std::stable_sort(
        columns_.begin(), columns_.end(), [](const Column& a, const Column& b) { return a.blocks < b.blocks; });
}

void CsvRecords::append(std::string& out, const std::vector<std::string>& row) const
{
    std::vector<std::string> open;
    bool first = true;
    const auto name_of = [&](const std::string& name) {
        if (!first) out += ',';
        append_json(out, name);
        out += ':';
        first = false;
    };
    out += '{';
    for (const Column& c : columns_) {
        if (c.cell >= row.size()) continue;
        const std::string_view cell = trimmed(row[c.cell]);
        if (cell.empty()) continue;
        const auto same = std::mismatch(open.begin(), open.end(), c.blocks.begin(), c.blocks.end());
        const auto common = static_cast<std::size_t>(same.first - open.begin());
        for (; open.size() > common; open.pop_back()) {
            out += '}';
            first = false;
        }
        for (std::size_t i = common; i < c.blocks.size(); ++i) {
            name_of(c.blocks[i]);
            out += '{';
            open.push_back(c.blocks[i]);
            first = true;
        }
        name_of(c.name);
        if (c.is_text) {
            append_json(out, cell);
        } else if (!c.is_list) {
            append_value(out, cell);
        } else {
            out += '[';
            for (std::size_t start = 0, semicolon = 0; start <= cell.size(); start = semicolon + 1) {
                semicolon = std::min(cell.find(';', start), cell.size());
                if (start) out += ',';
                append_value(out, cell.substr(start, semicolon - start));
            }
            out += ']';
        }
    }
    out.append(open.size(), '}');
    out += '}';
}

} // namespace fusain::cli
