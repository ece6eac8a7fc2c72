// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/files/profile_file.h"

#include "shipped_profiles.h"

#include "bench/base/json.h"

#include <algorithm>
#include <stdexcept>

namespace fusain::bench {
namespace {

using InOrder = nlohmann::ordered_json;
constexpr const char* kind = "fusain instrument profile";

std::string pointer_of(const std::string& dotted)
{
    std::string path = '/' + dotted;
    std::replace(path.begin(), path.end(), '.', '/');
    return path;
}

} // namespace

Outcome<impedance::Profile> read_profile(const std::string& text, const std::string& file)
{
    using Read = Outcome<impedance::Profile>;
    const auto refuse = [&](const std::string& why) {
        return Read::refuse({"bad_file", Level::error, file, file + ": " + why + " Nothing was taken from it."});
    };
    const InOrder json = InOrder::parse(text, nullptr, false);
    if (!json.is_object()) return refuse("not readable as a JSON object.");
    if (json.value("kind", "") != kind) return refuse(std::string("this is not a file of the kind \"") + kind + "\".");
    impedance::ProfileFields fields;
    for (const char* name : impedance::profile_texts)
        if (const auto at = json.find(name); at != json.end() && at->is_string()) fields.texts[name] = *at;
    for (const std::string& name : impedance::profile_numbers()) {
        const InOrder::json_pointer at(pointer_of(name));
        if (json.contains(at) && json[at].is_number()) fields.numbers[name] = json[at];
    }
    auto profile = impedance::profile_from(fields, "");
    return profile ? profile : refuse(profile.messages().front().text);
}

std::string write_profile(const impedance::Profile& profile)
{
    const impedance::ProfileFields fields = impedance::fields_of(profile);
    InOrder json = {{"kind", kind}, {"version", 1}};
    for (const char* name : impedance::profile_texts) json[name] = fields.texts.at(name);
    for (const std::string& name : impedance::profile_numbers())
        json[InOrder::json_pointer(pointer_of(name))] = fields.numbers.at(name);
    return json.dump(2) + '\n';
}

const std::vector<std::shared_ptr<const impedance::Profile>>& shipped_profiles()
{
    static const auto all = [] {
        std::vector<std::shared_ptr<const impedance::Profile>> out;
        for (const auto& [file, text] : shipped_profile_texts) {
            const auto read = read_profile(text, file);
            if (!read) throw std::runtime_error(read.messages().front().text);
            out.push_back(std::make_shared<const impedance::Profile>(*read));
        }
        return out;
    }();
    return all;
}

std::shared_ptr<const impedance::Profile> shipped_profile(std::string_view id)
{
    for (const auto& p : shipped_profiles())
        if (p->id == id) return p;
    return nullptr;
}

std::string shipped_profile_ids()
{
    std::string out;
    for (const auto& p : shipped_profiles()) out += (out.empty() ? "" : ", ") + p->id;
    return out;
}

} // namespace fusain::bench
