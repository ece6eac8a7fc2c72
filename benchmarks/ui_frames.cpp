// SPDX-License-Identifier: GPL-3.0-or-later
// How long the window's thread is busy with each event while a trial runs: one whole test is played in the real window with
// the virtual tank, and every event is timed. Usage: ui_frames (needs a display, or QT_QPA_PLATFORM=offscreen).
#include "desk/demo_lab.h"
#include "desk/demo_player.h"
#include "desk/demo_room.h"

#include <QApplication>
#include <QElapsedTimer>
#include <QThread>
#include <QTemporaryDir>

#include <algorithm>
#include <cstdio>

using namespace fusain;
using namespace fusain::desk;

namespace {

class TimedApplication : public QApplication {
public:
    using QApplication::QApplication;
    bool notify(QObject* receiver, QEvent* event) override
    {
        if (QThread::currentThread() != thread()) return QApplication::notify(receiver, event); // instruments and log have their own
        if (depth_++ > 0 || !window || !window->session().live().trial) {
            const bool done = QApplication::notify(receiver, event);
            --depth_;
            return done;
        }
        const QByteArray name = receiver->metaObject()->className();
        const int type = event->type();
        QElapsedTimer timer;
        timer.start();
        const bool done = QApplication::notify(receiver, event);
        const double ms = static_cast<double>(timer.nsecsElapsed()) / 1e6;
        --depth_;
        took.push_back(ms);
        if (ms > 16) slow.push_back({ms, name + " event " + QByteArray::number(type)});
        return done;
    }
    MainWindow* window = nullptr;
    std::vector<double> took;
    std::vector<std::pair<double, QByteArray>> slow;

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
    set_demo_clock("08:20");
    if (!store || fill_demo_lab(**store) || fill_demo_day(*store)) return 1;
    DemoRoom room(1);
    MainWindow window(*store, room.lines());
    room.listen_to(window.session());
    window.show();
    app.window = &window;
    DemoPlayer player(window, QString(), "quem"); // takes no pictures
    bool worked = false;
    QObject::connect(&player, &DemoPlayer::finished, &app, [&](bool ok) {
        worked = ok;
        QApplication::quit();
    });
    QTimer::singleShot(500, &player, &DemoPlayer::play);
    QApplication::exec();
    app.window = nullptr;
    std::sort(app.took.begin(), app.took.end());
    const auto at = [&](double share) { return app.took.empty() ? 0 : app.took[static_cast<std::size_t>(share * static_cast<double>(app.took.size() - 1))]; };
    std::printf("%s: %zu events while a trial ran; median %.2f ms, 99th percentile %.2f ms; %zu over 16 ms\n", worked ? "played" : "NOT PLAYED", app.took.size(), at(0.5), at(0.99), app.slow.size());
    for (const auto& [ms, name] : app.slow) std::printf("  %.1f ms  %s\n", ms, name.constData());
    return worked ? 0 : 1;
}
