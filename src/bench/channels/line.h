// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <array>
#include <cstdint>
#include <span>
#include <string>
#include <string_view>
#include <vector>

/// The bench line, version 1 (docs/formats/bench-line.md): one reading a line of text, with a check sum.
namespace fusain::bench {

enum class Channel {
    load_cell,
    water_temp,
    gas_temp,
    barometer,
    scale,
    spirometer,
    cylinder,
    r_right_arm,
    r_left_arm,
    r_trunk,
    r_right_leg,
    r_left_leg,
    phantom,
    test_pressure,
    reference_pressure,
    door,
    airway,
    valve,
    platform,
    contact,
    point_right_arm,
    point_left_arm,
    point_trunk,
    point_right_leg,
    point_left_leg
};
inline constexpr std::size_t channel_count = 25;

/// A further value in the frame of a channel: the reactance beside the resistance.
struct MoreRow {
    const char *title, *unit;
    int decimals;
    double low, high;
};

/// One instrument channel: its word on the line, its unit and how many decimals it sends.
struct ChannelRow {
    Channel channel;
    const char* word;
    const char* title;
    const char* unit;
    int decimals;
    double low, high; ///< a value outside cannot come from this instrument: the frame is refused
    std::span<const MoreRow> more{};
    std::size_t fewest_more = 0; ///< of them that every frame has
};
std::span<const ChannelRow> channels();
const ChannelRow& row(Channel channel);

/// What an instrument said.
struct Reading {
    Channel channel = Channel::load_cell;
    std::uint32_t seq = 0;        ///< counts up per channel, so that lost frames are seen
    double t_s = 0;               ///< the instrument's own clock
    double value = 0;             ///< in the channel's unit
    bool stable = false;          ///< the instrument calls the value settled
    bool overload = false;        ///< the sensor is at its end
    std::array<double, 2> more{}; ///< further values, as many as the frame had
    std::size_t more_count = 0;
};

/// How the line is doing.
struct LineHealth {
    std::uint64_t frames = 0;
    std::uint64_t bad_frames = 0;      ///< lines that failed the check sum or could not be read
    std::uint64_t lost_frames = 0;     ///< gaps in the counting
    std::uint64_t repeated_frames = 0; ///< with the number of the one before: not handed on
};

/// CRC-16/CCITT-FALSE (polynomial 0x1021, start 0xFFFF).
std::uint16_t crc16(std::string_view bytes);

/// One reading as a line, newline included.
std::string encode(const Reading& reading);

/// Pure decoder: bytes in, readings out. Resynchronises at the next newline after garbage; never throws.
class LineDecoder {
public:
    void feed(std::span<const char> bytes, std::vector<Reading>& out);
    const LineHealth& health() const { return health_; }
    /// Forgets a half-received line and the counting, as after the line was unplugged.
    void restart();

private:
    void take_line(std::vector<Reading>& out);
    std::string pending_;
    bool overlong_ = false;
    std::vector<std::int64_t> last_seq_ = std::vector<std::int64_t>(channel_count, -1);
    LineHealth health_;
};

} // namespace fusain::bench
