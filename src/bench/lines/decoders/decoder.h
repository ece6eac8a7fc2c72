// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/channels/line.h"
#include "core/base/outcome.h"

#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

/// How an instrument that does not speak the bench line says its values, described by data (docs/formats/decoder.md).
namespace fusain::bench {

/// A unit that instruments print, and what it is worth: base = value · factor + offset.
struct LineUnit {
    const char *word, *kind;
    double factor, offset;
};
const std::vector<LineUnit>& line_units();
const LineUnit* line_unit(std::string_view word);
/// From a unit on the line to the unit of a channel, and back; nothing when they are not of one kind. No unit: the
/// channel's own.
std::optional<double> in_unit_of(Channel channel, double value, std::string_view unit);
std::optional<double> as_printed(Channel channel, double value, std::string_view unit);

enum class ChecksumKind { none, sum8, xor8, crc16_ccitt_false, crc16_xmodem, crc16_modbus, crc16_arc };
unsigned checksum(ChecksumKind kind, std::string_view bytes);

/// What a serial port must be set to; a network line needs none of it.
struct SerialSettings {
    int baud = 9600, data_bits = 8, stop_bits = 1;
    std::string parity = "none"; ///< none, even, odd, mark, space
    std::string flow = "none";   ///< none, hardware, software
    bool operator==(const SerialSettings&) const = default;
};
/// Refusals: `out_of_range`, `unknown_choice`, naming the setting and what is allowed.
[[nodiscard]] std::optional<Message> check(const SerialSettings& settings);

enum class Said { settled, moving, overload, ignored };

struct Decoder {
    /// Speaks all the time, when asked, or when a key on it is pressed.
    enum class When { always, asked, key };
    /// How frames are told apart: by their end, or by a start and a length.
    struct Frame {
        std::string start, end;
        int length = 0;    ///< of a frame without an end, after its start
        int after_end = 0; ///< bytes after the end that belong to it: a checksum
    };
    struct Sum {
        ChecksumKind kind = ChecksumKind::none;
        bool binary = false, low_first = false;
        bool with_end = false, with_start = false; ///< what of the frame's marks it covers
    };
    /// One value of a frame. Without a channel of its own the line says which, or whoever connects the instrument.
    struct ValueRow {
        std::string group, sign, unit_group, unit;
        std::optional<Channel> channel;
        double factor = 1;
    };
    /// How a stand-in says it; what it says must be understood (tested).
    struct Says {
        std::string text;
        double hz = 10;
    };
    std::string id, title, covers;
    When when = When::always;
    Frame frame;
    std::string pattern;
    std::vector<ValueRow> values;
    std::map<std::string, Channel> channels;  ///< by the word of group `channel`
    std::vector<std::string> more;            ///< groups of a channel's further values
    double time_factor = 0.001;               ///< seconds in one unit of group `time`
    std::map<std::string, std::string> units; ///< the instrument's words for units
    std::map<std::string, Said> states;
    std::string negative = "-"; ///< what the sign group holds below zero
    char decimal = '.';
    Sum sum;
    std::string ask;
    int ask_every_ms = 250;
    SerialSettings serial;
    Says says;
    bool shipped = false;
    std::string file; ///< it was read from

    /// The channel is left open: whoever connects the instrument says what it feeds.
    bool is_open() const;
    /// Every channel that it feeds; `chosen`: of a value that is left open.
    std::vector<Channel> feeds(std::optional<Channel> chosen) const;
    /// Channels that it may feed when one is to be chosen: those of its unit's kind.
    std::vector<Channel> may_feed() const;
};

/// Reads a decoder's file. Refusals: `bad_file`, naming file, key and what is allowed.
Outcome<Decoder> read_decoder(const std::string& text, const std::string& file);

const std::vector<std::shared_ptr<const Decoder>>& shipped_decoders();
std::shared_ptr<const Decoder> shipped_decoder(std::string_view id);

} // namespace fusain::bench
