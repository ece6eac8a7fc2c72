// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/analyser/analyser_take.h"
#include "bench/chamber/chamber_take.h"
#include "bench/tank/tank_take.h"
#include "bench/xray/xray_take.h"
#include "desk/demo/demo_room.h"
#include "desk/shell/main_window.h"
#include "../work/furnish.h"

#include <gtest/gtest.h>

#include <QApplication>
#include <QListWidget>
#include <QElapsedTimer>
#include <QTemporaryDir>
#include <QtTest/QTest>

/// A real window on a real lab file, with the virtual tank on a real serial line, driven by keys.
namespace fusain::desk {

struct Bench {
    QTemporaryDir dir;
    std::shared_ptr<records::Store> store;
    std::unique_ptr<DemoRoom> room;
    std::unique_ptr<MainWindow> window;

    /// `furnished`: with a scale and a tank that were checked this morning, and somebody on the staff.
    explicit Bench(double speed = 4, quint64 seed = 7, bool furnished = true)
    {
        work::set_clock(QDateTime(QDate(2026, 11, 23), QTime(8, 0), QTimeZone("Europe/Paris")));
        const auto opened = records::Store::open(dir.path() + "/lab.fusain");
        EXPECT_TRUE(opened);
        store = *opened;
        store->set_setting("technician", "M. Tanguy");
        store->set_setting("lab_name", "The lab");
        store->set_setting("zone", "Europe/Paris");
        if (furnished) {
            work::Lab lab(store);
            work::furnish(lab);
        }
        room = std::make_unique<DemoRoom>(speed, seed);
        EXPECT_FALSE(room->lines().isEmpty()) << room->trouble().toStdString();
        reopen();
    }
    void reopen() { reopen(room->lines()); }
    /// With these instrument lines; none: a lab whose instruments do not speak.
    void reopen(const QStringList& lines)
    {
        window.reset();
        window = std::make_unique<MainWindow>(store, lines);
        room->listen_to(window->session());
        window->show();
        window->activateWindow();
        EXPECT_TRUE(QTest::qWaitForWindowActive(window.get()));
    }
    records::Client add_client(const QString& given = "Aliénor", const QString& family = "Quéméner")
    {
        records::Client c;
        c.given_name = given;
        c.family_name = family;
        c.birth_date = "1995-05-02";
        c.height_cm = 171;
        c.consent_on = "2026-01-10";
        const auto stored = store->save(c);
        window->show_clients();
        return *stored;
    }
    template <class Condition>
    bool wait(Condition condition, int ms = 20000)
    {
        QElapsedTimer t;
        t.start();
        while (!condition()) {
            if (t.elapsed() > ms) return false;
            QTest::qWait(10);
        }
        return true;
    }
    QAbstractButton* button(const QString& name)
    {
        for (auto* b : window->findChildren<QAbstractButton*>(name))
            if (b->isVisible()) return b;
        return nullptr;
    }
    /// Waits until the button can be pressed, then presses the key.
    ::testing::AssertionResult key(const QString& name, int k, Qt::KeyboardModifiers modifiers = Qt::NoModifier)
    {
        if (!wait([&] { return button(name) && button(name)->isEnabled(); }))
            return ::testing::AssertionFailure()
                   << name.toStdString() << " never came; the screen says \"" << title().toStdString() << "\"";
        QTest::keyClick(
            window->focusWidget() ? window->focusWidget() : window.get(), static_cast<Qt::Key>(k), modifiers);
        QTest::qWait(5);
        return ::testing::AssertionSuccess();
    }
    QLineEdit* field(const QString& name)
    {
        for (auto* e : window->findChildren<QLineEdit*>(name))
            if (e->isVisible()) return e;
        ADD_FAILURE() << "no field " << name.toStdString();
        static QLineEdit none;
        return &none;
    }
    void type(const QString& name, const QString& text)
    {
        QLineEdit* e = field(name);
        e->setFocus();
        e->selectAll();
        QTest::keyClicks(e, text);
    }
    QString text(const QString& label)
    {
        for (auto* l : window->findChildren<QLabel*>(label))
            if (l->isVisible()) return l->text();
        return {};
    }
    QString title() { return text("panel_title"); }
    const bench::Visit& visit() { return window->session().visit(); }
    /// What the instruments show.
    const bench::TankShown& seen_tank() { return bench::tank_shown(window->session().live()); }
    const bench::ChamberShown& seen_chamber() { return bench::chamber_shown(window->session().live()); }
    const bench::AnalyserShown& seen_analyser() { return bench::analyser_shown(window->session().live()); }
    const bench::AnalyserState& analyser() { return bench::analyser_of(visit()); }
    /// A picture of the window, where the person who looks at them wants one (FUSAIN_SHOTS=folder).
    void shot(const char* name)
    {
        if (!qEnvironmentVariableIsSet("FUSAIN_SHOTS")) return;
        QTest::qWait(80);
        window->grab().save(
            QStringLiteral("%1/%2.png").arg(qEnvironmentVariable("FUSAIN_SHOTS"), QString::fromLatin1(name)));
    }
    const bench::TankState& tank() { return bench::tank_of(visit()); }
    const bench::ChamberState& chamber() { return bench::chamber_of(visit()); }
    bool shows(const QString& words)
    {
        for (auto* l : window->findChildren<QLabel*>())
            if (l->isVisible() && l->text().contains(words)) return true;
        return false;
    }

