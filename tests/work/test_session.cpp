// SPDX-License-Identifier: GPL-3.0-or-later
// A session in life's own time: its threads, and a disk that does not keep up.
#include "bench/base/fields.h"
#include "bench/tank/tank_take.h"
#include "work/visit/session.h"

#include <gtest/gtest.h>

#include <QTemporaryDir>
#include <QTest>

#include <latch>

using namespace fusain;

TEST(Session, TellsOfADiskThatDoesNotKeepUpUntilItHas)
{
    QTemporaryDir dir;
    const auto store = *records::Store::open(dir.path() + "/lab.fusain");
    records::Client c;
    c.given_name = "Aliénor";
    c.family_name = "Quéméner";
    c.birth_date = "1995-05-02";
    c.height_cm = 171;
    const auto client = store->save(c);
    ASSERT_TRUE(client);
    std::latch disk_goes_on(1);
    records::Recorder* recorder = nullptr;
    work::Seams seams;
    seams.recorder = [&](const QString& file, const QString& window) {
        auto made = std::make_unique<records::Recorder>(file, window);
        recorder = made.get();
        QObject::connect(
            recorder, &records::Recorder::stored, recorder, [&] { disk_goes_on.wait(); }, Qt::DirectConnection);
        return made;
    };
    work::Session session(store, {}, seams);
    QStringList said;
    long stored = 0;
    QObject::connect(&session, &work::Session::disk_lags, [&](const QString& words) { said << words; });
    QObject::connect(&session, &work::Session::stored, [&](const bench::Event& e) { stored = e.seq; });
    ASSERT_FALSE(session.start(*client, "M. Tanguy", method::hydrostatic));
    session.act(bench::event::Identity{171.0});
    recorder->append_signal({session.visit_id(), 1, 0, bench::signal_of({{0, 2.4}})});
    EXPECT_TRUE(QTest::qWaitFor([&] { return !said.isEmpty(); }, 60000));
    EXPECT_EQ(stored, 1) << "what the disk has not confirmed is not shown";
    EXPECT_GT(recorder->lag_s(), 0.5);
    disk_goes_on.count_down();
    ASSERT_TRUE(QTest::qWaitFor([&] { return said.size() == 2; }, 60000));
    EXPECT_TRUE(said.front().contains("The disk is slow"));
    EXPECT_TRUE(said.back().isEmpty()) << "it has caught up";
    EXPECT_EQ(stored, 2);
}
