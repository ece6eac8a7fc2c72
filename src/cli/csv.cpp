// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/csv.h"

#include "core/csv.h"
#include "core/displacement.h"
#include "core/hydrostatic.h"

#include <charconv>
#include <stdexcept>

namespace fusain::cli {

using csv::quoted;

namespace {

std::string trimmed(const std::string& s)
{
    const std::size_t a = s.find_first_not_of(" \t"), b = s.find_last_not_of(" \t");
    return a == std::string::npos ? "" : s.substr(a, b - a + 1);
}

/// A number when the whole cell is one, true and false, else the text as it is (the record's reader says what is wrong with it).
Json value_of(const std::string& cell)
{
    const std::string s = trimmed(cell);
    double number = 0;
    const char* first = s.data() + (s.size() > 1 && s[0] == '+' ? 1 : 0);
    const auto [end, code] = std::from_chars(first, s.data() + s.size(), number);
    if (code == std::errc() && end == s.data() + s.size() && number - number == 0) return number;
    if (s == "true") return true;
    if (s == "false") return false;
    return s;
}

bool is_list(const std::string& name) { return name.ends_with("trials_kg") || name.ends_with("raw_volumes_l"); }

std::vector<std::string> columns()
{
    std::vector<std::string> out = {"id", "method", "status", "codes", "fields", "texts"};
    const auto own = displacement::quantities().subspan(densitometry::common_count);
    for (const char* block : {"results.", "uncertainty."}) {
        for (const auto& q : hydrostatic::quantities()) out.push_back(std::string(block) + q.id);
        for (const auto& q : own) out.push_back(std::string(block) + q.id);
    }
    for (const char* name : {"uncertainty.fat_percent_measurement", "uncertainty.fat_percent_conversion", "engine.name", "engine.version", "extra"}) out.push_back(name);
    return out;
}

} // namespace

Json record_from_csv(const std::vector<std::string>& header, const std::vector<std::string>& row)
{
    Json record = Json::object();
    for (std::size_t i = 0; i < header.size() && i < row.size(); ++i) {
        if (trimmed(row[i]).empty()) continue;
        Json* at = &record;
        std::size_t from = 0;
        for (std::size_t dot; (dot = header[i].find('.', from)) != std::string::npos; from = dot + 1) {
            at = &(*at)[header[i].substr(from, dot - from)];
            if (at->is_null()) *at = Json::object();
            if (!at->is_object()) break;
        }
        if (!at->is_object()) continue;
        Json& value = (*at)[header[i].substr(from)];
        if (!is_list(header[i])) {
            value = header[i] == "id" ? Json(trimmed(row[i])) : value_of(row[i]);
            continue;
        }
        value = Json::array();
        std::size_t start = 0;
        for (std::size_t semicolon; start <= row[i].size(); start = semicolon + 1) {
            semicolon = std::min(row[i].find(';', start), row[i].size());
            value.push_back(value_of(row[i].substr(start, semicolon - start)));
        }
    }
    return record;
}

std::string csv_header()
{
    std::string out;
    for (const std::string& column : columns()) out += (out.empty() ? "" : ",") + column;
    return out;
}

std::string csv_row(const Json& result)
{
    std::string out;
    const auto joined = [&](const char* key) {
        std::string text;
        for (const Json& m : result["messages"])
            if (m.contains(key)) text += (text.empty() ? "" : "; ") + m[key].get<std::string>();
        return text;
    };
    for (const std::string& column : columns()) {
        Json value;
        if (column == "codes") value = joined("code");
        else if (column == "fields") value = joined("field");
        else if (column == "texts") value = joined("text");
        else if (const std::size_t dot = column.find('.'); dot != std::string::npos) {
            const Json& block = result[column.substr(0, dot)];
            if (block.contains(column.substr(dot + 1))) value = block[column.substr(dot + 1)];
        } else if (result.contains(column)) {
            value = result[column];
        }
        const std::string cell = value.is_null() ? "" : value.is_string() ? value.get<std::string>() : value.dump();
        out += (column == "id" ? "" : ",") + quoted(cell);
    }
    return out;
}

} // namespace fusain::cli
