// SPDX-License-Identifier: GPL-3.0-or-later
// The chamber reader on recordings that are not the stand-in's: plain sines written down by hand, with what goes wrong
// added.
#include "core/signal/chamber.h"
#include "core/air_and_water/lung.h"
#include "virtual/chamber/chamber_air.h"

#include <gtest/gtest.h>

#include <functional>
#include <numbers>
#include <random>

using namespace fusain;
using chamber::Fault;
using chamber::Sample;

namespace {

constexpr double pi = std::numbers::pi, chamber_l = 430, reference_l = 280, cylinder_l = 50.012;

struct Plain {
    double volume_l = 0, seconds = 25, rate_hz = 100, drive_hz = 3, noise_pa = 0.05, jitter = 0.1, breath_pa = 0,
           breath_l = 0, offset_pa = 3;
    unsigned seed = 1;
};

/// Amplitudes after Boyle and Poisson, nothing else.
std::vector<Sample> sines(const Plain& p)
{
    std::mt19937 random(p.seed);
    std::normal_distribution<double> noise(0, p.noise_pa);
    std::uniform_real_distribution<double> off(-p.jitter, p.jitter);
    std::vector<Sample> out;
    for (double k = 0; k / p.rate_hz <= p.seconds; ++k) {
        const double t = (k + off(random)) / p.rate_hz, breath = std::sin(2 * pi * 0.27 * t);
        const double air = chamber_l - p.volume_l + p.breath_l * breath;
        const double drive = 0.3 * 1.4 * 101325 * std::sin(2 * pi * p.drive_hz * t + 0.4);
        out.push_back({t, p.offset_pa + drive / air + p.breath_pa * breath + 0.1 * t + noise(random),
            -drive / reference_l + noise(random), false});
    }
    return out;
}

chamber::Calibration calibrated(double rate_hz = 100, double drive_hz = 3)
{
    Plain p;
    p.rate_hz = rate_hz;
    p.drive_hz = drive_hz;
    chamber::Options o;
    o.drive_hz = drive_hz;
    const auto empty = chamber::read(sines(p), o);
    p.volume_l = cylinder_l;
    p.seed = 2;
    const auto c = chamber::calibrate(empty, chamber::read(sines(p), o), cylinder_l);
    EXPECT_TRUE(c) << (c ? "" : c.messages().front().text);
    return *c;
}

} // namespace

TEST(Chamber, ReadsPlainRecordingsAtAnyRate)
{
    for (const double drive : {2.5, 3.0})
        for (const double rate : {20.0, 60.0, 125.0, 500.0, 2000.0}) {
            const auto c = calibrated(rate, drive);
            Plain p;
            p.rate_hz = rate;
            p.drive_hz = drive;
            p.volume_l = 71.43;
            p.breath_pa = 12;
            p.breath_l = 0.2;
            p.seed = 3;
            const auto s = chamber::read(sines(p), chamber::options_of(c, drive));
            ASSERT_EQ(s.fault, Fault::none) << rate << " Hz: " << chamber::row(s.fault).code;
            const auto r = chamber::reading_of(*s.ratio, c);
            EXPECT_NEAR(r.volume_l, p.volume_l, 3 * r.u_l) << rate << " Hz, drive " << drive;
            EXPECT_NEAR(r.volume_l, p.volume_l, 0.05) << rate << " Hz";
            EXPECT_LT(r.u_l, 0.05);
            EXPECT_NEAR(r.breath_l, 0.2, 0.05) << rate << " Hz";
            EXPECT_NEAR(c.a_l, chamber_l, 0.5);
        }
}

