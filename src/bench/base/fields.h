// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/base/event.h"
#include "bench/base/json.h"
#include "core/base/limits.h"

#include <cmath>
#include <functional>
#include <map>
#include <optional>
#include <string>
#include <vector>

/// The fields of a struct as keys of JSON, a row each: how it is written and read, and when it is refused. For the one
/// file of a room that lists its events.
namespace fusain::bench {

using Json = nlohmann::json;

template <class E>
class Fields;
/// Of every struct that is logged, or lies in one that is.
template <class E>
Fields<E> fields();

/// `bad_event`, of a field whose value is of another type than is allowed.
Message other_type(const std::string& field, const Json& is, const char* allowed);

namespace detail {

template <class T>
struct IsOptional : std::false_type {
};
template <class T>
struct IsOptional<std::optional<T>> : std::true_type {
};

template <class T>
concept Plain = std::is_arithmetic_v<T> || std::is_same_v<T, std::string>;
template <class T>
concept Many = requires(T t)
{
    t.push_back(typename T::value_type{});
}
&&!std::is_same_v<T, std::string>;
template <class T>
concept Named = requires
{
    typename T::mapped_type;
};

template <class T>
Json to_json(const T& value)
{
    if constexpr (Plain<T>) {
        return value;
    } else if constexpr (IsOptional<T>::value) {
        return value ? detail::to_json(*value) : Json();
    } else if constexpr (Many<T>) {
        Json out = Json::array();
        for (const auto& each : value) out.push_back(detail::to_json(each));
        return out;
    } else if constexpr (Named<T>) {
        Json out = Json::object();
        for (const auto& [name, each] : value) out[name] = detail::to_json(each);
        return out;
    } else {
        return Fields<T>::all().to_json(value);
    }
}

/// `key`: for the refusal, which names it, its value and what is allowed.
template <class T>
[[nodiscard]] std::optional<Message> read_value(const Json& j, T& value, const std::string& key)
{
    if constexpr (IsOptional<T>::value) {
        return read_value(j, value.emplace(), key);
    } else if constexpr (Plain<T>) {
        constexpr bool text = std::is_same_v<T, std::string>, flag = std::is_same_v<T, bool>;
        if (text ? !j.is_string() : flag ? !j.is_boolean() : !j.is_number())
            return other_type(key, j, text ? "a text" : flag ? "true or false" : "a number");
        j.get_to(value);
        return std::nullopt;
    } else if constexpr (Many<T>) {
        if (!j.is_array()) return other_type(key, j, "a list");
        value.clear();
        for (const Json& each : j) {
            typename T::value_type one{};
            if (auto why = read_value(each, one, key)) return why;
            value.push_back(std::move(one));
        }
        return std::nullopt;
    } else if constexpr (Named<T>) {
        if (!j.is_object()) return other_type(key, j, "a table by name");
        value.clear();
        for (const auto& [name, each] : j.items())
            if (auto why = read_value(each, value[name], key + "." + name)) return why;
        return std::nullopt;
    } else {
        if (!j.is_object()) return other_type(key, j, "a table of fields");
        return Fields<T>::all().from_json(j, value);
    }
}

template <class T>
bool is_empty(const T& value)
{
    if constexpr (requires { value.empty(); })
        return value.empty();
    else
        return false;
}

/// It says nothing that the struct does not begin with.
template <class T>
bool says_nothing(const T& value, const T& at_first)
{
    if constexpr (Plain<T>)
        return value == at_first;
    else if constexpr (IsOptional<T>::value)
        return !value;
    else
        return detail::to_json(value).empty();
}

} // namespace detail

template <class E>
class Fields {
public:
    struct Row {
        std::function<void(const E&, Json&)> write;
        std::function<std::optional<Message>(const Json&, E&)> read;
    };

    static const Fields& all()
    {
        static const Fields rows = fields<E>();
        return rows;
    }

    Fields&& none() && { return std::move(*this); }

    /// What it has of another struct.
    template <class B>
    Fields&& with() &&
    {
        for (const auto& row : Fields<B>::all().rows_) rows_.push_back({row.write, row.read});
        return std::move(*this);
    }

    /// May be left out: then it is what the struct begins with, which is not written either.
    template <class B, class T>
    Fields&& field(const char* key, T B::*member) &&
    {
        rows_.push_back({[=](const E& e, Json& j) {
                             if (!detail::says_nothing(e.*member, E{}.*member)) j[key] = detail::to_json(e.*member);
                         },
            [=](const Json& j, E& e) -> std::optional<Message> {
                const auto at = j.find(key);
                if (at == j.end() || at->is_null()) return std::nullopt;
                return detail::read_value(*at, e.*member, key);
            }});
        return std::move(*this);
    }

