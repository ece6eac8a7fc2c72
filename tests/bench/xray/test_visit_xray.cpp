// SPDX-License-Identifier: GPL-3.0-or-later
// A scan at the bench without windows: the virtual table's rows through decoder, take, log and result; what forbids the
// beam, what spoils it, and where lines lie.
#include "bench/base/fields.h"
#include "bench/visit/methods.h"
#include "bench/xray/xray_take.h"
#include "core/xray/visceral.h"
#include "core/xray/watch.h"
#include "virtual/table/xray_table.h"

#include <gtest/gtest.h>

#include <chrono>
#include <thread>

using namespace fusain;
using namespace fusain::bench;

namespace {

virt::Body somebody(double fat_kg = 17, double ffm_kg = 60)
{
    virt::Body b;
    b.sex = Sex::male;
    b.height_cm = 176;
    b.fat_mass_kg = fat_kg;
    b.fat_free_mass_kg = ffm_kg;
    return b;
}

/// As the log has it.
template <class E>
Json stored(const E& e)
{
    return Json::parse(written(e));
}

Json typed_scan(const xray::Scan& scan, const xray::Table& table, xray::Half half, Eigen::Index columns)
{
    event::ScanTyped e;
    static_cast<ScanTaken&>(e) = scan_taken(scan, {}, table, half, columns);
    return stored(e);
}

/// A visit that grows by events; what is refused is told.
struct Log {
    Visit visit;
    std::string who = "J. Corre";
    std::optional<Message> add(const std::string& kind, Json body = Json::object())
    {
        const Event e{visit.last_seq + 1, "2026-11-26T08:00:00.000Z", who, kind, body.dump()};
        auto why = visit.apply(e);
        if (!why) events.push_back(e);
        return why;
    }
    void must(const std::string& kind, Json body = Json::object())
    {
        if (const auto why = add(kind, std::move(body))) ADD_FAILURE() << kind << ": " << why->text;
    }
    std::vector<Event> events;
};

Json started(Json more = Json::object())
{
    Json out = {{"client_id", 1}, {"name", "Yann Pennec"}, {"birth_date", "1990-05-01"}, {"sex", "male"},
        {"height_cm", 176}, {"method", "absorptiometry"}, {"profile", "stand_in_table_1"}, {"licensed", {"J. Corre"}},
        {"rated_mass_kg", 180}, {"dose_usv", 4.0}, {"log", 2}};
    out.update(more);
    return out;
}

Log lying(Json more = Json::object(), double kg = 77, Json stops = {{"stop", Json::array()}, {"noted", Json::array()}})
{
    Log log;
    log.must("started", started(std::move(more)));
    log.must("identity", {{"cm", 176}});
    log.must("stops", std::move(stops));
    log.must("mass", {{"kg", kg}, {"source", "scale"}});
    log.must("lying", {{"seen", {"centred in the field"}}, {"left_out", Json::array()}});
    return log;
}

/// The virtual table and the take that listens to it, at whatever speed the machine has.
struct Room {
    explicit Room(const virt::Body& body) : table(11) { table.direct("client " + virt::to_text(body)); }

    void begin(const Visit& v)
    {
        hear(0.5); // it is heard before anything begins
        take.begin(v, v.row().takes.front());
    }
    void hear(double seconds)
    {
        table.hear(take.to_say());
        now_s += seconds;
        std::vector<PictureWord> words;
        std::string rest;
        decoder.feed(table.advance_to(now_s), words, rest);
        for (const PictureWord& w : words)
            if (w.kind != PictureWord::Kind::row || w.row != lost_row) take.feed(w);
        const Signal more = take.rows();
        rows.columns = more.columns;
        rows.values.insert(rows.values.end(), more.values.begin(), more.values.end());
    }
    const XrayShown& shown() { return *(state = std::dynamic_pointer_cast<const XrayShown>(take.state())); }
    /// Until this is so, or the scan is broken, or something never happens.
    template <class Until>
    bool run(Until until, double step_s = 4)
    {
        for (int i = 0; i < 20000 && take.broken().empty(); ++i) {
            hear(step_s);
            if (until(shown())) return true;
            std::this_thread::sleep_for(std::chrono::milliseconds(1)); // the map is made beside this
        }
        return false;
    }
    virt::XrayTable table;
    XrayTake take;
    PictureDecoder decoder;
    Signal rows;
    int lost_row = -1; ///< on the way
    double now_s = 0;
    std::shared_ptr<const XrayShown> state;
};

const auto whole_scan = [](const XrayShown& x) { return x.complete; };

bool says(const Messages& messages, const std::string& code)
{
    return std::any_of(messages.begin(), messages.end(), [&](const Message& m) { return m.code == code; });
}

} // namespace

