// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/series/change.h"

#include "cli/batch/fields.h"
#include "core/time/change.h"

#include "bench/base/json.h"

#include <chrono>
#include <cstdio>
#include <istream>
#include <ostream>

namespace fusain::cli {
namespace {

using Json = nlohmann::ordered_json;

constexpr std::string_view series_fields[] = {"id", "quantity", "precision", "hours_apart_allowed", "points"};
constexpr std::string_view precision_fields[] = {"rms_sd"};
constexpr std::string_view point_fields[] = {"at", "value", "method", "instrument", "equations", "prepared"};
constexpr double usual_hours = 2;

/// Minutes of a local clock time, 2026-02-10T08:30; nothing when it is none.
std::optional<double> minutes(const std::string& at)
{
    using namespace std::chrono;
    int y = 0, end = 0;
    unsigned mo = 0, d = 0, h = 0, mi = 0;
    if (std::sscanf(at.c_str(), "%4d-%2u-%2uT%2u:%2u%n", &y, &mo, &d, &h, &mi, &end) != 5) return std::nullopt;
    double s = 0;
    if (end < static_cast<int>(at.size()) &&
        (at[static_cast<std::size_t>(end)] != ':' || std::sscanf(at.c_str() + end, ":%lf", &s) != 1))
        return std::nullopt;
    const year_month_day day{year(y), month(mo), std::chrono::day(d)};
    if (!day.ok() || h > 23 || mi > 59 || !(s >= 0 && s < 60)) return std::nullopt;
    return 1440.0 * sys_days(day).time_since_epoch().count() + 60.0 * h + mi + s / 60;
}

change::Series read(const simdjson::dom::object& object, Answer& answer)
{
    change::Series out;
    Fields fields(object, "", series_fields, answer);
    if (fields.raw("id")) answer.id = json_of(*fields.raw("id"));
    fields.text("quantity");
    if (const auto block = fields.block("precision"))
        out.rms_sd = Fields(*block, "", precision_fields, answer).number("rms_sd");
    out.hours_apart_allowed = fields.number("hours_apart_allowed", usual_hours);
    if (!fields.has("points")) {
        answer.messages.push_back(error("missing_field", "points", "Field points is missing."));
        return out;
    }
    fields.blocks("points", [&](const simdjson::dom::object& inner, const std::string&) {
        Fields point(inner, "", point_fields, answer);
        change::Point p;
        const std::string at = point.text("at");
        if (const auto m = minutes(at))
            p.at_min = *m;
        else if (point.has("at"))
            answer.messages.push_back(error(
                "not_a_time", "at", "at is \"" + shown_text(at) + "\"; a local time like 2026-02-10T08:30 is needed."));
        p.value = point.number("value");
        p.method = point.text("method");
        p.instrument = point.text("instrument", "");
        p.equations = point.text("equations", "");
        p.prepared = !point.has("prepared") || point.flag("prepared");
        out.points.push_back(std::move(p));
    });
    return out;
}

Json number(const std::optional<double>& x) { return x ? Json(*x) : Json(nullptr); }

Json json_of(const change::Step& s, bool with_places)
{
    Json out;
    if (with_places) out = {{"from", s.from}, {"to", s.to}};
    out["change"] = number(s.change);
    out["comparable"] = s.comparable();
    out["why"] = s.why;
    out["verdict"] = change::word(s.verdict);
    return out;
}

} // namespace

bool change(std::istream& in, std::ostream& out)
{
    bool good = true;
    simdjson::dom::parser parser;
    long n = 0;
    for (std::string line; std::getline(in, line);) {
        ++n;
        if (line.find_first_not_of(" \t\r") == std::string::npos) continue;
        Answer answer;
        std::optional<change::Changes> found;
        simdjson::dom::object object;
        if (const auto wrong = parser.parse(line).get(object)) {
            answer.messages.push_back(error("not_json", "",
                "Line " + std::to_string(n) + " is not a JSON object: " + simdjson::error_message(wrong)));
        } else {
            const change::Series series = read(object, answer);
            if (answer.messages.empty()) {
                auto told = change::compare(series);
                answer.messages = told.messages();
                if (told) found = std::move(told).take();
            }
        }
        Json result = {{"id", Json::parse(answer.id)}, {"status", status_word(answer.messages)}};
        if (found) {
            result["lsc"] = found->lsc;
            result["steps"] = Json::array();
            for (const change::Step& s : found->steps) result["steps"].push_back(json_of(s, true));
            result["since_first"] = found->since_first ? json_of(*found->since_first, false) : Json(nullptr);
            result["trend"] = {{"per_week", number(found->trend.per_week)},
                {"u_per_week", number(found->trend.u_per_week)}, {"n", found->trend.n},
                {"verdict", change::word(found->trend.verdict)}};
        }
        result["messages"] = Json::array();
        for (const Message& m : answer.messages) {
            Json one = {{"code", m.code}, {"level", word(m.level)}};
            if (!m.field.empty()) one["field"] = m.field;
            one["text"] = m.text;
            result["messages"].push_back(one);
        }
        out << result.dump(-1, ' ', false, Json::error_handler_t::replace) << "\n";
        good = good && !answer.is_error();
    }
    return good;
}

} // namespace fusain::cli
