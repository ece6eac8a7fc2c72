// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "cli/batch/answer.h"
#include "bench/files/utf8.h"
#include "core/base/limits.h"
#include "core/body/energy.h"
#include "core/density/densitometry.h"

#include <simdjson.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <span>

/// The fields of a record, each looked at once: a missing, misspelt or doubled one is said by its name, an unknown one
/// is kept.
namespace fusain::cli {

using Value = simdjson::dom::element;
using Names = std::span<const std::string_view>;
using Computed = Outcome<Result>;

/// Who, and what forbids a method by itself.
struct Asked : densitometry::Person {
    bool implant = false;
    energy::Facts facts;
};

inline constexpr std::size_t most_fields = 24;
inline constexpr std::size_t shown_value = 60; ///< of a value that is quoted in a message

inline Message error(std::string code, std::string field, std::string text)
{
    return {std::move(code), Level::error, std::move(field), std::move(text)};
}

/// Letters to change, add or drop to make one word of the other.
inline std::size_t edits(std::string_view a, std::string_view b)
{
    std::vector<std::size_t> row(b.size() + 1);
    for (std::size_t j = 0; j <= b.size(); ++j) row[j] = j;
    for (std::size_t i = 1; i <= a.size(); ++i) {
        std::size_t diagonal = row[0];
        row[0] = i;
        for (std::size_t j = 1; j <= b.size(); ++j) {
            const std::size_t keep = row[j];
            row[j] = std::min({row[j] + 1, row[j - 1] + 1, diagonal + (a[i - 1] != b[j - 1])});
            diagonal = keep;
        }
    }
    return row[b.size()];
}

/// The known name that an unknown one is a near miss of, if any.
inline std::string_view meant_by(std::string_view name, Names known)
{
    for (std::string_view k : known) {
        const std::size_t allowed = k.size() >= 8 ? 2 : k.size() >= 4 ? 1 : 0;
        if (name.size() <= k.size() + allowed && k.size() <= name.size() + allowed && edits(name, k) <= allowed)
            return k;
    }
    return {};
}

inline std::string json_of(const Value& value)
{
    std::string out;
    if (std::string_view text; !value.get(text))
        append_json(out, text);
    else if (double number = 0; value.is_double() && !value.get(number))
        append_json(out, number);
    else
        out = simdjson::minify(value);
    return out;
}

inline std::string shown(const Value& value) { return shown_text(json_of(value), shown_value); }

/// What keeps people safe. It is read at the top of a record and in its method's block, and nowhere else: where it
/// stands otherwise it is an error, never an extra.
inline constexpr std::string_view safety_words[] = {"implant", "pregnant", "kidney_disease", "eating_disorder"};
inline constexpr std::string_view never_read[] = {"under_18"}; ///< the age says it

inline bool is_safety_word(std::string_view name)
{
    const auto in = [&](Names words) { return std::find(words.begin(), words.end(), name) != words.end(); };
    return in(safety_words) || in(never_read);
}

inline Message misplaced(const std::string& field)
{
    return error("misplaced", field,
        field + " is not read there. implant and pregnant, and of energy and plan kidney_disease and eating_disorder, "
                "stand at the top of the record or in its method's block; age_y says who is under 18.");
}

/// Names every safety word inside of a value that nothing else is read from.
inline void find_misplaced(const Value& value, const std::string& path, Messages& bad)
{
    simdjson::dom::object object;
    simdjson::dom::array list;
    if (!value.get(object)) {
        for (const auto [name, inner] : object) {
            const std::string field = path + '.' + std::string(name);
            if (is_safety_word(name)) bad.push_back(misplaced(field));
            find_misplaced(inner, field, bad);
        }
    } else if (!value.get(list)) {
        for (const Value& inner : list) find_misplaced(inner, path, bad);
    }
}

/// One JSON object against the names it may have: every field is looked at once.
class Fields {
public:
    Fields(const simdjson::dom::object& object, std::string_view path, Names known, Answer& answer)
        : path_(path), known_(known), bad_(answer.messages)
    {
        std::vector<std::string_view> others;
        for (const auto [name, value] : object) {
            const auto at = std::find(known.begin(), known.end(), name);
            if (at != known.end()) {
                auto& slot = slots_[static_cast<std::size_t>(at - known.begin())];
                if (slot) twice(name);
                slot = value;
                continue;
            }
            if (std::find(others.begin(), others.end(), name) != others.end()) twice(name);
            others.push_back(name);
            const bool of_the_method = std::count(path_.begin(), path_.end(), '.') == 1;
            if (of_the_method &&
                std::find(std::begin(safety_words), std::end(safety_words), name) != std::end(safety_words))
                continue; // read with the record (record.cpp)
            const std::string field = std::string(path_) + std::string(name);
            if (is_safety_word(name)) {
                bad_.push_back(misplaced(field));
                continue;
            }
            find_misplaced(value, field, bad_);
            auto meant = meant_by(name, known);
            if (meant.empty() && of_the_method) meant = meant_by(name, safety_words);
            if (!meant.empty())
                bad_.push_back(error("misspelt_field", field,
                    "Unknown field " + field + "; did you mean " + std::string(path_) + std::string(meant) + "?"));
            else
                answer.extra.emplace_back(field, json_of(value));
        }
    }

    const std::optional<Value>& raw(std::string_view name) const
    {
        return slots_[static_cast<std::size_t>(std::find(known_.begin(), known_.end(), name) - known_.begin())];
    }
    bool has(std::string_view name) const { return raw(name) && !raw(name)->is_null(); }

    double number(std::string_view name, std::optional<double> otherwise = std::nullopt)
    {
        if (has(name)) return as_number(*raw(name), name);
        if (!otherwise) missing(name);
        return otherwise.value_or(NAN);
    }

