// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/visit/take.h"
#include "core/before/protocol.h"

#include <array>
#include <map>
#include <optional>

namespace fusain::bench {

/// The newest reading of a channel, however old it is.
struct Heard {
    double value = 0, age_s = 0;
    bool stable = false;
};
/// How old a reading may be to count as what the instrument says now. Slow sensors speak every few seconds.
double longest_age_s(Channel channel);

/// How one line does.
struct LineState {
    std::string place, trouble; ///< trouble: a sentence when something is wrong
    bool connected = false;
    std::string title{};              ///< as the lab calls it
    std::optional<double> silent_s{}; ///< since its last byte; nothing: none has come since the program began
    bool strange = false;             ///< bytes come, and none is understood
};

/// What the screen needs to know of the lines, at most 30 times a second. A value that is there is fresh.
struct Live {
    bool has_lines = true;                    ///< false: none is set up
    std::array<bool, channel_count> spoken{}; ///< a line is there for the channel, heard or not
    std::map<Method, bool> on_a_line{};       ///< of the methods' own instruments
    bool connected = false;                   ///< every line of the room is open and speaks
    std::vector<LineState> lines;
    std::string trouble;                                   ///< a sentence when something is wrong with a line
    double lost_share = 0;                                 ///< of the frames of the last five seconds, lost or spoilt
    std::array<std::optional<Heard>, channel_count> heard; ///< to be shown as old; never to be taken
    std::optional<double> water_temp_c, gas_temp_c, barometric_mmhg, scale_kg;
    bool scale_stable = false;
    /// A line is there for it: else its value is typed, or comes from a file.
    bool speaks(Channel channel) const { return spoken[static_cast<std::size_t>(channel)]; }
    bool speaks(Method method) const
    {
        const auto at = on_a_line.find(method);
        return at == on_a_line.end() ? has_lines : at->second;
    }
    /// What a channel says now; nothing when it is silent.
    const Heard* fresh(Channel channel) const
    {
        const auto& h = heard[static_cast<std::size_t>(channel)];
        return h && h->age_s <= longest_age_s(channel) ? &*h : nullptr;
    }
    int trial = 0; ///< the recording that runs; 0: none
    std::map<Method, std::shared_ptr<const Shown>> shown;

    /// Of a method whose take shows S; as if nothing were heard before the first time it is told.
    template <class S>
    const S& of(Method method) const
    {
        static const S nothing;
        const auto at = shown.find(method);
        const S* s = at == shown.end() ? nullptr : dynamic_cast<const S*>(at->second.get());
        return s ? *s : nothing;
    }
};

} // namespace fusain::bench
