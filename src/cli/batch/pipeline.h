// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <functional>
#include <string>

/// Blocks of input become blocks of output on all cores, in order and in constant memory.
namespace fusain::cli {

struct Block {
    std::string text;      ///< in: whole lines; out: their answers
    long line = 0;         ///< number of the line before the first
    bool answered = false; ///< the text is an answer already
    bool errors = false;   ///< one of the answers is an error
};

/// Reads until `next` gives nothing, works on several blocks at once, hands them to `done` in the order they were read.
/// `done` is called from one other thread; when it says false everything stops. `worker` makes one function for each
/// thread. With one core nothing is threaded.
void run_in_order(const std::function<bool(Block&)>& next, const std::function<std::function<void(Block&)>()>& worker,
    const std::function<bool(Block&)>& done, unsigned cores);

/// Whole lines from a file descriptor: what is there is handed on at once, so that a pipe that waits for its answer
/// gets it.
class LineBlocks {
public:
    explicit LineBlocks(int descriptor) : descriptor_(descriptor) {}
    bool next(Block& block);
    bool failed() const { return failed_; }

private:
    int descriptor_;
    std::string rest_;
    long lines_ = 0;
    bool ended_ = false, failed_ = false;
};

} // namespace fusain::cli
