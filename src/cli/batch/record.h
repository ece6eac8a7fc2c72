// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "cli/batch/answer.h"

#include <memory>
#include <string_view>

/// Records of the calculation interface (docs/formats/calculation.md): one line of JSON becomes one answer.
namespace fusain::cli {

/// Holds the parser and its memory, so that a record costs none. One a thread.
class Computer {
public:
    explicit Computer(Detail detail = Detail::numbers);
    ~Computer();
    Computer(const Computer&) = delete;
    Computer& operator=(const Computer&) = delete;

    /// Computes one JSON object. Never throws: whatever is wrong comes back as an answer with status "error". The
    /// answer is valid until the next call.
    const Answer& compute(std::string_view json, long line_number);

private:
    struct Work;
    std::unique_ptr<Work> work_;
    Detail detail_;
};

/// The answer to a record that could not even be read.
Answer error_answer(std::string code, std::string text);

} // namespace fusain::cli
