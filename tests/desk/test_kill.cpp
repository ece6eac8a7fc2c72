// SPDX-License-Identifier: GPL-3.0-or-later
// kill -9 at random moments of a scripted visit: nothing that was accepted is lost, the log replays, at most the last
// second of a running signal is missing.
#include "../work/at_the_end.h"
#include "records/store/store.h"

#include <gtest/gtest.h>

#include <QElapsedTimer>
#include <QProcess>
#include <QSqlQuery>
#include <QTemporaryDir>
#include <QThread>

#include <algorithm>
#include <csignal>
#include <map>
#include <memory>
#include <random>
#include <thread>

using namespace fusain;

TEST(Kill, SixtyRandomMoments)
{
    constexpr int kills = 60, at_once = 3; // they mostly wait
    struct Doomed {
        QTemporaryDir dir;
        QProcess visit;
        QElapsedTimer since;
        std::chrono::milliseconds moment{};
    };
    std::mt19937 random(20261123);
    std::vector<std::unique_ptr<Doomed>> running;
    int finished = 0, in_trial = 0, events_checked = 0, begun = 0, said = 0;
    qint64 worst_ms = 0;
    for (int i = 0; i < kills; ++i) {
        for (; begun < kills && running.size() < at_once; ++begun) {
            auto& next = running.emplace_back(std::make_unique<Doomed>());
            auto environment = QProcessEnvironment::systemEnvironment();
            environment.insert("TMPDIR", next->dir.path()); // what it leaves behind when it is killed goes with this
            next->visit.setProcessEnvironment(environment);
            next->visit.start(QStringLiteral(TEST_BIN_DIR "/scripted_visit"), {next->dir.path()});
            ASSERT_TRUE(next->visit.waitForStarted());
            next->since.start();
            next->moment = std::chrono::milliseconds(200 + random() % 4900);
        }
        const auto first = std::min_element(running.begin(), running.end(), [](const auto& a, const auto& b) {
            return a->moment.count() - a->since.elapsed() < b->moment.count() - b->since.elapsed();
        });
        const std::unique_ptr<Doomed> now = std::move(*first);
        running.erase(first);
        QProcess& visit = now->visit;
        const QTemporaryDir& dir = now->dir;
        const auto moment = now->moment;
        if (visit.state() == QProcess::NotRunning ||
            visit.waitForFinished(static_cast<int>(std::max<qint64>(1, moment.count() - now->since.elapsed()))))
            ++finished;
        else
            ::kill(static_cast<pid_t>(visit.processId()), SIGKILL);
        visit.waitForFinished();

        long last_stored = 0;
        int trial = 0;
        bool lags = false;
        std::vector<std::pair<double, qint64>> seen; // of the last trial: seconds of its signal, and the machine's time
        for (const QByteArray& line : visit.readAllStandardOutput().split('\n')) {
            const auto words = line.split(' ');
            if (words.size() >= 3 && words[0] == "stored") last_stored = std::max(last_stored, words[1].toLong());
            if (words.size() == 4 && words[0] == "signal") {
                if (words[1].toInt() != trial) seen.clear();
                trial = words[1].toInt();
                seen.emplace_back(words[2].toDouble(), words[3].toLongLong());
            }
            lags = lags || words[0] == "lags";
        }
        const auto store = records::Store::open(dir.path() + "/lab.fusain");
        ASSERT_TRUE(store) << store.messages().front().text;
        const auto found = (*store)->find_clients("scripted");
        if (found.empty()) {
            EXPECT_EQ(last_stored, 0);
            continue;
        }
        const auto visits = (*store)->visits_of(found[0].id);
        if (visits.empty()) {
            EXPECT_EQ(last_stored, 0);
            continue;
        }
        const auto replayed = (*store)->replay(visits[0].id);
        ASSERT_TRUE(replayed) << "kill " << i << " after " << moment.count()
                              << " ms: " << replayed.messages().front().text;
        EXPECT_GE(replayed->last_seq, last_stored) << "kill " << i << ": an accepted event is lost";
        events_checked += static_cast<int>(last_stored);
        if (trial > 0) {
            ++in_trial;
            const auto kept = (*store)->signal(visits[0].id, trial);
            const double kept_s = kept->last_s();
            // The second that may be lost is the machine's (the stand-in runs eight times faster than life): from the
            // first moment that is not on the disk to the last that was seen. Where the disk is slower, the program
            // has said so.
            const auto first_lost =
                std::find_if(seen.begin(), seen.end(), [&](const auto& at) { return at.first > kept_s; });
            const qint64 lost_ms = first_lost == seen.end() ? 0 : seen.back().second - first_lost->second;
            said += lags;
            worst_ms = std::max(worst_ms, lags ? 0 : lost_ms);
            EXPECT_TRUE(lost_ms <= 1000 || lags) << "kill " << i << " trial " << trial << ": " << lost_ms << " ms lost";
        }
    }
    std::printf("%d kills, %d of them after a trial had begun, %d visits had finished before, %d accepted events all "
                "found again; of a signal at most %lld ms lost; %d times the disk lagged and it was said\n",
        kills, in_trial, finished, events_checked, static_cast<long long>(worst_ms), said);
    EXPECT_GT(in_trial, 10);
    EXPECT_LT(finished, kills / 2);
}

