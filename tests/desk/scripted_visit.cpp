// SPDX-License-Identifier: GPL-3.0-or-later
// A scripted visit without a window, for the kill test: the same session, recorder, link and stand-in as the desk.
// Prints "stored SEQ KIND" once an event is on the disk, "signal TRIAL SECONDS MACHINE_MS" as the trace grows, "lags"
// when the program says that the disk does. Without a folder it has one of its own: so it runs under the thread
// sanitizer.
#include "bench/base/fields.h"
#include "bench/tank/tank_take.h"
#include "desk/stage/stand_ins.h"
#include "records/base/text.h"
#include "work/lab/lab.h"
#include "work/visit/session.h"

#include <QCoreApplication>
#include <QElapsedTimer>
#include <QFile>
#include <QLocalSocket>
#include <QTemporaryDir>
#include <QThread>

#include <cstdio>
#include <spawn.h>
#include <unistd.h>

using namespace fusain;
using namespace fusain::desk;

/// What the thread sanitizer may overlook: how Qt hands over its events (their list as it grows, too), wakes a thread
/// and ends one, in libraries that are as they ship.
extern "C" const char* __tsan_default_suppressions()
{
    return "race:QCoreApplicationPrivate::sendPostedEvents\nrace:QWaitCondition::~QWaitCondition\n"
           "race:libglib-2.0.so\nrace:QArrayData::reallocateUnaligned\n";
}

namespace {

/// A virtual tank, started without QProcess: after that the thread sanitizer sees no lock of this thread any more.
class Tank : public StandIns {
public:
    Tank()
    {
        const QString line = folder_.path() + "/tank", control = line + "-control";
        const std::string words[] = {(QCoreApplication::applicationDirPath() + "/fusain-virtual").toStdString(), "tank",
            "--line", line.toStdString(), "--control", control.toStdString(), "--speed", "8", "--seed", "3", "--parent",
            std::to_string(::getpid())};
        std::vector<char*> argv;
        for (const std::string& word : words) argv.push_back(const_cast<char*>(word.c_str()));
        argv.push_back(nullptr);
        pid_t pid = 0;
        if (::posix_spawn(&pid, argv[0], nullptr, nullptr, argv.data(), environ) != 0) return;
        while (!QFile::exists(line) || control_.state() != QLocalSocket::ConnectedState) {
            QThread::msleep(5);
            control_.connectToServer(control);
            control_.waitForConnected(100);
        }
        lines_ << line;
    }
    void direct(const QString& words) override
    {
        control_.write(words.toUtf8() + '\n');
        control_.flush();
    }
    void ask(const QString&, const QString& words) override { direct(words); }

private:
    QTemporaryDir folder_;
    QLocalSocket control_;
};

/// The last act of a visit that was measured before. Says when it begins, and when it is stored.
int end(const QString& folder, long visit)
{
    const auto store = records::Store::open(folder + "/lab.fusain");
    if (!store) return 1;
    work::Session session(*store, {});
    if (session.resume(visit, "M. Tanguy")) return 1;
    work::set_clock(QDateTime::fromString(q(session.visit().started_at), Qt::ISODateWithMs)); // on its own day
    QObject::connect(&session, &work::Session::refused, [](const Message& why) {
        std::fprintf(stderr, "%s\n", why.text.c_str());
        QCoreApplication::exit(2);
    });
    std::printf("ending\n");
    std::fflush(stdout);
    session.finish([] {
        std::printf("ended\n");
        std::fflush(stdout);
        QCoreApplication::exit(0);
    });
    return QCoreApplication::exec();
}

} // namespace

