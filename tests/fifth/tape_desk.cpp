// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/bench/density_choices.h"
#include "desk/bench/method_desk.h"
#include "desk/parts/typed_row.h"
#include "tape.h"

namespace fusain::desk {
namespace {

class TapePanel : public Panel {
public:
    explicit TapePanel(work::Session& s)
        : Panel(s, bench::step::tape, QStringLiteral("What does the tape say about the trunk?"),
              QStringLiteral("Level, snug, at the end of a calm breath.")),
          number_(new NumberField("callipers_and_tape.girths_cm", Measure::length)),
          typed_(new TypedRow({{QStringLiteral("girth"), "tape_girth", number_}}))
    {
        body_->addWidget(typed_);
        body_->addStretch();
        connect(typed_, &TypedRow::typed, this, [this] {
            if (const auto cm = number_->metric()) {
                bench::event::TapeTyped typed;
                typed.what = bench::take::tape;
                typed.source = "typed";
                typed.girth_cm = *cm;
                session_.act(typed);
            }
        });
    }
    void enter() override { typed_->open(); }

private:
    NumberField* number_;
    TypedRow* typed_;
};

} // namespace

const MethodDesk& tape_desk()
{
    static const MethodDesk desk = {[](bench::Step step, work::Session& session) -> Panel* {
                                        return step == bench::step::tape ? new TapePanel(session) : nullptr;
                                    },
        [](bench::Step, const bench::Visit& v) {
            return v.readings().empty() ? QString() : Units::get().text(Measure::length, v.readings().back(), 1);
        },
        {bench::step::tape}, [](const bench::Live&) { return true; },
        [](const bench::Live&) { return QStringLiteral("read off and typed"); },
        [](const bench::Visit& v) { return std::vector<ChoiceList>{conversion_list(v)}; }, &quantity::body_density,
        "On the scale", [](const bench::Live&) -> const char* { return nullptr; }};
    return desk;
}

} // namespace fusain::desk
