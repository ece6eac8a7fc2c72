// SPDX-License-Identifier: GPL-3.0-or-later
// The calm-window reader on simulated traces with known truth. The full table is made by benchmarks/swing_accuracy.
#include "core/signal/swing.h"
#include "virtual/tank/swing_trace.h"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <map>

using namespace fusain;
using virt::Behaviour;

namespace {

struct Tally {
    int accepted = 0, wrong = 0;
    std::vector<double> errors, earliest;
    std::map<std::string, int> codes;
};

#ifdef __SANITIZE_ADDRESS__
constexpr int fewer = 5; // the sanitizer looks at memory, not at accuracy
#else
constexpr int fewer = 1;
#endif

Tally tally(Behaviour behaviour, int wanted, std::uint64_t seed)
{
    const int n = wanted / fewer;
    std::mt19937_64 random(seed);
    Tally t;
    for (int i = 0; i < n; ++i) {
        const virt::Swing truth = virt::random_swing(behaviour, random);
        const swing::State s = swing::read(virt::make_trace(truth));
        if (!s.reading) {
            EXPECT_FALSE(s.messages.empty());
            if (!s.messages.empty()) ++t.codes[s.messages.front().code];
            continue;
        }
        ++t.accepted;
        const double error = std::abs(s.reading->kg - truth.level_kg);
        t.errors.push_back(error);
        t.earliest.push_back(s.reading->earliest_s);
        t.wrong += error > 0.040;
    }
    std::sort(t.errors.begin(), t.errors.end());
    std::sort(t.earliest.begin(), t.earliest.end());
    return t;
}

double at(const std::vector<double>& sorted, double share)
{
    return sorted[static_cast<std::size_t>(share * static_cast<double>(sorted.size() - 1))];
}

virt::Swing plain_swing()
{
    virt::Swing s;
    s.seed = 5;
    return s;
}

} // namespace

TEST(Swing, CalmTracesAreReadWellAndEarly)
{
    const Tally t = tally(Behaviour::calm, 60, 11);
    ASSERT_GE(t.accepted, 58 / fewer);
    EXPECT_EQ(t.wrong, 0);
    EXPECT_LE(at(t.errors, 0.95), 0.020);
    EXPECT_LE(at(t.errors, 0.5), 0.005);
    EXPECT_LE(at(t.earliest, 0.5), 4.0);
}

TEST(Swing, SlowSwingsOfFewPeriodsAreRead)
{
    const Tally t = tally(Behaviour::slow_swing, 40, 21);
    EXPECT_GE(t.accepted, 35 / fewer) << "drag and a creeping frequency are part of the motion";
    EXPECT_EQ(t.wrong, 0);
    EXPECT_LE(at(t.errors, 0.95), 0.020);
}

TEST(Swing, JerksDoNotSpoilAReading)
{
    const Tally t = tally(Behaviour::late_jerk, 30, 12);
    EXPECT_GE(t.accepted, 27 / fewer);
    EXPECT_EQ(t.wrong, 0);
}

TEST(Swing, TroubleIsRefusedRatherThanMisread)
{
    for (Behaviour b :
        {Behaviour::restless, Behaviour::still_rising, Behaviour::touches_wall, Behaviour::surfaces_early}) {
        const Tally t = tally(b, 40, 13);
        EXPECT_LE(t.wrong, 1) << virt::word(b);
        if (b == Behaviour::surfaces_early) {
            EXPECT_EQ(t.accepted, 0);
            EXPECT_GE(t.codes.count("left_early") ? t.codes.at("left_early") : 0, 34 / fewer);
        }
        if (b == Behaviour::still_rising) {
            EXPECT_GE(t.codes.count("still_rising") ? t.codes.at("still_rising") : 0, 12 / fewer);
        }
    }
}

TEST(Swing, AnySampleRate)
{
    for (double hz : {20.0, 50.0, 100.0, 500.0, 2000.0}) {
        virt::Swing s = plain_swing();
        s.rate_hz = hz;
        s.noise_kg = 0.004;
        s.jitter = 0.3;
        const swing::State state = swing::read(virt::make_trace(s));
        ASSERT_TRUE(state.reading) << hz << " Hz: " << (state.messages.empty() ? "" : state.messages.front().code);
        EXPECT_NEAR(state.reading->kg, s.level_kg, 0.015) << hz << " Hz";
    }
}

TEST(Swing, ShortAndEmptyTracesSaySo)
{
    EXPECT_EQ(swing::read({}).messages.front().code, "too_short");
    virt::Swing s = plain_swing();
    s.length_s = 2.0;
    const swing::State state = swing::read(virt::make_trace(s));
    ASSERT_FALSE(state.reading);
    EXPECT_EQ(state.messages.front().code, "too_short");
}

TEST(Swing, AnEmptyChairIsNotAReading)
{
    // the client leaves at 1.5 s; the chair then hangs perfectly still at zero
    std::vector<swing::Sample> trace = virt::make_trace(plain_swing());
    for (swing::Sample& x : trace)
        if (x.t_s > 1.5) x.kg = 0.001 * std::sin(31 * x.t_s);
    EXPECT_FALSE(swing::read(trace).reading);
}

TEST(Swing, TheStreamSaysWhatTheFileSays)
{
    const auto trace = virt::make_trace(plain_swing());
    swing::Reader reader;
    double first = 0;
    for (const auto& x : trace) {
        reader.add(x);
        if (first == 0 && reader.state().reading) first = x.t_s;
    }
    const swing::State live = reader.finish(), file = swing::read(trace);
    ASSERT_TRUE(live.reading && file.reading);
    EXPECT_EQ(live.reading->kg, file.reading->kg);
    EXPECT_EQ(live.reading->u_kg, file.reading->u_kg);
    EXPECT_NEAR(live.reading->earliest_s, first, 0.1);
    EXPECT_GE(live.reading->earliest_s, swing::Settings().earliest_s);
    EXPECT_NEAR(live.reading->midpoint_kg, live.reading->kg, 0.05);
    EXPECT_LT(live.reading->window_from_s, live.reading->window_to_s);
}
