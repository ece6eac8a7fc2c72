// SPDX-License-Identifier: GPL-3.0-or-later
// How long the window's thread is busy with each event while a trial runs: one whole test is played in the real window
// with the virtual tank, and every event is timed: by the wall, which a person sees, and by the time the thread ran
// itself; where the two part, the machine did something else. Usage: ui_frames [--search] (needs a display, or
// QT_QPA_PLATFORM=offscreen).
#include "demo/demo_lab.h"
#include "demo/player/demo_player.h"
#include "desk/stage/stand_in_processes.h"
#include "records/people/people.h"

#include <QApplication>
#include <QElapsedTimer>
#include <QThread>
#include <QTemporaryDir>

#include <algorithm>
#include <cstdio>
#include <ctime>

using namespace fusain;
using namespace fusain::desk;

namespace {

/// What this thread has run, in ms.
double run_ms()
{
    timespec t{};
    ::clock_gettime(CLOCK_THREAD_CPUTIME_ID, &t);
    return 1e3 * static_cast<double>(t.tv_sec) + 1e-6 * static_cast<double>(t.tv_nsec);
}

struct Took {
    double wall_ms = 0, own_ms = 0;
};

class TimedApplication : public QApplication {
public:
    using QApplication::QApplication;
    bool notify(QObject* receiver, QEvent* event) override
    {
        // instruments and log have their own
        if (QThread::currentThread() != thread()) return QApplication::notify(receiver, event);
        if (depth_++ > 0 || !window || !window->session().live().trial) {
            const bool done = QApplication::notify(receiver, event);
            --depth_;
            return done;
        }
        const QByteArray name = receiver->metaObject()->className();
        const int type = event->type();
        QElapsedTimer timer;
        timer.start();
        const double before = run_ms();
        const bool done = QApplication::notify(receiver, event);
        const Took t{static_cast<double>(timer.nsecsElapsed()) / 1e6, run_ms() - before};
        --depth_;
        took.push_back(t);
        if (t.wall_ms > 16) slow.push_back({t, name + " event " + QByteArray::number(type) + where()});
        return done;
    }
    QByteArray where() const
    {
        const bench::Visit& v = window->session().visit();
        return " after event " + QByteArray::number(static_cast<qlonglong>(v.last_seq)) + ", trial " +
               QByteArray::number(static_cast<qlonglong>(v.trials.size())) + ", " + v.next_step()->title;
    }
    MainWindow* window = nullptr;
    std::vector<Took> took;
    std::vector<std::pair<Took, QByteArray>> slow;

private:
    int depth_ = 0;
};

} // namespace

int main(int argc, char** argv)
{
    look::prepare_fonts();
    TimedApplication app(argc, argv);
    QApplication::setStyle("Fusion");
    look::load_fonts();
    Theme::get().apply();
    QTemporaryDir dir;
    const auto store = records::Store::open(dir.path() + "/lab.fusain");
    set_demo_clock("08:20", 1);
    if (!store || fill_demo_lab(**store) || fill_demo_day(*store)) return 1;
    StandInProcesses room(1);
    MainWindow window(*store, room.lines());
    room.listen_to(window.session(), demo_body);
    window.show();
    app.window = &window;
    DemoPlayer player(window, QString(), "quem"); // takes no pictures
    bool worked = false;
    QObject::connect(&player, &DemoPlayer::finished, &app, [&](bool ok) {
        worked = ok;
        QApplication::quit();
    });
    const bool only_search = app.arguments().contains(QStringLiteral("--search"));
    if (!only_search) {
        QTimer::singleShot(500, &player, &DemoPlayer::play);
        QApplication::exec();
    }
    app.window = nullptr;
    const auto tell = [&](const char* what, double Took::*time) {
        std::vector<double> all;
        for (const Took& t : app.took) all.push_back(t.*time);
        std::sort(all.begin(), all.end());
        const auto at = [&](double share) {
            return all.empty() ? 0 : all[static_cast<std::size_t>(share * static_cast<double>(all.size() - 1))];
        };
        const auto over = std::count_if(all.begin(), all.end(), [](double ms) { return ms > 16; });
        std::printf("  %s: median %.2f ms, 99th percentile %.2f ms, longest %.1f ms; %ld over 16 ms\n", what, at(0.5),
            at(0.99), at(1), static_cast<long>(over));
    };
    std::printf("%s: %zu events while a trial ran\n", worked ? "played" : "NOT PLAYED", app.took.size());
    tell("by the wall", &Took::wall_ms);
    tell("the thread's own time", &Took::own_ms);
    for (const auto& [t, name] : app.slow)
        std::printf("  %.1f ms, %.1f of them its own  %s\n", t.wall_ms, t.own_ms, name.constData());
    // keys in the search of 20 000 clients, from the key to the picture
    std::vector<records::Client> many;
    for (int i = 0; i < 20000; ++i) {
        records::Client c;
        c.given_name = QStringLiteral("Given%1").arg(QChar('a' + i % 26));
        c.family_name = QStringLiteral("Family%1%2").arg(QChar('a' + i / 26 % 26)).arg(i % 97);
        c.birth_date = QStringLiteral("1990-01-%1").arg(1 + i % 28, 2, 10, QChar('0'));
        c.height_cm = 150 + i % 45;
        many.push_back(c);
    }
    if (records::import_clients(**store, many)) return 1;
    window.show_clients();
    QApplication::processEvents();
    auto* search = window.findChild<QLineEdit*>(QStringLiteral("search"));
    search->clear();
    for (const QChar letter : QStringLiteral("family given 42")) {
        QElapsedTimer timer;
        timer.start();
        search->insert(letter);
        QApplication::processEvents();
        std::printf("  key '%c' %.1f ms\n", letter.toLatin1(), static_cast<double>(timer.nsecsElapsed()) / 1e6);
    }
    return worked ? 0 : 1;
}