TEST(Chamber, EveryFaultIsCalledByItsName)
{
    struct Row {
        const char* what;
        std::function<void(std::vector<Sample>&)> spoil;
        Fault expected;
    };
    const auto each = [](auto change) {
        return [change](std::vector<Sample>& s) {
            for (Sample& x : s) change(x);
        };
    };
    const auto bump = [](double t, double at, double width) { return std::exp(-0.5 * std::pow((t - at) / width, 2)); };
    const Row rows[] = {
        {"clean", [](auto&) {}, Fault::none},
        {"the client's heat, which stiffens the air", each([](Sample& x) {
             const double warm = 90 * (1 - std::exp(-x.t_s / 15));
             x.test_pa = x.test_pa * (1 + warm / 101325) + warm;
         }),
            Fault::none},
        {"the test chamber's sensor is dead", each([](Sample& x) { x.test_pa = 0; }), Fault::no_drive},
        {"its sensor knows noise only", each([](Sample& x) { x.test_pa = std::fmod(7919 * x.t_s, 1) - 0.5; }),
            Fault::no_drive},
        {"a small step in both chambers", each([](Sample& x) {
             if (x.t_s > 16) {
                 x.test_pa += 6;
                 x.reference_pa += 6;
             }
         }),
            Fault::pressure_step},
        {"the mean pressure runs out", each([](Sample& x) { x.test_pa += 150 * std::exp(-x.t_s / 8); }), Fault::leak},
        {"bends forward for three seconds", each([](Sample& x) {
             if (x.t_s > 10 && x.t_s < 13) x.test_pa *= 1 + 0.6 / (chamber_l - 71.43);
         }),
            Fault::moved},
        {"a slow warming of the air", each([](Sample& x) { x.test_pa += 8 * (1 - std::exp(-x.t_s / 10)); }),
            Fault::none},
        {"door open for a second", each([](Sample& x) {
             if (x.t_s > 12 && x.t_s < 13) x = {x.t_s, 0, x.reference_pa, true};
         }),
            Fault::door_opened},
        {"door open from the start", each([](Sample& x) { x.door_open = x.t_s < 1; }), Fault::door_opened},
        {"clipped at the top", each([](Sample& x) { x.test_pa = std::min(x.test_pa, 105.0); }), Fault::clipped},
        {"reference clipped", each([](Sample& x) { x.reference_pa = std::max(x.reference_pa, -140.0); }),
            Fault::clipped},
        {"step in both chambers", each([](Sample& x) {
             if (x.t_s > 9) {
                 x.test_pa += 15;
                 x.reference_pa += 15;
             }
         }),
            Fault::pressure_step},
        {"step in the test chamber", each([](Sample& x) {
             if (x.t_s > 14) x.test_pa -= 40;
         }),
            Fault::pressure_step},
        {"a slam that dies out", each([](Sample& x) {
             if (x.t_s > 9) {
                 x.test_pa += 25 * std::exp(-(x.t_s - 9) / 3);
                 x.reference_pa += 25 * std::exp(-(x.t_s - 9) / 3);
             }
         }),
            Fault::pressure_step},
        {"leak: lag and loss",
            [](std::vector<Sample>& s) {
                const double cut = 2 * pi * 3 * 0.05;
                double leaked = 0;
                for (std::size_t i = 1; i < s.size(); ++i) {
                    leaked += (s[i].test_pa - leaked) * cut * (s[i].t_s - s[i - 1].t_s);
                    s[i].test_pa -= leaked;
                }
            },
            Fault::leak},
        {"the swing shrinks by 0.03 L", each([](Sample& x) { x.test_pa *= std::exp(-x.t_s / 300000); }), Fault::none},
        {"leak: the swing shrinks by 0.5 L", each([](Sample& x) { x.test_pa *= std::exp(-x.t_s / 18000); }),
            Fault::leak},
        {"shifts on the seat",
            each([&](Sample& x) { x.test_pa += 25 * bump(x.t_s, 11, 0.3) - 18 * bump(x.t_s, 12, 0.4); }), Fault::moved},
        {"coughs", each([&](Sample& x) { x.test_pa += 60 * bump(x.t_s, 15, 0.1); }), Fault::moved},
        {"sits otherwise from then on", each([](Sample& x) {
             if (x.t_s > 12) x.test_pa *= 1 + 0.5 / (chamber_l - 71.43);
         }),
            Fault::moved},
        {"ends after six seconds",
            [](std::vector<Sample>& s) { std::erase_if(s, [](const Sample& x) { return x.t_s > 6; }); },
            Fault::too_short},
        {"nothing recorded", [](std::vector<Sample>& s) { s.clear(); }, Fault::too_short},
    };
    const auto c = calibrated();
    for (const Row& row : rows)
        for (unsigned seed = 1; seed <= 5; ++seed) {
            Plain p;
            p.volume_l = 71.43;
            p.breath_pa = 12;
            p.breath_l = 0.15;
            p.seed = 10 + seed;
            auto s = sines(p);
            row.spoil(s);
            const auto state = chamber::read(s, chamber::options_of(c));
            EXPECT_EQ(chamber::row(state.fault).code, std::string(chamber::row(row.expected).code))
                << row.what << ", seed " << seed;
            EXPECT_EQ(chamber::messages_of(state).empty(), row.expected == Fault::none);
        }
}

