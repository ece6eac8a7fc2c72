// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/channels/line.h"

#include <algorithm>
#include <random>
#include <sstream>
#include <string>

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

    /// `WORD on|off`: of the line (dropouts, garbage) or one of the instrument's. Empty, or "error …".
    template <class Rows, class Set>
    std::string direct_fault(const std::string& words, const Rows& rows, Set set)
    {
        std::istringstream in(words);
        std::string name, state;
        in >> name >> state;
        const bool on = state == "on";
        if (!on && state != "off") return "error unknown fault " + words;
        if (name == "dropouts" || name == "garbage") {
            (name == "dropouts" ? dropouts : garbage) = on;
            return {};
        }
        for (const auto& row : rows)
            if (name == row.word) {
                set(row.fault, on);
                return {};
            }
        return "error unknown fault " + words;
    }

private:
    std::mt19937_64& random_;
    std::vector<std::uint32_t> seq_ = std::vector<std::uint32_t>(bench::channel_count, 0);
    double silent_until_ = 0;
};

} // namespace fusain::virt
