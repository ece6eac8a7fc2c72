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
std::optional<Message> check(const LineSetup& line);

Json to_json(const LineSetup& line);
/// `decoders`: those there are. Refusals: `unknown_decoder`, and what `check` says.
Outcome<LineSetup> line_from(const Json& json, const std::vector<std::shared_ptr<const Decoder>>& decoders);

} // namespace fusain::bench