TEST(Chamber, ABadCalibrationIsRefusedWithTheReason)
{
    Plain p;
    const auto empty = chamber::read(sines(p), {});
    p.volume_l = cylinder_l;
    const auto cylinder = chamber::read(sines(p), {});
    p.seconds = 4;
    const auto brief = chamber::read(sines(p), {});
    EXPECT_NE(
        chamber::calibrate(empty, brief, cylinder_l).messages().front().text.find("too short"), std::string::npos);
    EXPECT_NE(chamber::calibrate(cylinder, empty, cylinder_l).messages().front().text.find("changed round"),
        std::string::npos);
    EXPECT_EQ(chamber::calibrate(empty, empty, cylinder_l).messages().front().code, "calibration_failed");
    EXPECT_EQ(chamber::calibrate(empty, cylinder, 50012).messages().front().code, "out_of_range");
    EXPECT_TRUE(chamber::calibrate(empty, cylinder, cylinder_l));
}

TEST(Chamber, UncertaintyOfTheCalibrationMatchesScatter)
{
    // the two readings are scattered by their own u; the volumes that follow must scatter as u_l says
    chamber::Calibration c = calibrated();
    c.empty.u = c.cylinder.u = 3e-5;
    c.u_cylinder_l = 0.01;
    std::mt19937 random(4);
    std::normal_distribution<double> n;
    const double ratio = c.empty.value + 1.5 * (c.cylinder.value - c.empty.value);
    double sum = 0, squares = 0;
    for (int i = 0; i < 4000; ++i) {
        const double re = c.empty.value + c.empty.u * n(random), rc = c.cylinder.value + c.cylinder.u * n(random),
                     b = (cylinder_l + c.u_cylinder_l * n(random)) / (rc - re);
        const double v = -b * re + b * ratio;
        sum += v;
        squares += v * v;
    }
    EXPECT_NEAR(std::sqrt(squares / 4000 - sum * sum / 16e6), c.u_l(ratio), 0.05 * c.u_l(ratio));
}

TEST(Chamber, LungGasFromPuffs)
{
    virt::Body body;
    body.sex = Sex::male;
    body.frc_l = 3.1;
    struct Row {
        const char* what;
        virt::ChamberFault fault;
        const char* complaint; ///< empty: accepted
    };
    const Row rows[] = {{"gentle", virt::ChamberFault::none, ""}, {"hard", virt::ChamberFault::hard_puffs, "Too hard"},
        {"cheeks", virt::ChamberFault::cheeks, "merit"}};
    for (const Row& row : rows)
        for (std::uint64_t seed = 1; seed <= 20; ++seed) {
            virt::ChamberAir air({}, seed);
            air.set_client(&body);
            if (row.fault != virt::ChamberFault::none) air.set(row.fault, true);
            air.breathe_through_tube(true);
            air.at(8);
            air.close_valve();
            std::vector<chamber::PuffSample> s;
            for (double t = 8; t < 13; t += 1 / 80.0) {
                const auto said = air.at(t);
                s.push_back({t, said.pressures.test_pa, said.airway_pa});
            }
            const auto puffs = chamber::read_puffs(s);
            EXPECT_EQ(puffs.complaint.empty(), *row.complaint == 0) << row.what << ": " << puffs.complaint;
            EXPECT_NE(puffs.complaint.find(row.complaint), std::string::npos) << row.what << ": " << puffs.complaint;
            EXPECT_EQ(puffs.count, 3) << row.what;
            if (*row.complaint) continue;
            EXPECT_LT(puffs.merit, 0.8);
            const double air_l = 450 - body.raw_volume_l();
            EXPECT_NEAR(
                lung::boyle_gas_l(puffs.slope / 1.004, air_l, air.barometric_pa()), air.valve_closed_lungs_l(), 0.06)
                << seed;
        }
}

TEST(Chamber, AVolumeThatFillsItIsNoBody)
{
    const auto c = calibrated(60, 3.0);
    EXPECT_FALSE(chamber::impossible(200, c));
    const auto why = chamber::impossible(0.95 * chamber_l, c);
    ASSERT_TRUE(why);
    EXPECT_EQ(why->code, "not_a_body");
    EXPECT_EQ(why->level, Level::repeat);
    // a dead reference sensor reads a full chamber
    Plain p;
    auto run = sines(p);
    for (Sample& x : run) x.reference_pa *= 1e-6;
    const auto s = chamber::read(run, chamber::options_of(c, p.drive_hz));
    ASSERT_TRUE(s.ratio);
    EXPECT_TRUE(chamber::impossible(chamber::reading_of(*s.ratio, c).volume_l, c));
}