TEST(XrayVisit, FromTheTablesRowsToTheResultAndBack)
{
    Log log = lying();
    log.must("trial_begun", {{"what", take::scan}});
    Room room(somebody());
    room.begin(log.visit);
    EXPECT_TRUE(xray_standing(room.shown(), 1)->why_not) << "taken before the last row";
    ASSERT_TRUE(room.run(whole_scan)) << room.take.broken();
    const auto standing = xray_standing(room.shown(), 1);
    ASSERT_FALSE(standing->why_not);
    log.must("trial_taken", Json::parse(standing->taken->body));
    EXPECT_FALSE(log.visit.result()) << "nobody has looked at the lines";
    const xray::Scan& scan = **room.state->scan;
    log.must("lines", stored(event::lines_of(scan.made_of, scan.lines, "program", {})));
    const auto result = log.visit.result();
    ASSERT_TRUE(result) << result.messages().front().text;
    EXPECT_NEAR((*result)[quantity::fat_mass].value, 17, 0.9);
    EXPECT_NEAR((*result)[quantity::lean_soft_tissue].value + (*result)[quantity::bone_mineral].value, 60, 1.8);
    EXPECT_GT((*result)[quantity::visceral_fat].value, 0);

    // the log alone gives it again, to the last bit
    Visit again;
    for (const Event& e : log.events) ASSERT_FALSE(again.apply(e));
    const auto back = again.result();
    for (const Value& v : result->values) {
        EXPECT_EQ(v.value, (*back)[*v.quantity].value) << v.quantity->id;
        EXPECT_EQ(v.u, (*back)[*v.quantity].u) << v.quantity->id;
    }
    // regions that do not add up to the pixels ask to be measured again
    Log short_of = lying();
    short_of.must("trial_begun", {{"what", take::scan}});
    Json lacking = Json::parse(standing->taken->body);
    lacking["regions"]["left_leg"]["fat_g"] = lacking["regions"]["left_leg"]["fat_g"].get<double>() - 300;
    short_of.must("trial_taken", lacking);
    EXPECT_FALSE(says(result.messages(), "sum_differs"));
    short_of.must("lines", {{"lines", lacking["lines"]}, {"regions", lacking["regions"]}, {"by", "program"}});
    EXPECT_TRUE(says(short_of.visit.result().messages(), "sum_differs"));
    // and the recording gives the map that was read
    const auto map = map_from(room.rows, *xray_of(log.visit).standing(log.visit));
    ASSERT_TRUE(map);
    const auto reread = read_map(*map, *room.state->table, xray::Half::none);
    EXPECT_EQ(xray::whole((*reread).regions).fat_g, xray::whole(scan.regions).fat_g);
    EXPECT_FALSE(map_from({map_columns, {0, 0, 1, 1}}, *xray_of(log.visit).standing(log.visit))) << "a row of many";
}

