// SPDX-License-Identifier: GPL-3.0-or-later
// Serial lines and the link on real pseudo-terminals: silence, a computer that stands still, several lines.
#include "bench/chamber/chamber_take.h"
#include "bench/lines/link/link.h"
#include "bench/visit/methods.h"
#include "bench/tank/tank_take.h"

#include <gtest/gtest.h>

#include <QCoreApplication>
#include <QTemporaryDir>

#include <atomic>
#include <fcntl.h>
#include <pty.h>
#include <termios.h>
#include <thread>
#include <unistd.h>

using namespace fusain;
using bench::Channel;

namespace {

/// An instrument that says something every 20 ms, from a thread of its own.
class Talker {
public:
    Talker(const QTemporaryDir& dir, const char* name, std::vector<Channel> channels)
        : link(dir.path() + '/' + name), channels_(std::move(channels))
    {
        int slave = -1;
        char slave_name[128];
        termios raw{};
        cfmakeraw(&raw);
        EXPECT_EQ(openpty(&master_, &slave, slave_name, &raw, nullptr), 0);
        ::fcntl(master_, F_SETFL, O_NONBLOCK);
        ::close(slave);
        EXPECT_EQ(::symlink(slave_name, link.toLocal8Bit().constData()), 0);
        thread_ = std::thread([this] {
            for (std::uint32_t n = 0; !stop_; ++n) {
                if (!silent) {
                    std::string bytes;
                    for (Channel c : channels_)
                        if (static_cast<int>(c) != mute)
                            bytes += bench::encode({c, n, 0.02 * n, bench::row(c).low + 1, true, overload});
                    if (::write(master_, bytes.data(), bytes.size()) < 0) {}
                }
                std::this_thread::sleep_for(std::chrono::milliseconds(20));
            }
        });
    }
    ~Talker()
    {
        stop_ = true;
        thread_.join();
        ::close(master_);
    }
    QString link;
    std::atomic<bool> silent = false, overload = false;
    std::atomic<int> mute = -1; ///< one channel that says nothing while the others go on

private:
    std::vector<Channel> channels_;
    int master_ = -1;
    std::atomic<bool> stop_ = false;
    std::thread thread_;
};

std::vector<bench::LineSetup> lines_at(const QStringList& places)
{
    std::vector<bench::LineSetup> out;
    for (const QString& place : places) out.push_back(bench::bench_line(place.toStdString()));
    return out;
}

/// For so long of this program's own time: while the machine stands still, or stops it, nothing is counted.
template <class Condition>
bool wait(Condition condition, int ms = 5000)
{
    constexpr int turn_ms = 5;
    for (int spent = 0; !condition(); spent += turn_ms) {
        if (spent > ms) return false;
        QCoreApplication::processEvents();
        std::this_thread::sleep_for(std::chrono::milliseconds(turn_ms));
    }
    return true;
}

} // namespace

TEST(LinePort, AComputerThatStandsStillIsNoSilentLine)
{
    QTemporaryDir dir;
    Talker talker(dir, "line", {Channel::scale});
    bench::LinePort port(bench::bench_line(talker.link.toStdString()), nullptr);
    int lost = 0;
    QObject::connect(&port, &bench::LinePort::lost, [&] { ++lost; });
    port.start();
    ASSERT_TRUE(wait([&] { return port.connected(); }));
    for (int i = 0; i < 2; ++i) {
        std::this_thread::sleep_for(std::chrono::milliseconds(1700)); // longer than the silence that counts
        wait([] { return false; }, 300);
    }
    EXPECT_EQ(lost, 0);
    EXPECT_TRUE(port.connected());
}

