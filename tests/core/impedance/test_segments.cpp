// SPDX-License-Identifier: GPL-3.0-or-later
// Lean and fat by segment, sides held against each other, what-ifs, and what is seen while a client stands there.
#include "core/body/balance.h"
#include "core/impedance/impedance.h"
#include "core/impedance/sweep.h"

#include <gtest/gtest.h>

using namespace fusain;
using namespace fusain::impedance;

namespace {

const std::vector<double> six = {5, 20, 50, 100, 250, 500};
constexpr Arc arcs[] = {
    {300, 222, 0.70, 40}, {308, 228, 0.70, 40}, {24, 17.5, 0.69, 46}, {222, 164, 0.70, 40}, {226, 167, 0.70, 40}};

std::vector<Point> spectrum(const Arc& arc, double more = 1)
{
    std::vector<Point> out;
    for (double f : six) out.push_back({f, more * impedance_of(arc, f).real(), -more * impedance_of(arc, f).imag()});
    return out;
}

Profile profile()
{
    Profile p;
    p.id = "of_the_test";
    constexpr double length[] = {0.332, 0.332, 0.288, 0.491, 0.491}, mass[] = {0.053, 0.053, 0.47, 0.172, 0.172},
                     b[] = {0.25, 0.25, 0.24, 0.30, 0.30};
    for (std::size_t i = 0; i < segment_count; ++i) {
        p.parts[i] = {length[i], 0.1, b[i], 0.1, mass[i]};
        p.expected_male[i] = std::array{0.058, 0.057, 0.455, 0.176, 0.175}[i];
        p.expected_female[i] = std::array{0.047, 0.046, 0.475, 0.173, 0.172}[i];
    }
    p.rest_share_of_fat_free_mass = 0.079;
    p.rest_mass_share = 0.08;
    return p;
}

Input client()
{
    Input in;
    in.sex = Sex::male;
    in.age_y = 30;
    in.height_cm = 178;
    in.mass_kg = 75;
    for (std::size_t i = 0; i < segment_count; ++i) in.segments[i] = spectrum(arcs[i]);
    in.profile = std::make_shared<Profile>(profile());
    return in;
}

bool says(const Messages& messages, const char* code, const std::string& field = {})
{
    for (const Message& m : messages)
        if (m.code == code && (field.empty() || m.field == field)) return true;
    return false;
}

/// A client who stands there for a minute: `at` may change each sweep's points.
template <class At>
SweepState minute(At at, double seconds = 60)
{
    SweepReader reader;
    reader.stands(75.0);
    double t = 0;
    for (long sent = 0; t < seconds; ++sent, t += 0.1) {
        const auto s = static_cast<Segment>(sent / 30 % 5);
        Point p = spectrum(arcs[index(s)])[static_cast<std::size_t>(sent % 6)];
        at(t, s, p);
        reader.add(t, s, p);
        reader.platform(75.0);
    }
    return reader.state();
}

} // namespace

TEST(Segments, EverythingAddsUpToTheBody)
{
    const Input in = client();
    const auto r = compute(in);
    ASSERT_TRUE(r) << r.messages().front().text;
    double lean = (*r)[quantity::rest_lean].value, fat = (*r)[quantity::rest_fat].value;
    for (std::size_t i = 0; i < segment_count; ++i) {
        lean += (*r)[quantity::segment_lean[i]].value;
        fat += (*r)[quantity::segment_fat[i]].value;
    }
    EXPECT_NEAR(lean, (*r)[quantity::fat_free_mass].value, 1e-9);
    EXPECT_NEAR(lean + fat, in.mass_kg, 1e-9);
    EXPECT_DOUBLE_EQ((*r)[quantity::arms_asymmetry].value,
        (*r)[quantity::segment_lean[0]].value - (*r)[quantity::segment_lean[1]].value);
    EXPECT_GT((*r)[quantity::segment_lean[3]].u_model, 0.09) << "the profile's own error stands apart";
    EXPECT_LT((*r)[quantity::legs_asymmetry].u_measurement(), 0.2);
}

