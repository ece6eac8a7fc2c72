// SPDX-License-Identifier: GPL-3.0-or-later
// Units and check sums as instruments print them.
#include "bench/lines/decoders/decoder.h"

#include "core/base/limits.h"

#include <algorithm>

namespace fusain::bench {

const std::vector<LineUnit>& line_units()
{
    static const std::vector<LineUnit> rows = {
        {"kg", "mass", 1, 0},
        {"g", "mass", 0.001, 0},
        {"lb", "mass", 0.45359237, 0},
        {"oz", "mass", 0.45359237 / 16, 0},
        {"°C", "temperature", 1, 0},
        {"C", "temperature", 1, 0},
        {"°F", "temperature", 5.0 / 9, -160.0 / 9},
        {"F", "temperature", 5.0 / 9, -160.0 / 9},
        {"K", "temperature", 1, -273.15},
        {"Pa", "pressure", 1, 0},
        {"hPa", "pressure", 100, 0},
        {"mbar", "pressure", 100, 0},
        {"kPa", "pressure", 1000, 0},
        {"mmHg", "pressure", 133.322387415, 0},
        {"L", "volume", 1, 0},
        {"mL", "volume", 0.001, 0},
        {"Ω", "resistance", 1, 0},
        {"ohm", "resistance", 1, 0},
        {"kohm", "resistance", 1000, 0},
        {"g/cm²", "area density", 1, 0},
        {"g/cm2", "area density", 1, 0},
    };
    return rows;
}

const LineUnit* line_unit(std::string_view word)
{
    const auto& all = line_units();
    const auto at = std::find_if(all.begin(), all.end(), [&](const LineUnit& u) { return u.word == word; });
    return at == all.end() ? nullptr : &*at;
}

namespace {

std::optional<double> converted(double value, const LineUnit* from, const LineUnit* to)
{
    if (!from || !to || std::string_view(from->kind) != to->kind) return std::nullopt;
    return (value * from->factor + from->offset - to->offset) / to->factor;
}

} // namespace

std::optional<double> in_unit_of(Channel channel, double value, std::string_view unit)
{
    if (unit.empty()) return value; // in the channel's own
    return converted(value, line_unit(unit), line_unit(row(channel).unit));
}

std::optional<double> as_printed(Channel channel, double value, std::string_view unit)
{
    if (unit.empty()) return value;
    return converted(value, line_unit(row(channel).unit), line_unit(unit));
}

namespace {

unsigned crc16_left(unsigned crc, std::string_view bytes)
{
    for (const char byte : bytes) {
        crc ^= static_cast<unsigned>(static_cast<unsigned char>(byte)) << 8;
        for (int bit = 0; bit < 8; ++bit) crc = ((crc & 0x8000) ? (crc << 1) ^ 0x1021 : crc << 1) & 0xFFFF;
    }
    return crc;
}

unsigned crc16_right(unsigned crc, std::string_view bytes)
{
    for (const char byte : bytes) {
        crc ^= static_cast<unsigned char>(byte);
        for (int bit = 0; bit < 8; ++bit) crc = (crc & 1) ? (crc >> 1) ^ 0xA001 : crc >> 1;
    }
    return crc;
}

} // namespace

unsigned checksum(ChecksumKind kind, std::string_view bytes)
{
    unsigned sum = 0;
    switch (kind) {
    case ChecksumKind::none: return 0;
    case ChecksumKind::sum8:
        for (const char c : bytes) sum = (sum + static_cast<unsigned char>(c)) & 0xFF;
        return sum;
    case ChecksumKind::xor8:
        for (const char c : bytes) sum ^= static_cast<unsigned char>(c);
        return sum;
    case ChecksumKind::crc16_ccitt_false: return crc16_left(0xFFFF, bytes);
    case ChecksumKind::crc16_xmodem: return crc16_left(0, bytes);
    case ChecksumKind::crc16_modbus: return crc16_right(0xFFFF, bytes);
    case ChecksumKind::crc16_arc: return crc16_right(0, bytes);
    }
    return 0;
}

std::optional<Message> check(const SerialSettings& s)
{
    const auto one_of = [](const char* field, const auto& value, const auto& allowed,
                            const std::string& shown) -> std::optional<Message> {
        if (std::find(std::begin(allowed), std::end(allowed), value) != std::end(allowed)) return std::nullopt;
        std::string list;
        for (const auto& a : allowed) {
            if (!list.empty()) list += ", ";
            if constexpr (std::is_arithmetic_v<std::decay_t<decltype(a)>>)
                list += std::to_string(a);
            else
                list += a;
        }
        return Message{"unknown_choice", Level::error, field,
            std::string(field) + " is " + shown + "; allowed is one of " + list + "."};
    };
    static constexpr int bauds[] = {300, 600, 1200, 2400, 4800, 9600, 19200, 38400, 57600, 115200, 230400};
    static constexpr int data_bits[] = {7, 8}, stop_bits[] = {1, 2};
    static const std::string parities[] = {"none", "even", "odd", "mark", "space"};
    static const std::string flows[] = {"none", "hardware", "software"};
    if (auto m = one_of("baud", s.baud, bauds, std::to_string(s.baud))) return m;
    if (auto m = one_of("data_bits", s.data_bits, data_bits, std::to_string(s.data_bits))) return m;
    if (auto m = one_of("stop_bits", s.stop_bits, stop_bits, std::to_string(s.stop_bits))) return m;
    if (auto m = one_of("parity", s.parity, parities, '"' + s.parity + '"')) return m;
    return one_of("flow", s.flow, flows, '"' + s.flow + '"');
}

} // namespace fusain::bench
