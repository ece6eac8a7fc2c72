// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <QObject>

namespace fusain::bench {

class Beat;

/// Where the moments of the bench come from: the computer, or a test whose clock jumps from one beat to the next. Not
/// the lab's calendar (work::clock_now), which says what time of which day it is.
class Clock {
public:
    virtual ~Clock() = default;
    /// Nanoseconds since some moment; never goes back.
    virtual qint64 now_ns() const = 0;
    /// From now on the beat is due every so many milliseconds.
    virtual void start(Beat& beat, int every_ms) = 0;
    virtual void stop(Beat& beat) = 0;
    /// The computer's.
    static Clock& life();
};

/// A timer that goes by a clock. It is of the thread that made it.
class Beat : public QObject {
    Q_OBJECT
public:
    Beat(Clock& clock, QObject* parent) : QObject(parent), clock_(clock) {}
    ~Beat() override { stop(); }
    void start(int every_ms);
    /// Once, then it stops by itself.
    void start_once(int after_ms);
    void stop();
    bool is_going() const { return going_; }
    /// Its moment has come; only its clock says so.
    void fall_due();

signals:
    void due();

private:
    friend class LifeClock;
    void timerEvent(QTimerEvent*) override { fall_due(); }
    Clock& clock_;
    bool going_ = false, once_ = false;
    int timer_ = 0; ///< the computer's clock counts by Qt's timers
};

/// How long something takes by a clock.
class Since {
public:
    explicit Since(const Clock& clock) : clock_(&clock) { restart(); }
    void restart() { from_ns_ = clock_->now_ns(); }
    double seconds() const { return static_cast<double>(clock_->now_ns() - from_ns_) * 1e-9; }
    qint64 ms() const { return (clock_->now_ns() - from_ns_) / 1'000'000; }

private:
    const Clock* clock_;
    qint64 from_ns_ = 0;
};

} // namespace fusain::bench