TEST(Segments, ExpectedByBothSchools)
{
    Input in = client();
    const double height = (*compute(in))[quantity::segment_expected[0]].value,
                 lean = (*compute(in))[quantity::segment_lean[0]].value;
    EXPECT_NEAR(height, 100 * lean / (0.058 * 18.25 * 1.78 * 1.78), 1e-9);
    in.expected_by = ExpectedBy::mass;
    EXPECT_NEAR((*compute(in))[quantity::segment_expected[0]].value, 100 * lean / (0.058 * 75 * (1 - 0.14)), 1e-9);
    in.age_y = 85; // no range for the age: left out, not guessed
    EXPECT_FALSE(compute(in)->find(quantity::segment_expected[0]));
    in.expected_by = ExpectedBy::height;
    EXPECT_TRUE(compute(in)->find(quantity::segment_expected[0]));
}

TEST(Segments, APoorFitIsSaidAndNothingIsClamped)
{
    Input in = client();
    Profile p = profile();
    for (auto& part : p.parts) part.b_kg_ohm_per_cm2 *= 1.5;
    in.profile = std::make_shared<Profile>(p);
    EXPECT_TRUE(says(compute(in).messages(), "profile_fits_badly", "segments.scale"));
    p = profile();
    p.parts[3].mass_share = 0.05;
    in.profile = std::make_shared<Profile>(p);
    const auto r = compute(in);
    EXPECT_TRUE(says(r.messages(), "profile_fits_badly", "right_leg"));
    EXPECT_LT((*r)[quantity::segment_fat[3]].value, 0);
    p = profile();
    p.rest_mass_share = 0.01;
    in.profile = std::make_shared<Profile>(p);
    EXPECT_TRUE(says(compute(in).messages(), "profile_fits_badly", "rest"));
    in.profile = std::make_shared<Profile>(profile());
    in.segments[4].clear();
    EXPECT_TRUE(says(compute(in).messages(), "no_segments", "impedance.segments.left_leg"));
}

TEST(Segments, AProfileNamesWhatIsWrongInIt)
{
    for (const auto& [field, value, code] : {std::tuple{"segments.trunk.mass_share", 1.4, "out_of_range"},
             {"segments.left_leg.u_kg", -0.1, "out_of_range"}, {"rest_share_of_fat_free_mass", NAN, "out_of_range"},
             {"expected_share_of_fat_free_mass.female.trunk", -1.0, "out_of_range"}}) {
        ProfileFields f = fields_of(profile());
        f.numbers[field] = value;
        EXPECT_TRUE(says(profile_from(f, "p.").messages(), code, std::string("p.") + field)) << field;
        f.numbers.erase(field);
        EXPECT_TRUE(says(profile_from(f, "p.").messages(), "missing_field", std::string("p.") + field)) << field;
    }
    const auto same = profile_from(fields_of(profile()), "");
    ASSERT_TRUE(same);
    EXPECT_EQ(fields_of(*same).numbers, fields_of(profile()).numbers);
}

TEST(Segments, AGapIsHeldAgainstNoiseFirstAndThenAgainstTheHousesLimit)
{
    using Verdict = SideGap::Verdict;
    for (const auto& [left_leg_more, verdict] : {std::pair{1.000, Verdict::within_noise}, {1.045, Verdict::small},
             {1.15, Verdict::flagged}, {0.87, Verdict::flagged}}) {
        Input in = client();
        in.segments[4] = spectrum(arcs[3], left_leg_more);
        const auto r = compute(in);
        ASSERT_TRUE(r);
        const auto gaps = side_gaps(*r, *find_gap_rule("ten_percent"));
        ASSERT_EQ(gaps.size(), 2u);
        EXPECT_STREQ(gaps[1].title, "legs");
        EXPECT_EQ(gaps[1].verdict, verdict) << left_leg_more << ": " << gaps[1].right_less_left_kg << " kg, noise "
                                            << gaps[1].noise_kg << ", limit " << gaps[1].limit_kg;
        EXPECT_EQ(gaps[1].right_less_left_kg > 0, left_leg_more > 1) << "more resistance is less lean";
    }
    Input whole = client();
    whole.profile.reset();
    EXPECT_TRUE(side_gaps(*compute(whole), *find_gap_rule("ten_percent")).empty());
}

