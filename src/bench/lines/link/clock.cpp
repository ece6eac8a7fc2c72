// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/lines/link/clock.h"

#include <chrono>

namespace fusain::bench {

class LifeClock : public Clock {
public:
    qint64 now_ns() const override
    {
        return std::chrono::duration_cast<std::chrono::nanoseconds>(std::chrono::steady_clock::now().time_since_epoch())
            .count();
    }
    void start(Beat& beat, int every_ms) override
    {
        stop(beat);
        beat.timer_ = beat.startTimer(every_ms);
    }
    void stop(Beat& beat) override
    {
        if (beat.timer_) beat.killTimer(beat.timer_);
        beat.timer_ = 0;
    }
};

Clock& Clock::life()
{
    static LifeClock clock;
    return clock;
}

void Beat::start(int every_ms)
{
    going_ = true;
    once_ = false;
    clock_.start(*this, every_ms);
}

void Beat::start_once(int after_ms)
{
    start(after_ms);
    once_ = true;
}

void Beat::stop()
{
    if (going_) clock_.stop(*this);
    going_ = false;
}

void Beat::fall_due()
{
    if (once_) stop();
    emit due();
}

} // namespace fusain::bench
