// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <algorithm>
#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace fusain {

/// How much of a result is told: numbers with their uncertainties, or also budget, ladder and story.
enum class Detail { numbers, whole };

/// How much a message matters. Ordered: the worst level of an outcome is its status.
enum class Level { caution, repeat, refused, error };
inline constexpr const char* level_words[] = {"caution", "repeat", "refused", "error"};
inline const char* word(Level level) { return level_words[static_cast<int>(level)]; }

/// One remark about a computation. `field` is the path of the input it speaks of (`hydrostatic.water_temp_c`), or
/// empty.
struct Message {
    std::string code;
    Level level = Level::caution;
    std::string field;
    std::string text;
};

using Messages = std::vector<Message>;

/// Status word of the calculation interface for a set of messages: ok, repeat, refused or error.
inline const char* status_word(const Messages& messages)
{
    Level worst = Level::caution;
    for (const Message& m : messages) worst = std::max(worst, m.level);
    constexpr const char* words[] = {"ok", "repeat", "refused", "error"};
    return words[static_cast<int>(worst)];
}

inline bool blocks(const Messages& messages)
{
    return std::any_of(messages.begin(), messages.end(), [](const Message& m) { return m.level != Level::caution; });
}

/// A result with three faces: a value, a value with named cautions, or a named refusal (no value).
template <class T>
class [[nodiscard]] Outcome {
public:
    Outcome(T value, Messages cautions = {}) : value_(std::move(value)), messages_(std::move(cautions)) {}
    static Outcome refuse(Messages why) { return Outcome(std::move(why), Refused{}); }
    static Outcome refuse(Message why) { return refuse(Messages{std::move(why)}); }

    explicit operator bool() const { return value_.has_value(); }
    const T& operator*() const { return *value_; }
    const T* operator->() const { return &*value_; }
    /// The value itself, when the outcome is not needed any more.
    T take() && { return std::move(*value_); }
    const Messages& messages() const& { return messages_; }
    [[nodiscard]] Messages messages() && { return std::move(messages_); }
    const char* status() const { return status_word(messages_); }

private:
    struct Refused {};
    Outcome(Messages why, Refused) : messages_(std::move(why)) {}
    std::optional<T> value_;
    Messages messages_;
};

} // namespace fusain