TEST(Impedance, WhatIfsHaveTheirDirections)
{
    const auto list = what_ifs(client());
    const std::pair<const char*, int> directions[] = {{"0.5 L drunk", 1}, {"meal", 1}, {"clothes", 1}, {"colder", 1},
        {"stood up", 1}, {"hands 5 cm off", -1}, {"height 1 cm more", -1}};
    for (const auto& [words, direction] : directions) {
        const auto at = std::find_if(
            list.begin(), list.end(), [&, w = words](const WhatIf& i) { return i.title.find(w) != std::string::npos; });
        ASSERT_NE(at, list.end()) << words;
        EXPECT_GT(direction * at->fat_percent_change, 0.05) << words << " " << at->fat_percent_change;
        EXPECT_LT(std::abs(at->fat_percent_change), 6) << words;
    }
}

TEST(Impedance, EveryEquationBesideTheChosenOne)
{
    const Input in = client();
    const auto all = beside(in);
    ASSERT_EQ(all.size(), equations().size());
    for (const Beside& b : all) {
        Input other = in;
        if (b.equation->what == Predicts::fat_free_mass) {
            other.equations.fat_free_mass = b.equation->id;
            EXPECT_DOUBLE_EQ(b.value, (*compute(other))[quantity::fat_free_mass].value);
            EXPECT_DOUBLE_EQ(b.fat_percent, (*compute(other))[quantity::fat_percent].value);
            EXPECT_EQ(b.chosen, in.equations.fat_free_mass == b.equation->id);
        }
        EXPECT_EQ(b.outside_group, in.age_y < b.equation->age_from_y || in.age_y >= b.equation->age_to_y + 1);
    }
}

TEST(Impedance, WhatIsOutOfOrderIsSaid)
{
    Input in = client();
    std::swap(in.segments[0], in.segments[3]);
    EXPECT_TRUE(says(compute(in).messages(), "segments_exchanged", "impedance.segments.right_leg"));
    in = client();
    std::swap(in.segments[0], in.segments[2]);
    EXPECT_TRUE(says(compute(in).messages(), "segments_exchanged", "impedance.segments.trunk"));
    in = client();
    for (auto& s : in.segments)
        for (Point& p : s) p.x_ohm *= 0.1;
    EXPECT_TRUE(says(compute(in).messages(), "phase_unusual"));
    EXPECT_FALSE(says(compute(client()).messages(), "segments_exchanged"));
    EXPECT_FALSE(says(compute(client()).messages(), "phase_unusual"));
}

TEST(Arc, TakesADelayOfTheCablesInOnlyWhenThePointsAskForIt)
{
    for (const double ns : {0.0, 8.0, -6.0}) {
        Arc truth{330, 250, 0.68, 40};
        truth.delay_ns = ns;
        std::vector<Point> points;
        int k = 0;
        for (double f : six) {
            const auto z = impedance_of(truth, f);
            const double noise = ++k % 2 ? 0.02 : -0.02; // of the instrument
            points.push_back({f, z.real() + noise, -z.imag() - noise});
        }
        const auto arc = fit_arc(points);
        ASSERT_TRUE(arc);
        EXPECT_EQ(arc->delay_ns != 0, ns != 0) << arc->delay_ns;
        EXPECT_NEAR(arc->delay_ns, ns, 0.5);
        EXPECT_NEAR(arc->rinf_ohm, truth.rinf_ohm, 0.7);
        EXPECT_NEAR(arc->r0_ohm, truth.r0_ohm, 0.7);
    }
}

