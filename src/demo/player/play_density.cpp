// SPDX-License-Identifier: GPL-3.0-or-later
// The demo's player in the chamber, then under water.
#include "bench/chamber/chamber_take.h"
#include "bench/tank/tank_take.h"
#include "demo/player/demo_player.h"

namespace fusain::desk {

/// The booking has chamber and tank: the chamber first, dry.
void DemoPlayer::play_chamber()
{
    const bench::Visit& v = window_.session().visit();
    const bench::Live& live = window_.session().live();
    add_start(QStringLiteral("tank"));
    answer_screening(true);
    add_press(QStringLiteral("screening_keep"));
    add_press(QStringLiteral("screening_start"));
    shot_when("bench-who", [this] { return can_press(QStringLiteral("confirm_who")); });
    add_press(QStringLiteral("confirm_who"));
    shot_when("bench-mass", [this] { return can_press(QStringLiteral("take_mass")); });
    add_press(QStringLiteral("take_mass"));
    add_press(QStringLiteral("see_cap"));
    add_press(QStringLiteral("see_talk"));
    add_press(QStringLiteral("see_release"));
    shot_when("chamber-prepare", [this] { return can_press(QStringLiteral("prepared")); });
    add_press(QStringLiteral("prepare_all"));
    add_press(QStringLiteral("prepared"));
    for (int i = 1; i <= 4; ++i) {
        add(
            QStringLiteral("enough runs, or reading %1").arg(i),
            [this] { return can_press(QStringLiteral("chamber_main")) || can_press(QStringLiteral("runs_done")); },
            [this] { press(QStringLiteral("chamber_main")); });
        if (i == 2) shot_when("chamber-calibration", [&live] { return bench::chamber_shown(live).state.now_s > 15; });
        if (i == 4) shot_when("chamber-run", [&live] { return bench::chamber_shown(live).state.now_s > 17; });
        add(
            QStringLiteral("reading %1 complete").arg(i), [&live] { return bench::chamber_shown(live).complete; },
            [] {});
        add_press(QStringLiteral("chamber_main"));
        add(
            QStringLiteral("reading %1 kept").arg(i),
            [&v, i] { return static_cast<int>(v.trials.size()) >= i && !v.running(); }, [] {});
    }
    shot_when("chamber-runs",
        [this] { return can_press(QStringLiteral("runs_done")) || can_press(QStringLiteral("chamber_main")); });
    play_more_runs();
    play_lung_gas();
}

/// Two runs that do not agree ask for another.
void DemoPlayer::play_more_runs()
{
    const bench::Visit& v = window_.session().visit();
    const bench::Live& live = window_.session().live();
    const auto enough = [this] { return can_press(QStringLiteral("runs_done")); };
    for (int i = 1; i <= 3; ++i) {
        add(
            QStringLiteral("enough runs, or one more"),
            [this, enough] { return enough() || can_press(QStringLiteral("chamber_main")); },
            [this, enough] {
                if (!enough()) press(QStringLiteral("chamber_main"));
            });
        add(
            QStringLiteral("one more complete, or enough"),
            [enough, &live] { return enough() || bench::chamber_shown(live).complete; },
            [this, enough] {
                if (!enough()) press(QStringLiteral("chamber_main"));
            });
        add(
            QStringLiteral("one more kept, or enough"), [enough, &v] { return enough() || !v.running(); }, [] {});
    }
}

void DemoPlayer::play_lung_gas()
{
    const bench::Visit& v = window_.session().visit();
    const bench::Live& live = window_.session().live();
    add_press(QStringLiteral("runs_done"));
    add_press(QStringLiteral("gas_route_2"));
    add_press(QStringLiteral("gas_main"));
    add(
        QStringLiteral("tube in"),
        [&live] { return bench::chamber_shown(live).tube && bench::chamber_shown(live).what; }, [] {});
    watch(QStringLiteral("breathing quietly"), 45, [] {});
    add_press(QStringLiteral("gas_main")); // shuts the valve
    shot_when("chamber-puffs", [&live] { return bench::chamber_shown(live).complete; });
    add_press(QStringLiteral("gas_main"));
    add_press(QStringLiteral("use_gas"));
    shot_when("chamber-result", [this] { return button(QStringLiteral("client_sheet")) != nullptr; });
    give_out();
    add(
        QStringLiteral("chamber visit finished"), [&v] { return v.finished; }, [] {});
    add_press(QStringLiteral("lab_sheet"));
    add(
        QStringLiteral("keep the chamber's sheets"), [] { return true; },
        [this] { keep_sheets(QStringLiteral("chamber-")); });
    add_press(QStringLiteral("next_measurement"));
}

void DemoPlayer::play_tank()
{
    const bench::Visit& v = window_.session().visit();
    add(
        QStringLiteral("on to the tank"), [&v] { return v.method == method::hydrostatic; }, [] {});
    add_press(QStringLiteral("confirm_who"));
    add_press(QStringLiteral("take_mass"));
    for (int i = 1; i <= 3; ++i) {
        add_press(QStringLiteral("ask_blow"));
        add(
            QStringLiteral("blow %1").arg(i), [&v, i] { return static_cast<int>(bench::tank_of(v).blows.size()) >= i; },
            [] {});
    }
    add(
        QStringLiteral("picture of lungs"), [this] { return can_press(QStringLiteral("use_lungs")); },
        [this] { picture(QStringLiteral("bench-lungs")); });
    add_press(QStringLiteral("use_lungs"));
    add(
        QStringLiteral("picture of zero"), [this] { return can_press(QStringLiteral("take_zero")); },
        [this] { picture(QStringLiteral("bench-zero")); });
    add_press(QStringLiteral("take_zero"));
    add(
        QStringLiteral("picture of water"), [this] { return can_press(QStringLiteral("take_water")); },
        [this] { picture(QStringLiteral("bench-water")); });
    add_press(QStringLiteral("take_water"));
    for (int i = 1; i <= 4; ++i) play_trial(i);
    add_press(QStringLiteral("trials_done"));
    add(
        QStringLiteral("picture of the result"), [this] { return button(QStringLiteral("client_sheet")) != nullptr; },
        [this] { picture(QStringLiteral("result")); });
    add_press(QStringLiteral("show_beside"));
    shot_when("result-beside", [] { return true; });
    add_press(QStringLiteral("show_beside"));
    add_press(QStringLiteral("every_step"));
    add(
        QStringLiteral("picture of every step"), [] { return true; },
        [this] { picture(QStringLiteral("result-steps")); });
    add_press(QStringLiteral("every_step"));
    give_out();
    add(
        QStringLiteral("visit finished"), [&v] { return v.finished; }, [] {});
    add_press(QStringLiteral("lab_sheet"));
    add(
        QStringLiteral("keep the sheets"), [] { return true; }, [this] { keep_sheets(QString()); });
}

void DemoPlayer::play_trial(int i)
{
    const bench::Visit& v = window_.session().visit();
    add_press(QStringLiteral("trial_main"));
    add(
        QStringLiteral("client leans forward"), [this] { return window_.session().live().trial > 0; }, [] {});
    watch(QStringLiteral("all air out"), 105, [this] { press(QStringLiteral("trial_main")); });
    if (i == 3)
        add(
            QStringLiteral("picture while swinging"),
            [this] { return bench::tank_shown(window_.session().live()).swing.estimate.has_value(); },
            [this] { picture(QStringLiteral("bench-swing")); });
    add(
        QStringLiteral("the reading"),
        [this, &v, again = std::make_shared<long>(-1)] {
            // a machine that stood still for longer than a trial lasts: it is broken, and begun once more
            const bench::Live& now = window_.session().live();
            const bench::TankShown& tank = bench::tank_shown(now);
            if (!now.trial && v.trials.back().status == bench::Trial::Status::broken &&
                (*again < 0 || tells_ - *again > 30)) {
                *again = tells_;
                press(QStringLiteral("trial_main"));
            } else if (*again >= 0 && now.trial && !tank.let_go && tells_ - *again >= 105) {
                *again = -1;
                press(QStringLiteral("trial_main"));
            }
            return tank.let_go && (tank.swing.reading || tank.swing.phase == swing::Phase::lost);
        },
        [this, i] {
            if (i == 4) picture(QStringLiteral("bench-reading"));
        });
    add_press(QStringLiteral("trial_main"));
    add(
        QStringLiteral("trial %1 kept").arg(i),
        [&v, i] {
            return static_cast<int>(v.trials.size()) >= i && v.trials.back().status != bench::Trial::Status::running;
        },
        [] {});
}

} // namespace fusain::desk