TEST(Kill, AtTheEndOfAVisitAllOfItIsThereOrNothing)
{
    QTemporaryDir made;
    long visit = 0, booking = 0, study = 0;
    {
        work::AtTheEnd lab({method::impedance});
        lab.screened({{method::impedance, "go"}});
        visit = lab.visit;
        booking = lab.booking;
        study = lab.study;
        ASSERT_TRUE(QSqlQuery(lab.store->database()).exec("VACUUM INTO '" + made.path() + "/lab.fusain'"));
    }
    constexpr int kills = 40;
    int ended = 0, open = 0;
    std::chrono::microseconds whole = std::chrono::microseconds::max();
    for (int i = -2; i <= kills; ++i) { // the first ones live: how long it takes where nothing else is done meanwhile
        QTemporaryDir dir;
        ASSERT_TRUE(QFile::copy(made.path() + "/lab.fusain", dir.path() + "/lab.fusain"));
        QProcess act;
        act.start(
            QStringLiteral(TEST_BIN_DIR "/scripted_visit"), {dir.path(), QString::number(visit)}, QIODevice::ReadOnly);
        while (!act.canReadLine()) ASSERT_TRUE(act.waitForReadyRead(60000)) << act.readAllStandardError().toStdString();
        ASSERT_EQ(act.readLine(), "ending\n");
        const auto begun = std::chrono::steady_clock::now();
        if (i <= 0) {
            while (!act.canReadLine()) ASSERT_TRUE(act.waitForReadyRead(60000));
            whole = std::min(
                whole, std::chrono::duration_cast<std::chrono::microseconds>(std::chrono::steady_clock::now() - begun));
            ASSERT_EQ(act.readLine(), "ended\n");
        } else {
            // closer together at first: a machine that is busy while it is measured makes the whole look long
            std::this_thread::sleep_until(begun + i * i * whole * 5 / 4 / kills / kills);
            ::kill(static_cast<pid_t>(act.processId()), SIGKILL);
        }
        act.waitForFinished();
        const auto store = records::Store::open(dir.path() + "/lab.fusain");
        ASSERT_TRUE(store) << store.messages().front().text;
        work::Lab lab(*store);
        const bool is = (*store)->replay(visit)->finished;
        ++(is ? ended : open);
        EXPECT_EQ((*store)->visit(visit)->measured(), is) << "kill " << i;
        EXPECT_EQ((*store)->snapshot(visit).has_value(), is) << "kill " << i;
        EXPECT_EQ(lab.diary->booking(booking)->state == records::BookingState::measured, is) << "kill " << i;
        EXPECT_EQ(work::study(lab, study)->members.size(), is ? 1u : 0u) << "kill " << i;
    }
    std::printf("%d visits had ended, %d had not; the act takes %.1f ms\n", ended, open,
        static_cast<double>(whole.count()) / 1000);
    EXPECT_GT(ended, 3);
    EXPECT_GT(open, 3);
}

