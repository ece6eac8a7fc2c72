// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/batch/answer.h"

#include "core/base/csv.h"
#include "core/density/displacement.h"
#include "core/density/hydrostatic.h"
#include "version.h"

#include <charconv>
#include <cmath>

namespace fusain::cli {
namespace {

void append(std::string& out, std::initializer_list<std::string_view> parts)
{
    for (std::string_view p : parts) out += p;
}

void append_list(std::string& out, const std::vector<int>& numbers)
{
    out += '[';
    for (std::size_t i = 0; i < numbers.size(); ++i) {
        if (i) out += ',';
        out += std::to_string(numbers[i]);
    }
    out += ']';
}

void append_messages(std::string& out, const Messages& messages)
{
    bool first = true;
    for (const Message& m : messages) {
        append(out, {first ? "" : ",", "{\"code\":"});
        append_json(out, m.code);
        append(out, {",\"level\":\"", word(m.level), "\""});
        if (!m.field.empty()) {
            out += ",\"field\":";
            append_json(out, m.field);
        }
        out += ",\"text\":";
        append_json(out, m.text);
        out += '}';
        first = false;
    }
}

void append_story(std::string& out, const Story& story)
{
    bool first = true;
    out += ",\"story\":[";
    for (const StoryStep& s : story) {
        append(out, {first ? "" : ",", "{\"kind\":\"", word(s.kind), "\",\"symbol\":"});
        append_json(out, s.symbol);
        out += ",\"title\":";
        append_json(out, s.title);
        out += ",\"value\":";
        append_json(out, s.value);
        out += ",\"unit\":";
        append_json(out, s.unit);
        if (s.u > 0) {
            out += ",\"u\":";
            append_json(out, s.u);
        }
        out += ",\"source\":";
        append_json(out, s.source);
        out += '}';
        first = false;
    }
    out += ']';
}

/// The unknown fields of a record, as one JSON object.
std::string extra_of(const Answer& a)
{
    std::string out = "{";
    for (const auto& [name, json] : a.extra) {
        if (out.size() > 1) out += ',';
        append_json(out, name);
        append(out, {":", json});
    }
    return out + '}';
}

/// A JSON text as the content of a cell: strings without their quotes, nothing for null.
std::string cell_of(const std::string& json)
{
    if (json == "null") return "";
    if (json.size() < 2 || json.front() != '"') return json;
    std::string out;
    for (std::size_t i = 1; i + 1 < json.size(); ++i) {
        if (json[i] != '\\') {
            out += json[i];
            continue;
        }
        const char c = json[++i];
        // the rest of the escapes stand for themselves or are rare controls
        out += c == 'n' ? '\n' : c == 't' ? '\t' : c == 'r' ? '\r' : c;
    }
    return out;
}

} // namespace

bool Answer::is_error() const
{
    for (const Message& m : messages)
        if (m.level == Level::error) return true;
    return false;
}

void append_json(std::string& out, std::string_view text)
{
    constexpr char hex[] = "0123456789abcdef";
    out += '"';
    std::size_t plain = 0; // from here on nothing needed escaping
    for (std::size_t i = 0; i < text.size(); ++i) {
        const auto c = static_cast<unsigned char>(text[i]);
        if (c >= 0x20 && c != '"' && c != '\\') continue;
        out += text.substr(plain, i - plain);
        plain = i + 1;
        switch (c) {
        case '"': out += "\\\""; break;
        case '\\': out += "\\\\"; break;
        case '\n': out += "\\n"; break;
        case '\r': out += "\\r"; break;
        case '\t': out += "\\t"; break;
        default: append(out, {"\\u00", {&hex[c >> 4], 1}, {&hex[c & 15], 1}});
        }
    }
    out += text.substr(plain);
    out += '"';
}

void append_json(std::string& out, double number)
{
    if (!std::isfinite(number)) {
        out += "null";
        return;
    }
    char digits[32];
    const auto end = std::to_chars(digits, digits + sizeof digits, number).ptr;
    out.append(digits, static_cast<std::size_t>(end - digits));
}

void write_json(std::string& out, const Answer& a, bool with_story)
{
    append(out,
        {"{\"id\":", a.id, ",\"method\":", a.method, ",\"status\":\"", status_word(a.messages), "\",\"messages\":["});
    append_messages(out, a.messages);
    out += "],\"results\":{";
    if (a.result) {
        const auto& r = *a.result;
        for (const Value& v : r.values) {
            append(out, {&v != r.values.data() ? ",\"" : "\"", v.quantity->id, "\":"});
            append_json(out, v.value);
        }
        if (!r.balance.empty()) append(out, {",\"balance\":\"", r.balance, "\""});
        if (a.used_in_results) {
            append(out, {",\"", a.used, "\":"});
            append_list(out, r.used);
        }
        out += "},\"uncertainty\":{";
        const char* comma = "";
        const auto put = [&](std::string_view name, double u) {
            append(out, {comma, "\"", name, "\":"});
            append_json(out, u);
            comma = ",";
        };
        for (const Value& v : r.values)
            if (v.u > 0) put(v.quantity->id, v.u);
        if (const Value* fat = r.find(quantity::fat_percent)) {
            put("fat_percent_measurement", fat->u_measurement());
            put("fat_percent_conversion", fat->u_model);
        }
        if (*a.used && !a.used_in_results) {
            append(out, {"},\"", a.used, "\":"});
            append_list(out, r.used);
        } else {
            out += '}';
        }
    } else {
        out += "},\"uncertainty\":{}";
    }
    out += ",\"engine\":{\"name\":\"fusain\",\"version\":\"" FUSAIN_VERSION "\"}";
    if (!a.extra.empty()) append(out, {",\"extra\":", extra_of(a)});
    if (with_story && a.result) append_story(out, a.result->story);
    out += "}\n";
}

std::string csv_header()
{
    std::string out = "id,method,status,codes,fields,texts";
    for (const char* block : {"results.", "uncertainty."})
        for (const Quantity* q : quantities()) append(out, {",", block, q->id});
    return out + ",results.balance,uncertainty.fat_percent_measurement,uncertainty.fat_percent_conversion,engine.name,"
                 "engine.version,extra\n";
}

void write_csv(std::string& out, const Answer& a)
{
    const auto joined = [&](auto text_of) {
        std::string all;
        for (const Message& m : a.messages)
            if (const std::string& text = text_of(m); !text.empty()) append(all, {all.empty() ? "" : "; ", text});
        return csv::quoted(all);
    };
    append(out,
        {csv::quoted(csv::without_formula(cell_of(a.id))), ",", csv::quoted(csv::without_formula(cell_of(a.method))),
            ",", status_word(a.messages), ",", joined([](const Message& m) { return m.code; }), ",",
            joined([](const Message& m) { return m.field; }), ",", joined([](const Message& m) { return m.text; })});
    for (const bool values : {true, false})
        for (const Quantity* column : quantities()) {
            out += ',';
            const Value* v = a.result ? a.result->find(*column) : nullptr;
            if (v && (values || v->u > 0)) append_json(out, values ? v->value : v->u);
        }
    append(out, {",", a.result ? std::string_view(a.result->balance) : std::string_view(), ","});
    const Value* fat = a.result ? a.result->find(quantity::fat_percent) : nullptr;
    if (fat) append_json(out, fat->u_measurement());
    out += ',';
    if (fat) append_json(out, fat->u_model);
    out += ",fusain," FUSAIN_VERSION ",";
    if (!a.extra.empty()) out += csv::quoted(extra_of(a));
    out += '\n';
}

} // namespace fusain::cli
