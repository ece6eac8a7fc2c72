// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/printed/printed.h"
#include "desk/bench/printed/panel_printout.h"
#include "demo/player/demo_player.h"

#include <QComboBox>
#include <QListWidget>

namespace fusain::desk {

/// Whoever is booked on the analyser that prints: its sheet comes in, is offered, held beside its pieces, and taken.
void DemoPlayer::play_printout()
{
    const auto& v = window_.session().visit();
    const auto always = [] { return true; };
    add(QStringLiteral("who is booked in the hall"), always, [this] {
        const auto& lab = window_.lab();
        for (const records::Booking& b : lab.diary->day(lab.today()))
            for (const schedule::Slot& s : b.parts)
                if (const auto i = lab.instrument(s.instrument);
                    i && !i->layout.isEmpty() && !records::is_over(b.state)) {
                    window_.show_day();
                    window_.findChild<DayPage*>()->select(b.id);
                }
    });
    add_press(QStringLiteral("day_go"));
    answer_screening(false);
    add_press(QStringLiteral("screening_keep"));
    add_press(QStringLiteral("screening_start"));
    add_press(QStringLiteral("confirm_who"));
    const auto panel = [this] { return window_.findChild<PrintoutPanel*>(); };
    shot_when("printout-came-in", [this] { return can_press(QStringLiteral("came_in_0")); });
    add_press(QStringLiteral("came_in_0"));
    shot_when("printout-cuts", [panel, this] {
        return panel() && !panel()->is_reading() && !button(QStringLiteral("came_in_0")) &&
               can_press(QStringLiteral("take_printout"));
    });
    add_press(QStringLiteral("take_printout"));
    shot_when("printout-result", [this] { return button(QStringLiteral("client_sheet")) != nullptr; });
    give_out();
    add(
        QStringLiteral("printed visit finished"), [&v] { return v.finished; }, [] {});
    add_press(QStringLiteral("lab_sheet"));
    add(QStringLiteral("keep the printed visit's sheets"), always,
        [this] { keep_sheets(QStringLiteral("printout-")); });
    add_press(QStringLiteral("room_instruments"));
    add(QStringLiteral("the analyser in the hall"), always, [this] {
        auto* list = window_.findChild<QListWidget*>(QStringLiteral("instruments"));
        for (auto* item : list->findItems(QStringLiteral("Hall"), Qt::MatchContains)) list->setCurrentItem(item);
    });
    shot_when("instrument-person", always);
    add_press(QStringLiteral("teach_layout"));
    shot_when("printout-layout", always);
}

} // namespace fusain::desk
