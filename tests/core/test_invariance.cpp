// SPDX-License-Identifier: GPL-3.0-or-later
// What must not change a reading: the zero of a scale, the moment it began, the gain of a pair of sensors, how often
// the signal is sampled. A reader that knew our stand-ins by heart would fail here.
#include "core/signal/chamber.h"
#include "core/signal/swing.h"
#include "virtual/chamber/chamber_air.h"
#include "virtual/tank/swing_trace.h"

#include <gtest/gtest.h>

#include <cmath>

using namespace fusain;

namespace {

std::vector<swing::Sample> lifted(std::vector<swing::Sample> trace, double add_kg)
{
    for (swing::Sample& s : trace) s.kg += add_kg;
    return trace;
}

std::vector<chamber::Sample> recording(double cylinder_l, std::uint64_t seed = 5, double from_s = 0)
{
    virt::ChamberAir air({}, seed);
    air.set_cylinder(cylinder_l);
    return virt::record(air, from_s, 25, 80);
}

std::vector<chamber::Sample> changed(std::vector<chamber::Sample> run, double gain, double test_pa, double add_s)
{
    for (chamber::Sample& s : run) {
        s.test_pa = gain * s.test_pa + test_pa;
        s.reference_pa *= gain;
        s.t_s += add_s;
    }
    return run;
}

} // namespace

TEST(Invariance, ASwingReadsTheSameWhereverItsZeroIs)
{
    std::mt19937_64 random(31);
    int read = 0;
    for (int i = 0; i < 12; ++i) {
        const auto trace = virt::make_trace(virt::random_swing(virt::Behaviour::calm, random));
        const auto plain = swing::read(trace);
        if (!plain.reading) continue;
        ++read;
        for (double zero : {-5.0, 0.7, 12.0}) {
            const auto moved = swing::read(lifted(trace, zero));
            ASSERT_TRUE(moved.reading) << zero;
            EXPECT_NEAR(moved.reading->kg, plain.reading->kg + zero, 2e-4) << zero;
            EXPECT_NEAR(moved.reading->u_kg, plain.reading->u_kg, 2e-4) << zero;
        }
    }
    EXPECT_GE(read, 10);
}

TEST(Invariance, ASwingReadsTheSameSampledHalfAsOften)
{
    std::mt19937_64 random(9);
    int read = 0;
    for (int i = 0; i < 12; ++i) {
        const auto trace = virt::make_trace(virt::random_swing(virt::Behaviour::calm, random));
        std::vector<swing::Sample> half;
        for (std::size_t k = 0; k < trace.size(); k += 2) half.push_back(trace[k]);
        const auto a = swing::read(trace), b = swing::read(half);
        if (!a.reading || !b.reading) continue;
        ++read;
        EXPECT_NEAR(a.reading->kg, b.reading->kg, 3 * std::hypot(a.reading->u_kg, b.reading->u_kg) + 0.004);
    }
    EXPECT_GE(read, 10);
}

TEST(Invariance, WhatComesAfterAReadingStandsDoesNotPullItAway)
{
    // a reading that stands at four seconds holds, within its doubt, when the trace goes on calmly
    std::mt19937_64 random(77);
    int stood = 0;
    for (int i = 0; i < 12; ++i) {
        const auto trace = virt::make_trace(virt::random_swing(virt::Behaviour::calm, random));
        swing::Reader reader;
        std::optional<swing::Reading> early;
        for (const swing::Sample& s : trace) {
            reader.add(s);
            if (!early && s.t_s > 4 && reader.state().reading) early = reader.state().reading;
        }
        const auto late = reader.state().reading;
        if (!early || !late) continue;
        ++stood;
        EXPECT_NEAR(early->kg, late->kg, 4 * early->u_kg + 0.01);
        EXPECT_LE(late->u_kg, 1.5 * early->u_kg + 0.002) << "more of the same never makes it less sure";
    }
    EXPECT_GE(stood, 9);
}

TEST(Invariance, AChamberReadsTheSameWhateverItsSensorsGainAndClock)
{
    const auto plain = chamber::read(recording(60), {});
    ASSERT_TRUE(plain.ratio) << static_cast<int>(plain.fault);
    struct Row {
        const char* what;
        double gain, offset_pa, add_s, within;
    };
    for (const Row& row : {Row{"both sensors read 3 % more", 1.03, 0, 0, 2e-5},
             Row{"both read a tenth less", 0.9, 0, 0, 2e-5}, Row{"the clock began an hour ago", 1, 0, 3600, 2e-5},
             Row{"the test sensor stands off by 1 Pa", 1, 1, 0, 2e-5}}) {
        const auto moved = chamber::read(changed(recording(60), row.gain, row.offset_pa, row.add_s), {});
        ASSERT_TRUE(moved.ratio) << row.what;
        EXPECT_EQ(moved.fault, chamber::Fault::none) << row.what;
        // stiffening is corrected from the mean pressures, so that an offset of 1 Pa counts for 1e-5 of the ratio
        EXPECT_NEAR(moved.ratio->value, plain.ratio->value, row.within * plain.ratio->value) << row.what;
    }
}

TEST(Invariance, TwoChambersOfOtherSizesFindTheSameCylinder)
{
    for (double test_l : {350.0, 450.0, 600.0})
        for (double reference_l : {200.0, 300.0}) {
            virt::ChamberBuild build;
            build.test_l = test_l;
            build.reference_l = reference_l;
            const auto read = [&](double inside_l, std::uint64_t seed) {
                virt::ChamberAir air(build, seed);
                air.set_cylinder(inside_l);
                return chamber::read(virt::record(air, 0, 25, 80), {});
            };
            const auto line = chamber::calibrate(read(0, 1), read(50.012, 2), 50.012);
            ASSERT_TRUE(line) << test_l << " " << reference_l;
            EXPECT_NEAR(line->a_l, test_l, 0.02 * test_l) << "the chamber's own size comes out";
            const auto third = read(75.3, 3);
            ASSERT_TRUE(third.ratio);
            const auto found = chamber::reading_of(*third.ratio, *line);
            EXPECT_NEAR(found.volume_l, 75.3, std::max(0.06, 3 * found.u_l)) << test_l << " " << reference_l;
        }
}
