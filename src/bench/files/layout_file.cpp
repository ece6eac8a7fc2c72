// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/files/layout_file.h"

#include "bench/files/object_reader.h"

#include <set>

namespace fusain::bench {
namespace {

using file::At;
using file::InOrder;
using file::Trouble;
using printout::DateOrder;
using printout::Field;
using printout::Layout;

constexpr const char* kind = "fusain printout layout";
constexpr const char* orders[] = {"unknown", "dmy", "mdy", "ymd"};

/// A mistake, with its path.
struct Wrong {
    std::string path, text;
};

class LayoutReader {
public:
    Layout read(const InOrder& json)
    {
        if (!json.is_object()) throw Wrong{"", "This is not a JSON object."};
        Layout out;
        known(json, "",
            {"kind", "version", "id", "title", "method", "decimal", "date", "marks", "words", "headings", "client",
                "fields"});
        out.id = text(json, "", "id");
        out.title = text(json, "", "title");
        out.method = text(json, "", "method");
        if (const std::string mark = text(json, "", "decimal"); !mark.empty()) {
            if (mark != "." && mark != ",")
                throw Wrong{"decimal", "\"decimal\" is \"" + mark + "\"; allowed is . or ,."};
            out.decimal = mark[0];
        }
        if (const std::string date = text(json, "", "date"); !date.empty()) {
            const auto at = std::find(std::begin(orders) + 1, std::end(orders), date);
            if (at == std::end(orders)) throw Wrong{"date", "\"date\" is \"" + date + "\"; allowed is dmy, mdy, ymd."};
            out.date = static_cast<DateOrder>(at - std::begin(orders));
        }
        if (const InOrder* marks = object(json, "", "marks")) {
            known(*marks, "marks.", {"thousands"});
            out.thousands = text(*marks, "marks.", "thousands");
            if (out.thousands.size() > 1 || out.thousands == std::string(1, out.decimal))
                throw Wrong{"marks.thousands", "\"marks.thousands\" is \"" + out.thousands +
                                                   "\"; allowed is one sign that is not the decimal mark."};
        }
        if (const InOrder* words = object(json, "", "words")) {
            known(*words, "words.", {"female", "male"});
            if (words->contains("female")) out.female = texts(*words, "words.", "female");
            if (words->contains("male")) out.male = texts(*words, "words.", "male");
        }
        if (json.contains("headings")) out.headings = texts(json, "", "headings");
        if (const InOrder* client = object(json, "", "client")) {
            known(*client, "client.", {"number", "at", "height_cm", "age_y", "sex"});
            out.client = {text(*client, "client.", "number"), text(*client, "client.", "at"),
                text(*client, "client.", "height_cm"), text(*client, "client.", "age_y"),
                text(*client, "client.", "sex")};
        }
        if (!json.contains("fields") || !json["fields"].is_array())
            throw Wrong{"fields", "\"fields\" is missing; allowed is a list of objects."};
        for (std::size_t i = 0; i < json["fields"].size(); ++i) {
            const InOrder& f = json["fields"][i];
            const std::string path = "fields[" + std::to_string(i) + "].";
            if (!f.is_object()) throw Wrong{"fields[" + std::to_string(i) + "]", path + " is no object."};
            known(f, path, {"key", "quantity", "label", "unit", "decimals", "range", "segment", "under", "optional"});
            Field field{text(f, path, "key"), text(f, path, "quantity"), text(f, path, "label"), text(f, path, "unit"),
                text(f, path, "segment"), text(f, path, "under"), -1, yes(f, path, "range"), yes(f, path, "optional")};
            if (f.contains("decimals") && !f["decimals"].is_null()) {
                if (!f["decimals"].is_number_integer() || f["decimals"] < 0 || f["decimals"] > 6)
                    throw Wrong{path + "decimals",
                        '"' + path + "decimals\" is " + f["decimals"].dump() + "; allowed is a whole number, 0 to 6."};
                field.decimals = f["decimals"];
            }
            out.fields.push_back(std::move(field));
        }
        return out;
    }

    Messages cautions;

private:
    void known(const InOrder& json, const std::string& path, std::set<std::string_view> names)
    {
        for (const auto& [key, value] : json.items())
            if (!names.count(key))
                cautions.push_back({"unknown_member", Level::caution, path + key,
                    '"' + path + key + "\" in the layout is not known and was not used."});
    }
    static std::string text(const InOrder& json, const std::string& path, const char* key)
    {
        if (!json.contains(key) || json[key].is_null()) return {};
        if (!json[key].is_string())
            throw Wrong{path + key, '"' + path + key + "\" is " + json[key].dump() + "; allowed is a text."};
        return json[key];
    }
    static bool yes(const InOrder& json, const std::string& path, const char* key)
    {
        if (!json.contains(key) || json[key].is_null()) return false;
        if (!json[key].is_boolean())
            throw Wrong{path + key, '"' + path + key + "\" is " + json[key].dump() + "; allowed is true or false."};
        return json[key];
    }
    static const InOrder* object(const InOrder& json, const std::string& path, const char* key)
    {
        if (!json.contains(key) || json[key].is_null()) return nullptr;
        if (!json[key].is_object()) throw Wrong{path + key, '"' + path + key + "\" is no object."};
        return &json[key];
    }
    static std::vector<std::string> texts(const InOrder& json, const std::string& path, const char* key)
    {
        const InOrder& list = json[key];
        if (!list.is_array() || !std::all_of(list.begin(), list.end(), [](const InOrder& t) { return t.is_string(); }))
            throw Wrong{path + key, '"' + path + key + "\" is " + list.dump() + "; allowed is a list of texts."};
        return list.get<std::vector<std::string>>();
    }
};

} // namespace

Outcome<Layout> read_layout(const std::string& text, const std::string& file)
{
    const auto refuse = [&](const std::string& path, const std::string& why) {
        return Outcome<Layout>::refuse({"bad_layout", Level::error, path, file + ": " + why});
    };
    try {
        LayoutReader reader;
        Layout out = reader.read(InOrder::parse(text));
        out.file = file;
        if (auto wrong = printout::faults(out); !wrong.empty()) {
            for (Message& m : wrong) m.text = file + ": " + m.text;
            return Outcome<Layout>::refuse(std::move(wrong));
        }
        return {std::move(out), std::move(reader.cautions)};
    } catch (const InOrder::parse_error& x) {
        const auto upto = text.begin() + static_cast<std::ptrdiff_t>(std::min(text.size(), x.byte ? x.byte - 1 : 0));
        return refuse(
            "", "line " + std::to_string(1 + std::count(text.begin(), upto, '\n')) + " is not readable as JSON.");
    } catch (const Wrong& w) {
        return refuse(w.path, w.text);
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