/// FOLDER: a whole visit is measured in it. FOLDER VISIT: this visit, which has a result, is finished.
int main(int argc, char** argv)
{
    QCoreApplication app(argc, argv);
    if (argc > 2) return end(QString::fromLocal8Bit(argv[1]), std::atol(argv[2]));
    const QTemporaryDir own;
    const QString folder = argc > 1 ? QString::fromLocal8Bit(argv[1]) : own.path();
    const auto opened = records::Store::open(folder + "/lab.fusain");
    if (!opened) return 1;
    records::Client c;
    c.given_name = "Scripted";
    c.family_name = "Visit";
    c.birth_date = "1995-05-02";
    c.height_cm = 171;
    const auto client = (*opened)->save(c);
    if (!client) return 1;
    Tank room;
    if (room.lines().isEmpty()) return 1;
    work::Session session(*opened, room.lines());
    room.listen_to(session);
    QObject::connect(&session, &work::Session::stored, [](const bench::Event& e) {
        std::printf("stored %ld %s\n", e.seq, e.kind.c_str());
        std::fflush(stdout);
    });
    QObject::connect(&session, &work::Session::disk_lags, [](const QString& words) {
        if (words.isEmpty()) return;
        std::printf("lags\n");
        std::fflush(stdout);
    });
    QElapsedTimer since, waiting;
    int stage = 0;
    bool asked = false;
    const auto once = [&](auto act) {
        if (asked) return;
        asked = true;
        waiting.start();
        act();
    };
    // An instrument that was stopped with everything else in the middle of a breath may have told nothing of it.
    const auto unheard = [&] { return waiting.isValid() && waiting.elapsed() > 15'000; };
    long seen = -1;
    QObject::connect(&session, &work::Session::live_changed, [&] {
        const bench::Live& l = session.live();
        const bench::TankShown& tank = bench::tank_shown(l);
        const bench::Visit& v = session.visit();
        if (!l.connected) return;
        if (v.last_seq != seen) {
            seen = v.last_seq;
            asked = false;
        }
        if (tank.let_go && !tank.trace.empty()) {
            std::printf("signal %d %.3f %lld\n", l.trial, tank.trace.back().t_s,
                static_cast<long long>(session.clock().now_ns() / 1'000'000));
            std::fflush(stdout);
        }
        const std::string step = v.next_step()->id;
        if (step == "who") return once([&] { session.act(bench::event::Identity{171.0}); });
        if (step == "stops")
            return once([&] {
                session.act(bench::event::Stops{});
                session.say("stand");
            });
        if (step == "mass") {
            if (l.scale_stable)
                once([&] { session.act(bench::event::Mass{*l.scale_kg}); });
            else if (unheard()) {
                waiting.start();
                session.say("stand");
            }
            return;
        }
        if (step == "lungs") {
            if (unheard()) asked = false;
            if (bench::tank_of(v).blows_kept() < 3)
                once([&] { session.say("blow"); });
            else if (l.gas_temp_c && l.barometric_mmhg)
                once([&] {
                    session.act(bench::event::Lungs{
                        hydrostatic::LungRoute::vital_capacity, "quanjer_1993", l.gas_temp_c, l.barometric_mmhg, {}});
                });
            return;
        }
        if (step == "zero") {
            if (tank.steady)
                once([&] {
                    session.act(bench::event::Zero{tank.mean_kg, tank.sd_kg});
                    session.say("belt_off");
                    session.set_lines({}); // they stay as they are, and a recording goes on
                });
            return;
        }
        if (step == "water") {
            if (l.water_temp_c) once([&] { session.act(bench::event::Water{*l.water_temp_c}); });
            return;
        }
        if (v.readings().size() >= 4) {
            if (!v.finished)
                once([&] { session.act(bench::event::Finished{}); });
            else
                app.quit();
            return;
        }
        if (!l.trial && (v.trials.empty() || v.trials.back().status != bench::Trial::Status::running))
            once([&] {
                session.begin(bench::take::weighing);
                stage = 1;
                since.start();
            });
        else if (l.trial && !tank.let_go && stage == 1 && since.elapsed() > 500) {
            session.mark();
            stage = 2;
        } else if (tank.let_go && tank.swing.reading && stage == 2) {
            stage = 3;
            session.take();
        } else if (tank.let_go && tank.swing.now_s > 12 && stage == 2) {
            stage = 3;
            session.throw_out(l.trial, "never calm");
        }
    });
    if (session.start(*client, "M. Tanguy", method::hydrostatic)) return 1;
    return app.exec();
}
