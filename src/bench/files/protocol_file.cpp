// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/files/protocol_file.h"

#include "bench/base/json.h"

#include <algorithm>
#include <set>

namespace fusain::bench {
namespace {

using Json = nlohmann::ordered_json;
using namespace protocol;

/// What stops the reading of a file; `near` is the id in whose neighbourhood the line is looked for.
struct Trouble {
    std::string near, text;
};

int line_of(const std::string& text, std::size_t at)
{
    return 1 + static_cast<int>(std::count(
                   text.begin(), text.begin() + static_cast<std::ptrdiff_t>(std::min(at, text.size())), '\n'));
}

Message refusal(const std::string& file, const std::string& text, const Trouble& t)
{
    const std::size_t at = t.near.empty() ? std::string::npos : text.find("\"id\": \"" + t.near + '"');
    return {"bad_file", Level::error, file,
        file + (at == std::string::npos ? "" : ", line " + std::to_string(line_of(text, at))) + ": " + t.text +
            " Nothing was taken from it; what was in use stays."};
}

/// Runs `read` on the parsed file of the kind expected; everything that goes wrong becomes a refusal with file and
/// line.
template <class T, class Read>
Outcome<T> with_file(const std::string& text, const std::string& file, const char* kind, Read read)
{
    try {
        const Json json = Json::parse(text);
        if (!json.is_object() || json.value("kind", "") != kind)
            throw Trouble{"", std::string("this is not a file of the kind \"") + kind + "\"."};
        return read(json);
    } catch (const Json::parse_error& x) {
        return Outcome<T>::refuse(Message{"bad_file", Level::error, file,
            file + ", line " + std::to_string(line_of(text, x.byte ? x.byte - 1 : 0)) +
                ": not readable as JSON there. Nothing was taken from it; what was in use stays."});
    } catch (const Trouble& t) {
        return Outcome<T>::refuse(refusal(file, text, t));
    } catch (const Json::exception& x) {
        return Outcome<T>::refuse(refusal(file, text, {"", x.what()}));
    }
}

/// A member that must be there and of the right type; otherwise the trouble names id and member.
template <class T>
T need(const Json& row, const char* key, const std::string& id)
{
    const auto at = row.find(key);
    if (at == row.end())
        throw Trouble{id, (id.empty() ? "" : "\"" + id + "\": ") + std::string("\"") + key + "\" is missing."};
    try {
        return at->get<T>();
    } catch (const Json::exception&) {
        throw Trouble{id, (id.empty() ? "" : "\"" + id + "\": ") + std::string("\"") + key + "\" is " + at->dump() +
                              ", which is not of the right kind."};
    }
}
template <class T>
T maybe(const Json& row, const char* key, const std::string& id, T otherwise)
{
    return row.contains(key) ? need<T>(row, key, id) : otherwise;
}

template <std::size_t n>
void only(const Json& row, const std::string& id, const char* const (&known)[n])
{
    for (const auto& [key, value] : row.items())
        if (std::none_of(std::begin(known), std::end(known), [&](const char* k) { return key == k; }))
            throw Trouble{id, "\"" + id + "\": \"" + key + "\" is not known; is it misspelt?"};
}

Audience audience(const Json& row, const std::string& id)
{
    Audience a;
    const std::string sex = maybe<std::string>(row, "sex", id, "");
    if (sex == "female")
        a.sex = Sex::female;
    else if (sex == "male")
        a.sex = Sex::male;
    else if (!sex.empty())
        throw Trouble{id, "\"" + id + "\": \"sex\" is \"" + sex + "\"; allowed is female or male."};
    a.from_age_y = maybe(row, "from_age_y", id, 0.0);
    a.below_age_y = maybe(row, "below_age_y", id, 200.0);
    return a;
}

void put(Json& row, const Audience& a)
{
    if (a.sex) row["sex"] = word(*a.sex);
    if (a.from_age_y > 0) row["from_age_y"] = a.from_age_y;
    if (a.below_age_y < 200) row["below_age_y"] = a.below_age_y;
}

Verdict verdict_of(const std::string& text, const std::string& id)
{
    for (Verdict v : {Verdict::go, Verdict::noted, Verdict::another_day, Verdict::no})
        if (text == word(v)) return v;
    throw Trouble{
        id, "\"" + id + "\": the verdict \"" + text + "\" is not known; allowed is noted, another_day or no."};
}

Effect effect_of(const Json& row, const std::string& id)
{
    Effect e{need<std::string>(row, "quantity", id), need<int>(row, "direction", id), {}, {},
        maybe<std::string>(row, "unit", id, ""), maybe<std::string>(row, "why", id, "")};
    if (row.contains("low")) e.low = need<double>(row, "low", id);
    if (row.contains("high")) e.high = need<double>(row, "high", id);
    return e;
}

protocol::Rule rule_of(const Json& row)
{
    protocol::Rule r;
    r.id = need<std::string>(row, "id", "");
    only(row, r.id,
        {"id", "question", "levels", "outside", "verdict", "safety", "topic", "prepare", "prepare_min", "part",
            "finding", "effects", "reason", "source", "when", "sex", "from_age_y", "below_age_y"});
    r.question = maybe<std::string>(row, "question", r.id, "");
    for (const Json& l : maybe(row, "levels", r.id, Json::array())) {
        r.levels.push_back({need<double>(l, "limit", r.id), verdict_of(need<std::string>(l, "verdict", r.id), r.id)});
    }
    r.outside = maybe(row, "outside", r.id, true);
    r.verdict = verdict_of(maybe<std::string>(row, "verdict", r.id, "noted"), r.id);
    r.safety = maybe(row, "safety", r.id, false);
    r.topic = maybe<std::string>(row, "topic", r.id, "");
    r.prepare = maybe<std::string>(row, "prepare", r.id, "");
    r.prepare_min = maybe(row, "prepare_min", r.id, 0.0);
    r.part = maybe<std::string>(row, "part", r.id, "");
    r.finding = maybe<std::string>(row, "finding", r.id, "");
    for (const Json& e : maybe(row, "effects", r.id, Json::array())) r.effects.push_back(effect_of(e, r.id));
    r.reason = need<std::string>(row, "reason", r.id);
    r.source = need<std::string>(row, "source", r.id);
    r.when = maybe(row, "when", r.id, r.when);
    r.audience = audience(row, r.id);
    return r;
}

} // namespace

Outcome<std::vector<Question>> read_questions(const std::string& text, const std::string& file)
{
    using List = std::vector<Question>;
    return with_file<List>(text, file, "fusain questions", [](const Json& json) {
        List out;
        std::set<std::string> seen;
        const auto groups = need<std::vector<std::string>>(json, "groups", "");
        auto group = groups.begin(); // the questions stand in the order of the groups
        for (const Json& row : need<Json>(json, "questions", "")) {
            Question q;
            q.id = need<std::string>(row, "id", "");
            if (!seen.insert(q.id).second) throw Trouble{q.id, "the question \"" + q.id + "\" stands there twice."};
            const std::string ask = need<std::string>(row, "ask", q.id);
            if (ask != "clock" && ask != "yes_no" && ask != "number")
                throw Trouble{
                    q.id, "\"" + q.id + "\": \"ask\" is \"" + ask + "\"; allowed is clock, yes_no or number."};
            q.ask = ask == "clock" ? Ask::clock : ask == "number" ? Ask::number : Ask::yes_no;
            q.group = need<std::string>(row, "group", q.id);
            const auto at = std::find(groups.begin(), groups.end(), q.group);
            if (at == groups.end())
                throw Trouble{q.id, "\"" + q.id + "\": the group \"" + q.group + "\" is not one of \"groups\"."};
            if (at < group)
                throw Trouble{q.id, "\"" + q.id + "\": stands after the group \"" + *group + "\"; the questions of \"" +
                                        q.group + "\" stand together, before it."};
            group = at;
            q.words = need<std::string>(row, "words", q.id);
            q.unit = maybe<std::string>(row, "unit", q.id, "");
            q.fact = maybe<std::string>(row, "fact", q.id, "");
            q.from_last = maybe(row, "from_last", q.id, false);
            q.audience = audience(row, q.id);
            out.push_back(std::move(q));
        }
        return out;
    });
}

Outcome<Protocol> read_protocol(const std::string& text, const std::string& file, std::span<const Question> questions)
{
    return with_file<Protocol>(text, file, "fusain protocol", [&](const Json& json) {
        const std::string method = need<std::string>(json, "method", "");
        const auto m = method_of(method);
        if (!m) throw Trouble{"", "the method \"" + method + "\" is not known; allowed is " + method_words() + '.'};
        Protocol p{*m};
        p.id = need<std::string>(json, "id", "");
        p.title = need<std::string>(json, "title", "");
        p.version = need<int>(json, "version", "");
        for (const Json& row : need<Json>(json, "rules", "")) p.rules.push_back(rule_of(row));
        if (const Messages bad = protocol::check(p, questions); !bad.empty())
            throw Trouble{bad.front().field, bad.front().text};
        return p;
    });
}

std::string write_protocol(const Protocol& p)
{
    Json json = {{"kind", "fusain protocol"}, {"method", p.method->word}, {"id", p.id}, {"title", p.title},
        {"version", p.version}, {"rules", Json::array()}};
    for (const protocol::Rule& r : p.rules) {
        Json row = {{"id", r.id}};
        if (!r.question.empty()) row["question"] = r.question;
        if (!r.levels.empty()) {
            for (const auto& l : r.levels) row["levels"].push_back({{"limit", l.limit}, {"verdict", word(l.verdict)}});
        } else if (!r.question.empty()) {
            row["outside"] = r.outside;
            row["verdict"] = word(r.verdict);
        }
        if (r.safety) row["safety"] = true;
        if (!r.topic.empty()) row["topic"] = r.topic;
        if (!r.prepare.empty()) row["prepare"] = r.prepare;
        if (!r.part.empty()) row["part"] = r.part;
        if (r.prepare_min > 0) row["prepare_min"] = r.prepare_min;
        if (!r.finding.empty()) row["finding"] = r.finding;
        for (const Effect& e : r.effects) {
            Json x = {{"quantity", e.quantity}, {"direction", e.direction}};
            if (e.low) x["low"] = *e.low;
            if (e.high) x["high"] = *e.high;
            if (!e.unit.empty()) x["unit"] = e.unit;
            if (!e.why.empty()) x["why"] = e.why;
            row["effects"].push_back(x);
        }
        row["reason"] = r.reason;
        row["source"] = r.source;
        if (!r.when.empty()) row["when"] = r.when;
        put(row, r.audience);
        json["rules"].push_back(row);
    }
    return json.dump(2) + "\n";
}

Outcome<std::vector<house::Rule>> read_house_rules(const std::string& text, const std::string& file)
{
    using List = std::vector<house::Rule>;
    return with_file<List>(text, file, "fusain house rules", [](const Json& json) {
        List out;
        for (const Json& row : need<Json>(json, "rules", "")) {
            house::Rule r;
            r.id = need<std::string>(row, "id", "");
            r.question = need<std::string>(row, "question", r.id);
            for (const Json& o : need<Json>(row, "options", r.id))
                r.options.push_back({need<std::string>(o, "id", r.id), need<std::string>(o, "title", r.id)});
            r.default_id = need<std::string>(row, "default", r.id);
            r.reason = need<std::string>(row, "reason", r.id);
            r.changes = need<std::string>(row, "changes", r.id);
            r.source = need<std::string>(row, "source", r.id);
            if (!r.option(r.default_id))
                throw Trouble{r.id, "\"" + r.id + "\": the default \"" + r.default_id + "\" is not among its options."};
            out.push_back(std::move(r));
        }
        return out;
    });
}

} // namespace fusain::bench
