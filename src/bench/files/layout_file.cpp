// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/files/layout_file.h"

#include "bench/files/object_reader.h"

namespace fusain::bench {
namespace {

using file::At;
using file::InOrder;
using file::Trouble;
using printout::DateOrder;
using printout::Field;
using printout::Layout;

constexpr const char* kind = "fusain printout layout";
constexpr const char *orders[] = {"unknown", "dmy", "mdy", "ymd"}, *decimals[] = {".", ","};

/// Members that are not known are said; nulls are as if they were not there.
void known(InOrder& json, const std::string& path, std::initializer_list<const char*> names, Messages& cautions)
{
    if (!json.is_object()) throw Trouble{(path.empty() ? "This" : '"' + path + '"') + " is no JSON object.", path};
    for (auto it = json.begin(); it != json.end();)
        if (it->is_null())
            it = json.erase(it);
        else
            ++it;
    const At at{json, path};
    for (const auto& [key, value] : json.items())
        if (std::find(names.begin(), names.end(), key) == names.end())
            cautions.push_back({"unknown_member", Level::caution, at.path_of(key),
                at.name(key) + " in the layout is not known and was not used."});
}

std::vector<std::string> texts(const At& at, const char* key, std::vector<std::string> otherwise = {})
{
    if (!at.has(key)) return otherwise;
    const InOrder& list = at.json[key];
    if (!list.is_array() || !std::all_of(list.begin(), list.end(), [](const InOrder& t) { return t.is_string(); }))
        throw Trouble{at.name(key) + " is " + list.dump() + "; allowed is a list of texts.", at.path_of(key)};
    return list.get<std::vector<std::string>>();
}

Field field_of(const At& at)
{
    Field f{at.text("key", ""), at.text("quantity", ""), at.text("label", ""), at.text("unit", ""),
        at.text("segment", ""), at.text("under", ""), -1, at.yes("range"), at.yes("optional")};
    if (!at.has("decimals")) return f;
    if (!at.json["decimals"].is_number_integer() || at.json["decimals"] < 0 || at.json["decimals"] > 6)
        throw Trouble{
            at.name("decimals") + " is " + at.json["decimals"].dump() + "; allowed is a whole number, 0 to 6.",
            at.path_of("decimals")};
    f.decimals = at.json["decimals"];
    return f;
}

Layout layout_of(InOrder json, Messages& cautions)
{
    known(json, "",
        {"kind", "version", "id", "title", "method", "decimal", "date", "marks", "words", "headings", "client",
            "fields"},
        cautions);
    const auto part = [&](const char* key, std::initializer_list<const char*> names) {
        if (json.contains(key)) known(json[key], key, names, cautions);
    };
    part("marks", {"thousands"});
    part("words", {"female", "male"});
    part("client", {"number", "at", "height_cm", "age_y", "sex"});
    const At at{json, ""}, marks = at.inside("marks"), words = at.inside("words"), client = at.inside("client");
    Layout out;
    out.id = at.text("id", "");
    out.title = at.text("title", "");
    out.method = at.text("method", "");
    out.decimal = *decimals[at.word("decimal", decimals, 0)];
    out.date = static_cast<DateOrder>(at.word("date", orders, 0));
    out.thousands = marks.text("thousands", "");
    if (out.thousands.size() > 1 || out.thousands == std::string(1, out.decimal))
        throw Trouble{marks.name("thousands") + " is \"" + out.thousands +
                          "\"; allowed is one sign that is not the decimal mark.",
            marks.path_of("thousands")};
    out.female = texts(words, "female", out.female);
    out.male = texts(words, "male", out.male);
    out.headings = texts(at, "headings");
    out.client = {client.text("number", ""), client.text("at", ""), client.text("height_cm", ""),
        client.text("age_y", ""), client.text("sex", "")};
    if (!at.has("fields") || !json["fields"].is_array())
        throw Trouble{"\"fields\" is missing; allowed is a list of objects.", "fields"};
    for (std::size_t i = 0; i < json["fields"].size(); ++i) {
        const std::string path = "fields[" + std::to_string(i) + "]";
        known(json["fields"][i], path,
            {"key", "quantity", "label", "unit", "decimals", "range", "segment", "under", "optional"}, cautions);
        out.fields.push_back(field_of({json["fields"][i], path}));
    }
    return out;
}

} // namespace

Outcome<Layout> read_layout(const std::string& text, const std::string& file)
{
    const auto refuse = [&](const std::string& path, const std::string& why) {
        return Outcome<Layout>::refuse({"bad_layout", Level::error, path, file + ": " + why});
    };
    try {
        Messages cautions;
        Layout out = layout_of(InOrder::parse(text), cautions);
        out.file = file;
        if (auto wrong = printout::faults(out); !wrong.empty()) {
            for (Message& m : wrong) m.text = file + ": " + m.text;
            return Outcome<Layout>::refuse(std::move(wrong));
        }
        return {std::move(out), std::move(cautions)};
    } catch (const InOrder::parse_error& x) {
        const auto upto = text.begin() + static_cast<std::ptrdiff_t>(std::min(text.size(), x.byte ? x.byte - 1 : 0));
        return refuse(
            "", "line " + std::to_string(1 + std::count(text.begin(), upto, '\n')) + " is not readable as JSON.");
    } catch (const Trouble& t) {
        return refuse(t.path, t.text);
    } catch (const InOrder::exception& x) {
        return refuse("", x.what());
    }
}

std::string write_layout(const Layout& l)
{
    InOrder json = {{"kind", kind}, {"version", 1}, {"id", l.id}, {"title", l.title}, {"method", l.method},
        {"decimal", std::string(1, l.decimal)}};
    if (l.date != DateOrder::unknown) json["date"] = orders[static_cast<int>(l.date)];
    if (!l.thousands.empty()) json["marks"] = {{"thousands", l.thousands}};
    const Layout plain;
    if (l.female != plain.female) json["words"]["female"] = l.female;
    if (l.male != plain.male) json["words"]["male"] = l.male;
    json["fields"] = InOrder::array();
    for (const Field& f : l.fields) {
        InOrder one = {{"key", f.key}, {"label", f.label}};
        for (const auto& [name, value] :
            {std::pair("quantity", &f.quantity), {"segment", &f.segment}, {"under", &f.under}, {"unit", &f.unit}})
            if (!value->empty()) one[name] = *value;
        if (f.decimals >= 0) one["decimals"] = f.decimals;
        if (f.range) one["range"] = true;
        if (f.optional) one["optional"] = true;
        json["fields"].push_back(std::move(one));
    }
    if (!l.headings.empty()) json["headings"] = l.headings;
    for (const auto& [name, value] : {std::pair("number", &l.client.number), {"at", &l.client.at},
             {"height_cm", &l.client.height_cm}, {"age_y", &l.client.age_y}, {"sex", &l.client.sex}})
        if (!value->empty()) json["client"][name] = *value;
    return json.dump(1) + '\n';
}

} // namespace fusain::bench
