// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/lines/decoders/foreign_line.h"
#include "bench/lines/line_setup.h"
#include "virtual/foreign/interpreter.h"

#include <gtest/gtest.h>
#include "bench/base/json.h"

#include <cmath>
#include <random>
#include <set>

using namespace fusain;
using namespace fusain::bench;

namespace {

/// After the end of a frame that was opened in its middle.
std::vector<Reading> hear(ForeignLine& line, const std::string& bytes, double at_s = 0)
{
    std::vector<Reading> out;
    if (line.health().frames + line.health().bad_frames == 0) line.feed("\r\n", at_s, out);
    line.feed(bytes, at_s, out);
    return out;
}

/// A decoder with these members besides the least that one needs; null takes one away.
Outcome<Decoder> decoder(const nlohmann::json& with)
{
    nlohmann::json file = {{"kind", "fusain line decoder"}, {"id", "mine"}, {"title", "Mine"},
        {"pattern", "(?P<value>[+-]?[0-9.]+)"}, {"unit", "kg"}};
    if (with.is_object()) file.merge_patch(with);
    return read_decoder(file.dump(), "mine.json");
}

ForeignLine line_of(const nlohmann::json& with, Channel feeds = Channel::scale)
{
    const auto read = decoder(with);
    EXPECT_TRUE(read) << read.messages().front().text;
    return ForeignLine(std::make_shared<const Decoder>(*read), feeds);
}

} // namespace

TEST(Decoders, TenAndMoreShipEachWithWordsForWhatItCovers)
{
    std::set<std::string> ids;
    for (const auto& d : shipped_decoders()) {
        EXPECT_TRUE(ids.insert(d->id).second) << d->id;
        EXPECT_FALSE(d->covers.empty()) << d->id;
        EXPECT_TRUE(d->id == bench_line_id || !d->says.text.empty()) << d->id << ": no stand-in can speak it";
        EXPECT_TRUE(!d->is_open() || !d->may_feed().empty()) << d->id;
    }
    EXPECT_GE(ids.size(), 9u);
}

TEST(Decoders, WhatAStandInSaysIsUnderstoodInAnyPieces)
{
    std::mt19937_64 random(3);
    for (const auto& d : shipped_decoders()) {
        if (d->says.text.empty()) continue;
        SCOPED_TRACE(d->id);
        const Channel channel = d->is_open() ? d->may_feed().front() : d->feeds({}).front();
        virt::Interpreter indicator(d, d->is_open() ? std::optional(channel) : std::nullopt);
        ForeignLine line(d, channel);
        const bool below = row(channel).low < 0 && d->when != Decoder::When::key;
        int said = 0, understood = 0;
        for (int i = 0; i < 60; ++i) {
            Reading r{channel, 0, i * 20.0, below && i % 3 == 0 ? -3.25 - i / 100.0 : 12.5 + i / 8.0, i % 2 == 1, false,
                {31.25, 50.0}, row(channel).more.size()};
            std::string bytes = indicator.say(r);
            if (d->when == Decoder::When::asked) bytes = indicator.hear(d->ask);
            if (bytes.empty()) continue;
            ++said;
            if (i % 5 == 0) bytes = "\xFF#?" + d->frame.end + bytes; // garbage before it
            std::vector<Reading> heard;
            for (std::size_t from = 0; from < bytes.size();) {
                const std::size_t n = 1 + random() % 5;
                line.feed(std::string_view(bytes).substr(from, n), i * 20.0, heard);
                from += n;
            }
            if (heard.empty()) continue;
            ++understood;
            ASSERT_EQ(heard.front().channel, channel);
            EXPECT_NEAR(heard.front().value, r.value, 0.0051) << bytes;
            if (!d->states.empty() && d->when != Decoder::When::key) {
                EXPECT_EQ(heard.front().stable, r.stable) << bytes;
            }
            if (row(channel).more.size() == 2) {
                EXPECT_NEAR(heard.front().more[0], 31.25, 0.005);
                EXPECT_NEAR(heard.front().more[1], 50, 0.05);
            }
        }
        EXPECT_GT(said, 20);
        EXPECT_GE(understood, said - 12) << "of " << said; // a frame may be lost with the garbage before it
        EXPECT_GE(line.health().frames, static_cast<std::uint64_t>(understood));
    }
}

