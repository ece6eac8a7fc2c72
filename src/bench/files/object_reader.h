// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/limits.h"
#include "core/base/outcome.h"

#include "bench/base/json.h"

#include <algorithm>
#include <optional>
#include <string>

/// Reading a file of the lab's own making (decoders, drills): every mistake is named by its path, with what is allowed.
namespace fusain::bench::file {

using InOrder = nlohmann::ordered_json; ///< mistakes are named in the order of the file

struct Trouble {
    std::string text;
    std::string path = {}; ///< of the member; empty: of the whole
};

/// A member of one object of the file; its name in messages is the path to it.
struct At {
    const InOrder& json;
    std::string path;

    std::string path_of(const std::string& key) const { return path.empty() ? key : path + '.' + key; }
    std::string name(const std::string& key) const { return '"' + path_of(key) + '"'; }
    bool has(const char* key) const { return json.contains(key); }
    void only(std::initializer_list<const char*> known) const
    {
        if (!json.is_object()) throw Trouble{'"' + path + "\" is " + json.dump() + "; allowed is an object."};
        for (const auto& [key, value] : json.items())
            if (std::none_of(
                    known.begin(), known.end(), [&, k = std::string_view(key)](const char* a) { return k == a; })) {
                std::string list;
                for (const char* a : known) list += (list.empty() ? "" : ", ") + std::string(a);
                throw Trouble{name(key) + " is not known; allowed here is " + list + "."};
            }
    }
    std::string text(const char* key, std::optional<std::string> otherwise = {}) const
    {
        if (!has(key) && otherwise) return *otherwise;
        if (!has(key)) throw Trouble{name(key) + " is missing; allowed is a text.", path_of(key)};
        if (!json[key].is_string())
            throw Trouble{name(key) + " is " + json[key].dump() + "; allowed is a text.", path_of(key)};
        return json[key];
    }
    double number(const char* key, double otherwise, double low, double high) const
    {
        if (!has(key)) return otherwise;
        const auto range = [&] {
            return "; allowed is a number from " + limits::plain(low) + " to " + limits::plain(high) + ".";
        };
        if (!json[key].is_number()) throw Trouble{name(key) + " is " + json[key].dump() + range(), path_of(key)};
        const double value = json[key];
        if (!(value >= low && value <= high))
            throw Trouble{name(key) + " is " + json[key].dump() + range(), path_of(key)};
        return value;
    }
    bool yes(const char* key) const
    {
        if (!has(key)) return false;
        if (!json[key].is_boolean())
            throw Trouble{name(key) + " is " + json[key].dump() + "; allowed is true or false.", path_of(key)};
        return json[key];
    }
    /// One of the words, by its place in the list.
    template <std::size_t n>
    std::size_t word(const char* key, const char* const (&allowed)[n], std::size_t otherwise) const
    {
        if (!has(key)) return otherwise;
        const std::string said = text(key);
        const auto at = std::find(std::begin(allowed), std::end(allowed), said);
        if (at != std::end(allowed)) return static_cast<std::size_t>(at - std::begin(allowed));
        std::string list;
        for (const char* a : allowed) list += (list.empty() ? "" : ", ") + std::string(a);
        throw Trouble{name(key) + " is \"" + said + "\"; allowed is " + list + ".", path_of(key)};
    }
    At inside(const char* key) const
    {
        static const InOrder nothing = InOrder::object();
        return {has(key) ? json[key] : nothing, path.empty() ? key : path + '.' + key};
    }
};

/// The whole file: `of` makes it of its JSON, and throws Trouble. Refused: error `code`, the field of which is the
/// file; `then` says what follows.
template <class T, class Of>
Outcome<T> read(const std::string& text, const std::string& file, const char* kind, const char* code,
    const std::string& then, Of of)
{
    const auto refuse = [&](const std::string& why) {
        return Outcome<T>::refuse({code, Level::error, file, file + ": " + why + then});
    };
    try {
        const InOrder json = InOrder::parse(text);
        if (!json.is_object() || !json.contains("kind") || json["kind"] != kind)
            return refuse(std::string("this is not a file of the kind \"") + kind + "\".");
        T out = of(json);
        out.file = file;
        return out;
    } catch (const InOrder::parse_error& x) {
        const auto upto = text.begin() + static_cast<std::ptrdiff_t>(std::min(text.size(), x.byte ? x.byte - 1 : 0));
        return refuse("line " + std::to_string(1 + std::count(text.begin(), upto, '\n')) + " is not readable as JSON.");
    } catch (const Trouble& t) {
        return refuse(t.text);
    } catch (const InOrder::exception& x) {
        return refuse(x.what());
    }
}

} // namespace fusain::bench::file
