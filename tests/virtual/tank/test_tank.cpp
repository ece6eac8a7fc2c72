// SPDX-License-Identifier: GPL-3.0-or-later
// The stand-in against its own truth: what is measured on the virtual client must lead back to the client's true body.
#include "bench/channels/line.h"
#include "core/density/hydrostatic.h"
#include "core/signal/swing.h"
#include "virtual/tank/tank.h"

#include <gtest/gtest.h>

#include <cmath>

using namespace fusain;
using bench::Channel;

namespace {

constexpr const char* a_client =
    "sex=female age=31 height=171 fat=14.6 ffm=53.8 density=1.1 rv=1.16 vc=4.15 gut=0.1 learning=0.3 calm=0.9";

struct Room {
    virt::Tank tank{5};
    bench::LineDecoder decoder;
    double now = 0;

    std::vector<bench::Reading> listen(double seconds)
    {
        now += seconds;
        std::vector<bench::Reading> out;
        const std::string bytes = tank.advance_to(now);
        decoder.feed({bytes.data(), bytes.size()}, out);
        return out;
    }
    static double last(const std::vector<bench::Reading>& readings, Channel channel)
    {
        double value = NAN;
        for (const auto& r : readings)
            if (r.channel == channel) value = r.value;
        return value;
    }
    /// One trial through the reader; NaN when there is no reading.
    double trial(double zero)
    {
        tank.direct("under");
        listen(4);
        tank.direct("let_go");
        const double start = now;
        std::vector<swing::Sample> trace;
        for (const auto& r : listen(12))
            if (r.channel == Channel::load_cell) trace.push_back({r.t_s - start, r.value - zero});
        tank.direct("up");
        const auto state = swing::read(trace);
        return state.reading ? state.reading->kg : NAN;
    }
    double zero()
    {
        tank.direct("hang");
        double sum = 0;
        int n = 0;
        for (const auto& r : listen(2))
            if (r.channel == Channel::load_cell) sum += r.value, ++n;
        return sum / n;
    }
};

} // namespace

TEST(Tank, WholeTestLeadsBackToTheTrueBody)
{
    Room room;
    ASSERT_TRUE(room.tank.direct(std::string("client ") + a_client).starts_with("client"));
    room.tank.direct("stand");
    const double mass = Room::last(room.listen(4), Channel::scale);
    EXPECT_NEAR(mass, 68.4, 0.05);
    room.tank.direct("blow");
    EXPECT_NEAR(Room::last(room.listen(4), Channel::spirometer) * gas::atps_to_btps(22.4, 757.0), 4.15, 0.25);
    const double zero = room.zero();
    hydrostatic::Input in;
    in.age_y = 31;
    in.height_cm = 171;
    in.mass_kg = mass;
    for (int i = 0; i < 6; ++i)
        if (const double kg = room.trial(zero); !std::isnan(kg)) in.trials_kg.push_back(kg);
    in.water_temp_c = Room::last(room.listen(2), Channel::water_temp);
    in.lung.residual_volume_l = 1.16;
    const auto r = hydrostatic::compute(in);
    ASSERT_TRUE(r) << r.messages().front().text;
    EXPECT_NEAR((*r)[quantity::fat_percent].value, room.tank.body().true_fat_percent(), 1.0);
}

TEST(Tank, FaultsDoWhatTheySay)
{
    Room clean;
    clean.tank.direct(std::string("client ") + a_client);
    const double reading = clean.trial(clean.zero());
    ASSERT_FALSE(std::isnan(reading));
    {
        Room room;
        room.tank.direct(std::string("client ") + a_client);
        room.tank.direct("fault air_left on");
        EXPECT_LT(room.trial(room.zero()), reading - 0.25) << "air left makes the client light";
    }
    {
        Room room;
        room.tank.direct(std::string("client ") + a_client);
        room.tank.direct("fault belt_not_zeroed on");
        EXPECT_GT(room.trial(room.zero()), reading + 2.5) << "a belt that was not zeroed makes the client heavy";
    }
    {
        Room room;
        room.tank.direct("fault garbage on");
        room.listen(20);
        EXPECT_GT(room.decoder.health().bad_frames, 20u);
    }
    {
        Room room;
        room.tank.direct("fault dropouts on");
        room.listen(60);
        EXPECT_GT(room.decoder.health().lost_frames, 20u);
    }
    {
        Room room;
        room.tank.direct("fault warm_up_drift on");
        const double before = room.zero();
        room.listen(120);
        EXPECT_NEAR(room.zero() - before, 0.04, 0.01);
    }
    for (const auto& f : virt::faults())
        EXPECT_TRUE(clean.tank.direct(std::string("fault ") + f.word + " off").starts_with("ok")) << f.word;
}

TEST(Tank, WrongDirectionsAreErrors)
{
    Room room;
    for (const char* words : {"fly", "fault gravity on", "fault garbage", "client sex=other", "client fat=heavy",
             "client fat=-3", "client wings=2", "let_go"})
        EXPECT_TRUE(room.tank.direct(words).starts_with("error")) << words;
    const virt::Body body = virt::parse_body(a_client);
    EXPECT_EQ(virt::to_text(virt::parse_body(virt::to_text(body))), virt::to_text(body));
}
