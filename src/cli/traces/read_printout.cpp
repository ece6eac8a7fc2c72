// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/traces/read.h"

#include "bench/files/layout_file.h"
#include "bench/paper/paper.h"
#include "cli/traces/told.h"

#include <cmath>

namespace fusain::cli {
namespace {

using Json = nlohmann::ordered_json;
using printout::Identity, printout::Reading, printout::Value;

double rounded(double x, double to) { return std::round(x * to) / to; }

Json json_of(const printout::Box& b)
{
    return {rounded(b.x, 100), rounded(b.y, 100), rounded(b.w, 100), rounded(b.h, 100)};
}

Json or_null(const std::string& text) { return text.empty() ? Json() : Json(text); }

Json json_of(const Value& v)
{
    return {{"key", v.key}, {"quantity", or_null(v.quantity)}, {"segment", or_null(v.segment)}, {"value", v.value},
        {"unit", or_null(v.unit)}, {"text", v.text}, {"low", v.low ? Json(*v.low) : Json()},
        {"high", v.high ? Json(*v.high) : Json()}, {"confidence", rounded(v.confidence, 1000)}, {"page", v.page + 1},
        {"box", json_of(v.box)}};
}

Json client_of(const Reading& r)
{
    Json out = Json::object();
    for (const Identity& i : r.client) out[i.key] = i.said.empty() ? Json(i.value) : Json(i.said);
    return out;
}

Outcome<Reading> reading_of(std::istream& file, std::istream& layout)
{
    auto by = bench::read_layout(all_of(layout), "the layout");
    if (!by) return Outcome<Reading>::refuse(by.messages());
    auto reading = bench::paper::read(all_of(file), "the printout", *by);
    if (!reading) return reading;
    Messages messages = by.messages();
    for (const Message& m : reading.messages()) messages.push_back(m);
    return {std::move(reading).take(), std::move(messages)};
}

} // namespace

bool read_printout(std::istream& file, std::istream& layout, std::ostream& out)
{
    const auto reading = reading_of(file, layout);
    Json result = {{"status", reading.status()}};
    if (reading) {
        result["layout"] = reading->layout;
        result["values"] = Json::array();
        for (const Value& v : reading->values) result["values"].push_back(json_of(v));
        result["client"] = client_of(*reading);
        result["missing"] = reading->missing;
        result["doubtful"] = reading->doubtful;
    }
    return tell(std::move(result), reading.messages(), out);
}

} // namespace fusain::cli
