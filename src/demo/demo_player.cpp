// SPDX-License-Identifier: GPL-3.0-or-later
#include "demo/demo_player.h"

#include "bench/analyser/analyser_take.h"
#include "bench/chamber/chamber_take.h"
#include "bench/tank/tank_take.h"
#include "bench/xray/xray_take.h"

#include "report/sheets/letters.h"

#include <QApplication>
#include <QComboBox>
#include <QDir>
#include <QFile>
#include <QListWidget>
#include <QTextStream>

namespace fusain::desk {
namespace {
constexpr int step_ms = 120, standstill_steps = 3 * 60 * 1000 / step_ms;
}

DemoPlayer::DemoPlayer(MainWindow& window, const QString& out_folder, const QString& client, QObject* parent)
    : QObject(parent), window_(window), out_(out_folder), client_(client)
{
    if (!out_.isEmpty()) QDir().mkpath(out_);
    connect(&timer_, &QTimer::timeout, this, &DemoPlayer::step);
    connect(&window_.session(), &work::Session::live_changed, this, [this] { ++tells_; });
}

QAbstractButton* DemoPlayer::button(const QString& name) const
{
    for (QAbstractButton* b : window_.findChildren<QAbstractButton*>(name))
        if (b->isVisible()) return b;
    return nullptr;
}

bool DemoPlayer::can_press(const QString& name) const
{
    const QAbstractButton* b = button(name);
    return b && b->isEnabled();
}

void DemoPlayer::press(const QString& name)
{
    if (QAbstractButton* b = button(name)) b->click();
}

void DemoPlayer::add(const QString& name, std::function<bool()> ready, std::function<void()> act)
{
    moves_.push_back({name, std::move(ready), std::move(act)});
}

void DemoPlayer::add_press(const QString& name)
{
    add(
        QStringLiteral("press ") + name, [this, name] { return can_press(name); }, [this, name] { press(name); });
}

void DemoPlayer::add_start(const QString& place)
{
    const auto key = [this, place]() -> QAbstractButton* {
        for (QAbstractButton* b : window_.findChildren<QAbstractButton*>())
            if (b->isVisible() && b->isEnabled() && b->property("place").toString() == place) return b;
        return nullptr;
    };
    add(
        QStringLiteral("begin: ") + place, [key] { return key() != nullptr; }, [key] { key()->click(); });
}

void DemoPlayer::watch(const QString& name, int tells, std::function<void()> act)
{
    const auto since = std::make_shared<long>(-1);
    add(
        name,
        [this, since, tells] {
            if (*since < 0) *since = tells_;
            return tells_ - *since >= tells;
        },
        std::move(act));
}

QString DemoPlayer::progress() const
{
    const bench::Live& live = window_.session().live();
    return QStringLiteral("%1 %2 %3 %4 %5 %6")
        .arg(window_.session().visit().last_seq)
        .arg(live.trial)
        .arg(bench::xray_shown(live).rows_seen)
        .arg(bench::analyser_shown(live).state.seconds)
        .arg(bench::chamber_shown(live).state.now_s)
        .arg(bench::tank_shown(live).trace.size());
}

void DemoPlayer::give_out()
{
    const auto open = [this] { return !window_.session().visit().to_acknowledge().empty(); };
    add(
        QStringLiteral("asked to measure again?"), [this] { return can_press(QStringLiteral("client_sheet")); },
        [this, open] {
            if (open()) press(QStringLiteral("acknowledge"));
        });
    add(
        QStringLiteral("nothing left to acknowledge"), [open] { return !open(); }, [] {});
    add_press(QStringLiteral("client_sheet"));
}

void DemoPlayer::picture(const QString& name)
{
    if (out_.isEmpty()) return;
    for (int i = 0; i < 3; ++i) QCoreApplication::sendPostedEvents(nullptr, QEvent::LayoutRequest); // as it is painted
    window_.grab().save(QStringLiteral("%1/%2.png").arg(out_, name));
    const auto done = static_cast<qint64>(at_), all = static_cast<qint64>(moves_.size());
    QTextStream out(stdout);
    out << "demo: " << 100 * done / std::max<qint64>(1, all) << " %";
    if (done > all / 10)
        out << ", about " << (begun_.elapsed() * (all - done) / done + 59'999) / 60'000 << " min to go";
    out << "  " << name << Qt::endl;
}

void DemoPlayer::shot_when(const char* name, std::function<bool()> ready)
{
    add(QStringLiteral("picture %1").arg(QString::fromLatin1(name)), std::move(ready),
        [this, name] { picture(QString::fromLatin1(name)); });
}

void DemoPlayer::play()
{
    play_day();
    play_clients();
    play_chamber();
    play_tank();
    play_analyser();
    play_printout();
    play_xray();
    play_course();
    begun_.start();
    timer_.start(step_ms);
}

void DemoPlayer::shot(const char* name)
{
    add(
        QStringLiteral("picture %1").arg(QString::fromLatin1(name)), [] { return true; },
        [this, name] { picture(QString::fromLatin1(name)); });
}

void DemoPlayer::press_room(const char* name) { add_press(QStringLiteral("room_") + QString::fromLatin1(name)); }

void DemoPlayer::pick_row(const char* list, int row)
{
    add(
        QStringLiteral("row %1 of %2").arg(row).arg(QString::fromLatin1(list)), [] { return true; },
        [this, list, row] {
            if (auto* l = window_.findChild<QListWidget*>(QString::fromLatin1(list))) l->setCurrentRow(row);
        });
}

void DemoPlayer::play_day()
{
    shot("day");
    add_press(QStringLiteral("day_move"));
    for (int i = 0; i < 3; ++i) add_press(QStringLiteral("move_later"));
    shot("day-move");
    add_press(QStringLiteral("move_leave"));
    add_press(QStringLiteral("day_send"));
    add(
        QStringLiteral("keep a preparation sheet"), [] { return true; },
        [this] {
            const QDir outbox(report::outbox(window_.lab()));
            QStringList all = outbox.entryList({QStringLiteral("*.pdf")}, QDir::Files, QDir::Size | QDir::Reversed);
            for (const QString& name : all)
                if (name.startsWith(QStringLiteral("105-"))) all.prepend(name); // three methods on one morning
            if (!all.isEmpty())
                QFile::copy(outbox.filePath(all.front()), out_ + QStringLiteral("/preparation-sheet.pdf"));
        });
    add_press(QStringLiteral("day_book"));
    add(
        QStringLiteral("whom to book"), [] { return true; },
        [this] { window_.findChild<QLineEdit*>(QStringLiteral("book_search"))->setText(QStringLiteral("riou")); });
    for (const char* m : {"method_impedance", "method_air_displacement", "method_hydrostatic"})
        add_press(QString::fromLatin1(m));
    shot("booking");
    add(
        QStringLiteral("back to the day"), [] { return true; },
        [this] {
            window_.show_day();
            window_.show_clients();
        });
    press_room("instruments");
    pick_row("instruments", 0);
    shot("instruments");
    add_press(QStringLiteral("begin_check"));
    add_press(QStringLiteral("check_main"));
    for (int i = 0; i < 3; ++i) {
        add_press(QStringLiteral("check_main"));
        if (i == 1)
            add(
                QStringLiteral("picture of a check"), [this] { return can_press(QStringLiteral("check_main")); },
                [this] { picture(QStringLiteral("check")); });
    }
    add(
        QStringLiteral("the check is done"), [this] { return button(QStringLiteral("check_repeat")) != nullptr; },
        [this] { picture(QStringLiteral("check-done")); });
    add_press(QStringLiteral("check_main"));
    add_press(QStringLiteral("lab_hours"));
    shot("hours");
    add_press(QStringLiteral("add_instrument"));
    shot("instrument-form");
    press_room("rules");
    shot("rules");
    add_press(QStringLiteral("rules_impedance"));
    shot("protocol");
}

void DemoPlayer::play_clients()
{
    press_room("clients");
    add(
        QStringLiteral("type part of a name"), [] { return true; },
        [this] { window_.findChild<QLineEdit*>(QStringLiteral("search"))->setText(client_); });
    shot("clients");
    add_press(QStringLiteral("more"));
    add_press(QStringLiteral("erase_client"));
    shot("client-more");
    add_press(QStringLiteral("more"));
    add_press(QStringLiteral("add_client"));
    add(
        QStringLiteral("a double"), [] { return true; },
        [this] {
            for (const auto& [field, words] : {std::pair{"given_name", "alienor"}, std::pair{"family_name", "Quemener"},
                     std::pair{"birth_date", "1995-05-02"}}) {
                auto* e = window_.findChild<QLineEdit*>(QString::fromLatin1(field));
                e->setText(QString::fromLatin1(words));
                emit e->editingFinished();
            }
        });
    shot("client-form");
    add(
        QStringLiteral("back to the list"), [] { return true; },
        [this] {
            window_.show_clients();
            if (auto* search = window_.findChild<QLineEdit*>(QStringLiteral("search")))
                emit search->textChanged(search->text());
        });
    add_press(QStringLiteral("import_list"));
    add(
        QStringLiteral("a list to import"), [] { return true; },
        [this] {
            QFile list(out_ + QStringLiteral("/list.csv"));
            if (!list.open(QIODevice::WriteOnly)) return;
            list.write(
                "Vorname;Nachname;Geburtsdatum;Geschlecht;Gr\xF6sse;Telefon\nKatell;Le Bris;30.12.1998;w;173;0151 "
                "21\nMalo;Stephan;27.05.1989;m;1,72;\nYuna;Floch;05.10.2003;x;166;\nGwenn;Riou;08.03.1992;w;168;\n");
            list.close();
            window_.findChild<ImportPage*>()->read(list.fileName());
        });
    add(
        QStringLiteral("picture of the import"), [this] { return can_press(QStringLiteral("import_now")); },
        [this] { picture(QStringLiteral("import")); });
    add_press(QStringLiteral("import_leave"));
}

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
        QStringLiteral("on to the tank"), [&v] { return v.method == protocol::Method::hydrostatic; }, [] {});
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

void DemoPlayer::answer_screening(bool with_pictures)
{
    int* asked = new int(0);
    add(
        QStringLiteral("answer the screening"),
        [this, asked, with_pictures] {
            if (can_press(QStringLiteral("screening_keep"))) return true;
            if (can_press(QStringLiteral("answer_still"))) {
                press(QStringLiteral("answer_still"));
                return false;
            }
            if (can_press(QStringLiteral("ask_singly"))) {
                if (with_pictures) picture(QStringLiteral("screening-page"));
                press(QStringLiteral("ask_singly"));
                return false;
            }
            const auto* title = window_.findChild<QLabel*>(QStringLiteral("screening_title"));
            if (++*asked == 12 && with_pictures) picture(QStringLiteral("screening"));
            if (can_press(QStringLiteral("answer_never")) && !title->text().contains(QStringLiteral("scans"))) {
                if (with_pictures && title->text().contains(QStringLiteral("food"))) {
                    window_.findChild<QLineEdit*>(QStringLiteral("screening_typed"))
                        ->setText(QStringLiteral("80 min ago"));
                    picture(QStringLiteral("screening-clock"));
                    press(QStringLiteral("answer_take"));
                } else {
                    press(QStringLiteral("answer_never"));
                }
            } else if (title->text().contains(QStringLiteral("scans")) && can_press(QStringLiteral("answer_take"))) {
                window_.findChild<QLineEdit*>(QStringLiteral("screening_typed"))->setText(QStringLiteral("1"));
                press(QStringLiteral("answer_take"));
            } else if (can_press(QStringLiteral("answer_no"))) {
                press(title->text().contains(QStringLiteral("Bladder")) ||
                              title->text().contains(QStringLiteral("somebody stay"))
                          ? QStringLiteral("answer_yes")
                          : QStringLiteral("answer_no"));
            }
            return false;
        },
        [this, with_pictures] {
            if (with_pictures) picture(QStringLiteral("screening-verdict"));
        });
}

/// The same client on the analyser: a heel that hardly touches, put right, then a minute of standing still.
void DemoPlayer::play_analyser()
{
    const auto& v = window_.session().visit();
    const auto& live = window_.session().live();
    const auto shot_when = [this](const char* name, std::function<bool()> ready) {
        add(QStringLiteral("picture %1").arg(QString::fromLatin1(name)), std::move(ready),
            [this, name] { picture(QString::fromLatin1(name)); });
    };
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

void DemoPlayer::keep_sheets(const QString& prefix)
{
    const QDir sheets(QFileInfo(window_.session().store().file()).absolutePath() + QStringLiteral("/sheets"));
    for (const QString& kind : {QStringLiteral("client"), QStringLiteral("lab")})
        for (const QString& name :
            sheets.entryList({QStringLiteral("visit%1-*-%2.pdf").arg(window_.session().visit_id()).arg(kind)})) {
            const QString kept = QStringLiteral("%1/%2%3-sheet.pdf").arg(out_, prefix, kind);
            QFile::remove(kept);
            QFile::copy(sheets.filePath(name), kept);
        }
}

void DemoPlayer::step()
{
    if (at_ == moves_.size()) {
        timer_.stop();
        emit finished(true);
        return;
    }
    const Move& move = moves_[at_];
    const QString now = progress();
    still_ = now == before_ ? still_ + 1 : 0; // in steps, of which a computer that stands still makes none
    before_ = now;
    if (move.ready()) {
        QTextStream(stdout) << "  " << move.name << "\n" << Qt::flush;
        move.act();
        ++at_;
        still_ = 0;
    } else if (still_ > standstill_steps) {
        timer_.stop();
        QTextStream(stdout) << "gave up: nothing has come for three minutes, waiting for \"" << move.name << "\"\n"
                            << Qt::flush;
        picture(QStringLiteral("gave-up"));
        emit finished(false);
    }
}

} // namespace fusain::desk
