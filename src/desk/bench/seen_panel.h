// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/bench/panels.h"

#include <functional>
#include <span>

namespace fusain::desk {

/// What to see to before a measurement begins. What is left out is noted with what it does to the number; what has no
/// such effect is never left out.
class SeenPanel : public Panel {
    Q_OBJECT
public:
    struct Row {
        const char *id, *words, *noted, *effect; ///< effect: of leaving it out; empty: it is never left out
    };
    struct What {
        QString title, hint, talk; ///< talk: what is said to the client meanwhile
        std::vector<Row> rows;
        /// What is logged of it: what was seen to; what leaving the rest out does, in words
        std::function<bench::Act(std::vector<std::string> seen, std::vector<std::string> left_out)> act;
        const std::vector<std::string>& (*seen)(const bench::Visit& visit); ///< of the visit so far
        const char* cue;                                                    ///< to the client
        // where there is more to say, to choose, and to keep
        std::function<QString(const bench::Visit& visit)> say{}; ///< instead of `talk`
        QWidget* below = nullptr;
        std::function<void(const bench::Visit& visit)> enter{};
    };
    SeenPanel(work::Session& session, bench::Step step, What what);
    void enter() override;

private:
    void weigh();
    What what_;
    std::vector<Mark*> marks_;
    QLabel *effect_, *talk_;
    KeyButton *all_, *done_;
};

} // namespace fusain::desk