TEST(TwoWindows, OnOneLabNeverLoseAReading)
{
    QTemporaryDir dir;
    {
        const auto store = records::Store::open(dir.path() + "/lab.fusain");
        ASSERT_TRUE(store);
        for (int i = 0; i < 12; ++i) {
            records::Client c;
            c.given_name = QStringLiteral("Given%1").arg(i);
            c.family_name = "Family";
            c.birth_date = "1995-05-02";
            c.height_cm = 171;
            ASSERT_TRUE((*store)->save(c));
        }
    }
    struct Stored {
        long visit, seq;
        QByteArray kind;
    };
    std::vector<Stored> stored;
    int held = 0, kills = 0;
    std::mt19937 random(4711);
    const auto listen = [&](QProcess& p) {
        for (const QByteArray& line : p.readAllStandardOutput().split('\n')) {
            const auto words = line.split(' ');
            if (words.size() == 4 && words[0] == "stored")
                stored.push_back({words[1].toLong(), words[2].toLong(), words[3]});
            held += words[0] == "held";
            if (words[0] != "refused") continue;
            // on a busy machine the other one may hold the file for a moment: said, kept, tried again
            EXPECT_TRUE(words[1] == "held_elsewhere" || line.contains("tried again by itself")) << line.toStdString();
            for (const char* never : {"SQL", "sqlite", "Unable", "constraint", "gap"})
                EXPECT_FALSE(line.contains(never)) << line.toStdString();
        }
    };
    std::unique_ptr<QProcess> windows[2];
    QElapsedTimer since;
    since.start();
    const auto store = *records::Store::open(dir.path() + "/lab.fusain");
    const auto visits = [&] {
        QSqlQuery q(store->database());
        return q.exec("SELECT COUNT(*) FROM visit") && q.next() ? q.value(0).toInt() : 0;
    };
    // on a busy machine they meet less often in as many visits; only a standstill ends it
    for (unsigned seed = 1; (visits() < 200 || held <= 20 || kills <= 3) && since.elapsed() < 800'000; ++seed) {
        for (auto& w : windows)
            if (!w) {
                w = std::make_unique<QProcess>();
                w->start(QStringLiteral(TEST_BIN_DIR "/two_windows"), {dir.path(), QString::number(seed * 7 + kills)});
                ASSERT_TRUE(w->waitForStarted());
            }
        for (int i = 0; i < 20 + static_cast<int>(random() % 60); ++i) windows[i % 2]->waitForReadyRead(5);
        for (auto& w : windows) listen(*w);
        // now and then one dies: the other takes its visits up
        if (seed % 2 == 0) {
            auto& w = windows[random() % 2];
            ::kill(static_cast<pid_t>(w->processId()), SIGKILL);
            w->waitForFinished();
            listen(*w);
            w.reset();
            ++kills;
        }
    }
    for (auto& w : windows)
        if (w) {
            ::kill(static_cast<pid_t>(w->processId()), SIGKILL);
            w->waitForFinished();
            listen(*w);
        }
    EXPECT_GE(visits(), 200);
    EXPECT_GT(held, 20) << "they met";
    EXPECT_GT(kills, 3);
    // everything that was accepted is there, every log replays, and no live window's trial was broken by the other
    int broken = 0, readings = 0;
    std::map<long, std::vector<bench::Event>> logs;
    for (int id = 1; id <= visits(); ++id) {
        ASSERT_TRUE(store->replay(id)) << id;
        logs[id] = store->events(id);
        for (const bench::Event& e : logs[id]) broken += e.kind == "trial_broken";
    }
    for (const Stored& s : stored) {
        ASSERT_LE(s.seq, static_cast<long>(logs[s.visit].size()));
        EXPECT_EQ(logs[s.visit][static_cast<std::size_t>(s.seq - 1)].kind, s.kind.toStdString());
        readings += s.kind == "trial_taken";
    }
    EXPECT_GT(readings, 100);
    EXPECT_LE(broken, kills) << "only what a killed window measured just then";
    std::printf("%d visits, %zu events accepted, %d readings, met %d times, %d killed, %d trials broken\n", visits(),
        stored.size(), readings, held, kills, broken);
}
