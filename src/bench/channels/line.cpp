// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/channels/line.h"

#include <charconv>
#include <cmath>
#include <cstdio>
#include <optional>

namespace fusain::bench {
namespace {

constexpr std::size_t longest_line = 64;
constexpr std::uint32_t seq_modulus = 1000000;

constexpr MoreRow reactance[] = {{"reactance", "Ω", 2, -500, 2000}};
constexpr MoreRow of_a_point[] = {{"reactance", "Ω", 2, -500, 2000}, {"frequency", "kHz", 1, 0.5, 2000}};
constexpr MoreRow of_an_electrode[] = {{"electrode", "", 0, 1, 8}};

constexpr ChannelRow rows[] = {
    {Channel::load_cell, "LC", "load cell", "kg", 4, -60, 200},
    {Channel::water_temp, "TW", "water temperature", "°C", 2, -5, 60},
    {Channel::gas_temp, "TG", "gas temperature", "°C", 2, -5, 60},
    {Channel::barometer, "PB", "barometer", "mmHg", 1, 300, 900},
    {Channel::scale, "SC", "scale", "kg", 3, -5, 400},
    {Channel::spirometer, "SP", "spirometer", "L", 3, 0, 12},
    {Channel::cylinder, "CY", "chamber, cylinder reading", "L", 3, 0, 500},
    {Channel::r_right_arm, "RA", "analyser, right arm", "Ω", 1, 0, 5000, reactance},
    {Channel::r_left_arm, "LA", "analyser, left arm", "Ω", 1, 0, 5000, reactance},
    {Channel::r_trunk, "TR", "analyser, trunk", "Ω", 1, 0, 5000, reactance},
    {Channel::r_right_leg, "RL", "analyser, right leg", "Ω", 1, 0, 5000, reactance},
    {Channel::r_left_leg, "LL", "analyser, left leg", "Ω", 1, 0, 5000, reactance},
    {Channel::phantom, "PH", "X-ray table, phantom", "g/cm²", 4, 0, 5},
    {Channel::test_pressure, "PT", "test chamber, pressure against the room", "Pa", 3, -5000, 5000},
    {Channel::reference_pressure, "PR", "reference chamber, pressure against the room", "Pa", 3, -5000, 5000},
    {Channel::door, "DR", "chamber door, 1 open", "", 0, 0, 1},
    {Channel::airway, "AW", "airway pressure against the chamber", "Pa", 1, -20000, 20000},
    {Channel::valve, "VA", "airway valve, 1 shut", "", 0, 0, 1},
    {Channel::platform, "PM", "analyser, its own platform", "kg", 2, -20, 400},
    {Channel::contact, "CN", "analyser, contact of an electrode", "Ω", 0, 0, 99999, of_an_electrode, 1},
    {Channel::point_right_arm, "PRA", "analyser, point of the right arm", "Ω", 2, 0, 5000, of_a_point, 2},
    {Channel::point_left_arm, "PLA", "analyser, point of the left arm", "Ω", 2, 0, 5000, of_a_point, 2},
    {Channel::point_trunk, "PTR", "analyser, point of the trunk", "Ω", 2, 0, 5000, of_a_point, 2},
    {Channel::point_right_leg, "PRL", "analyser, point of the right leg", "Ω", 2, 0, 5000, of_a_point, 2},
    {Channel::point_left_leg, "PLL", "analyser, point of the left leg", "Ω", 2, 0, 5000, of_a_point, 2},
};

static_assert(std::size(rows) == channel_count);

const ChannelRow* find(std::string_view word)
{
    for (const ChannelRow& r : rows)
        if (word == r.word) return &r;
    return nullptr;
}

std::string_view next_word(std::string_view& text)
{
    const std::size_t space = text.find(' ');
    const std::string_view word = text.substr(0, space);
    text = space == std::string_view::npos ? std::string_view{} : text.substr(space + 1);
    return word;
}

template <class Number>
bool whole(std::string_view word, Number& out)
{
    if (!word.empty() && word.front() == '+') word.remove_prefix(1);
    const auto [end, code] = std::from_chars(word.data(), word.data() + word.size(), out);
    return code == std::errc() && end == word.data() + word.size() && !word.empty();
}

/// `LC 000123 0004567 +2.4381 S` without the check sum; a point has its further values before the state.
std::optional<Reading> parse(std::string_view body)
{
    Reading r;
    const ChannelRow* channel = find(next_word(body));
    std::uint64_t ms = 0;
    if (!channel || !whole(next_word(body), r.seq) || !whole(next_word(body), ms) || !whole(next_word(body), r.value))
        return std::nullopt;
    if (!(r.value >= channel->low && r.value <= channel->high)) return std::nullopt;
    while (body.size() > 1) {
        if (r.more_count == channel->more.size()) return std::nullopt;
        const MoreRow& row = channel->more[r.more_count];
        double& value = r.more[r.more_count++];
        if (!whole(next_word(body), value) || !(value >= row.low && value <= row.high)) return std::nullopt;
    }
    if (r.more_count < channel->fewest_more) return std::nullopt;
    if (body != "S" && body != "U" && body != "O") return std::nullopt;
    r.channel = channel->channel;
    r.t_s = static_cast<double>(ms) / 1000;
    r.stable = body == "S";
    r.overload = body == "O";
    return r;
}

} // namespace

std::span<const ChannelRow> channels() { return rows; }
const ChannelRow& row(Channel channel) { return rows[static_cast<std::size_t>(channel)]; }

std::uint16_t crc16(std::string_view bytes)
{
    std::uint16_t crc = 0xFFFF;
    for (const char byte : bytes) {
        crc = static_cast<std::uint16_t>(crc ^ (static_cast<unsigned char>(byte) << 8));
        for (int bit = 0; bit < 8; ++bit)
            crc = static_cast<std::uint16_t>((crc & 0x8000) ? (crc << 1) ^ 0x1021 : crc << 1);
    }
    return crc;
}

std::string encode(const Reading& r)
{
    const ChannelRow& channel = row(r.channel);
    char body[longest_line], out[longest_line + 8], more[32] = "";
    for (std::size_t i = 0, at = 0; i < r.more_count; ++i)
        at += static_cast<std::size_t>(
            std::snprintf(more + at, sizeof more - at, " %+.*f", channel.more[i].decimals, r.more[i]));
    std::snprintf(body, sizeof body, "%s %06u %07llu %+.*f%s %c", channel.word, r.seq % seq_modulus,
        static_cast<unsigned long long>(std::llround(r.t_s * 1000)), channel.decimals, r.value, more,
        r.overload ? 'O'
        : r.stable ? 'S'
                   : 'U');
    std::snprintf(out, sizeof out, "%s ~%04X\n", body, crc16(body));
    return out;
}

void LineDecoder::restart()
{
    pending_.clear();
    overlong_ = false;
    last_seq_.assign(last_seq_.size(), -1);
}

void LineDecoder::feed(std::span<const char> bytes, std::vector<Reading>& out)
{
    for (const char c : bytes) {
        if (c == '\n') {
            take_line(out);
            pending_.clear();
            overlong_ = false;
        } else if (pending_.size() >= longest_line) {
            overlong_ = true;
        } else {
            pending_ += c;
        }
    }
}

void LineDecoder::take_line(std::vector<Reading>& out)
{
    std::string_view line = pending_;
    if (!line.empty() && line.back() == '\r') line.remove_suffix(1);
    if (line.empty() && !overlong_) return;
    const std::size_t mark = line.rfind(" ~");
    std::optional<Reading> reading;
    if (!overlong_ && mark != std::string_view::npos && line.size() == mark + 6) {
        unsigned sum = 0;
        const auto [end, code] = std::from_chars(line.data() + mark + 2, line.data() + line.size(), sum, 16);
        if (code == std::errc() && end == line.data() + line.size() && sum == crc16(line.substr(0, mark)))
            reading = parse(line.substr(0, mark));
    }
    if (!reading) {
        ++health_.bad_frames;
        return;
    }
    std::int64_t& last = last_seq_[static_cast<std::size_t>(reading->channel)];
    if (last >= 0) {
        const std::int64_t ahead = (static_cast<std::int64_t>(reading->seq) - last + seq_modulus) % seq_modulus;
        if (ahead == 0) { // the same frame once more: what it says was said already
            ++health_.repeated_frames;
            return;
        }
        if (ahead > 1 && ahead < seq_modulus / 2) health_.lost_frames += static_cast<std::uint64_t>(ahead - 1);
    }
    last = reading->seq;
    ++health_.frames;
    out.push_back(*reading);
}

} // namespace fusain::bench
