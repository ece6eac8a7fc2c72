// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <QObject>

#include <deque>
#include <functional>
#include <mutex>

namespace fusain::bench {

/// What one thread asks of another, done there in order. What is handed over waits in a queue of our own under a lock,
/// and Qt only wakes the thread: the thread sanitizer sees every hand-over, and none of it goes through Qt's library,
/// into which it does not see.
class Errands : public QObject {
    Q_OBJECT
public:
    ~Errands() override; ///< its thread has ended, or is this one
    /// From any thread; done in the one this object lives in, after what was handed over before.
    void hand(std::function<void()> errand);

private slots:
    void run();

private:
    std::mutex mutex_;
    std::deque<std::function<void()>> waiting_;
};

} // namespace fusain::bench
