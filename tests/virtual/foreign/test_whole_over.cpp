// SPDX-License-Identifier: GPL-3.0-or-later
// A whole test under water over every decoder that ships and can carry one: what an indicator prints, heard as bytes,
// must lead to the same body as the bench line does.
#include "bench/base/fields.h"
#include "bench/lines/decoders/foreign_line.h"
#include "bench/tank/tank_take.h"
#include "bench/visit/visit.h"
#include "virtual/foreign/interpreter.h"
#include "virtual/tank/tank.h"

#include <gtest/gtest.h>
#include "bench/base/json.h"

using namespace fusain;
using bench::Channel, bench::Json;

namespace {

constexpr const char* a_client =
    "client sex=female age=31 height=171 fat=14.6 ffm=53.8 density=1.1 rv=1.16 vc=4.15 gut=0.1 learning=0.3 calm=0.9";

/// The tank room, its scale and load cell each shown by an indicator that speaks otherwise.
struct Room {
    explicit Room(const std::shared_ptr<const bench::Decoder>& d)
        : cell_says(d, Channel::load_cell), scale_says(d, Channel::scale), cell(d, Channel::load_cell),
          scale(d, Channel::scale)
    {
        tank.direct(a_client);
    }
    void pass(double seconds)
    {
        const double step = 0.01;
        for (const double until = now + seconds; now < until;) {
            now += step;
            std::vector<bench::Reading> measured, heard;
            const std::string bytes = tank.advance_to(now);
            own.feed({bytes.data(), bytes.size()}, measured);
            std::string cell_bytes, scale_bytes;
            for (const bench::Reading& r : measured) {
                if (r.channel == Channel::load_cell) cell_bytes += cell_says.say(r);
                if (r.channel == Channel::scale) scale_bytes += scale_says.say(r);
            }
            const auto& d = cell.decoder();
            if (d.when == bench::Decoder::When::asked && now - asked_at >= d.ask_every_ms / 1000.0) {
                asked_at = now;
                cell_bytes += cell_says.hear(d.ask);
                scale_bytes += scale_says.hear(d.ask);
            }
            cell.feed(cell_bytes, now, heard);
            scale.feed(scale_bytes, now, heard);
            for (const bench::Reading& r : heard) {
                if (r.channel == Channel::scale && r.stable) kg = r.value;
                if (r.channel == Channel::load_cell) take.feed(r);
            }
        }
    }
    virt::Tank tank{5};
    bench::LineDecoder own;
    virt::Interpreter cell_says, scale_says;
    bench::ForeignLine cell, scale;
    bench::TankTake take;
    double now = 0, asked_at = 0;
    std::optional<double> kg;
};

const bench::TankShown& shown(Room& room, std::shared_ptr<const bench::Shown>& held)
{
    held = room.take.state();
    return dynamic_cast<const bench::TankShown&>(*held);
}

} // namespace

TEST(WholeTestOver, EveryDecoderThatCarriesAWeight)
{
    int over = 0, swings = 0;
    for (const auto& d : bench::shipped_decoders()) {
        if (!d->is_open() || d->values.front().unit == "C") continue;
        SCOPED_TRACE(d->id);
        ++over;
        Room room(d);
        std::shared_ptr<const bench::Shown> held;
        long seq = 0;
        bench::Visit v;
        const auto apply = [&](const char* kind, Json body = Json::object()) {
            const auto why = v.apply({++seq, "2026-11-23T07:20:00.000Z", "M. Tanguy", kind, body.dump()});
            EXPECT_FALSE(why) << kind << ": " << why->text;
        };
        apply("started",
            {{"log", 2}, {"client_id", 1}, {"birth_date", "1995-05-02"}, {"sex", "female"}, {"height_cm", 171.0}});
        apply("stops");
        apply("identity", {{"cm", 171.0}});
        room.tank.direct("stand");
        room.pass(8);
        ASSERT_TRUE(room.kg) << "the scale never settled";
        EXPECT_NEAR(*room.kg, 68.4, 0.06);
        apply("mass", {{"kg", *room.kg}, {"source", "scale"}});
        apply("lungs", {{"route", "measured"}, {"rv_l", 1.16}});
        room.tank.direct("step_down");
        if (d->says.hz < 20 || d->when == bench::Decoder::When::key) {
            // too slow for a swing: its display is read and typed, as in every lab with such a one
            room.tank.direct("hang");
            room.pass(4);
            apply("zero", {{"kg", 7.5}, {"source", "typed"}});
            apply("water", {{"c", 34.6}});
            for (int i = 0; i < 3; ++i)
                apply("trial_typed", {{"what", "weighing"}, {"source", "typed"}, {"kg", 7.5 + 2.31}});
            EXPECT_TRUE(v.result());
            continue;
        }
        ++swings;
        room.tank.direct("hang");
        room.pass(6);
        const auto& zero = shown(room, held);
        ASSERT_TRUE(zero.steady) << "no zero: scatter " << zero.sd_kg;
        apply("zero", {{"kg", zero.mean_kg}, {"sd_kg", zero.sd_kg}});
        apply("water", {{"c", 34.6}});
        room.tank.direct("belt_off");
        for (int i = 0; i < 6 && v.readings().size() < 4; ++i) {
            apply("trial_begun", {{"what", "weighing"}});
            room.take.begin(bench::tank_of(v).zero_kg.value_or(0));
            room.tank.direct("under");
            room.pass(4);
            room.tank.direct("let_go");
            room.take.mark();
            room.pass(12);
            const auto& now = shown(room, held);
            ASSERT_EQ(room.take.broken(), "");
            if (now.swing.reading)
                apply("trial_taken", {{"kg", now.swing.reading->kg}, {"u_kg", now.swing.reading->u_kg}});
            else
                apply("trial_thrown_out", {{"number", static_cast<int>(v.trials.size())}, {"reason", "not calm"}});
            room.take.end();
            room.tank.direct("up");
            room.pass(6);
        }
        const auto result = v.result();
        ASSERT_TRUE(result) << result.messages().front().text << " after " << v.readings().size();
        const double truth = 100 * 14.6 / 68.4;
        EXPECT_NEAR((*result)[quantity::fat_percent].value, truth, 2.0);
    }
    EXPECT_GE(over, 9);
    EXPECT_GE(swings, 6);
}
