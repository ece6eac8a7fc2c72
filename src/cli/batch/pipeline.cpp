// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/batch/pipeline.h"

#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <condition_variable>
#include <deque>
#include <mutex>
#include <thread>
#include <vector>

namespace fusain::cli {
namespace {

constexpr std::size_t read_bytes = 1 << 17;

/// A block on its way, with what has become of it.
struct Job {
    Block block;
    bool taken = false, ready = false;
};

} // namespace

void run_in_order(const std::function<bool(Block&)>& next, const std::function<std::function<void(Block&)>()>& worker,
    const std::function<bool(Block&)>& done, unsigned cores)
{
    if (cores <= 1) {
        const auto work = worker();
        for (Block block; next(block); block = {}) {
            work(block);
            if (!done(block)) return;
        }
        return;
    }
    std::mutex mutex;
    std::condition_variable changed;
    std::deque<Job> jobs; // in the order they were read; the front is written next
    bool ended = false, stopped = false;
    const std::size_t most = 2 * cores + 2;

    std::vector<std::thread> threads;
    for (unsigned i = 0; i < cores; ++i)
        threads.emplace_back([&] {
            const auto work = worker();
            std::unique_lock lock(mutex);
            for (;;) {
                const auto job = std::find_if(jobs.begin(), jobs.end(), [](const Job& j) { return !j.taken; });
                if (stopped || (job == jobs.end() && ended)) return;
                if (job == jobs.end()) {
                    changed.wait(lock);
                    continue;
                }
                Job& mine = *job; // a deque keeps its elements in place while others come and go at its ends
                mine.taken = true;
                lock.unlock();
                work(mine.block);
                lock.lock();
                mine.ready = true;
                changed.notify_all();
            }
        });
    threads.emplace_back([&] {
        std::unique_lock lock(mutex);
        for (;;) {
            changed.wait(
                lock, [&] { return stopped || (!jobs.empty() && jobs.front().ready) || (jobs.empty() && ended); });
            if (stopped || jobs.empty()) return;
            Block block = std::move(jobs.front().block);
            jobs.pop_front();
            changed.notify_all();
            lock.unlock();
            const bool go_on = done(block);
            lock.lock();
            if (!go_on) {
                stopped = true;
                changed.notify_all();
            }
        }
    });
    for (Block block; next(block); block = {}) {
        std::unique_lock lock(mutex);
        changed.wait(lock, [&] { return stopped || jobs.size() < most; });
        if (stopped) break;
        jobs.push_back({std::move(block), false, false});
        changed.notify_all();
    }
    {
        const std::lock_guard lock(mutex);
        ended = true;
        changed.notify_all();
    }
    for (std::thread& t : threads) t.join();
}

bool LineBlocks::next(Block& block)
{
    block.text = std::move(rest_);
    rest_.clear();
    std::size_t end = std::string::npos; // of the last whole line
    while (!ended_ && end == std::string::npos) {
        const std::size_t had = block.text.size();
        block.text.resize(had + read_bytes);
        ssize_t n;
        do n = ::read(descriptor_, block.text.data() + had, read_bytes);
        while (n < 0 && errno == EINTR);
        block.text.resize(had + static_cast<std::size_t>(std::max<ssize_t>(n, 0)));
        if (n <= 0) {
            ended_ = true;
            failed_ = n < 0;
        } else {
            end = block.text.rfind('\n');
            if (end != std::string::npos && end < had) end = std::string::npos;
        }
    }
    if (end != std::string::npos) {
        rest_ = block.text.substr(end + 1);
        block.text.resize(end + 1);
    }
    block.line = lines_;
    for (std::size_t at = block.text.find('\n'); at != std::string::npos; at = block.text.find('\n', at + 1)) ++lines_;
    return !block.text.empty();
}

} // namespace fusain::cli
