// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/channels/line.h"

#include <gtest/gtest.h>

#include <cmath>

#include <random>

using namespace fusain::bench;

namespace {

std::vector<Reading> decode(LineDecoder& d, std::string_view bytes)
{
    std::vector<Reading> out;
    d.feed({bytes.data(), bytes.size()}, out);
    return out;
}

} // namespace

TEST(Line, CheckSumIsTheStandardOne) { EXPECT_EQ(crc16("123456789"), 0x29B1); }

TEST(Line, EveryChannelThereAndBack)
{
    for (const ChannelRow& r : channels()) {
        LineDecoder d;
        const double value = std::floor((r.low + r.high) / 2 + 0.6); // a switch says 0 or 1
        Reading said{r.channel, 42, 12.345, value, true, false, {}, r.more.size()};
        for (std::size_t i = 0; i < r.more.size(); ++i) said.more[i] = std::floor(r.more[i].high / 2);
        const auto out = decode(d, encode(said));
        ASSERT_EQ(out.size(), 1u) << r.word;
        EXPECT_EQ(out[0].channel, r.channel);
        EXPECT_EQ(out[0].seq, 42u);
        EXPECT_NEAR(out[0].value, value, 1e-4);
        EXPECT_NEAR(out[0].t_s, 12.345, 1e-9);
        EXPECT_TRUE(out[0].stable);
        EXPECT_EQ(out[0].more, said.more) << r.word;
        EXPECT_EQ(out[0].more_count, r.more.size());
    }
    // too few values, too many, one that cannot be
    for (const auto& [count, electrode] : {std::pair{0u, 3.0}, {2u, 3.0}, {1u, 9.0}}) {
        LineDecoder other;
        Reading said{Channel::contact, 1, 0, 300, true, false, {electrode, 0}, count};
        std::string line = count == 2 ? std::string() : encode(said);
        if (count == 2) {
            const std::string body = "CN 000001 0000000 +300 +3 +4 S";
            char sum[8];
            std::snprintf(sum, sizeof sum, " ~%04X\n", crc16(body));
            line = body + sum;
        }
        EXPECT_TRUE(decode(other, line).empty()) << line;
        EXPECT_EQ(other.health().bad_frames, 1u);
    }
    LineDecoder d;
    EXPECT_NEAR(decode(d, encode({Channel::load_cell, 1, 0, -0.4321, false, false}))[0].value, -0.4321, 1e-9);
    EXPECT_TRUE(decode(d, encode({Channel::load_cell, 2, 0, 1, false, true}))[0].overload);
}

TEST(Line, ByteByByteAndWithCarriageReturns)
{
    LineDecoder d;
    std::string text = encode({Channel::scale, 7, 1, 70.123, true, false});
    text.insert(text.size() - 1, "\r");
    std::vector<Reading> out;
    for (char c : text) d.feed({&c, 1}, out);
    ASSERT_EQ(out.size(), 1u);
    EXPECT_NEAR(out[0].value, 70.123, 1e-9);
}

TEST(Line, EverySingleCorruptByteIsCaught)
{
    const std::string line = encode({Channel::load_cell, 123, 4.5, 2.4381, true, false});
    int accepted = 0;
    for (std::size_t i = 0; i + 1 < line.size(); ++i)
        for (int bit = 0; bit < 8; ++bit) {
            std::string bad = line;
            bad[i] = static_cast<char>(bad[i] ^ (1 << bit));
            LineDecoder d;
            // a lower-case check sum is the same sum
            for (const Reading& r : decode(d, bad)) accepted += !(r.value == 2.4381 && r.seq == 123);
        }
    EXPECT_EQ(accepted, 0);
}

TEST(Line, ResynchronisesAfterGarbage)
{
    std::mt19937 random(3);
    LineDecoder d;
    int good = 0;
    for (std::uint32_t i = 0; i < 3000; ++i) {
        std::string noise;
        for (int k = static_cast<int>(random() % 200); k > 0; --k) noise += static_cast<char>(random());
        decode(d, noise);
        decode(d, "\n");
        const auto out = decode(d, encode({Channel::load_cell, i, i * 0.01, 1.5, true, false}));
        good += out.size() == 1 && out[0].value == 1.5;
    }
    EXPECT_EQ(good, 3000);
    EXPECT_GT(d.health().bad_frames, 1000u);
    EXPECT_EQ(d.health().lost_frames, 0u);
}

TEST(Line, CountsLostFramesAndRefusesImpossibleValues)
{
    LineDecoder d;
    decode(d, encode({Channel::scale, 10, 0, 70, true, false}));
    decode(d, encode({Channel::scale, 14, 0, 70, true, false}));
    EXPECT_EQ(d.health().lost_frames, 3u);
    d.restart();
    decode(d, encode({Channel::scale, 90, 0, 70, true, false}));
    EXPECT_EQ(d.health().lost_frames, 3u);
    for (const char* body : {"SC 000001 0000001 +900.000 S", "SC 000001 0000001 +nan S", "XX 000001 0000001 +70.0 S",
             "SC 1 1 +70.0 Z", "SC 1 1 +70.0", "SC 1 +70.0 S", ""}) {
        char text[96];
        std::snprintf(text, sizeof text, "%s ~%04X\n", body, crc16(body));
        EXPECT_TRUE(decode(d, text).empty()) << body;
    }
}

TEST(Line, AFrameThatComesTwiceIsTakenOnce)
{
    LineDecoder d;
    std::vector<Reading> out;
    const auto feed = [&](std::uint32_t seq, double litres) {
        const std::string bytes = encode({Channel::spirometer, seq, 0.1 * seq, litres, true, false});
        d.feed({bytes.data(), bytes.size()}, out);
    };
    feed(7, 4.1);
    feed(7, 4.1);
    feed(7, 4.1);
    EXPECT_EQ(out.size(), 1u) << "a blow is a blow";
    EXPECT_EQ(d.health().repeated_frames, 2u);
    EXPECT_EQ(d.health().lost_frames, 0u);
    feed(8, 4.1);
    EXPECT_EQ(out.size(), 2u) << "the same volume blown again is another blow";
    // another channel counts for itself; after the line was lost everything is new
    const std::string other = encode({Channel::scale, 8, 1, 68, true, false});
    d.feed({other.data(), other.size()}, out);
    EXPECT_EQ(out.size(), 3u);
    d.restart();
    feed(8, 4.1);
    EXPECT_EQ(out.size(), 4u);
}