TEST(LinePort, SilenceIsSaidAndTheLineComesBackByItself)
{
    QTemporaryDir dir;
    Talker talker(dir, "line", {Channel::scale, Channel::barometer});
    bench::LinePort port(bench::bench_line(talker.link.toStdString()), nullptr);
    int lost = 0;
    QObject::connect(&port, &bench::LinePort::lost, [&] { ++lost; });
    port.start();
    ASSERT_TRUE(wait([&] { return port.connected(); }));
    EXPECT_TRUE(port.carries(Channel::barometer));
    EXPECT_FALSE(port.carries(Channel::load_cell));
    talker.silent = true;
    ASSERT_TRUE(wait([&] { return lost > 0; }, 2500));
    EXPECT_FALSE(port.connected());
    EXPECT_TRUE(port.trouble().contains("silent"));
    talker.silent = false;
    EXPECT_TRUE(wait([&] { return port.connected() && port.trouble().isEmpty(); }));
    bench::LinePort nowhere(bench::bench_line((dir.path() + "/nothing").toStdString()), nullptr);
    nowhere.start();
    EXPECT_TRUE(nowhere.trouble().contains("No instrument on"));
}

// (With a real socket of another user it was tried by hand: a test cannot become somebody else.)
TEST(LinePort, ASocketOfSomebodyElseIsNoInstrument)
{
    EXPECT_TRUE(bench::may_speak(1000, 1000));
    EXPECT_TRUE(bench::may_speak(0, 1000)) << "the system's own";
    EXPECT_FALSE(bench::may_speak(1001, 1000));
    EXPECT_FALSE(bench::may_speak(1001, 0)) << "also where the program runs as the system";
}

TEST(Link, AScaleAtItsEndWeighsNobody)
{
    QTemporaryDir dir;
    Talker scale(dir, "scale", {Channel::scale});
    bench::Link link(lines_at({scale.link}), bench::instruments());
    bench::Live live;
    QObject::connect(&link, &bench::Link::live, [&](const bench::Live& l) { live = l; });
    link.start();
    ASSERT_TRUE(wait([&] { return live.scale_kg.has_value(); }));
    EXPECT_TRUE(live.speaks(Channel::scale));
    EXPECT_FALSE(live.speaks(Channel::water_temp)) << "no line carries it: it is typed";
    scale.overload = true;
    EXPECT_TRUE(wait([&] { return !live.scale_kg; }));
    // its line is taken away while the program runs, and another comes
    Talker other(dir, "other", {Channel::water_temp});
    link.set_lines(lines_at({other.link}));
    EXPECT_TRUE(wait([&] { return live.water_temp_c.has_value() && live.lines.size() == 1; }));
}

TEST(Link, OneLineLostLeavesTheOtherAlone)
{
    QTemporaryDir dir;
    Talker room(dir, "room", {Channel::load_cell, Channel::scale}),
        chamber(dir, "chamber", {Channel::door, Channel::test_pressure, Channel::reference_pressure});
    bench::Link link(lines_at({room.link, chamber.link}), bench::instruments());
    bench::Live live;
    const auto tank = [&]() -> const bench::TankShown& { return bench::tank_shown(live); };
    const auto seen = [&]() -> const bench::ChamberShown& { return bench::chamber_shown(live); };
    int broken = 0;
    QString why;
    QObject::connect(&link, &bench::Link::live, [&](const bench::Live& l) { live = l; });
    QObject::connect(&link, &bench::Link::trial_broken, [&](long, int trial, const QString& reason) {
        broken = trial;
        why = reason;
    });
    link.start();
    ASSERT_TRUE(wait([&] { return live.connected && seen().connected && tank().cell_kg; }));
    link.begin(1, 3, bench::Visit(), &bench::tank_row().takes[0]);
    chamber.silent = true;
    ASSERT_TRUE(wait([&] { return !seen().connected && !live.trouble.empty(); })) << "said, once the line is given up";
    EXPECT_EQ(broken, 0) << "a trial in the tank goes on";
    EXPECT_EQ(live.trial, 3);
    link.end();
    EXPECT_TRUE(live.connected) << "the tank room is not concerned";
    EXPECT_TRUE(tank().cell_kg);
    EXPECT_TRUE(seen().door_open) << "nothing is recorded behind a door nobody hears of";
    bench::Visit in_chamber;
    in_chamber.start(bench::chamber_row());
    link.begin(1, 4, in_chamber, &in_chamber.row().takes[2]);
    EXPECT_EQ(broken, 4);
    EXPECT_TRUE(why.contains("no line to the chamber"));
    chamber.silent = false;
    ASSERT_TRUE(wait([&] { return seen().connected; }));
    room.silent = true;
    ASSERT_TRUE(wait([&] { return !live.connected && !tank().cell_kg && !live.scale_kg; }));
    EXPECT_TRUE(seen().connected);
    EXPECT_FALSE(live.trouble.empty());
    link.begin(1, 5, bench::Visit(), &bench::tank_row().takes[0]);
    EXPECT_EQ(broken, 5);
}