    std::vector<double> numbers(std::string_view name)
    {
        std::vector<double> out;
        simdjson::dom::array list;
        if (!has(name))
            missing(name);
        else if (raw(name)->get(list))
            bad_.push_back(error("not_a_list", field(name),
                field(name) + " is " + shown(*raw(name)) + "; a list of numbers is needed."));
        else
            for (const Value& item : list) out.push_back(as_number(item, name));
        return out;
    }

    /// A list of lists of numbers.
    std::vector<std::vector<double>> lists(std::string_view name)
    {
        std::vector<std::vector<double>> out;
        simdjson::dom::array outer;
        if (!has(name))
            missing(name);
        else if (raw(name)->get(outer))
            bad_.push_back(error("not_a_list", field(name),
                field(name) + " is " + shown(*raw(name)) + "; a list of lists of numbers is needed."));
        else
            for (const Value& item : outer) {
                simdjson::dom::array inner;
                std::vector<double>& one = out.emplace_back();
                if (item.get(inner))
                    bad_.push_back(error("not_a_list", field(name),
                        field(name) + " holds " + shown(item) + "; a list of numbers is needed."));
                else
                    for (const Value& number : inner) one.push_back(as_number(number, name));
            }
        return out;
    }

    std::string text(std::string_view name, std::optional<std::string_view> otherwise = std::nullopt)
    {
        std::string_view out = otherwise.value_or("");
        if (has(name)) {
            if (raw(name)->get(out))
                bad_.push_back(
                    error("not_a_text", field(name), field(name) + " is " + shown(*raw(name)) + "; a text is needed."));
        } else if (!otherwise) {
            missing(name);
        }
        return std::string(out);
    }

    bool flag(std::string_view name)
    {
        bool out = false;
        if (has(name) && raw(name)->get(out))
            bad_.push_back(error(
                "not_a_flag", field(name), field(name) + " is " + shown(*raw(name)) + "; true or false is needed."));
        return out;
    }

    /// A list of blocks, each handed on with its place.
    template <class Take>
    void blocks(std::string_view name, const Take& take)
    {
        simdjson::dom::array list;
        if (raw(name)->get(list)) {
            bad_.push_back(error(
                "not_a_list", field(name), field(name) + " is " + shown(*raw(name)) + "; a list of blocks is needed."));
            return;
        }
        for (const Value& item : list) {
            simdjson::dom::object inner;
            if (item.get(inner))
                bad_.push_back(error("not_a_block", field(name),
                    field(name) + " holds " + shown(item) + "; a block of fields is needed."));
            else
                take(inner, field(name) + '.');
        }
    }

    /// One of a list of words, as its position; the first when something is wrong.
    std::size_t choice(std::string_view name, Names allowed)
    {
        std::string_view given;
        if (!has(name)) {
            missing(name);
            return 0;
        }
        if (raw(name)->get(given)) {
            text(name); // says what is wrong
            return 0;
        }
        const auto at = std::find(allowed.begin(), allowed.end(), given);
        if (at != allowed.end()) return static_cast<std::size_t>(at - allowed.begin());
        std::string list;
        for (std::string_view word : allowed) list += (list.empty() ? "" : ", ") + std::string(word);
        bad_.push_back(error("unknown_choice", field(name),
            field(name) + " is \"" + std::string(given) + "\"; allowed is one of " + list + "."));
        return 0;
    }

    std::optional<simdjson::dom::object> block(std::string_view name)
    {
        simdjson::dom::object out;
        if (!raw(name))
            bad_.push_back(error("missing_field", field(name), "Block " + field(name) + " is missing."));
        else if (raw(name)->get(out))
            bad_.push_back(error("not_a_block", field(name),
                field(name) + " is " + shown(*raw(name)) + "; a block of fields is needed."));
        else
            return out;
        return std::nullopt;
    }

private:
    std::string field(std::string_view name) const { return std::string(path_) + std::string(name); }
    double as_number(const Value& value, std::string_view name)
    {
        double out = NAN;
        if (value.is_bool() || value.get(out))
            bad_.push_back(
                error("not_a_number", field(name), field(name) + " is " + shown(value) + "; a number is needed."));
        return out;
    }
    void missing(std::string_view name)
    {
        bad_.push_back(error("missing_field", field(name), "Field " + field(name) + " is missing."));
    }
    void twice(std::string_view name)
    {
        bad_.push_back(error("field_twice", std::string(path_) + std::string(name),
            "The field " + std::string(path_) + std::string(name) + " is given twice."));
    }

    std::string_view path_;
    Names known_;
    Messages& bad_;
    std::array<std::optional<Value>, most_fields> slots_{};
};

/// A record with several faults names them all: what could not be read, and what the core would not take of the rest.
/// Of a block inside the method's block that could not be read whole the core saw only a part, and is not asked.
template <class Compute>
Computed computed(const Answer& answer, const Compute& compute)
{
    if (answer.messages.empty()) return compute();
    Messages all = answer.messages;
    for (const Message& m : compute().messages()) {
        const auto is_same = [&](const Message& said) {
            const std::string_view around = std::string_view(said.field).substr(0, said.field.rfind('.') + 1);
            return m.field.starts_with(said.field) || said.field.starts_with(m.field) ||
                   (std::count(around.begin(), around.end(), '.') > 1 && m.field.starts_with(around));
        };
        if (m.level == Level::error && std::none_of(answer.messages.begin(), answer.messages.end(), is_same))
            all.push_back(m);
    }
    return Computed::refuse(std::move(all));
}

} // namespace fusain::cli
