// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <string>
#include <vector>

namespace fusain {

/// One step on the way from what was measured to what is reported.
struct StoryStep {
    enum class Kind { input, correction, equation, result };
    Kind kind = Kind::input;
    std::string symbol;
    std::string title;
    double value = 0;
    std::string unit;
    int decimals = 3;
    double u = 0;       ///< standard uncertainty, 0 when the step has none of its own
    std::string source; ///< where it comes from: an instrument, an equation with its citation, a convention
};

using Story = std::vector<StoryStep>;

inline const char* word(StoryStep::Kind kind)
{
    constexpr const char* words[] = {"input", "correction", "equation", "result"};
    return words[static_cast<int>(kind)];
}

} // namespace fusain
