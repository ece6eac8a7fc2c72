// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/printout/text.h"

#include <algorithm>
#include <vector>

namespace fusain::printout {
namespace {

void append(std::string& out, char32_t c)
{
    if (c < 0x80) {
        out += static_cast<char>(c);
    } else if (c < 0x800) {
        out += static_cast<char>(0xC0 | (c >> 6));
        out += static_cast<char>(0x80 | (c & 0x3F));
    } else if (c < 0x10000) {
        out += static_cast<char>(0xE0 | (c >> 12));
        out += static_cast<char>(0x80 | ((c >> 6) & 0x3F));
        out += static_cast<char>(0x80 | (c & 0x3F));
    } else {
        out += static_cast<char>(0xF0 | (c >> 18));
        out += static_cast<char>(0x80 | ((c >> 12) & 0x3F));
        out += static_cast<char>(0x80 | ((c >> 6) & 0x3F));
        out += static_cast<char>(0x80 | (c & 0x3F));
    }
}

char32_t small(char32_t c)
{
    if ((c >= U'A' && c <= U'Z') || (c >= 0xC0 && c <= 0xDE && c != 0xD7)) return c + 0x20;
    if ((c >= 0x391 && c <= 0x3A9) || (c >= 0x410 && c <= 0x42F)) return c + 0x20;
    if (c >= 0x100 && c <= 0x137) return c | 1;
    return c;
}

bool counts(char32_t c)
{
    return (c >= U'0' && c <= U'9') || (c >= U'a' && c <= U'z') || c == U'%' || c == U'/' || c == 0xB2 || c == 0xB3 ||
           c == 0xB5 || (c >= 0xC0 && c != 0xD7 && c != 0xF7 && !(c >= 0x2000 && c <= 0x206F));
}

char32_t one_of_its_like(char32_t c)
{
    switch (c) {
    case U'0': return U'o';
    case U'1':
    case U'i':
    case U'|': return U'l';
    case U'5': return U's';
    case U'8': return U'b';
    default: return c;
    }
}

} // namespace

std::u32string letters(std::string_view utf8)
{
    std::u32string out;
    for (std::size_t i = 0; i < utf8.size();) {
        const unsigned char c = static_cast<unsigned char>(utf8[i]);
        const std::size_t n = c < 0x80 ? 1 : c >> 5 == 6 ? 2 : c >> 4 == 14 ? 3 : c >> 3 == 30 ? 4 : 1;
        char32_t code = n == 1 ? c : c & (0xFF >> (n + 1));
        for (std::size_t k = 1; k < n && i + k < utf8.size(); ++k)
            code = code << 6 | (static_cast<unsigned char>(utf8[i + k]) & 0x3F);
        out += code;
        i += n;
    }
    return out;
}

std::string lower(std::string_view utf8)
{
    std::string out;
    for (char32_t c : letters(utf8)) append(out, small(c));
    return out;
}

std::string squashed(std::string_view utf8)
{
    std::string out;
    for (char32_t c : letters(utf8))
        if (counts(small(c))) append(out, small(c));
    return out;
}

std::string alike(std::string_view utf8)
{
    std::string out;
    for (char32_t c : letters(utf8))
        if (counts(small(c)) || c == U'|') append(out, one_of_its_like(small(c)));
    return out;
}

int distance(std::string_view a, std::string_view b, int most)
{
    const auto na = static_cast<int>(a.size()), nb = static_cast<int>(b.size());
    if (std::abs(na - nb) > most) return most + 1;
    std::vector<int> row(b.size() + 1);
    for (std::size_t k = 0; k < row.size(); ++k) row[k] = static_cast<int>(k);
    for (std::size_t i = 1; i <= a.size(); ++i) {
        int diagonal = row[0];
        row[0] = static_cast<int>(i);
        for (std::size_t k = 1; k <= b.size(); ++k) {
            const int above = row[k];
            row[k] = std::min({above + 1, row[k - 1] + 1, diagonal + (a[i - 1] == b[k - 1] ? 0 : 1)});
            diagonal = above;
        }
    }
    return std::min(row.back(), most + 1);
}

} // namespace fusain::printout
