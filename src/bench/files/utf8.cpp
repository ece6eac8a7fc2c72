// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/files/utf8.h"

#include <simdjson.h>

namespace fusain {
namespace {

/// Length of the character that begins here; 0 when none does.
std::size_t character_at(std::string_view text, std::size_t at)
{
    for (std::size_t length = 1; length <= 4 && at + length <= text.size(); ++length)
        if (simdjson::validate_utf8(text.data() + at, length)) return length;
    return 0;
}

} // namespace

std::size_t first_bad_byte(std::string_view text)
{
    if (simdjson::validate_utf8(text.data(), text.size())) return 0;
    for (std::size_t i = 0; i < text.size();) {
        const std::size_t length = character_at(text, i);
        if (!length) return i + 1;
        i += length;
    }
    return 0;
}

std::string shown_text(std::string_view text, std::size_t most)
{
    std::string out;
    for (std::size_t i = 0; i < text.size();) {
        const std::size_t length = character_at(text, i);
        if (out.size() + std::max<std::size_t>(length, 3) > most) return out + "…";
        if (length)
            out += text.substr(i, length);
        else
            out += "\xEF\xBF\xBD";
        i += std::max<std::size_t>(length, 1);
    }
    return out;
}

} // namespace fusain
