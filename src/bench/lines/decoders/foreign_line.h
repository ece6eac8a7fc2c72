// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/lines/decoders/decoder.h"

#include <deque>

namespace re2 {
class RE2;
}

namespace fusain::bench {

/// A clock for instruments that send none: frames come evenly, the computer hears them in bursts. Follows the arrivals
/// slowly and begins anew after a gap.
class ArrivalClock {
public:
    /// Of the next frame, from when it was heard, in seconds of any steady clock. Never backwards.
    double stamp(double heard_s);
    void restart();

private:
    std::deque<double> heard_;
    double last_s_ = 0, period_s_ = 0;
    bool begun_ = false;
};

/// Hears one instrument that speaks otherwise: bytes in, readings out. Pure; resynchronises after garbage; never
/// throws. Patterns are matched in time that grows with the length of a frame and with nothing else, whatever the
/// pattern (RE2), and a frame has at most 256 bytes.
class ForeignLine {
public:
    /// `feeds`: the channel of values that the decoder leaves open; `unit`: of those, where no unit is printed.
    explicit ForeignLine(
        std::shared_ptr<const Decoder> decoder, std::optional<Channel> feeds = {}, std::string unit = {});
    ~ForeignLine();

    void feed(std::string_view bytes, double heard_s, std::vector<Reading>& out);
    const LineHealth& health() const { return health_; }
    const Decoder& decoder() const { return *decoder_; }
    /// Forgets a half-received frame, the clock and the counting, as after the line was unplugged.
    void restart();

private:
    struct Groups;
    void take_bytes(std::string_view bytes);
    void take_frame(const std::string& text, const std::string& after, double heard_s, std::vector<Reading>& out);
    bool sum_fits(const std::string& text, const std::string& after, const Groups& groups) const;
    bool say(const Groups& groups, double heard_s, std::vector<Reading>& out);
    bool settled(Channel channel, double t_s, double value, double step);

    std::shared_ptr<const Decoder> decoder_;
    std::optional<Channel> feeds_;
    std::string unit_;
    std::unique_ptr<re2::RE2> pattern_;
    std::map<std::string, int> groups_;
    std::string pending_;
    bool cut_ = false; ///< what comes up to the next end is part of a frame only
    LineHealth health_;
    ArrivalClock clock_;
    std::array<std::uint32_t, channel_count> seq_{};
    struct Recent {
        std::deque<std::pair<double, double>> values; ///< of the last second
        double last = 0;
        bool any = false;
    };
    std::map<Channel, Recent> recent_;
};

} // namespace fusain::bench
