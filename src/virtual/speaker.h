// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/lines/line.h"

#include <algorithm>
#include <random>

/// Speaks the bench line for a stand-in: counts its frames, and spoils some of them when it is told to.
namespace fusain::virt {

class Speaker {
public:
    explicit Speaker(std::mt19937_64& random) : random_(random) {}
    bool dropouts = false, garbage = false;

    /// `may_begin_gap`: frames of this channel begin the gaps.
    void say(bench::Channel channel, double t_s, double value, bool stable, bool may_begin_gap, std::string& out,
        std::initializer_list<double> more = {})
    {
        const std::uint32_t seq = seq_[static_cast<std::size_t>(channel)]++;
        std::uniform_real_distribution<> share(0, 1);
        if (dropouts) {
            if (t_s < silent_until_) return;
            if (may_begin_gap && share(random_) < 0.01) silent_until_ = t_s + 0.12;
        }
        bench::Reading reading{channel, seq, t_s, value, stable, false, {}, more.size()};
        std::copy(more.begin(), more.end(), reading.more.begin());
        std::string line = bench::encode(reading);
        if (garbage && share(random_) < 0.03) {
            const std::size_t at = random_() % line.size();
            for (std::size_t i = 0; i < 5; ++i)
                line.insert(line.begin() + static_cast<long>(at), static_cast<char>(random_() & 0xFF));
        }
        out += line;
    }

private:
    std::mt19937_64& random_;
    std::vector<std::uint32_t> seq_ = std::vector<std::uint32_t>(bench::channel_count, 0);
    double silent_until_ = 0;
};

} // namespace fusain::virt
