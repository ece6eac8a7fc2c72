// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <string>

/// `fusain-cli compute`: streams records to results.
namespace fusain::cli {

struct ComputeOptions {
    std::string input = "-", output = "-", format, output_format;
    bool story = false;
};

inline constexpr int exit_ok = 0, exit_command = 1, exit_errors = 2;

/// Returned: the exit code of the command. What is wrong with the command itself goes to standard error.
int compute(const ComputeOptions& options);

} // namespace fusain::cli
