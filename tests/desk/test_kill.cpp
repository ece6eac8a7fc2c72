// SPDX-License-Identifier: GPL-3.0-or-later
// kill -9 at random moments of a scripted visit: nothing that was accepted is lost, the log replays, at most the last second
// of a running signal is missing.
#include "records/store.h"

#include <gtest/gtest.h>

#include <QProcess>
#include <QTemporaryDir>
#include <QThread>

#include <csignal>
#include <random>

using namespace fusain;

TEST(Kill, SixtyRandomMoments)
{
    constexpr int kills = 60;
    std::mt19937 random(20261123);
    int finished = 0, in_trial = 0, events_checked = 0;
    for (int i = 0; i < kills; ++i) {
        QTemporaryDir dir;
        QProcess visit;
        visit.start(QStringLiteral(TEST_BIN_DIR "/scripted_visit"), {dir.path()});
        ASSERT_TRUE(visit.waitForStarted());
        const auto moment = std::chrono::milliseconds(200 + random() % 4900);
        if (visit.waitForFinished(static_cast<int>(moment.count()))) ++finished;
        else ::kill(static_cast<pid_t>(visit.processId()), SIGKILL);
        visit.waitForFinished();

        long last_stored = 0;
        int trial = 0;
        double signal_s = 0;
        for (const QByteArray& line : visit.readAllStandardOutput().split('\n')) {
            const auto words = line.split(' ');
            if (words.size() >= 3 && words[0] == "stored") last_stored = std::max(last_stored, words[1].toLong());
            if (words.size() == 3 && words[0] == "signal") {
                if (words[1].toInt() != trial) signal_s = 0;
                trial = words[1].toInt();
                signal_s = std::max(signal_s, words[2].toDouble());
            }
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
        ASSERT_TRUE(replayed) << "kill " << i << " after " << moment.count() << " ms: " << replayed.messages().front().text;
        EXPECT_GE(replayed->last_seq, last_stored) << "kill " << i << ": an accepted event is lost";
        events_checked += static_cast<int>(last_stored);
        if (trial > 0) {
            ++in_trial;
            const auto kept = (*store)->signal(visits[0].id, trial);
            const double kept_s = kept.empty() ? 0 : kept.back().t_s;
            // half a second a chunk, and what was in the pipe; the stand-in even runs eight times faster than life
            EXPECT_LE(signal_s - kept_s, 1.0) << "kill " << i << " trial " << trial;
        }
    }
    std::printf("%d kills, %d of them after a trial had begun, %d visits had finished before, %d accepted events all found again\n", kills, in_trial, finished, events_checked);
    EXPECT_GT(in_trial, 10);
    EXPECT_LT(finished, kills / 2);
}