namespace {

/// A picture that arrives in rows, as an X-ray table sends one: each reading is a point, each line is handed over
/// whole.
class PictureTake : public bench::Take {
public:
    struct Shown : bench::Shown {
        int lines = 0;
        std::shared_ptr<const bench::Shown> idle() const override { return std::make_shared<Shown>(); }
    };
    static constexpr int width = 8;
    bool hears(Channel channel) const override { return channel == Channel::phantom; }
    void feed(const bench::Reading& r) override
    {
        now_.connected = true;
        if (!running_ || now_.complete) return;
        rows_.add({double(points_ / width), double(points_ % width), r.value});
        now_.lines = ++points_ / width;
        now_.complete = now_.lines == 10;
    }
    void lost(Channel, bench::Loss how) override
    {
        now_.connected = false;
        if (running_) broken_ = how == bench::Loss::line ? "the table was lost" : "the table fell silent";
    }
    void begin(const bench::Visit&, const bench::TakeRow&) override { running_ = true; }
    void end() override { running_ = false; }
    std::shared_ptr<const bench::Shown> state() override { return std::make_shared<Shown>(now_); }
    bench::Signal rows() override
    {
        bench::Signal whole{"line,point,g_per_cm2", {}};
        const std::size_t kept = 3 * static_cast<std::size_t>(handed_),
                          end = 3 * width * static_cast<std::size_t>(now_.lines);
        whole.values.assign(
            rows_.values.begin() + static_cast<long>(kept), rows_.values.begin() + static_cast<long>(end));
        handed_ = width * now_.lines;
        return whole;
    }
    const std::string& broken() const override { return broken_; }

private:
    bool running_ = false;
    int points_ = 0, handed_ = 0;
    Shown now_;
    bench::Signal rows_;
    std::string broken_;
};

} // namespace

TEST(Link, ATakeMayBeAPictureThatArrivesInRows)
{
    for (const bool unplugged : {false, true}) {
        QTemporaryDir dir;
        Talker table(dir, "table", {Channel::phantom});
        bench::Link::Takes takes;
        takes.emplace(bench::Visit().method, std::make_unique<PictureTake>());
        bench::Link link(lines_at({table.link}), std::move(takes));
        bench::Live live;
        std::vector<bench::SignalChunk> chunks;
        QString broken;
        QObject::connect(&link, &bench::Link::live, [&](const bench::Live& l) { live = l; });
        QObject::connect(&link, &bench::Link::signal, [&](const bench::SignalChunk& c) { chunks.push_back(c); });
        QObject::connect(&link, &bench::Link::trial_broken, [&](long, int, const QString& why) { broken = why; });
        const auto seen = [&] { return live.of<PictureTake::Shown>(bench::Visit().method); };
        link.start();
        ASSERT_TRUE(wait([&] { return seen().connected; }));
        link.begin(7, 2, bench::Visit(), &bench::tank_row().takes[0]);
        if (unplugged) {
            ASSERT_TRUE(wait([&] { return seen().lines > 4; }));
            table.silent = true;
            ASSERT_TRUE(wait([&] { return !broken.isEmpty(); })) << "and what had come is kept";
            EXPECT_TRUE(broken.startsWith("the table")) << broken.toStdString();
            EXPECT_TRUE(wait([&] { return live.trial == 0; }));
        } else {
            ASSERT_TRUE(wait([&] { return seen().complete; }));
            EXPECT_EQ(live.trial, 2);
            link.end();
        }
        ASSERT_GT(chunks.size(), 1u) << "handed over while it grows";
        int next = 0;
        for (const bench::SignalChunk& c : chunks) {
            EXPECT_EQ(c.visit, 7);
            EXPECT_EQ(c.trial, 2);
            EXPECT_EQ(c.signal.columns, "line,point,g_per_cm2");
            EXPECT_EQ(c.signal.size() % PictureTake::width, 0u) << "lines are whole";
            for (std::size_t i = 0; i < c.signal.size(); ++i, ++next) {
                EXPECT_EQ(c.signal.at(i, 0), next / PictureTake::width);
                EXPECT_EQ(c.signal.at(i, 1), next % PictureTake::width);
            }
        }
        EXPECT_GE(next, (unplugged ? 4 : 10) * PictureTake::width);
    }
}

