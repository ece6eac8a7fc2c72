// SPDX-License-Identifier: GPL-3.0-or-later
// One of two programs on one lab, for the test of both: the same session and recorder as the desk, without a window.
// It begins visits, takes up others, measures, looks at what the other one measures, leaves. Usage: two_windows FOLDER
// SEED. Prints "stored VISIT SEQ KIND" once an event is on the disk, "refused CODE TEXT", "held VISIT" when another has
// it.
#include "bench/base/fields.h"
#include "work/visit/session.h"

#include <map>
#include <QCoreApplication>
#include <QElapsedTimer>
#include <QThread>

#include <cstdio>
#include <random>

using namespace fusain;

int main(int argc, char** argv)
{
    QCoreApplication app(argc, argv);
    const QString folder = QString::fromLocal8Bit(argv[1]);
    std::mt19937 random(static_cast<unsigned>(QByteArray(argv[2]).toUInt()));
    const auto one_in = [&](unsigned n) { return random() % n == 0; };
    const auto opened = records::Store::open(folder + "/lab.fusain");
    if (!opened) {
        std::printf("refused %s %s\n", opened.messages().front().code.c_str(), opened.messages().front().text.c_str());
        return 1;
    }
    records::Store& store = **opened;
    work::Session session(*opened, {});
    bool answered = false;
    QObject::connect(&session, &work::Session::stored, [&](const bench::Event& e) {
        std::printf("stored %ld %ld %s\n", session.visit_id(), e.seq, e.kind.c_str());
        std::fflush(stdout);
        answered = true;
    });
    QObject::connect(&session, &work::Session::refused, [&](const Message& m) {
        std::printf("refused %s %s\n", m.code.c_str(), m.text.c_str());
        std::fflush(stdout);
        answered = m.code != "lab_locked"; // that is kept and tried again by itself
    });
    const auto act = [&](const char* kind, bench::Json body = bench::Json::object()) {
        answered = false;
        session.act({kind, body.dump()});
        QElapsedTimer t;
        t.start();
        while (!answered && t.elapsed() < 20000) app.processEvents(QEventLoop::AllEvents, 5);
        if (!answered) std::printf("refused never_answered %s\n", kind);
    };
    const auto next = [&] {
        const bench::Visit& v = session.visit();
        if (v.running()) {
            QThread::msleep(random() % 15); // a reading takes its time: that is when the other one comes
            return act("trial_taken", {{"kg", 2.2 + 0.0001 * (random() % 2000)}, {"u_kg", 0.004}});
        }
        static const std::map<std::string, std::pair<const char*, bench::Json>> steps = {
            {"who", {"identity", {{"cm", 171.0}}}}, {"stops", {"stops", {{"stop", bench::Json::array()}}}},
            {"mass", {"mass", {{"kg", 68.4}}}},
            {"lungs", {"lungs", {{"route", "age_height"}, {"equation", "quanjer_1993"}}}},
            {"zero", {"zero", {{"kg", 7.5}, {"sd_kg", 0.004}}}}, {"water", {"water", {{"c", 34.6}}}},
            {"trials", {"trial_begun", bench::Json::object()}}, {"result", {"remark", {{"text", "looked at"}}}}};
        const auto& [kind, body] = steps.at(v.next_step()->id);
        act(kind, body);
    };
    std::vector<records::Client> clients = store.find_clients({});
    for (;;) {
        if (!session.is_open()) {
            const auto& client = clients[random() % 4]; // few, so that the two meet
            const auto visits = store.visits_of(client.id);
            if (visits.empty() || one_in(3)) {
                if (const auto why = session.start(client, "M. Tanguy", method::hydrostatic))
                    std::printf("refused %s %s\n", why->code.c_str(), why->text.c_str());
            } else if (const auto why =
                           session.resume(visits[random() % std::min<std::size_t>(2, visits.size())].id, "M. Tanguy")) {
                std::printf("refused %s %s\n", why->code.c_str(), why->text.c_str());
            }
            // what a killed window was measuring is broken first
            while (session.is_open() && !session.held() && session.visit().running())
                app.processEvents(QEventLoop::AllEvents, 5);
        } else if (session.held()) {
            std::printf("held %ld\n", session.visit_id());
            act("mass", {{"kg", 70.0}}); // a technician who tries all the same
            static_cast<void>(session.leave());
        } else if (!session.visit().running() && one_in(12)) {
            static_cast<void>(session.leave());
        } else {
            next();
        }
        std::fflush(stdout);
        app.processEvents();
    }
}
