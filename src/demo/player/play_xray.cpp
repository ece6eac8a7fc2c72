// SPDX-License-Identifier: GPL-3.0-or-later
// The demo's player at the X-ray table.
#include "bench/xray/xray_take.h"
#include "demo/player/demo_player.h"

#include <QLabel>

namespace fusain::desk {

/// The same client on the X-ray table: the map arriving, its lines beside last time's, the result, the sheets.
void DemoPlayer::play_xray()
{
    const auto& v = window_.session().visit();
    const auto& live = window_.session().live();
    const auto always = [] { return true; };
    add_press(QStringLiteral("room_clients"));
    add_start(QStringLiteral("X-ray"));
    answer_screening(false);
    add_press(QStringLiteral("screening_keep"));
    add_press(QStringLiteral("screening_start"));
    add_press(QStringLiteral("confirm_who"));
    add_press(QStringLiteral("take_mass"));
    add_press(QStringLiteral("prepare_all"));
    shot_when("xray-lying", [this] { return can_press(QStringLiteral("prepared")); });
    add_press(QStringLiteral("prepared"));
    add_press(QStringLiteral("scan_main"));
    shot_when("xray-scan", [&live] {
        const bench::XrayShown& x = bench::xray_shown(live);
        return x.rows > 0 && x.rows_seen > 6 * x.rows / 10;
    });
    add(
        QStringLiteral("every row has come"), [&live] { return bench::xray_shown(live).complete; }, [] {});
    add_press(QStringLiteral("scan_main"));
    add(
        QStringLiteral("the map is there"),
        [this] {
            const auto* string = window_.findChild<QLabel*>(QStringLiteral("string"));
            return string && string->isVisible() && !string->text().isEmpty();
        },
        [] {});
    add_press(QStringLiteral("lines_last"));
    add_press(QStringLiteral("lines_bands"));
    shot_when("xray-lines", always);
    add_press(QStringLiteral("lines_bands"));
    add_press(QStringLiteral("lines_done"));
    shot_when("xray-result", [this] { return button(QStringLiteral("client_sheet")) != nullptr; });
    add_press(QStringLiteral("every_equation"));
    shot_when("xray-thresholds", always);
    add_press(QStringLiteral("every_equation"));
    give_out();
    add(
        QStringLiteral("X-ray visit finished"), [&v] { return v.finished; }, [] {});
    add_press(QStringLiteral("lab_sheet"));
    add(QStringLiteral("keep the X-ray sheets"), always, [this] { keep_sheets(QStringLiteral("xray-")); });
}

} // namespace fusain::desk
