// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/channels/picture.h"

#include "bench/channels/line.h"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <cstdio>
#include <optional>

namespace fusain::bench {
namespace {

constexpr std::size_t longest_line = 2 * 2 * most_columns * 2 + 64; ///< two energies, two bytes each, as hex
constexpr char digits[] = "0123456789abcdef";
constexpr double most_ln = 65535 * picture_slope;

void put(std::string& out, double value)
{
    const auto v = static_cast<unsigned>(
        std::lround(std::clamp(std::isfinite(value) ? value : most_ln, 0.0, most_ln) / picture_slope));
    for (int shift : {12, 8, 4, 0}) out += digits[(v >> shift) & 0xF];
}

int nibble(char c)
{
    if (c >= '0' && c <= '9') return c - '0';
    return c >= 'a' && c <= 'f' ? c - 'a' + 10 : -1;
}

std::optional<double> value_at(std::string_view hex)
{
    unsigned v = 0;
    for (char c : hex) {
        const int n = nibble(c);
        if (n < 0) return std::nullopt;
        v = v << 4 | static_cast<unsigned>(n);
    }
    return v * picture_slope;
}

/// Words of a line one by one; a number that is none or lies outside makes the line bad.
struct Words {
    std::string_view left;
    bool good = true;

    std::string_view next()
    {
        const std::size_t space = left.find(' ');
        const std::string_view word = left.substr(0, space);
        left = space == std::string_view::npos ? std::string_view{} : left.substr(space + 1);
        return word;
    }
    template <class Number>
    Number number(Number low, Number high)
    {
        const std::string_view word = next();
        Number value{};
        const auto [end, code] = std::from_chars(word.data(), word.data() + word.size(), value);
        good = good && code == std::errc() && end == word.data() + word.size() && value >= low && value <= high;
        return good ? value : low;
    }
};

std::optional<PictureWord> read(std::string_view text)
{
    Words w{text};
    PictureWord out;
    const std::string_view kind = w.next();
    if (kind == "@A") return out;
    out.scan = w.number<std::uint32_t>(0, 4000000000u);
    if (kind == "@B") {
        out.kind = PictureWord::Kind::begun;
        out.rows = w.number(1, most_rows);
        out.columns = w.number(1, most_columns);
        out.dx_mm = w.number(0.1, 50.0);
        out.dy_mm = w.number(0.1, 50.0);
        out.dose_usv = w.number(0.0, 1000.0);
        out.table = std::string(w.next());
        w.good = w.good && !out.table.empty() && out.table.size() <= 64;
    } else if (kind == "@R") {
        out.kind = PictureWord::Kind::row;
        out.row = w.number(0, most_rows - 1);
        const std::string_view low = w.next(), high = w.next();
        w.good = w.good && !low.empty() && low.size() == high.size() && low.size() % 4 == 0;
        for (std::size_t i = 0; w.good && i < low.size(); i += 4) {
            const auto l = value_at(low.substr(i, 4)), h = value_at(high.substr(i, 4));
            w.good = l && h;
            if (!w.good) break;
            out.low.push_back(*l);
            out.high.push_back(*h);
        }
    } else if (kind == "@E") {
        out.kind = PictureWord::Kind::ended;
        out.row = w.number(0, most_rows);
    } else {
        w.good = false;
    }
    if (!w.good || !w.left.empty()) return std::nullopt;
    return out;
}

} // namespace

std::string encode(const PictureWord& word)
{
    char head[160];
    std::string line;
    switch (word.kind) {
    case PictureWord::Kind::alive: line = "@A"; break;
    case PictureWord::Kind::begun:
        std::snprintf(head, sizeof head, "@B %u %d %d %.4f %.4f %.3f ", word.scan, word.rows, word.columns, word.dx_mm,
            word.dy_mm, word.dose_usv);
        line = head + word.table;
        break;
    case PictureWord::Kind::row:
        std::snprintf(head, sizeof head, "@R %u %d ", word.scan, word.row);
        line = head;
        for (double v : word.low) put(line, v);
        line += ' ';
        for (double v : word.high) put(line, v);
        break;
    case PictureWord::Kind::ended:
        std::snprintf(head, sizeof head, "@E %u %d", word.scan, word.row);
        line = head;
        break;
    }
    std::snprintf(head, sizeof head, "*%04X\n", crc16(line));
    return line + head;
}

void PictureDecoder::restart()
{
    pending_.clear();
    overlong_ = false;
}

void PictureDecoder::feed(std::string_view bytes, std::vector<PictureWord>& out, std::string& rest)
{
    for (char c : bytes) {
        pending_ += c;
        if (c == '\n') {
            take_line(out, rest);
            pending_.clear();
            overlong_ = false;
        } else if (pending_.size() > longest_line) {
            overlong_ = true;
            pending_.resize(1);
        }
    }
}

void PictureDecoder::take_line(std::vector<PictureWord>& out, std::string& rest)
{
    if (overlong_) {
        ++bad_;
        return;
    }
    if (pending_.front() != '@') {
        rest += pending_;
        return;
    }
    const std::size_t star = pending_.rfind('*');
    unsigned told = 0;
    bool good = star != std::string::npos && pending_.size() == star + 6;
    if (good) {
        const auto [end, code] = std::from_chars(pending_.data() + star + 1, pending_.data() + star + 5, told, 16);
        good = code == std::errc() && end == pending_.data() + star + 5 &&
               told == crc16(std::string_view(pending_).substr(0, star));
    }
    const auto word = good ? read(std::string_view(pending_).substr(0, star)) : std::nullopt;
    if (word)
        out.push_back(*word);
    else
        ++bad_;
}

} // namespace fusain::bench