TEST(Balance, OfMuscleAndFat)
{
    struct Row {
        Sex sex;
        double age_y, ffmi, fmi;
        const char* id; ///< null: left out
    };
    const Row rows[] = {{Sex::male, 30, 16.0, 1.5, "low_reserve"}, {Sex::male, 30, 19.0, 0.8, "low_fat"},
        {Sex::male, 30, 18.9, 3.0, "muscle_led"},
        {Sex::male, 30, 18.3, 5.1, "balanced"}, // in the upper half, not ahead
        {Sex::male, 30, 17.01, 4.86, "balanced"}, {Sex::male, 30, 18.3, 7.5, "fat_led"},
        {Sex::male, 30, 16.6, 3.6, "fat_led"}, {Sex::male, 30, 24, 5.6, "both_high"},
        {Sex::male, 30, 24, 6.2, "fat_led"}, {Sex::male, 45, 24, 6.2, "both_high"}, // 20.5 %: by the range for the age
        {Sex::male, 45, 24, 7.0, "fat_led"}, {Sex::female, 30, 15.71, 8.19, "balanced"},
        {Sex::female, 30, 16.9, 8.3, "both_high"}, {Sex::female, 30, 18, 14.1, "fat_led"}, // 43.9 %
        {Sex::female, 30, 17, 2.2, "low_fat"}, {Sex::female, 17.9, 15.0, 6.0, nullptr},
        {Sex::female, 18, 15.0, 6.0, "balanced"}};
    for (const Row& row : rows) {
        const auto place = balance::place(row.sex, row.age_y, row.ffmi, row.fmi);
        ASSERT_EQ(place.has_value(), row.id != nullptr) << row.ffmi << ' ' << row.fmi;
        if (row.id) EXPECT_STREQ(balance::id(place->kind), row.id) << row.ffmi << ' ' << row.fmi;
    }
}

TEST(Sweep, SeesWhatIsWrongWhileTheClientStandsThere)
{
    const auto quiet = [](double t, Segment, Point& p) { // the instrument's own noise
        p.r_ohm *= 1 + 0.0006 * std::sin(37.3 * t);
    };
    struct Row {
        const char* what;
        std::function<void(double, Segment, Point&)> at;
        std::optional<Fault> fault;
        std::vector<Segment> where;
    };
    const auto touching = [](Point& p) {
        p.r_ohm *= 0.8 - 0.05 * std::log10(p.f_khz);
        p.x_ohm *= 1.3;
    };
    const Row rows[] = {
        {"nothing", [](double, Segment, Point&) {}, {}, {}},
        {"moves", [](double t, Segment, Point& p) { p.r_ohm *= 1 + 0.02 * std::sin(1.7 * t); }, Fault::moved,
            {all_segments, all_segments + 5}},
        {"a limb rises",
            [](double, Segment s, Point& p) {
                if (s == Segment::left_leg && p.f_khz == 500) p.r_ohm *= 1.2;
            },
            Fault::not_falling, {Segment::left_leg}},
        {"an arm touches",
            [&](double, Segment s, Point& p) {
                if (s == Segment::right_arm) touching(p);
            },
            Fault::limbs_touch, {Segment::right_arm, Segment::trunk}},
        {"thighs touch",
            [&](double, Segment s, Point& p) {
                if (s == Segment::right_leg || s == Segment::left_leg) touching(p);
                if (s == Segment::trunk) p.r_ohm *= 2, p.x_ohm *= 2;
            },
            Fault::limbs_touch, {Segment::right_leg, Segment::left_leg, Segment::trunk}},
        {"one side",
            [](double, Segment s, Point& p) {
                if (s == Segment::left_arm) p.r_ohm *= 1.3, p.x_ohm *= 1.3;
            },
            Fault::sides_differ, {Segment::right_arm, Segment::left_arm}},
        {"stood up just now",
            [](double t, Segment s, Point& p) {
                if (s == Segment::right_leg || s == Segment::left_leg) p.r_ohm *= 1 + 0.03 * std::exp(-t / 180);
            },
            Fault::settling, {Segment::right_leg, Segment::left_leg}},
    };
    for (const Row& row : rows) {
        const SweepState state = minute([&](double t, Segment s, Point& p) {
            quiet(t, s, p);
            row.at(t, s, p);
        });
        if (!row.fault) {
            EXPECT_TRUE(state.findings.empty()) << row.what << ": " << state.findings.front().words;
            continue;
        }
        ASSERT_FALSE(state.findings.empty()) << row.what;
        EXPECT_EQ(state.findings.front().fault, *row.fault) << row.what << ": " << state.findings.front().words;
        EXPECT_EQ(state.findings.front().segments, row.where) << row.what;
    }
}