TEST(Decoders, TheBenchLineDescribedByDataSaysWhatItsOwnDecoderSays)
{
    ForeignLine by_data(shipped_decoder(bench_line_id));
    LineDecoder own;
    std::vector<Reading> a, b;
    by_data.feed("\n", 0, b);
    std::uint32_t seq = 0;
    for (const ChannelRow& r : channels()) {
        if (++seq % 4 == 0) ++seq; // a frame is lost
        Reading reading{r.channel, seq, 0.25 * seq, (r.low + r.high) / 2, seq % 2 == 0, false, {}, r.fewest_more};
        for (std::size_t i = 0; i < r.fewest_more; ++i) reading.more[i] = r.more[i].low + 1;
        const std::string text = encode(reading) + (seq % 5 == 0 ? "LC 7 rubbish\n" : "");
        own.feed(text, a);
        by_data.feed(text, 0, b);
    }
    ASSERT_EQ(a.size(), b.size());
    for (std::size_t i = 0; i < a.size(); ++i) {
        EXPECT_EQ(a[i].channel, b[i].channel);
        EXPECT_EQ(a[i].value, b[i].value);
        EXPECT_EQ(a[i].t_s, b[i].t_s);
        EXPECT_EQ(a[i].stable, b[i].stable);
        EXPECT_EQ(a[i].more, b[i].more);
    }
    EXPECT_EQ(own.health().bad_frames, by_data.health().bad_frames);
}

TEST(Decoders, UnitsSignsStatesAndSums)
{
    using J = nlohmann::json;
    const J with_unit = {{"pattern", "(?P<value>[0-9.,]+)(?P<sign>[-D ])(?P<unit>[a-zA-Z#]+)"}, {"negative", "D"},
        {"units", {{"#", "lb"}, {"KG", "kg"}}}};
    struct Case {
        const char* what;
        J with;
        Channel feeds;
        std::string bytes;
        std::optional<double> value;
    } cases[] = {
        {"a bare number", {}, Channel::scale, "72.5\r\n", 72.5},
        {"pounds by a word of its own", with_unit, Channel::scale, "160 #\n", 160 * 0.45359237},
        {"a letter for below zero", with_unit, Channel::load_cell, "2.5DKG\n", -2.5},
        {"grams", with_unit, Channel::scale, "72500 g\n", 72.5},
        {"a unit of another kind", with_unit, Channel::scale, "72.5 Pa\n", {}},
        {"a unit nobody knows", with_unit, Channel::scale, "72.5 stone\n", {}},
        {"Fahrenheit", {{"unit", "F"}}, Channel::water_temp, "95.0\n", 35.0},
        {"kelvin", {{"unit", "K"}}, Channel::water_temp, "308.15\n", 35.0},
        {"hectopascal to mmHg", {{"unit", "hPa"}}, Channel::barometer, "1013.25\n", 760.0},
        {"digits without a point", {{"values", {{{"group", "value"}, {"factor", 0.01}}}}}, Channel::scale, "007250\n",
            72.5},
        {"a decimal comma", {{"pattern", "(?P<value>[0-9,]+)"}, {"decimal", ","}}, Channel::scale, "72,50\n", 72.5},
        {"no human scale shows that", {}, Channel::scale, "4021\n", {}},
        {"two points", {}, Channel::scale, "7.2.5\n", {}},
        {"not a number of decimals but an exponent", {{"pattern", "(?P<value>.+)"}}, Channel::scale, "7e1\n", {}},
        {"infinity", {{"pattern", "(?P<value>.+)"}}, Channel::scale, "inf\n", {}},
        {"xor after the end",
            {{"frame", {{"start", "<"}, {"end", ">"}, {"after_end", 2}}}, {"checksum", {{"kind", "xor8"}}}}, // as hex
            Channel::scale, "<5>35", 5.0},
        {"a wrong sum", {{"frame", {{"start", "<"}, {"end", ">"}, {"after_end", 2}}}, {"checksum", {{"kind", "xor8"}}}},
            Channel::scale, "<5>36", {}},
        {"a frame cut short by the next", {{"frame", {{"start", "<"}, {"end", ">"}}}}, Channel::scale, "<7<6>", 6.0},
        {"fixed width after rubbish", {{"frame", {{"start", "="}, {"length", 4}}}, {"pattern", "(?P<value>[0-9.]{4})"}},
            Channel::scale, "x==72.5", 72.5},
        {"longer than any line", {}, Channel::scale, std::string(5000, '1') + "\n72.5\n", 72.5},
    };
    for (auto& c : cases) {
        ForeignLine line = line_of(c.with, c.feeds);
        const auto heard = hear(line, c.bytes);
        EXPECT_EQ(heard.size(), c.value ? 1u : 0u) << c.what;
        if (c.value && !heard.empty()) EXPECT_NEAR(heard.back().value, *c.value, 2e-4) << c.what;
        if (!c.value) EXPECT_EQ(line.health().bad_frames, 1u) << c.what;
    }
}

