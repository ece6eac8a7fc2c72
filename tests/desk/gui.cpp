// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/base/fields.h"
#include "gui.h"

#include "demo/demo_lab.h"

namespace fusain::desk {

Bench::Bench(double speed, quint64 seed, bool furnished)
{
    const QDateTime begun = QDateTime::currentDateTimeUtc();
    work::set_machine_clock([this, begun] { return begun.addMSecs(clock.now_ns() / 1'000'000); },
        [this] { return clock.now_ns() / 1'000'000; });
    work::settle_clock_jump(true); // whatever another test of this process has left
    work::set_clock(QDateTime(QDate(2026, 11, 23), QTime(8, 0), QTimeZone("Europe/Paris")));
    const auto opened = records::Store::open(dir.path() + "/lab.fusain");
    EXPECT_TRUE(opened);
    store = *opened;
    EXPECT_FALSE(store->set_setting("technician", "M. Tanguy"));
    EXPECT_FALSE(store->set_setting("lab_name", "The lab"));
    EXPECT_FALSE(store->set_setting("zone", "Europe/Paris"));
    if (furnished) {
        work::Lab lab(store);
        work::furnish(lab);
    }
    room = std::make_unique<VirtualRoom>(clock, speed, seed);
    reopen();
}

void Bench::reopen(const QStringList& lines)
{
    window.reset();
    window = std::make_unique<MainWindow>(store, lines, seams());
    room->listen_to(window->session(), demo_body);
    show_window();
}

void Bench::show_window()
{
    window->show();
    window->activateWindow();
    EXPECT_TRUE(QTest::qWaitForWindowActive(window.get()));
    pass(1000);
}

records::Client Bench::add_client(const QString& given, const QString& family)
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

bool Bench::wait(const std::function<bool()>& condition, int ms)
{
    return clock.wait(condition, ms, [this] { return window && window->session().has_unwritten(); });
}

void Bench::pass(int ms)
{
    const qint64 until = clock.now_ns() + qint64(ms) * 1'000'000;
    EXPECT_TRUE(wait([&] { return clock.now_ns() >= until; }, 2 * ms + 1000));
}

QAbstractButton* Bench::button(const QString& name)
{
    for (auto* b : window->findChildren<QAbstractButton*>(name))
        if (b->isVisible()) return b;
    return nullptr;
}

::testing::AssertionResult Bench::key(const QString& name, int k, Qt::KeyboardModifiers modifiers)
{
    if (!wait([&] { return button(name) && button(name)->isEnabled(); }))
        return ::testing::AssertionFailure()
               << name.toStdString() << " never came; the screen says \"" << title().toStdString() << "\"";
    QTest::keyClick(window->focusWidget() ? window->focusWidget() : window.get(), static_cast<Qt::Key>(k), modifiers);
    QCoreApplication::processEvents();
    return ::testing::AssertionSuccess();
}

QLineEdit* Bench::field(const QString& name)
{
    for (auto* e : window->findChildren<QLineEdit*>(name))
        if (e->isVisible()) return e;
    ADD_FAILURE() << "no field " << name.toStdString();
    static QLineEdit none;
    return &none;
}

void Bench::type(const QString& name, const QString& text)
{
    QLineEdit* e = field(name);
    e->setFocus();
    e->selectAll();
    QTest::keyClicks(e, text);
}

QString Bench::text(const QString& label)
{
    for (auto* l : window->findChildren<QLabel*>(label))
        if (l->isVisible()) return l->text();
    return {};
}

void Bench::shot(const char* name)
{
    if (!qEnvironmentVariableIsSet("FUSAIN_SHOTS")) return;
    QCoreApplication::processEvents();
    window->grab().save(
        QStringLiteral("%1/%2.png").arg(qEnvironmentVariable("FUSAIN_SHOTS"), QString::fromLatin1(name)));
}

bool Bench::shows(const QString& words)
{
    for (auto* l : window->findChildren<QLabel*>())
        if (l->isVisible() && l->text().contains(words)) return true;
    return false;
}

void Bench::answer(const std::map<QString, QString>& otherwise)
{
    if (button("ask_singly")) ASSERT_TRUE(key("ask_singly", Qt::Key_1));
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

void Bench::screen(const std::map<QString, QString>& otherwise)
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

void Bench::to_beam()
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

void Bench::to_lines()
{
    ASSERT_TRUE(key("scan_main", Qt::Key_Space)) << title().toStdString();
    ASSERT_TRUE(wait([&] { return seen_table().complete; }, 60000))
        << title().toStdString() << " " << visit().trials.back().reason;
    ASSERT_TRUE(key("scan_main", Qt::Key_Space)) << text("found").toStdString();
    ASSERT_TRUE(wait([&] { return xray().standing(visit()); })) << title().toStdString();
    ASSERT_TRUE(wait([&] { return !text("string").isEmpty(); })) << title().toStdString();
}

void Bench::to_bench(bool in_chamber, bool on_analyser)
{
    // a lab with one instrument has one key, and that is the first
    const bool several = wait([&] { return button("start_visit") != nullptr; }) && button("start_chamber");
    if (on_analyser && several)
        ASSERT_TRUE(key("start_analyser", Qt::Key_Return, Qt::ControlModifier | Qt::ShiftModifier));
    else if (in_chamber && several)
        ASSERT_TRUE(key("start_chamber", Qt::Key_Return, Qt::AltModifier));
    else
        ASSERT_TRUE(key("start_visit", Qt::Key_Return, Qt::ControlModifier));
    ASSERT_NO_FATAL_FAILURE(screen());
    ASSERT_TRUE(key("screening_keep", Qt::Key_Return));
    ASSERT_TRUE(key("screening_start", Qt::Key_Return));
    ASSERT_TRUE(wait([&] { return visit().stops_asked; }));
}

void Bench::to_trials()
{
    ASSERT_NO_FATAL_FAILURE(to_bench());
    ASSERT_NO_FATAL_FAILURE(through_to_trials());
}

void Bench::through_to_trials()
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

void Bench::to_current()
{
    ASSERT_NO_FATAL_FAILURE(to_bench(false, true));
    ASSERT_NO_FATAL_FAILURE(through_to_current());
}

void Bench::through_to_current()
{
    ASSERT_TRUE(key("confirm_who", Qt::Key_Return));
    ASSERT_TRUE(key("take_mass", Qt::Key_Space)) << title().toStdString();
    ASSERT_TRUE(key("prepare_all", Qt::Key_Space));
    ASSERT_TRUE(key("prepared", Qt::Key_Return));
    ASSERT_TRUE(wait([&] { return visit().next_step() == bench::step::spectrum; })) << title().toStdString();
    ASSERT_TRUE(wait([&] { return seen_analyser().hands; })) << title().toStdString();
}

void Bench::sweep()
{
    const std::size_t before = visit().trials.size();
    ASSERT_TRUE(key("spectrum_main", Qt::Key_Space)) << title().toStdString();
    ASSERT_TRUE(wait([&] { return visit().trials.size() > before && seen_analyser().complete; }, 40000))
        << title().toStdString();
    ASSERT_TRUE(key("spectrum_main", Qt::Key_Space)) << title().toStdString();
    ASSERT_TRUE(wait([&] { return !visit().running() && window->session().live().trial == 0; }))
        << title().toStdString();
}

void Bench::to_runs()
{
    ASSERT_NO_FATAL_FAILURE(to_bench(true));
    ASSERT_NO_FATAL_FAILURE(through_to_runs());
}

void Bench::through_to_runs()
{
    ASSERT_TRUE(key("confirm_who", Qt::Key_Return));
    ASSERT_TRUE(key("take_mass", Qt::Key_Space)) << title().toStdString();
    ASSERT_NO_FATAL_FAILURE(to_calibrate());
    ASSERT_NO_FATAL_FAILURE(calibrate());
    ASSERT_TRUE(wait([&] { return visit().next_step() == bench::step::runs; })) << title().toStdString();
}

void Bench::to_calibrate()
{
    ASSERT_TRUE(key("prepare_all", Qt::Key_Space));
    ASSERT_TRUE(key("prepared", Qt::Key_Return));
    ASSERT_TRUE(wait([&] { return visit().next_step() == bench::step::calibrate; }));
}

void Bench::calibrate()
{
    for (int i = 0; i < 2; ++i) ASSERT_NO_FATAL_FAILURE(record());
}

void Bench::record()
{
    const std::size_t before = visit().trials.size();
    ASSERT_TRUE(key("chamber_main", Qt::Key_Space)) << title().toStdString();
    ASSERT_TRUE(wait([&] { return visit().trials.size() > before; }))
        << title().toStdString() << " " << text("trouble").toStdString();
    ASSERT_TRUE(wait([&] {
        return button("chamber_main") && button("chamber_main")->isEnabled() && seen_chamber().complete;
    })) << title().toStdString()
        << " " << text("mishap").toStdString();
    ASSERT_TRUE(key("chamber_main", Qt::Key_Space));
    ASSERT_TRUE(wait([&] { return !visit().running() && window->session().live().trial == 0; }))
        << title().toStdString();
}

void Bench::tank_result(const records::Client& client, double height_today_cm, std::initializer_list<double> kg)
{
    long seq = 0;
    const auto event = [&](const char* kind, bench::Json body = bench::Json::object()) {
        return bench::Event{++seq, "2026-11-23T07:20:00.000Z", "M. Tanguy", kind, body.dump()};
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

void Bench::give_out()
{
    if (!visit().to_acknowledge().empty()) {
        ASSERT_TRUE(key("acknowledge", Qt::Key_A));
        ASSERT_TRUE(wait([&] { return visit().to_acknowledge().empty(); })) << text("said").toStdString();
    }
    ASSERT_TRUE(key("client_sheet", Qt::Key_P));
}

void Bench::begin_swing()
{
    ASSERT_TRUE(key("trial_main", Qt::Key_Space));
    ASSERT_TRUE(wait([&] { return window->session().live().trial > 0; }));
    pass(1000); // the client breathes out, four times faster than life
    ASSERT_TRUE(key("trial_main", Qt::Key_Space));
    ASSERT_TRUE(wait([&] { return seen_tank().let_go; }));
}

void Bench::take_trial()
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

} // namespace fusain::desk