TEST(Sweep, ContactsAndThePlatformAreJudgedAndAPauseIsNone)
{
    SweepReader reader;
    reader.stands(75.0);
    for (std::size_t e = 0; e < electrode_count; ++e) reader.contact(e, e == 7 ? 6200 : 300);
    auto state = reader.state();
    ASSERT_EQ(state.findings.size(), 1u);
    EXPECT_EQ(state.findings[0].words, "left heel: poor contact (6.2 kΩ)");
    reader.contact(7, 300);
    reader.platform(72.8);
    EXPECT_EQ(reader.state().findings.front().fault, Fault::leaning);
    for (int i = 0; i < 8; ++i) reader.platform(75.0);
    EXPECT_TRUE(reader.state().findings.empty()) << "forgotten once it is over";
    reader.platform(2.0);
    EXPECT_EQ(reader.state().findings.front().fault, Fault::stepped_off);
    reader.platform(75.0);
    // ten seconds away: not counted as measuring
    reader.add(20, Segment::trunk, {50, 21, 2});
    reader.add(21, Segment::trunk, {50, 21, 2});
    reader.add(31, Segment::trunk, {50, 21, 2});
    reader.add(31.5, Segment::trunk, {50, 21, 2});
    EXPECT_DOUBLE_EQ(reader.state().seconds, 1.5);
}

TEST(Sweep, WhatIsPutRightWhileItRunsCostsNothing)
{
    const auto course = [](double until_s, bool lean) {
        SweepReader reader;
        reader.stands(75.0);
        double t = 0;
        for (long sent = 0; t < 60; ++sent, t += 0.1) {
            // the heel lifts in the middle of its leg, and the contact is told a second after that turn
            const bool bad = t >= (lean ? 0 : 13) && t < until_s;
            if (sent % 40 == 0) reader.contact(7, bad && !lean ? 6000 : 300); // the left heel, every four seconds
            if (sent % 3 == 0) reader.platform(bad && lean ? 73.5 : 75.0);
            const auto s = static_cast<Segment>(sent / 30 % 5);
            Point p = spectrum(arcs[index(s)])[static_cast<std::size_t>(sent % 6)];
            if (bad && (lean || s == Segment::left_leg)) p.r_ohm *= 1.05, p.x_ohm *= 1.05;
            reader.add(t, s, p);
        }
        return reader.state();
    };
    for (const bool lean : {false, true}) {
        const SweepState mended = course(20, lean);
        EXPECT_TRUE(mended.findings.empty()) << mended.findings.front().words;
        const auto& leg = mended.segments[index(Segment::left_leg)];
        EXPECT_NEAR(leg.points[2].r_ohm, spectrum(arcs[4])[2].r_ohm, 1e-9) << "nothing of the bad time is in it";
        EXPECT_GE(leg.sweeps, clean_sweeps);
        const SweepState late = course(59, lean);
        ASSERT_FALSE(late.findings.empty());
        EXPECT_EQ(late.findings[0].fault, lean ? Fault::leaning : Fault::poor_contact);
        EXPECT_NE(std::count(late.findings[0].segments.begin(), late.findings[0].segments.end(), Segment::left_leg), 0);
    }
}

TEST(Sweep, APointNoBodyHasIsMeasuredAgain)
{
    const SweepState state = minute([](double, Segment s, Point& p) {
        if (s == Segment::right_leg) p.x_ohm -= 12; // cables crossed: reactance under nothing at the ends
    });
    ASSERT_FALSE(state.findings.empty());
    EXPECT_EQ(state.findings[0].fault, Fault::not_an_arc);
    EXPECT_EQ(state.findings[0].segments, std::vector{Segment::right_leg});
    // an arc, falling, all in proportion, and yet no body: arms of 1 800 Ω
    const SweepState large = minute([](double, Segment, Point& p) {
        p.r_ohm *= 6;
        p.x_ohm *= 6;
    });
    const auto arms = std::find_if(
        large.findings.begin(), large.findings.end(), [](const Finding& f) { return f.fault == Fault::not_an_arc; });
    ASSERT_NE(arms, large.findings.end());
    EXPECT_EQ(arms->segments, (std::vector{Segment::right_arm, Segment::left_arm}));
}