TEST(XrayVisit, WhatForbidsTheBeam)
{
    struct Row {
        const char* code;
        Json more;
        double kg;
        Json stops;
        const char* who;
    };
    const Json none = {{"stop", Json::array()}, {"noted", Json::array()}};
    for (const Row& r : {Row{"", {}, 77, none, "J. Corre"},
             Row{"pregnant", {}, 77, {{"stop", Json::array()}, {"noted", Json::array()}, {"pregnant", true}},
                 "J. Corre"},
             Row{"over_rated", {{"rated_mass_kg", 120}}, 121, none, "J. Corre"},
             Row{"not_licensed", {}, 77, none, "R. Prigent"},
             Row{"not_licensed", {{"licensed", Json::array()}}, 77, none, "J. Corre"},
             Row{"no_tissue_table", {{"profile", ""}}, 77, none, "J. Corre"},
             Row{"no_tissue_table", {{"profile", "unheard_of"}}, 77, none, "J. Corre"}}) {
        Log log = lying(r.more.is_null() ? Json::object() : r.more, r.kg, r.stops);
        log.who = r.who;
        const auto why = log.add("trial_begun", {{"what", take::scan}});
        EXPECT_EQ(why ? why->code : "", r.code);
    }
    Log early;
    early.must("started", started());
    EXPECT_TRUE(early.add("trial_begun", {{"what", take::scan}})) << "before anybody was asked";
    // typing gets no further past a stop than the beam does
    Log pregnant = lying(Json::object(), 77, {{"stop", Json::array()}, {"noted", Json::array()}, {"pregnant", true}});
    const Json mass = {{"fat_g", 3000}, {"lean_g", 9000}, {"bmc_g", 400}};
    Json regions;
    for (std::size_t i = 0; i < xray::part_count; ++i) regions[xray::region_rows[i].id] = mass;
    EXPECT_EQ(pregnant.add("trial_typed", {{"what", take::scan}, {"source", "typed"}, {"regions", regions}})->code,
        "pregnant");
}

TEST(XrayVisit, WhatSpoilsAScanIsSeenAndSaid)
{
    struct Row {
        const char *fault, *code;
        virt::ScanFaults as;
        bool turned;
        double by;  ///< share of the rows by which it must be seen
        bool value; ///< there is a result all the same
    };
    const virt::TrueMap truth = virt::lie_down(somebody(), {}, 660, 1980, 5);
    virt::ScanFaults moves, off, metal, swapped;
    moves.motion_mm = 16;
    moves.motion_at = 0.62;
    off.shifted_mm = 120;
    metal.metal_mm = 40;
    swapped.frames_swapped = true;
    for (const Row& r : {Row{"moves", "motion", moves, false, 0.72, true},
             Row{"off_field", "off_field", off, false, 0.55, true}, Row{"metal_on", "metal", metal, false, 0.50, true},
             Row{"wrong_way", "wrong_way_round", {}, true, 0.30, false},
             Row{"frames_swapped", "frames_swapped", swapped, false, 0.25, false}}) {
        const Log log = [] {
            Log l = lying();
            l.must("trial_begun", {{"what", take::scan}});
            return l;
        }();
        // row by row, as the take looks at it
        xray::Map map = virt::scan(truth, virt::stand_in_table(), {}, r.as, 3);
        if (r.turned)
            for (xray::Image* image : {&map.low, &map.high}) *image = image->reverse().eval();
        double seen_at = 2;
        for (Eigen::Index rows = 20; rows <= map.rows() && seen_at > 1; rows += 20) {
            xray::Map so_far = map;
            so_far.low.conservativeResize(rows, Eigen::NoChange);
            so_far.high.conservativeResize(rows, Eigen::NoChange);
            if (says(xray::watch(so_far, virt::stand_in_table(), false), r.code))
                seen_at = static_cast<double>(rows) / static_cast<double>(map.rows());
        }
        EXPECT_LE(seen_at, r.by) << r.fault;

        Room room(somebody());
        room.table.direct(std::string("fault ") + r.fault + " on");
        room.begin(log.visit);
        room.run(whole_scan);
        ASSERT_TRUE(room.state->complete) << r.fault << room.take.broken();
        EXPECT_TRUE(says(room.state->found, r.code)) << r.fault << " when it was read";
        EXPECT_EQ(static_cast<bool>(*room.state->scan), r.value) << r.fault;
        EXPECT_EQ(xray_standing(*room.state, 1)->why_not.has_value(), !r.value) << r.fault;
    }
}

