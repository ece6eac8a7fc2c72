// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "work/practice/practice.h"

/// The events of a drill's log (docs/formats/drill.md); their keys: drill_events.cpp.
namespace fusain::work::in_drill {

struct Stamped {
    std::string local{}; ///< when it was, by the clock of the practice folder
};

struct Begun : Stamped {
    static constexpr char kind[] = "begun";
    std::string drill{}, title{}, method{}, task{}; ///< id, title; words of a method, of a task
    int level = 1, items = 0;
    practice::Pass pass{};
};

struct Answer : Stamped, DrillAnswer {
    static constexpr char kind[] = "answer";
};

struct Marked : Stamped {
    static constexpr char kind[] = "marked";
    double rms = 0, bias = 0, spread = 0;
    int right = 0, missed = 0, wrongly = 0;
    bool passed = false;
};

struct GivenUp : Stamped {
    static constexpr char kind[] = "given_up";
};

/// Somebody answers for another who has not practised; a setting, by the other's name.
struct Waiver {
    std::string by{}, on{}, reason{}; ///< on: ISO day
};
struct Waivers {
    std::map<std::string, Waiver> of{};
};

} // namespace fusain::work::in_drill