    /// Answers the question on the screen so that its rule is kept; `otherwise` maps part of a question to another
    /// answer.
    void answer(const std::map<QString, QString>& otherwise = {})
    {
        const QString asked = text("screening_title");
        QString said = asked.contains("Bladder") || asked.contains("somebody stay") ? "yes" : "no";
        for (const auto& [part, other] : otherwise)
            if (asked.contains(part)) said = other;
        if (button("answer_never") || (button("answer_take") && button("answer_take")->isVisible())) {
            type("screening_typed", said == "no" ? (asked.contains("scans") ? "0" : "never") : said);
            QTest::keyClick(window->focusWidget(), Qt::Key_Return);
        } else {
            ASSERT_TRUE(key(said == "yes" ? "answer_yes" : "answer_no", said == "yes" ? Qt::Key_Y : Qt::Key_N));
        }
    }
    /// Answers everything; leaves the screening at its verdict.
    void screen(const std::map<QString, QString>& otherwise = {})
    {
        ASSERT_TRUE(wait([&] { return !text("screening_title").isEmpty(); }));
        for (int i = 0; i < 60 && !(button("screening_keep") || button("screening_start")); ++i) {
            if (button("answer_still"))
                ASSERT_TRUE(key("answer_still", Qt::Key_Return));
            else
                ASSERT_NO_FATAL_FAILURE(answer(otherwise));
        }
        ASSERT_TRUE(button("screening_keep")) << text("screening_title").toStdString();
    }
    const bench::XrayShown& seen_table() { return bench::xray_shown(window->session().live()); }
    const bench::XrayState& xray() { return bench::xray_of(visit()); }
    /// Up to the client who lies on the X-ray table, the beam still off.
    void to_beam()
    {
        ASSERT_TRUE(key("start_X-ray", Qt::Key_Return, Qt::AltModifier | Qt::ShiftModifier));
        ASSERT_NO_FATAL_FAILURE(screen());
        ASSERT_TRUE(key("screening_keep", Qt::Key_Return));
        ASSERT_TRUE(key("screening_start", Qt::Key_Return));
        ASSERT_TRUE(wait([&] { return visit().stops_asked; })) << text("trouble").toStdString();
        ASSERT_TRUE(key("confirm_who", Qt::Key_Return));
        ASSERT_TRUE(key("take_mass", Qt::Key_Space)) << title().toStdString();
        ASSERT_TRUE(key("prepare_all", Qt::Key_Space));
        ASSERT_TRUE(key("prepared", Qt::Key_Return));
        ASSERT_TRUE(wait([&] { return visit().next_step() == bench::step::scan; })) << title().toStdString();
    }
    /// Until the string under the hand has its map.
    void to_lines()
    {
        ASSERT_TRUE(key("scan_main", Qt::Key_Space)) << title().toStdString();
        ASSERT_TRUE(wait([&] { return seen_table().complete; }, 60000)) << title().toStdString();
        ASSERT_TRUE(key("scan_main", Qt::Key_Space)) << text("found").toStdString();
        ASSERT_TRUE(wait([&] { return xray().standing(visit()); })) << title().toStdString();
        ASSERT_TRUE(wait([&] { return !text("string").isEmpty(); })) << title().toStdString();
    }
    void to_bench(bool in_chamber = false, bool on_analyser = false)
    {
        if (on_analyser)
            ASSERT_TRUE(key("start_analyser", Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier));
        else if (in_chamber)
            ASSERT_TRUE(key("start_chamber", Qt::Key_Return, Qt::AltModifier));
        else
            ASSERT_TRUE(key("start_visit", Qt::Key_Return, Qt::ControlModifier));
        ASSERT_NO_FATAL_FAILURE(screen());
        ASSERT_TRUE(key("screening_keep", Qt::Key_Return));
        ASSERT_TRUE(key("screening_start", Qt::Key_Return));
        ASSERT_TRUE(wait([&] { return visit().stops_asked; }));
    }