TEST(Decoders, PartOfANumberIsNoNumber)
{
    std::vector<Reading> out;
    ForeignLine line = line_of({});
    line.feed("2.5\r\n", 0, out); // the end of 72.5: the line was opened in its middle
    EXPECT_TRUE(out.empty());
    line.feed("72.5\r\n", 0, out);
    ASSERT_EQ(out.size(), 1u);
    line.feed(std::string(300, ' '), 0, out); // an end that was lost
    line.feed("4.5\r\n", 0, out);
    EXPECT_EQ(out.size(), 1u);
    line.restart(); // unplugged, and plugged in again
    line.feed("2.5\r\n72.6\r\n", 0, out);
    ASSERT_EQ(out.size(), 2u);
    EXPECT_EQ(out.back().value, 72.6);
}

TEST(Decoders, SumsAreTheKnownOnes)
{
    constexpr std::pair<ChecksumKind, unsigned> known[] = {{ChecksumKind::sum8, 0xDD}, {ChecksumKind::xor8, 0x31},
        {ChecksumKind::crc16_ccitt_false, 0x29B1}, {ChecksumKind::crc16_xmodem, 0x31C3},
        {ChecksumKind::crc16_modbus, 0x4B37}, {ChecksumKind::crc16_arc, 0xBB3D}};
    for (const auto& [kind, sum] : known) EXPECT_EQ(checksum(kind, "123456789"), sum);
    EXPECT_EQ(checksum(ChecksumKind::crc16_ccitt_false, "123456789"), crc16("123456789"));
}

TEST(Decoders, AnInstrumentAtItsEndGivesNoWeight)
{
    ForeignLine cell(shipped_decoder("letter_state"), Channel::load_cell);
    ASSERT_EQ(hear(cell, "R +   2.412 kg\r\n").size(), 1u);
    const auto over = hear(cell, "X + ------ kg\r\n");
    ASSERT_EQ(over.size(), 1u);
    EXPECT_TRUE(over[0].overload);
    EXPECT_FALSE(over[0].stable);
}

TEST(Decoders, WithoutAStateAValueHasSettledWhenItStandsStill)
{
    ForeignLine line(shipped_decoder("number_unit"), Channel::scale);
    std::optional<Reading> last;
    int settled = 0;
    for (int i = 0; i < 60; ++i) {
        const double kg = i < 20 ? 40 + i : 72.4; // somebody steps on
        char text[32];
        std::snprintf(text, sizeof text, "+%8.3f kg\r\n", kg);
        for (const Reading& r : hear(line, text, i * 0.1)) settled += r.stable, last = r;
        if (i < 20) EXPECT_EQ(settled, 0) << "one value alone says nothing, and it moves";
    }
    ASSERT_TRUE(last && last->stable);
    EXPECT_GE(settled, 28);
    EXPECT_LE(settled, 33); // not before it has stood for most of a second
}

TEST(Decoders, FramesHeardInBurstsGetTheTimesAtWhichTheyWereSpoken)
{
    ArrivalClock clock;
    double worst = 0, before = 0;
    for (int i = 0; i < 400; ++i) {
        const double spoken = 0.02 * i,
                     heard = std::ceil(spoken / 0.05 + 1e-9) * 0.05; // a bridge that sends every 50 ms
        const double t = clock.stamp(heard);
        if (i > 0) EXPECT_GT(t, before);
        if (i > 150) worst = std::max(worst, std::abs(t - spoken - 0.025));
        before = t;
    }
    EXPECT_LT(worst, 0.015);
    const double after_gap = clock.stamp(20);
    EXPECT_DOUBLE_EQ(after_gap, 20); // and anew after a pause
}

TEST(Decoders, AHostilePatternTakesNoLongerThanAnyOther)
{
    // patterns that take a machine that goes back and tries again longer than the age of the world
    for (const char* pattern : {"(?P<value>(a+)+)b", "(?P<value>(a|aa)+)c", "(?P<value>(.*)*)x",
             "(?P<value>(a?){200}a{200})b", "((((((((((?P<value>a*)*)*)*)*)*)*)*)*)*)d"}) {
        ForeignLine line = line_of({{"pattern", pattern}});
        std::vector<Reading> out;
        line.feed("\n", 0, out);
        const std::string frame = std::string(250, 'a') + "\n";
        for (int i = 0; i < 50; ++i) line.feed(frame, 0, out);
        EXPECT_TRUE(out.empty());
        EXPECT_EQ(line.health().bad_frames, 50u) << pattern;
    }
    // and what would need more memory than is given is refused when it is read
    const auto huge = decoder({{"pattern", "(?P<value>((a{1,1000}){1,1000}){1,1000})"}});
    ASSERT_FALSE(huge);
    EXPECT_NE(huge.messages().front().text.find("\"pattern\""), std::string::npos);
}