TEST(XrayVisit, StoppedAndLostBeams)
{
    Log log = lying();
    log.must("trial_begun", {{"what", take::scan}});
    Room room(somebody());
    room.begin(log.visit);
    ASSERT_TRUE(room.run([](const XrayShown& x) { return x.rows_seen >= 100; }, 2));
    room.take.end();
    EXPECT_EQ(room.take.to_say(), say_stop) << "the beam goes off at once";
    room.table.hear(say_stop);
    room.hear(1);
    const std::size_t kept = room.rows.size();
    EXPECT_GE(kept, 100u * 132u);
    room.hear(60);
    EXPECT_EQ(room.rows.size(), kept) << "rows after the beam was stopped";

    log.must("trial_thrown_out", {{"number", 1}, {"reason", "stopped in row 100"}});
    EXPECT_EQ(xray_of(log.visit).beams(log.visit), 1) << "a stopped beam is a dose";
    log.must("trial_begun", {{"what", take::scan}});
    room.begin(log.visit);
    ASSERT_TRUE(room.run([](const XrayShown& x) { return x.rows_seen >= 50; }, 2));
    room.take.picture_lost();
    EXPECT_NE(room.take.broken().find("lost in row"), std::string::npos) << room.take.broken();
    EXPECT_EQ(xray_of(log.visit).beams(log.visit), 2);

    // a row that was lost on the way
    Room gap(somebody());
    gap.lost_row = 210;
    gap.begin(log.visit);
    gap.run(whole_scan);
    EXPECT_NE(gap.take.broken().find("1 of 396 rows never came whole"), std::string::npos) << gap.take.broken();

    // a table that is not the one in the register
    Room other(somebody());
    other.hear(0.5);
    auto foreign = std::make_shared<xray::Table>(virt::stand_in_table());
    foreign->id = "another_table";
    other.take.begin(foreign, xray::Half::none);
    other.run(whole_scan);
    EXPECT_NE(other.take.broken().find("another_table"), std::string::npos) << other.take.broken();
}

TEST(XrayVisit, HalfABodyIsMirrored)
{
    const virt::Body body = somebody(34, 66);
    const virt::TrueMap truth = virt::lie_down(body, {}, 660, 1980, 5);
    for (xray::Half half : {xray::Half::right, xray::Half::left}) {
        virt::ScanFaults beside;
        beside.shifted_mm = half == xray::Half::right ? 145 : -145;
        const xray::Map map = virt::scan(truth, virt::stand_in_table(), {}, beside, 3);
        EXPECT_TRUE(says(read_map(map, virt::stand_in_table(), xray::Half::none).messages(), "off_field"));
        const auto scan = read_map(map, virt::stand_in_table(), half);
        ASSERT_TRUE(scan) << scan.messages().front().text;
        EXPECT_FALSE(says(scan.messages(), "off_field"));
        const xray::Mass all = xray::whole((*scan).regions);
        EXPECT_NEAR(all.fat_g, 34000, 0.08 * 34000) << word(half);
        EXPECT_NEAR(all.lean_g + all.bmc_g, 66000, 0.05 * 66000) << word(half);
        EXPECT_NEAR((*scan).regions[1].lean_g, (*scan).regions[2].lean_g, 0.08 * (*scan).regions[1].lean_g);
        Log log = lying({{"log", 2}}, 100);
        Json kept = typed_scan(*scan, virt::stand_in_table(), half, map.columns());
        kept.update({{"what", take::scan}, {"source", "file"}, {"file", "a.dcm"}, {"sha256", std::string(64, 'a')}});
        log.must("trial_typed", kept);
        log.must("lines", stored(event::lines_of((*scan).made_of, (*scan).lines, "program", {})));
        const auto told = log.visit.result();
        EXPECT_TRUE(says(told.messages(), "half_body"));
        EXPECT_FALSE(told->find(quantity::legs_asymmetry)) << "a mirror has no right and left";
    }
    // and is said wherever the result stands
    Log log = lying();
    Json regions;
    for (std::size_t i = 0; i < xray::part_count; ++i)
        regions[xray::region_rows[i].id] = {{"fat_g", 3000}, {"lean_g", 9000}, {"bmc_g", 400}};
    Json body_json = {{"what", take::scan}, {"source", "typed"}, {"regions", regions}, {"sides_told_apart", false}};
    log.must("trial_typed", body_json);
    const auto result = log.visit.result();
    EXPECT_TRUE(says(result.messages(), "sides_merged"));
    EXPECT_FALSE(result->find(quantity::legs_asymmetry)) << "halves have no right and left";
}

