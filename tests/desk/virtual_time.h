// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/lines/link/clock.h"

#include <algorithm>
#include <functional>
#include <vector>

/// Time for tests: nobody waits for it. It jumps from one beat to the next as soon as everybody has done what there was
/// to do, and stands still while the machine does, or other threads of the program work.
namespace fusain::desk {

class VirtualClock : public bench::Clock {
public:
    qint64 now_ns() const override { return now_ns_; }
    void start(bench::Beat& beat, int every_ms) override
    {
        stop(beat);
        due_.push_back({now_ns_ + every_ms * ns_a_ms, every_ms, ++started_, &beat});
    }
    void stop(bench::Beat& beat) override
    {
        std::erase_if(due_, [&](const Due& d) { return d.beat == &beat; });
    }
    /// The next beat falls due; of two at one moment the one that was started first.
    void jump()
    {
        const auto next = std::min_element(due_.begin(), due_.end(),
            [](const Due& a, const Due& b) { return std::pair(a.at_ns, a.started) < std::pair(b.at_ns, b.started); });
        if (next == due_.end()) {
            now_ns_ += ns_a_ms;
            return;
        }
        now_ns_ = next->at_ns;
        next->at_ns += next->every_ms * ns_a_ms;
        next->beat->fall_due();
    }
    /// Until the condition holds, for so long at the most. `unsettled`: something is on its way that time waits for.
    bool wait(const std::function<bool()>& condition, int ms, const std::function<bool()>& unsettled);

private:
    static constexpr qint64 ns_a_ms = 1'000'000;
    /// What does not go by this clock (an animation, another process) has so long after everything else.
    static constexpr int last_moments_ms = 500, standstill_ms = 60'000;
    struct Due {
        qint64 at_ns;
        int every_ms;
        long started;
        bench::Beat* beat;
    };
    std::vector<Due> due_;
    qint64 now_ns_ = 0;
    long started_ = 0;
};

} // namespace fusain::desk
