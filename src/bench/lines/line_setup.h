// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/lines/decoders/decoder.h"
#include "bench/base/event.h"

/// A line of the lab: where it is, how it is set, how its instrument speaks, what it feeds (docs/formats/lines.md).
namespace fusain::bench {

inline constexpr const char* bench_line_id = "bench_line";

struct LineSetup {
    std::string place;                      ///< "/dev/ttyUSB0", "tcp:host:port", "socket:path"
    std::string name;                       ///< as the lab calls the instrument; empty: by what it measures
    std::shared_ptr<const Decoder> decoder; ///< null: the bench line, and pictures
    std::optional<Channel> feeds;           ///< of a value that the decoder leaves open
    std::string unit;                       ///< of it, where none is printed; empty: as the decoder says
    SerialSettings serial{115200, 8, 1, "none", "none"};

    std::string title() const { return !name.empty() ? name : feeds ? row(*feeds).title : place; }
    bool is_serial() const { return !place.starts_with("tcp:") && !place.starts_with("socket:"); }
};

/// Of a line that is named on the command line: the bench line at its own speed.
LineSetup bench_line(std::string place);

/// What is wrong with it before it is kept: `missing_field`, `unknown_choice`, `out_of_range`, `bad_place`.
[[nodiscard]] std::optional<Message> check(const LineSetup& line);

/// As the lab keeps it: `written`, `read` (bench/base/event.h).
struct KeptLine {
    std::string machine{}; ///< whose line it is: the computer, by a name that stays
    std::string place{}, name{};
    std::string decoder = bench_line_id; ///< its id
    std::string feeds{}, unit{};         ///< feeds: a channel's word
    std::optional<SerialSettings> serial{};
};
KeptLine kept(const LineSetup& line);
/// `decoders`: those there are. Refusals: `unknown_decoder`, and what `check` says.
Outcome<LineSetup> line_from(const KeptLine& line, const std::vector<std::shared_ptr<const Decoder>>& decoders);

} // namespace fusain::bench
