// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/analyser/analyser_take.h"
#include "bench/chamber/chamber_take.h"
#include "bench/tank/tank_take.h"
#include "bench/xray/xray_take.h"
#include "desk/shell/main_window.h"
#include "../work/furnish.h"
#include "virtual_room.h"

#include <gtest/gtest.h>

#include <QApplication>
#include <QListWidget>
#include <QSqlDatabase>
#include <QSqlQuery>
#include <QTemporaryDir>
#include <QtTest/QTest>

/// A real window on a real lab file, with the virtual instruments over lines that are only memory, driven by keys, in
/// virtual time: `wait` and `pass` let the test's clock jump, and nobody waits for the machine's. (Real lines and real
/// time: tests/bench/lines/test_link.cpp, test_kill.)
namespace fusain::desk {

struct Bench {
    QTemporaryDir dir;
    VirtualClock clock;
    std::shared_ptr<records::Store> store;
    std::unique_ptr<VirtualRoom> room;
    std::unique_ptr<MainWindow> window;

    /// `furnished`: with a scale and a tank that were checked this morning, and somebody on the staff.
    explicit Bench(double speed = 4, quint64 seed = 7, bool furnished = true);
    ~Bench() { work::set_machine_clock(QDateTime::currentDateTimeUtc); }
    /// What a window of this lab is joined from.
    work::Seams seams() { return {room->ground(), false}; }
    void reopen() { reopen(room->lines()); }
    /// With these instrument lines; none: a lab whose instruments do not speak.
    void reopen(const QStringList& lines);
    /// Shows the window; it has stood open for a moment, so that every instrument has spoken.
    void show_window();
    records::Client add_client(const QString& given = "Aliénor", const QString& family = "Quéméner");
    /// Until the condition holds, for so long of the test's clock.
    bool wait(const std::function<bool()>& condition, int ms = 20000);
    /// So much time passes.
    void pass(int ms);
    QAbstractButton* button(const QString& name);
    /// Waits until the button can be pressed, then presses the key.
    ::testing::AssertionResult key(const QString& name, int k, Qt::KeyboardModifiers modifiers = Qt::NoModifier);
    QLineEdit* field(const QString& name);
    void type(const QString& name, const QString& text);
    QString text(const QString& label);
    QString title() { return text("panel_title"); }
    const bench::Visit& visit() { return window->session().visit(); }
    /// What the instruments show.
    const bench::TankShown& seen_tank() { return bench::tank_shown(window->session().live()); }
    const bench::ChamberShown& seen_chamber() { return bench::chamber_shown(window->session().live()); }
    const bench::AnalyserShown& seen_analyser() { return bench::analyser_shown(window->session().live()); }
    const bench::AnalyserState& analyser() { return bench::analyser_of(visit()); }
    /// A picture of the window, where the person who looks at them wants one (FUSAIN_SHOTS=folder).
    void shot(const char* name);
    const bench::TankState& tank() { return bench::tank_of(visit()); }
    const bench::ChamberState& chamber() { return bench::chamber_of(visit()); }
    bool shows(const QString& words);

    /// Answers the question on the screen so that its rule is kept; `otherwise` maps part of a question to another
    /// answer.
    void answer(const std::map<QString, QString>& otherwise = {});
    /// Answers everything; leaves the screening at its verdict.
    void screen(const std::map<QString, QString>& otherwise = {});
    const bench::XrayShown& seen_table() { return bench::xray_shown(window->session().live()); }
    const bench::XrayState& xray() { return bench::xray_of(visit()); }
    /// Up to the client who lies on the X-ray table, the beam still off.
    void to_beam();
    /// Until the string under the hand has its map.
    void to_lines();
    void to_bench(bool in_chamber = false, bool on_analyser = false);

    void to_trials();
    /// From the question who it is; so do the others that go `through`.
    void through_to_trials();
    /// Up to the client who stands with hands and feet on the metal.
    void to_current();
    void through_to_current();
    /// One recording of the analyser, begun and ended by the main key.
    void sweep();
    /// Up to the calibrated chamber, the client about to go in.
    void to_runs();
    void through_to_runs();
    void to_calibrate();
    void calibrate();
    /// One recording of the chamber, begun and taken by the main key.
    void record();
    /// A visit to the tank as its log would stand after the trials; opened, its result shown.
    void tank_result(
        const records::Client& client, double height_today_cm, std::initializer_list<double> kg = {2.30, 2.32, 2.31});
    /// The client's sheet; where the result asks to be measured again, given out by name as a technician would.
    void give_out();
    void begin_swing();
    void take_trial();
};

/// Another program that holds the lab, until it is gone.
struct Locked {
    explicit Locked(const QString& lab)
    {
        auto other = QSqlDatabase::addDatabase("QSQLITE", "locker");
        other.setDatabaseName(lab);
        EXPECT_TRUE(other.open() && QSqlQuery(other).exec("BEGIN IMMEDIATE"));
    }
    ~Locked() { QSqlDatabase::removeDatabase("locker"); } // closing it lets go
};

} // namespace fusain::desk