TEST(XrayVisit, LinesBesideLastTimes)
{
    const virt::TrueMap truth = virt::lie_down(somebody(), {}, 660, 1980, 5);
    const auto scan =
        read_map(virt::scan(truth, virt::stand_in_table(), {}, {}, 3), virt::stand_in_table(), xray::Half::none);
    const xray::Composition& c = (*scan).made_of;
    const xray::Lines& lines = (*scan).lines;
    // the same body lying 30 mm further down and 12 mm aside
    virt::Posture aside;
    aside.centre_mm = 12;
    xray::Map lower = virt::scan(virt::lie_down(somebody(), aside, 660, 1980, 5), virt::stand_in_table(), {}, {}, 4);
    for (xray::Image* image : {&lower.low, &lower.high}) {
        const xray::Image was = *image;
        image->topRows(6).setZero();
        image->bottomRows(image->rows() - 6) = was.topRows(image->rows() - 6);
    }
    const auto other = read_map(lower, virt::stand_in_table(), xray::Half::none);
    ASSERT_GT((*other).lines.neck_mm, lines.neck_mm + 20);
    const auto frame = [](const xray::Scan& s) {
        return xray::frame_of(s.made_of.area, s.lines, s.made_of.dx_mm, s.made_of.dy_mm);
    };
    const xray::Lines carried = xray::carried((*other).lines, frame(*other), frame(*scan));
    for (const xray::Apart& a : xray::apart(c, lines, carried))
        EXPECT_LT(std::abs(a.mm), 6) << xray::row(a.string).id << ": the same rule on the same body";

    for (std::size_t i = 0; i < xray::string_count; ++i) {
        const auto string = static_cast<xray::String>(i);
        const xray::StringRow& r = xray::row(string);
        const xray::Lines moved = xray::moved(lines, string, -1, r.level ? 0 : 15, r.level ? 15 : 0);
        for (const xray::Apart& a : xray::apart(c, moved, lines)) {
            EXPECT_NEAR(a.mm, a.string == string ? 15 : 0, 0.01) << r.id << " by " << xray::row(a.string).id;
            if (a.string != string) EXPECT_NEAR(a.grams, 0, 1e-6);
        }
        // what a millimetre is worth is what the numbers do
        if (string == xray::String::pelvis) continue;
        const xray::Mass per = xray::per_mm(c, lines, string);
        const auto held = [&](double mm) {
            return xray::regions(
                c, xray::moved(lines, string, -1, r.level ? 0 : mm, r.level ? mm : 0))[xray::index(r.region)];
        };
        EXPECT_NEAR(per.lean_g, (held(2).lean_g - held(-2).lean_g) / 4, std::max(4.0, 0.2 * std::abs(per.lean_g)))
            << r.id;
    }

    // lines 15 mm off last time's are said with the result; 5 mm are the same rule
    for (double off : {5.0, 15.0}) {
        Log log = lying();
        Json body = typed_scan(*scan, virt::stand_in_table(), xray::Half::none, 132);
        body.update({{"what", take::scan}, {"source", "file"}, {"file", "a.dcm"}, {"sha256", std::string(64, 'a')}});
        log.must("trial_typed", body);
        log.must("lines",
            stored(event::lines_of(c, xray::moved(lines, xray::String::left_leg, -1, 0, off), "technician", lines)));
        EXPECT_EQ(says(log.visit.result().messages(), "lines_apart"), off > 10) << off;
        EXPECT_EQ(xray_of(log.visit).lines(log.visit)->from_last.size(), xray::string_count);
        // numbers are those of the lines that were drawn
        EXPECT_NE((*log.visit.result())[quantity::region_lean[5]].value, (*scan).regions[5].lean_g / 1000);
    }
    // lines that cross are refused and what stood stays
    Log log = lying();
    Json body = typed_scan(*scan, virt::stand_in_table(), xray::Half::none, 132);
    body.update({{"what", take::scan}, {"source", "file"}, {"file", "a.dcm"}, {"sha256", std::string(64, 'a')}});
    log.must("trial_typed", body);
    Json crossed = stored(event::lines_of(c, lines, "technician", {}));
    crossed["lines"]["pelvis"] = crossed["lines"]["neck"];
    EXPECT_EQ(log.add("lines", crossed)->code, "lines_cross");
    EXPECT_FALSE(xray_of(log.visit).lines(log.visit));
}