TEST(Decoders, ABadFileIsRefusedWithFileKeyAndWhatIsAllowed)
{
    using J = nlohmann::json;
    struct Case {
        J with;
        const char *key, *allowed;
    } cases[] = {
        {{{"kind", "something else"}}, "kind", "fusain line decoder"},
        {{{"id", "My Scale"}}, "\"id\"", "small letters"},
        {{{"title", nullptr}}, "\"title\" is missing", "text"},
        {{{"patern", "x"}}, "\"patern\" is not known", "pattern"},
        {{{"pattern", "(?P<value>["}}, "\"pattern\"", "regular expression"},
        {{{"pattern", "(?P<value>.)\\1"}}, "\"pattern\"", "back references"},
        {{{"pattern", "(?P<value>.)(?P<wieght>.)"}}, "wieght", "allowed are value"},
        {{{"pattern", "[0-9]+"}}, "\"values.group\"", "group that the pattern names"},
        {{{"unit", "stone"}}, "\"unit\"", "kg"},
        {{{"when", "often"}}, "\"when\"", "always, asked, key"},
        {{{"when", "asked"}}, "\"ask.text\"", "one is missing"},
        {{{"states", {{"S", "settled"}}}}, "\"states\"", "one is missing"},
        {{{"pattern", "(?P<value>.)(?P<state>.)"}, {"states", {{"S", "calm"}}}}, "\"states.S\"", "settled, moving"},
        {{{"frame", {{"length", 8}}}}, "\"frame.end\"", "start together with a length"},
        {{{"frame", {{"start", "="}, {"length", 800}}}}, "\"frame.length\"", "1 to 256"},
        {{{"checksum", {{"kind", "crc32"}}}}, "\"checksum.kind\"", "crc16_modbus"},
        {{{"checksum", {{"kind", "xor8"}}}}, "\"checksum.kind\" needs a place", "sum"},
        {{{"serial", {{"baud", 9601}}}}, "\"serial.baud\"", "9600"},
        {{{"serial", {{"parity", "odd-ish"}}}}, "\"serial.parity\"", "even"},
        {{{"values", {{{"group", "value"}, {"channel", "XX"}}}}}, "\"values.1.channel\"", "LC"},
        {{{"ask", {{"text", "?"}, {"every_ms", 1}}}, {"when", "asked"}}, "\"ask.every_ms\"", "20"},
        {{{"decimal", ";"}}, "\"decimal\"", ". or ,"},
        {{{"version", 2}}, "\"version\"", "1"},
    };
    for (const Case& c : cases) {
        const auto read = decoder(c.with);
        ASSERT_FALSE(read) << c.with;
        const std::string& text = read.messages().front().text;
        EXPECT_NE(text.find("mine.json"), std::string::npos) << text;
        EXPECT_NE(text.find(c.key), std::string::npos) << text;
        EXPECT_NE(text.find(c.allowed), std::string::npos) << text;
    }
    const auto broken = read_decoder("{\n\"kind\": \"fusain line decoder\",\n oops", "b.json");
    ASSERT_FALSE(broken);
    EXPECT_NE(broken.messages().front().text.find("line 3"), std::string::npos);
}

TEST(Lines, AreKeptAsTheyAreAndRefusedWithTheField)
{
    LineSetup line;
    line.place = "/dev/ttyUSB3";
    line.name = "Wall display";
    line.decoder = shipped_decoder("letter_state");
    line.feeds = Channel::load_cell;
    line.serial = {19200, 7, 2, "even", "software"};
    const auto back = line_from(kept(line), shipped_decoders());
    ASSERT_TRUE(back);
    EXPECT_EQ(written(kept(*back)), written(kept(line)));
    EXPECT_EQ(back->serial, line.serial);

    struct Case {
        void (*spoil)(LineSetup&);
        const char *code, *field;
    } cases[] = {
        {[](LineSetup& l) { l.place.clear(); }, "missing_field", "place"},
        {[](LineSetup& l) { l.place = "tcp:host"; }, "bad_place", "place"},
        {[](LineSetup& l) { l.place = "tcp:host:70000"; }, "bad_place", "place"},
        {[](LineSetup& l) { l.feeds.reset(); }, "missing_field", "feeds"},
        {[](LineSetup& l) { l.feeds = Channel::water_temp; }, "unknown_choice", "feeds"},
        {[](LineSetup& l) { l.serial.baud = 9601; }, "unknown_choice", "baud"},
        {[](LineSetup& l) { l.serial.parity = "maybe"; }, "unknown_choice", "parity"},
    };
    for (const Case& c : cases) {
        LineSetup bad = line;
        c.spoil(bad);
        const auto why = check(bad);
        ASSERT_TRUE(why) << c.field;
        EXPECT_EQ(why->code, c.code);
        EXPECT_EQ(why->field, c.field);
    }
    KeptLine gone = kept(line);
    gone.decoder = "taken_away";
    const auto unknown = line_from(gone, shipped_decoders());
    ASSERT_FALSE(unknown);
    EXPECT_EQ(unknown.messages().front().code, "unknown_decoder");
}