    void to_trials()
    {
        ASSERT_NO_FATAL_FAILURE(to_bench());
        ASSERT_NO_FATAL_FAILURE(through_to_trials());
    }
    /// From the question who it is; so do the others that go `through`.
    void through_to_trials()
    {
        ASSERT_TRUE(key("confirm_who", Qt::Key_Return));
        ASSERT_TRUE(key("take_mass", Qt::Key_Space)) << title().toStdString();
        for (std::size_t i = 1; i <= 3; ++i) {
            ASSERT_TRUE(key("ask_blow", Qt::Key_Space));
            ASSERT_TRUE(wait([&] { return tank().blows.size() >= i; }));
        }
        ASSERT_TRUE(key("use_lungs", Qt::Key_Return));
        ASSERT_TRUE(key("take_zero", Qt::Key_Space));
        ASSERT_TRUE(key("take_water", Qt::Key_Space));
        ASSERT_TRUE(wait([&] { return visit().next_step() == bench::step::trials; }));
    }
    /// Up to the client who stands with hands and feet on the metal.
    void to_current()
    {
        ASSERT_NO_FATAL_FAILURE(to_bench(false, true));
        ASSERT_NO_FATAL_FAILURE(through_to_current());
    }
    void through_to_current()
    {
        ASSERT_TRUE(key("confirm_who", Qt::Key_Return));
        ASSERT_TRUE(key("take_mass", Qt::Key_Space)) << title().toStdString();
        ASSERT_TRUE(key("prepare_all", Qt::Key_Space));
        ASSERT_TRUE(key("prepared", Qt::Key_Return));
        ASSERT_TRUE(wait([&] { return visit().next_step() == bench::step::spectrum; })) << title().toStdString();
        ASSERT_TRUE(wait([&] { return seen_analyser().hands; })) << title().toStdString();
    }
    /// One recording of the analyser, begun and ended by the main key.
    void sweep()
    {
        const std::size_t before = visit().trials.size();
        ASSERT_TRUE(key("spectrum_main", Qt::Key_Space)) << title().toStdString();
        ASSERT_TRUE(wait([&] { return visit().trials.size() > before && seen_analyser().complete; }, 40000))
            << title().toStdString();
        ASSERT_TRUE(key("spectrum_main", Qt::Key_Space)) << title().toStdString();
        ASSERT_TRUE(wait([&] { return !visit().running() && window->session().live().trial == 0; }))
            << title().toStdString();
    }
    /// Up to the calibrated chamber, the client about to go in.
    void to_runs()
    {
        ASSERT_NO_FATAL_FAILURE(to_bench(true));
        ASSERT_NO_FATAL_FAILURE(through_to_runs());
    }
    void through_to_runs()
    {
        ASSERT_TRUE(key("confirm_who", Qt::Key_Return));
        ASSERT_TRUE(key("take_mass", Qt::Key_Space)) << title().toStdString();
        ASSERT_NO_FATAL_FAILURE(to_calibrate());
        ASSERT_NO_FATAL_FAILURE(calibrate());
        ASSERT_TRUE(wait([&] { return visit().next_step() == bench::step::runs; })) << title().toStdString();
    }
    void to_calibrate()
    {
        ASSERT_TRUE(key("prepare_all", Qt::Key_Space));
        ASSERT_TRUE(key("prepared", Qt::Key_Return));
        ASSERT_TRUE(wait([&] { return visit().next_step() == bench::step::calibrate; }));
    }
    void calibrate()
    {
        for (int i = 0; i < 2; ++i) ASSERT_NO_FATAL_FAILURE(record());
    }
    /// One recording of the chamber, begun and taken by the main key; begun again when a busy machine let the line
    /// wait.
    void record()
    {
        const auto done = [&] {
            return button("chamber_main") && button("chamber_main")->isEnabled() && seen_chamber().complete;
        };
        for (int attempt = 0; attempt < 3 && !done(); ++attempt) {
            const std::size_t before = visit().trials.size();
            ASSERT_TRUE(key("chamber_main", Qt::Key_Space)) << title().toStdString();
            ASSERT_TRUE(wait([&] { return visit().trials.size() > before; }))
                << title().toStdString() << " " << text("trouble").toStdString();
            ASSERT_TRUE(wait([&] { return done() || !visit().running(); })) << title().toStdString();
        }
        ASSERT_TRUE(done()) << title().toStdString() << " " << text("mishap").toStdString();
        ASSERT_TRUE(key("chamber_main", Qt::Key_Space));
        ASSERT_TRUE(wait([&] { return !visit().running() && window->session().live().trial == 0; }))
            << title().toStdString();
    }
    /// A visit to the tank as its log would stand after the trials; opened, its result shown.
    void tank_result(
        const records::Client& client, double height_today_cm, std::initializer_list<double> kg = {2.30, 2.32, 2.31})
    {
        long seq = 0;
        const auto event = [&](const char* kind, bench::Json body = bench::Json::object()) {
            return bench::Event{++seq, "2026-11-23T07:20:00.000Z", "M. Tanguy", kind, std::move(body)};
        };
        const auto id = store->begin_visit(client.id, "hydrostatic",
            std::vector{event("started", {{"log", 2}, {"client_id", client.id}, {"number", client.number.toStdString()},
                                             {"name", client.full_name().toStdString()}, {"birth_date", "1995-05-02"},
                                             {"sex", "female"}, {"height_cm", client.height_cm}}),
                event("stops", {{"stop", bench::Json::array()}})});
        ASSERT_TRUE(id);
        std::vector<bench::Event> rest{event("identity", {{"cm", height_today_cm}}),
            event("mass", {{"kg", 68.0}, {"source", "typed"}}),
            event("lungs", {{"route", "age_height"}, {"equation", "quanjer_1993"}}),
            event("zero", {{"kg", 7.5}, {"sd_kg", 0.004}}), event("water", {{"c", 34.0}})};
        for (double reading : kg) {
            rest.push_back(event("trial_begun"));
            rest.push_back(event("trial_taken", {{"kg", reading}, {"u_kg", 0.01}}));
        }
        for (const bench::Event& e : rest) ASSERT_FALSE(store->append(*id, e)) << e.kind;
        ASSERT_FALSE(window->session().resume(*id, "M. Tanguy"));
        window->show_result();
    }
    /// The client's sheet; where the result asks to be measured again, given out by name as a technician would.
    void give_out()
    {
        if (!visit().to_acknowledge().empty()) {
            ASSERT_TRUE(key("acknowledge", Qt::Key_A));
            ASSERT_TRUE(wait([&] { return visit().to_acknowledge().empty(); })) << text("said").toStdString();
        }
        ASSERT_TRUE(key("client_sheet", Qt::Key_P));
    }
    void begin_swing()
    {
        ASSERT_TRUE(key("trial_main", Qt::Key_Space));
        ASSERT_TRUE(wait([&] { return window->session().live().trial > 0; }));
        QTest::qWait(1000); // the client breathes out, four times faster than life
        ASSERT_TRUE(key("trial_main", Qt::Key_Space));
        ASSERT_TRUE(wait([&] { return seen_tank().let_go; }));
    }
    void take_trial()
    {
        const std::size_t before = visit().trials.size();
        begin_swing();
        ASSERT_TRUE(wait([&] { return button("trial_main") && button("trial_main")->isEnabled(); }));
        ASSERT_TRUE(key("trial_main", Qt::Key_Space));
        ASSERT_TRUE(wait([&] {
            return visit().trials.size() > before && visit().trials.back().status != bench::Trial::Status::running &&
                   window->session().live().trial == 0;
        }));
    }
};

} // namespace fusain::desk