TEST(XrayVisit, BoneAndWhatIfs)
{
    Log log = lying({{"bone_reference", {{"mean_kg", 3.2}, {"sd_kg", 0.35}, {"source", "this lab, 2024"}}}});
    Json regions;
    for (std::size_t i = 0; i < xray::part_count; ++i)
        regions[xray::region_rows[i].id] = {{"fat_g", 2800}, {"lean_g", 9600}, {"bmc_g", 400}};
    log.must("trial_typed", {{"what", take::scan}, {"source", "typed"}, {"regions", regions}});
    auto result = log.visit.result();
    EXPECT_NEAR((*result)[quantity::bone_z].value, (2.4 - 3.2) / 0.35, 1e-9);
    EXPECT_TRUE(says(result.messages(), "bone_low"));
    EXPECT_EQ(
        log.add("bone_reference", {{"mean_kg", 2.5}, {"sd_kg", 0.0}, {"source", "nobody"}})->code, "out_of_range");
    EXPECT_EQ(log.add("bone_reference", {{"mean_kg", 2.5}, {"sd_kg", 0.3}, {"source", ""}})->code, "missing_field");
    log.must("bone_reference", {{"mean_kg", 2.5}, {"sd_kg", 0.3}, {"source", "typed off a paper"}});
    result = log.visit.result();
    EXPECT_FALSE(says(result.messages(), "bone_low"));
    const auto ifs = log.visit.what_ifs();
    ASSERT_EQ(ifs.size(), 2u) << "no map, no lines";
    EXPECT_LT(ifs[0].fat_percent_change, 0) << "a litre of water is lean";
    EXPECT_NEAR(ifs[1].change, 0.045, 1e-9);
    Log plain = lying();
    plain.must("trial_typed", {{"what", take::scan}, {"source", "typed"}, {"regions", regions}});
    EXPECT_FALSE(plain.visit.result()->find(quantity::bone_z)) << "no reference, no Z-score";
}

TEST(XrayVisit, FatAroundTheOrgansIsToldFromTheCoat)
{
    double last = -1;
    for (double share : {0.05, 0.12, 0.20}) {
        virt::Posture p;
        p.visceral_share = share;
        const virt::TrueMap truth = virt::lie_down(somebody(22, 62), p, 660, 1980, 5);
        const auto scan =
            read_map(virt::scan(truth, virt::stand_in_table(), {}, {}, 3), virt::stand_in_table(), xray::Half::none);
        const auto v = (*scan).visceral;
        ASSERT_TRUE(v) << share;
        EXPECT_GT(v->mass_g, last) << share;
        EXPECT_NEAR(v->area_cm2, v->mass_g / 0.94 / 9.0, 0.15 * v->area_cm2) << "a band of some nine centimetres";
        last = v->mass_g;
    }
}
