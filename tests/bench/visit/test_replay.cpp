// SPDX-License-Identifier: GPL-3.0-or-later
// Old logs give the same numbers for ever, bit for bit: every fixture of an old lab file and the demo's visits, after
// each event and at the end, against a table that was made before the visit was taken apart into methods
// (tests/cases/replay/numbers.txt, at 9b9fdc2). What differs is written to replay-now.txt beside the programs.
#include "bench/base/fields.h"
#include "bench/visit/visit.h"
#include "version.h"

#include <gtest/gtest.h>

#include <cstdio>
#include <fstream>
#include <sstream>

using namespace fusain;

namespace {

std::string bits(double x)
{
    char text[40];
    std::snprintf(text, sizeof text, "%a", x);
    return text;
}

void tell(std::ostream& out, const Outcome<Result>& result)
{
    for (const Message& m : result.messages()) out << "  says " << m.code << ' ' << m.field << " | " << m.text << '\n';
    if (!result) return;
    const Result& r = *result;
    for (const Value& q : r.values) out << "  " << q.quantity->id << ' ' << bits(q.value) << " u " << bits(q.u) << '\n';
    out << "  used";
    for (int n : r.used) out << ' ' << n;
    out << " spread " << bits(r.spread) << '\n';
    for (const auto& s : r.budget(quantity::fat_percent).shares)
        out << "  budget " << s.input.symbol << ' ' << bits(s.input.u) << ' ' << bits(s.u) << '\n';
    out << "  fat u " << bits(r[quantity::fat_percent].u_measurement()) << ' ' << bits(r[quantity::fat_percent].u_model)
        << '\n';
    for (const auto& rung : r.ladder)
        out << "  ladder " << rung.title << " | " << rung.detail << ' ' << bits(rung.size) << ' ' << bits(rung.u)
            << '\n';
    for (const StoryStep& s : r.story)
        out << "  story " << s.symbol << ' ' << bits(s.value) << ' ' << bits(s.u) << " | " << s.source << '\n';
}

std::string told(const std::string& name, const bench::Json& events)
{
    std::ostringstream out;
    bench::Visit v;
    for (const bench::Json& e : events) {
        const auto why = v.apply({e["seq"], e["at"], e["who"], e["kind"], e["body"].dump()});
        out << name << " #" << v.last_seq << ' ' << e["kind"].get<std::string>() << " -> " << v.next_step()->title;
        if (why) out << " REFUSED " << why->text;
        for (double reading : v.readings()) out << ' ' << bits(reading);
        if (const auto so_far = v.provisional()) out << " so far " << bits((*so_far)[quantity::fat_percent].value);
        out << '\n';
    }
    tell(out, v.result());
    for (const auto& w : v.what_ifs())
        out << "  what if " << w.title << ' ' << bits(w.fat_percent_change) << ' ' << w.is_mistake << '\n';
    return out.str();
}

std::vector<std::string> lines(std::istream& in)
{
    std::vector<std::string> out;
    for (std::string line; std::getline(in, line);)
        if (!line.starts_with("engine ") && line.find("balance_") == std::string::npos &&
            line.find("noted_before") == std::string::npos)
            out.push_back(line); // told since then
    return out;
}

} // namespace

TEST(Replay, OldLogsGiveTheSameNumbersBitForBit)
{
    std::ifstream logs(OWN_CASES "/replay/logs.jsonl"), numbers(OWN_CASES "/replay/numbers.txt");
    std::stringstream now;
    int visits = 0;
    for (std::string line; std::getline(logs, line); ++visits) {
        const auto log = bench::Json::parse(line);
        now << told(log["log"], log["events"]);
    }
    EXPECT_EQ(visits, 20);
    std::string engine;
    std::getline(numbers, engine);
    EXPECT_EQ(engine, "engine " FUSAIN_VERSION) << "these numbers are this version's";
    const auto is = lines(now), was = lines(numbers);
    EXPECT_EQ(is.size(), was.size());
    if (is != was) // with another version in CMakeLists.txt they may become tests/cases/replay/numbers.txt
        std::ofstream(TEST_BIN_DIR "/replay-now.txt") << "engine " FUSAIN_VERSION "\n" << now.str();
    int shown = 0;
    for (std::size_t i = 0; i < std::min(is.size(), was.size()) && shown < 10; ++i)
        if (is[i] != was[i] && ++shown) ADD_FAILURE() << "was " << was[i] << "\nis  " << is[i];
}