int main(int argc, char** argv)
{
    ::testing::InitGoogleTest(&argc, argv);
    QCoreApplication app(argc, argv);
    return RUN_ALL_TESTS();
}

TEST(Link, AChannelThatFallsSilentGrowsOldAndIsNotTaken)
{
    QTemporaryDir dir;
    Talker talker(dir, "line", {Channel::load_cell, Channel::scale, Channel::water_temp});
    bench::Link link(lines_at({talker.link}), bench::instruments());
    bench::Live live;
    const auto tank = [&]() -> const bench::TankShown& { return bench::tank_shown(live); };
    QString broken;
    QObject::connect(&link, &bench::Link::live, [&](const bench::Live& l) { live = l; });
    QObject::connect(&link, &bench::Link::trial_broken, [&](long, int, const QString& reason) { broken = reason; });
    link.start();
    ASSERT_TRUE(wait([&] { return tank().cell_kg && live.scale_kg && live.water_temp_c; }));
    const auto heard = [&](Channel c) { return live.heard[static_cast<std::size_t>(c)]; };

    talker.mute = static_cast<int>(Channel::scale);
    ASSERT_TRUE(wait([&] { return !live.scale_kg; }, 6000)) << "three seconds are too old for a scale";
    EXPECT_FALSE(live.scale_stable);
    EXPECT_TRUE(live.connected) << "the line itself speaks";
    EXPECT_TRUE(tank().cell_kg && live.water_temp_c) << "the others are fresh";
    ASSERT_TRUE(heard(Channel::scale)) << "what was heard can still be shown, as old";
    EXPECT_EQ(heard(Channel::scale)->value, bench::row(Channel::scale).low + 1);
    EXPECT_GT(heard(Channel::scale)->age_s, bench::longest_age_s(Channel::scale));

    // the load cell: a trial does not go on without it
    link.begin(1, 1, bench::Visit(), &bench::tank_row().takes[0]);
    link.mark();
    talker.mute = static_cast<int>(Channel::load_cell);
    ASSERT_TRUE(wait([&] { return !broken.isEmpty(); }, 4000));
    EXPECT_EQ(broken, "the load cell fell silent");
    EXPECT_FALSE(tank().cell_kg);

    talker.mute = -1;
    ASSERT_TRUE(wait([&] { return tank().cell_kg && live.scale_kg; })) << "and it comes back by itself";
    EXPECT_LT(heard(Channel::scale)->age_s, 1);
    talker.mute = static_cast<int>(Channel::water_temp);
    ASSERT_TRUE(wait([&] { return heard(Channel::water_temp)->age_s > 5; }, 8000));
    EXPECT_TRUE(live.water_temp_c) << "a thermometer may speak every few seconds";
    ASSERT_TRUE(wait([&] { return !live.water_temp_c; }, 8000));
}
