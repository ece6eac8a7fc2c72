// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/lines/link/errands.h"

#include <utility>

namespace fusain::bench {

void Errands::hand(std::function<void()> errand)
{
    const std::lock_guard lock(mutex_); // over the waking too: who hands over after another comes after it
    waiting_.push_back(std::move(errand));
    QMetaObject::invokeMethod(this, "run", Qt::QueuedConnection);
}

void Errands::run()
{
    std::function<void()> next;
    {
        const std::lock_guard lock(mutex_);
        next = std::move(waiting_.front()); // one a wake: what else waits for the thread has its turn in between
        waiting_.pop_front();
    }
    next();
    next = nullptr;
    const std::lock_guard lock(mutex_); // what was done comes before whoever takes this lock afterwards
}

Errands::~Errands() { const std::lock_guard lock(mutex_); }

} // namespace fusain::bench
