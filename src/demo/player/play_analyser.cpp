// SPDX-License-Identifier: GPL-3.0-or-later
// The demo's player on the analyser.
#include "bench/analyser/analyser_take.h"
#include "demo/player/demo_player.h"

#include <QComboBox>

namespace fusain::desk {

/// The same client on the analyser: a heel that hardly touches, put right, then a minute of standing still.
void DemoPlayer::play_analyser()
{
    const auto& v = window_.session().visit();
    const auto& live = window_.session().live();
    const auto trouble = [this](const char* word) {
        add(
            QStringLiteral("trouble: %1").arg(QString::fromLatin1(word)), [] { return true; },
            [this, word] {
                auto* box = window_.findChild<QComboBox*>(QStringLiteral("trouble_maker"));
                if (!box) return;
                box->setCurrentIndex(std::max(0, box->findData(QString::fromLatin1(word))));
                emit box->activated(box->currentIndex());
            });
    };
    add_press(QStringLiteral("room_clients"));
    add_start(QStringLiteral("analyser"));
    answer_screening(false);
    add_press(QStringLiteral("screening_keep"));
    add_press(QStringLiteral("screening_start"));
    add_press(QStringLiteral("confirm_who"));
    add_press(QStringLiteral("take_mass"));
    add_press(QStringLiteral("prepare_all"));
    shot_when("analyser-stance", [this] { return can_press(QStringLiteral("prepared")); });
    add_press(QStringLiteral("prepared"));
    if (window_.findChild<QComboBox*>(QStringLiteral("trouble_maker"))) {
        trouble("contact_8");
        add_press(QStringLiteral("spectrum_main"));
        shot_when("analyser-contact", [&live] {
            return bench::analyser_shown(live).state.seconds > 25 &&
                   !bench::analyser_shown(live).state.findings.empty();
        });
        add_press(QStringLiteral("spectrum_out"));
        trouble("");
        add(
            QStringLiteral("wiped"),
            [&live] { return bench::analyser_shown(live).contact_ohm[7] < impedance::contact_limit_ohm; }, [] {});
    }
    add_press(QStringLiteral("spectrum_main"));
    shot_when("analyser-live", [&live] { return bench::analyser_shown(live).state.seconds > 20; });
    add(
        QStringLiteral("the current has been everywhere"), [&live] { return bench::analyser_shown(live).complete; },
        [] {});
    add_press(QStringLiteral("spectrum_main"));
    add_press(QStringLiteral("spectrum_done"));
    shot_when("analyser-result", [this] { return button(QStringLiteral("client_sheet")) != nullptr; });
    add_press(QStringLiteral("every_equation"));
    shot_when("analyser-equations", [] { return true; });
    add_press(QStringLiteral("every_equation"));
    give_out();
    add(
        QStringLiteral("analyser visit finished"), [&v] { return v.finished; }, [] {});
    add_press(QStringLiteral("lab_sheet"));
    add(
        QStringLiteral("keep the analyser's sheets"), [] { return true; },
        [this] { keep_sheets(QStringLiteral("analyser-")); });
}

} // namespace fusain::desk