    /// Written always, whatever it is; may be missing in older logs.
    template <class B, class T>
    Fields&& always(const char* key, T B::*member) &&
    {
        std::move(*this).field(key, member);
        rows_.back().write = [=](const E& e, Json& j) { j[key] = detail::to_json(e.*member); };
        return std::move(*this);
    }

    /// A number without which it is nothing, within these limits (core/base/limits.h, which has its unit).
    template <class B>
    Fields&& needed(const char* key, double B::*member, const char* limits) &&
    {
        rows_.push_back({[=](const E& e, Json& j) { j[key] = e.*member; },
            [=](const Json& j, E& e) -> std::optional<Message> {
                const auto at = j.find(key);
                if (at == j.end() || !at->is_number())
                    return Message{"missing_field", Level::error, limits, std::string("Field ") + key + " is missing."};
                return limits::check(limits, at->get_to(e.*member));
            }});
        return std::move(*this);
    }

    /// A number over 0 without which it is nothing.
    template <class B>
    Fields&& positive(const char* key, double B::*member) &&
    {
        return std::move(*this).positive(key, member,
            {"missing_field", Level::error, key, std::string("Field ") + key + " is missing or not positive."});
    }
    template <class B>
    Fields&& positive(const char* key, double B::*member, Message why) &&
    {
        rows_.push_back({[=](const E& e, Json& j) { j[key] = e.*member; },
            [=](const Json& j, E& e) -> std::optional<Message> {
                const auto at = j.find(key);
                if (at != j.end() && at->is_number() && at->get_to(e.*member) > 0) return std::nullopt;
                return why;
            }});
        return std::move(*this);
    }

    /// Without it, or where it is empty or of another type, this is said.
    template <class B, class T>
    Fields&& needed(const char* key, T B::*member, Message why) &&
    {
        rows_.push_back({[=](const E& e, Json& j) { j[key] = detail::to_json(e.*member); },
            [=](const Json& j, E& e) -> std::optional<Message> {
                const auto at = j.find(key);
                if (at == j.end() || at->is_null()) return why;
                if (auto bad = detail::read_value(*at, e.*member, key)) return bad->code == "bad_event" ? why : *bad;
                return detail::is_empty(e.*member) ? std::optional(why) : std::nullopt;
            }});
        return std::move(*this);
    }

    /// A word for something that is none in the struct. `from` is asked even where the key is missing: with "".
    template <class B, class T, class To, class From>
    Fields&& word(const char* key, T B::*member, To to, From from) &&
    {
        rows_.push_back({[=](const E& e, Json& j) {
                             if (const std::string said = to(e.*member); !said.empty()) j[key] = said;
                         },
            [=](const Json& j, E& e) -> std::optional<Message> {
                return from(j.value(key, std::string()), e.*member);
            }});
        return std::move(*this);
    }

    /// What is laid out otherwise than a key a field.
    Fields&& other(Row row) &&
    {
        rows_.push_back(std::move(row));
        return std::move(*this);
    }

    Json to_json(const E& e) const
    {
        Json out = Json::object();
        for (const Row& row : rows_) row.write(e, out);
        return out;
    }

    [[nodiscard]] std::optional<Message> from_json(const Json& j, E& e) const
    {
        for (const Row& row : rows_)
            if (auto why = row.read(j, e)) return why;
        return std::nullopt;
    }

private:
    template <class>
    friend class Fields;
    std::vector<Row> rows_;
};

template <class E>
std::string written(const E& what)
{
    return Fields<E>::all().to_json(what).dump();
}

Message unreadable_event(const char* why);

template <class E>
Outcome<E> read(const std::string& body)
{
    try {
        const Json j = Json::parse(body);
        j.get_ref<const Json::object_t&>();
        E out;
        if (auto why = Fields<E>::all().from_json(j, out)) return Outcome<E>::refuse(std::move(*why));
        return out;
    } catch (const Json::exception& x) {
        return Outcome<E>::refuse(unreadable_event(x.what()));
    }
}

/// The fields of a struct that is logged: `FUSAIN_FIELDS(Name, row.row…)`, where E is short for the struct within the
/// rows. Within the namespace.
#define FUSAIN_FIELDS(NAME, ...)                                                                                       \
    template <>                                                                                                        \
    Fields<NAME> fields()                                                                                              \
    {                                                                                                                  \
        using E = NAME;                                                                                                \
        return Fields<E>().__VA_ARGS__;                                                                                \
    }
/// The same of one that everybody who knows its header writes and reads.
#define FUSAIN_LOGGED(NAME, ...)                                                                                       \
    FUSAIN_FIELDS(NAME, __VA_ARGS__)                                                                                   \
    template std::string written(const NAME&);                                                                         \
    template Outcome<NAME> read(const std::string&);

} // namespace fusain::bench
